"""What follows from the readings of a heat-through race, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from math import log, pi, sqrt

from thermion.core.kinds.analysis import Analysis, Metric, Varies
from thermion.core.kinds.probes import Thermometer
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Attempt, Fitted, Trace, Trial, each_attempt
from thermion.core.kinds.views import Picture, Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import fit_approach
from thermion.core.physics.curves import first_crossing
from thermion.core.physics.fitted import read_off
from thermion.core.physics.heat import heat_let_through, time_to_target, to_common_start
from thermion.core.reasons import Why
from thermion.core.values import Figure, Source, mean_figure, measured, ratio, together

RESOLUTION_K = 0.1  # a probe on a logger or a digital thermometer


HAND_S = 0.3  # standard uncertainty of a stopwatch stopped by a number on a display; an estimate
NOISE_K = 0.05  # of a probe on a logger, from one reading to the next
PAD_K = 0.6  # of the pad's temperature, held within a kelvin


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Time to the target, index against the bare control and heat let through, of every trial."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _probe(trial: Trial) -> Thermometer:
    """The one probe of all races; its offset was taken out in one glass, or is half a kelvin."""
    return Thermometer.of(trial, RESOLUTION_K)


def _crossed(trace: Trace, trial: Trial) -> Figure:
    """Seconds from the first reading to the target, by the readings of one race."""
    target, probe = trial.conditions.get("target_c", 35.0), _probe(trial)
    seen = time_to_target(trace.time_s, trace.value, target, resolution=probe.step_k)
    if seen.value is None:
        return seen
    t, v = trace.time_s, trace.value
    at = max(int(np.searchsorted(t, t[0] + seen.value)), 1)
    gap, slope = t[at] - t[at - 1], (v[at] - v[at - 1]) / (t[at] - t[at - 1])
    reading = sqrt(NOISE_K**2 + probe.rounding**2)
    found = fit_approach(t, v, resolution=probe.step_k)
    seconds, sources = (
        seen.value,
        [
            Source("the readings", reading / slope, "try"),
            Source("the time between readings", gap**2 / 8.0 / max(seen.value, gap), "try"),
        ],
    )
    start, end = found.start, found.asymptote
    if found.reliable and start is not None and end is not None and start < target < end:
        by_curve = read_off(
            found,
            t,
            lambda start, end, tau: -tau * log(max((end - target) / (end - start), 1e-12)) - t[0],
            noise=reading,
        )
        if by_curve.se < sqrt(sum(s.effect**2 for s in sources)):
            seconds = by_curve.value
            sources = [Source("the readings", by_curve.se, "try", by_curve.dof)]
    return measured(seconds, (*sources, Source("the probe", -probe.off_k / slope, "all")))


def _started(seconds: Figure, start_c: float, trial: Trial) -> Figure:
    """A race time from the common start, with what the pad's temperature and the start leave open."""
    rig, probe = trial.conditions, _probe(trial)
    target, common, source = rig.get("target_c", 35.0), rig.get("start_c", 20.0), rig.get("source_c")

    def brought(start: float, pad: float | None) -> Figure:
        return to_common_start(seconds, start, target, pad, common, resolution=probe.step_k)

    plain = brought(start_c, source)
    if plain is seconds or plain.value is None or source is None:
        return plain
    read = sqrt(NOISE_K**2 + probe.rounding**2)
    later, off, hotter = (
        (brought(start, pad).value or plain.value) - plain.value
        for start, pad in (
            (start_c + read, source),
            (start_c + probe.off_k, source),
            (start_c, source + trial.u("source_c", PAD_K)),
        )
    )
    extra = (
        Source("where it started", later, "try"),
        Source("the probe", off, "all"),  # the same error as at the target
        Source("the pad", hotter, "run"),
    )
    return measured(plain.value, together(plain.parts, extra), notes=plain.notes)


def _race(attempt: Attempt, trial: Trial) -> Figure:
    """Seconds of one race: from its readings where they cross the target, else the stopwatch."""
    several = len(attempt.trace.time_s) > 1
    read = _started(_crossed(attempt.trace, trial), attempt.trace.value[0], trial) if several else Figure()
    seconds = attempt.values.get("time_s", 0.0)
    if read.value is not None or seconds <= 0:
        return read if several else Figure(reason=Why.NOT_STOPPED)
    start = attempt.values.get("start_c", trial.conditions.get("start_c", 20.0))
    by_hand = (Source("the stopwatch", trial.off("stopwatch", HAND_S), "try"), *_shown(seconds, start, trial))
    return _started(measured(seconds, by_hand), start, trial)


def _shown(seconds: float, start: float, trial: Trial) -> tuple[Source, ...]:
    """What the display leaves open of a race by stopwatch: its step and the probe's offset, over the slope
    at the target, as the pad's temperature and the time give it."""
    rig, probe = trial.conditions, _probe(trial)
    target, pad = rig.get("target_c", 35.0), rig.get("source_c")
    if pad is None or not start < target < pad:
        return ()
    slope = (pad - target) * log((pad - start) / (pad - target)) / seconds
    return (
        Source("the display's step", probe.rounding / slope, "step"),
        Source("the probe", -probe.off_k / slope, "all"),
    )


