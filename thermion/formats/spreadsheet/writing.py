"""How numbers are written in a table: decimals, units; made into what the class would type."""

from __future__ import annotations

import re
from collections.abc import Sequence

from thermion.formats.spreadsheet.cells import SheetCell, Tab
from thermion.formats.spreadsheet.placing import TableRead

_COMMA, _POINT = re.compile(r"[-−+]?\d+,\d+\D*"), re.compile(r"[-−+]?\d+\.\d+\D*")
_THREE = re.compile(r"[-−+]?\d{1,3}[.,]\d{3}\D*")


def decimals(reading: TableRead, tabs: Sequence[Tab]) -> None:
    """Note which sign stands before decimals in what was typed as text; asked where both may."""
    texts = [c.text for tab in tabs for row in tab.rows for c in row if c.sort == "text"]
    commas = [t for t in texts if _COMMA.fullmatch(t)]
    points = [t for t in texts if _POINT.fullmatch(t)]
    own = reading.wanted.setting.decimal == "comma"
    reading.comma = own
    if not commas and not points:
        return
    written = commas or points
    # 1,250 everywhere can be thousands as well as decimals: then the sign says nothing.
    if not (commas and points) and not all(_THREE.fullmatch(t) for t in written):
        reading.comma = bool(commas)
        return
    question = f"What is “{written[0]}” in this table?"
    if commas and points:
        question = f"“{commas[0]}” and “{points[0]}”: which sign stands before decimals here?"
    options = [("comma", "The comma stands before decimals"), ("point", "The point stands before decimals")]
    given = reading.ask("decimals", question, options, "comma" if own else "point")
    reading.comma = given == "comma" if given else own


def as_typed(reading: TableRead, cell: SheetCell, unit: str = "") -> str:
    """A cell as the class would type it, with the unit of its heading if it has none of its own."""
    text = cell.text
    if cell.sort == "text":
        inside, sign = (",", ".") if reading.comma else (".", ",")
        text = text.replace(sign, "") if re.fullmatch(rf"[-−+]?\d{{1,3}}(\{sign}\d{{3}})+\D*", text) else text
        text = re.sub(rf"(?<=\d)\{inside}(?=\d)", _own(reading), text)
    elif cell.sort == "number":
        text = text.replace(".", _own(reading))
    elif cell.sort == "clock":
        text = _clock(text)
    return f"{text} {unit}" if unit and text[-1:].isdigit() and ":" not in text else text


def _own(reading: TableRead) -> str:
    return "," if reading.wanted.setting.decimal == "comma" else "."


def _clock(text: str) -> str:
    """A spreadsheet turns 3:10 into an hour of the day; of a test it is minutes and seconds."""
    hours, minutes, seconds = (int(part) for part in text.split(":"))
    if seconds == 0 and hours:
        return f"{hours}:{minutes:02d}"
    return f"{hours * 60 + minutes}:{seconds:02d}"


def plain_units(reading: TableRead, cells: Sequence[SheetCell], unit: str) -> str:
    """In which unit temperatures without one are, where others of the table carry one; asked then."""
    setting = reading.wanted.setting
    named = {found[1] for c in cells if (found := re.fullmatch(r"[-−+]?[\d.,]+\s*°?\s*([CcFf])", c.text))}
    plain = [c for c in cells if c.sort == "number" or re.fullmatch(r"[-−+]?[\d.,]+", c.text)]
    own = "F" if setting.temp_unit == "degF" else "C"
    if unit or not named or not plain or {n.upper() for n in named} == {own}:
        return unit
    given = reading.ask(
        "plain",
        f"Some temperatures say °{sorted(named)[0].upper()}, others nothing, as “{plain[0].text}”. What are those?",
        [("C", "°C"), ("F", "°F")],
        own,
    )
    return f"°{given or own}"
