"""What a class wants to see on the board at each step, for every family and age."""

from __future__ import annotations

from datetime import timedelta
from html import unescape

import pytest
from sqlalchemy import select

from tests.web.conftest import flat
from thermion.core.ages import AGES
from thermion.core.kinds import get_kind
from thermion.core.physics.materials import MATERIALS
from thermion.records import moments
from thermion.records.planning import briefs
from thermion.records.planning.own import cautions_of
from thermion.records.tables import Challenge, Conducted, Run
from thermion.web import create_app

FAMILIES = ("solar_oven", "sail_run", "wind_hoist", "keep_temp", "melt_pair", "heat_through", "rain_catch")
STEPS = (("task", "tell"), ("ideas", "silent"), ("plan", "draw"), ("build", "build"), ("findings", "read"))


@pytest.fixture(scope="module")
def week(demo_copy):
    made = create_app({"DATA": demo_copy(), "TESTING": True, "WTF_CSRF_ENABLED": False})
    yield made
    made.extensions["thermion"].close()


def board(app, challenge_id: int, phase: str, act: str) -> str:
    """The class's board while this act is on."""
    with app.extensions["thermion"].writing() as session:
        now = moments.now()
        for row in session.scalars(select(Conducted).where(Conducted.ended_at.is_(None))):
            row.ended_at = now
        class_id = session.get_one(Challenge, challenge_id).class_id
        more = {"planned_s": 600.0, "allowed_s": 600.0, "stood_s": 0.0, "changes": 0, "says": ""}
        session.add(
            Conducted(
                class_id=class_id, challenge_id=challenge_id, phase=phase, act=act, started_at=now, **more
            )
        )
    return unescape(flat(app.test_client().get(f"/board/classes/{class_id}")))


@pytest.mark.parametrize("kind", FAMILIES)
def test_the_board_shows_rules_dangers_materials_limits_and_what_may_change(week, kind):
    age = AGES[FAMILIES.index(kind) % len(AGES)]
    with week.extensions["thermion"].writing() as session:
        asked = select(Challenge).where(Challenge.class_id == 1, Challenge.kind == kind)
        challenge = briefs.get_challenge(session, session.scalars(asked.order_by(Challenge.id)).first().id)
        challenge.age_band = age
        session.flush()
        brief, number = briefs.brief_of(challenge), challenge.id
        success, danger = challenge.success, cautions_of(session, challenge, brief)[0].text
        offers = [(MATERIALS[o.material].name, o.limit) for o in brief.offers]
    task = board(week, number, "task", "tell")
    assert success in task
    assert danger in task
    ideas, plan = board(week, number, "ideas", "silent"), board(week, number, "plan", "draw")
    assert "obody talks" in ideas or "n silence" in ideas
    for name, limit in offers[:12]:
        assert f"<span>{name}</span>" in ideas
        shown = "" if limit is None else f' <b class="num">{limit:g}</b>'
        assert f"<span>{name}</span>{shown} </li>" in plan
    assert "predict" in plan or "guess" in plan
    building = board(week, number, "build", "build")
    assert any(
        trick in building
        for trick in get_kind(kind).test.bench.techniques_for(get_kind(kind).brief.default_choices())
    )
    change = board(week, number, "change", "think")
    assert all(place.label in change for place in brief.kind.build.places[:3])
    assert "why this one" in change


def test_results_stand_there_without_places_and_a_test_that_is_on_is_seen_beside_every_step(week):
    with week.extensions["thermion"].writing() as session:
        going = session.get_one(Run, 4)
        title, when = going.challenge.title, going.phases[-1].started_at
        assert when > moments.now() - timedelta(hours=6)
    for phase, act in STEPS:
        page = board(week, 1, phase, act)
        assert f'{title} <span class="clock" data-since=' in page
        assert "next mark: minute" in page
    assert "Readings in this run" in page
    assert "1st" not in page


def test_nothing_of_a_challenge_that_was_not_tested_stands_at_findings(week):
    with week.extensions["thermion"].session() as session:
        tested = select(Run.challenge_id).where(Run.rehearsal.is_(False))
        number = session.scalars(
            select(Challenge.id).where(Challenge.class_id == 1, Challenge.id.not_in(tested))
        ).first()
    assert "<figure" not in board(week, number, "findings", "read")
