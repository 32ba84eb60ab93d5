"""Probes that are not there: builds of a family as its model warms them, with the faults of real probes."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from thermion.core.kinds import all_kinds
from thermion.core.kinds.base import Kind
from thermion.core.lazy import numpy as np
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.difficulty import usual_setup
from thermion.core.planning.rehearse import spread_of_designs
from thermion.core.plans import Offer

NAMES = "ABCDEFGH"
GRID_S, LONGEST_S = 60.0, 6 * 3600.0


def families() -> list[str]:
    """Families whose builds a probe can stand in."""
    return [key for key, kind in all_kinds().items() if kind.test.held == "marks" and _warms(kind)]


def _warms(kind: Kind) -> bool:
    """Whether the family's model gives the course of a temperature under its usual rig."""
    choices, rig = kind.brief.default_choices(), kind.brief.default_rig()
    return kind.can_rehearse(choices) and kind.rehearsal.air in rig


@dataclass(frozen=True)
class Pretended:
    """What each channel reads: a design that the family's usual limits allow, as its model has it, behind a
    thermometer that is off, noisy, sometimes silent and never exact. Equal seeds give equal values."""

    channels: int = 8
    seed: int = 1
    family: str = ""
    noise_k: float = 0.1
    off_k: float = 0.4
    drift_k_h: float = 0.2
    drop_out: float = 0.02  # share of readings that never come
    step_k: float = 0.0625

    @cached_property
    def _true(self) -> tuple[list[float], list[list[float]]]:
        """The model's temperatures [°C] of each channel on a grid of times [s]."""
        kind: Kind = all_kinds()[self.family or families()[0]]
        offers = [
            Offer(k, limit, MATERIALS[k].points) for k, limit in usual_setup(kind, "9-12").limits.items()
        ]
        rig, model = kind.brief.default_rig(), kind.rehearsal
        assert model.course is not None
        times = [i * GRID_S for i in range(int(LONGEST_S / GRID_S) + 1)]
        begins = rig.get(model.begins_at, rig[model.air])
        phase = kind.test.phases[0].key
        plans = spread_of_designs(kind, offers, self.channels, self.seed)
        return times, [[float(c) for c in model.course(p, rig, phase, times, begins)] for p in plans]

    def at(self, elapsed_s: float, tick: int) -> list[tuple[str, float]]:
        """(channel, °C) of those that answer at this tick."""
        times, courses = self._true
        out = []
        for i, course in enumerate(courses):
            off = random.Random(self.seed * 1000 + i).gauss(0, self.off_k)  # noqa: S311 - a game, no secret
            dice = random.Random((self.seed * 1000 + i) * 1_000_003 + tick)  # noqa: S311
            if dice.random() < self.drop_out:
                continue
            true = float(np.interp(elapsed_s, times, course))
            shown = true + off + self.drift_k_h * elapsed_s / 3600 + dice.gauss(0, self.noise_k)
            name = NAMES[i] if i < len(NAMES) else f"P{i + 1}"
            out.append((name, round(round(shown / self.step_k) * self.step_k, 4)))
        return out

    def course(
        self, until_s: float, every_s: float, speed: float = 1.0
    ) -> Iterator[tuple[float, str, float]]:
        """(moment since the start on the wall [s], channel, °C) of a whole test, `speed` times as fast."""
        for tick in range(int(until_s / every_s) + 1):
            elapsed = tick * every_s
            for name, celsius in self.at(elapsed, tick):
                yield elapsed / speed, name, celsius
