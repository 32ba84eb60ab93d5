"""What a family of challenge says of itself, and the small laws its parts keep."""

from __future__ import annotations

from itertools import product

import pytest

from thermion.core.ages import AGES
from thermion.core.judging.scoring import score
from thermion.core.kinds import all_kinds, get_kind
from thermion.core.kinds.shapes import turned
from thermion.core.kinds.testing import even_marks
from thermion.core.kinds.trials import Trial
from thermion.core.physics.materials import FORMS, MATERIALS, layer_thickness
from thermion.core.physics.units import Setting, convert, stored_unit, unit_label
from thermion.core.plans import Part, Plan
from thermion.core.values import Figure

KINDS = list(all_kinds().values())


def default_plan(kind) -> Plan:
    return Plan((), {f.key: f.si("default") for f in kind.build.factors})


def example_plan(kind) -> Plan:
    """Two units of the family's first material at every place, everything at its default."""
    key = kind.build.materials[0][0]
    parts = tuple(
        Part(place=p.key, material=key, form=MATERIALS[key].forms[0], units=2) for p in kind.build.places
    )
    return Plan(parts, default_plan(kind).factors)


def every_choice(kind) -> list[dict[str, str]]:
    keys = [c.key for c in kind.brief.choices]
    options = [[value for value, _ in c.options] for c in kind.brief.choices]
    return [dict(zip(keys, values, strict=True)) for values in product(*options)]


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
class TestEveryFamily:
    def test_defaults_lie_inside_their_own_limits(self, kind):
        for item in (*kind.brief.conditions, *kind.brief.criteria, *kind.build.factors):
            assert item.low <= item.default <= item.high, item.key
            assert item.si("low") <= item.si("default") <= item.si("high")

    def test_every_age_has_a_story_and_every_caution_is_a_sentence(self, kind):
        assert set(kind.brief.stories) == set(AGES)
        for caution in kind.brief.cautions:
            assert caution.text.endswith(".")
        assert any(c.adult for c in kind.brief.cautions)

    def test_every_unit_can_be_written_in_either_kind_of_class(self, kind):
        units = {m.unit for m in kind.analysis.metrics} | {c.unit for c in kind.brief.conditions}
        for unit in units | {f.unit for f in kind.build.factors}:
            for setting in (Setting(), Setting("degF", "comma")):
                assert setting.from_si(setting.to_si(12.5, unit), unit) == pytest.approx(12.5)
                shown = setting.label(unit)
                assert "degC" not in shown
                assert "delta" not in shown

    def test_each_choice_changes_what_applies_and_nothing_else(self, kind):
        choices = {c.key: c.options[0][0] for c in kind.brief.choices}
        for condition in kind.brief.settings(choices):
            assert condition.when is None or choices[condition.when[0]] in condition.when[1:]
        conditional = [c for c in kind.brief.conditions if c.when]
        for condition in conditional:
            there = {**choices, condition.when[0]: condition.when[1]}
            assert condition in kind.brief.settings(there)

    def test_a_trial_without_any_reading_has_counts_and_no_figures(self, kind):
        (fitted,) = kind.analysis.fit([Trial(traces={}, conditions={}, units_used=4.0, impact_points=7.0)])
        known = {key for key, figure in fitted.figures.items() if figure.known}
        assert known == {"units", "impact"}
        assert fitted.curves == {}

    def test_what_is_asked_has_an_answer_to_look_for(self, kind):
        assert len(kind.test.observations) >= 6
        assert len({o.key for o in kind.test.observations}) == len(kind.test.observations)
        assert all(o.ask.endswith(("?", ".")) and "?" in o.ask for o in kind.test.observations)
        assert kind.test.bench.techniques
        assert kind.test.bench.kit
        assert kind.test.bench.checks

    def test_headline_prediction_and_rules_name_metrics_it_has(self, kind):
        units = kind.analysis.metric_units()
        assert {*kind.analysis.headline, kind.analysis.prediction} <= units.keys()
        known = {key: Figure(value=1.0, se=0.1) for key in units}
        for school in kind.brief.schools:
            total = score(school.terms, known, units).total
            assert total is not None, school
        for default in kind.brief.defaults.values():
            assert kind.brief.school(default.school)

    @pytest.mark.parametrize("school", ["raw", "thrift", "green", "race", "pass", "progress"])
    def test_every_way_of_scoring_is_offered_under_some_choice(self, kind, school):
        assert kind.brief.rule(school, Setting(), {})
        assert kind.brief.school("progress").better == "none"

    def test_every_trial_gives_figures_with_a_value_a_bound_or_a_reason(self, kind):
        for choices in every_choice(kind):
            plans = [default_plan(kind), example_plan(kind)]
            fitted = kind.analysis.fit(kind.rehearsal.simulate(plans, {}, 7, choices))
            assert len(fitted) == 2
            for each in fitted:
                assert each.figures.keys() <= kind.analysis.metric_units().keys()
                for key, f in each.figures.items():
                    bound = f.at_least is not None or f.at_most is not None
                    assert f.known or f.reason, key
                    assert not (f.known and bound), key
            shown = [m.key for m in kind.analysis.headline_for(choices)]
            assert set(shown) <= fitted[1].figures.keys(), choices

    def test_equal_seeds_give_equal_trials_and_others_differ(self, kind):
        plans = [example_plan(kind)]
        first, again = (kind.rehearsal.simulate(plans, {}, 3)[0] for _ in range(2))
        assert first == again
        seen = {
            repr((t.traces, t.attempts))
            for t in (kind.rehearsal.simulate(plans, {}, seed)[0] for seed in range(6))
        }
        assert len(seen) > 1

    def test_the_order_of_builds_changes_no_figure(self, kind):
        trials = kind.rehearsal.simulate([default_plan(kind), example_plan(kind)], {}, 5)
        ahead = [f.figures for f in kind.analysis.fit(trials)]
        assert [f.figures for f in kind.analysis.fit(trials[::-1])] == ahead[::-1]

    def test_readings_of_the_model_are_ones_that_can_be(self, kind):
        limits = {r.key: (r.low, r.high, r.unit) for r in kind.test.reads}
        for trial in kind.rehearsal.simulate([example_plan(kind)], {}, 2, next(iter(every_choice(kind)))):
            for attempt in trial.attempts:
                for key, value in attempt.values.items():
                    low, high, unit = limits[key]
                    assert low <= convert(value, stored_unit(unit), unit) <= high * 1.001, key

    def test_marks_of_a_phase_can_be_made_and_names_are_found(self, kind):
        for phase in kind.test.phases:
            assert even_marks(phase.until_s, phase.every_s)[-1] == phase.until_s
            assert kind.test.phase(phase.key) is phase
        with pytest.raises(ValueError, match="metric"):
            kind.analysis.metric("beauty")
        with pytest.raises(ValueError, match="phase"):
            kind.test.phase("lunch")
        with pytest.raises(ValueError, match="school"):
            kind.brief.rule("beauty", Setting(), {})

    def test_a_plan_can_be_drawn_empty_or_not_and_every_place_pointed_at(self, kind):
        assert kind.build.hints(Plan())
        empty = kind.build.draw(Plan(), {})
        full = kind.build.draw(example_plan(kind), kind.brief.default_rig())
        for drawing in (empty, full):
            for view in drawing.views:
                x, y, wide, high = view.window
                for px, py in [p for shape in view.shapes for p in shape.points] + list(view.seen.values()):
                    assert x <= px <= x + wide
                    assert y <= py <= y + high
        seen = {key for view in full.views for key in view.seen}
        assert seen == {p.key for p in kind.build.places} | {f.key for f in kind.build.factors}
        assert {s.place for s in full.shapes if s.place} == {p.key for p in kind.build.places}
        named = [s.label for s in full.shapes if s.place and s.label]
        assert any(MATERIALS[kind.build.materials[0][0]].name in label for label in named)

    def test_only_factors_and_materials_it_declares_are_used(self, kind):
        assert {m for m, _ in kind.build.materials} <= MATERIALS.keys()
        usual, rig = example_plan(kind), kind.brief.default_rig()
        changed = []
        for f in kind.build.factors:
            ends = [Plan(usual.parts, {**usual.factors, f.key: f.si(end)}) for end in ("low", "high")]
            if any(kind.build.draw(end, rig) != kind.build.draw(usual, rig) for end in ends):
                changed.append(f)
        assert changed == list(kind.build.factors)


