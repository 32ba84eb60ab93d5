"""How a melt pair is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.testing import Bench, Need, Observation, Phase, Reads, RigCheck, Technique, Testing
from thermion.core.physics.melting import STAGES

TEST = Testing(
    shape="marks",
    reads=(
        Reads(
            key="stage",
            label="Stage",
            unit="dimensionless",
            low=0,
            high=4,
            resolution=1,
            words=STAGES,
            back="That is less melted than before. Right row?",
            whole=True,
        ),
    ),
    devices=(("fast", "fast"), ("slow", "slow")),
    reads_air=False,
    phases=(Phase(key="melting", label="Melting", begin="Start the clock", until_s=2400.0, every_s=120.0),),
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
            Need(item="Sample of coconut oil, 5 g", quantity=2, per="team", spare=0.2),
            Need(item="Sample for the control", quantity=1, per="class", spare=1.0),
            Need(item="Dish, all alike", quantity=2),
            Need(item="Dish for the control", quantity=1, per="class", spare=0),
            Need(item="Tray", quantity=1),
            Need(item="Lamp on a stand", quantity=1, when=("heat_source", "lamp")),
            Need(item="Ruler for the lamps", quantity=1, per="class", spare=0, when=("heat_source", "lamp")),
            Need(item="Stopwatch", quantity=1, per="class", spare=0),
        ),
        checks=(
            RigCheck(key="control", text="The control stands in the same light and on the same ground."),
            RigCheck(
                key="samples",
                text="All samples weigh the same.",
                unit="gram",
                readings=("lightest", "heaviest"),
                agree=0.5,
            ),
            RigCheck(key="cold", text="All samples come from the same cold place at the same moment."),
        ),
        techniques=(
            Technique("Agree on the five stages with one sample that nobody needs."),
            Technique("Look from the side, do not touch."),
        ),
        waiting=("Draw where the heat comes from and which way it goes.", "Guess the order of all samples."),
    ),
)
