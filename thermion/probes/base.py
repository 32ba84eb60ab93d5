"""The interface of a temperature probe."""

from __future__ import annotations

from typing import Protocol


class Device(Protocol):
    """Something that can be asked for a temperature at a moment of the test."""

    def read(self, phase: str, elapsed_s: float) -> float:
        """Reading [°C] at `elapsed_s` [s] of a phase; OSError when the device does not answer."""
        ...
