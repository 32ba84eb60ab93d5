"""What a computed figure looks like (a number, a bound, a reason), and the answer to a reading."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from math import inf, isfinite, sqrt
from typing import Literal

from thermion.core.lazy import ArrayLike, FloatArray, special
from thermion.core.lazy import numpy as np
from thermion.core.reasons import Because, Why

Direction = Literal["higher", "lower", "none"]
Shared = Literal["try", "step", "build", "run", "all"]
LASTING = ("build", "all")  # what all tries of one build share, so that it does not average out


@dataclass(frozen=True)
class Source:
    """What one source of uncertainty adds to a figure: ∂figure/∂source · u(source), with its sign.

    `shared` says what stays the same: a ``try`` has its own each time, ``step`` is rounding (each
    time too), a ``build`` keeps its own through all its tries (its thermometer), a ``run`` has one
    for all its builds (the sun), and ``all`` runs have the same (the scale that weighed the cup).
    """

    name: str
    effect: float
    shared: Shared = "try"
    dof: float = inf


@dataclass(frozen=True)
class Figure:
    """One derived figure.

    ``value`` is None when the data cannot carry it; ``reason`` then says why, and
    ``at_least`` / ``at_most`` give the bound that is known. ``se`` is the standard
    uncertainty in the figure's unit, on ``dof`` degrees of freedom, made up of ``parts``.
    ``notes`` qualify a value that does exist. ``partial``: the test broke off before the
    figure was whole, so that it is never averaged with whole ones.
    """

    value: float | None = None
    se: float | None = None
    at_least: float | None = None
    at_most: float | None = None
    reason: Because | None = None
    notes: tuple[Because, ...] = ()
    dof: float = inf
    parts: tuple[Source, ...] = ()
    partial: bool = False

    @property
    def known(self) -> bool:
        return self.value is not None

    @property
    def bounded(self) -> bool:
        """Known only as a bound."""
        return self.value is None and (self.at_least is not None or self.at_most is not None)

    @property
    def says(self) -> bool:
        """Known as a value or as a bound."""
        return self.known or self.bounded

    @property
    def half_width(self) -> float | None:
        """Half of the 95 % interval: Student's t with the figure's own degrees of freedom."""
        if self.value is None or self.se is None:
            return None
        reach = special.ndtri(0.975) if not isfinite(self.dof) else special.stdtrit(self.dof, 0.975)
        return float(reach) * self.se

    @property
    def low(self) -> float | None:
        """Lower end of the 95 % interval."""
        half = self.half_width
        return None if half is None or self.value is None else self.value - half

    @property
    def high(self) -> float | None:
        """Upper end of the 95 % interval."""
        half = self.half_width
        return None if half is None or self.value is None else self.value + half


def measured(value: float, parts: Iterable[Source], *, notes: Sequence[Because] = ()) -> Figure:
    """A figure from its sources of uncertainty, each independent of the others.

    Effects add in quadrature (JCGM 100:2008, 5.1.2); the degrees of freedom are Welch–Satterthwaite's,
    ν = u⁴/Σ(uᵢ⁴/νᵢ) (G.4.1). Parts without effect are left out.
    """
    kept = tuple(p for p in parts if p.effect != 0)
    variance = sum(p.effect**2 for p in kept)
    few = sum(p.effect**4 / p.dof for p in kept if isfinite(p.dof))
    return Figure(
        value=value, se=sqrt(variance), notes=tuple(notes), dof=variance**2 / few if few else inf, parts=kept
    )


def scaled(figure: Figure, factor: float, *, notes: Sequence[Because] = ()) -> Figure:
    """A figure, or its bounds, times an exact number."""
    ends = [None if x is None else x * factor for x in (figure.at_least, figure.at_most)]
    if factor < 0:
        ends.reverse()
    return replace(
        figure,
        value=None if figure.value is None else figure.value * factor,
        se=None if figure.se is None else figure.se * abs(factor),
        at_least=ends[0],
        at_most=ends[1],
        notes=(*figure.notes, *notes),
        parts=tuple(replace(p, effect=p.effect * factor) for p in figure.parts),
    )


def together(*groups: Iterable[Source]) -> tuple[Source, ...]:
    """Parts of several figures that are added: what is the same thing in several adds up with its
    sign, the rest stays apart. ``build`` parts are those of one build."""
    out: list[Source] = []
    same: dict[tuple[str, str], int] = {}
    for part in (p for group in groups for p in group):
        key = (part.name, part.shared)
        if part.shared in ("try", "step") or key not in same:
            same[key] = len(out)
            out.append(part)
        else:
            at = same[key]
            out[at] = replace(out[at], effect=out[at].effect + part.effect)
    return tuple(out)


Answer = Literal["ok", "ask", "refuse"]
Code = Literal[
    "", "unreadable", "impossible", "other unit", "decimal place", "neighbour's value", "jump", "backwards"
]


@dataclass(frozen=True)
class Check:
    """The answer, a sentence for the reader, and the likely correction (stored unit), if any."""

    answer: Answer
    message: str = ""
    suggestion: float | None = None
    code: Code = ""


class Unfit(ValueError):  # noqa: N818 - reads better where it is raised
    """An argument that cannot be: which one, and what was expected; as text both together."""

    def __init__(self, argument: str, what: str) -> None:
        super().__init__(f"{argument}: {what}")
        self.argument, self.what = argument, what


def finite(name: str, data: ArrayLike) -> FloatArray:
    """`data` as a float array; ValueError naming `name` if anything in it is not finite."""
    try:
        array = np.asarray(data, dtype=float)
    except (TypeError, ValueError):
        raise Unfit(name, "expected numbers") from None
    if not np.all(np.isfinite(array)):
        raise Unfit(name, "expected finite numbers, found NaN or infinity")
    return array


def single(name: str, value: ArrayLike) -> float:
    """`value` as one finite float; ValueError naming `name` otherwise."""
    try:
        found = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        raise Unfit(name, "expected a number") from None
    if not isfinite(found):
        raise Unfit(name, f"expected a finite number, found {found}")
    return found


def positive(name: str, value: ArrayLike) -> float:
    """`value` as one finite float above zero; ValueError naming `name` otherwise."""
    found = single(name, value)
    if found <= 0:
        raise Unfit(name, f"expected a number above zero, found {found:g}")
    return found


def not_negative(name: str, value: ArrayLike) -> float:
    """`value` as one finite float of zero or more; ValueError naming `name` otherwise."""
    found = single(name, value)
    if found < 0:
        raise Unfit(name, f"expected zero or more, found {found:g}")
    return found


def whole(name: str, value: ArrayLike, least: int = 1) -> int:
    """`value` as a whole number of at least `least`; ValueError naming `name` otherwise."""
    found = single(name, value)
    if found != int(found) or found < least:
        raise Unfit(name, f"expected a whole number of {least} or more, found {found:g}")
    return int(found)


def ratio(top: Figure, bottom: Figure) -> Figure:
    """top / bottom of two figures of zero or more; a bound of either becomes a bound of the ratio.

    Relative standard uncertainties add in quadrature (GUM 5.1.6), but for what both share through
    their run, which goes out. A bottom of zero, or bounds on both sides that say nothing, give a
    reason instead.
    """
    notes = tuple(dict.fromkeys((*top.notes, *bottom.notes)))
    if top.value is None or bottom.value is None:
        return _ratio_of_bounds(top, bottom, notes)
    if bottom.value == 0:
        return Figure(reason=Why.COMPARED_WITH_ZERO)
    value = top.value / bottom.value
    if top.se is None and bottom.se is None:
        return Figure(value=value, notes=notes)
    above = [replace(p, effect=p.effect / bottom.value) for p in sources_of(top)]
    below = [replace(p, effect=-p.effect * value / bottom.value) for p in sources_of(bottom)]
    # two builds of one run are two builds: what each has to itself does not cancel
    beside = [replace(p, shared="try") if p.shared == "build" else p for p in below]
    return measured(value, together(above, beside), notes=notes)


def _ratio_of_bounds(top: Figure, bottom: Figure, notes: tuple[Because, ...]) -> Figure:
    least_above, most_above = _limits(top)
    least_below, most_below = _limits(bottom)
    low = high = None
    if least_above is not None and most_below:
        low = least_above / most_below
    if most_above is not None and least_below:
        high = most_above / least_below
    reason = top.reason if top.value is None else bottom.reason
    return Figure(at_least=low, at_most=high, reason=reason or Why.NOT_KNOWN, notes=notes)


def _limits(figure: Figure) -> tuple[float | None, float | None]:
    """Between which numbers a figure lies: twice its value where that is known."""
    if figure.value is not None:
        return figure.value, figure.value
    return figure.at_least, figure.at_most


def sources_of(figure: Figure) -> tuple[Source, ...]:
    """The parts of a figure; its whole uncertainty as one where they were not told apart."""
    if figure.parts or not figure.se:
        return figure.parts
    return (Source("the readings", figure.se, "try", figure.dof),)


def mean_figure(figures: Sequence[Figure]) -> Figure:
    """A figure over repeated tries: the mean of whole ones, a bound where any of them is one.

    Broken-off tries count only where there is no whole one. The uncertainty is that of reading it,
    without how much a try varies, which is the class's and told apart.
    """
    said = [f for f in figures if f.says]
    whole = [f for f in said if not f.partial] or said
    if len(whole) <= 1:
        return whole[0] if whole else figures[0]
    notes = tuple(dict.fromkeys(n for f in whole for n in f.notes))
    if all(f.value is not None for f in whole):
        return _mean(whole, notes)
    ends = [_limits(f) for f in whole]
    return Figure(
        at_least=_mean_of([low for low, _ in ends]),
        at_most=_mean_of([high for _, high in ends]),
        reason=Why.ONE_TRY_A_BOUND,
        notes=notes,
    )


def _mean_of(ends: Sequence[float | None]) -> float | None:
    """The mean of ends of intervals; None where one of them is open."""
    known = [end for end in ends if end is not None]
    return sum(known) / len(known) if len(known) == len(ends) else None


def best_figure(figures: Sequence[Figure], better: Direction) -> Figure:
    """A figure over repeated tries of which the best counts; a bound among them leaves their mean."""
    whole = [f for f in figures if f.says and not f.partial]
    known = [f for f in whole if f.value is not None]
    if len(whole) < 2 or len(known) < len(whole) or better == "none":
        return mean_figure(figures)
    best = max if better == "higher" else min
    return best(known, key=lambda f: f.value or 0.0)


def _mean(known: Sequence[Figure], notes: tuple[Because, ...]) -> Figure:
    """The mean of figures with values: what a build or all share stays, what a try has averages out."""
    n = len(known)
    common: list[list[Source]] = []
    own: list[Source] = []
    for figure in known:
        each = [replace(source, effect=source.effect / n) for source in sources_of(figure)]
        common.append([x for x in each if x.shared in LASTING])
        own += [x for x in each if x.shared not in LASTING]
    kept = together(*common)
    value = sum(f.value or 0.0 for f in known) / n
    if not kept and not own and all(f.se is None for f in known):
        return Figure(value=value, notes=notes)
    return measured(value, (*kept, *own), notes=notes)


def exceeds(difference: float, allowed: float) -> bool:
    """Whether something is off by more than it may, whatever the last bit says: 31 cm − 30 cm is 1 cm."""
    return abs(difference) > allowed * (1 + 1e-9) + 1e-12


def series(time_s: ArrayLike, value: ArrayLike) -> tuple[FloatArray, FloatArray]:
    """A checked pair of equally long one-dimensional arrays in order of time.

    Raises ValueError naming the argument when empty, unequal, not finite, or when
    times go backwards or repeat.
    """
    t, v = finite("time_s", time_s), finite("value", value)
    if t.ndim != 1 or t.size == 0:
        raise Unfit("time_s", "expected a non-empty one-dimensional array")
    if v.shape != t.shape:
        raise Unfit("value", f"expected {t.size} numbers to match time_s, got {v.size}")
    if np.any(np.diff(t) <= 0):
        raise Unfit("time_s", "expected times in increasing order without repeats")
    return t, v
