"""What one cell of a file can be: a number in either way of writing, a unit, a gap, a device's own sign."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

Decimals = Literal["point", "comma", "either"]
MISSING = {
    *(
        "",
        "-",
        "--",
        "---",
        "----",
        "–",
        "—",
        "na",
        "n/a",
        "#n/a",
        "nan",
        "-nan",
        "null",
        "none",
        "nil",
        "ol",
    ),
    *(
        "o.l.",
        "o.l",
        "-ol",
        "over",
        "under",
        "err",
        "error",
        "e1",
        "e2",
        "fault",
        "open",
        "short",
        "inf",
        "-inf",
    ),
    *("+inf", "infinity", "missing", "lost", "?", "??", "***", "****", "*****", "#wert!", "#value!", "#ref!"),
    *("#div/0!", "no data", "nodata", "x", "xx", "invalid", "disconnected", "unplugged", "."),
}
NO_PROBE = "what a device writes when no probe answers"
NO_VALUE = "what a device writes when it has no reading"
SIGNS_C = {  # what devices show in place of a temperature [°C], by general knowledge of their makers' data sheets
    -127.0: NO_PROBE,
    -999.0: NO_VALUE,
    -999.9: NO_VALUE,
    999.0: NO_VALUE,
    999.9: NO_VALUE,
    -9999.0: NO_VALUE,
    9999.0: NO_VALUE,
    -99.9: NO_VALUE,
    -273.15: NO_VALUE,
    3276.7: NO_VALUE,
    -3276.8: NO_VALUE,
    32767.0: NO_VALUE,
    -32768.0: NO_VALUE,
    327.67: NO_VALUE,
    -327.68: NO_VALUE,
    6553.5: NO_VALUE,
    655.35: NO_VALUE,
    65535.0: NO_VALUE,
    -196.6: NO_PROBE,  # −127 °C in °F
}
FIRST_SIGN = {"degC": 85.0, "degF": 185.0, "K": 358.15}  # what some probes show before their first reading
_NUMBER = re.compile(r"[+-]?(?:\d[\d.,' ]*|[.,]\d+)(?:[eE][+-]?\d+)?")
_CLOCK = re.compile(
    r"(?:(?P<days>\d+)\s*(?:d|days?|\.)[ ,]*)?(?P<a>\d{1,4}):(?P<b>\d{2})(?::(?P<c>\d{2}))?(?:[.,](?P<f>\d+))?"
    r"\s*(?P<half>[ap]\.?\s?m\.?)?",
    re.IGNORECASE,
)
_HMS = re.compile(
    r"(?:(\d+)\s*h)?\s*(?:(\d+)\s*m(?:in)?)?\s*(?:(\d+(?:[.,]\d+)?)\s*s(?:ec)?)?", re.IGNORECASE
)
_DOTTED = re.compile(r"(\d{1,2})\.(\d{2})\.(\d{2})")  # 10.30.00
_DATE = re.compile(
    r"\d{4}[-/.]\d{1,2}[-/.]\d{1,2}(?!\d)|\d{1,2}[-/.]\d{1,2}[-/.](?:\d{4}|\d{2})(?!\d)"
    r"|\d{1,2}[-. ]*(?:[^\W\d_]{3,10})\.?[-. ,]*\d{2,4}|[^\W\d_]{3,10}\.?\s+\d{1,2},?\s+\d{4}"
    r"|(?:19|20)\d{6}(?:[T _-]?\d{4,6})?$"
)
_DEGREE = r"(?:°|º|˚|Â°|Âº|\ufffd|\?|o|deg(?:ree)?s?\.?|grad)"
_TEMP = re.compile(
    rf"(?:^|(?<=[^\w])|(?<=_)|(?<=\d))(?:℃|{_DEGREE}\s*_?c(?:elsius|entigrade)?|celsius|centigrade)(?![a-z])",
    re.I,
)
_FAHR = re.compile(
    rf"(?:^|(?<=[^\w])|(?<=_)|(?<=\d))(?:℉|{_DEGREE}\s*_?f(?:ahrenheit)?|fahrenheit)(?![a-z])", re.I
)
_KELVIN = re.compile(rf"(?:^|(?<=[^\w])|(?<=_)|(?<=\d))(?:{_DEGREE}\s*_?k|kelvin)(?![a-z])", re.I)
_BARE = re.compile(r"[(\[{/,]\s*([CFK])\s*[)\]}]?\s*$")  # T (C), T/K, T [F]
_AFTER_TEMP = re.compile(
    r"(?:^|[\W_\d])(?:t|temp|temps|temperatur[ae]?|temperature|température|tmp)[\W_]*\d*[\W_]+([cfk])$", re.I
)
_CAMEL = re.compile(r"(?<=[a-z])[Tt]emp(?:erature)?([CFK])$|^[Tt]emp(?:erature)?([CFK])$")
_WHOLE_UNIT = re.compile(rf"{_DEGREE}?\s*[CFK]|℃|℉|(?:{_DEGREE}\s*)?(?:celsius|fahrenheit|kelvin)", re.I)
_LETTER = {"C": "degC", "F": "degF", "K": "K"}
_OTHER = re.compile(
    r"%|\brh\b|humid|feucht|hpa|\bmbar\b|\bpa\b|press|[(\[/]\s*m?[vaw]\s*[)\]]?$|volt|batter|akku|\blx\b|\blux\b"
    r"|light|licht|co2|\bppm\b|dew|taupunkt|rssi|signal|status|flag|alarm|marker|event|remark|comment|note",
    re.I,
)


def plain(cell: str) -> str:
    """A cell without what only looks: odd minus signs, hard spaces."""
    return cell.replace("−", "-").replace("\u2010", "-").replace("\u00a0", " ").replace("\u202f", " ").strip()


@lru_cache(maxsize=4096)
def is_number(cell: str) -> bool:
    """Whether a cell is a number in some way of writing, with a unit of temperature or without."""
    text = plain(cell)
    return number(text, "either") is not None or (bool(text) and cell_unit(text) != "" and _value(text) != "")


@lru_cache(maxsize=4096)
def is_clock(cell: str) -> bool:
    text = plain(cell)
    return (
        _CLOCK.fullmatch(text) is not None
        or _DOTTED.fullmatch(text) is not None
        or (bool(text) and text[-1:].isalpha() and text[:1].isdigit() and _HMS.fullmatch(text) is not None)
    )


@lru_cache(maxsize=4096)
def is_date(cell: str) -> bool:
    found = _DATE.search(cell)
    return found is not None and found.start() <= 11 and _DOTTED.fullmatch(plain(cell)) is None


class ClockParts(NamedTuple):
    """A clock as it is written: 1:02:03.5, 10:05 pm. What its parts are, hours or minutes, is not said here.

    `third` is None where there are two parts; `rest` is the fraction of the last, `half` of the day a or p.
    """

    first: int
    second: int
    third: float | None
    days: int = 0
    rest: float = 0.0
    half: str = ""


def clock_parts(cell: str) -> ClockParts | None:
    """A clock in its parts; None where the cell is none."""
    text = plain(cell)
    found = _CLOCK.fullmatch(text)
    if found is not None:
        third = None if found["c"] is None else float(found["c"])
        rest = float(f"0.{found['f']}") if found["f"] else 0.0
        half = (found["half"] or "")[:1].lower()
        days = int(found["days"] or 0)
        return ClockParts(int(found["a"]), int(found["b"]), third, days=days, rest=rest, half=half)
    dotted = _DOTTED.fullmatch(text)
    if dotted is not None:
        return ClockParts(int(dotted[1]), int(dotted[2]), float(dotted[3]))
    spelled = _HMS.fullmatch(text) if text and text[:1].isdigit() else None
    if spelled is not None and any(spelled.groups()):
        h, m, s = spelled.groups()
        seconds = float((s or "0").replace(",", "."))
        if not h and (not m or seconds >= 60) and float(m or 0) + seconds / 60 >= 1:  # 90 s is 1 min 30 s
            minutes, seconds = divmod(60 * int(m or 0) + seconds, 60)
            return ClockParts(int(minutes) // 60, int(minutes) % 60, seconds)
        return ClockParts(int(h or 0), int(m or 0), seconds)
    return None


@lru_cache(maxsize=65536)
def number(cell: str, decimals: Decimals) -> float | None:
    """A number; None when it is none, or when its separators cannot be meant so."""
    try:  # the plain form, which nearly every cell has
        value = float(cell)
    except ValueError:
        pass
    else:
        if decimals != "comma" or "." not in cell:
            return value if abs(value) < 1e20 and "_" not in cell else None
    text = plain(cell)
    if not _NUMBER.fullmatch(text):
        return None
    text = re.sub(r"(?<=\d)[ '](?=\d{3}(?!\d))", "", text)
    sign = {"comma": ",", "point": "."}.get(decimals, "")
    if not sign:
        sign = "," if text.rfind(",") > text.rfind(".") else "."
    other = "." if sign == "," else ","
    if other in text:
        if not re.fullmatch(rf"[+-]?\d{{1,3}}(?:\{other}\d{{3}})+(?:\{sign}\d+)?", text):
            return None
        text = text.replace(other, "")
    if text.count(sign) > 1:
        return None
    try:
        value = float(text.replace(sign, "."))
    except ValueError:
        return None
    return value if abs(value) < 1e20 else None


def _value(cell: str) -> str:
    """The number of a cell that ends in a unit of temperature, as text; "" when it does not."""
    found = re.fullmatch(
        rf"(.*?\d[.,]?)\s*(?:{_DEGREE}?\s*[CFK]|℃|℉|celsius|fahrenheit|kelvin)", plain(cell), re.I
    )
    return "" if found is None or number(found[1], "either") is None else found[1]


def cell_unit(cell: str) -> str:
    """The unit of temperature that stands behind the number of a cell."""
    if not cell or cell[-1].isdigit():
        return ""
    found = re.search(rf"\d[.,]?\s*{_DEGREE}?\s*(c|f|k|℃|℉|celsius|fahrenheit|kelvin)$", plain(cell), re.I)
    if found is None:
        return ""
    return {"℃": "degC", "℉": "degF"}.get(found[1]) or _LETTER[found[1][0].upper()]


@lru_cache(maxsize=65536)
def value(cell: str, decimals: Decimals) -> tuple[float | None, str]:
    """A cell's number and the unit that stands in it."""
    found = number(cell, decimals)
    if found is not None or not cell or not cell[-1:].isalpha():
        return found, ""
    text = _value(cell)
    return (number(text, decimals), cell_unit(cell)) if text else (None, "")


