"""Checks of the rig before the first test, and what they say of each thermometer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.kinds.testing import RigCheck
from thermion.core.kinds.when import difference_unit
from thermion.core.physics.units import convert, stored_unit
from thermion.core.values import exceeds
from thermion.records import moments
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief, save_settings
from thermion.records.tables import Challenge, RigReading

EACH = "each thermometer"
AIR = "air"
AIR_NUMBER = 0  # of the thermometer in the air, among the teams' numbers


@dataclass(frozen=True)
class Checked:
    """A check with what was noted [stored unit], and how it came out.

    `state`: open, done, apart (readings differ by more than they may). `apart` is that
    difference.
    """

    check: RigCheck
    spots: tuple[tuple[str, str], ...]  # (key, label)
    values: Mapping[str, float]
    state: str
    apart: float | None


def spots_of(check: RigCheck, challenge: Challenge) -> tuple[tuple[str, str], ...]:
    """Where a check is read: its own spots, or each team's thermometer and the one for the air."""
    if check.readings != (EACH,):
        return tuple((spot, spot) for spot in check.readings)
    teams = [(t.letter, t.name) for t in challenge.school_class.teams]
    return (*teams, (AIR, "Air"))


def checks_of(session: Session, challenge: Challenge, brief: Brief) -> list[Checked]:
    """Every check that applies, with its state."""
    rows: dict[str, dict[str, RigReading]] = {}
    for row in session.scalars(select(RigReading).where(RigReading.challenge_id == challenge.id)):
        rows.setdefault(row.check_key, {})[row.spot] = row
    out = []
    for check in brief.kind.test.checks_for(brief.choices):
        found, spots = rows.get(check.key, {}), spots_of(check, challenge)
        values = {s: r.value for s, r in found.items() if r.value is not None}
        apart = max(values.values()) - min(values.values()) if len(values) > 1 else None
        state = "done" if found and not spots else "open"
        if apart is not None and len(values) >= (2 if check.readings == (EACH,) else len(spots)):
            unit = difference_unit(check.unit)
            state = "apart" if exceeds(apart, convert(check.agree, unit, stored_unit(unit))) else "done"
        out.append(Checked(check, spots, values, state, apart))
    return out


def still_open(session: Session, challenge: Challenge, brief: Brief) -> int:
    """How many checks have not been done, or came out apart."""
    return sum(c.state != "done" for c in checks_of(session, challenge, brief))


def save_check(
    session: Session, challenge: Challenge, brief: Brief, key: str, values: Mapping[str, float | None]
) -> None:
    """Note a check: its readings by spot (None clears one), or just that it was done.

    A check that `sets` a condition brings the brief to what its readings say.
    """
    check = next((c for c in brief.kind.test.bench.checks if c.key == key), None)
    if check is None:
        raise Refused("There is no such check.", key)
    known = {spot for spot, _ in spots_of(check, challenge)} or {""}
    rows = {
        r.spot: r
        for r in session.scalars(
            select(RigReading).where(RigReading.challenge_id == challenge.id, RigReading.check_key == key)
        )
    }
    for spot in known:
        value = values.get(spot)
        if spot != "" and value is None:
            if spot in rows:
                session.delete(rows[spot])
            continue
        if spot not in rows:
            rows[spot] = RigReading(challenge_id=challenge.id, check_key=key, spot=spot)
            session.add(rows[spot])
        rows[spot].value, rows[spot].at = value, moments.now()
    noted = [v for v in values.values() if v is not None]
    found = check.sets(noted) if check.sets else {}
    if found:
        usual = {c.key: c.si("tolerance") for c in brief.kind.brief.conditions}
        save_settings(
            challenge, {k: (v, brief.tolerance.get(k, usual.get(k, 0.0))) for k, v in found.items()}, {}
        )
    session.flush()


def clear_check(session: Session, challenge: Challenge, key: str) -> None:
    """Take a check back, with its readings."""
    for row in session.scalars(
        select(RigReading).where(RigReading.challenge_id == challenge.id, RigReading.check_key == key)
    ):
        session.delete(row)
    session.flush()


@dataclass(frozen=True)
class Thermometers:
    """What one glass of water said of the thermometers: how much each shows too much [K], by team
    number (0: the air's), and which of them were in it."""

    off: Mapping[int, float]
    checked: frozenset[int]


def thermometers(checked: Sequence[Checked], challenge: Challenge) -> Thermometers:
    """The thermometers of a class, from its check in one glass."""
    numbers = {t.letter: t.id for t in challenge.school_class.teams} | {AIR: AIR_NUMBER}
    for each in checked:
        if each.check.readings == (EACH,) and len(each.values) >= 3:
            known = frozenset(numbers[s] for s in each.values if s in numbers)
            return Thermometers(offsets(checked, challenge), known)
    return Thermometers({}, frozenset())


def offsets(checked: Sequence[Checked], challenge: Challenge) -> dict[int, float]:
    """What each thermometer shows too much [K], by team number (0: the air's), from one glass of water.

    Against the median of all thermometers, which one that is wrong does not pull along. Without
    at least three there is no telling which is right, and no offset.
    """
    numbers = {t.letter: t.id for t in challenge.school_class.teams} | {AIR: AIR_NUMBER}
    for each in checked:
        if each.check.readings == (EACH,) and len(each.values) >= 3:
            middle = median(each.values.values())
            off = {numbers[s]: v - middle for s, v in each.values.items() if s in numbers}
            return {number: k for number, k in off.items() if abs(k) > 1e-9}
    return {}
