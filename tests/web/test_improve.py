"""Improving: a design that was dropped although it did better is pointed out, and changes are nudged to one."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.conftest import GOOD, NOON
from tests.web.conftest import flat
from thermion.core.plans import Plan
from thermion.records.running import runs


def held_run(crew, at, hottest: dict[int, str]) -> None:
    """A closed run of these versions, each with what it reached after half an hour."""
    run = crew.run(*hottest, at=at)
    with crew.database.session() as session:
        rows = {e.version_id: e.id for e in runs.get_run(session, run).entries if e.version_id}
    for version, typed in hottest.items():
        for minute, value in ((0, "20"), (30, typed)):
            moment = at + timedelta(minutes=minute, seconds=5)
            crew.read(
                rows[version], minute, value, moment=moment, client_id=f"{run}-{version}-{minute}", keep=True
            )
    with crew.database.writing() as session:
        runs.close_run(runs.get_run(session, run), at + timedelta(minutes=40))


@pytest.mark.parametrize(("second", "said"), [("40", True), ("60.5", False)])
def test_a_promising_version_that_was_dropped_is_pointed_out_only_when_it_did_better(
    client, crew, second, said
):
    first, other = crew.plan("Avocet"), crew.plan("Dunlin")
    for day, (mine, yours) in enumerate((("60", "50"), ("60.5", "50.5"))):
        held_run(crew, NOON + timedelta(days=day), {first: mine, other: yours})
    worse = crew.plan("Avocet", Plan(GOOD.parts[:-1], GOOD.factors), note="no seal")
    held_run(crew, NOON + timedelta(days=2), {worse: second, other: "50"})
    held_run(crew, NOON + timedelta(days=3), {worse: second, other: "50.5"})
    third = crew.plan("Avocet", until="draft")
    page = flat(client.get(f"/versions/{third}"))
    found = "Version 1 did better than version 2 (hottest 60.2 °C against 40.0 °C). What was good about it?"
    assert (found in page) == said, page[page.find("Version 1 ") :][:200]
    assert ("What was good about it?" in page) == said