def unit_in(heading: str) -> str:
    """The unit of temperature that a heading names beyond doubt; "" when it names none.

    A single letter counts in brackets, behind a stroke or behind a word for temperature, since
    “Box C” and “Probe_F” are names.
    """
    for pattern, unit in ((_KELVIN, "K"), (_FAHR, "degF"), (_TEMP, "degC")):
        if pattern.search(heading):
            return unit
    found = _BARE.search(heading) or _AFTER_TEMP.search(heading.strip())
    if found:
        return _LETTER[found[1].upper()]
    camel = _CAMEL.search(heading.strip())
    return _LETTER[camel[1] or camel[2]] if camel else ""


def unit_word(cell: str) -> str:
    """The unit of temperature that a cell is, and nothing else."""
    bare = cell.strip("()[]{} .")
    if not _WHOLE_UNIT.fullmatch(bare):
        return ""
    return _LETTER.get(bare[-1].upper(), "") or unit_in(bare)


def shared_letter(headings: Sequence[str]) -> str:
    """The unit that the same letter ends several different names with: A_C, B_C, D_C."""
    ends = {re.sub(r"^.*[_ ]", "", h.strip()) for h in headings}
    stems = {re.sub(r"[_ ][^_ ]*$", "", h.strip()) for h in headings}
    (end,) = ends if len(ends) == 1 else ("",)
    if len(headings) < 2 or len(stems) < len(headings) or any(h.strip() == end for h in headings):
        return ""
    return _LETTER.get(end.upper(), "") if len(end) == 1 else ""


