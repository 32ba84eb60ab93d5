"""What the materials did: builds that used one against those that did not, with its caution."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Generic, TypeVar

from thermion.core.judging.claims import Claim, Verdict, claim_of, verdict_of
from thermion.core.judging.spread import pool
from thermion.core.lazy import numpy as np
from thermion.core.plans import Plan
from thermion.core.reasons import Why
from thermion.core.values import Direction

K = TypeVar("K", bound=Any)  # names a build
LEAST = 2  # builds on each side, below which nothing is said


@dataclass(frozen=True)
class Effect(Generic[K]):
    """Mean with the materials minus mean without them, in the metric's stored unit.

    `materials` were always used together, so that they cannot be told apart. `claim` is widened
    for as many comparisons as were made at once (Bonferroni), so that among many materials none
    is `clear` by luck alone in more than one class of twenty.
    """

    materials: tuple[str, ...]
    used_by: tuple[K, ...]
    without: tuple[K, ...]
    verdict: Verdict
    claim: Claim
    caution: str


def material_effects(
    builds: Sequence[tuple[K, Plan, float]], better: Direction, *, resolution: float = 0.0
) -> list[Effect[K]]:
    """Every material that some builds used and others did not, the largest effects first.

    `builds`: who, plan and one result each; at least two builds on each side. Builds were not
    made alike but for one material, so what is found is a hint to test, never a cause: each
    effect says so, and how many other materials differ between the two sides.
    """
    used: dict[tuple[K, ...], list[str]] = {}
    for material in sorted({p.material for _, plan, _ in builds for p in plan.parts}):
        teams = tuple(t for t, plan, _ in builds if _uses(plan, material))
        if LEAST <= len(teams) <= len(builds) - LEAST:
            used.setdefault(teams, []).append(material)
    out = []
    for teams, materials in used.items():
        those = [value for team, _, value in builds if team in teams]
        others = [value for team, _, value in builds if team not in teams]
        claim = _student(those, others, resolution, len(used))
        caution = "These builds differ in other ways too: a hint to test, not a cause."
        if len(materials) > 1:
            caution = "Always used together here, so nobody can say which did it."
        out.append(
            Effect(
                materials=tuple(materials),
                used_by=teams,
                without=tuple(t for t, _, _ in builds if t not in teams),
                verdict=verdict_of(claim.difference, better),
                claim=claim,
                caution=caution,
            )
        )
    return sorted(out, key=lambda e: -abs(e.claim.difference) / (e.claim.se or 1e-12))


def _uses(plan: Plan, material: str) -> bool:
    return any(part.material == material for part in plan.parts)


def _student(a: Sequence[float], b: Sequence[float], step: float, at_once: int) -> Claim:
    """Difference of two groups of builds, one spread for both, which two builds alone cannot show;
    the 95 % interval holds for all `at_once` comparisons together."""
    found = claim_of(
        float(np.mean(a) - np.mean(b)),
        1 / len(a) + 1 / len(b),
        pool([a, b], resolution=step),
        resolution=step,
        at_once=at_once,
    )
    return replace(found, why=Why.FROM_BUILDS)
