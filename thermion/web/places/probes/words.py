"""What is said of probes."""

from __future__ import annotations

from collections.abc import Sequence

from thermion.core.judging.probing import LOW_BATTERY, Found
from thermion.core.kinds.testing import Reads
from thermion.core.physics.units import Setting
from thermion.records.running.placed_probes import MachineShows
from thermion.records.tables import Probe

TEN_LINES = """import json, time, urllib.request

URL, KEY = "{url}", "your key"
while True:
    value = 21.5  # read your sensor here, in °C
    body = json.dumps([{{"n": "A", "u": "Cel", "v": value}}]).encode()
    asked = urllib.request.Request(URL, body, {{"Authorization": "Bearer " + KEY}})
    asked.add_header("Content-Type", "application/senml+json")
    print(urllib.request.urlopen(asked).read().decode())
    time.sleep(1)"""


def machine_reads(reads: Sequence[Reads]) -> str:
    """What a machine can read at the tests of a family; "" where all is read by hand."""
    said = ["a thermometer probe" for r in reads if r.unit == "degC"]
    said += [f"{r.label.lower()} ({' or '.join(g.label for g in r.gauges)})" for r in reads if r.gauges]
    return ", ".join(dict.fromkeys(said))


def what_goes_in(shape: str) -> str:
    """The question of the page, by how the test is held."""
    return (
        "Which probe is in which build?" if shape == "marks" else "Which machine reads what at the station?"
    )


SHOWN = {"degC": ("degC", 2), "kilogram": ("gram", 1), "meter**3": ("milliliter", 1)}
SHOWN |= {"meter": ("centimeter", 1), "second": ("second", 1), "count": ("dimensionless", 0)}


def value(number: float, stored: str, setting: Setting) -> str:
    """A value in a stored unit, as a machine's is shown."""
    unit, digits = SHOWN[stored]
    return setting.show(number, unit, digits)


def age(seconds: float) -> str:
    if seconds < 1.5:
        return "now"
    return f"{seconds:.0f} s ago" if seconds < 100 else f"{seconds / 60:.0f} min ago"


def trouble(found: Found, setting: Setting) -> str:
    """What is wrong with a probe; nothing when it is well."""
    size = abs(found.size)
    degrees = setting.write(setting.from_si(size, "delta_degC"), 0)
    return {
        "": "",
        "silent": f"silent for {_long(size)}" if size else "silent",
        "clock": f"its clock is {_long(size)} behind: not read into the test",
        "jumped": f"jumped {degrees} {setting.label('degC')}",
        "stuck": f"the same for {_long(size)}",
        "in the hand": "still in the hand?",
    }[found.trouble]


def _long(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 100 else f"{seconds / 60:.0f} min"


def of_itself(probe: Probe) -> str:
    """Its battery and its signal, as far as it tells."""
    said = []
    if probe.battery is not None:
        said.append(f"battery {probe.battery:.0f} %" + (": low" if probe.battery < LOW_BATTERY else ""))
    if probe.signal is not None:
        said.append(f"signal {probe.signal:.0f} dBm".replace("-", "−"))
    return ", ".join(said)


def low(probe: Probe) -> str:
    """That the battery of a probe in a run may not last."""
    if probe.battery is None or probe.battery >= LOW_BATTERY:
        return ""
    return f"The battery of {probe.name} is at {probe.battery:.0f} %."


def line(row: str, found: Found, setting: Setting) -> str:
    """What the desk is told of a probe in a build, and what to do."""
    said = trouble(found, setting)
    if not said:
        return ""
    todo = {
        "silent": "Read it by hand.",
        "clock": "Read it by hand.",
        "jumped": "Is it still in its place?",
        "stuck": "Look at it.",
        "in the hand": "",
    }[found.trouble]
    return f"Probe of {row}: {said}. {todo}".strip()


def gauge(shown: MachineShows, setting: Setting) -> str:
    """What a machine at a station says, and what to do before it can be believed."""
    name, what = shown.channel.name, shown.gauge.label
    if shown.silent_s is None:
        return f"{name} ({what}) has sent nothing yet. Type it in."
    if shown.silent_s:
        return f"{name} ({what}) is silent for {_long(shown.silent_s)}. Type it in."
    if shown.value is None or shown.since is None:
        return f"{name} ({what}): set it to zero before the run."
    since = value(shown.since, shown.gauge.unit, setting)
    said = f"{name} ({what}): {since}" + (" since its zero" if shown.gauge.zeroed else "")
    if shown.end is not None:
        said += f". All the way? Then it is {setting.show(shown.end, shown.read.unit, shown.read.digits)}."
    return said


def checked(number: int) -> str:
    return f"{number} probes were set to show the same."
