"""Times as they stand in a file, put in order: over midnight, a clock change, newest first, started anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from statistics import median
from zoneinfo import ZoneInfo

from thermion.formats.asking import Answers, Question
from thermion.formats.logger.ways import DAY, Axis

HOUR = 3600.0
FEWEST = 2  # rows that a part of a file has at least


@dataclass
class Ordered:
    """Seconds of each row on one rising axis, None for a row that is left out; what was done and asked."""

    seconds: list[float | None]
    axis: Axis
    questions: list[Question] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


def rising(seconds: Sequence[float | None]) -> float:
    """Share of steps that go forward."""
    known = [s for s in seconds if s is not None]
    steps = list(pairwise(known))
    return sum(b >= a for a, b in steps) / len(steps) if steps else 0.0


def usual_step(seconds: Sequence[float | None]) -> float:
    """The interval at which most rows follow each other [s]; 0 where none does."""
    known = [s for s in seconds if s is not None]
    gaps = [b - a for a, b in pairwise(known) if b > a]
    return median(gaps) if gaps else 0.0


def steady(seconds: Sequence[float | None]) -> float:
    """Share of steps that are near the usual one."""
    known, usual = [s for s in seconds if s is not None], usual_step(seconds)
    steps = [b - a for a, b in pairwise(known)]
    return sum(abs(s - usual) <= 0.25 * usual for s in steps) / len(steps) if steps and usual else 0.0


def in_order(seconds: Sequence[float | None], axis: Axis, answers: Answers, zone: str = "") -> Ordered:
    """The rows on one axis. What can be meant in two ways is asked, the likely way first."""
    out = Ordered(list(seconds), axis)
    known = [s for s in seconds if s is not None]
    if len(known) > FEWEST and rising(known) < 0.2 and known[-1] < known[0]:
        out.seconds = [s if s is None else -s for s in out.seconds]
        if rising([s for s in out.seconds if s is not None]) > 0.9:
            out.notes.append("the newest row stood first")
            out.seconds = [s if s is None else -s for s in out.seconds]
            return out
        out.seconds = [s if s is None else -s for s in out.seconds]
    usual = usual_step(known)
    if axis == "clock":
        _over_midnight(out)
    if axis in ("clock", "local"):
        _clock_change(out, usual, answers, zone)
    if axis in ("clock", "elapsed") and not _fits_sorted(out.seconds):
        _carried_on(out, usual)
    _parts(out, usual, answers)
    _spread(out)
    if not (out.questions and out.questions[-1].likely == SORTED):
        _forward(out)
    return out


def _over_midnight(out: Ordered) -> None:
    """A clock that falls by most of a day has passed midnight."""
    shift, before = 0.0, None
    for i, s in enumerate(out.seconds):
        if s is None:
            continue
        if before is not None and s + shift < before - DAY / 2:
            shift += DAY
        out.seconds[i] = before = s + shift


def _clock_change(out: Ordered, usual: float, answers: Answers, zone: str) -> None:
    """An hour back, or an hour left out, in rows that are steady otherwise: the clocks may have changed.

    Only where the interval makes an hour stand out; for a date, the zone says whether they did.
    """
    if not 0 < usual <= 1200:
        return
    shift, before, asked = 0.0, None, False
    for i, s in enumerate(out.seconds):
        if s is None:
            continue
        at = s + shift
        jump = 0.0 if before is None else at - before
        back = abs(jump + HOUR - usual) <= 1.5 * usual and jump < 0
        ahead = abs(jump - HOUR - usual) <= max(0.5 * usual, 1.0) and out.axis == "local"
        if back or ahead:
            changed = _changes(s, zone) if out.axis == "local" and zone else None
            if changed or back:
                asked = True
                if answers.get("clocks", "changed" if changed or changed is None else "restart") == "changed":
                    shift += HOUR if back else -HOUR
                    at = s + shift
        out.seconds[i] = before = at
    if asked:
        out.questions.append(
            Question(
                key="clocks",
                text="The times jump by an hour in the middle. Were the clocks changed there?",
                options=(
                    ("changed", "yes, the clocks were changed"),
                    ("restart", "no, take the times as they stand"),
                ),
                likely=answers.get("clocks", "changed"),
            )
        )


def _changes(seconds: float, zone: str) -> bool:
    """Whether a zone's clocks change within a day of a local moment."""
    try:
        at = datetime.fromtimestamp(seconds, UTC).replace(tzinfo=ZoneInfo(zone))
    except (ValueError, OverflowError, OSError, KeyError):
        return False
    return (at - timedelta(hours=12)).utcoffset() != (at + timedelta(hours=12)).utcoffset()


