"""A rotor that winds up a string: lift and drag of flat blades against speed, load and friction.

Every blade is one element at 0.7 of the radius. Flat-plate coefficients for any angle of attack,
axial induction from the thrust, opposing blades subtract, floppy blades lose torque. Good to tell
designs apart and to know their order of size, not to predict a build.

.. [1] E. Hau, Wind Turbines, 3rd ed., Springer (2013), ch. 5: blade element and momentum theory.
.. [2] S. F. Hoerner, Fluid-Dynamic Drag (1965), ch. 3: flat plates at any angle of attack.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import pi, radians

from thermion.core.lazy import ArrayLike, FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.physics.lift import AIR_KG_M3, G_M_S2
from thermion.core.values import finite, not_negative, positive

_AT = 0.7  # of the radius: where the blade's mean force acts
_SPEEDS = 600
_MOST_TIP_SPEED = 6.0


@dataclass(frozen=True)
class RotorModel:
    """A rotor on its shaft.

    `blades` count, `opposed` of them folded the other way; `radius_m` to the tip, `chord_m`
    width; `pitch_deg` between blade and the plane it turns in; `stiffness_n_m` force per
    bend at the tip [N/m]; `spool_m` diameter of spool with string; `friction_n_m` of the
    bearing; `inertia_kg_m2` of all that turns.
    """

    blades: int = 4
    opposed: int = 0
    radius_m: float = 0.15
    chord_m: float = 0.05
    pitch_deg: float = 30.0
    stiffness_n_m: float = 10.0
    spool_m: float = 0.010
    friction_n_m: float = 0.00012
    inertia_kg_m2: float = 0.00025

    def check(self) -> None:
        """ValueError naming what cannot be."""
        positive("blades", self.blades)
        if not 0 <= self.opposed <= self.blades:
            raise ValueError("opposed: expected 0 to the number of blades")
        for name in ("radius_m", "chord_m", "stiffness_n_m", "spool_m", "inertia_kg_m2"):
            positive(name, getattr(self, name))
        not_negative("friction_n_m", self.friction_n_m)
        if not 0 <= self.pitch_deg <= 90:
            raise ValueError("pitch_deg: expected 0 (in the plane of turning) to 90 (edge to wind)")


def rotor_torque(model: RotorModel, speed_rad_s: ArrayLike, wind_m_s: float) -> FloatArray:
    """Torque of the blades [N·m] at angular speeds [rad/s] in a wind [m/s]; any shape.

    Power never exceeds the Betz limit. Opposed blades drive backward, so half of them opposed
    leave nothing; a blade bent by a tenth of its length has lost about a tenth of its torque,
    one bent by its own length half.
    """
    model.check()
    omega, wind = finite("speed_rad_s", speed_rad_s), positive("wind_m_s", wind_m_s)
    at, pitch = _AT * model.radius_m, radians(model.pitch_deg)
    area = model.blades * model.chord_m * model.radius_m * 0.85  # the hub takes the rest
    disc = pi * model.radius_m**2
    slowed = np.zeros_like(omega)
    around = torque = np.zeros_like(omega)
    for _ in range(25):  # damped fixed point of momentum against blade thrust
        flow = wind * (1 - slowed)
        square = flow**2 + (omega * at) ** 2
        inflow = np.arctan2(flow, omega * at)
        attack = inflow - pitch
        lift, drag = 1.1 * np.sin(2 * attack), 0.04 + 1.8 * np.sin(attack) ** 2
        push = 0.5 * AIR_KG_M3 * square * area
        around = push * (lift * np.sin(inflow) - drag * np.cos(inflow))
        thrust = push * (lift * np.cos(inflow) + drag * np.sin(inflow))
        load = np.clip(thrust / (0.5 * AIR_KG_M3 * wind**2 * disc), 0.0, 0.96)
        slowed = 0.5 * slowed + 0.25 * (1 - np.sqrt(1 - load))
    torque = around * at * (1 - 2 * model.opposed / model.blades)
    bend = 0.5 * AIR_KG_M3 * wind**2 * model.chord_m * model.radius_m / model.stiffness_n_m
    torque = torque / (1 + bend / model.radius_m)
    most = 16 / 27 * 0.5 * AIR_KG_M3 * disc * wind**3
    with np.errstate(divide="ignore"):
        cap = np.where(omega > 0, most / np.maximum(omega, 1e-12), np.inf)
    return np.asarray(np.minimum(torque, cap))


@dataclass(frozen=True)
class LiftRun:
    """What one attempt gives: rise [m], seconds (None when it never moved), turns per second."""

    rise_m: float
    time_s: float | None
    turns_per_s: float
    full: bool


def torque_curve(model: RotorModel, wind_m_s: float) -> tuple[FloatArray, FloatArray]:
    """Angular speeds from rest to a tip at six times the wind [rad/s], and the torque [N·m] at
    each: what all loads of one rotor share."""
    omega = np.linspace(0.0, _MOST_TIP_SPEED * wind_m_s / model.radius_m, _SPEEDS)
    return omega, rotor_torque(model, omega, wind_m_s)


def simulate_lift(
    model: RotorModel,
    mass_kg: float,
    wind_m_s: float,
    height_m: float,
    *,
    limit_s: float = 60.0,
    curve: tuple[FloatArray, FloatArray] | None = None,
) -> LiftRun:
    """Spin-up from rest under load, then steady winding, until the top or `limit_s` [s].

    The load's torque is m·g·(d_spool/2). A rotor whose torque at rest does not exceed load and
    friction does not move: a rise of zero. `curve` saves computing `torque_curve` again.
    """
    mass, height = not_negative("mass_kg", mass_kg), positive("height_m", height_m)
    arm = model.spool_m / 2
    omega, drive = curve if curve is not None else torque_curve(model, wind_m_s)
    net = drive - model.friction_n_m - mass * G_M_S2 * arm
    if net[0] <= 0:
        return LiftRun(0.0, None, 0.0, False)
    stop = int(np.argmax(net <= 0)) if np.any(net <= 0) else omega.size - 1
    steady = float(omega[stop])
    if net[stop] < 0:
        share = net[stop - 1] / (net[stop - 1] - net[stop])
        steady = float(omega[stop - 1] + share * (omega[stop] - omega[stop - 1]))
    turning = model.inertia_kg_m2 + mass * arm**2
    grid = np.linspace(0.0, 0.99 * steady, 200)
    time = np.concatenate([[0.0], np.cumsum(_slices(turning / np.interp(grid, omega, net), grid))])
    angle = np.concatenate([[0.0], np.cumsum((grid[1:] + grid[:-1]) / 2 * np.diff(time))])
    rise = angle * arm
    if rise[-1] >= height:
        seconds = float(np.interp(height, rise, time))
    else:
        seconds = float(time[-1] + (height - rise[-1]) / (steady * arm))
    if seconds <= limit_s:
        return LiftRun(height, seconds, steady / (2 * pi), True)
    reached = float(np.interp(limit_s, time, rise))
    if limit_s > time[-1]:
        reached = float(rise[-1] + (limit_s - time[-1]) * steady * arm)
    return LiftRun(reached, limit_s, steady / (2 * pi), False)


def _slices(y: FloatArray, x: FloatArray) -> FloatArray:
    return np.asarray((y[1:] + y[:-1]) / 2 * np.diff(x))


def lift_limit(model: RotorModel, wind_m_s: float) -> float:
    """Largest mass that starts to rise [kg]: (torque at rest − friction)/(g·d_spool/2)."""
    start = float(rotor_torque(model, np.zeros(1), wind_m_s)[0]) - model.friction_n_m
    return max(start / (G_M_S2 * model.spool_m / 2), 0.0)
