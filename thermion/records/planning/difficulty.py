"""The dial of a challenge: where it stands, what it would change, and turning it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from sqlalchemy.orm import Session

from thermion.core.kinds import get_kind
from thermion.core.planning.difficulty import STEPS, Setup, guarded, turned, usual_setup
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, use_school
from thermion.records.planning.marks import save_marks
from thermion.records.planning.week import save_timing, timing_of
from thermion.records.tables import Challenge


def step_of(challenge: Challenge) -> str:
    """Where the dial stands; a challenge that has none stands at its age."""
    return challenge.dial or challenge.age_band


def setup_of(session: Session, challenge: Challenge, brief: Brief) -> Setup:
    """What the dial turns, as it is now."""
    return Setup(
        words=challenge.age_band,
        story=challenge.story,
        success=challenge.success,
        school=challenge.school,
        attempts=timing_of(session, challenge, brief).attempts,
        marks={phase: tuple(marks) for phase, marks in brief.marks.items()},
        limits={o.material: o.limit for o in brief.offers},
        rig={c.key: brief.values[c.key] for c in guarded(get_kind(challenge.kind))},
    )


def would_be(session: Session, challenge: Challenge, brief: Brief, step: str) -> Setup:
    """What it would become; Refused for a step that the dial does not have."""
    if step not in STEPS:
        raise Refused("The dial has no such step.", "dial")
    now = setup_of(session, challenge, brief)
    return turned(get_kind(challenge.kind), now, step_of(challenge), step, brief.choices)


def turn(session: Session, challenge: Challenge, brief: Brief, step: str) -> None:
    """Turn the dial: everything that `would_be` names, at once."""
    now, then = setup_of(session, challenge, brief), would_be(session, challenge, brief, step)
    challenge.dial, challenge.age_band = step, then.words
    challenge.story, challenge.success = then.story, then.success
    if then.words != now.words:
        challenge.cautions_seen_at = None  # they are said in other words now
    for row in challenge.settings:
        row.value = then.rig.get(row.key, row.value)
    for offer in challenge.offers:
        offer.limit_units = then.limits[offer.material]
    changed = {phase: list(marks) for phase, marks in then.marks.items() if marks != now.marks[phase]}
    if changed:
        save_marks(session, challenge, {**{p: list(m) for p, m in now.marks.items()}, **changed})
    if then.attempts != now.attempts:
        save_timing(
            session, challenge.id, replace(timing_of(session, challenge, brief), attempts=then.attempts)
        )
    if then.school != now.school:
        use_school(challenge, then.school)


def tell_anew(challenge: Challenge, brief: Brief, choices: Mapping[str, str]) -> None:
    """Story and success of another choice, where they still are those of the choice before."""
    kind, step = get_kind(challenge.kind), step_of(challenge)
    before, after = (usual_setup(kind, step, chosen) for chosen in (brief.choices, choices))
    if challenge.story.strip() == before.story:
        challenge.story = after.story
    if challenge.success.strip() == before.success:
        challenge.success = after.success