def is_other(heading: str) -> bool:
    """Whether a heading names something that is no temperature."""
    return not unit_in(heading) and _OTHER.search(heading) is not None


_UNIT_WORDS = re.compile(
    r"[(\[]?(?:°|º|deg)?\s?(?:c|f|k|s|sec|seconds?|min|minutes?|h|hours?|ms|celsius|fahrenheit|kelvin|%|%rh|v|mv|hpa"
    r"|lx|lux|date|time|hh:mm:ss|hh:mm|mm:ss|[dmy./-]{6,10}(?: hh:mm(?::ss)?)?|-|–|ppm|g|ml)[)\]]?",
    re.I,
)


def unit_row(cells: Sequence[str]) -> bool:
    """Whether a row holds nothing but units."""
    filled = [c for c in cells if c]
    return bool(filled) and all(_UNIT_WORDS.fullmatch(c) or unit_word(c) for c in filled)


def decimals_of(cells: Iterable[str]) -> Decimals | None:
    """How decimals are written; None when it cannot be told.

    A sign that is followed by other than three digits, or preceded by a nought or by more than three, is a
    decimal sign; one that stands before the last other sign parts thousands.
    """
    sure: set[str] = set()
    doubt: set[str] = set()
    grouped = False
    for cell in cells:
        text = plain(cell)
        text = text if _NUMBER.fullmatch(text) else _value(text)
        signs = [ch for ch in text if ch in ",."]
        if len(signs) == 1:
            (sure if _is_decimal(text, signs[0]) else doubt).add(signs[0])
        elif len(set(signs)) == 2:
            sure.add(signs[-1])
        elif signs:
            grouped = True
            sure.add("." if signs[0] == "," else ",")
    if len(sure) == 2 and grouped:
        sure = {","}
    both: Decimals | None = "either" if len(sure or doubt) == 2 else None
    if both or not (sure or doubt):
        return both or "point"
    return None if not sure else ("comma" if "," in sure else "point")


def _is_decimal(text: str, sign: str) -> bool:
    """Whether the only sign of a number cannot part thousands."""
    before, after = re.sub(r"[eE].*", "", text).lstrip("+-").split(sign)
    return len(after) != 3 or len(before) > 3 or before in ("", "0") or "e" in text.lower()
