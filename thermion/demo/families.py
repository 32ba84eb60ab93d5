"""The other families of the week, each at another stage: raced, run, waiting, ready, going on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from thermion.core.physics.curves import first_crossing
from thermion.core.physics.materials import MATERIALS
from thermion.core.plans import Part, Plan
from thermion.records.building import builds, store
from thermion.records.building.builds import Draft
from thermion.records.judging import conclusions
from thermion.records.planning import briefs
from thermion.records.running import later_readings, rig, runs
from thermion.records.running import races as race_records
from thermion.records.running.attempts import AttemptInput, save_attempt
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.records.tables import Challenge, Run, Version

_Made = tuple[tuple[tuple[str, str, float], ...], dict[str, float], float]
ROTORS: Mapping[str, tuple[tuple[tuple[str, str, float], ...], dict[str, float], float, str]] = {
    "Avocet": ((("blade", "card", 1), ("fix", "tape", 2), ("hub", "cork", 1)), {}, 8, "waiting"),
    "Dunlin": ((("blade", "balsa", 4), ("fix", "tape", 1)), {"pitch_deg": 45.0}, 5, "waiting"),
    "Godwit": (
        (("blade", "copy_paper", 2), ("fix", "tape", 2)),
        {"blades": 6.0, "length_m": 0.18},
        12,
        "signed",
    ),
    "Knot": ((("blade", "card", 1), ("spar", "craft_stick", 4)), {"opposed": 2.0}, 9, "draft"),
}


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
}


SAMPLES: Mapping[str, tuple[str, str, float]] = {  # material, form, guess [s]
    "Avocet": ("newspaper", "flat", 60),
    "Dunlin": ("foil", "flat", 200),
    "Godwit": ("felt", "flat", 90),
    "Knot": ("cork", "flat", 70),
    "Plover": ("bubble_wrap", "flat", 120),
    "Turnstone": ("copper_sheet", "flat", 30),
    "Whimbrel": ("cardboard", "flat", 80),
    "Curlew": ("foam", "flat", 150),
}
_PAPER, _BASE = ("wall", "newspaper", 3), ("floor", "cardboard", 1)
JARS: Mapping[str, _Made] = {
    "Avocet": ((("wall", "felt", 1), ("lid", "foam", 1)), {}, 70),
    "Dunlin": ((("wall", "foil", 2),), {"jacket_m": 0.01}, 80),
    "Godwit": ((("wall", "straw", 4), ("lid", "bubble_wrap", 1)), {}, 65),
    "Knot": ((_PAPER, ("seal", "tape", 2)), {}, 60),
    "Plover": ((("wall", "bubble_wrap", 1), ("floor", "felt", 1), ("lid", "felt", 1)), {}, 75),
    "Turnstone": ((("wall", "cotton_wool", 3),), {"jacket_m": 0.015}, 55),
    "Whimbrel": ((_PAPER, _BASE, ("lid", "cling_film", 1)), {}, 60),
    "Curlew": ((("wall", "wool", 2), _BASE, ("lid", "foam", 1)), {}, 85),
}
_FILM, _DARK, _SHADE = (
    ("fast_cover", "cling_film", 1),
    ("fast_base", "black_paper", 1),
    ("slow_shade", "foil", 1),
)
PAIRS: Mapping[str, _Made] = {
    "Avocet": ((_DARK, _FILM, ("slow_wrap", "felt", 1), _SHADE), {}, 30),
    "Dunlin": ((("fast_base", "foil", 1), ("slow_wrap", "newspaper", 2)), {}, 24),
    "Godwit": ((_DARK, ("fast_mirror", "foil", 1), ("slow_wrap", "cotton_wool", 2)), {}, 26),
    "Knot": ((_DARK, ("slow_shade", "copy_paper", 1)), {"fast_m": 0.07}, 20),
    "Plover": ((_DARK, _FILM, ("fast_mirror", "foil", 1), _SHADE), {"slow_m": 0.14}, 35),
    "Turnstone": ((("fast_cover", "foil", 1), ("slow_wrap", "black_paper", 2)), {}, 18),
    "Whimbrel": ((_FILM, ("slow_wrap", "newspaper", 3), _SHADE), {}, 28),
    "Curlew": ((_DARK, _FILM, ("slow_wrap", "felt", 2)), {"slow_m": 0.08}, 32),
}
_BOTTLE, _FUNNEL = ("store", "bottle_plastic", 1), ("funnel", "wax_paper", 1)
CATCHERS: Mapping[str, _Made] = {
    "Avocet": ((_BOTTLE, _FUNNEL), {"mouth_m": 0.14}, 40),
    "Dunlin": ((("store", "card", 1),), {}, 30),
    "Godwit": ((_BOTTLE, ("funnel", "foil", 1), ("apron", "cling_film", 1)), {"apron_m": 0.08}, 60),
    "Knot": ((("store", "plastic_bag", 1), _FUNNEL, ("seal", "clear_tape", 2)), {}, 45),
    "Plover": ((_BOTTLE,), {"rim_m": 0.0}, 25),
    "Turnstone": ((("store", "card", 1), ("lining", "cling_film", 1), _FUNNEL), {}, 50),
    "Whimbrel": ((_BOTTLE, ("funnel", "card", 1)), {"slope_deg": 45.0}, 35),
    "Curlew": ((("funnel", "foil", 1),), {}, 20),
}


def issued(
    session: Session,
    challenge: Challenge,
    team: str,
    parts: Sequence[tuple[str, str, float]],
    factors: Mapping[str, float],
    guess: float,
    *,
    form: str = "flat",
    note: str = "",
    idea: str = "",
) -> tuple[Version, Plan]:
    """A team's next version, planned, signed and handed out."""
    brief = briefs.brief_of(challenge)
    usual = {f.key: f.si("default") for f in brief.kind.build.factors}
    ids = {t.name: t.id for t in challenge.school_class.teams}
    plan = Plan(
        tuple(
            Part(
                place=p,
                material=m,
                form=form if form in MATERIALS[m].forms else MATERIALS[m].forms[0],
                units=n,
            )
            for p, m, n in parts
        ),
        {**usual, **factors},
    )
    version = builds.start_version(session, challenge, ids[team])
    unit = brief.kind.analysis.prediction_for(brief.choices).unit
    builds.save_draft(
        version,
        version.revision,
        Draft(
            plan=plan,
            prediction=brief.setting.to_si(guess, unit),
            change_note=note,
            idea_team_id=ids.get(idea),
        ),
    )
    builds.hand_in(version, brief)
    builds.sign(version, brief)
    store.hand_out(session, version)
    return version, plan


