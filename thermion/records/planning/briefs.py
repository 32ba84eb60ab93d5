"""The brief of a challenge: making one, reading it as core values, saving its sections."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session, joinedload

from thermion.core.ages import USUAL
from thermion.core.judging.scoring import score
from thermion.core.kinds import get_kind, kind_for
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Condition, Term
from thermion.core.kinds.criteria import with_criteria
from thermion.core.kinds.testing import AIR, Observation, Reads
from thermion.core.kinds.when import difference_unit, holds
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import Setting
from thermion.core.planning.difficulty import usual_setup
from thermion.core.planning.rungs import Rung, offers_on
from thermion.core.plans import Offer, Plan, Problem, check_limits
from thermion.core.values import Direction, Figure
from thermion.records import moments
from thermion.records.deleting import Removed, delete_kept
from thermion.records.errors import Gone, Refused
from thermion.records.loading import load_together
from thermion.records.planning.classes import setting_of
from thermion.records.tables import (
    Challenge,
    ChallengeChoice,
    ChallengeSetting,
    Mark,
    OfferRow,
    SchoolClass,
    TermRow,
)


@dataclass(frozen=True, kw_only=True)
class Brief:
    """A challenge's rules as the core takes them (SI)."""

    kind: Kind
    setting: Setting
    choices: Mapping[str, str]
    values: Mapping[str, float]
    tolerance: Mapping[str, float]
    marks: Mapping[str, tuple[float, ...]]
    offers: tuple[Offer, ...]
    rule: tuple[Term, ...]
    school: str
    credit: float
    rungs: Mapping[int, Rung]  # of the teams that have an easier or a harder brief
    rung: Rung | None = None  # whose brief this is; None: as it stands

    def last_mark_s(self) -> dict[str, float]:
        return {phase: marks[-1] for phase, marks in self.marks.items() if marks}

    def interval_s(self) -> dict[str, float]:
        return {p: m[1] - m[0] for p, m in self.marks.items() if len(m) > 1}

    def rig(self) -> dict[str, float]:
        """The conditions that apply under this brief's choices."""
        return {c.key: self.values[c.key] for c in self.kind.brief.settings(self.choices)}

    def numbers(self) -> list[Condition]:
        """Conditions that are set beforehand; those in words are noted at the run."""
        return [
            replace(c, hint=self.setting.in_class(c.hint))
            for c in self.kind.brief.settings(self.choices)
            if not c.words
        ]

    def uncertain(self, values: Mapping[str, float], how: Mapping[str, str]) -> dict[str, float]:
        """Standard uncertainty of a run's conditions [stored units], by how each was obtained."""
        return {
            c.key: c.uncertainty(values[c.key], how.get(c.key, ""), self.tolerance.get(c.key))
            for c in self.kind.brief.settings(self.choices)
            if c.key in values and not c.words
        }

    def on_rung(self, rung: Rung | None) -> Brief:
        """The brief as the teams on a rung have it; without one, as it stands."""
        if rung is None:
            return self
        return replace(self, offers=offers_on(rung, self.offers), rungs={}, rung=rung)

    def of_team(self, team_id: int) -> Brief:
        """The brief as one team has it."""
        return self.on_rung(self.rungs.get(team_id))

    def over(self, plan: Plan) -> list[Problem]:
        """Every way in which a plan goes beyond what is on offer."""
        return check_limits(plan, self.offers, self.kind.build.stocks(self.choices))

    def rule_of(self, school: str) -> tuple[Term, ...]:
        """This challenge's own rule, or another school's in the class's units."""
        if school in ("own", self.school):
            return self.rule
        return self.kind.brief.rule(school, self.setting, self.last_mark_s(), self.choices)

    def read_at(self, air: bool) -> Reads:
        """What a row of a clocked test reads: the air its temperature, a build what is measured."""
        found = self.kind.test.grid_read(self.choices)
        return AIR if air or found is None else found

    def better_of(self, school: str) -> Direction:
        """Which way a school's score points; an own rule counts upward."""
        if school == "own":
            return "higher"
        return self.kind.brief.school(school, self.choices).better


BRIEF = (
    Challenge.settings,
    Challenge.choices,
    Challenge.marks,
    Challenge.offers,
    Challenge.terms,
    Challenge.rungs,
    Challenge.on_rungs,
)


def load_briefs(session: Session, challenges: Sequence[Challenge]) -> None:
    """What a brief is made of and the teams, of all these challenges in two queries."""
    load_together(session, challenges, *BRIEF)
    classes = {c.class_id: c.school_class for c in challenges}
    load_together(session, list(classes.values()), SchoolClass.teams, SchoolClass.own_words)


def get_challenge(session: Session, challenge_id: int) -> Challenge:
    """A challenge with its brief, class and teams, in a fixed number of queries."""
    teams = joinedload(Challenge.school_class).joinedload(SchoolClass.teams)
    words = joinedload(Challenge.school_class).joinedload(SchoolClass.own_words)
    found = session.get(Challenge, challenge_id, options=[teams, words, joinedload(Challenge.timing)])
    if found is None:
        raise Gone("This challenge is no longer there. It may have been deleted in another tab.")
    if "terms" in inspect(found).unloaded:
        load_together(session, [found], *BRIEF)
    return found


