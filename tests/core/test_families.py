"""What each family makes of its readings: by hand, with zeros, bounds and refusals."""

from __future__ import annotations

from math import pi

import pytest

from thermion.core.kinds import get_kind
from thermion.core.kinds.schools import passed
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.plans import Part, Plan
from thermion.core.values import Figure


def figures(key: str, trial: Trial):
    (fitted,) = get_kind(key).analysis.fit([trial])
    return fitted.figures


ROTOR = Plan((), {"length_m": 0.12, "chord_m": 0.04})
WIND = {
    "unit_kg": 0.008,
    "cup_kg": 0.006,
    "height_m": 0.6,
    "wind_m_s": 4.0,
    "spool_m": 0.01,
    "string_m": 0.0,
    "pass_load": 4.0,
}


def lift(load, rise, time=None, free=False):
    values = {"load": load, "rise_m": rise} | ({"time_s": time} if time else {})
    return Attempt(values, free=free)


def test_a_rotor_by_hand():
    tries = (lift(2, 0.6, 2.0), lift(4, 0.6, 3.0), lift(8, 0.3, 6.0), lift(20, 0.6, 1.0, free=True))
    f = figures("wind_hoist", Trial(traces={}, conditions=WIND, attempts=tries, plan=ROTOR))
    assert f["load"].value == 4
    assert f["carried_kg"].value == pytest.approx(0.038)
    # powers: 0.022·g·0.6/2 = 64.7 mW; 0.038·g·0.6/3 = 74.5 mW; 0.070·g·0.3/6 = 34.3 mW
    assert f["power"].value == pytest.approx(0.038 * 9.80665 * 0.6 / 3)
    assert f["work"].value == pytest.approx(0.038 * 9.80665 * 0.6)
    assert f["cp"].value == pytest.approx(f["power"].value / (0.5 * 1.225 * pi * 0.14**2 * 64))
    assert f["tip_speed"].value == pytest.approx(2 * pi * 0.14 * 0.6 / (pi * 0.01) / (3 * 4))
    assert f["time"].value == 3.0
    assert f["passed"].value == 1


def test_a_rotor_that_never_moved_is_a_zero_and_a_hand_held_one_has_no_figure():
    f = figures("wind_hoist", Trial(traces={}, conditions=WIND, attempts=(lift(1, 0.0),), plan=ROTOR))
    assert (f["load"].value, f["power"].value, f["passed"].value) == (0, 0, 0)
    assert f["cp"].reason == "nothing was lifted"
    held = figures("wind_hoist", Trial(traces={}, conditions=WIND, attempts=(lift(9, 0.6, 2, free=True),)))
    assert held["load"].value is None
    assert "hand-held" in held["load"].reason


def test_a_power_beyond_betz_is_refused_and_tries_that_disagree_are_noted():
    quick = figures(
        "wind_hoist",
        Trial(traces={}, conditions={**WIND, "wind_m_s": 0.6}, plan=ROTOR, attempts=(lift(4, 0.6, 2.0),)),
    )
    assert "hub" in quick["cp"].reason
    assert "more load was not tried" in quick["load"].notes
    torn = figures(
        "wind_hoist",
        Trial(traces={}, conditions=WIND, plan=ROTOR, attempts=(lift(5, 0.6, 2.0), lift(4, 0.1))),
    )
    assert any("disagree" in n for n in torn["load"].notes)
    calm = figures(
        "wind_hoist", Trial(traces={}, conditions={**WIND, "wind_m_s": 0.0}, attempts=(lift(4, 0.6, 2.0),))
    )
    assert calm["cp"].reason == "the wind was not measured"


SAIL = Plan((Part(place="sail", material="card", form="flat", units=1),), {"width_m": 0.15, "height_m": 0.2})
TRACK = {"track_m": 2.4, "trolley_kg": 0.15, "wind_m_s": 4.0, "pass_m": 1.2}


def sailed(*stops, counts="best", times=None):
    tries = tuple(
        Attempt({"stop_m": s, **({"time_s": t} if t else {})})
        for s, t in zip(stops, times or [3.0] * len(stops), strict=True)
    )
    return figures(
        "sail_run", Trial(traces={}, conditions=TRACK, attempts=tries, choices={"counts": counts}, plan=SAIL)
    )


def test_the_best_or_the_median_of_three():
    assert sailed(1.0, 1.5, 1.1)["distance"].value == 1.5
    middle = sailed(1.0, 1.5, 1.1, counts="median")
    assert middle["distance"].value == 1.1
    assert middle["passed"].value == 0
    assert middle["distance"].se == pytest.approx((0.005**2 + 0.01**2 / 12) ** 0.5)  # how well it was read
    assert middle["speed"].value == pytest.approx(1.1 / 3)


