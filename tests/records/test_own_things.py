"""A class's own things: a material, a word and a caution of its own are used like the shipped ones."""

from __future__ import annotations

import json

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.conftest import Crew
from thermion.core.kinds import all_kinds
from thermion.core.physics.materials import FORMS, MATERIALS, like_by_name, like_of, own_key
from thermion.core.plans import Offer, Part, Plan
from thermion.formats.exchange import export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.records.building import builds, kit, store
from thermion.records.errors import Refused
from thermion.records.planning import briefs, own
from thermion.records.planning.classes import get_class
from thermion.records.tables import OwnWord

LETTERS = st.text(st.characters(exclude_categories=("C", "Z")), min_size=1, max_size=24)


@given(LETTERS, LETTERS, st.sampled_from(sorted(MATERIALS)))
def test_a_key_says_all_there_is_to_know_of_a_material(name, unit, like):
    key = own_key(name, unit, like)
    assert key.isascii()
    assert key in MATERIALS
    mine = MATERIALS[key]
    assert (mine.name, mine.unit, like_of(key)) == (name, unit, like)
    assert mine.resistance_m2k_w == MATERIALS[like].resistance_m2k_w


@given(st.text(max_size=60))
def test_no_other_text_is_a_material(text):
    assume(text not in MATERIALS.shipped)  # Hypothesis finds their keys in the source
    assert text not in MATERIALS or own_key(MATERIALS[text].name, MATERIALS[text].unit, like_of(text)) == text


def test_a_build_of_the_classs_own_material_is_drawn_simulated_and_asked_about_like_the_known_one():
    for kind in all_kinds().values():
        rig = {c.key: c.si("default") for c in kind.brief.settings(kind.brief.default_choices())}
        plan = kind.build.example()
        ours = tuple(
            Part(place=p.place, material=own_key("Old map", "sheet", p.material), form=p.form, units=p.units)
            for p in plan.parts
        )
        mine = Plan(ours, plan.factors)
        assert [s.tone for s in kind.build.draw(mine, rig).shapes] == [
            s.tone for s in kind.build.draw(plan, rig).shapes
        ]
        assert kind.build.hints(mine) == kind.build.hints(plan)
        assert all(p.form in FORMS for p in ours)


@pytest.mark.parametrize(
    ("name", "like"),
    [("Bubble wrap, used", "bubble_wrap"), ("Old card maps", "card"), ("Fishing net", None), ("Paper", None)],
)
def test_what_a_material_is_like_is_taken_from_its_name_only_where_that_tells(name, like):
    assert like_by_name(name) == like


def offer_own(crew: Crew, name: str = "Old map", like: str = "newspaper") -> str:
    with crew.database.writing() as session:
        made = own.add_material(session, crew.class_id, name, "sheet", like, points=2)
        challenge = briefs.get_challenge(session, crew.challenge_id)
        offers = [*briefs.brief_of(challenge).offers, Offer(made.key, 4, 2)]
        briefs.save_offers(session, challenge, offers)
        return made.key


def ours(crew: Crew, class_id: int = 1) -> list[str]:
    with crew.database.session() as session:
        return [MATERIALS[m.key].name for m in own.own_materials(session, class_id)]


def test_an_own_material_goes_from_brief_through_plan_limits_kit_and_store_and_is_let_go_of_after_use(crew):
    key = offer_own(crew)
    version = crew.plan(
        "Avocet",
        Plan(
            (
                Part(place="wall", material=key, form="crumpled", units=3),
                Part(place="window", material="cling_film", form="flat", units=2),
            )
        ),
    )
    with pytest.raises(Refused, match="Old map: 9 used, the limit is 4"):
        crew.plan("Dunlin", Plan((Part(place="wall", material=key, form="crumpled", units=9),)))
    with crew.database.writing() as session:
        store.count_stock(session, crew.class_id, key, 20)
        found = {s.material: s.there for s in store.shelves(session, crew.class_id, {})}
        assert found[key] == 20
        challenge = briefs.get_challenge(session, crew.challenge_id)
        listed = kit.kit_of(session, challenge.school_class, [challenge])
        assert "Old map" in {line.line.item for line in listed.lines}
        own.forget_material(session, crew.class_id, key)
    assert ours(crew) == []
    with crew.database.session() as session:  # what was built stays as it was
        plan = builds.plan_of(builds.get_version(session, version))
        assert MATERIALS[plan.parts[0].material].name == "Old map"


