"""Form fields that read what a teacher types in the class's own units and decimal style."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from flask import request
from flask_wtf import FlaskForm
from wtforms import Field, SelectField, StringField, TextAreaField
from wtforms.fields.choices import SelectChoice
from wtforms.validators import InputRequired, Length
from wtforms.widgets import TextInput

from thermion.core.kinds.briefing import Condition
from thermion.core.physics.units import NotANumber, Setting, stored_unit


class QuantityField(Field):
    """A number with a unit: typed in the class's unit, kept in the stored one.

    `low` and `high` are in the stored unit. An empty field is None when `optional`.
    """

    widget = TextInput()

    def __init__(
        self,
        label: str = "",
        *,
        unit: str = "dimensionless",
        setting: Setting = Setting(),  # noqa: B008 - frozen
        low: float | None = None,
        high: float | None = None,
        optional: bool = False,
        **kwargs: Any,
    ) -> None:
        super().__init__(label, **kwargs)
        self.unit, self.setting = unit, setting
        self.low, self.high, self.optional = low, high, optional
        self.typed: str | None = None

    @property
    def unit_text(self) -> str:
        return self.setting.label(self.unit)

    def _value(self) -> str:
        if self.typed is not None:
            return self.typed
        return self.setting.typed(self.data, self.unit)

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        self.typed = valuelist[0] if valuelist else ""
        self.data = None
        if not self.typed.strip():
            if not self.optional:
                raise ValueError("A number is needed here.")
            return
        try:
            value, _ = self.setting.parse(self.typed, self.unit)
        except NotANumber as error:
            raise ValueError(str(error)) from None
        if self.low is not None and value < self.low - 1e-9:
            raise ValueError(f"At least {self.setting.typed(self.low, self.unit)}.")
        if self.high is not None and value > self.high + 1e-9:
            raise ValueError(f"At most {self.setting.typed(self.high, self.unit)}.")
        self.data = value


def condition_field(condition: Condition, setting: Setting, value: float) -> Field:
    """The field for a condition of the rig, unbound: a number, or a choice of words."""
    if condition.words:
        return SelectField(
            condition.label,
            choices=[SelectChoice(i, w) for i, w in enumerate(condition.words)],
            coerce=int,
            default=round(value),
        )
    return QuantityField(
        condition.label,
        unit=condition.unit,
        setting=setting,
        low=condition.si("low"),
        high=condition.si("high"),
        default=value,
        description=condition.hint,
    )


def tolerance_field(condition: Condition, setting: Setting, value: float) -> QuantityField:
    unit = "delta_degC" if condition.unit == "degC" else condition.unit
    assert stored_unit(unit)
    return QuantityField(
        f"Tolerance of {condition.label.lower()}",
        unit=unit,
        setting=setting,
        low=0.0,
        high=condition.si("high") - condition.si("low"),
        default=value,
    )


def form_of(fields: Mapping[str, Field]) -> FlaskForm:
    """A form made of these fields, bound to the form that was sent, if one was; JSON is none."""
    form: FlaskForm = type("PageForm", (FlaskForm,), dict(fields))(formdata=request.form or None)
    return form


def text(label: str, limit: int, *, needed: str = "", default: str = "") -> StringField:
    checks: list[Any] = [Length(max=limit, message=f"At most {limit} letters.")]
    if needed:
        checks.insert(0, InputRequired(needed))
    return StringField(label, checks, default=default)


def long_text(label: str, limit: int, default: str = "") -> TextAreaField:
    return TextAreaField(label, [Length(max=limit, message=f"At most {limit} letters.")], default=default)


def pick(label: str, options: Sequence[tuple[str, str]], default: str) -> SelectField:
    return SelectField(label, choices=[SelectChoice(k, v) for k, v in options], default=default)
