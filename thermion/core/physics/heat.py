"""Keep cold, keep warm, and the heat-through race: ice, warm water, a probe behind a sample.

Units: °C, s, kg, m, m³, W, W/K. A *higher* level of meltwater means *worse* insulation; that is
said by the direction of the metric, not here.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import log, pi, sqrt

from thermion.core.lazy import ArrayLike, FloatArray, special
from thermion.core.lazy import numpy as np
from thermion.core.physics.approach import Approach, fit_approach
from thermion.core.physics.curves import Crossing, first_crossing
from thermion.core.physics.oven import WATER_J_KG_K
from thermion.core.reasons import Because, Why, because
from thermion.core.values import (
    Check,
    Figure,
    Source,
    finite,
    measured,
    not_negative,
    positive,
    scaled,
    series,
    single,
    sources_of,
)

FUSION_J_KG = 333_550.0  # latent heat of melting of ice at 0 °C, CRC Handbook of Chemistry
MELTWATER_KG_M3 = 1000.0  # 1 g/mL; at 0 to 20 °C the error is below 0.2 %
ICE_J_KG_K = 2_100.0  # specific heat of ice at −5 °C, CRC Handbook of Chemistry
MISMATCH = 0.05  # part of the starting mass that may be missing before it is said


@dataclass(frozen=True)
class Cup:
    """A frustum: inner radii at the bottom and the rim and inner height [m].

    ValueError for sizes not above zero or a cup wider at the bottom than at the rim.
    """

    bottom_radius_m: float
    top_radius_m: float
    height_m: float

    def __post_init__(self) -> None:
        for name in ("bottom_radius_m", "top_radius_m", "height_m"):
            positive(name, getattr(self, name))
        if self.bottom_radius_m > self.top_radius_m:
            raise ValueError("bottom_radius_m: expected a cup no wider at the bottom than the rim")

    @property
    def volume_m3(self) -> float:
        return float(cup_volume(self.height_m, self))


def cup_volume(height_m: ArrayLike, cup: Cup) -> FloatArray:
    """Volume [m³] of water standing `height_m` [m] high in a cup; any shape.

    V(h) = πh/3·(r_b² + r_b·r_h + r_h²) with r_h = r_b + (r_t − r_b)·h/H.
    ValueError for a height below zero or beyond the rim.
    """
    h = finite("height_m", height_m)
    if np.any(h < 0) or np.any(h > cup.height_m * (1 + 1e-9)):
        raise ValueError(f"height_m: expected 0 to {cup.height_m:g} m, the rim of the cup")
    low = cup.bottom_radius_m
    high = low + (cup.top_radius_m - low) * h / cup.height_m
    return np.asarray(pi * h / 3.0 * (low**2 + low * high + high**2))


def cup_height(volume_m3: ArrayLike, cup: Cup) -> FloatArray:
    """Height [m] at which `volume_m3` [m³] stands in a cup: the inverse of `cup_volume`.

    From r_h³ = r_b³ + 3V(r_t − r_b)/(πH); ValueError below zero or beyond what the cup holds.
    """
    v = finite("volume_m3", volume_m3)
    if np.any(v < 0) or np.any(v > cup.volume_m3 * (1 + 1e-9)):
        raise ValueError(f"volume_m3: expected 0 to {cup.volume_m3:g} m³, what the cup holds")
    low, slope = cup.bottom_radius_m, (cup.top_radius_m - cup.bottom_radius_m) / cup.height_m
    if slope * cup.height_m < 1e-9 * low:
        return np.asarray(v / (pi * low**2))
    high = np.cbrt(low**3 + 3.0 * v * slope / pi)
    # (r_h³ − r_b³)/(r_h² + r_h·r_b + r_b²) is r_h − r_b without losing digits
    return np.asarray(3.0 * v / pi / (high**2 + high * low + low**2))


@dataclass(frozen=True)
class Ice:
    """What a run with ice says. Units in the names; `fraction_left` of the starting mass."""

    melted_kg: Figure
    fraction_left: Figure
    heat_gain_w: Figure
    ua_w_k: Figure
    resistance_k_w: Figure
    minutes_to_all: Figure


def ice_run(
    melted_kg: Figure,
    time_s: float,
    air_c: float,
    started_kg: float,
    *,
    left_kg: float | None = None,
    se_air_k: float = 0.0,
    se_started_kg: float = 0.0,
    ice_c: float = 0.0,
    se_ice_k: float = 0.0,
) -> Ice:
    """Mean heat gain of a packed piece of ice from what melted in a time.

    Parameters
    ----------
    melted_kg : melted mass [kg] with its standard uncertainty (1 mL of meltwater is 1 g).
    time_s : how long it stood [s].  air_c : mean air [°C].  started_kg : ice at the start [kg].
    left_kg : ice left [kg], if weighed; melted + left against started is then checked.
    se_air_k, se_started_kg, se_ice_k : standard uncertainties of these [K, kg, K].
    ice_c : temperature of the ice at the start [°C], 0 when it is wet; colder ice first warms.

    Returns
    -------
    Ice. Q̇ = (m·L_f − started·c·ice_c)/t, UA = Q̇/(T_air − 0 °C), R = 1/UA, minutes until all is
    melted at that rate. Where all had melted before the reading, heat gain and UA are at least that,
    and the minutes and R at most. A melted mass above the start gives reasons, and air at or below
    0 °C no UA.

    Raises
    ------
    ValueError naming the argument for masses or times that are not possible or not finite.

    Notes
    -----
    The air is taken against ice at 0 °C also while colder ice warms, which overrates UA by less
    than 1 % for ice of −18 °C in air of 20 °C that has half melted.

    References
    ----------
    .. [1] F. P. Incropera et al., Fundamentals of Heat and Mass Transfer, 7th ed., ch. 3.
    """
    seconds, started = positive("time_s", time_s), positive("started_kg", started_kg)
    air, cold = single("air_c", air_c), single("ice_c", ice_c)
    if cold > 0:
        raise ValueError("ice_c: expected at most 0")
    if melted_kg.value is None:
        return Ice(melted_kg, *[Figure(reason=melted_kg.reason or Why.NOT_NOTED)] * 5)
    melted = not_negative("melted_kg", melted_kg.value)
    if melted > started * (1 + MISMATCH) + 2 * (melted_kg.se or 0.0):
        no = Figure(reason=Why.MORE_MELTED_THAN_ICE)
        return Ice(
            melted_kg=melted_kg,
            fraction_left=no,
            heat_gain_w=no,
            ua_w_k=no,
            resistance_k_w=no,
            minutes_to_all=no,
        )
    notes = melted_kg.notes + _balance(started, melted, left_kg)
    amount = measured(melted, sources_of(melted_kg), notes=notes)
    begun = Source("the ice weighed at the start", 1.0, "try")
    share = melted / started
    left = measured(
        max(1.0 - share, 0.0),
        [
            *scaled(amount, -1.0 / started).parts,
            replace(begun, effect=share / started * not_negative("se_started_kg", se_started_kg)),
        ],
        notes=notes,
    )
    warmed = -started * ICE_J_KG_K * cold
    gain = (melted * FUSION_J_KG + warmed) / seconds
    sources = [
        *scaled(amount, FUSION_J_KG / seconds).parts,
        Source("how cold the ice was", -started * ICE_J_KG_K / seconds * se_ice_k, "run"),
        replace(begun, effect=-ICE_J_KG_K * cold / seconds * se_started_kg),
    ]
    heat = measured(gain, sources, notes=notes)
    minutes = Figure(reason=Why.NOTHING_MELTED)
    if melted > 0:
        all_s = seconds * (started * FUSION_J_KG + warmed) / (melted * FUSION_J_KG + warmed)
        by = -all_s / (melted * FUSION_J_KG + warmed) * FUSION_J_KG / 60.0
        whole = [*scaled(amount, by).parts, replace(begun, effect=all_s / 60.0 / started * se_started_kg)]
        minutes = measured(all_s / 60.0, whole, notes=notes)
    ua, resist = _conductance(heat, air, se_air_k)
    if melted >= started - 2 * sqrt((melted_kg.se or 0.0) ** 2 + se_started_kg**2):
        return _all_melted(amount, heat, ua, seconds)
    return Ice(
        melted_kg=amount,
        fraction_left=left,
        heat_gain_w=heat,
        ua_w_k=ua,
        resistance_k_w=resist,
        minutes_to_all=minutes,
    )


def _balance(started: float, melted: float, left_kg: float | None) -> tuple[Because, ...]:
    """What is to be said when melted and left do not add up to the start."""
    if left_kg is None:
        return ()
    missing = started - melted - not_negative("left_kg", left_kg)
    if abs(missing) <= MISMATCH * started:
        return ()
    why = Why.ICE_MISSING if missing > 0 else Why.ICE_TOO_MUCH
    return (because(why, share=abs(missing) / started),)


def _conductance(heat: Figure, air: float, se_air_k: float) -> tuple[Figure, Figure]:
    """UA [W/K] and R [K/W] from the heat gain [W] toward air at `air` [°C]."""
    if air <= 0:
        no = Figure(reason=Why.AIR_NOT_ABOVE_ZERO)
        return no, no
    gain = heat.value or 0.0
    ua = measured(
        gain / air,
        [*scaled(heat, 1.0 / air).parts, Source("the air's thermometer", -gain / air**2 * se_air_k, "run")],
        notes=heat.notes,
    )
    if gain <= 0:
        return ua, Figure(reason=Why.NOTHING_MELTED)
    value = gain / air
    return ua, measured(1 / value, scaled(ua, -1.0 / value**2).parts, notes=heat.notes)


def _all_melted(amount: Figure, heat: Figure, ua: Figure, seconds: float) -> Ice:
    """All was gone when it was read: when, nobody saw."""
    why = Why.ALL_MELTED
    least = [None if f.value is None else f.value - 2 * (f.se or 0.0) for f in (heat, ua)]
    resist = Figure(reason=ua.reason or why)
    if least[1]:
        resist = Figure(at_most=1.0 / least[1], reason=why)
    return Ice(
        melted_kg=amount,
        fraction_left=Figure(value=0.0, se=0.0, notes=(why,)),
        heat_gain_w=Figure(at_least=least[0], reason=why),
        ua_w_k=Figure(at_least=least[1], reason=ua.reason or why),
        resistance_k_w=resist,
        minutes_to_all=Figure(at_most=seconds / 60.0, reason=why),
    )


@dataclass(frozen=True)
class Cooling:
    """What a warm drink's curve says: the fit (above air) and the figures from it."""

    fit: Approach
    air_c: float
    time_constant_s: Figure
    ua_w_k: Figure
    resistance_k_w: Figure
    _jtj: tuple[float, float, float] | None = None

    def at(self, time_s: float) -> tuple[Figure, float | None]:
        """Temperature [°C] of the next reading at a later time, and the half-width of its 95 %
        prediction interval [K] (Student's t with n − 2 degrees of freedom)."""
        fit, t = self.fit, not_negative("time_s", time_s)
        if self._jtj is None or fit.residual_sd is None or not fit.reliable:
            return Figure(reason=fit.reason), None
        tau, start = fit.time_constant_s or 1.0, fit.start or 0.0
        e = float(np.exp(-t / tau))
        j = (e, start * t / tau**2 * e)
        aa, ab, bb = self._jtj
        det = aa * bb - ab * ab
        spread = (bb * j[0] ** 2 - 2 * ab * j[0] * j[1] + aa * j[1] ** 2) / det
        se = fit.residual_sd * sqrt(1.0 + max(spread, 0.0))
        return Figure(value=self.air_c + start * e, se=se), float(special.stdtrit(fit.n - 2, 0.975)) * se