def test_there_are_seven_families_each_tested_in_its_way():
    assert {k.key: k.test.shape for k in KINDS} == {
        "wind_hoist": "turns",
        "sail_run": "turns",
        "rain_catch": "turns",
        "solar_oven": "marks",
        "keep_temp": "marks",
        "melt_pair": "marks",
        "heat_through": "races",
    }


def test_a_rule_is_capped_by_the_phase_it_needs():
    kind = get_kind("solar_oven")
    held = next(t for t in kind.brief.rule("green", Setting(), {"cooling": 900.0}) if t.metric == "held")
    assert held.cap == 15.0
    open_end = next(t for t in kind.brief.rule("green", Setting(), {}) if t.metric == "held")
    assert open_end.cap is None


@pytest.mark.parametrize("material", MATERIALS.values(), ids=lambda m: m.key)
def test_materials_are_possible_and_say_where_their_figures_come_from(material):
    assert 0.02 <= material.conductivity <= 400
    assert 5 <= material.density <= 9000
    assert 1e-6 < material.thickness_m < 0.05
    assert material.points >= 0
    assert material.forms[0] in FORMS
    assert set(material.forms) <= set(FORMS)
    assert set(material.source.split(", ")) <= {"A", "B", "C", "D", "E", "F"}


def test_a_looser_form_is_thicker_and_twice_the_sheets_are_twice_as_thick():
    paper = MATERIALS["newspaper"]
    thickness = [layer_thickness(paper, form, 4, 0.144) for form in FORMS]
    assert thickness == sorted(thickness)
    assert layer_thickness(paper, "flat", 8, 0.144) == pytest.approx(2 * thickness[0])
    assert thickness[0] == pytest.approx(4 * 0.24 * 0.00007 / 0.144)