def test_only_a_run_to_the_end_tells_the_force():
    end = sailed(2.4, times=[4.0])
    assert end["distance"].at_least == 2.4
    assert end["share"].value == 1.0
    mass = 0.15 + 0.0624 * 0.0003 * 750
    assert end["thrust"].value == pytest.approx(mass * 2 * 2.4 / 16)
    assert end["pressure"].value == pytest.approx(end["thrust"].value / 0.03)
    assert end["coefficient"].value == pytest.approx(end["pressure"].value / (0.5 * 1.225 * 16))
    assert end["end_pace"].value == pytest.approx(0.6)
    short = sailed(2.0)
    assert "slowed down" in short["thrust"].reason
    assert short["end_pace"].value == 0
    still = sailed(0.0, times=[None])
    assert (still["distance"].value, still["speed"].value, still["passed"].value) == (0, 0, 0)
    assert sailed(1.0, times=[None])["speed"].reason == "the run was not timed"


def iced(**traces):
    made = {k: Trace((0.0, 2400.0), (0.0, v)) for k, v in traces.items()}
    rig = {
        "started_kg": 0.1,
        "air_c": 20.0,
        "cup_bottom_m": 0.05,
        "cup_top_m": 0.05,
        "cup_height_m": 0.1,
        "pass_left": 0.5,
    }
    return figures(
        "keep_temp", Trial(traces=made, conditions=rig, air={"standing": Trace((0.0, 9.0), (19.0, 21.0))})
    )


def test_four_ways_to_read_ice_agree():
    level = 0.03e-3 / (pi * 0.025**2)
    for way in (iced(volume_m3=0.03e-3), iced(mass_kg=0.03), iced(left_kg=0.07), iced(height_m=level)):
        assert way["melted"].value == pytest.approx(0.03)
        assert way["left"].value == pytest.approx(0.7)
        assert way["gain"].value == pytest.approx(0.03 * 333550 / 2400)
        assert way["ua"].value == pytest.approx(way["gain"].value / 20)
        assert way["passed"].value == 1


def test_a_higher_level_in_the_cup_is_worse():
    kind = get_kind("keep_temp")
    assert kind.analysis.metric("melted").better == "lower"
    assert iced(height_m=0.03)["left"].value < iced(height_m=0.02)["left"].value
    assert "rim" in iced(height_m=0.2)["melted"].reason
    assert any("missing" in n for n in iced(mass_kg=0.03, left_kg=0.05)["melted"].notes)
    assert "more ice" in iced(left_kg=0.2)["melted"].reason


def test_ice_in_warmer_air_is_brought_back_to_the_cooler():
    kind = get_kind("keep_temp")
    ice = {
        "melted": Figure(value=0.03),
        "left": Figure(value=0.7),
        "to_all": Figure(value=100.0),
        "resistance": Figure(value=4.0),
    }
    cool, warm = {"air_c": 20.0}, {"air_c": 25.0}
    moved = {key: kind.analysis.correct(key, ice, cool, warm) for key in ice}
    assert moved == pytest.approx({"melted": 0.0375, "left": 0.625, "to_all": 80.0, "resistance": 4.0})
    assert kind.analysis.correct("melted", ice, {"air_c": -1.0}, warm) is None
    was, to = {"air_c": 20.0, "drink_c": 60.0}, {"air_c": 20.0, "drink_c": 50.0}
    assert kind.analysis.correct("lost", {"lost": Figure(value=8.0)}, was, to) == pytest.approx(6.0)


def test_loads_are_searched_or_follow_the_ladder_of_the_class():
    kind = get_kind("wind_hoist")
    rig = {**kind.brief.default_rig(), "height_m": 0.6, "first_load": 2.0, "step_load": 3.0}

    def tried(*loads, fails=()):
        return [Attempt({"load": x, "rise_m": 0.0 if x in fails else 0.6}) for x in loads]

    def loads(choice, attempts):
        fill, words = kind.test.suggest(attempts, rig, {"loads": choice})
        return fill["load"], words

    assert [loads("ladder", tried(*seen))[0] for seen in ((), (2,), (2, 5))] == [2, 5, 8]
    assert [loads("search", tried(*seen))[0] for seen in ((), (4,), (4, 8))] == [4, 8, 16]  # 4 passes
    assert [loads("search", tried(*seen, fails=seen))[0] for seen in ((4,), (4, 2))] == [2, 1]
    assert loads("search", tried(4, 2, fails=(4,))) == (3, "try 3 (lifts 2, not 4)")
    for passes, there, first in (
        (4.4, 24.0, 5),
        (200.0, 2.0, 2),
        (4.0, 3.5, 3),
    ):  # whole, and not more than there are
        rig |= {"pass_load": passes, "weights": there}
        assert loads("search", [])[0] == first
    assert "limit lies in between" in loads("ladder", tried(2, 5, fails=(5,)))[1]


