"""How a solar oven is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.solar_oven.analysis import RESOLUTION_K
from thermion.core.kinds.testing import ONE_GLASS, Bench, Need, Observation, Phase, Reads, RigCheck, Testing

TEST = Testing(
    held="marks",
    reads=(Reads("temp_c", "Temperature", "degC", -20.0, 200.0, RESOLUTION_K, above_air=True),),
    phases=(
        Phase("heating", "Heating", "Start heating", 1800.0, 300.0),
        Phase("cooling", "Cooling", "Start cooling", 1200.0, 300.0),
    ),
    observations=(
        Observation("leak", "Air slips out at a joint", "Where is the warm air going?"),
        Observation(
            "fog", "The window fogs", "Where does the water come from, and what does it do to the light?"
        ),
        Observation("aim", "The reflector lights the wall", "Where does the bright patch fall?"),
        Observation("bright", "Nothing dark inside", "Where does light turn into heat?"),
        Observation("opened", "The door was opened to read", "What left when the door opened?"),
        Observation("cloud", "A cloud passed", "What does the curve show at that moment?"),
        Observation("sag", "The window sags", "How thick is the still air now?"),
    ),
    bench=Bench(
        set_up_s=420,
        read_s=10,
        kit=(
            Need("Cardboard box with lid flap", 1, spare=0),
            Need("Mug, all alike", 1),
            Need("Water, 150 g", 1, spare=0),
            Need("Thermometer", 1),
            Need("Lamp on a stand", 1, when=("heat_source", "lamp")),
            Need("Ruler for the lamps", 1, "class", 0, when=("heat_source", "lamp")),
            Need("Kitchen scale", 1, "class", 0),
            Need("Stopwatch", 1, "class", 0),
            Need("Gloves", 2, "class", 0),
        ),
        checks=(
            RigCheck(
                "agree", "The thermometers read the same in one glass of water.", "degC", ONE_GLASS, 1.0
            ),
            RigCheck("probe", "Every probe is in the mug and stays there until the end."),
            RigCheck(
                "lamps",
                "All lamps hang equally high above the windows.",
                "centimeter",
                ("lowest", "highest"),
                1.0,
                when=("heat_source", "lamp"),
            ),
            RigCheck(
                "shade", "No shadow will reach the place before the last mark.", when=("heat_source", "sun")
            ),
        ),
        techniques=(
            "Stretch film over a window without a crease: tape opposite sides first.",
            "Aim a reflector by its bright patch, standing beside it.",
        ),
        waiting=("Draw the ways by which heat leaves your box.", "Predict the next reading of your box."),
    ),
)