def warm_run(
    time_s: ArrayLike,
    temp_c: ArrayLike,
    air_c: float,
    load_kg: float,
    *,
    resolution: float = 0.0,
    specific_heat: float = WATER_J_KG_K,
) -> Cooling:
    """Newton cooling of a warm load toward the measured air: T = T_air + (T₀ − T_air)·e^(−t/τ).

    `time_s`, `temp_c` shape (n,) [s, °C]; `load_kg` [kg] of `specific_heat` [J/(kg·K)]. Gives τ,
    UA = m·c/τ (the jar's own heat capacity is neglected, and said so) and R = 1/UA. A curve that
    cannot carry τ gives the reason, and the bound τ has. ValueError for bad input.
    """
    t, v = series(time_s, temp_c)
    air, mass = single("air_c", air_c), positive("load_kg", load_kg)
    fit = fit_approach(t, v - air, asymptote=0.0, resolution=resolution)
    tau = fit.time_constant_s
    if not fit.reliable or tau is None or fit.se_time_constant_s is None:
        why = fit.reason or Why.NO_FIT
        bound = Figure(at_least=fit.time_constant_at_least_s, reason=why)
        return Cooling(
            fit=fit,
            air_c=air,
            time_constant_s=bound,
            ua_w_k=Figure(reason=why),
            resistance_k_w=Figure(reason=why),
        )
    relative = fit.se_time_constant_s / tau
    ua = mass * positive("specific_heat", specific_heat) / tau
    notes = (Why.JAR_NEGLECTED,)
    e = np.exp(-t / tau)
    g = (fit.start or 0.0) * t / tau**2 * e
    return Cooling(
        fit=fit,
        air_c=air,
        time_constant_s=Figure(value=tau, se=fit.se_time_constant_s, dof=fit.n - 2.0),
        ua_w_k=Figure(value=ua, se=ua * relative, notes=notes, dof=fit.n - 2.0),
        resistance_k_w=Figure(value=1 / ua, se=relative / ua, notes=notes, dof=fit.n - 2.0),
        _jtj=(float(e @ e), float(e @ g), float(g @ g)),
    )


