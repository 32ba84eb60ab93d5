"""A package's tables of what was built: versions, their parts and factors, what judges said."""

from __future__ import annotations

from collections.abc import Iterator

from thermion.core.kinds.criteria import criterion_of
from thermion.core.physics.units import stored_unit
from thermion.core.plans import tally
from thermion.formats.package.spec import (
    CHALLENGE,
    OF_TEAM,
    OF_VERSION,
    TEAM,
    UNIT,
    VERSION,
    One,
    Row,
    TableSpec,
    build_key,
    moment,
    number,
    stamp,
    text,
    whole,
)
from thermion.records.building.builds import plan_of


def _versions(one: One) -> Iterator[Row]:
    metric = one.brief.kind.analysis.prediction_for(one.brief.choices)
    for named, build, v in one.versions:
        count = tally(plan_of(v), one.brief.offers, one.brief.credit)
        yield named | {
            "build": build_key(one.challenge.id, build.team.letter, v.number),
            "state": v.state,
            "units": count.units,
            "impact": count.impact,
            "prediction": v.prediction,
            "predicted": metric.key,
            "unit": metric.si_unit,
            "issued": stamp(v.issued_at),
            "changed": v.change_note,
            "worked": v.worked,
            "failed": v.failed,
        }


VERSIONS = TableSpec(
    name="versions",
    means="The versions of each team's build.",
    fields=(
        CHALLENGE,
        TEAM,
        VERSION,
        text("build", "challenge-team-version in one, by which values name it", needed=True),
        text("state", "draft, waiting for its check, signed, or issued: materials handed out"),
        number("units", "material units used"),
        number("impact", "impact points"),
        number("prediction", "what the team predicted"),
        text("predicted", "the figure that was predicted"),
        UNIT,
        moment("issued", "when materials were handed out"),
        text("changed", "what was changed, and why", words=True),
        text("worked", "what worked", words=True),
        text("failed", "what did not", words=True),
    ),
    rows=_versions,
    key=("challenge", "team", "version"),
    refers=(OF_TEAM,),
)


def _parts(one: One) -> Iterator[Row]:
    for named, _, v in one.versions:
        for p in v.parts:
            yield named | {
                "place": p.place,
                "material": p.material,
                "form": p.form,
                "units": p.units,
                "reused": p.reused,
            }


PARTS = TableSpec(
    name="parts",
    means="The materials of each version, place by place.",
    fields=(
        CHALLENGE,
        TEAM,
        VERSION,
        text("place", "place in the build"),
        text("material", "material"),
        text("form", "form"),
        number("units", "units of it"),
        number("reused", "of these reused"),
    ),
    rows=_parts,
    refers=(OF_VERSION,),
)


def _factors(one: One) -> Iterator[Row]:
    units = {f.key: stored_unit(f.unit) for f in one.brief.kind.build.factors}
    for named, _, v in one.versions:
        for f in v.factors:
            yield named | {"factor": f.key, "value": f.value, "unit": units.get(f.key, "")}


FACTORS = TableSpec(
    name="factors",
    means="What else was decided of each version.",
    fields=(CHALLENGE, TEAM, VERSION, text("factor", "what", needed=True), number("value", "value"), UNIT),
    rows=_factors,
    key=("challenge", "team", "version", "factor"),
    refers=(OF_VERSION,),
)


def _judged(one: One) -> Iterator[Row]:
    for named, _, v in one.versions:
        newest = {(said.criterion, said.judge): said.id for said in v.judged}
        for said in v.judged:
            state = "counts" if newest[said.criterion, said.judge] == said.id else "replaced"
            yield named | {
                "figure": said.criterion,
                "judge": said.judge,
                "value": said.value,
                "unit": stored_unit(criterion_of(said.criterion).unit),
                "at": stamp(said.at),
                "state": "taken back" if said.value is None else state,
            }


JUDGED = TableSpec(
    name="judged",
    means="What judges said of each version by the class's own criteria; the newest of a judge counts.",
    fields=(
        CHALLENGE,
        TEAM,
        VERSION,
        text("figure", "criterion", needed=True),
        whole("judge", "number of the judge", needed=True),
        number("value", "marks given, or what was measured"),
        UNIT,
        moment("at", "when"),
        text("state", "counts, replaced or taken back", needed=True),
    ),
    rows=_judged,
    refers=(OF_VERSION,),
)
