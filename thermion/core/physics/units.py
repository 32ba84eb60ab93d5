"""Units at the edge: reading what people type, and showing SI values in the class's own units.

Temperatures live in °C inside; a temperature and a temperature difference are different
quantities (a rise of 9 °F is 5 K). Factors come from Pint [1]_ and are cached as a straight line.

.. [1] H. E. Grecco et al., Pint, https://pint.readthedocs.io
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from math import floor, isfinite
from typing import Any, Literal, get_args

from thermion.core.values import single

TempUnit = Literal["degC", "degF"]
Decimal = Literal["point", "comma"]
TEMP_UNITS: tuple[TempUnit, ...] = get_args(TempUnit)

LABELS = {
    "degC": "°C",
    "degF": "°F",
    "delta_degC": "°C",
    "delta_degF": "°F",
    "minute": "min",
    "second": "s",
    "centimeter": "cm",
    "millimeter": "mm",
    "meter": "m",
    "gram": "g",
    "kilogram": "kg",
    "centimeter**2": "cm²",
    "meter**2": "m²",
    "watt/meter**2": "W/m²",
    "watt/delta_degC": "W/°C",
    "watt/delta_degF": "W/°F",
    "delta_degC/minute": "°C/min",
    "delta_degF/minute": "°F/min",
    "count": "units",
    "point": "points",
    "degree": "°",
    "dimensionless": "",
    "milliliter": "mL",
    "liter": "L",
    "milliliter/minute": "mL/min",
    "millimeter/hour": "mm/h",
    "meter/second": "m/s",
    "centimeter/second": "cm/s",
    "meter/second**2": "m/s²",
    "newton": "N",
    "millinewton": "mN",
    "newton/meter**2": "N/m²",
    "watt": "W",
    "milliwatt": "mW",
    "joule": "J",
    "percent": "%",
    "delta_degC/watt": "°C/W",
    "delta_degF/watt": "°F/W",
    "turn/minute": "turns/min",
    "hour": "h",
    "delta_degC/(watt/meter**2)": "°C per W/m²",
    "delta_degF/(watt/meter**2)": "°F per W/m²",
}
_STORED = {
    "centimeter": "meter",
    "millimeter": "meter",
    "centimeter**2": "meter**2",
    "gram": "kilogram",
    "milliliter": "meter**3",
    "liter": "meter**3",
    "milliliter/minute": "meter**3/second",
    "millimeter/hour": "meter/second",
    "centimeter/second": "meter/second",
    "millinewton": "newton",
    "milliwatt": "watt",
    "percent": "dimensionless",
    "turn/minute": "turn/second",
}
# What people write after a number, in small letters without blanks and dots.
_TYPED_UNITS = {
    **{label.lower(): unit for unit, label in LABELS.items() if label and not unit.startswith("delta_deg")},
    **dict.fromkeys(("c", "degc", "celsius", "ºc"), "degC"),
    **dict.fromkeys(("f", "degf", "fahrenheit", "ºf"), "degF"),
    "k": "kelvin",
    **dict.fromkeys(("sec", "secs", "seconds", "second"), "second"),
    **dict.fromkeys(("mins", "minutes", "minute"), "minute"),
    **dict.fromkeys(("cc", "cm³", "cm3"), "milliliter"),
    **dict.fromkeys(("percent", "pct"), "percent"),
    **dict.fromkeys(("deg", "degrees"), "degree"),
}
_NUMBER = re.compile(r"^([+\-−–]?)(\d+(?:[.,]\d*)?|[.,]\d+)\s*([^\d\s].*)?$")


@cache
def _registry() -> Any:
    from pint import UnitRegistry

    registry = UnitRegistry(on_redefinition="ignore")  # its point is a typographic one
    registry.define("point = [impact]")
    return registry


@cache
def _line(source: str, target: str) -> tuple[float, float]:
    """Scale and offset so that target = scale·source + offset."""
    registry = _registry()
    try:
        zero = registry.Quantity(0.0, source).to(target).magnitude
        one = registry.Quantity(1.0, source).to(target).magnitude
    except Exception as error:  # pint raises many kinds; all mean the same here
        raise ValueError(f"unit: cannot turn {source} into {target} ({error})") from None
    return float(one - zero), float(zero)


def convert(value: float, source: str, target: str) -> float:
    """`value` [source unit] in the target unit. ValueError when they do not match.

    >>> round(convert(9, "delta_degF", "delta_degC"), 6)
    5.0
    """
    if source == target:
        return single("value", value)
    scale, offset = _line(source, target)
    return single("value", value) * scale + offset


def stored_unit(unit: str) -> str:
    """The unit a quantity shown in `unit` is kept in: SI, with °C and minutes as they are."""
    return _STORED.get(unit, unit)


def unit_label(unit: str) -> str:
    """How a unit is written; one that this table does not hold in Pint's short way."""
    return LABELS[unit] if unit in LABELS else _short(unit)


