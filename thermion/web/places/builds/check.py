"""The check: a plan with everything that decides whether it may be built, on one screen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import differences, tally, used_of_stock
from thermion.records.building import attachments, builds, store
from thermion.records.errors import Refused
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Version
from thermion.web.components.frame import frame
from thermion.web.pictures.drawings import CHECK, PHONE, SMALL, plan_svg
from thermion.web.pictures.labels import part_words
from thermion.web.places.builds import words
from thermion.web.places.builds.editor import plan_before, version_svg
from thermion.web.sessions import read_session


@dataclass(frozen=True, kw_only=True)
class CheckLine:
    """A part of the plan on the list: its place where that begins, words, limit, points, what is wrong."""

    place: str
    swatch: str
    part: str
    limit: str
    points: str
    problem: str = ""


def waiting_of(class_id: int, challenge_id: int) -> list[Version]:
    """Plans of a class that wait for the check: those of this challenge first, oldest first."""
    waiting = store.queue(read_session(), class_id)["waiting"]
    builds.load_plans(read_session(), waiting)
    return sorted(waiting, key=lambda v: v.build.challenge_id != challenge_id)


def next_waiting(waiting: Sequence[Version], version_id: int) -> Version | None:
    """The plan to check after this one: the next in the queue, from its end on to its beginning."""
    ids = [v.id for v in waiting]
    at = ids.index(version_id) + 1 if version_id in ids else 0
    others = [v for v in [*waiting[at:], *waiting[:at]] if v.id != version_id]
    return others[0] if others else None


def check_values(item: Version, brief: Brief, problem: Refused | None = None) -> dict[str, object]:
    """Everything the page of a version that is no draft shows."""
    challenge, build, plan = item.build.challenge, item.build, builds.plan_of(item)
    counted = tally(plan, brief.offers, brief.credit)
    before, newest = plan_before(item), build.versions[-1].id == item.id
    predicted = brief.kind.analysis.prediction_for(brief.choices)
    waiting = waiting_of(challenge.class_id, challenge.id) if item.state == "waiting" else []
    ready = [v for v in waiting if v.build.challenge_id == challenge.id and in_order(v, brief)]
    names, factors = brief.kind.build.place_names(), brief.kind.build.factor_names()
    values: dict[str, object] = {
        "section": "check",
        "rung": words.rung(brief),
        "version": item,
        "team": build.team,
        "picture": version_svg(item, brief, CHECK),
        "narrow": version_svg(item, brief, PHONE),
        "lines": _lines(item, brief),
        "units": words.counted(counted)[0],
        "impact": brief.setting.typed(counted.impact, "dimensionless", 1),
        "predicted": words.predicted(predicted, item.prediction, brief.setting),
        "missing": [p.message for p in builds.problems(item, brief) if p.part is None],
        "asks": brief.kind.build.hints(plan),
        "before": plan_svg(before, brief, SMALL) if before is not None else "",
        "changes": differences(before, plan, names, factors) if before is not None else [],
        "newest": newest,
        "issued": words.issued(item, challenge.school_class.zone, newest) if item.issued_at else "",
        "next_version": words.next_version(item),
        "versions": build.versions,
        "pictures": attachments.attachments_of(read_session(), [item.id]).get(item.id, []),
        "queue": words.place_in_queue([v.id for v in waiting], item.id),
        "following": next_waiting(waiting, item.id),
        "ready": " ".join(str(v.id) for v in ready),
        "all_ready": words.sign_all(len(ready)) if len(ready) > 1 else "",
        "problem": problem,
    }
    return frame(challenge, "builds", **values)


def in_order(item: Version, brief: Brief) -> bool:
    """True when nothing is missing, every limit holds and no question is open."""
    return not builds.problems(item, brief) and not brief.kind.build.hints(builds.plan_of(item))


def _lines(item: Version, brief: Brief) -> list[CheckLine]:
    """The whole list, place by place; a place without anything is on it too."""
    plan, setting = builds.plan_of(item), brief.setting
    offers = {o.material: o for o in brief.offers}
    stocks = brief.kind.build.stocks(brief.choices)
    used = used_of_stock(plan, stocks)
    wrong = {p.part: p.message for p in brief.over(plan) if p.part is not None}
    out = []
    for place in brief.kind.build.places:
        mine = [(i, part) for i, part in enumerate(plan.parts) if part.place == place.key]
        for n, (i, part) in enumerate(mine):
            offer = offers.get(part.material)
            limit = words.of_limit(
                used[stocks.get(place.key, ""), part.material], offer.limit if offer else None, setting
            )
            points = setting.typed(part.units * (offer.points if offer else 0.0), "dimensionless", 1)
            said = words.with_reused(part_words(part), part.reused)
            swatch = MATERIALS[part.material].swatch
            out.append(
                CheckLine(
                    place="" if n else place.label,
                    swatch=swatch,
                    part=said,
                    limit=limit,
                    points=points,
                    problem=wrong.get(i, ""),
                )
            )
        if not mine:
            out.append(CheckLine(place=place.label, swatch="", part=words.NOTHING, limit="", points=""))
    return out


def sign_ready(session: Session, waiting: Sequence[Version]) -> set[int]:
    """Sign off every one of these plans that is in order; the numbers of those that were."""
    ready = [(v, brief) for v in waiting if in_order(v, brief := builds.brief_for(v))]
    for item, brief in ready:
        store.sign_off(session, item, brief)
    return {item.id for item, _ in ready}
