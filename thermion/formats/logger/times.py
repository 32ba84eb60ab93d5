"""Which columns are the time, and in which of the ways they can be meant."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from itertools import pairwise
from typing import Protocol

from thermion.formats.asking import Answers, Question
from thermion.formats.logger.cells import Decimals, number
from thermion.formats.logger.order import in_order, rising, steady, usual_step
from thermion.formats.logger.sheet import Sheet, UnreadableFile
from thermion.formats.logger.stamps import SECONDS, by_length, names_index
from thermion.formats.logger.ways import DAY, SAID, Meaning, Stamp

AGREE_S = 1.5  # two columns that tell the same time may be rounded differently


class Placed(Protocol):
    """Something that stands in a column."""

    @property
    def column(self) -> int: ...


@dataclass(frozen=True, kw_only=True)
class Chosen:
    """The time of the rows: `main` for all columns, or `own` by column where each has its own.

    `start` is when the recording began, where only what stands above says so.
    """

    main: Stamp
    own: dict[int, Stamp] = field(default_factory=dict)
    questions: list[Question] = field(default_factory=list)
    began: Stamp | None = None
    words: str = ""
    besides: frozenset[int] = frozenset()  # columns that tell the same time once more, or another

    @property
    def start(self) -> float | None:
        return None if self.began is None else self.began.ways[0].seconds[0]

    @property
    def columns(self) -> set[int]:
        """All columns that tell times."""
        return {c for s in (self.main, *self.own.values()) for c in s.columns} | self.besides

    def stamp_of(self, placed: Placed) -> Stamp:
        return self.own.get(placed.column, self.main)


def choose(
    sheet: Sheet,
    stamps: Sequence[Stamp],
    decimals: Decimals,
    said: Answers,
    now: datetime,
    start: Stamp | None,
) -> Chosen:
    """The time columns and the way in which they are meant; UnreadableFile when there are none."""
    start = past_first(start, said, now)
    every = list(stamps) or _unnamed(sheet, decimals)
    if not every:
        raise UnreadableFile(
            "No column of times was found, and the file does not say how far apart its readings are. "
            "Export it with the time of each reading, or write above the names: Interval; 10 s."
        )
    every = [_graded(s, said, now) for s in every]
    own = _of_channels(sheet, every)
    if own:
        first = next(iter(own.values()))
        return Chosen(
            main=first,
            own=own,
            questions=[*_question(first, said), *start_question(start, first)],
            began=start,
        )
    main, questions = _main(sheet, every, said)
    besides = frozenset(c for s in every for c in s.columns)
    asked = [*questions, *_question(main, said), *start_question(start, main)]
    return Chosen(main=main, own={}, questions=asked, began=start, besides=besides)


def _unnamed(sheet: Sheet, decimals: Decimals) -> list[Stamp]:
    """The first column whose numbers only rise, where no heading names a time; its unit is asked."""
    for i, heading in enumerate(sheet.headings):
        numbers = [number(c, decimals) if c else None for c in sheet.column(i)]
        known = [n for n in numbers if n is not None]
        if len(known) < 3 or len(known) < 0.9 * len(numbers) or names_index(heading):
            continue
        if all(b > a for a, b in pairwise(known)) and steady(known) > 0.5:
            keys = by_length(known)
            ways = [
                Meaning(k, "elapsed", tuple(None if n is None else n * SECONDS[k] for n in numbers))
                for k in keys
            ]
            return [Stamp((i,), tuple(ways))]
        return []
    return []


def _graded(stamp: Stamp, said: Answers, now: datetime) -> Stamp:
    """The ways of a stamp, the one that was answered or is likeliest first; equal ones once."""
    unique: list[Meaning] = []
    for way in stamp.ways:
        if way.read and not any(w.seconds == way.seconds for w in unique):
            unique.append(way)
    given = said.get("time", "")
    if len(unique) > 1 and unique[0].axis in ("local", "fixed"):
        unique.sort(key=lambda w: _doubt(w, now))
    if any(w.key == given for w in unique):
        unique.sort(key=lambda w: w.key != given)
    return replace(stamp, ways=tuple(unique))


def _doubt(way: Meaning, now: datetime) -> tuple[bool, float, float]:
    """How unlikely a way is: falling, unsteady, or in the future."""
    known = [s for s in way.seconds if s is not None]
    future = known[0] > now.replace(tzinfo=UTC).timestamp() + DAY
    return (
        round(rising(known), 2) < 0.98,
        -round(steady(known), 2),
        float(future) + 1e-9 * abs(known[-1] - known[0]),
    )


def past_first(stamp: Stamp | None, said: Answers, now: datetime) -> Stamp | None:
    """The ways of the start of a recording, that which is past first, equal ones once."""
    if stamp is None:
        return None
    ways = sorted(
        stamp.ways, key=lambda w: ((w.seconds[0] or 0) > now.timestamp() + DAY, stamp.ways.index(w))
    )
    unique = [w for i, w in enumerate(ways) if w.seconds not in [x.seconds for x in ways[:i]]]
    given = said.get("start", "")
    unique.sort(key=lambda w: w.key != given)
    return replace(stamp, ways=tuple(unique))


def start_question(start: Stamp | None, main: Stamp) -> list[Question]:
    """The day above the headings, where it can be meant in two ways and the rows have no dates."""
    if start is None or len(start.ways) < 2 or main.ways[0].axis in ("local", "fixed"):
        return []
    options = tuple((w.key, f"{_date_words(w.seconds[0] or 0)} ({SAID[w.key]})") for w in start.ways)
    return [
        Question(
            key="start", text="Which day did the recording begin?", options=options, likely=start.ways[0].key
        )
    ]


def _question(stamp: Stamp, said: Answers) -> list[Question]:
    """What is to be confirmed of the time, with what follows from each answer."""
    if len(stamp.ways) < 2:
        return []
    options = tuple((w.key, f"{SAID[w.key]}: {_span(w, said)}") for w in stamp.ways)
    return [
        Question(
            key="time",
            text="How are the times meant?",
            options=options,
            likely=stamp.ways[0].key,
            columns=stamp.columns,
        )
    ]


def _span(way: Meaning, said: Answers) -> str:
    """From when to when a file goes in one way of reading it."""
    known = [s for s in in_order(way.seconds, way.axis, said).seconds if s is not None]
    if not known:
        return "nothing can be read"
    first, last = min(known), max(known)
    long = f"{length_words(last - first)}, a reading every {length_words(usual_step(known))}"
    if way.axis in ("local", "fixed"):
        return f"from {_date_words(first)} to {_date_words(last)}; {long}"
    if way.axis == "clock":
        return f"from {_clock_words(first)} to {_clock_words(last)}; {long}"
    return long


def _date_words(seconds: float) -> str:
    at = datetime.fromtimestamp(seconds, UTC)
    return f"{at.day} {at:%B %Y, %H:%M}"


def _clock_words(seconds: float) -> str:
    whole = int(seconds) % int(DAY)
    return f"{whole // 3600}:{whole // 60 % 60:02d}"


def length_words(seconds: float) -> str:
    """A length of time in the unit one would say it in."""
    for size, name in ((DAY, "days"), (3600.0, "h"), (60.0, "min"), (1.0, "s")):
        if seconds >= 2 * size or (name == "s" and seconds >= 1) or (name == "min" and seconds >= 60):
            return f"{seconds / size:.4g} {name}"
    return f"{seconds * 1000:.4g} ms"


def _of_channels(sheet: Sheet, stamps: Sequence[Stamp]) -> dict[int, Stamp]:
    """The stamp of each column, where every stamp is followed by values of its own; else nothing."""
    if len(stamps) < 2:
        return {}
    taken = {c for s in stamps for c in s.columns}
    ordered = sorted(stamps, key=lambda s: min(s.columns))
    edges = [min(s.columns) for s in ordered] + [len(sheet.headings)]
    own: dict[int, Stamp] = {}
    for stamp, begin, end in zip(ordered, edges, edges[1:], strict=False):
        mine = [c for c in range(begin, end) if c not in taken and any(sheet.column(c)[:400])]
        if not mine:
            return {}
        own |= dict.fromkeys(mine, stamp)
    if min(edges) > 0 and any(
        c < min(edges) and not names_index(sheet.headings[c]) for c in range(min(edges))
    ):
        return {}
    return own


def _main(sheet: Sheet, stamps: Sequence[Stamp], said: Answers) -> tuple[Stamp, list[Question]]:
    """Of several columns that tell the time of every row, the one that says most; they must agree."""
    if len(stamps) == 1:
        return stamps[0], []
    order = {"local": 0, "fixed": 0, "clock": 1, "elapsed": 2}
    ranked = sorted(stamps, key=lambda s: order[s.ways[0].axis])
    names = {str(min(s.columns)): " + ".join(sheet.headings[c] for c in s.columns) for s in ranked}
    main = next((s for s in ranked if str(min(s.columns)) == said.get("column", "")), ranked[0])
    agreeing = [w for w in main.ways if all(agrees(w, other) for other in ranked if other is not main)]
    if agreeing:
        others = [s for s in ranked if s is not main and len(s.ways) == 1]
        return (replace(main, ways=tuple(agreeing)) if others else main), []
    question = Question(
        key="column",
        text="Two columns tell different times. Which one is right?",
        options=tuple(names.items()),
        likely=str(min(main.columns)),
    )
    return main, [question]


def agrees(way: Meaning, other: Stamp) -> bool:
    """Whether some way of another column tells the same time, counted from its first row."""
    mine = in_order(way.seconds, way.axis, {}).seconds
    for theirs in other.ways:
        pairs = [
            (a, b)
            for a, b in zip(mine, in_order(theirs.seconds, theirs.axis, {}).seconds, strict=True)
            if a is not None and b is not None
        ]
        if len(pairs) < 2:
            continue
        (a0, b0), step = pairs[0], usual_step([a for a, _ in pairs])
        room = max(AGREE_S, 0.05 * step, 60.0 if way.key == "h:mm" or theirs.key == "h:mm" else 0.0)
        if all(abs((a - a0) - (b - b0)) <= room for a, b in pairs):
            return True
    return False