@cache
def _short(unit: str) -> str:
    registry = _registry()
    try:
        return f"{registry.Unit(unit):~P}"
    except Exception:  # pint raises many kinds; then the name itself has to do
        return unit


class NotANumber(ValueError):  # noqa: N818 - reads better at the call
    """What was typed cannot be read as the quantity asked for; the message says why."""


def parse_number(text: str, decimal: Decimal = "point") -> tuple[float, str]:
    """Number and unit suffix (may be empty) of what a person typed.

    One point or one comma counts as the decimal sign in either class, except where it could
    be a thousands sign ("1,250" in a class that writes 1.250): that is asked back.
    Raises NotANumber with a sentence for the person.
    """
    typed = text.strip().replace("\u00a0", " ")
    if not typed:
        raise NotANumber("Nothing typed yet.")
    match = _NUMBER.match(typed)
    if match is None:
        raise NotANumber(f"“{typed}” is not a number. Digits, one decimal sign, then the unit.")
    sign, digits, suffix = match.groups()
    other = "," if decimal == "point" else "."
    if re.fullmatch(r"\d{1,3}" + re.escape(other) + r"\d{3}", digits):
        own = "." if decimal == "point" else ","
        raise NotANumber(
            f"“{typed}” could be {digits.replace(other, own)} or {digits.replace(other, '')}. "
            f"This class writes decimals with a {decimal}."
        )
    value = float(digits.replace(",", "."))
    if not isfinite(value):
        raise NotANumber("That is more than can be measured.")
    return (-value if sign in ("-", "−", "–") else value), (suffix or "").strip()


def parse_plain(text: str, decimal: Decimal = "point") -> float:
    """A number without a unit. Raises NotANumber when something follows it."""
    value, suffix = parse_number(text, decimal)
    if suffix:
        raise NotANumber(f"“{text.strip()}” is not a plain number.")
    return value


def unit_written(suffix: str, unit: str) -> str:
    """The unit that was written after a number meant in `unit`; that one if none was.

    A temperature's name after a difference means the difference. Raises NotANumber for what is
    no unit, or one of another quantity.
    """
    written = suffix.lower().replace(" ", "").rstrip(".")
    named = _TYPED_UNITS.get(written)
    if not suffix or written == unit_label(unit).lower().replace(" ", ""):
        named = unit
    if named and unit.startswith("delta_deg"):
        named = {"degC": "delta_degC", "degF": "delta_degF", "kelvin": "delta_degC"}.get(named, named)
    try:
        if named:
            _line(named, unit)
            return named
    except ValueError:
        pass
    if unit in ("degC", "degF"):
        raise NotANumber(f"“{suffix}” is not a unit of temperature. Use °C or °F.")
    raise NotANumber(f"“{suffix}” does not fit here: this is in {unit_label(unit) or 'plain numbers'}.")


def parse_temperature(text: str, unit: TempUnit, decimal: Decimal = "point") -> tuple[float, str]:
    """Typed temperature in °C, and the unit it was read in ("degC" or "degF").

    A suffix wins over the class's unit: "95 F" in a °C class is 35 °C.
    """
    number, suffix = parse_number(text, decimal)
    read_in = unit_written(suffix, unit)
    return convert(number, read_in, "degC"), read_in


def parse_minutes(text: str, decimal: Decimal = "point") -> float:
    """“7:30”, “7.5” or “7.5 min” in seconds [s]. Raises NotANumber."""
    minutes, colon, seconds = text.strip().partition(":")
    if not colon:
        number, suffix = parse_number(text, decimal)
        return convert(number, unit_written(suffix, "minute"), "second")
    if not re.fullmatch(r"\d{1,4}", minutes) or not re.fullmatch(r"[0-5]?\d([.,]\d+)?", seconds):
        raise NotANumber("Write the time as minutes:seconds, e.g. 7:30.")
    return float(minutes) * 60 + float(seconds.replace(",", "."))