def make_run(
    session: Session,
    challenge: Challenge,
    versions: Sequence[Version],
    conditions: Mapping[str, float],
    at: datetime | None = None,
    note: str = "",
) -> Run:
    """A run of these versions at a moment, with the control where the family has one."""
    return runs.create_run(
        session,
        challenge,
        version_ids=[v.id for v in versions],
        conditions=conditions,
        note=note,
        now=at,
        control=True,
    )


def sails(session: Session, challenge: Challenge, at: datetime) -> None:
    """Every team's sail in three attempts; one never moved, one was changed on the spot, one went
    by hand. Two teams came back with a second version, one with another team's idea."""
    first = [
        issued(session, challenge, t, parts, factors, 100 * guess)
        for t, (parts, factors, guess) in SAILS.items()
    ]
    session.flush()
    run = make_run(session, challenge, [v for v, _ in first], {"wind_m_s": 4.1}, at, "Fan on step 2.")
    take_turns(session, challenge, run, [p for _, p in first], 12, changed=(3, 2), by_hand=(6, 2))
    runs.close_run(run, at + timedelta(minutes=45))
    parts, factors, guess = SAILS["Knot"]
    knot = issued(
        session,
        challenge,
        "Knot",
        (*parts, _STAY),
        factors,
        100 * guess + 30,
        note="The mast leaned. Two stays hold it.",
        idea="Dunlin",
    )
    parts, factors, guess = SAILS["Whimbrel"]
    whimbrel = issued(
        session,
        challenge,
        "Whimbrel",
        parts,
        {"turned_deg": 0.0},
        100 * guess + 60,
        note="Straight into the wind now.",
    )
    session.flush()
    again = [knot, whimbrel]
    then = at + timedelta(hours=1)
    run = make_run(session, challenge, [v for v, _ in again], {"wind_m_s": 4.1}, then, "Second versions.")
    take_turns(session, challenge, run, [p for _, p in again], 13)
    runs.close_run(run, then + timedelta(minutes=15))
    made = conclusions.conclude(
        session,
        challenge,
        "A sail that the wind bends loses its push: stiffen it, and hold the mast on both sides.",
    )
    cranes = [c.id for c in challenge.school_class.challenges if c.kind == "wind_hoist"]
    conclusions.carry(session, challenge, made.id, cranes)


