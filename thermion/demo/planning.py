"""The planning side of the week: lessons, place, store, kit, rig checks, the other families."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from thermion.demo.families import jars, pairs, races, rotors, sails, showers
from thermion.records.building import kit, store
from thermion.records.planning import briefs, week
from thermion.records.running import rig
from thermion.records.tables import SchoolClass

LESSON_S, PACK_UP_S = 75 * 60.0, 5 * 60.0
STOCK = {
    "newspaper": 110,
    "cardboard": 30,
    "foil": 48,
    "cling_film": 60,
    "bubble_wrap": 10,
    "black_paper": 76,
    "felt": 26,
    "straw": 66,
    "tape": 110,
}
PACKS: Mapping[str, tuple[float, float, bool]] = {
    "Newspaper": (20, 0.0, True),
    "Aluminium foil": (30, 2.4, True),
    "Clear film": (40, 1.9, True),
    "Black paper": (25, 3.5, True),
    "Paper tape": (20, 1.2, False),
    "Wool felt": (10, 4.8, False),
    "Dry grass": (1, 0.0, True),
    "Thermometer": (1, 0.0, True),
    "Mugs of one kind": (6, 7.5, True),
    "Fan with guard": (1, 0.0, True),
    "Straw or tube as bearing": (100, 1.5, False),
}
OTHERS = (
    ("heat_through", "What lets heat through?"),
    ("sail_run", "Cross the causeway"),
    ("wind_hoist", "Crane the stores"),
    ("keep_temp", "Save the bait"),
    ("melt_pair", "Soft and hard"),
    ("rain_catch", "Fill the cistern"),
)
SHORT: Mapping[str, Mapping[str, float]] = {  # what was left out of later challenges [min]
    "Keeper's supper by lamp": {"task": 5, "ideas": 0, "plan": 0, "build": 0, "change": 0, "show": 0},
    "Supper for two": {"ideas": 0, "change": 0, "show": 0},
    "Supper in the fog": {"ideas": 0, "change": 0, "show": 0},
}


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
    made = {key: briefs.create_challenge(session, crew, key, title) for key, title in OTHERS}
    for challenge in made.values():
        briefs.acknowledge_cautions(challenge)
        briefs.finish_brief(challenge)
    session.flush()
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
    rotors(session, made["wind_hoist"])
    sails(session, made["sail_run"], now - timedelta(days=1))
    races(session, made["heat_through"], made["keep_temp"], now - timedelta(days=1, hours=3))
    jars(session, made["keep_temp"])
    pairs(session, made["melt_pair"], now)
    showers(session, made["rain_catch"], now)
