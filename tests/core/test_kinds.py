"""What a family of challenge says of itself, and the small laws its parts keep."""

from __future__ import annotations

import pytest

from thermion.core.builds import Plan
from thermion.core.kinds import all_kinds, get_kind
from thermion.core.kinds.base import AGE_BANDS, Trace, Trial
from thermion.core.materials import FORMS, MATERIALS, layer_thickness
from thermion.core.rounds import even_marks
from thermion.core.units import Setting, convert, stored_unit, unit_label

KINDS = list(all_kinds().values())


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
class TestEveryFamily:
    def test_defaults_lie_inside_their_own_limits(self, kind):
        for item in (*kind.conditions, *kind.criteria, *kind.factors):
            assert item.low <= item.default <= item.high, item.key
            assert item.si("low") <= item.si("default") <= item.si("high")

    def test_every_age_has_a_story_and_every_caution_is_a_sentence(self, kind):
        assert set(kind.stories) == set(AGE_BANDS)
        for caution in kind.cautions:
            assert caution.text.endswith(".")
        assert any(c.adult for c in kind.cautions)

    def test_every_unit_can_be_written_in_either_kind_of_class(self, kind):
        units = {m.unit for m in kind.metrics} | {c.unit for c in kind.conditions}
        for unit in units | {f.unit for f in kind.factors}:
            for setting in (Setting(), Setting("degF", "comma")):
                assert setting.from_si(setting.to_si(12.5, unit), unit) == pytest.approx(12.5)
                shown = setting.label(unit)
                assert "degC" not in shown
                assert "delta" not in shown

    def test_each_choice_changes_what_applies_and_nothing_else(self, kind):
        choices = {c.key: c.options[0][0] for c in kind.choices}
        for condition in kind.settings(choices):
            assert condition.when is None or choices[condition.when[0]] == condition.when[1]
        conditional = [c for c in kind.conditions if c.when]
        for condition in conditional:
            there = {**choices, condition.when[0]: condition.when[1]}
            assert condition in kind.settings(there)

    def test_a_trial_without_any_reading_has_counts_and_no_figures(self, kind):
        (fitted,) = kind.fit([Trial({}, {}, units_used=4.0, impact_points=7.0)])
        known = {key for key, figure in fitted.figures.items() if figure.known}
        assert known == {"units", "impact"}
        assert fitted.curves == {}

    def test_a_single_reading_invents_nothing(self, kind):
        phase = kind.phases[0].key
        (fitted,) = kind.fit([Trial({phase: Trace((0.0,), (20.0,))}, {})])
        for key, figure in fitted.figures.items():
            assert figure.known or figure.reason, key
        assert not fitted.figures["rise"].known

    def test_marks_of_a_phase_can_be_made_and_names_are_found(self, kind):
        for phase in kind.phases:
            assert even_marks(phase.until_s, phase.every_s)[-1] == phase.until_s
            assert kind.phase(phase.key) is phase
        with pytest.raises(ValueError, match="metric"):
            kind.metric("beauty")
        with pytest.raises(ValueError, match="phase"):
            kind.phase("lunch")
        with pytest.raises(ValueError, match="school"):
            kind.rule("beauty", Setting(), {})

    def test_an_empty_plan_can_be_drawn_and_asked_about(self, kind):
        drawing = kind.draw(Plan(), {})
        assert drawing.view[2] > 0
        assert kind.hints(Plan())


def test_a_rule_is_capped_by_the_phase_it_needs():
    kind = get_kind("solar_oven")
    held = next(t for t in kind.rule("green", Setting(), {"cooling": 900.0}) if t.metric == "held")
    assert held.cap == 15.0
    open_end = next(t for t in kind.rule("green", Setting(), {}) if t.metric == "held")
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
    assert unit_label("furlong") == "furlong"
    assert Setting().show(None, "degC") == "–"
    assert Setting().typed(None, "degC") == ""
