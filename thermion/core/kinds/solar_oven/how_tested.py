"""How a solar oven is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from thermion.core.kinds.solar_oven.analysis import RESOLUTION_K
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
    shape="marks",
    reads=(
        Reads(
            key="temp_c",
            label="Temperature",
            unit="degC",
            low=-20.0,
            high=200.0,
            resolution=RESOLUTION_K,
            above_air=True,
        ),
    ),
    phases=(
        Phase(key="heating", label="Heating", begin="Start heating", until_s=1800.0, every_s=300.0),
        Phase(key="cooling", label="Cooling", begin="Start cooling", until_s=1200.0, every_s=300.0),
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
            Need(item="Cardboard box with lid flap", quantity=1, spare=0),
            Need(item="Mugs of one kind", quantity=1),
            Need(item="Water, 150 g", quantity=1, spare=0),
            Need(item="Thermometer", quantity=1),
            Need(item="Lamp on a stand", quantity=1, when=("heat_source", "lamp")),
            Need(item="Ruler for the lamps", quantity=1, per="class", spare=0, when=("heat_source", "lamp")),
            Need(item="Kitchen scale", quantity=1, per="class", spare=0),
            Need(item="Stopwatch", quantity=1, per="class", spare=0),
            Need(item="Gloves", quantity=2, per="class", spare=0),
        ),
        checks=(
            RigCheck(
                key="agree",
                text="The thermometers read the same in one glass of water.",
                unit="degC",
                readings=ONE_GLASS,
                agree=1.0,
            ),
            RigCheck(key="probe", text="Every probe is in the mug and stays there until the end."),
            RigCheck(
                key="lamps",
                text="All lamps hang equally high above the windows.",
                unit="centimeter",
                readings=("lowest", "highest"),
                agree=1.0,
                when=("heat_source", "lamp"),
            ),
            RigCheck(
                key="shade",
                text="No shadow will reach the place before the last mark.",
                when=("heat_source", "sun"),
            ),
        ),
        techniques=(
            Technique("Stretch film over a window without a crease: tape opposite sides first."),
            Technique("Aim a reflector by its bright patch, standing beside it."),
        ),
        waiting=("Draw the ways by which heat leaves your box.", "Predict the next reading of your box."),
    ),
)