def test_units_of_the_bench_are_kept_in_si():
    assert stored_unit("gram") == "kilogram"
    assert convert(900, "centimeter**2", stored_unit("centimeter**2")) == pytest.approx(0.09)
    assert unit_label("furlong") == "fur"  # what the table lacks is written in Pint's short way
    assert Setting().show(None, "degC") == "–"
    assert Setting().typed(None, "degC") == ""


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_handle_moves_on_the_drawing_as_it_says(kind):
    """Set the factor by one step more, draw again: the handle is where the pull would put it."""
    rig = {c.key: c.si("default") for c in kind.brief.conditions} | {"room_m": 0.15}
    plan = example_plan(kind)
    drawn = kind.build.draw(plan, rig)
    factors = {f.key: f for f in kind.build.factors}
    assert drawn.handles
    for view, handle in [(v, h) for v in drawn.views for h in v.handles]:
        f = factors[handle.factor]
        x, y, wide, high = view.window
        assert x <= handle.at[0] <= x + wide
        assert y <= handle.at[1] <= y + high
        more = {
            **plan.factors,
            f.key: f.si("default") + (f.si("high") - f.si("low")) * f.step / (f.high - f.low),
        }
        step = f.step
        after = next(h for h in kind.build.draw(Plan(plan.parts, more), rig).handles if h.factor == f.key)
        if handle.about is None:
            moved = tuple(a + step * d for a, d in zip(handle.at, handle.step, strict=True))
        else:
            moved = turned([handle.at], handle.turn * step, handle.about)[0]
        assert after.at == pytest.approx(moved, abs=0.2), f.key


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_every_picture_is_made_of_what_the_family_has(kind):
    metrics = {m.key: m for m in kind.analysis.metrics}
    for choices in every_choice(kind):
        pictures = kind.views.pictures_for(choices)
        assert pictures
        reads = {r.key for r in (*kind.test.reads, *kind.test.attempt_reads(choices))}
        for picture in pictures:
            assert set(picture.metrics) | ({picture.against} - {""}) <= set(metrics)
            assert picture.read in reads | {""}
            if picture.form == "stack":
                assert len({metrics[m].unit for m in picture.metrics}) == 1
    assert kind.analysis.compares in metrics
    assert metrics[kind.analysis.compares].better in ("higher", "none")
