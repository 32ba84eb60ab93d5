"""How a sail run is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.testing import (
    DISTANCE,
    TIMER,
    Bench,
    Need,
    Observation,
    PreCut,
    Reads,
    RigCheck,
    Technique,
    Testing,
)
from thermion.core.physics.sail import GIVE

TEST = Testing(
    shape="turns",
    reads=(
        Reads(
            key="stop_m",
            label="Where it stopped",
            unit="centimeter",
            low=0,
            high=2000,
            resolution=1,
            scale="track",
            limit="track_m",
            zero=True,
            gauges=(DISTANCE,),
        ),
        Reads(
            key="time_s",
            label="Time",
            unit="second",
            low=0,
            high=300,
            resolution=0.2,
            optional=True,
            gauges=(TIMER,),
        ),
        Reads(
            key="give",
            label="How the sail stood",
            unit="dimensionless",
            low=0,
            high=2,
            resolution=1,
            words=GIVE,
            whole=True,
            optional=True,
        ),
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
            Need(item="Trolley", quantity=1, per="class", spare=0.5),
            Need(item="Rail or line for the track", quantity=2, per="class", spare=0),
            Need(item="Fan with guard", quantity=1, per="class", spare=0),
            Need(item="Tape measure", quantity=1, per="class", spare=0),
            Need(item="Stopwatch", quantity=1, per="class", spare=0),
            Need(item="Mast, 30 cm dowel", quantity=1),
        ),
        cuts=(PreCut(item="Mast dowel", length_m=0.30, stock_m=0.90),),
        checks=(
            RigCheck(
                key="apart",
                text="The rails are equally far apart at both ends.",
                unit="millimeter",
                readings=("start", "end"),
                agree=2.0,
            ),
            RigCheck(
                key="level",
                text="The rails are level.",
                unit="millimeter",
                readings=("start", "end"),
                agree=3.0,
            ),
            RigCheck(key="rolls", text="The bare trolley rolls the whole track when pushed."),
            RigCheck(
                key="wind",
                text="The wind at the start line is the same twice.",
                unit="meter/second",
                readings=("first", "again"),
                agree=0.3,
            ),
            RigCheck(key="clear", text="Nobody and nothing stands beside the track."),
        ),
        techniques=(
            Technique("Roll a paper tube tightly and tape it along its whole length."),
            Technique("Fix a mast so that it does not turn: a foot, and a stay on each side."),
        ),
        waiting=(
            "Mark on your drawing where the wind will leave your sail.",
            "Predict where the next trolley will stop.",
            "Hold your sail in front of you and walk: which way does it give?",
        ),
    ),
)
