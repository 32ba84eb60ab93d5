"""A logger's file as channels of temperatures in time: read right, or asked about, or refused."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime

from thermion.formats.asking import Answers, Question
from thermion.formats.logger import above as preamble
from thermion.formats.logger.cells import Decimals, decimals_of, is_clock, is_date
from thermion.formats.logger.columns import ColumnGroup, groups_of
from thermion.formats.logger.evidence import weighed
from thermion.formats.logger.order import Ordered, in_order, usual_step
from thermion.formats.logger.sheet import Sheet, UnreadableFile, sheet_of
from thermion.formats.logger.stamps import names_time, stamps_of
from thermion.formats.logger.times import Chosen, choose, past_first
from thermion.formats.logger.values import Lost, Track, read_values
from thermion.formats.logger.ways import DAY, Stamp

MAX_LISTED = 200
STARTED_S = 300.0  # of a clock: below it was started with the recording


@dataclass(frozen=True, kw_only=True)
class Channel:
    """A column, or one device of a long table: its times from the file's first reading [s], its values
    in `unit` ("degC", "degF", "K", or "" if nobody said), and where that unit was found."""

    index: int
    heading: str
    unit: str
    unit_from: str
    time_s: tuple[float, ...]
    value: tuple[float, ...]
    lost: tuple[Lost, ...] = ()
    lost_count: int = 0


@dataclass(frozen=True)
class Skipped:
    line: int
    reason: str


@dataclass(frozen=True, kw_only=True)
class LoggerFile:
    """What a file holds, read in the likely way; `questions` are what a person has to confirm first.

    `starts_at` is the moment of the first reading: of the world where the file says so, else of the place
    (without a zone), None where the file has no date; `of_day_s` the time of day where there is a clock only.
    """

    channels: tuple[Channel, ...]
    questions: tuple[Question, ...]
    skipped: tuple[Skipped, ...]
    skipped_count: int
    starts_at: datetime | None
    of_day_s: float | None
    time_heading: str
    time_way: str
    separator: str
    decimals: Decimals
    interval_s: float
    left_out: tuple[tuple[str, str], ...]
    notes: tuple[str, ...]
    layout: str

    @property
    def length_s(self) -> float:
        return max((c.time_s[-1] for c in self.channels if c.time_s), default=0.0)

    @property
    def rows(self) -> tuple[tuple[float, tuple[float | None, ...]], ...]:
        """Every moment with the value of each channel at it."""
        moments = sorted({t for c in self.channels for t in c.time_s})
        at = [dict(zip(c.time_s, c.value, strict=True)) for c in self.channels]
        return tuple((t, tuple(each.get(t) for each in at)) for t in moments)


def read_logger(
    data: bytes,
    answers: Answers | None = None,
    *,
    zone: str = "",
    usual_unit: str = "degC",
    now: datetime | None = None,
) -> LoggerFile:
    """Read a file.

    Parameters
    ----------
    data : the file as it is.
    answers : what a person answered to the questions, by their keys.
    zone : name of the time zone the logger stood in, which tells when its clocks were changed.
    usual_unit : what is proposed where nobody says the unit.
    now : no reading is later; of two orders of day and month the one that is past is proposed.

    Returns
    -------
    LoggerFile, read in the likely way where something is open: ask its `questions` and read again.

    Raises
    ------
    UnreadableFile when there is nothing in it that could be used; its message says what to do.
    """
    said, sheet = answers or {}, sheet_of(data)
    decimals, questions = _decimals(sheet, said)
    chosen = _times(sheet, decimals, said, now or datetime.now(UTC))
    questions += chosen.questions
    groups, more, left_out = groups_of(sheet, chosen, decimals, said)
    questions += more
    if not groups:
        raise UnreadableFile("No column with numbers beside the time was found.")
    return _file(
        sheet,
        decimals,
        chosen,
        groups,
        questions=questions,
        left_out=left_out,
        said=said,
        zone=zone,
        usual_unit=usual_unit,
    )


def _decimals(sheet: Sheet, said: Answers) -> tuple[Decimals, list[Question]]:
    """How decimals are written; asked where thousands and thousandths look the same."""
    sample = sheet.body[:: max(1, len(sheet.body) // 400)]
    named = [names_time(h) for h in sheet.headings]
    cells = [
        (i, c) for _, row in sample for i, c in enumerate(row) if c and not is_date(c) and not is_clock(c)
    ]
    found = decimals_of(c for _, c in cells)
    if found is not None:
        return found, []
    sign = "," if any("," in c for _, c in cells) else "."
    decimal: Decimals = "comma" if sign == "," else "point"
    thousands: Decimals = "point" if sign == "," else "comma"
    in_values = any(sign in c for i, c in cells if not (i < len(named) and named[i]))
    if in_values:  # 20,125 beside a time is no temperature of twenty thousand degrees
        return decimal, []
    example = next(c for _, c in cells if sign in c)
    question = Question(
        key="decimals",
        text=f"What is {example} in this file?",
        options=((decimal, "a decimal number"), (thousands, "a whole number, with its thousands parted")),
        likely=said.get("decimals", decimal),
    )
    given = question.answer(said)
    return (thousands if given == thousands else decimal), [question]


def _times(sheet: Sheet, decimals: Decimals, said: Answers, now: datetime) -> Chosen:
    stamps = weighed(sheet, stamps_of(sheet, decimals))
    start = past_first(preamble.start_of(sheet.above), said, now)
    if not stamps:
        every = preamble.interval_of(sheet.above, sheet.headings)
        if every is not None:
            return preamble.counted(len(sheet.body), every, start)
    return choose(sheet, stamps, decimals, said, now, start)


def _file(
    sheet: Sheet,
    decimals: Decimals,
    chosen: Chosen,
    groups: Sequence[ColumnGroup],
    questions: list[Question],
    left_out: Sequence[tuple[str, str]],
    said: Answers,
    zone: str,
    usual_unit: str,
) -> LoggerFile:
    laid = _laid(sheet, chosen, groups, said, zone)
    channels, asked = read_values(sheet, laid.tracks, decimals, said, usual_unit)
    channels = [c for c in channels if c.value]
    if not channels:
        first_lost = next(iter(laid.skipped), None)
        why = f" {first_lost.reason.capitalize()} in line {first_lost.line}." if first_lost else ""
        raise UnreadableFile(f"None of the rows could be used.{why}")
    first = min(c.time_s[0] for c in channels)
    shifted = [replace(c, time_s=tuple(t - first for t in c.time_s)) for c in channels]
    starts_at, of_day = _begin(chosen, first)
    if sheet.cut:
        laid.skipped.append(Skipped(sheet.cut, "the line is cut off"))
    skipped = sorted(set(laid.skipped), key=lambda s: s.line)
    return LoggerFile(
        channels=tuple(shifted),
        questions=(*questions, *laid.questions.values(), *asked),
        skipped=tuple(skipped[:MAX_LISTED]),
        skipped_count=len(skipped),
        starts_at=starts_at,
        of_day_s=of_day,
        time_heading=" + ".join(sheet.headings[i] for i in chosen.main.columns) or chosen.words,
        time_way=chosen.main.ways[0].key,
        separator=sheet.separator,
        decimals=decimals,
        interval_s=usual_step(max((c.time_s for c in shifted), key=len)),
        left_out=tuple(left_out),
        notes=tuple(laid.notes),
        layout=layout_of(sheet),
    )


@dataclass
class _Laid:
    """Rows in the order of time: each channel's, what was asked and noted on the way, rows that are lost."""

    tracks: list[Track] = field(default_factory=list)
    questions: dict[str, Question] = field(default_factory=dict)
    notes: dict[str, None] = field(default_factory=dict)  # in order, each once
    skipped: list[Skipped] = field(default_factory=list)


