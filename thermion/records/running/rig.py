"""Checks of the rig before the first test, and what they say of each thermometer."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from statistics import median

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.judging.observed import Around, Quantity, quantity_of
from thermion.core.judging.plausibility import Expectation
from thermion.core.kinds.base import Kind
from thermion.core.kinds.testing import AIR as AIR_READ
from thermion.core.kinds.testing import RigCheck
from thermion.core.kinds.when import difference_unit
from thermion.core.physics.units import Setting, convert, stored_unit
from thermion.core.values import Check, exceeds
from thermion.records import moments
from thermion.records.errors import Implausible, Refused, Unsure, Way
from thermion.records.planning.briefs import Brief, save_settings
from thermion.records.running.accepting import accept
from thermion.records.tables import Challenge, RigReading

AIR = "air"
MOST_AT_A_CHECK = 1e3  # [stored unit] of what is no temperature: lengths, volumes
AIR_NUMBER = 0  # of the thermometer in the air, among the teams' numbers


@dataclass(frozen=True, kw_only=True)
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
    if not check.of_thermometers:
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
        if apart is not None and len(values) >= (2 if check.of_thermometers else len(spots)):
            unit = difference_unit(check.unit)
            state = "apart" if exceeds(apart, convert(check.agree, unit, stored_unit(unit))) else "done"
        out.append(Checked(check=check, spots=spots, values=values, state=state, apart=apart))
    return out


def still_open(session: Session, challenge: Challenge, brief: Brief) -> int:
    """How many checks have not been done, or came out apart."""
    return sum(c.state != "done" for c in checks_of(session, challenge, brief))


def read_check(
    challenge: Challenge, brief: Brief, check: RigCheck, typed: Sequence[str], sure: Mapping[int, str]
) -> dict[str, float | None]:
    """What was typed at the spots of a check [stored unit], each through the door of all readings.

    Implausible for what cannot be; Unsure, with the likely value among its ways, for one that lies far
    from the others, unless that spot is `sure` of just this.
    """
    spots = spots_of(check, challenge)
    setting = brief.setting
    quantity = quantity_at(check, brief.kind, brief.choices)
    given = {i: text.strip() for i, text in enumerate(typed) if i < len(spots) and text.strip()}
    found: dict[int, float] = {}
    for i, text in given.items():
        with at_spot(spots[i][1]):
            found[i], _ = accept(text, quantity, setting, f"{check.key}-{i}")
    unit = difference_unit(check.unit)
    near = convert(max(5.0, 5 * check.agree), unit, stored_unit(unit))
    for i, text in given.items():
        others = [v for at, v in found.items() if at != i]
        if len(others) < 2 or sure.get(i) == text:
            continue
        around = Around(expected=Expectation(median(others), near))
        _, seen = accept(text, quantity, setting, f"{check.key}-{i}", around=around)
        if seen.check.answer == "ask":
            raise _far_from_the_others(check, setting, i, text, spots[i][1], median(others), seen.check)
    return {spot: found.get(i) for i, (spot, _) in enumerate(spots)}


def _far_from_the_others(
    check: RigCheck, setting: Setting, i: int, text: str, label: str, middle: float, asked: Check
) -> Unsure:
    ways = [Way("It is so", {"sure": f"{i}:{text}"})]
    why = "Is that so?"
    likely = setting.typed(asked.suggestion, check.unit, 1)
    if likely:  # a slip that would explain it
        ways.insert(0, Way(f"Take {likely}", {"take": f"{i}:{likely}"}))
        why = asked.message
    said = f"{label}: {text}, and the others show about {setting.show(middle, check.unit)}. {why}"
    return Unsure(said, f"{check.key}-{i}", ways)


@contextmanager
def at_spot(label: str) -> Iterator[None]:
    """What is refused says at which spot."""
    try:
        yield
    except Implausible as refused:
        raise Implausible(f"{label}: {refused.message}", refused.field, refused.suggestion) from None


def quantity_at(check: RigCheck, kind: Kind, choices: Mapping[str, str]) -> Quantity:
    """What is read at a check: a temperature within the limits of the test's own, else any amount."""
    read = next((r for r in kind.test.reads_for(choices) if r.unit == check.unit), None)
    if check.unit == "degC":
        return quantity_of(read or AIR_READ)
    return Quantity(key=check.key, label=check.unit, unit=check.unit, low=0.0, high=MOST_AT_A_CHECK)


def save_check(
    session: Session, challenge: Challenge, brief: Brief, key: str, values: Mapping[str, float | None]
) -> None:
    """Note a check: its readings by spot (None clears one), or just that it was done.

    A check that `sets` a condition brings the brief to what its readings say.
    """
    check = next((c for c in brief.kind.test.bench.checks if c.key == key), None)
    if check is None:
        raise Refused("There is no such check.", key)
    rows = {r.spot: r for r in _noted(session, challenge, key)}
    for spot in {spot for spot, _ in spots_of(check, challenge)} or {""}:
        value = values.get(spot)
        if spot != "" and value is None:
            if spot in rows:
                session.delete(rows[spot])
            continue
        if spot not in rows:
            rows[spot] = RigReading(challenge_id=challenge.id, check_key=key, spot=spot)
            session.add(rows[spot])
        rows[spot].value, rows[spot].at = value, moments.now()
    if check.sets:
        kind = brief.kind.brief
        found = check.sets([v for v in values.values() if v is not None])
        tolerance = {c.key: c.si("tolerance") for c in brief.kind.brief.conditions} | dict(brief.tolerance)
        for condition in (kind.setting(name) for name in found):
            if not condition.si("low") <= found[condition.key] <= condition.si("high"):
                shown = brief.setting.show(found[condition.key], condition.unit, 2)
                raise Refused(f"{condition.label}: {shown}, by these readings, cannot be.", key)
        if found:
            save_settings(challenge, {k: (v, tolerance.get(k, 0.0)) for k, v in found.items()}, {})
    session.flush()


def _noted(session: Session, challenge: Challenge, key: str) -> Sequence[RigReading]:
    return session.scalars(
        select(RigReading).where(RigReading.challenge_id == challenge.id, RigReading.check_key == key)
    ).all()


def clear_check(session: Session, challenge: Challenge, key: str) -> None:
    """Take a check back, with its readings."""
    for row in _noted(session, challenge, key):
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
        if each.check.of_thermometers and len(each.values) >= 3:
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
        if each.check.of_thermometers and len(each.values) >= 3:
            middle = median(each.values.values())
            off = {numbers[s]: v - middle for s, v in each.values.items() if s in numbers}
            return {number: k for number, k in off.items() if abs(k) > 1e-9}
    return {}