def time_to_target(
    time_s: ArrayLike, temp_c: ArrayLike, target_c: float, *, resolution: float = 0.0
) -> Figure:
    """Seconds until a probe has climbed to `target_c` [°C], counted from the first reading.

    Interpolated by `first_crossing`; never reached is a bound. The uncertainty is that of the
    instrument's step over the slope at the crossing.
    """
    t, v = series(time_s, temp_c)
    return _as_figure(first_crossing(t, v, target_c, direction="up"), t, v, resolution)


def _as_figure(cross: Crossing, t: FloatArray, v: FloatArray, resolution: float) -> Figure:
    if cross.time_s is None:
        if cross.after_s is None:
            return Figure(at_most=0.0, reason=Why.AT_TARGET_FROM_START)
        return Figure(at_least=cross.after_s - float(t[0]), reason=Why.TARGET_NOT_REACHED)
    i = max(int(np.searchsorted(t, cross.time_s)), 1)
    slope = abs(float(v[i] - v[i - 1])) / float(t[i] - t[i - 1])
    se = resolution / sqrt(12.0) / slope if slope > 0 else None
    return Figure(value=cross.time_s - float(t[0]), se=se)


def _said_from_its_own(seconds: Figure) -> Because:
    if seconds.value is None:
        return Why.TO_COMMON_START
    return because(Why.FROM_OWN_START, seconds=seconds.value)


