"""Whether teams read at a test, on their own devices."""

from __future__ import annotations

from typing import get_args

from thermion.core.planning.pads import Pads
from thermion.records.errors import Refused
from thermion.records.tables import Run


def let_read(run: Run, how: str) -> None:
    """Whether teams read on their own devices: "" not, "typed" as they type, "looked" when it was looked at."""
    found = next((each for each in get_args(Pads) if each == how), None)
    if found is None:
        raise Refused("Pads read not at all, as typed, or after a look.", "pads")
    run.pads = found
