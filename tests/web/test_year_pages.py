"""Pages of a year's data: few questions, small pictures, polls for nothing, clocks that go on."""

from __future__ import annotations

import re
from datetime import timedelta

from sqlalchemy import event

from tests.conftest import NOON, Crew
from thermion.records import moments
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs
from thermion.records.tables import Challenge, Reading, Run


class TestPages:
    """Counted as a visitor causes them, with nothing remembered."""

    @staticmethod
    def asked(app, address: str) -> int:
        seen: list[str] = []

        def note(_c, _k, statement, *_):
            if statement != "BEGIN":
                seen.append(statement)

        app.extensions["thermion"]._remembered.clear()
        event.listen(app.extensions["thermion"].engine, "before_cursor_execute", note)
        assert app.test_client().get(address).status_code == 200, address
        event.remove(app.extensions["thermion"].engine, "before_cursor_execute", note)
        return len(seen)

    PAGES = (
        "/",
        *(
            f"/challenges/1/{p}"
            for p in ("builds", "runs", "findings", "record", "brief/rig", "brief/lessons")
        ),
        *("/challenges/1/brief/kit", "/classes/1/store", "/classes/1/kit", "/classes/1/week"),
        *("/versions/1", "/runs/1", "/board/runs/1", "/runs/1/state.json"),
    )

    def test_no_page_asks_more_than_fifteen_questions_nor_more_for_more_versions(
        self, crew: Crew, app, client
    ):
        first = [crew.plan(t) for t in ("Avocet", "Dunlin")]
        run = crew.run(*first)
        for row in crew.entries(run).values():
            crew.read(row, 0, "20")
            crew.read(row, 5, "30", keep=True)
        few = {address: self.asked(app, address) for address in self.PAGES}
        crew.plan("Godwit")
        crew.run(*(crew.plan(t, note="another wall") for t in ("Avocet", "Dunlin")))
        many = {address: self.asked(app, address) for address in self.PAGES}
        assert max(many.values()) <= 15, many
        assert {
            a: n for a, n in many.items() if n > few[a] + 1
        } == {}  # one more where there is a first of a kind

    def test_a_run_with_loggers_shows_every_peak_in_a_page_that_stays_small(self, crew: Crew, client):
        run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
        plain = len(client.get(f"/runs/{run}").data)
        for row in crew.entries(run).values():
            crew.log(row, 1800)
        with crew.database.writing() as session:
            spike = crew.entries(run)["Dunlin"]
            session.add(
                Reading(
                    entry_id=spike,
                    phase="heating",
                    time_s=1001.0,
                    value=88.0,
                    source="file",
                    client_id="spike",
                    entered_at=NOON,
                    arrived_at=NOON,
                )
            )
        page = client.get(f"/runs/{run}").get_data(as_text=True)
        assert len(page) < plain + 30_000
        tallest = re.findall(r'<text class="c-tick" text-anchor="end"[^>]*>(\d+)<', page)
        assert max(map(int, tallest)) >= 90  # the axis makes room for the spike, so it is drawn
        with crew.database.session() as session:
            challenge = session.get_one(Challenge, crew.challenge_id)
            brief = briefs.brief_of(challenge)
            evidence = load_evidence(session, challenge, brief, school="raw")
        peak = next(v for v in evidence.findings.versions if v.figures["peak"].value == 88.0)
        assert peak.subject.team_id == crew.teams["Dunlin"]  # all of it is kept and counted

    def test_a_poll_is_answered_with_nothing_until_something_is_stored(self, crew: Crew, client):
        run = crew.run(crew.plan("Avocet"))
        address = f"/runs/{run}/state.json"
        first = client.get(address)
        again = client.get(address, headers={"If-None-Match": first.headers["ETag"]})
        assert (again.status_code, again.data) == (304, b"")
        assert again.headers["X-Now"] > first.headers["X-Now"]
        crew.read(crew.entries(run)["Avocet"], 0, "20")
        changed = client.get(address, headers={"If-None-Match": first.headers["ETag"]})
        assert changed.status_code == 200
        assert [c["text"] for c in changed.json["cells"]] == ["20.0"]

    def test_a_remembered_page_still_tells_the_time(self, crew: Crew, app, client, monkeypatch):
        """What a clock changes is no part of what is remembered."""
        run = crew.run(crew.plan("Avocet"))
        crew.read(crew.entries(run)["Avocet"], 0, "20")
        with crew.database.writing() as session:
            item = session.get_one(Run, run)
            started = item.phases[0].started_at = moments.now() - timedelta(minutes=3, seconds=58)
        assert "minute 3" in client.get("/challenges/1/findings").get_data(as_text=True)
        at_nine = started + timedelta(minutes=9)

        monkeypatch.setattr(moments, "now", lambda: at_nine)
        assert "minute 9" in client.get("/challenges/1/findings").get_data(as_text=True)
