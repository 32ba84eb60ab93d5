"""How a melt pair is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.testing import Bench, Need, Observation, Phase, Reads, RigCheck, Testing
from thermion.core.physics.melting import STAGES

TEST = Testing(
    held="marks",
    reads=(
        Reads(
            "stage",
            "Stage",
            "dimensionless",
            0,
            4,
            1,
            words=STAGES,
            back="That is less melted than before. Right row?",
            whole=True,
        ),
    ),
    devices=(("fast", "fast"), ("slow", "slow")),
    reads_air=False,
    phases=(Phase("melting", "Melting", "Start the clock", 2400.0, 120.0),),
    observations=(
        Observation("ground", "It stood on hot ground", "What touches the sample from below?"),
        Observation(
            "dish",
            "The control lay in a bare dish",
            "Is the control like the devices in all but what was built?",
        ),
        Observation("shadow", "A shadow fell on it", "Did every sample get the same light?"),
        Observation("shiny", "Shiny paper faced the wrong way", "Where does the light bounce to?"),
        Observation("open", "Warm air blew away", "What keeps the warmed air where it is?"),
        Observation("drip", "It ran through a hole", "Where did the liquid go, and what is left?"),
        Observation("touched", "Someone poked it", "How could you tell without touching?"),
    ),
    control="a sample in a plain dish, touched by nobody",
    bench=Bench(
        set_up_s=420,
        read_s=12,
        kit=(
            Need("Sample of coconut oil, 5 g", 2, "team", 0.2),
            Need("Sample for the control", 1, "class", 1.0),
            Need("Dish, all alike", 2),
            Need("Dish for the control", 1, "class", 0),
            Need("Tray", 1),
            Need("Lamp on a stand", 1, when=("heat_source", "lamp")),
            Need("Ruler for the lamps", 1, "class", 0, when=("heat_source", "lamp")),
            Need("Stopwatch", 1, "class", 0),
        ),
        checks=(
            RigCheck("control", "The control stands in the same light and on the same ground."),
            RigCheck("samples", "All samples weigh the same.", "gram", ("lightest", "heaviest"), 0.5),
            RigCheck("cold", "All samples come from the same cold place at the same moment."),
        ),
        techniques=(
            "Agree on the five stages with one sample that nobody needs.",
            "Look from the side, do not touch.",
        ),
        waiting=("Draw where the heat comes from and which way it goes.", "Guess the order of all samples."),
    ),
)
