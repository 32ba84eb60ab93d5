"""What the plan editor and the server say to each other."""

from __future__ import annotations

from typing import Annotated

from pydantic import BeforeValidator, Field

from thermion.core.physics.units import NotANumber, parse_plain
from thermion.core.plans import MOST_UNITS
from thermion.web.payloads import Answer, RowId, Sent, Typed


def _as_typed(value: object) -> object:
    """Units may come as they were typed."""
    if not isinstance(value, str):
        return value
    try:
        return parse_plain(value)
    except NotANumber as error:
        raise ValueError(str(error)) from None


Units = Annotated[float, BeforeValidator(_as_typed), Field(ge=0, le=MOST_UNITS)]


class PartSent(Sent):
    """So many units of a material, in a form, at a place."""

    place: str = Field(max_length=32)
    material: str = Field(max_length=320)
    form: str = Field(max_length=16)
    units: Units
    reused: Units = 0.0
    idea: int = Field(default=0, ge=0, le=99)


class PlanSent(Sent):
    """A plan as it stands on the editor; factors in the class's units."""

    revision: RowId
    parts: list[PartSent] = Field(max_length=200)
    factors: dict[str, float]
    prediction: Typed = ""
    note: str = Field(default="", max_length=1000)
    worked: str = Field(default="", max_length=300)
    failed: str = Field(default="", max_length=300)
    idea: RowId | None = None
    narrow: bool = False  # the screen shows the drawing for a phone


class PartShown(Answer):
    place: str
    material: str
    form: str
    units: float
    reused: float
    idea: int


class ChangeShown(Answer):
    where: str
    text: str


class PlanState(Answer):
    """What the editor shows for a plan: numbers, problems at their place, drawing, changes."""

    revision: int
    parts: list[PartShown]
    factors: dict[str, float]
    prediction: str
    note: str
    worked: str
    failed: str
    nudge: str  # when several things change at once
    idea: int
    units: str
    impact: str
    used: dict[str, float]
    problems: dict[int, str]  # by the number of the part
    missing: list[str]
    hints: list[str]
    changes: list[ChangeShown]
    svg: str
    errors: dict[str, str]
    said: str


class FormShown(Answer):
    key: str
    label: str


class MaterialShown(Answer):
    """A material on offer, for the shelf beside the drawing."""

    key: str
    name: str
    unit: str
    limit: float | None
    swatch: str
    forms: list[FormShown]


class PlanPage(Answer):
    """What the script of the editor begins with."""

    state: PlanState
    materials: list[MaterialShown]
    at: str  # the place that is open first
    url: str
    decimal: str  # the sign between whole and part
    words: dict[str, str | list[str]]
