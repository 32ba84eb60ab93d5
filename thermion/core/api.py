"""What other programs call: every method of docs/methods.md, by its subject.

`>>> from thermion.core.api import lift` and `>>> lift.lift_power(0.1, 0.6, 4.0)`. Each subject is also the
module of its name beside this file (`thermion.core.lift`), an address that stays; what it leads to may move
from room to room. Nothing inside Thermion uses either.
"""

from thermion.core import (
    claims,
    curves,
    findings,
    heat,
    kit,
    lift,
    melting,
    oven,
    plausibility,
    rain,
    sail,
    schedule,
    scoring,
    sim,
    sun,
)

__all__ = [
    "claims",
    "curves",
    "findings",
    "heat",
    "kit",
    "lift",
    "melting",
    "oven",
    "plausibility",
    "rain",
    "sail",
    "schedule",
    "scoring",
    "sim",
    "sun",
]
