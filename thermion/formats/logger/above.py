"""What stands above the headings: when the recording began, and how far apart its readings are."""

from __future__ import annotations

import re
from collections.abc import Sequence

from thermion.formats.logger.cells import clock_parts, is_date, number, plain, unit_in
from thermion.formats.logger.dates import dated
from thermion.formats.logger.stamps import SECONDS, UNIT_OF_WORD
from thermion.formats.logger.times import Chosen, start_question
from thermion.formats.logger.ways import DAY, Meaning, Stamp

_EVERY = re.compile(
    r"interval|period|every|takt|abtast|messrate|intervalle|intervalo|sampl\w*[ _]?(?:rate|time|freq)|log\w*[ _]?rate"
    r"|\brate\b|frequen",
    re.I,
)
_NUMBER_UNIT = re.compile(r"(\d+(?:[.,]\d+)?)\s*([a-zA-Z]+)?")
_CLOCK = re.compile(r"(?<!\d)\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d+)?(?:\s*[ap]\.?m\.?)?", re.I)
_BEGAN = re.compile(
    r"start|begin|began|date|datum|début|inicio|fecha|first|from|von|launch|created|time|zeit", re.I
)
_UNIT = re.compile(r"\bunits?\b|einheit|unité|unidad|temperatur", re.I)


def interval_of(above: Sequence[Sequence[str]], headings: Sequence[str] = ()) -> float | None:
    """Seconds from one reading to the next, as the file says; None when it does not."""
    for row in (*above, headings):
        text = plain(" ".join(row))
        named = _EVERY.search(text)
        if named is None:
            continue
        rest = text[named.end() :]
        unit = next((UNIT_OF_WORD[w] for w in re.findall(r"[a-z]+", rest.lower()) if w in UNIT_OF_WORD), "")
        clock = _CLOCK.search(rest)
        if clock:
            parts = clock_parts(clock[0])
            if parts and parts.third is not None:
                return parts.first * 3600.0 + parts.second * 60.0 + parts.third + parts.rest
            return None  # 0:10 may be minutes or seconds
        found = _NUMBER_UNIT.search(rest)
        value = number(found[1], "either") if found else None
        if found is None or not value:
            continue
        if (found[2] or "").lower() in ("hz", "hertz") or re.search(r"\bhz\b", rest, re.I):
            return 1.0 / value
        if unit:
            return value * SECONDS[unit]
    return None


def start_of(above: Sequence[Sequence[str]]) -> Stamp | None:
    """When the recording began [s since 1970, of the place], in each way its date can be meant."""
    for i, row in enumerate(above):
        for k, cell in enumerate(row):
            text = re.sub(r"^[^\d]*?:\s*", "", cell) if ":" in cell else cell
            if not is_date(text) or (not _BEGAN.search(" ".join(row[: k + 1])) and len(row) > 2):
                continue
            below = [" ".join(r) for r in above[i + 1 : i + 3]]
            near = " ".join([*row[k + 1 :], *(line for line in below if _BEGAN.search(line))])
            ways = _began(text, near)
            if ways and all(w.seconds[0] is not None for w in ways):
                return Stamp((), ways)
    return None


def _began(text: str, near: str) -> tuple[Meaning, ...]:
    """Each way to read a date, at the time of day that stands behind it or near it."""
    day = re.search(r"\d.*|[^\W\d_]{3,10}\.?\s+\d.*", text)
    clock = None if _CLOCK.search(text) else _CLOCK.search(near)
    at = clock_parts(clock[0]) if clock else None
    hours = 0.0
    if at is not None:
        hours = at.first % 24 * 3600 + at.second * 60 + (at.third or 0.0)
        if at.half == "p" and at.first < 12:
            hours += DAY / 2
    return tuple(
        Meaning(w.key, w.axis, tuple(None if s is None else s + hours for s in w.seconds))
        for w in dated([day[0]] if day else [text], None)
    )


def unit_above(above: Sequence[Sequence[str]]) -> str:
    """The unit of temperature that the file names once for all its columns."""
    found = {
        unit_in(f"({cell})") or unit_in(cell) for row in above if _UNIT.search(" ".join(row)) for cell in row
    }
    found.discard("")
    return found.pop() if len(found) == 1 else ""


def counted(rows: int, every_s: float, start: Stamp | None) -> Chosen:
    """Times by counting rows, where the file says how far apart they are."""
    way = Meaning("counted", "elapsed", tuple(i * every_s for i in range(rows)))
    main = Stamp((), (way,))
    return Chosen(
        main=main,
        own={},
        questions=start_question(start, main),
        began=start,
        words=f"one row every {every_s:g} s",
    )
