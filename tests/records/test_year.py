"""A year's data: remembered values are the true ones, pages ask few questions, loggers change nothing."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.conftest import NOON, Crew
from thermion.core.judging import fitting
from thermion.core.kinds import all_kinds
from thermion.core.kinds.trials import Trace
from thermion.records.database import Memory
from thermion.records.judging.evidence import run_figures
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.running.series import series_of
from thermion.records.tables import Entry, Reading, Run


def series(crew: Crew, run_id: int):
    with crew.database.session() as session:
        return series_of(session, [runs.get_run(session, run_id)])


def fresh(crew: Crew, run_id: int):
    """The same without anything remembered."""
    kept, crew.database.memory = crew.database.memory, Memory()
    crew.database.session.configure(info={"memory": crew.database.memory})
    found = series(crew, run_id)
    crew.database.memory = kept
    crew.database.session.configure(info={"memory": kept})
    return found


class TestRemembered:
    def test_every_change_of_a_row_is_seen_at_once(self, crew: Crew):
        run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
        rows = crew.entries(run)
        steps = (
            lambda: crew.read(rows["Avocet"], 0, "20"),
            lambda: crew.read(rows["Dunlin"], 0, "20.5"),
            lambda: crew.read(rows["Avocet"], 5, "31"),
            lambda: crew.read(rows["Avocet"], 5, "33", supersedes_id=self.newest(crew)),  # corrected
            lambda: crew.read(rows["Avocet"], 5, "", supersedes_id=self.newest(crew)),  # taken back
            lambda: crew.read(rows["Avocet"], 5, "32", supersedes_id=self.newest(crew)),
        )
        for step in steps:
            step()
            assert series(crew, run) == fresh(crew, run)
        assert series(crew, run)[rows["Avocet"], "heating"].trace.value == (20.0, 32.0)

    @staticmethod
    def newest(crew: Crew) -> int:
        with crew.database.session() as session:
            return session.scalars(select(Reading.id).order_by(Reading.id.desc())).first()

    def test_a_logger_beside_hand_readings_is_all_there(self, crew: Crew):
        run = crew.run(crew.plan("Avocet"))
        row = crew.entries(run)["Avocet"]
        crew.read(row, 0, "20")
        assert len(series(crew, run)[row, "heating"].trace.time_s) == 1
        crew.log(row, 650)
        found = series(crew, run)[row, "heating"]
        assert found == fresh(crew, run)[row, "heating"]
        assert (len(found.loose.time_s), found.marks) == (650, {0.0})
        assert found.loose.time_s[found.loose.nearest(301.2)] == 302.0

    def test_nothing_that_was_rolled_back_is_remembered(self, crew: Crew):
        run = crew.run(crew.plan("Avocet"))
        row = crew.entries(run)["Avocet"]
        with crew.database._writer() as session:
            crew.log(row, 3, session=session)
            assert len(series_of(session, [runs.get_run(session, run)])[row, "heating"].trace.time_s) == 3
            session.rollback()
        assert series(crew, run) == {}
        crew.read(row, 0, "20")
        assert series(crew, run)[row, "heating"].trace == Trace((5.0,), (20.0,))

    def test_a_run_made_anew_with_old_numbers_is_another_run(self, crew: Crew):
        """SQLite gives numbers of deleted rows out again."""
        plan = crew.plan("Avocet")
        for value in ("20", "30"):
            run = crew.run(plan, at=NOON + timedelta(seconds=float(value)))
            with crew.database.writing() as session:
                session.get_one(Run, run).rehearsal = True
            row = crew.entries(run)["Avocet"]
            crew.read(row, 0, value, moment=NOON + timedelta(minutes=1))
            assert series(crew, run)[row, "heating"].trace.value == (float(value),)
            with crew.database.writing() as session:
                runs.delete_run(session, runs.get_run(session, run))


@pytest.mark.parametrize("kind", all_kinds().values(), ids=lambda k: k.key)
def test_a_builds_figures_follow_from_its_own_trial_only(kind):
    """Why one new reading needs one build fitted anew, and no other."""
    choices = kind.brief.default_choices()
    plans = [kind.build.usual(), *[kind.build.usual()] * 2]
    trials = kind.rehearsal.simulate(plans, {}, 5, choices)
    together = kind.analysis.fit(trials)
    alone = [kind.analysis.fit([trial])[0] for trial in trials]
    for one, same in zip(together, alone, strict=True):
        assert one.figures.keys() == same.figures.keys()
        for key, figure in one.figures.items():
            other = same.figures[key]
            assert (figure.value or 0.0) == pytest.approx(other.value or 0.0, rel=1e-9, abs=1e-12)
            assert (figure.se or 0.0) == pytest.approx(other.se or 0.0, rel=1e-6, abs=1e-12)
            assert (figure.at_least, figure.reason) == (other.at_least, other.reason)
    assert [f.figures for f in fitting.fit_trials(kind, trials)] == [
        f.figures for f in fitting.fit_trials(kind, trials)
    ]


def test_one_new_reading_fits_one_build_anew(crew: Crew, monkeypatch):
    run = crew.run(*(crew.plan(t) for t in ("Avocet", "Dunlin", "Godwit")))
    for n, row in enumerate(crew.entries(run).values()):
        for minute in (0, 5, 10, 15):
            crew.read(row, minute, str(20 + minute + n), keep=True)
    with crew.database.session() as session:
        kind = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id)).kind
    fitted: list[int] = []
    real = kind.analysis.fit

    def counting(trials):
        fitted.append(len(trials))
        return real(trials)

    monkeypatch.setattr(fitting, "_kept", {})
    object.__setattr__(kind.analysis, "fit", counting)
    try:
        for changed in (3, 0, 1):
            if changed == 1:
                crew.read(crew.entries(run)["Dunlin"], 20, "44", keep=True)
            fitted.clear()
            with crew.database.session() as session:
                found = runs.get_run(session, run)
                brief = briefs.brief_of(briefs.get_challenge(session, crew.challenge_id))
                assert len(run_figures(session, found, brief)) == 3
            assert sum(fitted) == changed
    finally:
        object.__setattr__(kind.analysis, "fit", real)


def test_entries_are_found_whole_in_one_statement(crew: Crew):
    """Loaded together they are the same as loaded one by one."""
    run = crew.run(*(crew.plan(t) for t in ("Avocet", "Dunlin", "Godwit")), irradiance_w_m2=620.0)
    with crew.database.session() as session:
        together = runs.get_run(session, run)
        shown = (
            [(e.id, e.position, e.version and e.version.build.team.name) for e in together.entries],
            [(c.key, c.value) for c in together.conditions],
            [[(p.place, p.units) for p in e.version.parts] for e in together.entries if e.version],
        )
    with crew.database.session() as session:
        alone = session.get_one(Run, run)
        entries = session.scalars(select(Entry).where(Entry.run_id == run).order_by(Entry.position)).all()
        assert shown == (
            [(e.id, e.position, e.version and e.version.build.team.name) for e in entries],
            [(c.key, c.value) for c in alone.conditions],
            [[(p.place, p.units) for p in e.version.parts] for e in entries if e.version],
        )
