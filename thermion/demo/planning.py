"""The planning side of the week: lessons, place, store, kit, rig checks, the other families."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from thermion.core.builds import Part, Plan
from thermion.records import briefs, builds, kit, rig, runs, store, week
from thermion.records.attempts import AttemptInput, save_attempt
from thermion.records.builds import Draft
from thermion.records.models import Challenge, SchoolClass

LESSON_S, PACK_UP_S = 75 * 60.0, 5 * 60.0
STOCK = {
    "newspaper": 90, "cardboard": 24, "foil": 30, "cling_film": 42, "bubble_wrap": 6,
    "black_paper": 60, "felt": 17, "straw": 60, "tape": 90,
}  # fmt: skip
PACKS: Mapping[str, tuple[float, float, bool]] = {
    "Newspaper": (20, 0.0, True), "Aluminium foil": (30, 2.4, True), "Clear film": (40, 1.9, True),
    "Black paper": (25, 3.5, True), "Paper tape": (20, 1.2, False), "Wool felt": (10, 4.8, False),
    "Dry grass": (1, 0.0, True), "Thermometer": (1, 0.0, True), "Mug, all alike": (6, 7.5, True),
    "Fan with guard": (1, 0.0, True), "Straw or tube as bearing": (100, 1.5, False),
}  # fmt: skip
OTHERS = (
    ("wind_lift", "Crane the stores"), ("sail_run", "Cross the causeway"),
    ("keep_temp", "Save the bait"), ("melt_pair", "Soft and hard"),
    ("heat_through", "What lets heat through?"), ("rain_catch", "Fill the cistern"),
)  # fmt: skip
SHORT: Mapping[str, Mapping[str, float]] = {  # what was left out of later challenges [min]
    "Keeper's supper by lamp": {"ask": 5, "imagine": 0, "plan": 0, "create": 0, "improve": 0,
                                "share": 0},
    "Supper for two": {"imagine": 0, "improve": 0, "share": 0},
    "Supper in the fog": {"imagine": 0, "improve": 0, "share": 0},
}  # fmt: skip
ROTORS: Mapping[str, tuple[tuple[tuple[str, str, float], ...], dict[str, float], float, str]] = {
    "Avocet": ((("blade", "card", 1), ("fix", "tape", 2), ("hub", "cork", 1)), {}, 8, "waiting"),
    "Dunlin": ((("blade", "balsa", 4), ("fix", "tape", 1)), {"pitch_deg": 45.0}, 5, "waiting"),
    "Godwit": ((("blade", "copy_paper", 2), ("fix", "tape", 2)),
               {"blades": 6.0, "length_m": 0.18}, 12, "signed"),
    "Knot": ((("blade", "card", 1), ("spar", "craft_stick", 4)), {"opposed": 2.0}, 9, "draft"),
}  # fmt: skip


_CARD, _MAST, _STAY = ("sail", "card", 1), ("mast", "craft_stick", 2), ("stay", "tape", 2)
SAILS: Mapping[str, tuple[tuple[tuple[str, str, float], ...], dict[str, float], float]] = {
    "Avocet": ((_CARD, _MAST), {}, 1.8),
    "Dunlin": ((_CARD, _MAST, _STAY), {"belly": 0.4}, 2.0),
    "Godwit": ((("sail", "card", 2), _MAST, _STAY), {"width_m": 0.28, "height_m": 0.26}, 2.4),
    "Knot": ((_CARD, ("mast", "craft_stick", 1)), {"rake_deg": 20.0}, 1.2),
    "Plover": ((("sail", "plastic_bag", 1), ("mast", "balsa", 1)), {"belly": 0.5}, 1.5),
    "Turnstone": ((("sail", "copy_paper", 1),), {}, 2.2),
    "Whimbrel": ((_CARD, _MAST), {"turned_deg": 35.0}, 1.0),
    "Curlew": ((("sail", "foam_plate", 1), _MAST), {"low_m": 0.08}, 1.6),
}  # fmt: skip


def shelves(session: Session, crew: SchoolClass) -> None:
    """What stood on the shelf on the first day."""
    for material, units in STOCK.items():
        store.count_stock(session, crew.id, material, units)


def plan_week(session: Session, crew: SchoolClass, now: datetime) -> None:
    """Two lessons a day, the one that is on begun 20 minutes ago; kit, checks, other briefs."""
    crew.learners = 28
    crew.latitude_deg, crew.longitude_deg, crew.altitude_m = -37.2, -12.4, 12.0
    today = (now - timedelta(minutes=20)).replace(second=0, microsecond=0)
    for day in range(-2, 3):
        for hours in (0, 3):
            start = today + timedelta(days=day, hours=hours)
            week.save_lesson(session, crew.id, start, LESSON_S, PACK_UP_S)
    for item, (pack, cost, have) in PACKS.items():
        kit.save_item(session, crew.id, item, pack=pack, pack_cost=cost, have=have)
    made = [briefs.create_challenge(session, crew, key, title) for key, title in OTHERS]
    _ready(session, made[0])
    _ready(session, made[1])
    session.refresh(crew, ["challenges"])
    for challenge in crew.challenges:
        for phase, minutes in SHORT.get(challenge.title, {}).items():
            week.save_step(session, challenge.id, phase, length_s=minutes * 60)
    lamp = next(c for c in crew.challenges if c.title == "Keeper's supper by lamp")
    lamp_brief = briefs.brief_of(briefs.get_challenge(session, lamp.id))
    shown = {t.letter: 20.5 for t in crew.teams} | {rig.AIR: 20.5}
    shown["P"] = 21.0
    rig.save_check(session, lamp, lamp_brief, "agree", shown)
    rig.save_check(session, lamp, lamp_brief, "lamps", {"lowest": 0.30, "highest": 0.305})
    _rotors(session, made[0])
    _sails(session, made[1], now - timedelta(days=1))


def _ready(session: Session, challenge: Challenge) -> None:
    briefs.acknowledge_cautions(challenge)
    briefs.finish_brief(challenge)
    session.flush()


def _sails(session: Session, challenge: Challenge, at: datetime) -> None:
    """Every team's sail in three attempts of yesterday; one never moved, one was changed on the
    spot, one went by hand."""
    brief = briefs.brief_of(challenge)
    usual = {f.key: f.si("default") for f in brief.kind.factors}
    plans = []
    for team in challenge.school_class.teams:
        parts, factors, guess = SAILS[team.name]
        plan = Plan(tuple(Part(place, m, "flat", n) for place, m, n in parts), {**usual, **factors})
        version = builds.start_version(session, challenge, team.id)
        builds.save_draft(version, version.revision, Draft(plan, guess, ""))
        builds.hand_in(version, brief)
        builds.sign(version, brief)
        store.hand_out(session, version)
        plans.append((version, plan))
    session.flush()
    run = runs.create_run(session, challenge, version_ids=[v.id for v, _ in plans],
                          conditions={"wind_m_s": 4.1}, note="Fan on step 2.", now=at)  # fmt: skip
    trials = brief.kind.simulate([p for _, p in plans], {**brief.values, "wind_m_s": 4.1}, 12)
    reads = {r.key: r for r in brief.kind.reads}
    for turn in range(3):
        for i, (entry, trial) in enumerate(zip(run.entries, trials, strict=True)):
            attempt = trial.attempts[turn]
            typed = {k: brief.setting.typed(v, reads[k].unit, 1) for k, v in attempt.values.items()}
            note = "Second stay tied on." if (i, turn) == (3, 2) else ""
            save_attempt(
                session, run, brief,
                AttemptInput(entry.id, typed, f"demo-sail-{turn}-{i}", attempt.seen,
                             free=(i, turn) == (6, 2), adjusted=bool(note), note=note),
                at + timedelta(minutes=1.7 * (turn * len(plans) + i)),
            )  # fmt: skip
    runs.close_run(run, at + timedelta(minutes=45))


def _rotors(session: Session, challenge: Challenge) -> None:
    """Plans for the crane at three stages."""
    brief = briefs.brief_of(challenge)
    usual = {f.key: f.si("default") for f in brief.kind.factors}
    for team in challenge.school_class.teams:
        if team.name not in ROTORS:
            continue
        parts, factors, guess, until = ROTORS[team.name]
        version = builds.start_version(session, challenge, team.id)
        plan = Plan(tuple(Part(place, m, "flat", n) for place, m, n in parts), {**usual, **factors})
        builds.save_draft(version, version.revision, Draft(plan, guess, ""))
        if until != "draft":
            builds.hand_in(version, brief)
        if until == "signed":
            builds.sign(version, brief)
    session.flush()
