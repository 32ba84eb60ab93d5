"""A teacher's own ways: what the last challenge was given is what the next one begins with."""

from __future__ import annotations

from dataclasses import replace

import pytest

from tests.web.conftest import flat
from thermion.core.kinds import all_kinds
from thermion.core.kinds.briefing import Term
from thermion.records.planning import briefs
from thermion.records.planning.marks import save_marks
from thermion.records.planning.week import save_timing, timing_of
from thermion.records.tables import Challenge

NEW = "/classes/1/challenges/new"


def made(crew, client, kind: str, *, alike: bool = True, age: str = "9-12") -> tuple[briefs.Brief, str]:
    """A new challenge as the page makes it; its brief, and what was said."""
    sent = {"kind": kind, "title": "", "age_band": age} | ({"alike": "y"} if alike else {})
    answer = client.post(NEW, data=sent)
    page = flat(client.get(answer.location))
    with crew.database.session() as session:
        newest = session.query(Challenge).order_by(Challenge.id.desc()).first()
        return briefs.brief_of(briefs.get_challenge(session, newest.id)), page


def own_ways(crew) -> None:
    """An oven read with a coarse thermometer, scored for the environment, with marks of its own and three readers."""
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        briefs.use_school(challenge, "green")
        briefs.save_settings(challenge, {"step_thermometer": (1.0, 0.0), "air_c": (31.0, 1.0)}, {})
        save_marks(session, challenge, {"heating": (0.0, 240.0, 480.0)})
        now = timing_of(session, challenge, briefs.brief_of(challenge))
        save_timing(session, challenge.id, replace(now, readers=3))


def test_the_next_oven_is_scored_read_and_staffed_like_the_last_but_its_room_is_not_taken_as_measured(
    crew, client
):
    own_ways(crew)
    brief, page = made(crew, client, "solar_oven")
    assert "As in Keeper&#39;s supper: instruments, marks, score, stations and readers." in page
    assert (brief.school, brief.marks["heating"], brief.values["step_thermometer"]) == (
        "green",
        (0.0, 240.0, 480.0),
        1.0,
    )
    assert brief.values["air_c"] != 31.0
    usual, page = made(crew, client, "solar_oven", alike=False)
    assert usual.school != "green"
    assert "As in" not in page


def test_another_family_takes_what_both_have(crew, client):
    own_ways(crew)
    brief, page = made(crew, client, "keep_temp")
    assert "As in Keeper&#39;s supper: " in page
    assert brief.values["step_thermometer"] == 1.0
    assert len(brief.marks) > 0  # its own


def test_an_age_that_is_not_the_same_keeps_its_own_marks(crew, client):
    own_ways(crew)
    brief, _ = made(crew, client, "solar_oven", age="6-8")
    assert brief.marks["heating"] != (0.0, 240.0, 480.0)


@pytest.mark.parametrize("key", sorted(all_kinds()))
def test_after_any_family_any_other_can_be_begun_and_judged(crew, client, key):
    """Own rules and schools of one family never reach one that cannot work them out."""
    brief, _ = made(crew, client, key)
    with crew.database.writing() as session:
        newest = session.query(Challenge).order_by(Challenge.id.desc()).first()
        metric = next(m for m in brief.kind.analysis.metrics if m.unit not in ("degC", "delta_degC"))
        briefs.save_rule(newest, [Term(metric=metric.key, unit=metric.unit, weight=1.0)])
    for other in sorted(all_kinds()):
        found, _ = made(crew, client, other)
        assert (found.school == "own") == (other == key)
        own_metrics = {m.key for m in found.kind.analysis.metrics}
        assert {t.metric for t in found.rule} <= own_metrics
        with crew.database.writing() as session:  # the one that every other follows stays the newest
            session.delete(session.query(Challenge).order_by(Challenge.id.desc()).first())
