"""The tables of a package: one row per value, units in fields of their own, keys between them.

What is typed freely is marked `words`, so that a package can go out without it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from thermion.formats.package import rows
from thermion.formats.package.rows import One, Row

Type = Literal["integer", "number", "string", "boolean", "datetime"]


@dataclass(frozen=True, kw_only=True)
class SchemaField:
    """A column: its type, the unit of all its values if they have one, and what it means."""

    name: str
    type: Type
    means: str
    unit: str = ""
    words: bool = False
    needed: bool = False


@dataclass(frozen=True, kw_only=True)
class TableSpec:
    """A table: its fields, the rows of one challenge, its key and what it refers to (table → fields)."""

    name: str
    means: str
    fields: tuple[SchemaField, ...]
    rows: Callable[[One], Iterator[Row]]
    key: tuple[str, ...] = ()
    of: tuple[tuple[tuple[str, ...], str, tuple[str, ...]], ...] = ()


CHALLENGE = SchemaField(
    name="challenge", type="integer", means="number of the challenge in this package", needed=True
)
TEAM = SchemaField(name="team", type="string", means="letter of the team", needed=True)
VERSION = SchemaField(name="version", type="integer", means="version of its build", needed=True)
RUN = SchemaField(name="run", type="integer", means="number of the run in its challenge", needed=True)
_BY_CHALLENGE = ((("challenge",), "challenges", ("challenge",)),)
_BY_VERSION = ((("challenge", "team", "version"), "versions", ("challenge", "team", "version")),)
_BY_RUN = ((("challenge", "run"), "runs", ("challenge", "run")),)


def _text(name: str, means: str, *, words: bool = False, needed: bool = False) -> SchemaField:
    return SchemaField(name=name, type="string", means=means, words=words, needed=needed)


_UNIT = _text("unit", "unit of the value, as Pint writes it; °C for temperatures")
TABLES = (
    TableSpec(
        name="challenges",
        means="The challenges, each with the class that did it.",
        fields=(
            CHALLENGE,
            SchemaField(
                name="class", type="integer", means="number of the class in this package", needed=True
            ),
            _text("lineage", "the same in all copies of one brief"),
            _text("family", "family of challenge", needed=True),
            _text("title", "title", words=True),
            _text("age", "age band"),
            _text("rule", "way of scoring"),
            _text("temperature_unit", "in which the class reads"),
            _text("zone", "time zone of the class"),
            SchemaField(name="made", type="datetime", means="when it was made"),
        ),
        rows=rows.challenge,
        key=("challenge",),
    ),
    TableSpec(
        name="teams",
        means="The teams of each challenge.",
        fields=(
            CHALLENGE,
            TEAM,
            _text("name", "name", words=True),
            _text("shape", "shape"),
            _text("colour", "colour"),
        ),
        rows=rows.teams,
        key=("challenge", "team"),
        of=_BY_CHALLENGE,
    ),
    TableSpec(
        name="versions",
        means="The versions of each team's build.",
        fields=(
            CHALLENGE,
            TEAM,
            VERSION,
            _text("state", "draft, waiting, signed or issued"),
            SchemaField(name="units", type="number", means="units of material"),
            SchemaField(name="impact", type="number", means="impact points"),
            SchemaField(name="prediction", type="number", means="what the team predicted"),
            _text("predicted", "the figure that was predicted"),
            _UNIT,
            SchemaField(name="issued", type="datetime", means="when its materials were handed out"),
            _text("changed", "what was changed, and why", words=True),
            _text("worked", "what worked", words=True),
            _text("failed", "what did not", words=True),
        ),
        rows=rows.versions,
        key=("challenge", "team", "version"),
        of=_BY_CHALLENGE,
    ),
    TableSpec(
        name="parts",
        means="The materials of each version, place by place.",
        fields=(
            CHALLENGE,
            TEAM,
            VERSION,
            _text("place", "place in the build"),
            _text("material", "material"),
            _text("form", "form"),
            SchemaField(name="units", type="number", means="units of it"),
            SchemaField(name="reused", type="number", means="of these reused"),
        ),
        rows=rows.parts,
        key=(),
        of=_BY_VERSION,
    ),
    TableSpec(
        name="factors",
        means="What else was decided of each version.",
        fields=(
            CHALLENGE,
            TEAM,
            VERSION,
            _text("factor", "what"),
            SchemaField(name="value", type="number", means="value"),
            _UNIT,
        ),
        rows=rows.factors,
        key=(),
        of=_BY_VERSION,
    ),
    TableSpec(
        name="runs",
        means="The tests.",
        fields=(
            CHALLENGE,
            RUN,
            SchemaField(name="rehearsal", type="boolean", means="whether nothing real was tested"),
            SchemaField(name="speed", type="number", means="how many times as fast as the clock"),
            SchemaField(name="made", type="datetime", means="when it was made"),
            SchemaField(name="closed", type="datetime", means="when it was closed"),
            _text("note", "note", words=True),
        ),
        rows=rows.tests,
        key=("challenge", "run"),
        of=_BY_CHALLENGE,
    ),
    TableSpec(
        name="conditions",
        means="The conditions of each test.",
        fields=(
            CHALLENGE,
            RUN,
            _text("condition", "what"),
            SchemaField(name="value", type="number", means="value"),
            _UNIT,
            _text("how", "measured or estimated"),
        ),
        rows=rows.conditions,
        key=(),
        of=_BY_RUN,
    ),
    TableSpec(
        name="values",
        means="Everything that was read, one value a row, replaced ones too.",
        fields=(
            CHALLENGE,
            RUN,
            _text("row", "build, air or control", needed=True),
            _text("team", "letter of the team, of a build"),
            SchemaField(name="version", type="integer", means="version, of a build"),
            _text("device", "which of two devices"),
            SchemaField(name="attempt", type="integer", means="number of the attempt, of a test by turns"),
            _text("phase", "phase of a test by the clock"),
            SchemaField(name="mark", type="number", means="mark it was read for", unit="s"),
            SchemaField(
                name="taken", type="number", means="when it was read, from the start of the phase", unit="s"
            ),
            _text("quantity", "what was read", needed=True),
            SchemaField(name="value", type="number", means="value"),
            _UNIT,
            _text("source", "hand, probe or file"),
            _text("state", "counts, replaced, taken back or set apart", needed=True),
        ),
        rows=rows.values,
        key=(),
        of=_BY_RUN,
    ),
    TableSpec(
        name="figures",
        means="What follows for each version from all its tests.",
        fields=(
            CHALLENGE,
            TEAM,
            VERSION,
            _text("figure", "which figure", needed=True),
            SchemaField(name="value", type="number", means="value; none where the readings cannot carry it"),
            SchemaField(name="uncertainty", type="number", means="its standard uncertainty"),
            SchemaField(name="at_least", type="number", means="where only this is known"),
            SchemaField(name="at_most", type="number", means="where only this is known"),
            _UNIT,
            _text("reason", "why there is no value"),
        ),
        rows=rows.figures,
        key=("challenge", "team", "version", "figure"),
        of=_BY_VERSION,
    ),
)