def to_common_start(
    seconds: Figure,
    start_c: float,
    target_c: float,
    source_c: float | None,
    common_start_c: float,
    *,
    resolution: float,
) -> Figure:
    """A race time brought to a common start temperature.

    t* = τ·ln((T_src − T_start*)/(T_src − T_target)) with
    τ = t/ln((T_src − T_start)/(T_src − T_target)).
    A start within the instrument's `resolution` of the common one is left as it is. Without the
    source's temperature the figure is kept and flagged as not comparable; a source not above
    the target gives a reason. Bounds are scaled like values.
    """
    start, target = single("start_c", start_c), single("target_c", target_c)
    common = single("common_start_c", common_start_c)
    if abs(start - common) <= not_negative("resolution", resolution) * (1 + 1e-9):
        return seconds
    if source_c is None:
        note = because(Why.OTHER_START, start=start, common=common)
        return replace(seconds, notes=(*seconds.notes, note))
    source = single("source_c", source_c)
    if source <= target:
        return Figure(reason=Why.SOURCE_BELOW_TARGET)
    if max(start, common) >= target:
        return Figure(reason=Why.START_ABOVE_TARGET)
    scale = log((source - common) / (source - target)) / log((source - start) / (source - target))
    return scaled(seconds, scale, notes=(_said_from_its_own(seconds),))


def heat_let_through(rise_k: float, control_rise_k: float, *, resolution: float = 0.0) -> Figure:
    """Percentage of heat let through: the probe's rise behind the sample over its rise with
    nothing between, in the same time from the same start [%]."""
    rise, control = single("rise_k", rise_k), single("control_rise_k", control_rise_k)
    instrument = not_negative("resolution", resolution)
    if control < 3 * instrument or control <= 0:
        return Figure(reason=Why.BARE_HARDLY_ROSE)
    step = instrument / sqrt(6.0)  # of a difference of two readings
    share = rise / control
    return Figure(value=100 * share, se=100 * step * sqrt(1 + share**2) / control)


def check_mass_balance(melted: float, left: float, started: float) -> Check:
    """Ask when melted and left differ from the start by over 5 % (one unit for all three)."""
    total = single("melted", melted) + single("left", left)
    begun = single("started", started)
    if begun <= 0:
        raise ValueError("started: expected a mass above zero")
    if abs(total - begun) <= 0.05 * begun:
        return Check("ok")
    way = "missing" if total < begun else "too much"
    return Check("ask", f"{abs(total - begun) / begun:.0%} of the ice is {way}. Weigh again?", code="jump")
