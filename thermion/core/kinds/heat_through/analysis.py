"""What follows from the readings of a heat-through race, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt

from thermion.core.kinds.analysis import Analysis, Metric
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Attempt, Fitted, Trace, Trial, each_attempt
from thermion.core.kinds.views import Picture, Views
from thermion.core.lazy import numpy as np
from thermion.core.physics.curves import first_crossing
from thermion.core.physics.heat import heat_let_through, time_to_target, to_common_start
from thermion.core.values import Figure, ratio

RESOLUTION_K = 0.1  # a probe on a logger or a digital thermometer


REACTION_S = 0.3  # standard uncertainty of a stopwatch in the hand; an estimate


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Time to the target, index against the bare control and heat let through, of every trial."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _time(trace: Trace, rig: Mapping[str, float]) -> Figure:
    """Seconds from the common start to the target, from the readings of one race."""
    target, common = rig.get("target_c", 35.0), rig.get("start_c", 20.0)
    seconds = time_to_target(trace.time_s, trace.value, target, resolution=RESOLUTION_K)
    source = rig.get("source_c")
    return to_common_start(seconds, trace.value[0], target, source, common, resolution=RESOLUTION_K)


def _race(attempt: Attempt, rig: Mapping[str, float]) -> Figure:
    """Seconds of one race: from its readings where they cross the target, else the stopwatch."""
    read = _time(attempt.trace, rig) if len(attempt.trace.time_s) > 1 else Figure()
    seconds = attempt.values.get("time_s", 0.0)
    if read.value is not None or seconds <= 0:
        return read if len(attempt.trace.time_s) > 1 else Figure(reason="it was not stopped")
    common = rig.get("start_c", 20.0)
    return to_common_start(
        Figure(seconds, REACTION_S),
        attempt.values.get("start_c", common),
        rig.get("target_c", 35.0),
        rig.get("source_c"),
        common,
        resolution=RESOLUTION_K,
    )


def _middle(times: Sequence[Figure]) -> Figure:
    """The median of several races; a bound only where no race arrived.

    Its standard error is √(π/2) times that of the mean, asymptotically, for normal spread.
    """
    known = [f for f in times if f.value is not None]
    if len(known) < 2:
        return known[0] if known else times[0]
    values = np.array([f.value for f in known])
    own = sqrt(sum((f.se or 0.0) ** 2 for f in known)) / len(known)
    spread = float(values.std(ddof=1)) * sqrt(np.pi / 2 / len(known))
    notes = tuple(dict.fromkeys(n for f in known for n in f.notes))
    return Figure(float(np.median(values)), max(spread, own), notes=notes)


def _seen(attempt: Attempt, rig: Mapping[str, float]) -> Trace:
    """The readings of a race; at the stop the probe showed the target, so that is one too."""
    trace, stop = attempt.trace, attempt.values.get("time_s", 0.0)
    if not trace.time_s or stop <= trace.time_s[-1]:
        return trace
    return Trace((*trace.time_s, stop), (*trace.value, rig.get("target_c", 35.0)))


def _races(
    trace: Trace, attempts: Sequence[Attempt], rig: Mapping[str, float]
) -> tuple[Figure, Trace] | None:
    """Time of a sample, or of the control, over its races, and the readings of the last one."""
    every = [*([Attempt({}, trace=trace)] if trace.time_s else []), *attempts]
    if not every:
        return None
    read = [t for t in (_seen(a, rig) for a in every) if len(t.time_s) > 1]
    return _middle([_race(a, rig) for a in every]), read[-1] if read else Trace()


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    mine = _races(trial.traces.get("race", Trace()), trial.fair(), rig)
    bare = _races(trial.control.get("race", Trace()), trial.bare, rig)
    if mine is None:
        return figures
    time, seen = mine
    figures["time"] = time
    level = rig.get("pass_s", 60.0)
    faster = trial.choices.get("question") == "conductor"
    figures["passed"] = passed(time, level, below=faster)
    if bare is None:
        figures["index"] = figures["through"] = Figure(reason="the bare control was not run")
        return figures
    figures["control"] = bare[0]
    figures["index"] = ratio(time, bare[0])
    figures["through"] = _through(seen, bare[1], rig.get("target_c", 35.0))
    return figures


def _through(mine: Trace, bare: Trace, target_c: float) -> Figure:
    """Heat let through until the control was at the target [share of the control's rise]."""
    if len(mine.time_s) < 3 or not bare.time_s:  # a start and a stop are no curve
        return Figure(reason="a stopwatch alone does not tell")
    cross = first_crossing(bare.time_s, bare.value, target_c, direction="up")
    if cross.time_s is None:
        return Figure(reason="the bare control did not reach the target")
    since = cross.time_s - bare.time_s[0]
    if mine.time_s[-1] - mine.time_s[0] < since:
        return Figure(reason="watched for less time than the control took")
    reached = float(np.interp(since + mine.time_s[0], mine.time_s, mine.value))
    share = heat_let_through(reached - mine.value[0], target_c - bare.value[0], resolution=RESOLUTION_K)
    if share.value is None:
        return share
    return Figure(share.value / 100, None if share.se is None else share.se / 100)


ANALYSIS = Analysis(
    metrics=(
        Metric("time", "Time to the target", "second", "none", reads="time_s"),
        Metric("control", "Bare probe took", "second", "none"),
        Metric("index", "Times as long as bare", "dimensionless", "none", 2),
        Metric("through", "Heat let through, of bare", "percent", "none", 0),
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
        Picture("times", "Times against the bare probe", "bars", metrics=("time",), against="control"),
    ),
    level="target_c",
)
