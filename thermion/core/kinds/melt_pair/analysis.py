"""What follows from the readings of a melt pair, and how that is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.analysis import Analysis, Figures, Metric, Varies
from thermion.core.kinds.melt_pair.drawing import draw_stage
from thermion.core.kinds.schools import IMPACT, UNITS, passed, passing
from thermion.core.kinds.trials import Fitted, Trace, Trial
from thermion.core.kinds.views import Picture, Views
from thermion.core.physics.melting import Reached, protection_ratio, sooner, stage_intervals
from thermion.core.reasons import Why
from thermion.core.values import Figure

BETWEEN = Why.BETWEEN_CHECKS


def fit(trials: Sequence[Trial]) -> list[Fitted]:
    """Times to the stage as intervals, and against the control, of every trial."""
    return [Fitted(_figures(trial), {}) for trial in trials]


def _reached(trace: Trace, stage: int) -> Reached | None:
    if not trace.time_s:
        return None
    return stage_intervals(trace.time_s, trace.value)[stage - 1]


def _minutes(at: Reached | None) -> Figure:
    """An interval in minutes: never a middle, never a time for what was not reached."""
    if at is None:
        return Figure(reason=Why.NO_CHECK)
    low = None if at.after_s is None else at.after_s / 60
    high = None if at.before_s is None else at.before_s / 60
    why = BETWEEN
    if high is None:
        why = Why.NOT_REACHED
    elif low is None:
        why = Why.AT_FIRST_CHECK
    notes = (at.note,) if at.note else ()
    return Figure(at_least=low, at_most=high, reason=why, notes=notes)


def _figures(trial: Trial) -> dict[str, Figure]:
    figures, rig = trial.counts(), trial.conditions
    stage = round(rig.get("stage", 3))
    fast, slow = (_reached(trial.traces.get(k, Trace()), stage) for k in ("fast", "slow"))
    control = _reached(next(iter(trial.control.values()), Trace()), stage)
    if fast is None and slow is None:
        return figures
    figures["fast"], figures["slow"] = _minutes(fast), _minutes(slow)
    figures["control"] = _minutes(control)
    for key, device in (("fast_ratio", fast), ("slow_ratio", slow)):
        figures[key] = _ratio(device, control)
    figures["beats"] = _beats(trial, fast, slow, control)
    figures["passed"] = passed(figures["beats"], rig.get("pass_beats", 2.0))
    return figures


def _ratio(device: Reached | None, control: Reached | None) -> Figure:
    if device is None or control is None:
        return Figure(reason=Why.CONTROL_NOT_CHECKED if device else Why.NO_CHECK)
    found = protection_ratio(device, control)
    if found is None:
        return Figure(reason=Why.NEITHER_GOT_THERE)
    return Figure(at_least=found.low, at_most=found.high, reason=BETWEEN)


def _beats(trial: Trial, fast: Reached | None, slow: Reached | None, control: Reached | None) -> Figure:
    """Devices that got there before the control, or after it, by a gap between the checks: 0, 1 or 2. A
    fact of this test, which says nothing yet of the next.

    While the test is on, a device may still do so as long as neither it nor the control got there; of a
    test that broke off by then nobody knows.
    """
    if control is None:
        return Figure(reason=Why.CONTROL_NOT_CHECKED)
    verdicts = [sooner(d, control) for d in (fast, slow) if d is not None]
    won = (fast is not None and verdicts[0] == "sooner") + (slow is not None and verdicts[-1] == "later")
    open_ = verdicts.count("not known") if any(trial.unfinished(key) for key in trial.traces) else 0
    if open_ and trial.ended:
        why = Why.BROKE_OFF_BEFORE_EITHER
        return Figure(at_least=float(won), at_most=float(won + open_), reason=why, partial=True)
    return Figure(value=float(won), se=0.0, partial=open_ > 0)


def correct(
    metric: str, figures: Figures, _was: Mapping[str, float], _to: Mapping[str, float]
) -> float | None:
    """What is counted against the control beside it has the day taken out already; minutes have not."""
    return figures.get(metric, Figure()).value if metric in ("fast_ratio", "slow_ratio", "beats") else None


EYE = "a check more or less, over a try's twentieth"

# by simulation: the eye errs by 2 % of the melted share (docs/truth.md)
ABOUT_EYES = "Seen by eye: about one time in six is a check off."

ANALYSIS = Analysis(
    bounds_words=ABOUT_EYES,
    metrics=(
        Metric(
            key="fast",
            label="Fast one got there after",
            means=(
                "When the fast device was first seen at the set stage: between two checks, so only a "
                "least and a most are known."
            ),
            unit="minute",
            better="lower",
            varies=Varies(above=2.0, why=EYE),
        ),
        Metric(
            key="slow",
            label="Slow one got there after",
            means=(
                "When the slow device was first seen at the set stage: between two checks, so only a "
                "least and a most are known."
            ),
            unit="minute",
            better="higher",
            varies=Varies(above=2.0, why=EYE),
        ),
        Metric(
            key="control",
            label="Control got there after",
            means="When the untouched control was first seen at the set stage, between two checks.",
            unit="minute",
            better="none",
            varies=Varies(above=2.0, why=EYE),
        ),
        Metric(
            key="fast_ratio",
            label="Fast, of the control's time",
            means="The fast device's time over the control's, as the least and the most it can be.",
            unit="dimensionless",
            better="lower",
            digits=2,
            varies=Varies(above=0.1, why=EYE),
        ),
        Metric(
            key="slow_ratio",
            label="Slow, of the control's time",
            means="The slow device's time over the control's, as the least and the most it can be.",
            unit="dimensionless",
            better="higher",
            digits=2,
            varies=Varies(above=0.1, why=EYE),
        ),
        Metric(
            key="beats",
            label="Devices that beat the control",
            means=(
                "How many of the two were surely before (fast) or after (slow) the control, with a gap "
                "between the checks: 0, 1 or 2."
            ),
            unit="dimensionless",
            better="higher",
            digits=0,
        ),
        passing("Beat the control"),
        UNITS,
        IMPACT,
    ),
    headline=("beats", "fast", "slow", "slow_ratio", "units", "impact"),
    prediction="slow",
    fit=fit,
    correct=correct,
    compares="slow_ratio",
    of_control=("fast_ratio", "slow_ratio"),
    claims=("fast_ratio", "slow_ratio"),
)


VIEWS = Views(
    pictures=(
        Picture(
            key="intervals",
            label="When it got there",
            form="bars",
            metrics=("fast", "slow"),
            against="control",
            tones=("heat", "cold"),
            labels=("fast one", "slow one"),
        ),
    ),
    draw_word=draw_stage,
)