def parse_minutes_list(text: str, decimal: Decimal = "point") -> list[float]:
    """Minutes as typed in a row, in seconds [s], in order and without repeats.

    Semicolons part them whatever the class writes; else blanks, or commas where those are no
    decimal sign. A comma that could be either is asked back. Raises NotANumber.
    """
    if ";" in text:
        pieces = re.split(r"[;\s]+", text)
    else:
        pieces = re.split(r",\s+|\s+", text.strip())
        inner = [piece for piece in pieces if "," in piece.strip(",")]
        if inner and (len(pieces) > 1 if decimal == "point" else inner[0].count(",") > 1):
            raise NotANumber(
                f"“{inner[0]}” could be one number or several. Part minutes with ; as in 0; 5; 10."
            )
        if inner and decimal == "point":
            pieces = pieces[0].split(",")
    return sorted({_mark(piece.strip(" ,"), decimal) for piece in pieces if piece.strip(" ,")})


def _mark(typed: str, decimal: Decimal) -> float:
    return parse_minutes(typed) if ":" in typed else parse_plain(typed, decimal) * 60


def clock_text(seconds: float) -> str:
    """Seconds [s] as minutes and seconds, e.g. 7:30."""
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes}:{rest:02d}"


@dataclass(frozen=True)
class Setting:
    """How one class writes numbers: °C or °F, decimal point or comma."""

    temp_unit: TempUnit = "degC"
    decimal: Decimal = "point"

    def unit_of(self, base: str) -> str:
        """The class's unit for a quantity shown in `base` elsewhere (°F classes differ)."""
        return base.replace("degC", "degF") if self.temp_unit == "degF" else base

    def label(self, base: str) -> str:
        return unit_label(self.unit_of(base))

    def parse(self, text: str, base: str) -> tuple[float, str]:
        """A number as typed for a quantity shown in `base`: stored value, and the unit it was read in.

        A unit behind the number wins over the class's own. Raises NotANumber.
        """
        number, suffix = parse_number(text, self.decimal)
        read_in = unit_written(suffix, self.unit_of(base))
        return convert(number, read_in, stored_unit(base)), read_in

    def minutes(self, times_s: Sequence[float]) -> str:
        """Times [s] as a row of minutes that `parse_minutes_list` reads again."""
        exact = [abs(t / 0.6 - round(t / 0.6)) < 1e-6 for t in times_s]  # two decimals of a minute say it
        words = [
            self.typed(t / 60, "dimensionless", 2) if short else clock_text(t)
            for t, short in zip(times_s, exact, strict=True)
        ]
        return ("; " if self.decimal == "comma" else ", ").join(words)

    def from_si(self, value: float, base: str) -> float:
        return convert(value, stored_unit(base), self.unit_of(base))

    def series(self, values: Sequence[float], base: str) -> list[float]:
        """Many stored values of one quantity in the class's unit."""
        factor, offset = _line(stored_unit(base), self.unit_of(base))
        return [value * factor + offset for value in values]

    def in_class(self, text: str) -> str:
        """A sentence of ours with its temperatures (“45 °C”; no differences) in the class's unit."""
        if self.temp_unit == "degC":
            return text
        return re.sub(r"(\d+) °C", lambda found: self.show(float(found[1]), "degC", 0), text)

    def to_si(self, value: float, base: str) -> float:
        return convert(value, self.unit_of(base), stored_unit(base))

    def round_si(self, value: float, base: str) -> float:
        """A usual temperature or difference of ours [stored unit] as a °F class would choose it: to the degree,
        a difference under half of one to its first digit. Other numbers, and those of °C classes, stay."""
        unit = self.unit_of(base)
        if unit == base or (value == 0 and base.startswith("delta")):
            return value
        shown = self.from_si(value, base)
        small = base.startswith("delta") and abs(shown) < 0.5
        rounded = float(f"{shown:.1g}") if small else floor(shown + 0.5)
        return self.to_si(rounded, base)

    def write(self, number: float, digits: int = 1) -> str:
        """A number with a fixed count of decimals in the class's style; a true minus sign."""
        text = f"{number:.{digits}f}"
        if float(text) == 0:
            text = text.lstrip("-")
        if self.decimal == "comma":
            text = text.replace(".", ",")
        return text.replace("-", "−")

    def show(self, value: float | None, base: str, digits: int = 1, *, unit: bool = True) -> str:
        """A stored value written in the class's unit for `base`; a dash when there is none."""
        if value is None:
            return "–"
        text = self.write(self.from_si(value, base), digits)
        label = self.label(base)
        return f"{text} {label}" if unit and label else text

    def typed(self, value: float | None, base: str, digits: int = 6) -> str:
        """`value` as it would be typed into a field: shortest digits, no unit."""
        if value is None:
            return ""
        text = f"{self.from_si(value, base):.{digits}f}"
        if "." in text:  # zeros behind the point say nothing, those before it are the number
            text = text.rstrip("0").rstrip(".")
        text = "0" if text == "-0" else text
        return text.replace(".", ",") if self.decimal == "comma" else text
