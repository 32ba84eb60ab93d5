"""What a package's tables are described by: typed columns, keys, and the challenge that they are asked of."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any, Literal

from sqlalchemy.orm import Session

from thermion.records.building.builds import builds_of
from thermion.records.judging.evidence import Evidence, load_evidence
from thermion.records.planning.briefs import Brief, brief_of, get_challenge
from thermion.records.running import runs
from thermion.records.tables import Build, Challenge, Run, Version

Type = Literal["integer", "number", "string", "boolean", "datetime"]
Row = Mapping[str, Any]  # by the names of the table's fields


@dataclass(frozen=True)
class One:
    """A challenge as the tables read it, asked of the record once."""

    session: Session
    challenge: Challenge
    brief: Brief

    @classmethod
    def of(cls, session: Session, challenge_id: int) -> One:
        challenge = get_challenge(session, challenge_id)
        return cls(session, challenge, brief_of(challenge))

    @cached_property
    def builds(self) -> list[Build]:
        return list(builds_of(self.session, self.challenge.id))

    @property
    def versions(self) -> Iterator[tuple[dict[str, Any], Build, Version]]:
        """Every version, with the fields that name it."""
        for build in self.builds:
            for v in build.versions:
                yield (
                    {"challenge": self.challenge.id, "team": build.team.letter, "version": v.number},
                    build,
                    v,
                )

    @cached_property
    def runs(self) -> list[Run]:
        found = list(runs.runs_of(self.session, self.challenge.id))
        runs.load_runs(self.session, found)
        return found

    @cached_property
    def evidence(self) -> Evidence:
        return load_evidence(self.session, self.challenge, self.brief, school=self.challenge.school)


@dataclass(frozen=True, kw_only=True)
class SchemaField:
    """A column: its type, the unit of all its values if they have one, and what it means.

    `words`: it holds what people typed freely, and a package can go out without it.
    """

    name: str
    type: Type
    means: str
    unit: str = ""
    words: bool = False
    needed: bool = False


@dataclass(frozen=True, kw_only=True)
class Refers:
    """Fields of a table that name a row of another, by its fields."""

    fields: tuple[str, ...]
    table: str
    by: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class TableSpec:
    """A table: its fields, the rows of one challenge, its key and what it refers to."""

    name: str
    means: str
    fields: tuple[SchemaField, ...]
    rows: Callable[[One], Iterator[Row]]
    key: tuple[str, ...] = ()
    refers: tuple[Refers, ...] = ()


def text(name: str, means: str, *, words: bool = False, needed: bool = False) -> SchemaField:
    return SchemaField(name=name, type="string", means=means, words=words, needed=needed)


def number(name: str, means: str, unit: str = "") -> SchemaField:
    return SchemaField(name=name, type="number", means=means, unit=unit)


def whole(name: str, means: str, *, needed: bool = False) -> SchemaField:
    return SchemaField(name=name, type="integer", means=means, needed=needed)


def yes(name: str, means: str) -> SchemaField:
    return SchemaField(name=name, type="boolean", means=means)


def moment(name: str, means: str) -> SchemaField:
    return SchemaField(name=name, type="datetime", means=means)


def same(table: str, *fields: str) -> Refers:
    """The same fields name a row there."""
    return Refers(fields=fields, table=table, by=fields)


def stamp(at: datetime | None) -> str | None:
    """A moment as it is written: UTC, to the millisecond."""
    return None if at is None else at.isoformat(timespec="milliseconds").replace("+00:00", "Z")


def build_key(challenge: int, team: str, version: int) -> str:
    """One text that names a version of a package, so that a row without one can leave it empty."""
    return f"{challenge}-{team}-{version}"


CHALLENGE = whole("challenge", "number of the challenge in this package", needed=True)
TEAM = text("team", "letter of the team", needed=True)
VERSION = whole("version", "version of its build", needed=True)
RUN = whole("run", "number of the run in its challenge", needed=True)
UNIT = text("unit", "unit of the value, as Pint writes it; °C for temperatures, shares as shares of 1")
OF_CHALLENGE = same("challenges", "challenge")
OF_TEAM = same("teams", "challenge", "team")
OF_VERSION = same("versions", "challenge", "team", "version")
OF_RUN = same("runs", "challenge", "run")
