"""The plan editor: what it shows, and what is made of what it sends."""

from __future__ import annotations

from flask import url_for

from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.plans import Part, Plan, differences, tally, used_of_stock
from thermion.records.building import attachments, builds
from thermion.records.errors import Refused
from thermion.records.judging.conclusions import known_in
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge, Team, Version
from thermion.web.components.frame import frame
from thermion.web.pictures.drawings import PAGE, PHONE, plan_svg
from thermion.web.pictures.figures import figure_words
from thermion.web.pictures.leaders import Room
from thermion.web.places.builds import words
from thermion.web.places.builds.payloads import (
    ChangeShown,
    FormShown,
    MaterialShown,
    PartShown,
    PlanPage,
    PlanSent,
    PlanState,
)
from thermion.web.sessions import read_session, remembered

SURE = ("clear", "leaning")


def version_values(item: Version, brief: Brief, problem: Refused | None = None) -> dict[str, object]:
    """Everything the page of a version shows."""
    challenge, build = item.build.challenge, item.build
    state = plan_state(item, brief)
    data = PlanPage(
        state=state.model_copy(update={"svg": ""}),  # stands in the page
        materials=_shelf(brief),
        at=brief.kind.build.places[0].key,
        url=url_for("builds.save", version_id=item.id),
        decimal="," if brief.setting.decimal == "comma" else ".",
        words=dict(words.EDITOR),
    )
    return frame(
        challenge,
        "builds",
        section="draft",
        rung=words.rung(brief),
        version=item,
        team=build.team,
        data=data,
        narrow=version_svg(item, brief, PHONE),
        state=state,
        predicted=brief.kind.analysis.prediction_for(brief.choices),
        versions=build.versions,
        then=_unplanned(challenge),
        others=[t for t in challenge.school_class.present if t.id != build.team_id],
        pictures=attachments.attachments_of(read_session(), [item.id]).get(item.id, []),
        known=known_in(read_session(), challenge.id),
        problem=problem,
        better=_better_before(item, brief) if item.number > 1 else "",
    )


def _better_before(item: Version, brief: Brief) -> str:
    """An earlier version of the team that did better than the one after it, as far as that is known."""
    challenge_id, school = item.build.challenge_id, item.build.challenge.school
    found = remembered(
        ("gains", challenge_id),
        lambda: load_evidence(read_session(), item.build.challenge, brief, school=school).findings,
    )
    mine = [g for g in found.gains if g.after.team_id == item.build.team_id] if found else []
    lost = next((g for g in reversed(mine) if g.verdict == "worse" and g.claim.word in SURE), None)
    if found is None or lost is None:
        return ""
    metric = brief.kind.analysis.metric(lost.metric)
    figures = {v.subject: v.figures for v in found.versions}
    was, came = (figure_words(figures[s][lost.metric], metric, brief) for s in (lost.before, lost.after))
    return words.did_better(lost, metric.label, was, came)


def _unplanned(challenge: Challenge) -> Team | None:
    """The first team of the class that has no plan yet."""
    planned = {b.team_id for b in builds.builds_of(read_session(), challenge.id)}
    here = builds.teams_of(read_session(), challenge)
    return next((t for t in here if t.id not in planned), None)


def _most_used(plan: Plan, brief: Brief) -> dict[str, float]:
    """Units of each material, of the stock that has given most of it."""
    out: dict[str, float] = {}
    for (_, material), units in used_of_stock(plan, brief.kind.build.stocks(brief.choices)).items():
        out[material] = max(out.get(material, 0.0), units)
    return out


def plan_before(item: Version) -> Plan | None:
    """The team's version before this one."""
    return next((builds.plan_of(v) for v in item.build.versions if v.number == item.number - 1), None)


def version_svg(item: Version, brief: Brief, room: Room) -> str:
    """A version drawn for a room, what changed since the one before marked; a draft can be pulled."""
    before, editable = plan_before(item), item.state == "draft"
    return plan_svg(builds.plan_of(item), brief, room, before=before, editable=editable)


def plan_state(
    item: Version, brief: Brief, errors: dict[str, str] | None = None, *, narrow: bool = False
) -> PlanState:
    """What the editor shows for a plan as it is stored."""
    plan, setting, kind = builds.plan_of(item), brief.setting, brief.kind
    counted = tally(plan, brief.offers, brief.credit)
    before = plan_before(item)
    changes = []
    if before is not None:
        changes = differences(before, plan, kind.build.place_names(), kind.build.factor_names())
    predicted = kind.analysis.prediction_for(brief.choices)
    return PlanState(
        revision=item.revision,
        parts=[PartShown(**vars(p)) for p in plan.parts],
        factors={
            f.key: round(setting.from_si(plan.factors.get(f.key, f.si("default")), f.unit), 4)
            for f in kind.build.factors
        },
        prediction=item.prediction_typed or setting.typed(item.prediction, predicted.unit),
        note=item.change_note,
        worked=item.worked,
        failed=item.failed,
        nudge=words.nudge(len(changes)),
        idea=item.idea_team_id or 0,
        units=words.number(counted.units, brief),
        impact=words.number(counted.impact, brief),
        used=_most_used(plan, brief),
        problems={p.part: p.message for p in brief.over(plan) if p.part is not None},
        missing=[p.message for p in builds.problems(item, brief)],
        hints=kind.build.hints(plan),
        changes=[ChangeShown(where=c.where, text=c.sentence) for c in changes],
        svg=version_svg(item, brief, PHONE if narrow else PAGE),
        errors=errors or {},
        said=words.kept(bool(item.prediction_typed)),
    )


def _shelf(brief: Brief) -> list[MaterialShown]:
    out = []
    for offer in brief.offers:
        material = MATERIALS[offer.material]
        forms = [FormShown(key=f, label=FORMS[f].label) for f in material.forms]
        out.append(
            MaterialShown(
                key=material.key,
                name=material.name,
                unit=material.unit,
                limit=offer.limit,
                swatch=material.swatch,
                forms=forms,
            )
        )
    return out


def draft_of(given: PlanSent, item: Version, brief: Brief) -> tuple[builds.Draft, dict[str, str]]:
    """The plan that was sent, and what of it could not be read; that stays as it was typed."""
    missing = [f.key for f in brief.kind.build.factors if f.key not in given.factors]
    if missing:
        raise Refused(f"This plan could not be read (factors.{missing[0]} is missing).", missing[0])
    factors = {f.key: brief.setting.to_si(given.factors[f.key], f.unit) for f in brief.kind.build.factors}
    parts = tuple(Part(**part.model_dump()) for part in given.parts)
    typed = given.prediction.strip()
    errors: dict[str, str] = {}
    prediction, unread = None, ""
    if typed:
        found = builds.read_prediction(typed, brief)
        prediction = found.value
        if found.refused:
            unread, errors["prediction"] = typed, found.check.message
    others = {t.id for t in item.build.challenge.school_class.teams} - {item.build.team_id}
    idea = given.idea if given.idea in others else None
    draft = builds.Draft(
        plan=Plan(parts, factors),
        prediction=prediction,
        change_note=given.note,
        idea_team_id=idea,
        prediction_typed=unread,
        worked=given.worked,
        failed=given.failed,
    )
    return draft, errors
