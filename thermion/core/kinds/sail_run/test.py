"""How a sail run is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.testing import (
    DISTANCE,
    TIMER,
    Bench,
    Cut,
    Need,
    Observation,
    Reads,
    RigCheck,
    Testing,
)
from thermion.core.physics.sail import GIVE

TEST = Testing(
    held="turns",
    reads=(
        Reads(
            "stop_m",
            "Where it stopped",
            "centimeter",
            0,
            2000,
            1,
            scale="track",
            limit="track_m",
            zero=True,
            gauges=(DISTANCE,),
        ),
        Reads("time_s", "Time", "second", 0, 300, 0.2, optional=True, gauges=(TIMER,)),
        Reads("give", "How the sail stood", "dimensionless", 0, 2, 1, words=GIVE, whole=True, optional=True),
    ),
    observations=(
        Observation("collapsed", "The sail folded up", "Which part gave first?"),
        Observation("leaned", "The mast leaned", "What could hold it from the other side?"),
        Observation("flapped", "The sail flapped", "Where does the air leave the sail?"),
        Observation("toppled", "It toppled", "Where is the push, and where are the wheels?"),
        Observation(
            "under",
            "The wind passed above or below",
            "How high is the middle of the fan, and how high the sail?",
        ),
        Observation("turned", "It turned off course", "Is the push in the middle of the trolley?"),
        Observation("stuck", "It stuck on the track", "What touched what?"),
        Observation("people", "Someone stood in the wind", "What does a body do to the wind?"),
    ),
    bench=Bench(
        fit_s=30,
        run_s=30,
        reset_s=30,
        kit=(
            Need("Trolley", 1, "class", 0.5),
            Need("Rail or line for the track", 2, "class", 0),
            Need("Fan with guard", 1, "class", 0),
            Need("Tape measure", 1, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Mast, 30 cm dowel", 1),
        ),
        cuts=(Cut("Mast dowel", 0.30, 0.90),),
        checks=(
            RigCheck(
                "apart", "The rails are equally far apart at both ends.", "millimeter", ("start", "end"), 2.0
            ),
            RigCheck("level", "The rails are level.", "millimeter", ("start", "end"), 3.0),
            RigCheck("rolls", "The bare trolley rolls the whole track when pushed."),
            RigCheck(
                "wind",
                "The wind at the start line is the same twice.",
                "meter/second",
                ("first", "again"),
                0.3,
            ),
            RigCheck("clear", "Nobody and nothing stands beside the track."),
        ),
        techniques=(
            "Roll a paper tube tightly and tape it along its whole length.",
            "Fix a mast so that it does not turn: a foot, and a stay on each side.",
        ),
        waiting=(
            "Mark on your drawing where the wind will leave your sail.",
            "Predict where the next trolley will stop.",
            "Hold your sail in front of you and walk: which way does it give?",
        ),
    ),
)
