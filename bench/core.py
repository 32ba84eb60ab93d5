"""The core against general tools that do the same, side by side."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import curve_fit

from thermion.core.physics.curves import fit_approach_many
from thermion.core.sim import OvenModel, simulate_ovens

Timer = Callable[[dict[str, Callable[[], object]], int], dict[str, float]]


def _model(t, start, asymptote, tau):
    return asymptote + (start - asymptote) * np.exp(-t / tau)


def curves(side_by_side: Timer) -> str:
    """1,000 curves of 20 points in one call against a loop with good starting values."""
    rng = np.random.default_rng(1)
    t = np.linspace(0, 1800, 20)
    true = np.stack(
        [rng.uniform(15, 25, 1000), rng.uniform(45, 90, 1000), rng.uniform(250, 900, 1000)], axis=1
    )
    v = _model(t, *(true[:, i, None] for i in range(3))) + rng.normal(0, 0.3, (1000, 20))

    def loop() -> list:
        return [curve_fit(_model, t, row, p0=p) for row, p in zip(v, true, strict=True)]

    found = side_by_side({"many": lambda: fit_approach_many(t, v), "loop": loop}, 5)
    mine = np.array([(f.start, f.asymptote, f.time_constant_s) for f in fit_approach_many(t, v)])
    theirs = np.array(
        [
            curve_fit(_model, t, row, p0=p, ftol=1e-14, xtol=1e-14, gtol=1e-14)[0]
            for row, p in zip(v, true, strict=True)
        ]
    )
    apart = np.max(np.abs(mine / theirs - 1))
    return (
        f"fit 1,000 curves of 20 points: {found['many'] * 1e3:.1f} ms, loop over curve_fit "
        f"{found['loop'] * 1e3:.0f} ms, {found['loop'] / found['many']:.0f} times faster (aim 30), "
        f"largest relative difference {apart:.1e} (aim 1e-6)"
    )


def rehearsal(side_by_side: Timer) -> str:
    """12 ovens for 45 minutes at one-second steps under changing light, at equal accuracy."""
    rng = np.random.default_rng(2)
    t = np.arange(0.0, 2701.0)
    light = 700 + 80 * np.sign(np.sin(2 * np.pi * np.floor(t / 60) / 7))  # steps each minute
    models = [
        OvenModel(0.09, g, ua, c)
        for g, ua, c in zip(
            rng.uniform(0.4, 0.8, 12), rng.uniform(0.6, 1.5, 12), rng.uniform(500, 900, 12), strict=True
        )
    ]
    gain, ua, heat = (
        np.array(x)
        for x in zip(
            *((m.optical_gain * m.aperture_m2, m.ua_w_k, m.heat_capacity_j_k) for m in models), strict=True
        )
    )

    def exact() -> np.ndarray:
        return simulate_ovens(models, t, light, 20.0, 20.0)

    def rate(now, temp):
        sun = light[min(int(now), 2700)]
        return (gain * sun - ua * (temp - 20.0)) / heat

    def general() -> np.ndarray:
        return solve_ivp(rate, (0, 2700), np.full(12, 20.0), t_eval=t, rtol=1e-6, atol=1e-6, max_step=30.0).y

    found = side_by_side({"exact": exact, "general": general}, 5)
    apart = np.max(np.abs(exact() - general()))
    return (
        f"rehearse 12 ovens for 45 min at 1 s: {found['exact'] * 1e3:.2f} ms, solve_ivp "
        f"{found['general'] * 1e3:.0f} ms, 1/{found['general'] / found['exact']:.0f} (aim 1/20), "
        f"they differ by {apart:.1e} K at most"
    )


def imports(_: Timer) -> str:
    """What importing the whole core pulls in."""
    code = (
        "import sys, importlib, thermion.core as c; from pkgutil import walk_packages;"
        "[importlib.import_module(m.name) for m in walk_packages(c.__path__, 'thermion.core.')];"
        "print(*sorted({'pandas', 'pvlib', 'pint'} & set(sys.modules)) or ['none'])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    return f"pandas, pvlib or pint after importing all of the core: {done.stdout.strip()}"


MEASURES = (curves, rehearsal, imports)
