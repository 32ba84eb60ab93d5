"""What stands on pages, sheets and in files says what it means: words, units, numbers that come back."""

from __future__ import annotations

import csv
import io
import re
from pathlib import Path

import pytest

from tests.conftest import NOON, Crew
from thermion.core.judging.scoring import score
from thermion.core.kinds import get_kind, kind_for
from thermion.core.kinds.briefing import Term
from thermion.core.physics.materials import MATERIALS, unit_beside
from thermion.core.physics.units import Setting
from thermion.core.planning.safety import cautions
from thermion.core.values import Figure
from thermion.formats.tables import Column, Table, to_csv
from thermion.records.building import builds, kit
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.records.running import runs
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.web.places.findings.scores import in_score, with_unit

ROOT = Path(__file__).parents[2]


def rows(client, address: str) -> list[dict[str, str]]:
    text = client.get(address).get_data().decode("utf-8-sig")
    return list(csv.DictReader(io.StringIO(text)))


def test_a_score_can_be_worked_out_again_from_the_briefs_file(client, crew: Crew):
    rule = (
        Term(metric="peak", unit="degC", weight=2.0, divisor=5.0, cap=90.0),
        Term(metric="impact", unit="point", weight=-1.0),
    )
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        briefs.save_rule(challenge, rule)
        units = briefs.brief_of(challenge).kind.analysis.metric_units()
    found = [r for r in rows(client, "/challenges/1/brief.csv") if r["what"] == "score"]
    again = tuple(
        Term(
            metric=r["key"],
            unit=unit,
            weight=float(r["value"]),
            divisor=float(r["divisor"]),
            cap=float(r["cap"]) if r["cap"] else None,
        )
        for r, unit in zip(found, ("degC", "point"), strict=True)
    )
    assert again == rule
    figures = {"peak": Figure(value=95.0, se=0.5), "impact": Figure(value=12.0, se=0.0)}
    assert score(again, figures, units).total == pytest.approx(2 * 90 / 5 - 12)
    assert any(r["key"].startswith("credit") for r in rows(client, "/challenges/1/brief.csv"))


def test_every_reading_in_a_file_names_its_unit_and_keeps_its_digits(client, crew: Crew):
    with crew.database.writing() as session:
        school_class = get_class(session, crew.class_id)
        challenge = briefs.create_challenge(session, school_class, "keep_temp", "Save the bait")
        briefs.acknowledge_cautions(challenge)
        briefs.finish_brief(challenge)
        version = builds.start_version(session, challenge, crew.teams["Avocet"])
        version.state = "issued"
        session.flush()
        run = runs.create_run(session, challenge, version_ids=[version.id], conditions={}, now=NOON)
        runs.start_phase(session, run, briefs.brief_of(challenge), "standing", NOON)
        session.flush()
        rows_of = {e.version_id: e.id for e in run.entries}
        for row, typed in ((rows_of[None], "21.5"), (rows_of[version.id], "11.3")):
            item = ReadingInput(
                entry_id=row,
                phase="standing",
                mark_s=0.0,
                given=typed,
                client_id=f"row-{row}",
                entered_at=NOON,
            )
            save_reading(session, run.id, item, NOON)
    found = {r["team"]: r for r in rows(client, f"/runs/{run.id}.csv")}
    air, avocet = found["air"], found["A"]
    assert (air["value"], air["unit"], air["value_si"], air["unit_si"]) == ("21.5", "°C", "21.5", "°C")
    assert (avocet["value"], avocet["unit"], avocet["unit_si"]) == ("11.3", "mL", "m³")
    assert float(avocet["value_si"]) == 11.3e-6


@pytest.mark.parametrize("start", ["=", " =", "\t=", "\r=", "\n@", "  +", "＝", " －", "\u00a0="])
def test_no_cell_is_a_formula_whatever_stands_before_its_sign(start):
    (_, cell) = csv.reader(io.StringIO(to_csv(Table("t", (Column("a", "A"),), [(f"{start}1+1",)]))))
    assert cell[0].startswith("'")
    (_, plain) = csv.reader(io.StringIO(to_csv(Table("t", (Column("a", "A"),), [("a = b",)]))))
    assert plain == ["a = b"]


