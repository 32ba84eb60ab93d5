"""Physical models that rehearse a challenge and feed the stand-in probes; seeded and noisy."""

from thermion.core.sim.oven import OvenModel, simulate_ovens
from thermion.core.sim.rain import CollectorModel, Shower, simulate_showers
from thermion.core.sim.readings import observe
from thermion.core.sim.rotor import LiftRun, RotorModel, lift_limit, rotor_torque, simulate_lift, torque_curve
from thermion.core.sim.sail import SailModel, SailRun, jet_speed, simulate_sails
from thermion.core.sim.thermal import MeltModel, layer_resistance, meltwater, newton_path, simulate_melting

__all__ = [
    "CollectorModel",
    "LiftRun",
    "MeltModel",
    "OvenModel",
    "RotorModel",
    "SailModel",
    "SailRun",
    "Shower",
    "jet_speed",
    "layer_resistance",
    "lift_limit",
    "meltwater",
    "newton_path",
    "observe",
    "rotor_torque",
    "simulate_lift",
    "simulate_melting",
    "simulate_ovens",
    "simulate_sails",
    "simulate_showers",
    "torque_curve",
]
