"""The brief: usable as it is made, changed in sections, protected once it has been used."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import NOON, Crew
from thermion.core.kinds.briefing import Term
from thermion.core.plans import Offer
from thermion.records.building import builds
from thermion.records.database import Database
from thermion.records.errors import Gone, Refused
from thermion.records.judging.how_far import paths
from thermion.records.planning import briefs
from thermion.records.planning.classes import TeamInput, computer_zone, get_class, save_class
from thermion.records.planning.difficulty import turn
from thermion.records.planning.marks import save_marks


def challenge_in(crew: Crew, session):
    return briefs.get_challenge(session, crew.challenge_id)


def test_a_new_challenge_could_run_as_it_is(crew: Crew):
    with crew.database.session() as session:
        brief = briefs.brief_of(challenge_in(crew, session))
    assert brief.marks["heating"] == (0, 300, 600, 900, 1200, 1500, 1800)
    assert brief.values["aperture_m2"] == pytest.approx(0.09)
    assert brief.values["load_kg"] == pytest.approx(0.15)
    assert brief.tolerance["start_c"] == pytest.approx(2)
    assert "lamp_m" not in brief.tolerance
    assert [t.metric for t in brief.rule] == ["peak"]
    assert {o.material for o in brief.offers} >= {"foil", "newspaper", "tape"}


def test_in_a_fahrenheit_class_the_defaults_and_the_rule_are_fahrenheit(database: Database):
    crew = Crew(database, "degF")
    with database.session() as session:
        brief = briefs.brief_of(challenge_in(crew, session))
        assert brief.setting.show(brief.values["level_c"], "degC", 0) == "122 °F"
        assert brief.rule == (Term(metric="peak", unit="degF"),)
        assert brief.rule_of("green")[0].unit == "delta_degF"


def test_marks_change_until_a_run_was_made_with_them(crew: Crew):
    with crew.database.writing() as session:
        save_marks(session, challenge_in(crew, session), {"heating": [0, 120, 240]})
    with crew.database.writing() as session:
        challenge = challenge_in(crew, session)
        assert briefs.brief_of(challenge).marks["heating"] == (0, 120, 240)
        with pytest.raises(Refused, match="first reading is at minute 0"):
            save_marks(session, challenge, {"heating": [60, 120]})
    crew.run(crew.plan("Avocet"))
    with crew.database.writing() as session:
        challenge = challenge_in(crew, session)
        save_marks(session, challenge, {"heating": [0, 120, 240]})  # the same: fine
        with pytest.raises(Refused, match="they stay"):
            save_marks(session, challenge, {"heating": [0, 60]})


@pytest.mark.parametrize(
    ("offers", "says"),
    [
        ([Offer("foil", -1, 5)], "less than one build needs"),
        ([Offer("foil", 1, -5)], "below zero"),
        ([Offer("foil", 1, 5), Offer("foil", 2, 5)], "already"),
        ([Offer("gold", 1, 5)], "already"),
    ],
)
def test_offers_that_make_no_sense_are_refused(crew: Crew, offers, says):
    with pytest.raises(Refused, match=says), crew.database.writing() as session:
        briefs.save_offers(session, challenge_in(crew, session), offers)


def test_a_rule_is_stored_only_if_it_can_be_worked_out(crew: Crew):
    with crew.database.writing() as session:
        challenge = challenge_in(crew, session)
        briefs.save_rule(
            challenge,
            [Term(metric="peak", unit="degC", weight=2), Term(metric="units", unit="count", weight=-3)],
        )
        assert challenge.school == "own"
        for bad in ([], [Term(metric="speed", unit="degC")], [Term(metric="peak", unit="minute")]):
            with pytest.raises(Refused):
                briefs.save_rule(challenge, bad)


def test_another_heat_source_brings_other_conditions_and_cautions(crew: Crew):
    with crew.database.writing() as session:
        challenge = challenge_in(crew, session)
        before = briefs.brief_of(challenge)
        briefs.save_settings(challenge, {"lamp_m": (0.4, 0.02)}, {"heat_source": "lamp"})
        session.flush()
        after = briefs.brief_of(challenge)
    assert "sun_deg" in before.rig()
    assert (after.rig()["lamp_m"], after.tolerance["lamp_m"]) == (0.4, 0.02)
    assert "sun_deg" not in after.rig()
    sun, lamp = ({c.text for c in b.kind.brief.cautions_for(b.choices)} for b in (before, after))
    assert any("Never look at the sun" in text for text in sun - lamp)
    assert any("lamp is hot" in text for text in lamp - sun)


def test_a_class_keeps_letters_apart_and_teams_with_builds(crew: Crew):
    crew.plan("Avocet")
    with crew.database.writing() as session:
        made = get_class(session, crew.class_id)
        swapped = [
            TeamInput(name="Dunlin", id=crew.teams["Dunlin"], letter="A"),
            TeamInput(name="Avocet", id=crew.teams["Avocet"], letter="D"),
            TeamInput(name="Aurora"),
        ]
        saved = save_class(
            session,
            name="Crew",
            temp_unit="degC",
            decimal="comma",
            zone="UTC",
            teams=swapped,
            class_id=made.id,
        )
        session.refresh(saved, ["teams"])
        assert [(t.name, t.letter) for t in saved.teams] == [
            ("Dunlin", "A"),
            ("Avocet", "D"),
            ("Aurora", "U"),
        ]


@pytest.mark.parametrize(
    ("name", "teams", "field"),
    [
        ("", ["Avocet"], "name"),
        ("Crew", [], "teams"),
        ("Crew", ["  "], "teams"),
        ("Crew", ["Knot", "knot "], "teams-1"),
        ("Crew", [f"T{i}" for i in range(40)], "teams"),
    ],
)
def test_a_class_without_name_or_teams_is_refused_at_the_field(database, name, teams, field):
    with pytest.raises(Refused) as refused, database.writing() as session:
        save_class(
            session,
            name=name,
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[TeamInput(name=t) for t in teams],
        )
    assert refused.value.field == field


def test_the_path_follows_what_was_done(crew: Crew):
    def now():
        with crew.database.session() as session:
            challenge = challenge_in(crew, session)
            return paths(session, [challenge], NOON + timedelta(minutes=2))[challenge.id]

    assert now().next_step == "3 teams still planning"
    version = crew.plan("Avocet", until="waiting")
    assert now().next_step == "1 plan waits for your check"
    crew.plan("Dunlin")
    crew.plan("Godwit")
    with crew.database.writing() as session:
        item = builds.get_version(session, version)
        builds.sign(item, briefs.brief_of(item.build.challenge))
        builds.issue(item)
    assert now().next_step == "Test 3 builds"
    crew.run(version)
    assert (now().words["runs"], now().next_step) == ("clock running", "Read the next mark")


@pytest.mark.parametrize(("said", "zone"), [("Pacific/Auckland", "Pacific/Auckland"), ("Moon/Base", "UTC")])
def test_a_class_begins_with_the_zone_of_its_computer_if_that_is_one(monkeypatch, said, zone):
    monkeypatch.setattr("tzlocal.get_localzone_name", lambda: said)
    assert computer_zone() == zone


def test_a_challenge_that_is_gone_says_so(crew: Crew):
    with crew.database.writing() as session:
        briefs.delete_challenge(session, challenge_in(crew, session))
    with pytest.raises(Gone), crew.database.session() as session:
        challenge_in(crew, session)


def turn_to(crew: Crew, step: str) -> None:
    with crew.database.writing() as session:
        challenge = challenge_in(crew, session)
        turn(session, challenge, briefs.brief_of(challenge), step)


def test_the_dial_is_turned_at_once_and_not_over_a_run(database):
    crew = Crew(database)
    with database.writing() as session:
        challenge_in(crew, session).story = "Ours."
    turn_to(crew, "7-10")
    with database.session() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        assert (challenge.dial, challenge.age_band, challenge.story) == ("7-10", "6-8", "Ours.")
        assert challenge.cautions_seen_at is None  # they are read anew, in other words
        assert [len(m) for m in briefs.brief_of(challenge).marks.values()] == [6, 4]
    with database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        briefs.acknowledge_cautions(challenge)
    crew.run(crew.plan("Avocet"))
    with pytest.raises(Refused, match="these marks"):
        turn_to(crew, "13-16")
    with database.session() as session:
        assert briefs.get_challenge(session, crew.challenge_id).dial == "7-10"  # all of it or nothing
    with pytest.raises(Refused, match="no such step"):
        turn_to(crew, "3-5")
