"""Is a condition of a run a slip? Asked before the run is made, beside what the brief and earlier runs have."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from statistics import median

from sqlalchemy import select
from sqlalchemy.orm import Session

from thermion.core.judging.doubts import Known
from thermion.core.judging.observed import Around, Quantity, observe
from thermion.core.judging.plausibility import Expectation
from thermion.core.kinds.briefing import Condition
from thermion.records.errors import Unsure, Way
from thermion.records.planning.briefs import Brief
from thermion.records.running.accepting import accept
from thermion.records.tables import Run, RunCondition

NEAR_K = 15.0  # from day to day the air differs by less than that from what it usually is


def ask_about(
    session: Session, challenge_id: int, brief: Brief, given: Mapping[str, float], sure: Collection[str]
) -> None:
    """Unsure, with the likely value among its ways, for a condition [stored units] that is far from what the
    challenge had so far, unless its key is among those that are `sure`."""
    before = _before(session, challenge_id)
    for c in brief.kind.brief.settings(brief.choices):
        if c.key in given and not c.words and c.key not in sure:
            _ask(c, given[c.key], before.get(c.key) or [brief.values[c.key]], brief)


def taken_instead(brief: Brief, answers: Iterable[str], given: Mapping[str, float]) -> dict[str, float]:
    """Conditions [stored units] that were taken instead of what was typed, from `key:value` as written."""
    known = {c.key: c for c in brief.kind.brief.settings(brief.choices) if c.key in given}
    out = {}
    for key, _, likely in (answer.partition(":") for answer in answers):
        if key in known:
            out[key], _ = accept(likely, _quantity(known[key]), brief.setting, key)
    return out


def _before(session: Session, challenge_id: int) -> dict[str, list[float]]:
    """What each condition was in the real runs of a challenge."""
    found: dict[str, list[float]] = {}
    for key, value in session.execute(
        select(RunCondition.key, RunCondition.value)
        .join(Run, Run.id == RunCondition.run_id)
        .where(Run.challenge_id == challenge_id, Run.rehearsal.is_(False))
    ):
        found.setdefault(key, []).append(value)
    return found


def _quantity(c: Condition) -> Quantity:
    return Quantity(key=c.key, label=c.label, unit=c.unit, low=c.si("low"), high=c.si("high"))


def _ask(c: Condition, value: float, before: list[float], brief: Brief) -> None:
    usual, setting = median(before), brief.setting
    around = Around(known=Known(earlier=(usual,)))
    if c.unit == "degC":
        around = Around(expected=Expectation(usual, NEAR_K))
    check = observe(value, _quantity(c), setting, around=around).check
    if check.answer != "ask":
        return
    ways = [Way("It is so", {"sure": c.key})]
    likely = setting.typed(check.suggestion, c.unit, 1)
    if likely:
        ways.insert(0, Way(f"Take {likely}", {"take": f"{c.key}:{likely}"}))
    shown, was = (setting.show(x, c.unit, 1) for x in (value, usual))
    raise Unsure(f"{c.label}: {shown}, and so far it was {was}. Is it so?", c.key, ways)