WRAPS = (2.0**16, 2.0**32)  # counts after which a counter of a board begins again
COUNTED = (1.0, 1e-3, 1e-6)  # seconds, milliseconds, microseconds
HALF_DAY = 12 * HOUR
SORTED, JOINED = "sort", "join"


def _carried_on(out: Ordered, usual: float) -> None:
    """A counter that wrapped, or a clock of twelve hours after noon, goes on where it would have.

    Only a fall by just what such a counter holds, less one usual step, is that.
    """
    spans = [count * unit for count in WRAPS for unit in COUNTED if count * unit > 3 * usual]
    if out.axis == "clock":
        spans = [HALF_DAY]
    shift, before = 0.0, None
    for i, s in enumerate(out.seconds):
        if s is None:
            continue
        if before is not None and s + shift < before:
            jump = before + usual - (s + shift)
            span = next((span for span in spans if abs(jump - span) <= 0.1 * usual), 0.0)
            shift += span
            if span:
                out.notes.append(
                    "the clock has twelve hours"
                    if span == HALF_DAY
                    else "the counter began again, and was carried on"
                )
        out.seconds[i] = before = s + shift
    out.notes[:] = dict.fromkeys(out.notes)


def _parts(out: Ordered, usual: float, answers: Answers) -> None:
    """A file in which the times begin again: rows out of order, or several recordings. That is asked."""
    dated = out.axis in ("local", "fixed")
    parts: list[list[int]] = [[]]
    before = None
    for i, s in enumerate(out.seconds):
        if s is None:
            continue
        if before is not None and s <= before - (max(1.5 * usual, DAY) if dated else 1.5 * usual):
            parts.append([])
        parts[-1].append(i)
        before = s
    parts = [p for p in parts if len(p) >= FEWEST]
    if len(parts) < 2:
        return
    if len(parts) > 12:
        out.notes.append("the times go back many times")
        return
    longest = max(range(len(parts)), key=lambda k: (len(parts[k]), k))
    options = [(str(k + 1), f"part {k + 1}: {len(p)} rows") for k, p in enumerate(parts)]
    options.append((JOINED, "they belong together, in this order"))
    likely = str(longest + 1)
    if _fits_sorted(out.seconds):
        likely = SORTED
        options.insert(0, (SORTED, "one recording, whose rows stand out of order"))
    chosen = answers.get("part", likely)
    chosen = chosen if chosen in dict(options) else likely
    out.questions.append(
        Question(
            key="part",
            text=f"The times begin again: the file holds {len(parts)} recordings. Which one is it?",
            options=tuple(options),
            likely=chosen,
        )
    )
    if chosen == SORTED:
        return
    if chosen == JOINED:
        _joined(out, parts, usual)
        return
    mine = set(parts[int(chosen) - 1])
    out.seconds = [s if i in mine else None for i, s in enumerate(out.seconds)]


def _fits_sorted(seconds: Sequence[float | None]) -> bool:
    """Whether the times, put in order, follow each other by equal steps, each once."""
    known = sorted(s for s in seconds if s is not None)
    return len(set(known)) == len(known) and steady(known) >= 0.95


def _joined(out: Ordered, parts: Sequence[Sequence[int]], usual: float) -> None:
    """Each part begins one usual step after the one before it ended."""
    known = dict(enumerate(out.seconds))
    out.seconds = [None] * len(out.seconds)
    ends: float | None = None
    for part in parts:
        first = known[part[0]] or 0.0
        shift = 0.0 if ends is None else ends + usual - first
        for i in part:
            out.seconds[i] = ends = (known[i] or 0.0) + shift


def _spread(out: Ordered) -> None:
    """Several rows of one moment, all through the file, were taken within it: they are laid out evenly."""
    known = [(s, i) for i, s in enumerate(out.seconds) if s is not None]
    groups: list[list[int]] = []
    moments: list[float] = []
    for s, i in known:
        if moments and s == moments[-1]:
            groups[-1].append(i)
        else:
            moments.append(s)
            groups.append([i])
    if len(moments) < FEWEST or len(known) < 1.3 * len(moments) or moments != sorted(moments):
        return
    usual = usual_step(moments)
    most = max(len(g) for g in groups[:-1])
    for k, group in enumerate(groups):
        late = most - len(group) if k == 0 else 0  # the first moment may have begun before
        for n, i in enumerate(group):
            out.seconds[i] = moments[k] + usual * (n + late) / most
    out.notes.append("rows of one moment were laid out evenly within it")


def _forward(out: Ordered) -> None:
    """On an axis without dates, a row that does not go forward is left out."""
    if out.axis in ("local", "fixed"):
        return
    before = None
    for i, s in enumerate(out.seconds):
        if s is None:
            continue
        if before is not None and s < before:
            out.seconds[i] = None
        else:
            before = s
