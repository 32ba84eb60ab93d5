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


@dataclass(frozen=True)
class Field:
    """A column: its type, the unit of all its values if they have one, and what it means."""

    name: str
    type: Type
    means: str
    unit: str = ""
    words: bool = False
    needed: bool = False


@dataclass(frozen=True)
class TableSpec:
    """A table: its fields, the rows of one challenge, its key and what it refers to (table → fields)."""

    name: str
    means: str
    fields: tuple[Field, ...]
    rows: Callable[[One], Iterator[Row]]
    key: tuple[str, ...] = ()
    of: tuple[tuple[tuple[str, ...], str, tuple[str, ...]], ...] = ()


CHALLENGE = Field("challenge", "integer", "number of the challenge in this package", needed=True)
TEAM = Field("team", "string", "letter of the team", needed=True)
VERSION = Field("version", "integer", "version of its build", needed=True)
RUN = Field("run", "integer", "number of the run in its challenge", needed=True)
_BY_CHALLENGE = ((("challenge",), "challenges", ("challenge",)),)
_BY_VERSION = ((("challenge", "team", "version"), "versions", ("challenge", "team", "version")),)
_BY_RUN = ((("challenge", "run"), "runs", ("challenge", "run")),)


def _text(name: str, means: str, *, words: bool = False, needed: bool = False) -> Field:
    return Field(name, "string", means, words=words, needed=needed)


_UNIT = _text("unit", "unit of the value, as Pint writes it; °C for temperatures")
TABLES = (
    TableSpec(
        "challenges",
        "The challenges, each with the class that did it.",
        (
            CHALLENGE,
            Field("class", "integer", "number of the class in this package", needed=True),
            _text("lineage", "the same in all copies of one brief"),
            _text("family", "family of challenge", needed=True),
            _text("title", "title", words=True),
            _text("age", "age band"),
            _text("rule", "way of scoring"),
            _text("temperature_unit", "in which the class reads"),
            _text("zone", "time zone of the class"),
            Field("made", "datetime", "when it was made"),
        ),
        rows.challenge,
        ("challenge",),
    ),
    TableSpec(
        "teams",
        "The teams of each challenge.",
        (
            CHALLENGE,
            TEAM,
            _text("name", "name", words=True),
            _text("shape", "shape"),
            _text("colour", "colour"),
        ),
        rows.teams,
        ("challenge", "team"),
        _BY_CHALLENGE,
    ),
    TableSpec(
        "versions",
        "The versions of each team's build.",
        (
            CHALLENGE,
            TEAM,
            VERSION,
            _text("state", "draft, waiting, signed or issued"),
            Field("units", "number", "units of material"),
            Field("impact", "number", "impact points"),
            Field("prediction", "number", "what the team predicted"),
            _text("predicted", "the figure that was predicted"),
            _UNIT,
            Field("issued", "datetime", "when its materials were handed out"),
            _text("changed", "what was changed, and why", words=True),
            _text("worked", "what worked", words=True),
            _text("failed", "what did not", words=True),
        ),
        rows.versions,
        ("challenge", "team", "version"),
        _BY_CHALLENGE,
    ),
    TableSpec(
        "parts",
        "The materials of each version, place by place.",
        (
            CHALLENGE,
            TEAM,
            VERSION,
            _text("place", "place in the build"),
            _text("material", "material"),
            _text("form", "form"),
            Field("units", "number", "units of it"),
            Field("reused", "number", "of these reused"),
        ),
        rows.parts,
        (),
        _BY_VERSION,
    ),
    TableSpec(
        "factors",
        "What else was decided of each version.",
        (CHALLENGE, TEAM, VERSION, _text("factor", "what"), Field("value", "number", "value"), _UNIT),
        rows.factors,
        (),
        _BY_VERSION,
    ),
    TableSpec(
        "runs",
        "The tests.",
        (
            CHALLENGE,
            RUN,
            Field("rehearsal", "boolean", "whether nothing real was tested"),
            Field("speed", "number", "how many times as fast as the clock"),
            Field("made", "datetime", "when it was made"),
            Field("closed", "datetime", "when it was closed"),
            _text("note", "note", words=True),
        ),
        rows.tests,
        ("challenge", "run"),
        _BY_CHALLENGE,
    ),
    TableSpec(
        "conditions",
        "The conditions of each test.",
        (
            CHALLENGE,
            RUN,
            _text("condition", "what"),
            Field("value", "number", "value"),
            _UNIT,
            _text("how", "measured or estimated"),
        ),
        rows.conditions,
        (),
        _BY_RUN,
    ),
    TableSpec(
        "values",
        "Everything that was read, one value a row, replaced ones too.",
        (
            CHALLENGE,
            RUN,
            _text("row", "build, air or control", needed=True),
            _text("team", "letter of the team, of a build"),
            Field("version", "integer", "version, of a build"),
            _text("device", "which of two devices"),
            Field("attempt", "integer", "number of the attempt, of a test by turns"),
            _text("phase", "phase of a test by the clock"),
            Field("mark", "number", "mark it was read for", "s"),
            Field("taken", "number", "when it was read, from the start of the phase", "s"),
            _text("quantity", "what was read", needed=True),
            Field("value", "number", "value"),
            _UNIT,
            _text("source", "hand, probe or file"),
            _text("state", "counts, replaced, taken back or set apart", needed=True),
        ),
        rows.values,
        (),
        _BY_RUN,
    ),
    TableSpec(
        "figures",
        "What follows for each version from all its tests.",
        (
            CHALLENGE,
            TEAM,
            VERSION,
            _text("figure", "which figure", needed=True),
            Field("value", "number", "value; none where the readings cannot carry it"),
            Field("uncertainty", "number", "its standard uncertainty"),
            Field("at_least", "number", "where only this is known"),
            Field("at_most", "number", "where only this is known"),
            _UNIT,
            _text("reason", "why there is no value"),
        ),
        rows.figures,
        ("challenge", "team", "version", "figure"),
        _BY_VERSION,
    ),
)
