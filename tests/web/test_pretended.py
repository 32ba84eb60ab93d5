"""A class that is not there, in every family: what its pads do at a mark or when their turn comes."""

from __future__ import annotations

from collections import Counter
from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.records.test_families import Test
from thermion.core.kinds import all_kinds, get_kind
from thermion.probes.class_pretended import Pad, Refused
from thermion.records import moments
from thermion.records.running import runs
from thermion.records.tables import AttemptRow, Entry, Reading
from thermion.web.access import THROUGH_DOOR


class HeldPad(Pad):
    """A pad that asks a test client instead of the network, and whose sleep moves the record's clock on."""

    def __init__(self, app, code: str, seed: int, sleep):
        super().__init__("", code, seed, 1.0, print, sleep)
        self.client = app.test_client()
        self.client.environ_base[THROUGH_DOOR] = True

    def ask(self, path, body=None, method="", *, form=False):
        sent = {} if body is None else {"data" if form else "json": body}
        headers = {} if form else {"Accept": "application/json"}
        found = self.client.open(
            path, method=method or ("GET" if body is None else "POST"), headers=headers, **sent
        )
        if found.status_code >= 400:
            raise Refused(found.text[:300])
        return found.json if found.is_json else found.text


@pytest.mark.parametrize("key", sorted(all_kinds()))
def test_in_every_family_a_pretended_team_notes_what_its_turn_or_mark_brings(app, crew, key, monkeypatch):
    gone = [0.0]
    monkeypatch.setattr(moments, "OWN", moments.OwnClock(counter=lambda: gone[0]))

    def sleep(seconds: float) -> None:
        gone[0] += seconds

    test = Test(crew, key)
    shape = get_kind(key).test.shape
    desk = app.test_client()
    desk.post("/devices/door/open")
    with crew.database.writing() as session:
        run = runs.get_run(session, test.run_id)
        run.pads = "typed"
        for phase in run.phases:  # its first mark is due
            phase.started_at = moments.now() - timedelta(seconds=1)
    if shape == "races":
        test.race("control", "20", 15)
    team_codes = {c["team"]: c["code"] for c in desk.get("/devices/codes.json").json["codes"]}
    made = [HeldPad(app, team_codes[team], seed, sleep) for seed, team in enumerate(crew.teams, 3)]
    for pad in made:
        pad.join()
    for _ in range(12):
        for pad in made:
            pad.look()
    done = Counter[str]()
    for pad in made:
        done.update(pad.done)
    assert not done["refused"], done
    what = {"marks": "readings", "turns": "attempts", "races": "races"}[shape]
    assert done[what] >= len(crew.teams)
    with crew.database.session() as session:
        table = Reading if shape == "marks" else AttemptRow
        found = session.scalars(select(table.by).join(Entry).where(Entry.version_id.is_not(None))).all()
    assert set(found) == {"team A", "team D", "team G"}
