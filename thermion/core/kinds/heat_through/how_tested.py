"""How a heat-through race is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.heat_through.analysis import RESOLUTION_K
from thermion.core.kinds.testing import (
    ONE_GLASS,
    Bench,
    Need,
    Observation,
    Phase,
    Reads,
    RigCheck,
    Technique,
    Testing,
)

TEST = Testing(
    shape="races",
    reads=(Reads(key="temp_c", label="Probe", unit="degC", low=-10.0, high=80.0, resolution=RESOLUTION_K),),
    phases=(Phase(key="race", label="Race", begin="Probe on the sample", until_s=300.0, every_s=10.0),),
    observations=(
        Observation("warm", "The probe was still warm", "Where did it start, and where did the others?"),
        Observation("gap", "The probe did not lie flat", "What is between probe and sample?"),
        Observation("squashed", "The sample was squashed", "Where did the air go?"),
        Observation("edge", "Heat came round the edge", "Which way is the easiest for heat?"),
        Observation("pad", "The pad had cooled", "Was the pad as warm as for the first sample?"),
        Observation("shiny", "It was chosen for its shine", "Does shine matter where the pad touches?"),
        Observation(
            "feel",
            "It felt warm in the hand",
            "Is it warm, or does it only take little warmth from your hand?",
        ),
    ),
    reads_air=False,
    control="the probe on the bare pad",
    bench=Bench(
        set_up_s=300,
        read_s=10,
        fit_s=30,
        run_s=180,
        reset_s=60,
        kit=(
            Need(item="Heat pad", quantity=1, per="class", spare=0),
            Need(item="Probe or thermometer", quantity=1, per="class", spare=1.0),
            Need(item="Clamp or book as weight", quantity=1, per="class", spare=0),
            Need(item="Stopwatch", quantity=1, per="class", spare=0),
            Need(item="Glass of cool water for the probe", quantity=1, per="class", spare=0),
            Need(item="Square template, 5 cm", quantity=1),
        ),
        checks=(
            RigCheck(
                key="agree",
                text="The thermometers read the same in one glass of water.",
                unit="degC",
                readings=ONE_GLASS,
                agree=0.5,
            ),
            RigCheck(
                key="pad",
                text="The pad shows the same temperature before and after the control.",
                unit="degC",
                readings=("before", "after"),
                agree=1.0,
            ),
            RigCheck(key="bare", text="The bare control was run first."),
        ),
        techniques=(
            Technique("Cool the probe in the glass and dry it before every race."),
            Technique("Press every sample with the same weight."),
        ),
        waiting=(
            "Order all samples by guess, slowest first.",
            "Touch wood and metal: same room, same temperature?",
        ),
    ),
)
