"""What a challenge file says was built: versions and their plans, ideas, what was taken from others."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.judging.observed import Quantity, predicted
from thermion.core.kinds.base import Kind
from thermion.core.kinds.building import Factor
from thermion.core.kinds.criteria import JUDGES, criterion_of
from thermion.core.physics.materials import FORMS
from thermion.core.plans import MOST_UNITS
from thermion.formats.checking.brief import check_material
from thermion.formats.checking.said import among, between, may_be, no, no_twice, within
from thermion.formats.schema import ChallengeFile, ChallengeItem, PartItem, VersionItem
from thermion.records.judging.criteria import quantity as judged_by

MOST_VERSIONS = 200


def check_builds(file: ChallengeFile, kind: Kind) -> None:
    c, letters = file.challenge, {t.letter for t in file.school_class.teams}
    choices = kind.brief.chosen({x.key: x.value for x in c.choices})
    expected = _predictions(kind, choices)
    no_twice("builds", (b.team for b in c.builds))
    for i, build in enumerate(c.builds):
        if build.team not in letters:
            raise no(f"builds[{i}].team", f"team {build.team} is not in the file")
        if not 1 <= len(build.versions) <= MOST_VERSIONS:
            raise no(f"builds[{i}].versions", f"1 to {MOST_VERSIONS}")
        no_twice(f"builds[{i}].versions", (v.number for v in build.versions))
        for j, v in enumerate(build.versions):
            if v.idea is not None and v.idea not in letters:
                raise no(f"builds[{i}].versions[{j}].idea", f"team {v.idea} is not in the file")
            if not any(may_be(v.prediction, quantity) for quantity in expected):
                raise no(f"builds[{i}].versions[{j}].prediction", f"{v.prediction:g} cannot be predicted")
            _check_version(f"builds[{i}].versions[{j}]", v, kind)
    _check_ideas(c, kind, letters)


def _predictions(kind: Kind, choices: Mapping[str, str]) -> list[Quantity]:
    """What can be predicted: also what could be under another choice, since a brief may be changed later."""
    every = [choices, *({**choices, c.key: key} for c in kind.brief.choices for key, _ in c.options)]
    return [predicted(kind, each, {}) for each in every]


def _check_version(where: str, v: VersionItem, kind: Kind) -> None:
    places = {p.key for p in kind.build.places}
    for k, part in enumerate(v.parts):
        among(f"{where}.parts[{k}].place", part.place, places)
        _check_part(f"{where}.parts[{k}]", part)
    _check_factors(where, v, {f.key: f for f in kind.build.factors})
    reached = {"draft": None, "waiting": v.waiting_at, "signed": v.signed_at, "issued": v.issued_at}
    if v.state != "draft" and reached[v.state] is None:
        raise no(f"{where}.state", f"{v.state}, and nobody knows since when")
    moments = [at for at in (v.waiting_at, v.signed_at, v.issued_at) if at is not None]
    if any(at < v.created_at for at in moments):
        raise no(f"{where}.created_at", "it was handed in, signed or issued before it was made")
    for k, said in enumerate(v.judged):
        at = f"{where}.judged[{k}]"
        between(f"{at}.judge", said.judge, 1, JUDGES)
        try:
            most = judged_by(criterion_of(said.criterion))
        except ValueError as error:
            raise no(f"{at}.criterion", str(error)) from None
        within(f"{at}.value", said.value, most)


def _check_part(at: str, part: PartItem) -> None:
    check_material(at, part.material)
    among(f"{at}.form", part.form, FORMS)
    between(f"{at}.units", part.units, 0.0, MOST_UNITS)
    if part.reused > part.units:
        raise no(f"{at}.reused", "more than there are")


def _check_factors(where: str, v: VersionItem, factors: Mapping[str, Factor]) -> None:
    no_twice(f"{where}.factors", (f.key for f in v.factors))
    for k, f in enumerate(v.factors):
        among(f"{where}.factors[{k}].key", f.key, factors)
        known = factors[f.key]
        limits = Quantity(
            key=f.key, label=known.label, unit=known.unit, low=known.si("low"), high=known.si("high")
        )
        within(f"{where}.factors[{k}].value", f.value, limits)


def _check_ideas(c: ChallengeItem, kind: Kind, letters: set[str]) -> None:
    """Each idea is of a team of the file, at places and of materials that are known."""
    places = {p.key for p in kind.build.places}
    no_twice("ideas", ((i.team, i.number) for i in c.ideas))
    for i, idea in enumerate(c.ideas):
        among(f"ideas[{i}].team", idea.team, letters)
        for place, material in idea.picks.items():
            among(f"ideas[{i}].picks", place, places)
            check_material(f"ideas[{i}].picks", material)
    no_twice("taken", ((t.team, t.source, t.what) for t in c.taken))
    for i, t in enumerate(c.taken):
        among(f"taken[{i}].team", t.team, letters)
        among(f"taken[{i}].source", t.source, letters - {t.team})
