"""The form of the rule: a school's, or the class's own with criteria that the class judges itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from flask import request
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session
from wtforms import Field

from thermion.core.kinds.briefing import Choice, Term
from thermion.core.kinds.criteria import LONGEST, MOST_MARKS, criterion, with_criteria
from thermion.core.physics.units import NotANumber, parse_plain
from thermion.core.values import Unfit
from thermion.records.errors import Refused
from thermion.records.planning import briefs
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Challenge
from thermion.web.components.forms import QuantityField, pick, text
from thermion.web.components.words import rule_words

Fields = dict[str, Field]
Shown = dict[str, object]
READ_IN = [
    ("point", "marks of a judge"),
    ("gram", "grams"),
    ("centimeter", "centimetres"),
    ("second", "seconds"),
    ("milliliter", "millilitres"),
    ("count", "how many"),
]
FAULTS = {
    "name": f"Give it a name of at most {LONGEST} letters.",
    "most": f"The best gets 1 to {MOST_MARKS} marks, a whole number.",
}


@dataclass(frozen=True)
class TypedTerm:
    """A row of the rule editor, as typed."""

    metric: str
    weight: str
    divisor: str
    cap: str


def fields(challenge: Challenge, brief: Brief) -> Fields:
    options = [(s.key, s.label) for s in brief.kind.brief.schools_for(brief.choices)]
    chosen = {c.key: pick(c.label, c.options, brief.choices[c.key]) for c in _of_score(brief)}
    return chosen | {
        "school": pick("Score", [*options, ("own", "Our own rule")], challenge.school),
        "criterion_name": text("What is looked at", LONGEST),
        "criterion_unit": pick("Given in", READ_IN, "point"),
        "criterion_most": QuantityField(
            "Marks for the best",
            unit="count",
            low=1,
            high=MOST_MARKS,
            optional=True,
            setting=brief.setting,
            default=4.0,
        ),
        "criterion_better": pick("Better is", [("higher", "more"), ("lower", "less")], "higher"),
    }


def _of_score(brief: Brief) -> list[Choice]:
    """The choices that say what of several attempts and runs counts."""
    return [choice for choice in brief.kind.brief.choices if choice.scores]


def typed_terms(brief: Brief) -> list[TypedTerm]:
    """Rows of the rule editor as typed, or the current rule."""
    if request.method == "POST":
        columns = [request.form.getlist(f"term_{k}") for k in ("metric", "weight", "divisor", "cap")]
        return [TypedTerm(*row) for row in zip(*columns, strict=False)]
    write = brief.setting.typed
    return [
        TypedTerm(t.metric, *(write(number, "dimensionless") for number in (t.weight, t.divisor, t.cap)))
        for t in brief.rule
    ]


def save(_: Session, challenge: Challenge, brief: Brief, form: FlaskForm) -> None:
    briefs.save_settings(challenge, {}, {c.key: form[c.key].data for c in _of_score(brief)})
    if form["school"].data != "own":
        briefs.use_school(challenge, form["school"].data)
        return
    rows = typed_terms(brief)
    kept = replace(brief, kind=with_criteria(brief.kind, [row.metric for row in rows]))
    rule = [_term(i, row, kept) for i, row in enumerate(rows)]
    if form["criterion_name"].data.strip():
        rule.append(_criterion(form, [term.metric for term in rule]))
    briefs.save_rule(challenge, rule, "own")


def _criterion(form: FlaskForm, there: Sequence[str]) -> Term:
    """A term for a criterion that the class adds; less of what should be little counts against."""
    try:
        made = criterion(*(form[f"criterion_{key}"].data for key in ("name", "unit", "better", "most")))
    except Unfit as error:
        said = FAULTS.get(error.argument, str(error))
        raise Refused(said, f"criterion_{error.argument}") from None
    if made.key in there:
        raise Refused("It is in the rule already.", "criterion_name")
    return Term(metric=made.key, unit=made.unit, weight=1.0 if made.better == "higher" else -1.0)


def _term(i: int, row: TypedTerm, brief: Brief) -> Term:
    if row.metric not in brief.kind.analysis.metric_units():
        raise Refused("There is no such figure in this family.", f"term-{i}-metric")
    weight = _number(row.weight, f"term-{i}-weight", brief)
    if weight is None:
        raise Refused("Every term needs a weight, e.g. 1 or -1.", f"term-{i}-weight")
    divisor = _number(row.divisor or "1", f"term-{i}-divisor", brief)
    if not divisor:
        raise Refused("Dividing by zero gives no score.", f"term-{i}-divisor")
    unit = brief.setting.unit_of(brief.kind.analysis.metric(row.metric).unit)
    return Term(
        metric=row.metric,
        unit=unit,
        weight=weight,
        divisor=divisor,
        cap=_number(row.cap, f"term-{i}-cap", brief),
    )


def _number(typed: str, field: str, brief: Brief) -> float | None:
    if not typed.strip():
        return None
    try:
        return parse_plain(typed, brief.setting.decimal)
    except NotANumber as error:
        raise Refused(str(error), field) from None


def more(_: Challenge, brief: Brief) -> Shown:
    schools = [
        (school, rule_words(brief.rule_of(school.key), brief))
        for school in brief.kind.brief.schools_for(brief.choices)
    ]
    return {
        "terms": typed_terms(brief),
        "metrics": brief.kind.analysis.metrics,
        "schools": schools,
        "counting": _of_score(brief),
    }