def take_turns(
    session: Session,
    challenge: Challenge,
    run: Run,
    plans: Sequence[Plan],
    seed: int,
    *,
    turns: int = 0,
    changed: tuple[int, int] = (-1, 0),
    by_hand: tuple[int, int] = (-1, 0),
) -> None:
    """The attempts that simulation gives (at most `turns` of a team, if told), noted one after another."""
    brief = briefs.brief_of(challenge)
    conditions = {**brief.values, **{c.key: c.value for c in run.conditions}}
    trials = brief.kind.rehearsal.simulate(plans, conditions, seed, brief.choices)
    reads = {r.key: r for r in brief.kind.test.attempt_reads(brief.choices)}
    entries = [e for e in run.entries if e.version is not None]
    most = max(len(trial.attempts) for trial in trials)
    for turn in range(turns or most):
        for i, (entry, trial) in enumerate(zip(entries, trials, strict=True)):
            if turn >= len(trial.attempts):
                continue
            attempt = trial.attempts[turn]
            values = {**brief.kind.test.suggest((), conditions, brief.choices)[0], **attempt.values}
            typed = {k: brief.setting.typed(values[k], r.unit, 1) for k, r in reads.items() if k in values}
            note = "Second stay tied on." if (i, turn) == changed else ""
            save_attempt(
                session,
                run,
                brief,
                AttemptInput(
                    entry_id=entry.id,
                    typed=typed,
                    client_id=f"demo-{run.id}-{turn}-{i}",
                    seen=attempt.seen,
                    free=(i, turn) == by_hand,
                    adjusted=bool(note),
                    note=note,
                ),
                run.created_at + timedelta(minutes=1.7 * (turn * len(plans) + i)),
            )


def races(session: Session, challenge: Challenge, next_one: Challenge, at: datetime) -> None:
    """The bare probe and eight samples, one by one; one start was warm, one never got there."""
    brief = briefs.brief_of(challenge)
    made = [
        issued(session, challenge, t, (("sample", m, 1),), {}, guess, form=form)
        for t, (m, form, guess) in SAMPLES.items()
    ]
    session.flush()
    run = make_run(session, challenge, [v for v, _ in made], {}, at, "Pad at 45 °C all the time.")
    trials = brief.kind.rehearsal.simulate([p for _, p in made], brief.values, 21, brief.choices)
    traces = [trials[0].control["race"], *(t.traces["race"] for t in trials)]
    target, clock, longest = brief.values["target_c"], at, (0.0, "")
    for i, (entry, trace) in enumerate(zip(run.entries, traces, strict=True)):
        key = f"demo-race-{i}"
        warm = 1.5 if i == 4 else 0.0
        race_records.start_race(
            session,
            run,
            brief,
            entry_id=entry.id,
            typed=f"{trace.value[0] + warm:.1f}",
            pressed_at=clock,
            client_id=key,
            sure=True,
            now=clock,
        )
        points = [(t, v) for t, v in zip(trace.time_s, trace.value, strict=True) if t > 0]
        for t, v in points[::2]:
            if v >= target:
                break
            moment = clock + timedelta(seconds=t)
            race_records.read_probe(
                session, run, brief, typed=f"{v:.1f}", pressed_at=moment, client_id=f"{key}-{t:g}", now=moment
            )
        cross = first_crossing(trace.time_s, trace.value, target, direction="up")
        there = cross.time_s
        end = clock + timedelta(seconds=(there or t) + 0.4)
        race_records.stop_race(
            session,
            run,
            brief,
            key="",
            pressed_at=end,
            client_id=f"{key}-end",
            at_target=there is not None,
            now=end,
            seen=("warm",) if warm else (),
        )
        if entry.version is not None:
            material = MATERIALS[entry.version.parts[0].material].name
            longest = max(longest, (there or 1e9, material))
        clock = end + timedelta(seconds=90)
    runs.close_run(run, clock)
    said = f"{longest[1]} held the heat back longest of our eight samples."
    kept = conclusions.conclude(session, challenge, said)
    conclusions.carry(session, challenge, kept.id, [next_one.id])