def _middle(times: Sequence[Figure]) -> Figure:
    """The median of several races; a bound only where no race arrived.

    What is each race's own is √(π/2) times that of a mean, asymptotically, for normal spread.
    """
    known = [f for f in times if f.value is not None]
    if len(known) < 2:
        return known[0] if known else times[0]
    wide = sqrt(pi / 2) if len(known) > 2 else 1.0
    mean = mean_figure(known)
    parts = [replace(s, effect=s.effect * wide) if s.shared in ("try", "step") else s for s in mean.parts]
    return measured(float(np.median([f.value for f in known])), parts, notes=mean.notes)


def _seen(attempt: Attempt, rig: Mapping[str, float]) -> Trace:
    """The readings of a race; at the stop the probe showed the target, so that is one too."""
    trace, stop = attempt.trace, attempt.values.get("time_s", 0.0)
    if not trace.time_s or stop <= trace.time_s[-1]:
        return trace
    return Trace((*trace.time_s, stop), (*trace.value, rig.get("target_c", 35.0)))


def _races(trace: Trace, attempts: Sequence[Attempt], trial: Trial) -> tuple[Figure, Trace] | None:
    """Time of a sample, or of the control, over its races, and the readings of the last one."""
    every = [*([Attempt({}, trace=trace)] if trace.time_s else []), *attempts]
    if not every:
        return None
    read = [t for t in (_seen(a, trial.conditions) for a in every) if len(t.time_s) > 1]
    return _middle([_race(a, trial) for a in every]), read[-1] if read else Trace()


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    mine = _races(trial.traces.get("race", Trace()), trial.fair(), trial)
    bare = _races(trial.control.get("race", Trace()), trial.bare, trial)
    if mine is None:
        return figures
    time, seen = mine
    figures["time"] = time
    level = rig.get("pass_s", 60.0)
    faster = trial.choices.get("question") == "conductor"
    figures["passed"] = passed(time, level, below=faster)
    if bare is None:
        figures["index"] = figures["through"] = Figure(reason=Why.BARE_NOT_RUN)
        return figures
    figures["control"] = bare[0]
    figures["index"] = ratio(time, bare[0])
    figures["through"] = _through(seen, bare[1], rig.get("target_c", 35.0))
    return figures


def _through(mine: Trace, bare: Trace, target_c: float) -> Figure:
    """Heat let through until the control was at the target [share of the control's rise]."""
    if len(mine.time_s) < 3 or not bare.time_s:  # a start and a stop are no curve
        return Figure(reason=Why.STOPWATCH_ALONE)
    cross = first_crossing(bare.time_s, bare.value, target_c, direction="up")
    if cross.time_s is None:
        return Figure(reason=Why.BARE_BELOW_TARGET)
    since = cross.time_s - bare.time_s[0]
    if mine.time_s[-1] - mine.time_s[0] < since:
        return Figure(reason=Why.WATCHED_LESS_THAN_CONTROL)
    reached = float(np.interp(since + mine.time_s[0], mine.time_s, mine.value))
    share = heat_let_through(reached - mine.value[0], target_c - bare.value[0], resolution=RESOLUTION_K)
    if share.value is None:
        return share
    return Figure(value=share.value / 100, se=None if share.se is None else share.se / 100)


HAND = "three tenths of a second of a stopwatch, over a try's twentieth"

ANALYSIS = Analysis(
    metrics=(
        Metric(
            key="time",
            label="Time to the target",
            means=(
                "Seconds from the common start to the target on the probe: where its readings cross the "
                "target, else by stopwatch; brought to the common start where the pad's temperature is "
                "known. Median of the races."
            ),
            unit="second",
            better="none",
            reads="time_s",
            varies=Varies(above=5.0, why=HAND),
        ),
        Metric(
            key="control",
            label="Bare probe took",
            means="The same for the bare probe, raced first.",
            unit="second",
            better="none",
            varies=Varies(above=5.0, why=HAND),
        ),
        Metric(
            key="index",
            label="Times as long as bare",
            means="Time to the target over the bare probe's: above 1 it holds heat back.",
            unit="dimensionless",
            better="none",
            digits=2,
            varies=Varies(above=0.3, why=HAND + ", of a bare probe's 17 s"),
        ),
        Metric(
            key="through",
            label="Heat let through, of bare",
            means=(
                "Rise of the probe until the moment at which the bare one was at the target, over the "
                "bare one's rise."
            ),
            unit="percent",
            better="none",
            digits=0,
            varies=Varies(above=10.0, why=HAND),
        ),
        passing("Met the mark"),
        UNITS,
        IMPACT,
    ),
    headline=("time", "control", "index", "through", "units", "impact"),
    prediction="time",
    fit=fit,
    repeats=each_attempt,
    compares="index",
)


VIEWS = Views(
    pictures=(
        Picture(
            key="times",
            label="Times against the bare probe",
            form="bars",
            metrics=("time",),
            against="control",
        ),
    ),
    level="target_c",
)
