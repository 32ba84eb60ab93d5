"""The record's side of the core's one door: what is refused there is refused here, at its field."""

from __future__ import annotations

from thermion.core.judging.observed import NOTHING, Around, Observed, Quantity, Source, observe
from thermion.core.physics.units import Setting
from thermion.records.errors import Implausible


def accept(
    given: str | float,
    quantity: Quantity,
    setting: Setting,
    field: str,
    *,
    unit: str = "",
    source: Source = "hand",
    around: Around = NOTHING,
) -> tuple[float, Observed]:
    """The value [stored unit] and all that was said of it. Raises Implausible naming the field."""
    found = observe(given, quantity, setting, unit=unit, source=source, around=around)
    if found.value is None:
        raise Implausible(
            found.check.message, field, setting.typed(found.check.suggestion, quantity.unit, quantity.digits)
        )
    return found.value, found