def jars(session: Session, challenge: Challenge) -> None:
    """All jars are built and handed their ice; the run is set up, its clock not started."""
    made = [issued(session, challenge, t, *plan) for t, plan in JARS.items()]
    session.flush()
    make_run(session, challenge, [v for v, _ in made], {"air_c": 22.0})


def pairs(session: Session, challenge: Challenge, now: datetime) -> None:
    """Under the lamps for 13 minutes now; one check was missed, one went backwards."""
    briefs.save_settings(challenge, {}, {"heat_source": "lamp"})
    made = [issued(session, challenge, t, *plan) for t, plan in PAIRS.items()]
    session.flush()
    brief = briefs.brief_of(challenge)
    at = now - timedelta(minutes=13)
    rig_now = {"start_c": 18.0, "air_c": 24.0, "irradiance_w_m2": 600.0}
    run = make_run(session, challenge, [v for v, _ in made], rig_now, at)
    phase = brief.kind.test.phases[0].key
    runs.start_phase(session, run, brief, phase, at)
    trials = brief.kind.rehearsal.simulate([p for _, p in made], {**brief.values, **rig_now}, 5)
    by_version = {v.id: trial for (v, _), trial in zip(made, trials, strict=True)}
    marks = [m for m in brief.marks[phase] if m <= 12 * 60]
    for k, mark in enumerate(marks):
        for i, entry in enumerate(run.entries):
            trial = by_version.get(entry.version_id or 0, trials[0])
            trace = trial.traces[entry.device] if entry.version_id else trial.control["stage"]
            seen = int(trace.value[k])
            if (i, k) == (9, 3) or (mark == marks[-1] and i > 11):
                continue
            if (i, k) == (3, 4):
                seen = max(seen - 1, 0)
            moment = at + timedelta(seconds=mark + 3 + 3 * i)
            save_reading(
                session,
                run.id,
                ReadingInput(
                    entry_id=entry.id,
                    phase=phase,
                    mark_s=mark,
                    given=str(seen),
                    client_id=f"demo-melt-{i}-{k}",
                    entered_at=moment,
                ),
                moment,
            )


def showers(session: Session, challenge: Challenge, now: datetime) -> None:
    """Counted sprays, calibrated first; two showers for each done, two leak checks noted."""
    briefs.save_settings(challenge, {}, {"dosing": "sprays"})
    session.flush()
    rig.save_check(
        session,
        challenge,
        briefs.brief_of(challenge),
        "sprays",
        {"first ten": 19.6e-6, "next ten": 20.1e-6, "last ten": 19.8e-6},
    )
    made = [issued(session, challenge, t, *plan) for t, plan in CATCHERS.items()]
    session.flush()
    at = now - timedelta(minutes=32)
    run = make_run(session, challenge, [v for v, _ in made], {}, at)
    take_turns(session, challenge, run, [p for _, p in made], 31, turns=2)
    brief = briefs.brief_of(challenge)
    for i, (minute, typed) in enumerate(((20, "58"), (30, "57"))):
        moment = at + timedelta(minutes=minute)
        later_readings.save_later(
            session,
            run,
            brief,
            entry_id=run.entries[2].id,
            typed=typed,
            client_id=f"demo-leak-{i}",
            now=moment,
        )


def rotors(session: Session, challenge: Challenge) -> None:
    """Plans for the crane at three stages."""
    brief = briefs.brief_of(challenge)
    usual = {f.key: f.si("default") for f in brief.kind.build.factors}
    for team in challenge.school_class.teams:
        if team.name not in ROTORS:
            continue
        parts, factors, guess, until = ROTORS[team.name]
        version = builds.start_version(session, challenge, team.id)
        plan = Plan(
            tuple(Part(place=place, material=m, form="flat", units=n) for place, m, n in parts),
            {**usual, **factors},
        )
        builds.save_draft(version, version.revision, Draft(plan=plan, prediction=guess, change_note=""))
        if until != "draft":
            builds.hand_in(version, brief)
        if until == "signed":
            builds.sign(version, brief)
    session.flush()