@pytest.mark.parametrize(
    ("name", "unit", "like", "field"),
    [
        ("  ", "sheet", "foil", "own_name"),
        ("x" * 41, "sheet", "foil", "own_name"),
        ("Aluminium foil", "sheet", "foil", "own_name"),
        ("Old map", "y" * 30, "foil", "own_unit"),
        ("Old map", "sheet", "moon dust", "own_like"),
    ],
)
def test_a_material_that_cannot_be_is_refused_at_its_field(crew, name, unit, like, field):
    with pytest.raises(Refused) as refused, crew.database.writing() as session:
        own.add_material(session, crew.class_id, name, unit, like)
    assert refused.value.field == field
    assert ours(crew) == []


def test_one_of_the_same_name_is_there_once(crew):
    assert offer_own(crew) == MATERIALS[offer_own_again(crew)].key
    assert ours(crew) == ["Old map"]


def offer_own_again(crew: Crew) -> str:
    with crew.database.writing() as session:
        return own.add_material(session, crew.class_id, "old  MAP", "piece", "foil").key


def test_own_things_travel_in_the_challenge_file_and_words_find_their_attempts_again(crew):
    key = offer_own(crew)
    crew.plan(
        "Avocet",
        Plan(
            (
                Part(place="wall", material=key, form="flat", units=2),
                Part(place="window", material="cling_film", form="flat", units=2),
            )
        ),
    )
    with crew.database.writing() as session:
        for filler in ("one", "two"):  # the class that opens the file gives its words other numbers
            own.add_word(session, crew.class_id, "wind_hoist", filler)
        own.add_word(session, crew.class_id, "solar_oven", "steam on the window", "Where does the water go?")
        own.add_caution(session, crew.class_id, "The hatch stays shut.")
        briefs.acknowledge_cautions(briefs.get_challenge(session, crew.challenge_id))
        text = export_challenge(session, crew.challenge_id)
    with crew.database.writing() as session:
        made = import_challenge(session, read_file(text.encode()), "token")
        session.flush()
        class_id = made.class_id
        assert made.cautions_seen_at is not None
        seen = {o.seen: o.ask for o in briefs.brief_of(made).kind.test.observations}
        assert seen["steam on the window"] == "Where does the water go?"
        assert [c.text for c in own.own_cautions(session, class_id)] == ["The hatch stays shut."]
    assert ours(crew, class_id) == ["Old map"]
    broken = json.loads(text)
    broken["challenge"]["offers"][-1]["material"] = "moon~sheet~Dust"
    with pytest.raises(Refused, match="does not know the material"):
        read_file(json.dumps(broken).encode())


def test_a_word_that_is_let_go_of_is_still_said_where_it_was_noted(crew):
    with crew.database.writing() as session:
        word = own.add_word(session, crew.class_id, "solar_oven", "steam", "").word
        own.forget_word(session, crew.class_id, word)
        again = get_class(session, crew.class_id)
        (kept,) = [
            o
            for o in briefs.with_own_words(all_kinds()["solar_oven"], again).test.observations
            if o.key == word
        ]
        assert (kept.seen, kept.offered) == ("steam", False)
        assert own.add_word(session, crew.class_id, "solar_oven", "STEAM").word == word  # offered again
        assert session.query(OwnWord).one().gone_at is None


def test_a_new_caution_of_the_room_is_read_before_the_next_run(crew):
    with crew.database.writing() as session:
        own.add_caution(session, crew.class_id, "The hatch stays shut.")
    with pytest.raises(Refused, match="safety cautions"):
        crew.run(crew.plan("Avocet"))