def test_a_crane_that_never_failed_may_carry_more_and_while_it_is_on_that_is_only_so_far():
    rig = {**get_kind("wind_hoist").brief.default_rig(), "height_m": 0.6}

    def carried(*loads, fails=(), **more):
        tries = tuple(Attempt({"load": x, "rise_m": 0.0 if x in fails else 0.6}) for x in loads)
        return figures(
            "wind_hoist",
            Trial(traces={}, conditions=rig, attempts=tries, choices={"loads": "search"}, **more),
        )["load"]

    never, limit = carried(4, 8), carried(4, 8, 6, 7, fails=(8, 7))
    assert (never.value, limit.value) == (8, 6)
    assert never.se > 16 / 4 > limit.se  # up to 24 weights were there
    assert max(never.parts, key=lambda s: abs(s.effect)).name == "more load was not tried"
    assert carried(4, 24).se < 1
    assert carried(4, 8, ended=False).partial
    assert not carried(4, 8, 6, 7, fails=(8, 7), ended=False).partial


def melted(fast, slow, control, **more):
    t = (0.0, 120.0, 240.0, 360.0, 480.0)
    found = Trial(
        traces={"fast": Trace(t, tuple(fast)), "slow": Trace(t, tuple(slow))},
        conditions={"stage": 3.0, "pass_beats": 2.0},
        control={"stage": Trace(t, tuple(control))} if control else {},
        **more,
    )
    return figures("melt_pair", found)


def test_a_pair_is_judged_by_intervals():
    f = melted([0, 3, 4, 4, 4], [0, 0, 0, 0, 1], [0, 0, 1, 3, 4])
    assert (f["fast"].at_least, f["fast"].at_most) == (0, 2)
    assert f["slow"].value is None
    assert f["slow"].at_least == 8
    assert f["beats"].value == 2
    assert (f["fast_ratio"].at_least, f["fast_ratio"].at_most) == (0, 0.5)
    assert f["slow_ratio"].at_least == pytest.approx(480 / 360)
    assert f["passed"].value == 1
    same = melted([0, 0, 1, 3, 4], [0, 0, 1, 3, 4], [0, 0, 1, 3, 4])
    assert same["beats"].value == 0
    assert same["passed"].value == 0
    alone = melted([0, 3, 4, 4, 4], [0, 0, 0, 0, 1], None)
    assert "no control" in alone["beats"].reason
    assert "no control" in alone["slow_ratio"].reason


def test_what_a_pair_may_still_beat_is_only_so_far_and_of_a_broken_test_nobody_knows():
    until = {"fast": 2400.0, "slow": 2400.0}
    on = melted([0, 3, 4, 4, 4], [0, 0, 0, 0, 1], [0, 0, 0, 1, 2], until_s=until, ended=False)
    assert (on["beats"].value, on["beats"].partial) == (
        1,
        True,
    )  # the slow one and the control are both solid
    assert (on["passed"].value, on["passed"].partial) == (0, True)
    off = melted([0, 3, 4, 4, 4], [0, 0, 0, 0, 1], [0, 0, 0, 1, 2], until_s=until, ended=True)
    assert (off["beats"].value, off["beats"].at_least, off["beats"].at_most) == (None, 1, 2)
    decided = melted([0, 3, 4, 4, 4], [0, 0, 0, 0, 1], [0, 0, 1, 3, 4], until_s=until, ended=False)
    assert (decided["beats"].value, decided["beats"].partial) == (2, False)
    assert (decided["passed"].value, decided["passed"].partial) == (1, False)


def race(mine, bare, **rig):
    t = tuple(float(x) for x in range(0, 10 * len(mine), 10))
    control = {"race": Trace(t[: len(bare)], tuple(bare))} if bare else {}
    settings = {"target_c": 35.0, "start_c": 20.0, "source_c": 45.0, "pass_s": 25.0, **rig}
    return figures(
        "heat_through", Trial(traces={"race": Trace(t, tuple(mine))}, conditions=settings, control=control)
    )


