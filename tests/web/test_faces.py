"""One figure has one value: page, file, package, walk-round sheet and board show what the findings are."""

from __future__ import annotations

import csv
import io
import zipfile

import pytest
from sqlalchemy import select

from tests.web.conftest import flat
from thermion.core.values import Figure
from thermion.formats.tables import plain_key
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs
from thermion.records.running import rig, runs
from thermion.records.running.set_apart import set_apart
from thermion.records.tables import Challenge, Run
from thermion.web import create_app
from thermion.web.pictures.figures import figure_words
from thermion.web.places.findings.scores import in_score


@pytest.fixture
def demo(demo_copy):
    made = create_app({"DATA": demo_copy(), "TESTING": True, "WTF_CSRF_ENABLED": False})
    yield made
    made.extensions["thermion"].close()


def packed(client, challenge_id: int) -> dict[tuple[str, str, str], dict[str, str]]:
    """Figures of a challenge's package by team, version and metric."""
    data = client.get(f"/challenges/{challenge_id}/package.zip").get_data()
    with zipfile.ZipFile(io.BytesIO(data)) as zipped, zipped.open("data/figures.csv") as file:
        rows = list(csv.DictReader(io.TextIOWrapper(file, "utf-8", newline="")))
    return {(r["team"], r["version"], r["figure"]): r for r in rows}


def compared(app, client, challenge_id: int) -> int:
    """Hold every face of a challenge's findings against the findings; how many figures that were."""
    with app.extensions["thermion"].session() as session:
        challenge = session.get_one(Challenge, challenge_id)
        brief = briefs.brief_of(challenge)
        found = load_evidence(session, challenge, brief, school=challenge.school).findings
        letters = {t.id: t.letter for t in challenge.school_class.teams}
        if found is None:
            return 0
        units, setting = {m.key: m for m in brief.kind.analysis.metrics}, brief.setting
        package = packed(client, challenge_id)
        table = client.get(f"/challenges/{challenge_id}/findings.json").json["rows"]
        by = {(row["team"], row["version"]): row for row in table}
        page = flat(client.get(f"/challenges/{challenge_id}/findings?full=1"))
        sheet = flat(client.get(f"/challenges/{challenge_id}/sheets/walk"))
        board = flat(client.get(f"/board/challenges/{challenge_id}/results?step=99"))
        count = 0
        for v in found.versions:
            letter = letters[v.subject.team_id]
            row = by[letter, v.subject.version]
            assert row["score"] == pytest.approx(v.score.total)
            for key, figure in v.figures.items():
                if key not in units:
                    continue
                there = package[letter, str(v.subject.version), key]
                same(there["value"], figure.value)
                same(there["uncertainty"], None if figure.value is None else figure.se)
                same(there["at_least"], figure.at_least)
                value = None if figure.value is None else setting.from_si(figure.value, units[key].unit)
                assert row[plain_key(key)] == (None if value is None else pytest.approx(value))
                count += 1
        metric = brief.kind.analysis.headline_for(brief.choices)[0]
        for v in found.latest().values():
            words = figure_words(v.figures.get(metric.key, Figure()), metric, brief)
            assert words in sheet
            if v.score.total is not None:
                assert in_score(v.score.total, v.score, brief) in page
                assert in_score(v.score.total, v.score, brief) in board
        return count


def same(cell: str, value: float | None) -> None:
    assert (cell == "") == (value is None)
    if value is not None:
        assert float(cell) == pytest.approx(value, rel=1e-9)


def test_every_face_of_every_challenge_of_the_demo_shows_the_same_figures(demo):
    client, database = demo.test_client(), demo.extensions["thermion"]
    with database.session() as session:
        numbers = session.scalars(select(Challenge.id).order_by(Challenge.id)).all()
    counted = {number: compared(demo, client, number) for number in numbers}
    assert sum(n > 0 for n in counted.values()) >= 5
    # a thermometer that shows a degree too much, a row set apart, a class that lends its spread
    with database.writing() as session:
        tested = session.scalars(select(Run).where(Run.rehearsal.is_(False))).all()
        for run in tested:
            challenge = session.get_one(Challenge, run.challenge_id)
            brief, teams = briefs.brief_of(challenge), challenge.school_class.teams
            if any(c.key == "agree" for c in brief.kind.test.checks_for(brief.choices)):
                shown = {t.letter: 20.0 + i * 0.5 * (i < 3) for i, t in enumerate(teams)}
                rig.save_check(session, challenge, brief, "agree", {**shown, rig.AIR: 20.0})
            rows = [e for e in runs.get_run(session, run.id).entries if e.version is not None]
            if len(rows) > 2:
                set_apart(session, runs.get_run(session, run.id), "it fell over", entry_id=rows[-1].id)
    again = {number: compared(demo, client, number) for number in numbers}
    assert sum(again.values()) < sum(counted.values())  # what was set apart is no version's any more
