"""How a wind hoist is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.testing import (
    DISTANCE,
    TIMER,
    Bench,
    Gauge,
    Need,
    Observation,
    PreCut,
    Reads,
    RigCheck,
    Technique,
    Testing,
)
from thermion.core.kinds.trials import Attempt
from thermion.core.kinds.wind_hoist.analysis import SPOOL_M, load_after
from thermion.core.kinds.wind_hoist.brief import BRIEF
from thermion.core.physics.lift import rise_of


def suggest(
    attempts: Sequence[Attempt], conditions: Mapping[str, float], choices: Mapping[str, str]
) -> tuple[dict[str, float], str]:
    """The load to try next, on the class's ladder or searching; words give the bracket so far."""
    found = load_after(attempts, {**BRIEF.default_rig(), **conditions}, choices)
    if found.load is None and found.lifts is None:
        return {"load": 1.0}, "lifts nothing: adjust the rotor, and try 1 again"
    lifts = "lifts nothing yet" if found.lifts is None else f"lifts {found.lifts:g}"
    words = lifts if found.fails is None else f"{lifts}, not {found.fails:g}"
    if found.load is None:
        return {"load": found.lifts or 1.0}, f"{words}: {found.note}"
    if not attempts:
        return {"load": found.load}, f"first try: {found.load:g}"
    return {"load": found.load}, f"try {found.load:g} ({words})"


def wound_up(counted: float, rig: Mapping[str, float]) -> float:
    """The rise [m] by the turns of the shaft."""
    return rise_of(counted, rig.get("spool_m", 0.01), rig.get("string_m", 0.0))


TEST = Testing(
    shape="turns",
    reads=(
        Reads(
            key="load",
            label="Load, weights in the cup",
            unit="dimensionless",
            low=0,
            high=200,
            resolution=1,
            whole=True,
            limit="weights",
            things=("weight", "weights"),
        ),
        Reads(
            key="rise_m",
            label="Rise",
            unit="centimeter",
            low=0,
            high=300,
            resolution=0.5,
            scale="string",
            limit="height_m",
            zero=True,
            gauges=(
                Gauge(label="turns of the shaft", unit="count", of=wound_up, share=SPOOL_M / 0.01),
                DISTANCE,
            ),
        ),
        Reads(
            key="time_s",
            label="Time",
            unit="second",
            low=0,
            high=600,
            resolution=0.2,
            optional=True,
            gauges=(TIMER,),
        ),
    ),
    observations=(
        Observation("string", "String slid off the spool", "What would keep the string in place?"),
        Observation(
            "slipped", "Hub slipped on the shaft", "What turned, the rotor or the shaft? Watch both."
        ),
        Observation("jammed", "Shaft jammed", "Where does the shaft touch, and how hard?"),
        Observation(
            "opposed",
            "Blades work against each other",
            "Which way would each blade turn it if it were alone?",
        ),
        Observation("limp", "Blades bent back", "What does the wind do to the blade's angle?"),
        Observation("stalled", "Started, then stopped", "What grew while it was turning?"),
        Observation("wobble", "It wobbles", "Are the blades equally heavy and equally spaced?"),
        Observation("beside", "The wind went past", "Where is the fan's wind strongest?"),
    ),
    suggest=suggest,
    goes_on=("loads", "search"),
    bench=Bench(
        fit_s=40,
        run_s=40,
        reset_s=30,
        kit=(
            Need(item="Dowel for the shaft, 30 cm", quantity=1),
            Need(item="Straw or tube as bearing", quantity=2),
            Need(item="Spool", quantity=1),
            Need(item="String, 90 cm", quantity=1),
            Need(item="Cup with handle", quantity=1),
            Need(item="Fan with guard", quantity=1, per="class", spare=0),
            Need(item="Clamp stand", quantity=2, per="class", spare=0),
            Need(item="Stopwatch", quantity=1, per="class", spare=0),
            Need(item="Ruler, 1 m", quantity=1, per="class", spare=0),
            Need(item="Washers of 8.0 g", quantity=24, per="class"),
            Need(item="Eye protection", quantity=1, per="learner", spare=0.0),
        ),
        cuts=(
            PreCut(item="Dowel", length_m=0.30, stock_m=0.90),
            PreCut(item="String", length_m=0.90, stock_m=10.0),
        ),
        checks=(
            RigCheck(
                key="level",
                text="The hub stands level with the middle of the fan.",
                unit="centimeter",
                readings=("hub", "middle of the fan"),
                agree=1.0,
            ),
            RigCheck(key="room", text="The cup hangs clear of the floor and of the bench."),
            RigCheck(key="turns", text="The bare shaft turns freely and stops slowly."),
            RigCheck(
                key="wind",
                text="The wind at the hub is the same twice.",
                unit="meter/second",
                readings=("first", "again"),
                agree=0.3,
            ),
            RigCheck(
                key="weights",
                text="Ten weights weigh ten times one.",
                unit="gram",
                readings=("ten", "ten times one"),
                agree=1.0,
            ),
        ),
        techniques=(
            Technique("Fix a hub so that it does not slip: push, tape, pull the tape tight."),
            Technique("Wind the string from the middle of the spool, in one direction."),
            Technique("Set all blades to one angle with a folded paper gauge."),
        ),
        waiting=(
            "Predict the limit of the team now at the station.",
            "Turn the rotor by hand: which blades push the same way?",
            "Draw where the air goes after a blade.",
        ),
    ),
)
