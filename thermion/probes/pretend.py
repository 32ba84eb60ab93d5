"""Probes and machines that are not there: builds of a family as its model has them, with real faults."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from thermion.core.ages import USUAL
from thermion.core.kinds import all_kinds
from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import Gauge
from thermion.core.lazy import numpy as np
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.difficulty import usual_setup
from thermion.core.planning.tryout import spread_of_designs
from thermion.core.plans import Offer, Plan

NAMES = "ABCDEFGH"
GRID_S, LONGEST_S = 10.0, 6 * 3600.0
Sent = tuple[float, str, float, str]  # moment since the start on the wall [s], channel, value, SenML unit


def families() -> list[str]:
    """Families whose builds a probe can stand in: at marks, or in a race."""
    return [key for key, kind in all_kinds().items() if kind.rehearsal.course is not None]


def _usual() -> str:
    """The first family that probes read under its usual choices."""
    return next(k for k, kind in all_kinds().items() if kind.can_rehearse(kind.brief.default_choices()))


def stations() -> list[str]:
    """Families whose attempts at a station a machine can read."""
    return [
        key
        for key, kind in all_kinds().items()
        if kind.test.shape == "turns" and any(r.gauges for r in kind.test.reads)
    ]


@dataclass(frozen=True, kw_only=True)
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
        kind = all_kinds()[self.family or _usual()]
        rig, model = kind.brief.default_rig(), kind.rehearsal
        assert model.course is not None
        times = [i * GRID_S for i in range(int(LONGEST_S / GRID_S) + 1)]
        begins = rig[model.begins_at if model.begins_at in rig else model.air]
        phase = kind.test.phases[0].key
        plans = _designs(kind, self.channels, self.seed)
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

    def course(self, until_s: float, every_s: float, speed: float = 1.0) -> Iterator[Sent]:
        """What is sent of a whole test, `speed` times as fast."""
        for tick in range(int(until_s / every_s) + 1):
            elapsed = tick * every_s
            for name, celsius in self.at(elapsed, tick):
                yield elapsed / speed, name, celsius, "Cel"


# Stored unit of a gauge: as it is sent, how many of that, its step, and where it may stand at rest.
_SENT = {
    "count": ("count", 1.0, 1.0, (100.0, 900.0)),
    "kilogram": ("kg", 1.0, 0.001, (0.15, 0.40)),  # the jug on the balance
    "meter": ("m", 1.0, 0.001, (0.0, 0.05)),
    "meter**3": ("l", 1000.0, 0.001, (0.0, 0.0)),
    "second": ("s", 1.0, 0.1, (0.0, 0.0)),
}


@dataclass(frozen=True)
class PretendedStation:
    """What the machines at a station show while designs of a family have their turns.

    Each turn takes as long as the family's bench says. A counter goes on counting; a balance or a
    distance goes back to where it rests; a timer keeps its time until the next start.
    """

    family: str
    seed: int = 1
    designs: int = 5  # that work; one more does nothing
    drop_out: float = 0.02

    @cached_property
    def _turns(self) -> list[dict[str, float]]:
        """What was read at each turn [stored units], the designs one after the other."""
        kind = all_kinds()[self.family]
        plans = [kind.build.example(), *_designs(kind, 8 * self.designs, self.seed)]
        zeros = [r.key for r in kind.test.reads if r.zero]
        trials = kind.rehearsal.simulate(plans, {}, self.seed)
        idle = [not any(a.values.get(k) for a in t.attempts for k in zeros) for t in trials]
        works = [t for t, nothing in zip(trials, idle, strict=True) if not nothing][: self.designs]
        trials = works + [t for t, nothing in zip(trials, idle, strict=True) if nothing][:1]
        most = max(len(t.attempts) for t in trials)
        return [dict(t.attempts[i].values) for i in range(most) for t in trials if i < len(t.attempts)]

    @cached_property
    def _machines(self) -> list[tuple[str, str, Gauge]]:
        """(channel, what it reads, machine) of everything that a machine can read."""
        return [
            (_channel(g.label), r.key, g)
            for r in all_kinds()[self.family].test.reads
            for g in r.gauges
            if r.key in self._turns[0] or r.optional
        ]

    def _shown(self, gauge: Gauge, read: str, rest: float, elapsed_s: float) -> float:
        """What a machine shows at a moment [stored unit]."""
        kind = all_kinds()[self.family]
        bench, rig = kind.test.bench, kind.brief.default_rig()
        turn, at = divmod(elapsed_s, bench.fit_s + bench.run_s + bench.reset_s)
        at -= bench.fit_s

        def whole(number: int) -> float:
            return self._turns[number % len(self._turns)].get(read, 0.0) / gauge.of(1.0, rig)

        now = self._turns[int(turn) % len(self._turns)]
        share = min(max(at / (now.get("time_s") or bench.run_s), 0.0), 1.0)
        if gauge.unit == "count":
            return rest + sum(whole(n) for n in range(int(turn))) + whole(int(turn)) * share
        if not gauge.zeroed and at < 0:
            return whole(int(turn) - 1) if turn else 0.0
        return rest + (whole(int(turn)) * share if not gauge.zeroed or at < bench.run_s + 10 else 0.0)

    def course(self, until_s: float, every_s: float, speed: float = 1.0) -> Iterator[Sent]:
        """What is sent while teams have their turns, `speed` times as fast."""
        for tick in range(int(until_s / every_s) + 1):
            for i, (name, read, gauge) in enumerate(self._machines):
                unit, times, step, (low, high) = _SENT[gauge.unit]
                rest = random.Random(self.seed * 1000 + i).uniform(low, high)  # noqa: S311 - a game
                dice = random.Random((self.seed * 1000 + i) * 1_000_003 + tick)  # noqa: S311
                if dice.random() < self.drop_out:
                    continue
                value = self._shown(gauge, read, rest, tick * every_s) * times
                yield tick * every_s / speed, name, round(round(value / step) * step, 4), unit


def _channel(label: str) -> str:
    """A machine's name as a channel may be called."""
    return label.replace(" ", "_")


def _designs(kind: Kind, count: int, seed: int) -> list[Plan]:
    """Designs that the family's usual limits allow."""
    usual = usual_setup(kind, USUAL).limits
    offers = [Offer(k, limit, MATERIALS[k].points) for k, limit in usual.items()]
    return spread_of_designs(kind, offers, count, seed)
