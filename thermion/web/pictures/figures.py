"""A figure as a person reads it."""

from __future__ import annotations

from thermion.core.kinds.analysis import Metric
from thermion.core.values import Figure
from thermion.records.planning.briefs import Brief
from thermion.web.components.reasons import said


def figure_words(figure: Figure, metric: Metric, brief: Brief) -> str:
    """A figure in words: a value, an interval, a bound, or why there is none."""
    show, unit, digits = brief.setting.show, metric.unit, metric.digits
    if figure.value is not None:
        return show(figure.value, unit, digits)
    low, high = figure.at_least, figure.at_most
    if low is not None and high is not None:
        return f"{show(low, unit, digits, unit=False)} to {show(high, unit, digits)}"
    if low is not None:
        return f"at least {show(low, unit, digits)}"
    if high is not None:
        return f"at most {show(high, unit, digits)}"
    return said(figure.reason, brief.setting) or "not known"


def figure_text(figure: Figure, metric: Metric, brief: Brief) -> str:
    """A figure in a table, without its unit: a value, a bound, or a dash."""
    show, unit, digits = brief.setting.show, metric.unit, metric.digits
    if figure.value is not None:
        return show(figure.value, unit, digits, unit=False)
    low, high = figure.at_least, figure.at_most
    if low is not None and high is not None:
        return "–".join(show(x, unit, digits, unit=False) for x in (low, high))
    if low is not None:
        return f"≥ {show(low, unit, digits, unit=False)}"
    return f"≤ {show(high, unit, digits, unit=False)}" if high is not None else "–"