def brief_of(challenge: Challenge) -> Brief:
    """The brief as core values; missing settings take the family's default."""
    kind = with_own_words(kind_for(challenge.kind, challenge.age_band), challenge.school_class)
    kind = with_criteria(kind, [t.metric for t in challenge.terms])
    setting = setting_of(challenge.school_class)
    values = {c.key: setting.round_si(c.si("default"), c.unit) for c in kind.brief.every_setting()}
    tolerance = {c.key: _tolerance(c, setting) for c in kind.brief.conditions}
    for row in challenge.settings:
        values[row.key] = row.value
        if row.key in tolerance:
            tolerance[row.key] = row.tolerance
    choices = kind.brief.chosen({row.key: row.value for row in challenge.choices})
    kind = seen_under(kind, choices)
    applies = {c.key for c in kind.brief.settings(choices)}
    rule = tuple(
        Term(metric=t.metric, unit=t.unit, weight=t.weight, divisor=t.divisor, cap=t.cap)
        for t in challenge.terms
    )
    marks: dict[str, tuple[float, ...]] = {p.key: () for p in kind.test.phases}
    for mark in sorted(challenge.marks, key=lambda m: m.time_s):
        marks[mark.phase] = (*marks.get(mark.phase, ()), mark.time_s)
    if challenge.school in {s.key for s in kind.brief.schools}:  # follows the class's units and marks
        ends = {phase: times[-1] for phase, times in marks.items() if times}
        rule = kind.brief.rule(challenge.school, setting, ends, choices)
    return Brief(
        kind=kind,
        setting=setting,
        choices=choices,
        values=values,
        tolerance={k: v for k, v in tolerance.items() if k in applies},
        marks=marks,
        offers=tuple(Offer(o.material, o.limit_units, o.points) for o in challenge.offers),
        rule=rule,
        school=challenge.school,
        credit=challenge.credit,
        rungs=rungs_of(challenge),
    )


def _tolerance(condition: Condition, setting: Setting) -> float:
    """The usual tolerance of a number [stored unit], as the class would say it."""
    return setting.round_si(condition.si("tolerance"), difference_unit(condition.unit))


def rungs_of(challenge: Challenge) -> dict[int, Rung]:
    """The rung of each team that is on one."""
    known = {r.key: Rung(key=r.key, share=r.share, words=r.words, aim=r.aim) for r in challenge.rungs}
    return {row.team_id: known[row.key] for row in challenge.on_rungs if row.key in known}


def seen_under(kind: Kind, choices: Mapping[str, str]) -> Kind:
    """The family offering only what can be seen at the test that was chosen."""
    test = kind.test
    if all(o.when is None for o in test.observations):
        return kind
    seen = tuple(replace(o, offered=o.offered and holds(o.when, choices)) for o in test.observations)
    return replace(kind, test=replace(test, observations=seen))


def with_own_words(kind: Kind, school_class: SchoolClass) -> Kind:
    """The family with the class's own words for what is seen at its tests."""
    own = tuple(
        Observation(w.word, w.seen, w.ask, w.gone_at is None)
        for w in school_class.own_words
        if w.kind == kind.key
    )
    if not own:
        return kind
    return replace(kind, test=replace(kind.test, observations=(*kind.test.observations, *own)))


def create_challenge(
    session: Session, school_class: SchoolClass, kind_key: str, title: str, age_band: str = USUAL
) -> Challenge:
    """A new challenge with the family's defaults filled in, so that it could run as it is.

    `age_band` is a step of the dial of difficulty.
    """
    kind = get_kind(kind_key)
    if not title.strip():
        raise Refused("Give the challenge a title.", "title")
    usual = usual_setup(kind, age_band)
    setting = setting_of(school_class)
    kind = kind_for(kind_key, usual.words)
    position = len(school_class.challenges)
    challenge = Challenge(
        school_class=school_class,
        kind=kind.key,
        title=title.strip(),
        age_band=usual.words,
        dial=age_band,
        story=usual.story,
        success=usual.success,
        position=position,
        created_at=moments.now(),
    )
    challenge.settings = [
        ChallengeSetting(
            key=c.key, value=setting.round_si(c.si("default"), c.unit), tolerance=_tolerance(c, setting)
        )
        for c in (*kind.brief.conditions, *kind.brief.criteria)
    ]
    challenge.choices = [ChallengeChoice(key=c.key, value=c.options[0][0]) for c in kind.brief.choices]
    challenge.marks = [Mark(phase=phase, time_s=t) for phase, times in usual.marks.items() for t in times]
    challenge.offers = [
        OfferRow(position=i, material=key, points=MATERIALS[key].points, limit_units=limit)
        for i, (key, limit) in enumerate(usual.limits.items())
    ]
    session.add(challenge)
    use_school(challenge, usual.school)
    session.flush()
    return challenge


