"""How keeping cold or warm is tested: what is read, what is seen and asked, kit and checks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from thermion.core.kinds.keep_temp.analysis import TEMP_STEP_K, melted_mass
from thermion.core.kinds.keep_temp.brief import DRINK, ICE, LEVEL, MELTED
from thermion.core.kinds.testing import (
    ONE_GLASS,
    Bench,
    Need,
    Observation,
    Phase,
    ReadLater,
    Reads,
    RigCheck,
    Technique,
    Testing,
)
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.physics.heat import check_mass_balance
from thermion.core.values import Check


def doubt_later(
    value: float,
    before: Sequence[float],
    last: float | None,
    rig: Mapping[str, float],
    choices: Mapping[str, str],
) -> Check:
    """Ice left and water melted make up the ice of the start; over 5 % off is asked about."""
    key = {"volume": "volume_m3", "height": "height_m", "mass": "mass_kg"}[choices["measure"]]
    if last is None:
        return Check("ok")
    traces = {key: Trace((0.0,), (last,))}
    melted, _, _ = melted_mass(traces, Trial(traces=traces, conditions=rig))
    if melted.value is None:
        return Check("ok")
    return check_mass_balance(melted.value, value, rig.get("started_kg", 0.1))


ICE_WAS = "the ice that was put in"

TEST = Testing(
    shape="marks",
    reads=(
        Reads(
            key="volume_m3",
            label="Water drained",
            unit="milliliter",
            low=0,
            high=2000,
            resolution=1,
            when=("measure", "volume"),
            part_of=("started_kg", 1e-3, ICE_WAS),
        ),
        Reads(
            key="height_m",
            label="Water level in the cup",
            unit="millimeter",
            low=0,
            high=300,
            resolution=1,
            when=("measure", "height"),
        ),
        Reads(
            key="mass_kg",
            label="Water weighed",
            unit="gram",
            low=0,
            high=2000,
            resolution=1,
            when=("measure", "mass"),
            part_of=("started_kg", 1.0, ICE_WAS),
        ),
        Reads(
            key="left_kg",
            label="Ice left",
            unit="gram",
            low=0,
            high=2000,
            resolution=1,
            when=("measure", "left"),
            part_of=("started_kg", 1.0, ICE_WAS),
        ),
        Reads(
            key="temp_c",
            label="Temperature",
            unit="degC",
            low=-5,
            high=100,
            resolution=TEMP_STEP_K,
            when=DRINK,
            above_air=True,
        ),
    ),
    phases=(Phase(key="standing", label="Standing", begin="Start the clock", until_s=2400.0, every_s=600.0),),
    observations=(
        Observation("lid", "The lid stood open", "Which way did the heat come in?"),
        Observation("wet", "The wrap got wet", "What fills the gaps when water does, not air?"),
        Observation("pressed", "The filling was squashed", "Where did the air go?"),
        Observation("sun", "It stood in the sun", "Was it warmer there than at the others' place?"),
        Observation("table", "It stood on a cold or hot table", "What touches the jar below?"),
        Observation("opened", "It was opened to look", "What came in when it was opened?"),
        Observation(
            "full",
            "A fuller cup looked like a winner",
            "More water in the cup: was the ice kept better or worse?",
            when=MELTED,
        ),
    ),
    later=ReadLater(
        Reads(
            key="left_kg",
            label="Ice left at the end",
            unit="gram",
            low=0,
            high=2000,
            resolution=1,
            limit="started_kg",
            when=MELTED,
        ),
        doubt_later,
    ),
    control="a jar without a jacket",
    bench=Bench(
        set_up_s=420,
        read_s=15,
        kit=(
            Need(item="Jar with lid", quantity=1),
            Need(item="Cups of one kind", quantity=1, when=MELTED),
            Need(item="Ice, 100 g", quantity=1, per="team", spare=0.2, when=ICE),
            Need(item="Kitchen scale", quantity=1, per="class", spare=0),
            Need(item="Measuring jug", quantity=1, per="class", spare=0, when=("measure", "volume")),
            Need(item="Ruler in millimetres", quantity=1, per="class", spare=0, when=("measure", "height")),
            Need(item="Warm water for one jar, 200 g", quantity=1, per="team", spare=0, when=DRINK),
            Need(item="Thermometer", quantity=1, when=DRINK),
            Need(item="Thermometer for the air", quantity=1, per="class", spare=0),
            Need(item="Tray", quantity=1),
            Need(item="Cloth", quantity=1),
        ),
        checks=(
            RigCheck(
                key="agree",
                text="The thermometers read the same in one glass of water.",
                unit="degC",
                readings=ONE_GLASS,
                agree=1.0,
            ),
            RigCheck(
                key="scale",
                text="The scale shows zero, and the same mass twice.",
                unit="gram",
                readings=("first", "again"),
                agree=1.0,
            ),
            RigCheck(key="alike", text="All pieces of ice come from one freezer and one mould.", when=ICE),
            RigCheck(key="shade", text="All jars stand in the same shade, on the same kind of table."),
        ),
        techniques=(
            Technique("Drain every jar the same way: tilt, count to ten.", MELTED),
            Technique("Read a level at the bottom of its curve, eyes level with the water.", LEVEL),
            Technique("Keep the probe in the middle of the drink, and stir once before each mark.", DRINK),
        ),
        waiting=(
            "Guess which jar will be worst, and say why.",
            "Feel foil and felt: which feels warmer, which is warmer?",
        ),
    ),
)
