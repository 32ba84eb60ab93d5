"""Keep cold on the grid: millilitres, grams or millimetres beside air in degrees, to findings."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import NOON, initial
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.errors import Implausible, Refused
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.records.running import runs
from thermion.records.running.readings import ReadingInput, save_reading


class Ice:
    """A keep-cold challenge of two jars, its clock started at noon."""

    def __init__(self, crew, measure: str) -> None:
        self.database = crew.database
        with crew.database.writing() as session:
            school_class = get_class(session, crew.class_id)
            made = briefs.create_challenge(session, school_class, "keep_temp", "Save the bait")
            briefs.save_settings(made, {}, {"measure": measure})
            briefs.acknowledge_cautions(made)
            briefs.finish_brief(made)
            session.flush()
            brief = briefs.brief_of(made)
            ids = []
            for team, material in (("Avocet", "felt"), ("Dunlin", "newspaper")):
                version = builds.start_version(session, made, crew.teams[team])
                parts = tuple(Part(place=p, material=material, form="flat", units=1) for p in ("wall", "lid"))
                builds.save_draft(
                    version, 1, Draft(plan=Plan(parts, {"jacket_m": 0.03}), prediction=0.6, change_note="")
                )
                builds.hand_in(version, brief)
                builds.sign(version, brief)
                builds.issue(version)
                session.flush()
                ids.append(version.id)
            run = runs.create_run(session, made, version_ids=ids, conditions={}, now=NOON)
            runs.start_phase(session, run, brief, "standing", NOON)
            self.id, self.run_id, self.challenge = made.id, run.id, made
            self.rows = {e.version.build.team.name if e.version else "Air": e.id for e in run.entries}

    def read(self, row: str, minute: float, typed: str):
        at = NOON + timedelta(minutes=minute, seconds=8)
        item = ReadingInput(
            entry_id=self.rows[row],
            phase="standing",
            mark_s=minute * 60,
            given=typed,
            client_id=f"{row}{minute}{typed}",
            entered_at=at,
        )
        with self.database.writing() as session:
            return save_reading(session, self.run_id, item, at)

    def findings(self):
        with self.database.session() as session:
            challenge = briefs.get_challenge(session, self.id)
            return load_evidence(session, challenge, briefs.brief_of(challenge), school="raw").findings


@pytest.mark.parametrize(
    ("measure", "avocet", "dunlin"), [("volume", "12", "30"), ("mass", "12", "30"), ("left", "88", "70")]
)
def test_ice_is_ranked_by_what_is_left_however_it_is_read(crew, measure, avocet, dunlin):
    ice = Ice(crew, measure)
    for minute, air in ((0, "21.5"), (40, "22.5")):
        ice.read("Air", minute, air)
    first = "100" if measure == "left" else "0"
    for row, last in (("Avocet", avocet), ("Dunlin", dunlin)):
        ice.read(row, 0, first)
        ice.read(row, 40, last)
    found = ice.findings()
    melted = {initial(v.subject): v.figures["melted"].value for v in found.versions}
    assert melted == {"A": pytest.approx(0.012), "D": pytest.approx(0.030)}
    assert [initial(p.key) for p in found.places] == ["A", "D"]  # more melted is worse
    gain = 0.030 * 333550 / (2400 + 8)
    by_team = {initial(v.subject): v.figures for v in found.versions}
    assert by_team["D"]["gain"].value == pytest.approx(gain)
    assert by_team["D"]["ua"].value == pytest.approx(gain / 22.0)


def test_what_no_jug_can_hold_is_refused_and_the_air_stays_in_degrees(crew):
    ice = Ice(crew, "volume")
    with pytest.raises(Implausible, match="at most 2000 mL") as slip:
        ice.read("Avocet", 0, "5000")
    assert slip.value.suggestion == "500"  # a digit too many; never "5"
    with pytest.raises(Refused, match="is in mL"):
        ice.read("Avocet", 0, "12 g")
    assert ice.read("Avocet", 0, "12 mL").reading.value == pytest.approx(12e-6)
    assert ice.read("Air", 0, "21.5").reading.value == 21.5
    with pytest.raises(Implausible):
        ice.read("Air", 10, "150")


def test_ice_cannot_be_rehearsed_with_thermometers(crew):
    ice = Ice(crew, "volume")
    with ice.database.writing() as session:
        challenge = briefs.get_challenge(session, ice.id)
        versions = [b.versions[0].id for b in builds.builds_of(session, ice.id)]
        with pytest.raises(Refused, match="temperatures only"):
            runs.create_run(
                session, challenge, version_ids=versions, conditions={}, rehearsal=True, speed=60.0
            )


def test_a_warm_drink_is_a_curve(crew):
    ice = Ice(crew, "temp")
    for minute, value in ((0, "60"), (10, "52"), (20, "45.5"), (30, "40.5"), (40, "36.5")):
        ice.read("Avocet", minute, value)
        ice.read("Dunlin", minute, str(float(value) - minute / 8))
        ice.read("Air", minute, "20")
    found = {initial(v.subject): v.figures for v in ice.findings().versions}
    assert found["A"]["tau"].value == pytest.approx(45, rel=0.1)
    assert found["A"]["lost"].value < found["D"]["lost"].value
    assert [initial(p.key) for p in ice.findings().places] == ["A", "D"]
