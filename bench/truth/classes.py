"""Classes as the families' simulators have them, read with ordinary instruments, and their truth."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from math import exp, log

import numpy as np

from thermion.core.kinds.base import Kind
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.plans import Part, Plan

Truth = Mapping[str, float]
Dice = np.random.Generator
Case = tuple[Trial, Truth]


def a_plan(kind: Kind, dice: Dice) -> Plan:
    """A plan a team might hand in: some of the materials that each place takes, factors as offered."""
    usual = kind.build.usual()
    parts = []
    for place in kind.build.places:
        if dice.random() < 0.15:
            continue
        material = str(dice.choice(place.usual)) if place.usual else ""
        if material:
            parts.append(
                Part(place=place.key, material=material, form="flat", units=float(dice.integers(1, 4)))
            )
    factors = {
        key: value * float(dice.uniform(0.85, 1.15)) if value % 1 else value
        for key, value in usual.factors.items()
    }
    return Plan(tuple(parts), factors)


def late(marks: Sequence[float], dice: Dice) -> np.ndarray:
    """When readings planned at these marks were taken: up to 30 s after them."""
    times = np.array(marks) + dice.uniform(0, 30, len(marks))
    return np.minimum(times, np.append(times[1:], np.inf) - 1.0)


def thermometer(true: np.ndarray, off: float, dice: Dice, step: float = 0.5) -> np.ndarray:
    """Read to 0.2 K and rounded, by a thermometer that is off by so much."""
    return np.round((true + off + dice.normal(0, 0.2, true.shape)) / step) * step


def ovens(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    from thermion.core.kinds.solar_oven.body import oven_model

    course = kind.rehearsal.course
    assert course is not None
    for _ in range(count):
        measured = dice.random() < 0.5
        share = 0.05 if measured else 0.10
        plan = a_plan(kind, dice)
        rig = {**kind.brief.default_rig(), "air_c": dice.uniform(12, 28), "sun_deg": 50.0}
        rig["irradiance_w_m2"] = float(dice.uniform(500, 900))
        rig["start_c"] = rig["air_c"] + float(dice.uniform(0, 4))
        marks = {p.key: p.marks() for p in kind.test.phases}
        off, air_off = dice.normal(0, 0.5, 2)
        traces, truth, begin = {}, {}, rig["start_c"]
        air = {}
        for phase, planned in marks.items():
            times = late(planned, dice)
            true = np.asarray(course(plan, rig, phase, times.tolist(), begin))
            traces[phase] = Trace(tuple(times.tolist()), tuple(thermometer(true, off, dice).tolist()))
            seen = thermometer(np.full(len(times), rig["air_c"]), air_off, dice)
            air[phase] = Trace(tuple(times.tolist()), tuple(seen.tolist()))
            truth[phase] = (times, true)
            begin = float(np.asarray(course(plan, rig, phase, [planned[-1]], begin))[0])
        if truth["heating"][1].max() > 99:
            continue
        model = oven_model(plan, rig)
        end = rig["air_c"] + model.optical_gain * model.aperture_m2 * rig["irradiance_w_m2"] / model.ua_w_k
        warm_t, warm = truth["heating"]
        _, cool = truth["cooling"]
        tau, start = model.time_constant_s, rig["start_c"]
        level, fall = rig["level_c"], rig["fall_k"]
        true_figures = {
            "peak": float(warm.max()),
            "rise": float(warm.max() - warm[0]),
            "limit": end,
            "tau_cool": tau / 60,
            "ua": model.ua_w_k,
            "merit": (end - rig["air_c"]) / rig["irradiance_w_m2"],
            "lost": (cool[0] - rig["air_c"]) * (1 - exp(-60 * rig["lost_min"] / tau)),
        }
        x = warm_t[:3] / 60
        true_figures["rate"] = float(((x - x.mean()) * warm[:3]).sum() / ((x - x.mean()) ** 2).sum())
        if end > level > start:
            true_figures["to_level"] = -tau / 60 * log((end - level) / (end - start))
        if cool[0] - rig["air_c"] > fall:
            true_figures["held"] = -tau / 60 * log(1 - fall / (cool[0] - rig["air_c"]))
        load = rig["load_kg"]
        seen_rig = {**rig, "irradiance_w_m2": rig["irradiance_w_m2"] * (1 + dice.normal(0, share))}
        seen_rig["load_kg"] = load + dice.uniform(-0.0005, 0.0005)
        trial = Trial(
            traces=traces,
            conditions=seen_rig,
            air=air,
            interval_s={k: m[1] - m[0] for k, m in marks.items()},
            plan=plan,
            uncertain={"irradiance_w_m2": share * seen_rig["irradiance_w_m2"]},
            until_s={k: m[-1] for k, m in marks.items()},
        )
        hot = warm_t[int(np.argmax(traces["heating"].value))]
        heat = load * 4186.0 * true_figures["rise"]
        true_figures["efficiency"] = heat / (rig["aperture_m2"] * rig["irradiance_w_m2"] * hot)
        yield trial, true_figures


def jars(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    """Ice read by jug, height, scale or what is left; and warm drinks."""
    from thermion.core.kinds.keep_temp.analysis import cup_of
    from thermion.core.kinds.keep_temp.body import jar_ua
    from thermion.core.physics.heat import cup_height
    from thermion.core.sim import meltwater

    for i in range(count):
        measure = ("volume", "height", "mass", "left", "temp")[i % 5]
        rig = {**kind.brief.default_rig(), "air_c": dice.uniform(17, 27)}
        plan, marks = a_plan(kind, dice), kind.test.phases[0].marks()
        if measure == "temp":
            marks = [300.0 * k for k in range(9)]
        ua, times = jar_ua(plan, rig), late(marks, dice)
        off, air_off = dice.normal(0, 0.5, 2)
        air = thermometer(np.full(len(times), rig["air_c"]), air_off, dice)
        seen = {**rig}
        common = {
            "air": {"standing": Trace(tuple(times.tolist()), tuple(air.tolist()))},
            "choices": {"measure": measure},
            "plan": plan,
        }
        truth = {"ua": ua, "resistance": 1 / ua}
        if measure == "temp":
            tau = rig["load_kg"] * 4186.0 / ua
            true = rig["air_c"] + (rig["drink_c"] - rig["air_c"]) * np.exp(-times / tau)
            excess, fall = float(true[0]) - rig["air_c"], rig["fall_k"]
            truth |= {
                "tau": tau / 60,
                "lost": excess * (1 - exp(-60 * rig["lost_min"] / tau)),
                "later": rig["air_c"] + (rig["drink_c"] - rig["air_c"]) * exp(-60 * rig["later_min"] / tau),
            }
            if excess > fall:
                truth["held"] = -tau / 60 * log(1 - fall / excess)
            seen["load_kg"] = float(np.round(rig["load_kg"] + dice.normal(0, 0.0005), 3))
            trace = Trace(tuple(times.tolist()), tuple(thermometer(true, off, dice).tolist()))
            yield (
                Trial(traces={"temp_c": trace}, conditions=seen, **common),
                {f"drink {k}": v for k, v in truth.items()},
            )
            continue
        melted = np.asarray(meltwater(times, ua, rig["air_c"], rig["started_kg"]))
        at, whole = float(times[-1]), rig["started_kg"]
        gain = ua * rig["air_c"]
        truth |= {
            "melted": float(melted[-1]),
            "gain": gain,
            "left": 1 - float(melted[-1]) / whole,
            "remaining": whole - float(melted[-1]),
            "to_all": whole * 333_550.0 / gain / 60,
        }
        seen["started_kg"] = float(np.round(whole + dice.normal(0, 0.0005), 3))
        bare = np.asarray(meltwater(at, 1.4 * ua, rig["air_c"], whole))
        truth["of_control"] = 1 / 1.4 if float(bare) < whole else float("nan")
        traces = _ice_read(measure, np.array([melted[-1], float(bare)]), rig, cup_of(rig), cup_height, dice)
        key = {"volume": "volume_m3", "height": "height_m", "mass": "mass_kg", "left": "left_kg"}[measure]
        mine, control = ({key: Trace((at,), (float(value),))} for value in traces)
        truth = {k: v for k, v in truth.items() if v == v}
        yield (
            Trial(traces=mine, conditions=seen, control=control, **common),
            {f"{measure} {k}": v for k, v in truth.items()},
        )


def _ice_read(measure, melted, rig, cup, cup_height, dice):
    """What a jug, a ruler in a cup, or a scale shows of so much meltwater [kg]."""
    if measure == "volume":
        drained = melted / 1000 - dice.uniform(0, 3e-6, 2)  # some of it stays on the jar's walls
        return np.maximum(np.round(drained + dice.normal(0, 5e-7, 2), 6), 0)
    if measure == "height":
        true = cup_height(np.minimum(melted / 1000, cup.volume_m3), cup)
        return np.clip(np.round(true + dice.normal(0, 5e-4, 2), 3), 0, cup.height_m)
    true = melted if measure == "mass" else rig["started_kg"] - melted
    return np.maximum(np.round(true + dice.normal(0, 5e-4, 2), 3), 0)


def rotors(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    """Rotors that search for their limit; the wind that was read is not quite the one there was."""
    from thermion.core.kinds.wind_hoist.analysis import lift_of
    from thermion.core.kinds.wind_hoist.body import rotor_radius
    from thermion.core.physics.lift import lift_power, tip_speed_ratio, turns, wind_power

    made = 0
    while made < count:
        rig = {**kind.brief.default_rig(), "wind_m_s": dice.uniform(2.5, 5.5)}
        (exact,) = kind.rehearsal.simulate([a_plan(kind, dice)], rig, int(dice.integers(1 << 30)))
        exact = replace(exact, attempts=tuple(_unrounded(a, dice) for a in exact.attempts))
        lifts = [lift_of(a, rig) for a in exact.attempts]
        timed = [x for x in lifts if x.rise_m > 0 and x.time_s and x.time_s > 0.8]
        if not timed or not exact.attempts:
            continue
        made += 1
        attempts = []
        for a in exact.attempts:
            values = dict(a.values)
            if "time_s" in values:
                values["time_s"] = max(round(values["time_s"] + dice.normal(0, 0.2), 1), 0.2)
            attempts.append(Attempt(values, a.seen))
        seen = {**rig, "wind_m_s": round(rig["wind_m_s"] + dice.normal(0, 0.15), 1)}
        seen["unit_kg"] = rig["unit_kg"] + dice.normal(0, 0.0001)
        seen["cup_kg"] = rig["cup_kg"] + dice.normal(0, 0.0004)
        trial = replace(exact, attempts=tuple(attempts), conditions=seen)
        best = max(timed, key=lambda x: lift_power(x.mass_kg, x.rise_m, x.time_s or 1.0))
        power = lift_power(best.mass_kg, best.rise_m, best.time_s or 1.0)
        radius = rotor_radius(exact.plan)
        cp = power / wind_power(rig["wind_m_s"], radius)
        found = kind.analysis.fit([trial])[0].figures
        read = [lift_of(a, seen) for a in attempts]
        chosen = max(
            (i for i, x in enumerate(read) if x.rise_m > 0 and x.time_s),
            key=lambda i: lift_power(read[i].mass_kg, read[i].rise_m, read[i].time_s or 1.0),
        )
        there = lifts[chosen]
        truth = {
            "power": power,
            "cp": cp,
            "betz": cp * 27 / 16,
            "work": max(x.mass_kg * 9.80665 * x.rise_m for x in lifts),
            "tip_speed": tip_speed_ratio(
                turns(there.rise_m, rig["spool_m"], rig["string_m"]),
                there.time_s or 1.0,
                radius,
                rig["wind_m_s"],
            ),
        }
        times = [
            x.time_s for a, x in zip(exact.attempts, lifts, strict=True) if a.values["load"] == 4 and x.full
        ]
        if times and found["time"].value is not None:
            truth["time"] = min(t for t in times if t)
        yield trial, truth


def _unrounded(attempt: Attempt, dice: Dice) -> Attempt:
    """The time as it was before somebody read it off a stopwatch."""
    values = dict(attempt.values)
    if "time_s" in values:
        values["time_s"] += float(dice.uniform(-0.05, 0.05))
    return replace(attempt, values=values)


def sails(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    """Three runs of each sail; the stop and the time are read as a class reads them."""
    from thermion.core.kinds.sail_run.body import rolling_mass, sail_area, sail_model
    from thermion.core.physics.sail import net_thrust, start_acceleration, thrust_coefficient, thrust_per_area
    from thermion.core.sim import simulate_sails

    made = 0
    while made < count:
        rig = {**kind.brief.default_rig(), "wind_m_s": dice.uniform(2.5, 6)}
        plan = a_plan(kind, dice)
        model = sail_model(plan, rig)
        if model is None:
            continue
        made += 1
        (run,) = simulate_sails(
            [model], rig["wind_m_s"], rig["track_m"], hub_m=rig["hub_m"], fan_gap_m=rig["fan_m"]
        )
        stop = rig["track_m"] if run.at_end else round(run.stop_m + dice.normal(0, 0.005), 2)
        most = rig["track_m"] if run.at_end else rig["track_m"] - 0.01
        values = {"stop_m": float(np.clip(stop, 0, most))}
        if run.time_s and run.stop_m > 0.02:
            values["time_s"] = max(round(run.time_s + dice.normal(0, 0.2), 1), 0.2)
        seen = {**rig, "wind_m_s": round(rig["wind_m_s"] + dice.normal(0, 0.15), 1)}
        seen["trolley_kg"] = rig["trolley_kg"] + dice.normal(0, 0.0015)
        trial = Trial(traces={}, conditions=seen, attempts=(Attempt(values),), plan=plan)
        truth = {"share": min(run.stop_m / rig["track_m"], 1.0)}
        if not run.at_end:
            truth["distance"] = run.stop_m
        if "time_s" in values and run.time_s and values["stop_m"] > 0:
            truth["speed"] = run.stop_m / run.time_s
            if run.at_end:
                force = net_thrust(rolling_mass(plan, rig), start_acceleration(run.stop_m, run.time_s))
                truth |= {"time_end": run.time_s, "end_pace": truth["speed"], "thrust": force}
                truth["pressure"] = thrust_per_area(force, sail_area(plan))
                truth["coefficient"] = thrust_coefficient(force, rig["wind_m_s"], sail_area(plan))
        yield trial, truth


def collectors(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    """Three showers, dosed by hand within 3 %, the jug read to half a graduation."""
    from thermion.core.kinds.rain_catch.body import collector_model, tray_share
    from thermion.core.sim import simulate_showers

    made = 0
    while made < count:
        rig = kind.brief.default_rig()
        plan = a_plan(kind, dice)
        model = collector_model(plan, rig)
        if model is None:
            continue
        made += 1
        doses = rig["dose_m3"] * (1 + dice.normal(0, 0.03, 3))
        showers = simulate_showers(model, doses.tolist(), rig["tray_m2"], seed=int(dice.integers(1 << 30)))

        def read(true: float) -> float:
            return max(round(true + dice.normal(0, 5e-7), 6), 0.0)

        attempts = tuple(
            Attempt({"poured_m3": rig["dose_m3"], "caught_m3": min(read(s.caught_m3), rig["dose_m3"])})
            for s in showers
        )
        times = (0.0, 300.0, 600.0)
        stored = [showers[-1].stored_m3 * exp(-model.leak_per_s * t) for t in times]
        trial = Trial(
            traces={"store": Trace(times, tuple(read(v) for v in stored))},
            conditions=rig,
            attempts=attempts,
            plan=plan,
        )
        caught, poured = sum(s.caught_m3 for s in showers), float(doses.sum())
        mouth, _ = tray_share(plan, rig["tray_m2"])
        truth = {
            "caught": caught,
            "efficiency": caught / poured,
            "wasted": poured - caught,
            "concentration": caught / poured / (mouth / rig["tray_m2"]),
            "leak": (stored[0] - stored[-1]) / 600.0,
        }
        if stored[0] > 0:
            truth["kept"] = stored[-1] / stored[0]
        yield trial, truth


def races(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    """One race of a sample and one of the bare probe, by a probe read every five seconds or by hand."""
    from thermion.core.kinds.heat_through.body import race_constant

    for i in range(count):
        rig = kind.brief.default_rig()
        plan = a_plan(kind, dice)
        pad = rig["source_c"] + dice.normal(0, 0.5)
        tau, bare = race_constant(plan), race_constant(None)
        target, common = rig["target_c"], rig["start_c"]
        off = dice.normal(0, 0.5)
        every = (1.0, 5.0, 10.0)[i % 3]

        trial = Trial(
            traces={"race": _race(tau, pad, rig, off, every, dice)},
            conditions={**rig},
            control={"race": _race(bare, pad, rig, off, every, dice)},
            plan=plan,
        )
        stretch = log((pad - common) / (pad - target))
        yield trial, {"time": tau * stretch, "control": bare * stretch, "index": tau / bare}


def _race(
    constant: float, pad: float, rig: Mapping[str, float], off: float, every: float, dice: Dice
) -> Trace:
    """What the probe shows behind one sample until some time after the target."""
    start = rig["start_c"] + abs(dice.normal(0, 0.3))
    need = constant * log((pad - start) / (pad - rig["target_c"]))
    times = np.arange(0.0, min(need * 1.3 + 4 * every, 3600.0), every)
    true = pad + (start - pad) * np.exp(-times / constant)
    seen = np.round(true + off + dice.normal(0, 0.05, times.shape), 1)
    return Trace(tuple(times.tolist()), tuple(seen.tolist()))


def pairs(kind: Kind, count: int, dice: Dice) -> Iterator[Case]:
    """Melting by eye: the interval in which a stage came."""
    from thermion.core.kinds.melt_pair.body import melt_model
    from thermion.core.kinds.melt_pair.rehearsal import SEEN_FROM
    from thermion.core.sim import simulate_melting

    for _ in range(count):
        rig = {**kind.brief.default_rig(), "air_c": dice.uniform(27, 33)}
        plan = a_plan(kind, dice)
        (trial,) = kind.rehearsal.simulate([plan], rig, int(dice.integers(1 << 30)))
        grid = np.arange(0, 7200, 2.0)
        models = [melt_model(plan, device, rig) for device in ("fast", "slow")]
        _, melted = simulate_melting(models, grid, min(rig["start_c"], rig["solidus_c"]))
        truth = {}
        for key, row in zip(("fast", "slow"), melted, strict=True):
            there = np.flatnonzero(row >= SEEN_FROM[round(rig["stage"])])
            if there.size:
                truth[key] = grid[there[0]] / 60
        yield trial, truth


CLASSES: dict[str, Callable[[Kind, int, Dice], Iterator[Case]]] = {
    "solar_oven": ovens,
    "keep_temp": jars,
    "wind_hoist": rotors,
    "sail_run": sails,
    "rain_catch": collectors,
    "heat_through": races,
    "melt_pair": pairs,
}
