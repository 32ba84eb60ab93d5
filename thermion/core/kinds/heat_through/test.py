"""How a heat-through race is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.heat_through.analysis import RESOLUTION_K
from thermion.core.kinds.testing import ONE_GLASS, Bench, Need, Observation, Phase, Reads, RigCheck, Testing

TEST = Testing(
    held="races",
    reads=(Reads("temp_c", "Probe", "degC", -10.0, 80.0, RESOLUTION_K),),
    phases=(Phase("race", "Race", "Probe on the sample", 300.0, 10.0),),
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
            Need("Heat pad", 1, "class", 0),
            Need("Probe or thermometer", 1, "class", 1.0),
            Need("Clamp or book as weight", 1, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Glass of cool water for the probe", 1, "class", 0),
            Need("Square template, 5 cm", 1),
        ),
        checks=(
            RigCheck(
                "agree", "The thermometers read the same in one glass of water.", "degC", ONE_GLASS, 0.5
            ),
            RigCheck(
                "pad",
                "The pad shows the same temperature before and after the control.",
                "degC",
                ("before", "after"),
                1.0,
            ),
            RigCheck("bare", "The bare control was run first."),
        ),
        techniques=(
            "Cool the probe in the glass and dry it before every race.",
            "Press every sample with the same weight.",
        ),
        waiting=(
            "Order all samples by guess, slowest first.",
            "Touch wood and metal: same room, same temperature?",
        ),
    ),
)
