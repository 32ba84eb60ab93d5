"""What could hurt someone is limited by the age: by default, in the brief, on the dial, and at a run."""

from __future__ import annotations

import pytest

from thermion.core.ages import AGES
from thermion.core.kinds import all_kinds, get_kind
from thermion.core.planning.difficulty import STEPS, guarded, usual_setup
from thermion.records.errors import Refused
from thermion.records.planning import briefs, difficulty
from thermion.records.running import runs

# The most that a hand may meet, by the caution of each family; the least for a lamp [stored units].
HOT = {"keep_temp": "drink_c", "heat_through": "source_c"}


@pytest.mark.parametrize("step", STEPS)
@pytest.mark.parametrize("kind", all_kinds().values(), ids=lambda kind: kind.key)
def test_every_default_keeps_to_the_limits_of_its_age_and_an_older_age_is_allowed_no_less(crew, kind, step):
    with crew.database.writing() as session:
        made = briefs.create_challenge(
            session, briefs.get_challenge(session, 1).school_class, kind.key, "New", step
        )
        brief = briefs.brief_of(made)
        for condition in guarded(kind):
            limited = condition.at_age(made.age_band)
            assert limited.si("low") <= brief.values[condition.key] <= limited.si("high"), condition.key
    for condition in guarded(kind):
        reach = [condition.at_age(age) for age in AGES]
        room = [c.si("high") - c.si("low") for c in reach]
        assert room == sorted(room), condition.key
        assert usual_setup(kind, step).rig[condition.key] is not None


@pytest.mark.parametrize("family", HOT)
def test_the_youngest_meet_nothing_hotter_than_45_degrees(crew, family):
    condition = get_kind(family).brief.setting(HOT[family]).at_age("6-8")
    assert condition.high == 45
    assert "45 °C or less at ages 6 to 8" in condition.hint


def test_too_hot_a_drink_is_refused_in_the_brief_on_the_dial_and_at_the_run(crew):
    with crew.database.writing() as session:
        school_class = briefs.get_challenge(session, 1).school_class
        made = briefs.create_challenge(session, school_class, "keep_temp", "Cocoa", "6-8")
        briefs.save_settings(made, {}, {"measure": "temp"})
        briefs.acknowledge_cautions(made)
        assert briefs.brief_of(made).values["drink_c"] == 45
        with pytest.raises(Refused, match=r"Drink at the start: at most 45\.0 °C at ages 6 to 8"):
            briefs.save_settings(made, {"drink_c": (60.0, 2.0)}, {})
        with pytest.raises(Refused, match=r"at most 45\.0 °C"):
            runs.create_run(session, made, version_ids=[1], conditions={"drink_c": 60.0})
        difficulty.turn(session, made, briefs.brief_of(made), "13-16")
        briefs.save_settings(made, {"drink_c": (58.0, 2.0)}, {})
        difficulty.turn(session, made, briefs.brief_of(made), "6-8")
        assert briefs.brief_of(made).values["drink_c"] == 45
