"""What a build that cools toward the air says: its time constant, how long it held, what it lost."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import exp, log

from thermion.core.kinds.probes import Air, Thermometer, air_of, fall_by_reading
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import Approach, fit_approach_many, no_fit
from thermion.core.physics.fitted import read_off
from thermion.core.reasons import Why
from thermion.core.values import Figure, Source, measured

OfCurve = Callable[[float, float, float], float]  # of start and asymptote over the air [K], and τ [s]


def fit_traces(traces: Sequence[Trace], resolution: float, over: FloatArray | None = None) -> list[Approach]:
    """Fit a class's traces in one call; with `over`, what they approach is that air of each."""
    longest = max((len(trace.time_s) for trace in traces), default=0)
    if longest == 0:
        return [no_fit(Why.NO_READINGS) for _ in traces]
    time, value = np.zeros((2, len(traces), longest))
    mask = np.zeros((len(traces), longest), bool)
    for i, trace in enumerate(traces):
        n = len(trace.time_s)
        time[i, :n], value[i, :n], mask[i, :n] = trace.time_s, trace.value, True
    if over is None:
        return fit_approach_many(time, value, mask=mask, resolution=resolution)
    return fit_approach_many(time, value - over[:, None], mask=mask, asymptote=0.0, resolution=resolution)


@dataclass(frozen=True, kw_only=True)
class Cooled:
    """One build's cooling: its readings under `key`, fitted over the measured air, and fitted again
    with that a kelvin warmer, which shows what either thermometer's error does."""

    trial: Trial
    key: str
    fit: Approach
    warmer: Approach
    air: Air
    probe: Thermometer

    @property
    def trace(self) -> Trace:
        return self.trial.traces.get(self.key, Trace())

    @property
    def reliable(self) -> bool:
        return self.fit.reliable and self.warmer.reliable

    def read(self, of: OfCurve, *, absolute: bool = False) -> Figure:
        """A figure read off the curve; an `absolute` temperature moves with the build's thermometer."""
        found = read_off(self.fit, self.trace.time_s, of, noise=self.probe.reading, asymptote_known=True)
        moved = of(self.warmer.start or 0.0, 0.0, self.warmer.time_constant_s or 1.0) - found.value
        return measured(
            found.value + (self.air.value if absolute else 0.0),
            (
                Source("the readings", found.se, "try", found.dof),
                *self.probe.offset(-moved),
                Source("the air's thermometer", (moved + absolute) * self.air.se, "run"),
            ),
        )

    def figures(self, fall_k: float, minutes: float) -> dict[str, Figure]:
        """``tau`` [min], ``held`` [min] until it fell by so much, ``lost`` [K] in so many minutes."""
        seen = fall_by_reading(self.trial, self.key, fall_k, minutes, self.probe)
        if not self.reliable:
            bounds = [f.time_constant_at_least_s for f in (self.fit, self.warmer)]
            bound = None if None in bounds else min(b or 0.0 for b in bounds)  # whatever the air was
            tau = Figure(at_least=None if bound is None else bound / 60, reason=self.fit.reason)
            return {"tau": tau, **seen}
        first = self.trace.time_s[0]
        end = first + 60 * minutes
        lost = seen["lost"]
        if self.trace.time_s[-1] >= end * (1 - 1e-9):
            lost = self.read(lambda start, _, tau: start * exp(-first / tau) * (1 - exp(-60 * minutes / tau)))
        return {
            "tau": self.read(lambda _s, _e, tau: tau / 60),
            "held": self._held(fall_k, seen),
            "lost": lost,
        }

    def _held(self, fall_k: float, seen: dict[str, Figure]) -> Figure:
        """Minutes from the first reading until it has fallen that far, by the fitted curve."""
        first, tau = self.trace.time_s[0], self.fit.time_constant_s or 1.0
        excess = (self.fit.start or 0.0) * exp(-first / tau)
        watched = (self.trace.time_s[-1] - first) / 60
        if excess <= fall_k or -tau * log(1 - fall_k / excess) / 60 > watched:
            why = Why.NOT_FALLEN_THAT_FAR
            return Figure(at_least=seen["held"].at_least, reason=why)

        def minutes(start: float, _end: float, tau: float) -> float:
            return -tau / 60 * log(max(1 - fall_k / (start * exp(-first / tau)), 1e-9))

        return self.read(minutes)


def cooled(trials: Sequence[Trial], key: str, resolution: float, *phases: str) -> list[Cooled]:
    """The cooling of each trial, read under `key`; the air is that of these phases, or of all."""
    air = [air_of(trial, *phases) for trial in trials]
    over = np.array([a.value for a in air])
    traces = [trial.traces.get(key, Trace()) for trial in trials]
    fits = fit_traces(traces, resolution, over)
    warmer = fit_traces(traces, resolution, over + 1.0)
    rows = zip(trials, fits, warmer, air, strict=True)
    return [
        Cooled(trial=t, key=key, fit=fit, warmer=up, air=a, probe=Thermometer.of(t, resolution))
        for t, fit, up, a in rows
    ]
