"""Is the rig fair and safe before the first test?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, redirect, request, url_for
from flask.typing import ResponseReturnValue

from thermion.core.kinds.testing import RigCheck
from thermion.records.errors import Refused, Unsure, Way
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running import rig
from thermion.records.running.rig import Checked
from thermion.records.tables import Challenge
from thermion.web.access import HELPERS, may
from thermion.web.components.frame import frame, page
from thermion.web.places.rig_check import words
from thermion.web.sessions import open_challenge, read_session, write_session

bp = Blueprint("rig_check", __name__, url_prefix="/challenges/<int:challenge_id>/rig-check")


@dataclass(frozen=True, kw_only=True)
class CheckSpot:
    """Where a check is read: its field, what it is called, what stands in it, if that is wrong."""

    field: str
    label: str
    typed: str
    wrong: bool
    ways: Sequence[Way] = ()


@dataclass(frozen=True, kw_only=True)
class CheckShown:
    """A check as its card shows it."""

    found: Checked
    spots: list[CheckSpot]
    unit: str
    apart: str
    follows: list[str]
    taken_off: str


@bp.get("")
@may(HELPERS)
def index(challenge_id: int) -> ResponseReturnValue:
    return _rig_page(challenge_id)


def _rig_page(
    challenge_id: int, problem: Refused | None = None, typed: Mapping[str, str] | None = None
) -> ResponseReturnValue:
    challenge, brief = open_challenge(challenge_id)
    found = rig.checks_of(read_session(), challenge, brief)
    off = rig.offsets(found, challenge)
    shown = [
        CheckShown(
            found=each,
            spots=_spots(each, brief, problem, typed or {}),
            unit=brief.setting.label(each.check.unit),
            apart=words.apart(each, brief),
            follows=words.follows(each, brief),
            taken_off=words.taken_off(each, off, challenge, brief),
        )
        for each in found
    ]
    ready = all(each.state == "done" for each in found)
    values = frame(
        challenge,
        "runs",
        sure=request.form.getlist("sure") if problem is not None else [],
        checks=shown,
        done=words.done(found),
        ready=ready,
        problem=problem,
    )
    return page("rig_check/index.html", values, refused=problem is not None)


def _spots(each: Checked, brief: Brief, problem: Refused | None, typed: Mapping[str, str]) -> list[CheckSpot]:
    mine = problem is not None and (problem.field or "").startswith(f"{each.check.key}-")
    out = []
    for i, (spot, label) in enumerate(each.spots):
        kept = brief.setting.typed(each.values.get(spot), each.check.unit, 2)
        wrong = problem is not None and problem.field == f"{each.check.key}-{i}"
        text = typed.get(f"spot{i}", "") if mine else kept
        ways = problem.ways if wrong and isinstance(problem, Unsure) else ()
        out.append(CheckSpot(field=f"spot{i}", label=label, typed=text, wrong=wrong, ways=ways))
    return out


@bp.post("/<key>")
@may(HELPERS)
def save(challenge_id: int, key: str) -> ResponseReturnValue:
    try:
        with write_session() as session:
            challenge = get_challenge(session, challenge_id)
            brief = brief_of(challenge)
            if request.form.get("clear"):
                rig.clear_check(session, challenge, key)
            else:
                rig.save_check(session, challenge, brief, key, _noted(challenge, brief, key))
    except Refused as refused:
        return _rig_page(challenge_id, refused, request.form)
    return redirect(url_for(".index", challenge_id=challenge_id) + f"#{key}", 303)


def _noted(challenge: Challenge, brief: Brief, key: str) -> dict[str, float | None]:
    """The numbers typed for a check, in the stored unit."""
    check = next((c for c in brief.kind.test.bench.checks if c.key == key), None)
    if check is None:
        raise Refused("There is no such check.", key)
    return rig.read_check(challenge, brief, check, _typed(challenge, check), _answers("sure"))


def _typed(challenge: Challenge, check: RigCheck) -> list[str]:
    """What stands in the fields of a check, with what was taken instead of one of them."""
    instead = _answers("take")
    return [
        instead.get(i, request.form.get(f"spot{i}", "")) for i, _ in enumerate(rig.spots_of(check, challenge))
    ]


def _answers(name: str) -> dict[int, str]:
    """Answers to questions about spots, as `number:what was typed`."""
    found = [given.partition(":") for given in request.form.getlist(name)]
    return {int(spot): typed for spot, _, typed in found if spot.isdecimal() and len(spot) < 4}