def test_a_picture_of_nothing_says_so(client, crew: Crew):
    for address in ("/challenges/1/findings/curves.svg",):
        answer = client.get(address)
        assert answer.mimetype == "image/svg+xml"
        assert "Nothing has been read yet." in answer.get_data(as_text=True)
        assert answer.get_data(as_text=True).startswith("<svg")


def test_every_address_of_data_that_the_manual_names_is_there(client, crew: Crew):
    crew.run(crew.plan("Avocet"))
    text = (ROOT / "docs/formats.md").read_text().split("## One challenge")[0]
    named = re.findall(r"`(/[\w/]+)`", text)
    assert len(named) >= 7
    for address in named:
        for ending in ("csv", "json"):
            assert client.get(f"{address}.{ending}").status_code == 200, address
    assert (
        ROOT / re.search(r"`(thermion/formats/\w+\.py)`", (ROOT / "docs/formats.md").read_text())[1]
    ).exists()


def test_a_unit_stands_beside_a_name_only_where_the_name_does_not_say_it():
    said = {key: unit_beside(m.name, m.unit) for key, m in MATERIALS.items()}
    assert (said["craft_stick"], said["plastic_bag"], said["newspaper"]) == ("", "", "sheet")
    for key, material in MATERIALS.items():
        words = f"{material.name} {said[key]}".lower().split()
        assert words[-1] != words[-2] if len(words) > 1 else True


def test_the_sheet_for_learners_heads_its_columns_and_speaks_in_the_classs_unit(client, app):
    crew = Crew(app.extensions["thermion"], "degF", "comma")
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        briefs.save_settings(challenge, {}, {"heat_source": "lamp"})
    assert "W/m²" not in client.get("/challenges/1/sheets/brief").get_data(as_text=True)  # ages 9 to 12
    with crew.database.writing() as session:
        briefs.get_challenge(session, crew.challenge_id).age_band = "13-16"
    sheet = client.get("/challenges/1/sheets/brief").get_data(as_text=True)
    assert "pt each" not in sheet
    assert "Points for one" in sheet
    assert "Light of the lamp on the window" in sheet
    assert "level window" not in sheet
    said = " ".join(
        w.text
        for w in cautions(kind_for("keep_temp", "6-8"), {"measure": "temp"}, "6-8", (), Setting("degF"))
    )
    assert "113 °F" in said
    assert "°C" not in said


def test_what_was_chosen_is_on_the_kit_list(crew: Crew):
    def items(source: str) -> set[str]:
        with crew.database.writing() as session:
            challenge = briefs.get_challenge(session, crew.challenge_id)
            briefs.save_settings(challenge, {}, {"heat_source": source})
            session.flush()
            found = kit.kit_of(session, challenge.school_class, [challenge])
            return {x.line.item for x in found.lines}

    assert "Lamp on a stand" in items("lamp")
    assert "Lamp on a stand" not in items("sun")


def test_scores_have_a_unit_and_one_is_one_unit(crew: Crew):
    with crew.database.session() as session:
        brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
    units = brief.kind.analysis.metric_units()
    figures = {"peak": Figure(value=60.0, se=0.5), "units": Figure(value=1.0, se=0.0)}
    alone = score((Term(metric="peak", unit="degC"),), figures, units)
    summed = score(
        (Term(metric="peak", unit="degC"), Term(metric="units", unit="count", weight=-1.0)), figures, units
    )
    assert in_score(3.25, alone, brief) == "3.2 °C"
    assert (in_score(3.25, summed, brief), in_score(1.0, summed, brief)) == ("3.2 points", "1 point")
    assert (with_unit("1", "count"), with_unit("2", "count")) == ("1 unit", "2 units")
    sail = get_kind("sail_run").brief
    assert {t.unit for t in sail.school("raw", sail.default_choices()).terms} == {"percent"}
