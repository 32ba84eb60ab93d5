"""Measurements as programs and boards send them: SenML in JSON.

C. Jennings et al., Sensor Measurement Lists (SenML), RFC 8428 (2018), doi:10.17487/RFC8428.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from math import isfinite
from typing import Any

from thermion.core.judging.probing import Measured
from thermion.core.physics.units import convert
from thermion.formats.logger.cells import SIGNS_C

RELATIVE = 2**28  # times below are counted from now (RFC 8428, 4.5.3)
MILLISECONDS = 1e11  # since 1970, no later than 1973; as seconds it is the year 5138
MOST_RECORDS = 2000
UNITS = {  # SenML's registered units that a challenge reads → (our unit, the stored one)
    "Cel": ("degC", "degC"),
    "K": ("K", "degC"),
    "g": ("gram", "kilogram"),
    "kg": ("kilogram", "kilogram"),
    "l": ("liter", "meter**3"),
    "m3": ("meter**3", "meter**3"),
    "m": ("meter", "meter"),
    "s": ("second", "second"),
    "count": ("count", "count"),
}
OF_ITSELF = {"%EL": "battery", "dBm": "signal"}  # what a probe says of itself (RFC 8428, 12.1; RFC 8798)
_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9:./_-]{0,119}")  # RFC 8428, 4.5.1
_KNOWN = {"bn", "bt", "bu", "bv", "bs", "bver", "n", "u", "v", "vs", "vb", "vd", "s", "t", "ut"}


class NotSenml(ValueError):  # noqa: N818 - an answer to a program
    """The body is no SenML pack; the message says what was expected."""


@dataclass(frozen=True)
class Unread:
    """A record that holds no value one can use, and why."""

    index: int
    name: str
    why: str


def read_pack(body: bytes) -> tuple[list[Measured], list[Unread]]:
    """The records of a pack, with their base fields resolved, and those that cannot be used.

    Raises
    ------
    NotSenml when the body is no pack at all: no JSON list of records, too many, or of an unknown version.
    """
    try:
        pack = json.loads(body, parse_constant=lambda name: None)
    except (ValueError, RecursionError):
        raise NotSenml('expected JSON: a list of records, e.g. [{"n": "A", "u": "Cel", "v": 21.5}]') from None
    if not isinstance(pack, list) or not pack or not all(isinstance(r, dict) for r in pack):
        raise NotSenml('expected a list of records, e.g. [{"n": "A", "u": "Cel", "v": 21.5}]')
    if len(pack) > MOST_RECORDS:
        raise NotSenml(f"{len(pack)} records in one pack; at most {MOST_RECORDS}")
    base: dict[str, Any] = {}
    found: list[Measured] = []
    unread: list[Unread] = []
    for i, record in enumerate(pack):
        base |= {key: record[key] for key in ("bn", "bt", "bu", "bv") if key in record}
        if record.get("bver", 10) != 10 and _number(record.get("bver")) is None:
            raise NotSenml("bver: expected a number")
        if (_number(record.get("bver", 10)) or 10) > 10:
            raise NotSenml("a newer version of SenML than 10")
        if not {"n", "v", "vs", "vb", "vd", "s"} & record.keys():
            continue  # base fields alone
        made = _record(i, record, base)
        if isinstance(made, Measured):
            found.append(made)
        else:
            unread.append(made)
    return found, unread


def _record(i: int, record: dict[str, Any], base: dict[str, Any]) -> Measured | Unread:
    name = f"{base.get('bn', '')}{record.get('n', '')}"
    unit = record.get("u", base.get("bu", ""))
    value, lift = _number(record.get("v")), _number(base.get("bv", 0))
    time, start = _number(record.get("t", 0)), _number(base.get("bt", 0))
    must = [key for key in record if key.endswith("_")]
    why = ""
    if must:
        why = f"{must[0][:20]} must be understood, and is not"
    elif not _NAME.fullmatch(name):
        why = "its name: letters, digits, : . / _ -, at most 120"
    elif not isinstance(unit, str) or unit not in (*UNITS, *OF_ITSELF):
        why = f"its unit {str(unit)[:20]!r} is none of {', '.join(UNITS)}"
    if value is None or lift is None:
        why = why or "it has no number as its value v"
    elif time is None or start is None:
        why = why or "its time is no number"
    elif not why:
        ours, stored = UNITS.get(unit, ("dimensionless", OF_ITSELF.get(unit, "")))
        if unit in OF_ITSELF:
            return Measured(name=name, unit=unit, stored_unit=stored, value=value + lift, time_s=None)
        converted, at = convert(value + lift, ours, stored), time + start
        if at > MILLISECONDS:
            return Unread(i, name[:60], "its time counts milliseconds; seconds since 1970 are expected")
        if stored == "degC" and (said := _no_temperature(value + lift, converted)):
            return Unread(i, name[:60], said)
        later = at >= RELATIVE
        return Measured(
            name=name,
            unit=unit,
            stored_unit=stored,
            value=converted,
            time_s=at if later else None,
            ago_s=0.0 if later else -at,
        )
    return Unread(i, name[:60], why)


def _no_temperature(sent: float, temp_c: float) -> str:
    """Why a number is no temperature that a probe has read; "" where it may be one."""
    sign = SIGNS_C.get(round(temp_c, 2), "")
    if sign:
        return f"{sent:g} is {sign}"
    return f"{sent:g} is colder than anything can be" if temp_c < -273.15 else ""


def _number(value: object) -> float | None:
    """A finite number as JSON writes it; a truth or a text is none."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    try:
        number = float(value)
    except OverflowError:
        return None
    return number if isfinite(number) else None
