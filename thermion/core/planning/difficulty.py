"""One dial for how hard a challenge is: how much of it, how often it is read, and in whose words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil, sqrt

from thermion.core.ages import AGES, AgeBand
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import BriefDefault, Condition

# Ages of each step of the dial; the steps between have the words of the younger, and half as much more.
STEPS = ("6-8", "7-10", "9-12", "11-14", "13-16")
_BETWEEN: Mapping[str, tuple[AgeBand, AgeBand]] = {"7-10": ("6-8", "9-12"), "11-14": ("9-12", "13-16")}


@dataclass(frozen=True, kw_only=True)
class Setup:
    """What the dial turns.

    `words` is the age whose words are used, `marks` [s] by phase, `limits` [units] by material
    (None: as much as they like), `rig` the numbers [stored unit] that an age sets limits to.
    """

    words: AgeBand
    story: str
    success: str
    school: str
    attempts: int
    marks: Mapping[str, tuple[float, ...]]
    limits: Mapping[str, float | None]
    rig: Mapping[str, float]


def usual_setup(kind: Kind, step: str, choices: Mapping[str, str] | None = None) -> Setup:
    """What a challenge of this family starts from at a step of the dial; ValueError for no such step."""
    default, words = _default(kind, step, choices)
    return Setup(
        words=words,
        story=default.story,
        success=default.success,
        school=default.school,
        attempts=default.attempts,
        marks={p.key: tuple(p.marks(default.marks)) for p in kind.test.phases},
        limits={
            key: None if most is None else float(ceil(most * default.limits))
            for key, most in kind.build.materials
        },
        rig={c.key: c.at_age(words).si("default") for c in guarded(kind)},
    )


def guarded(kind: Kind) -> list[Condition]:
    """The numbers of a brief that an age sets limits to."""
    return [c for c in kind.brief.every_setting() if c.safe]


def _kept_safe(kind: Kind, age: AgeBand, rig: Mapping[str, float]) -> dict[str, float]:
    """These numbers as near as an age allows."""
    limits = {c.key: c.at_age(age) for c in guarded(kind)}
    return {k: min(max(v, limits[k].si("low")), limits[k].si("high")) for k, v in rig.items()}


def _default(kind: Kind, step: str, choices: Mapping[str, str] | None) -> tuple[BriefDefault, AgeBand]:
    if step not in STEPS:
        raise ValueError(f"step: expected one of {list(STEPS)}, got {step}")
    between = _BETWEEN.get(step)
    if between is None:
        band = next(b for b in AGES if b == step)
        return kind.brief.default_for(band, choices), band
    young, old = (kind.brief.default_for(band, choices) for band in between)
    halfway = BriefDefault(
        story=young.story,
        success=young.success,
        school=young.school,
        limits=(young.limits + old.limits) / 2,
        attempts=ceil((young.attempts + old.attempts) / 2),
        marks=sqrt(young.marks * old.marks),
    )
    return halfway, between[0]


def turned(kind: Kind, now: Setup, at: str, to: str, choices: Mapping[str, str] | None = None) -> Setup:
    """What a challenge becomes when its dial goes from one step to another.

    Only what is still as usual there is turned: what the teacher set stays as it was set.
    """
    old, new = usual_setup(kind, at, choices), usual_setup(kind, to, choices)
    return Setup(
        words=new.words,
        story=new.story if now.story == old.story else now.story,
        success=new.success if now.success == old.success else now.success,
        school=new.school if now.school == old.school else now.school,
        attempts=new.attempts if now.attempts == old.attempts else now.attempts,
        marks={p: new.marks.get(p, m) if m == old.marks.get(p) else m for p, m in now.marks.items()},
        limits={
            m: new.limits.get(m, x) if x == old.limits.get(m, -1.0) else x for m, x in now.limits.items()
        },
        rig=_kept_safe(
            kind, new.words, {k: new.rig[k] if v == old.rig.get(k) else v for k, v in now.rig.items()}
        ),
    )