def _laid(sheet: Sheet, chosen: Chosen, groups: Sequence[ColumnGroup], said: Answers, zone: str) -> _Laid:
    """Each channel along its own time; a time that several share is put in order once."""
    out = _Laid()
    known: dict[tuple[int, ...], Ordered] = {}
    for group in groups:
        stamp = chosen.stamp_of(group)
        rows = group.rows if group.split else range(len(sheet.body))
        key = (id(stamp), *(group.rows if group.split else ()))
        if key not in known:
            times = stamp.ways[0].seconds
            picked = [times[i] for i in rows]
            known[key] = found = in_order(picked, stamp.ways[0].axis, said, zone)
            for question in found.questions:
                out.questions.setdefault(question.key, question)
            out.notes.update(dict.fromkeys(found.notes))
            out.skipped += _lost_rows(sheet, rows, picked, found.seconds)
        cells = sheet.column(group.column)
        track = [
            (sheet.body[i][0], s, cells[i])
            for i, s in zip(rows, known[key].seconds, strict=True)
            if s is not None
        ]
        out.tracks.append((group, sorted(track, key=lambda x: x[1])))
    return out


def _lost_rows(
    sheet: Sheet, rows: Iterable[int], written: Sequence[float | None], kept: Sequence[float | None]
) -> Iterator[Skipped]:
    for i, was, now in zip(rows, written, kept, strict=True):
        line, cells = sheet.body[i]
        if was is None and any(cells):
            yield Skipped(line, "the time cannot be read")
        elif now is None:
            yield Skipped(line, "the time does not go forward")


def _begin(chosen: Chosen, first: float) -> tuple[datetime | None, float | None]:
    """The moment of the first reading, or its time of day, as far as the file tells.

    A clock that begins at nought was most likely started with the recording, and tells no time of day.
    """
    axis, start = chosen.main.ways[0].axis, chosen.start
    if axis == "fixed":
        return datetime.fromtimestamp(first, UTC), None
    if axis == "clock" and start is None:
        return None, first % DAY if first > STARTED_S else None
    begun = {"local": 0.0, "clock": (start or 0.0) // DAY * DAY}.get(axis, start)
    if begun is None:
        return None, None
    return datetime.fromtimestamp(begun + first, UTC).replace(tzinfo=None), None


def layout_of(sheet: Sheet) -> str:
    """What tells files of the same logger from others: their column names, units and separator."""
    said = "\n".join([sheet.separator, *(h.casefold() for h in sheet.headings), "", *sheet.units])
    return hashlib.sha256(said.encode()).hexdigest()[:24]


def settled(file: LoggerFile, answers: Mapping[str, str]) -> bool:
    """Whether everything that the file leaves open was answered."""
    return all(q.answer(answers) is not None for q in file.questions)


__all__ = [
    "Channel",
    "LoggerFile",
    "Skipped",
    "Stamp",
    "UnreadableFile",
    "layout_of",
    "read_logger",
    "settled",
]
