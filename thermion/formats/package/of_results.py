"""A package's tables of what follows: figures, scores and places."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from thermion.core.judging.findings import Findings, VersionFinding
from thermion.formats.package.spec import (
    CHALLENGE,
    OF_VERSION,
    TEAM,
    UNIT,
    VERSION,
    One,
    Refers,
    Row,
    TableSpec,
    number,
    text,
    whole,
    yes,
)


def _found(one: One) -> Iterator[tuple[dict[str, Any], Findings, VersionFinding]]:
    """Every version that was tested, with the fields that name it."""
    found = one.evidence.findings
    letters = {t.id: t.letter for t in one.challenge.school_class.teams}
    for v in found.versions if found else ():
        team = letters[v.subject.team_id]
        assert found is not None
        yield {"challenge": one.challenge.id, "team": team, "version": v.subject.version}, found, v


def _figures(one: One) -> Iterator[Row]:
    units = one.brief.kind.analysis.metric_units()
    for named, _, v in _found(one):
        for key, figure in v.figures.items():
            if key not in units:
                continue
            yield named | {
                "figure": key,
                "value": figure.value,
                "uncertainty": figure.se if figure.value is not None else None,
                "at_least": figure.at_least,
                "at_most": figure.at_most,
                "unit": units[key],
                "reason": figure.reason,
            }


FIGURES = TableSpec(
    name="figures",
    means="What follows for each version from all its tests.",
    fields=(
        CHALLENGE,
        TEAM,
        VERSION,
        text("figure", "which figure, explained in measures", needed=True),
        number("value", "value; none where the readings cannot carry it"),
        number("uncertainty", "its standard uncertainty"),
        number("at_least", "where only this is known"),
        number("at_most", "where only this is known"),
        UNIT,
        text("reason", "why there is no value"),
    ),
    rows=_figures,
    key=("challenge", "team", "version", "figure"),
    refers=(OF_VERSION, Refers(fields=("challenge", "figure"), table="measures", by=("challenge", "figure"))),
)


def _scores(one: One) -> Iterator[Row]:
    for named, found, v in _found(one):
        standing = next((p for p in found.places if p.key == v.subject), None)
        yield named | {
            "newest": found.latest()[v.subject.team_id] is v,
            "score": v.score.total,
            "at_least": v.score.at_least,
            "at_most": v.score.at_most,
            "reason": v.score.reason,
            "place": found.facts.get(v.subject),
            "typical": standing and standing.value,
            "half_width": standing and standing.half_width,
            "place_first": standing and standing.first,
            "place_last": standing and standing.last,
            "chance_best": standing and standing.chance_best,
        }


SCORES = TableSpec(
    name="scores",
    means="Score and place by the rule, which are facts; and what may be claimed of a typical try.",
    fields=(
        CHALLENGE,
        TEAM,
        VERSION,
        yes("newest", "whether it is the newest version of its team that was tested: only these have places"),
        number("score", "sum of the rule's terms"),
        number("at_least", "where only this is known of the score"),
        number("at_most", "where only this is known of the score"),
        text("reason", "why there is no score"),
        whole("place", "1 + how many of the newest have a better score; equals share it"),
        number("typical", "score of a typical try"),
        number("half_width", "95 % half width of that; none where nobody knows how much a try varies"),
        whole("place_first", "best place that it may have on a typical try, at 95 %"),
        whole("place_last", "last place that it may have on a typical try, at 95 %"),
        number("chance_best", "chance that it is the best of all"),
    ),
    rows=_scores,
    key=("challenge", "team", "version"),
    refers=(OF_VERSION,),
)
