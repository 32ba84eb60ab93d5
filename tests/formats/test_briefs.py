"""A brief again and elsewhere: in other classes, on the shelf, and in next year's class."""

from __future__ import annotations

import pytest
from sqlalchemy import func, select

from tests.conftest import Crew
from thermion.core.kinds.briefing import Term
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Offer
from thermion.formats import briefs as again
from thermion.records.building import kit
from thermion.records.errors import Gone, Refused
from thermion.records.planning import briefs, own, week
from thermion.records.planning.classes import TeamInput, get_class, list_classes, save_class
from thermion.records.running import runs
from thermion.records.tables import Build, Challenge, KitItem, Run, StepRow


@pytest.fixture
def tried(crew: Crew) -> Crew:
    """A challenge with a step of its own length, a pack, an own material, builds and a run."""
    crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        made = own.add_material(session, crew.class_id, "Old card maps", "sheet", "")
        briefs.save_offers(session, challenge, [*briefs.brief_of(challenge).offers, Offer(made.key, 4, 2)])
        week.save_step(session, crew.challenge_id, "build", length_s=2400, not_before=2)
        kit.save_item(session, crew.class_id, "Newspaper", pack=20, pack_cost=3)
        own.add_word(session, crew.class_id, "solar_oven", "steam")
        own.add_caution(session, crew.class_id, "The hatch stays shut.")
    return crew


def other(crew: Crew, name: str, temp_unit: str = "degC") -> int:
    with crew.database.writing() as session:
        made = save_class(
            session,
            name=name,
            temp_unit=temp_unit,
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name="Knot")],
        )
        return made.id


def test_a_brief_goes_to_three_classes_at_once_without_what_was_built_there(tried):
    ids = [other(tried, name) for name in ("Supply crew", "Signal crew", "Night crew")]
    with tried.database.writing() as session:
        again.copy_to(session, tried.challenge_id, ids)
    with tried.database.session() as session:
        first = briefs.get_challenge(session, tried.challenge_id)
        for class_id in ids:
            copy_id = session.scalar(select(Challenge.id).where(Challenge.class_id == class_id))
            copy = briefs.get_challenge(session, copy_id)
            brief, was = briefs.brief_of(copy), briefs.brief_of(first)
            assert (brief.offers, brief.marks, brief.values) == (was.offers, was.marks, was.values)
            assert copy.lineage == first.lineage
            assert (copy.brief_done_at is not None, copy.cautions_seen_at) == (True, None)
            step = session.scalars(select(StepRow).where(StepRow.challenge_id == copy_id)).one()
            assert (step.length_s, step.not_before) == (2400, 0)
            assert session.scalars(select(KitItem.pack).where(KitItem.class_id == class_id)).one() == 20
            assert [MATERIALS[m.key].name for m in own.own_materials(session, class_id)] == ["Old card maps"]
            assert "steam" in {o.seen for o in brief.kind.test.observations}
        assert session.scalar(select(func.count(Build.id))) == 2
        assert session.scalar(select(func.count(Run.id))) == 1


def test_into_a_class_with_other_units_the_rule_follows_and_a_rule_of_ones_own_is_pointed_out(tried):
    far = other(tried, "Supply crew", "degF")
    with tried.database.writing() as session:
        (copied,) = again.copy_to(session, tried.challenge_id, [far])
        assert copied.look_at == ()
        assert {t.unit for t in briefs.brief_of(copied.challenge).rule} == {"degF"}
        briefs.save_rule(
            briefs.get_challenge(session, tried.challenge_id),
            [Term(metric="peak", unit="degC", weight=1.0)],
            "own",
        )
    with tried.database.writing() as session:
        (copied,) = again.copy_to(session, tried.challenge_id, [far])
        (line,) = copied.look_at
        assert "counts in °C" in line
        assert "reads °F" in line


def test_a_shelf_keeps_the_newest_of_a_lineage_and_gives_it_to_any_class(tried):
    with tried.database.writing() as session:
        again.keep_on_shelf(session, tried.challenge_id)
        briefs.get_challenge(session, tried.challenge_id).title = "Keeper's late supper"
        again.keep_on_shelf(session, tried.challenge_id)
        (kept,) = again.shelf(session)
        assert kept.title == "Keeper's late supper"
        shelf_id = kept.id
        briefs.delete_challenge(session, briefs.get_challenge(session, tried.challenge_id))
    far = other(tried, "Supply crew")
    with tried.database.writing() as session:
        made = again.take_from_shelf(session, shelf_id, get_class(session, far)).challenge
        assert made.title == "Keeper's late supper"
        again.take_off_shelf(session, shelf_id)
        with pytest.raises(Gone):
            again.take_from_shelf(session, shelf_id, get_class(session, far))


def test_next_years_class_begins_with_last_years_briefs_and_nothing_that_was_done(tried):
    with tried.database.writing() as session:
        made = again.next_year(session, tried.class_id)
        assert made.name == "Relief crew (2)"
        assert [t.name for t in made.teams] == ["Avocet", "Dunlin", "Godwit"]
        assert [c.title for c in made.challenges] == ["Keeper's supper"]
        assert week.lessons_of(session, made.id) == []
        assert [c.text for c in own.own_cautions(session, made.id)] == ["The hatch stays shut."]
        with pytest.raises(Refused):  # nothing is tested before its cautions were read there
            runs.create_run(session, made.challenges[0], version_ids=[], conditions={})
    with tried.database.session() as session:
        assert len(list_classes(session)) == 2
        assert session.scalar(select(func.count(Run.id))) == 1
