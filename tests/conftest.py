"""Shared by all tests: a fresh data folder, a small class with an oven challenge, its parts."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime, timedelta
from fcntl import LOCK_EX, flock
from io import BytesIO
from pathlib import Path

import pytest
from hypothesis import settings
from PIL import Image
from sqlalchemy import insert

from thermion.core.plans import Part, Plan
from thermion.core.subjects import Subject
from thermion.demo import build_demo
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.database import Database
from thermion.records.planning import briefs
from thermion.records.planning.classes import TeamInput, save_class
from thermion.records.running import runs
from thermion.records.running.readings import ReadingInput, save_reading
from thermion.records.tables import Entry, Reading

settings.register_profile("house", deadline=None, derandomize=True)  # a slow machine is no fault
settings.load_profile("house")

NOON = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)
GOOD = Plan(
    (
        Part(place="window", material="cling_film", form="flat", units=2),
        Part(place="absorber", material="black_paper", form="flat", units=2),
        Part(place="wall", material="newspaper", form="crumpled", units=4),
        Part(place="seal", material="tape", form="flat", units=2),
    ),
    {"height_m": 0.12, "gap_m": 0.04, "reflector_m": 0.3, "reflector_deg": 110.0},
)


def subject(letter: str, version: int = 1) -> Subject:
    """A version of the team with this letter, in the only challenge of the only class."""
    return Subject(1, 1, ord(letter), version)


def letter_of(found: Subject) -> str:
    return chr(found.team_id)


def initial(found: Subject) -> str:
    """The letter of a team of the `Crew` below, whose numbers are 1, 2, 3."""
    return "ADG"[found.team_id - 1]


def photograph(width: int = 320, height: int = 200, orientation: int = 6) -> bytes:
    """A photograph as a telephone makes it: lying on its side, with place and device inside."""
    picture = Image.effect_noise((width, height), 40).convert("RGB")
    exif = Image.Exif()
    exif[0x0112] = orientation
    exif[0x010F] = "Telephone"
    exif.get_ifd(0x8825)[2] = (37.0, 12.0, 0.0)  # latitude
    out = BytesIO()
    picture.save(out, "JPEG", exif=exif)
    return out.getvalue()


@pytest.fixture(scope="session", autouse=True)
def no_trace(tmp_path_factory):
    """Which folder was used last is remembered for the user, and not by the tests."""
    os.environ["XDG_STATE_HOME"] = str(tmp_path_factory.mktemp("state"))


@pytest.fixture(scope="session")
def migrated(tmp_path_factory) -> Path:
    """The file of a record with all its tables and nothing in them, made once: it takes a second."""
    made = Database(tmp_path_factory.mktemp("empty"))
    made.migrate()
    made.close()
    return made.path


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory, worker_id: str, migrated: Path) -> Path:
    """The demo week, made once for all processes: whoever changes something in it takes a copy."""
    own = tmp_path_factory.getbasetemp()
    folder = (own if worker_id == "master" else own.parent) / "demo-week"
    with folder.with_suffix(".lock").open("w") as lock:
        flock(lock, LOCK_EX)  # until it is closed
        if not folder.exists():
            made = folder.with_suffix(".part")
            made.mkdir()
            shutil.copy(migrated, made / migrated.name)
            database = Database(made)
            database.migrate()
            build_demo(database)
            database.close()
            made.rename(folder)
    return folder


@pytest.fixture(scope="session")
def demo_copy(tmp_path_factory, demo_folder: Path) -> Callable[[], Path]:
    """Makes folders with the demo week."""
    return lambda: shutil.copytree(demo_folder, tmp_path_factory.mktemp("copy") / "data")


@pytest.fixture
def fresh(tmp_path: Path, migrated: Path) -> Callable[[str], Path]:
    """Makes data folders by name, each of an installation of its own, with nothing in it."""

    def make(name: str) -> Path:
        made = tmp_path / name
        made.mkdir(mode=0o700)
        file = shutil.copy(migrated, made / migrated.name)
        with closing(sqlite3.connect(file)) as raw, raw:
            raw.execute("UPDATE house SET key = lower(hex(randomblob(8)))")
        return made

    return make


@pytest.fixture
def folder(fresh) -> Path:
    return fresh("data")


@pytest.fixture
def database(folder: Path):
    made = Database(folder)
    made.migrate()
    yield made
    made.close()


LONGEST = ("test_started_again", "test_kill", "test_network", "test_sending", "test_cli")


def pytest_collection_modifyitems(items):
    """Each process begins with its share of what takes long, deaths and browsers, so that none is left with it.

    Processes are given as many tests each, in this order, and take from each other when they are through.
    """
    count = int(os.environ.get("PYTEST_XDIST_WORKER_COUNT", "1"))
    if count < 2:
        return
    long = [item for item in items if item.path.stem.startswith(LONGEST)]
    seen = [item for item in items if item not in long and "browser" in item.path.parts]
    rest = [item for item in items if item not in long and item not in seen]

    def share(of, process: int):
        """A stretch of them, so that a file stays together."""
        return of[len(of) * process // count : len(of) * (process + 1) // count]

    items[:] = [
        item
        for process in range(count)
        for item in (*long[process::count], *share(seen, process), *share(rest, process))
    ]


def pytest_terminal_summary(terminalreporter):
    """What a reading costs in keys and taps, as the browser tests counted it."""
    said = [
        value
        for report in terminalreporter.getreports("passed")
        for name, value in report.user_properties
        if name == "effort"
    ]
    if said:
        terminalreporter.section("keys or taps for one reading")
        for line in sorted(set(said)):
            terminalreporter.line(line)


class Crew:
    """A class of three teams with one oven challenge, driven as a teacher would."""

    def __init__(self, database: Database, temp_unit: str = "degC", decimal: str = "point"):
        self.database = database
        with database.writing() as session:
            made = save_class(
                session,
                name="Relief crew",
                temp_unit=temp_unit,
                decimal=decimal,
                zone="UTC",
                teams=[TeamInput(name="Avocet"), TeamInput(name="Dunlin"), TeamInput(name="Godwit")],
            )
            challenge = briefs.create_challenge(session, made, "solar_oven", "Keeper's supper")
            briefs.use_school(challenge, "raw")
            briefs.acknowledge_cautions(challenge)
            briefs.finish_brief(challenge)
            self.class_id, self.challenge_id = made.id, challenge.id
            self.teams = {t.name: t.id for t in made.teams}

    def plan(self, team: str, plan: Plan = GOOD, *, note: str = "", until: str = "issued") -> int:
        """A team's next version taken as far as `until`; its id."""
        with self.database.writing() as session:
            challenge = briefs.get_challenge(session, self.challenge_id)
            brief = briefs.brief_of(challenge)
            version = builds.start_version(session, challenge, self.teams[team])
            builds.save_draft(version, version.revision, Draft(plan=plan, prediction=60.0, change_note=note))
            session.flush()
            if until in ("waiting", "signed", "issued"):
                builds.hand_in(version, brief)
            if until in ("signed", "issued"):
                builds.sign(version, brief)
            if until == "issued":
                builds.issue(version)
            return version.id

    def run(self, *version_ids: int, at: datetime = NOON, start: bool = True, **conditions) -> int:
        """A run of these versions, its heating started at `at`."""
        with self.database.writing() as session:
            challenge = briefs.get_challenge(session, self.challenge_id)
            made = runs.create_run(session, challenge, version_ids=version_ids, conditions=conditions, now=at)
            if start:
                runs.start_phase(session, made, briefs.brief_of(challenge), "heating", at)
            return made.id

    def entries(self, run_id: int) -> dict[str, int]:
        """Row ids by team name; "Air" for the air."""
        with self.database.session() as session:
            run = runs.get_run(session, run_id)
            return {(e.version.build.team.name if e.version else "Air"): e.id for e in run.entries}

    def read(self, entry: int, minute: float, typed: str, *, late_s: float = 5, **more):
        """Type a value at a minute of the heating, `late_s` seconds after the mark."""
        more_run = more.pop("run_id", 0)
        moment = more.pop("moment", NOON + timedelta(minutes=minute, seconds=late_s))
        item = ReadingInput(
            entry_id=entry,
            phase=more.pop("phase", "heating"),
            mark_s=minute * 60,
            given=typed,
            client_id=more.pop("client_id", f"{entry}-{minute}-{typed}-{len(more)}"),
            entered_at=moment,
            **more,
        )
        with self.database.writing() as session:
            run_id = more_run or session.get_one(Entry, entry).run_id
            return save_reading(session, run_id, item, moment)

    def log(self, entry: int, count: int, *, phase: str = "heating", session=None) -> None:
        """A logger's readings of a row, one every two seconds."""
        if session is None:
            with self.database.writing() as session:
                self.log(entry, count, phase=phase, session=session)
            return
        values = [round(20 + 30 * (1 - 2.718 ** (-i / 300)), 2) for i in range(count)]
        moments = {"entered_at": NOON, "arrived_at": NOON}
        row = {"entry_id": entry, "phase": phase, "source": "file", **moments}
        session.execute(
            insert(Reading),
            [
                {**row, "time_s": 2.0 * i, "value": v, "client_id": f"log{entry}-{i}"}
                for i, v in enumerate(values)
            ],
        )


@pytest.fixture
def crew(database: Database) -> Crew:
    return Crew(database)
