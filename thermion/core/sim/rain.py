"""A collector on a tray under a sprayer: drops per area, splash, what the lining drinks, leaks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp

from thermion.core.lazy import numpy as np
from thermion.core.values import not_negative, positive

DROP_M3 = 5e-9  # a drop of about 2 mm


@dataclass(frozen=True)
class CollectorModel:
    """A collector.

    `mouth_m2` its own opening; `apron_m2` slopes beside it that lead water in, with
    `apron_share` arriving; `splash` share that jumps out; `drinks_m3` what linings soak up
    before they let go; `store_m3` what the store holds; `leak_per_s` share lost each second.
    """

    mouth_m2: float
    apron_m2: float = 0.0
    apron_share: float = 0.8
    splash: float = 0.1
    drinks_m3: float = 0.0
    store_m3: float = 1e-3
    leak_per_s: float = 0.0

    def check(self) -> None:
        """ValueError naming what cannot be."""
        positive("mouth_m2", self.mouth_m2)
        for name in ("apron_m2", "drinks_m3", "store_m3", "leak_per_s"):
            not_negative(name, getattr(self, name))
        for name in ("apron_share", "splash"):
            if not 0 <= getattr(self, name) <= 1:
                raise ValueError(f"{name}: expected 0 to 1")


@dataclass(frozen=True)
class Shower:
    """Where the water of one shower went [m³]; the parts add up to `poured_m3`."""

    poured_m3: float
    beside_m3: float
    splashed_m3: float
    soaked_m3: float
    overflow_m3: float
    leaked_m3: float
    caught_m3: float  # gained by the store in this shower
    stored_m3: float  # in the store at its end


def simulate_showers(
    model: CollectorModel,
    poured_m3: Sequence[float],
    tray_m2: float,
    *,
    seed: int | None = None,
    gap_s: float = 120.0,
) -> list[Shower]:
    """Showers one after another on a tray, the store draining by its leak in the `gap_s` between.

    Drops fall evenly over the tray; with a `seed` their number on the collector scatters
    (binomial). Water is conserved: poured + stored before = all parts + stored after.
    """
    model.check()
    tray, gap = positive("tray_m2", tray_m2), not_negative("gap_s", gap_s)
    if model.mouth_m2 + model.apron_m2 > tray * (1 + 1e-9):
        raise ValueError("tray_m2: expected a tray that holds the collector")
    dice = None if seed is None else np.random.default_rng(seed)
    stored, thirst = 0.0, model.drinks_m3
    out = []
    for volume in poured_m3:
        water = positive("poured_m3", volume)
        mouth, apron = _share(water, model.mouth_m2 / tray, dice), 0.0
        if model.apron_m2:
            apron = _share(water, model.apron_m2 / tray, dice)
        splashed = model.splash * mouth + (1 - model.apron_share) * apron
        inside = mouth + apron - splashed
        soaked = min(thirst, inside)
        thirst -= soaked
        before = stored
        full = min(stored + inside - soaked, model.store_m3)
        overflow = stored + inside - soaked - full
        stored = full * exp(-model.leak_per_s * gap)
        out.append(
            Shower(
                poured_m3=water,
                beside_m3=water - mouth - apron,
                splashed_m3=splashed,
                soaked_m3=soaked,
                overflow_m3=overflow,
                leaked_m3=full - stored,
                caught_m3=stored - before,
                stored_m3=stored,
            )
        )
    return out


def _share(water_m3: float, share: float, dice: np.random.Generator | None) -> float:
    if dice is None:
        return water_m3 * share
    drops = max(int(water_m3 / DROP_M3), 1)
    return water_m3 * float(dice.binomial(drops, min(share, 1.0))) / drops