def test_a_race_is_an_index_against_the_bare_probe():
    f = race([20, 26, 31, 34, 37], [20, 35, 40])
    assert f["time"].value == pytest.approx(30 + 10 / 3)
    assert f["index"].value == pytest.approx((30 + 10 / 3) / 10)
    assert f["through"].value == pytest.approx(6 / 15)
    assert f["passed"].value == 1
    never = race([20, 21, 22], [20, 35, 40])
    assert never["time"].at_least == 20
    assert never["index"].at_least == pytest.approx(2)
    assert never["passed"].reason  # 20 s seen, 25 s asked: not known
    warm = race([24, 30, 36], [20, 35, 40])
    assert "from its own start" in warm["time"].notes[0]
    assert warm["time"].value > 10 + 10 * 5 / 6
    alone = race([20, 26, 36], None)
    assert alone["index"].reason == "the bare control was not run"


def test_a_stopwatch_alone_will_do_for_a_time():
    tries = (Attempt({"time_s": 40.0}), Attempt({"time_s": 44.0}), Attempt({"time_s": 90.0}))
    control = {"race": Trace((0.0, 10.0, 20.0), (20.0, 35.0, 40.0))}
    rig = {"target_c": 35.0, "start_c": 20.0, "source_c": 45.0}
    f = figures("heat_through", Trial(traces={}, conditions=rig, attempts=tries, control=control))
    assert f["time"].value == 44
    assert f["index"].value == pytest.approx(4.4)
    assert "stopwatch" in f["through"].reason


def test_the_stop_is_a_reading_too_but_a_start_and_a_stop_are_no_curve():
    rig = {"target_c": 35.0, "start_c": 20.0, "source_c": 45.0}
    bare = (Attempt({"start_c": 20.0, "time_s": 12.0}, trace=Trace((0.0,), (20.0,))),)
    read = Trace((0.0, 12.0, 40.0), (20.0, 23.0, 30.0))
    seen = Attempt({"start_c": 20.0, "time_s": 66.0}, trace=read)
    f = figures("heat_through", Trial(traces={}, conditions=rig, attempts=(seen,), bare=bare))
    assert f["time"].value == 66.0
    assert f["control"].value == 12.0
    assert f["index"].value == pytest.approx(5.5)
    assert f["through"].value == pytest.approx(3 / 15)
    blind = Attempt({"start_c": 20.0, "time_s": 66.0}, trace=Trace((0.0,), (20.0,)))
    alone = figures("heat_through", Trial(traces={}, conditions=rig, attempts=(blind,), bare=bare))
    assert "stopwatch" in alone["through"].reason


def rained(*caught, store=None):
    tries = tuple(Attempt({"poured_m3": 2e-4, "caught_m3": c * 1e-6}) for c in caught)
    traces = {"store": Trace((0.0, 600.0), store)} if store else {}
    plan = Plan((), {"mouth_m": 0.12})
    rig = {"tray_m2": 0.12, "pass_share": 0.3}
    return figures("rain_catch", Trial(traces=traces, conditions=rig, attempts=tries, plan=plan))


def test_showers_by_hand():
    f = rained(60, 70, 50, store=(180e-6, 150e-6))
    assert f["efficiency"].value == pytest.approx(0.3)
    assert f["concentration"].value == pytest.approx(0.3 / 0.12)
    assert f["wasted"].value == pytest.approx(420e-6)
    dosed = 3**0.5 * 6e-6 / 6e-4  # three showers poured by hand, of six millilitres each
    assert f["efficiency"].se == pytest.approx(0.3 * dosed, rel=0.1)
    assert f["kept"].value == pytest.approx(150 / 180)
    assert f["leak"].value == pytest.approx(30e-6 / 600)
    assert f["passed"].value == 1
    assert rained(0, 0)["efficiency"].value == 0
    over = rained(210, 210)
    assert "more water out" in over["efficiency"].reason
    assert over["wasted"].value is None


def test_passing_is_decided_by_a_bound_only_where_it_decides():
    assert passed(Figure(value=3.0), 3.0).value == 1
    assert passed(Figure(value=2.0), 3.0).value == 0
    assert passed(Figure(at_least=4.0, reason="x"), 3.0).value == 1
    assert passed(Figure(at_most=2.0, reason="x"), 3.0).value == 0
    assert passed(Figure(at_least=2.0, reason="x"), 3.0).reason == "x"
    assert passed(Figure(value=2.0), 3.0, below=True).value == 1
    assert passed(Figure(at_least=4.0, reason="x"), 3.0, below=True).value == 0
    assert passed(Figure(at_most=2.0, reason="x"), 3.0, below=True).value == 1
    assert passed(None, 3.0).reason == "no reading yet"