def move_challenge(session: Session, challenge: Challenge, step: int) -> None:
    """Put a challenge one place earlier (-1) or later (1) in its class's order; at an end, nothing."""
    order = list(
        session.scalars(
            select(Challenge)
            .where(Challenge.class_id == challenge.class_id)
            .order_by(Challenge.position, Challenge.id)
        )
    )
    at = order.index(challenge)
    to = min(max(at + step, 0), len(order) - 1)
    order.insert(to, order.pop(at))
    for position, each in enumerate(order):
        each.position = position


def use_school(challenge: Challenge, school: str) -> None:
    """Replace the rule by a school's, in the class's units."""
    brief = brief_of(challenge)
    rule = brief.kind.brief.rule(school, brief.setting, brief.last_mark_s(), brief.choices)
    save_rule(challenge, rule, school)


def save_rule(challenge: Challenge, rule: Sequence[Term], school: str = "own") -> None:
    """Store the terms; Refused when the rule could not be worked out."""
    if not rule:
        raise Refused("A rule needs at least one term.", "terms")
    try:
        kind = with_criteria(get_kind(challenge.kind), [t.metric for t in rule])
        score(
            rule,
            {m.key: Figure(value=1.0, se=0.0) for m in kind.analysis.metrics},
            kind.analysis.metric_units(),
        )
    except ValueError as error:
        raise Refused(str(error), "terms") from None
    challenge.school = school
    challenge.terms = [
        TermRow(position=i, metric=t.metric, unit=t.unit, weight=t.weight, divisor=t.divisor, cap=t.cap)
        for i, t in enumerate(rule)
    ]


def keep_safe(condition: Condition, value: float, challenge: Challenge) -> None:
    """Refuse a value [stored unit] beyond what keeps the challenge's age from harm."""
    free = get_kind(challenge.kind).brief.setting(condition.key)
    if not free.safe or condition.si("low") - 1e-9 <= value <= condition.si("high") + 1e-9:
        return
    limit = condition.si("high" if free.safe_is == "most" else "low")
    said = setting_of(challenge.school_class).show(limit, condition.unit)
    ages = challenge.age_band.replace("-", " to ")
    raise Refused(f"{condition.label}: at {free.safe_is} {said} at ages {ages}.", condition.key)


def save_settings(
    challenge: Challenge, values: Mapping[str, tuple[float, float]], choices: Mapping[str, str]
) -> None:
    """Store conditions as key -> (value, tolerance), SI, and choices."""
    kind = kind_for(challenge.kind, challenge.age_band)
    known = {c.key: c for c in kind.brief.every_setting()}
    rows = {row.key: row for row in challenge.settings}
    for key, (value, tolerance) in values.items():
        if key not in known:
            raise Refused(f"{key} is not a condition of this family.", key)
        keep_safe(known[key], value, challenge)
        if key not in rows:
            rows[key] = ChallengeSetting(key=key)
            challenge.settings.append(rows[key])
        rows[key].value, rows[key].tolerance = value, tolerance
    chosen = {row.key: row for row in challenge.choices}
    for choice in kind.brief.choices:
        if choice.key in choices and choices[choice.key] in dict(choice.options):
            if choice.key not in chosen:
                chosen[choice.key] = ChallengeChoice(key=choice.key)
                challenge.choices.append(chosen[choice.key])
            chosen[choice.key].value = choices[choice.key]


def save_offers(session: Session, challenge: Challenge, offers: Sequence[Offer]) -> None:
    """Replace what is on offer."""
    if not offers:
        raise Refused("Offer at least one material.", "offers")
    seen: set[str] = set()
    for i, offer in enumerate(offers):
        if offer.material not in MATERIALS or offer.material in seen:
            raise Refused("This material is already in the list.", f"offer-{i}")
        seen.add(offer.material)
        if offer.limit is not None and offer.limit < 1:
            raise Refused(
                f"{MATERIALS[offer.material].name}: a limit below 1 is less than one build needs. "
                "Allow at least 1, or take it off the list.",
                f"limit-{offer.material}",
            )
        if offer.points < 0:
            raise Refused("Impact points cannot be below zero.", f"points-{offer.material}")
    rows = {row.material: row for row in challenge.offers}
    challenge.offers[:] = [row for row in challenge.offers if row.material in seen]
    for i, offer in enumerate(offers):
        row = rows.get(offer.material)
        if row is None:
            row = OfferRow(material=offer.material)
            challenge.offers.append(row)
        row.position, row.limit_units, row.points = i, offer.limit, offer.points
    session.flush()


def finish_brief(challenge: Challenge) -> None:
    if challenge.brief_done_at is None:
        challenge.brief_done_at = moments.now()


def save_tools(challenge: Challenge, tools: Sequence[str]) -> None:
    """Keep which tools are used; other tools bring other cautions, to be read anew."""
    if set(tools) != set(challenge.tools.split()):
        challenge.tools = " ".join(tools)
        challenge.cautions_seen_at = None


def acknowledge_cautions(challenge: Challenge) -> None:
    if challenge.cautions_seen_at is None:
        challenge.cautions_seen_at = moments.now()


def delete_challenge(session: Session, challenge: Challenge) -> Removed:
    """Remove a challenge with all that was built and read for it; it can be brought back."""
    return delete_kept(session, challenge, "challenge", challenge.title)
