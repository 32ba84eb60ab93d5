"""A class as it is: a team absent, a build that falls over, a slip, a lamp that burns out, the bell, and findings."""

from __future__ import annotations

from datetime import timedelta

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_lesson import lesson_now
from thermion.records import moments
from thermion.records.planning import week
from thermion.records.running import runs
from thermion.records.tables import RunPhase

pytestmark = pytest.mark.browser


def later(crew, minutes: float) -> None:
    """So many minutes of the test have passed."""
    with crew.database.writing() as session:
        for phase in session.query(RunPhase):
            phase.started_at = moments.now() - timedelta(minutes=minutes, seconds=5)


def column(page: Page, values: list[str]) -> None:
    """What is read at the mark that is due, from the first row down; an empty one is passed over."""
    page.locator("input.cell-input").wait_for()
    for value in values:
        if value:
            page.keyboard.type(value)
        page.keyboard.press("Enter" if value else "ArrowDown")


def set_apart(page: Page, which: str, why: str, after: str = "") -> None:
    page.goto("/runs/1/apart")
    page.locator("select[name=which]").select_option(label=which)
    page.get_by_label("Only after minute").fill(after)
    page.get_by_label("Why").fill(why)
    page.get_by_role("button", name="Set it apart").click()
    expect(page.get_by_label("Set apart", exact=True)).to_contain_text(why)


def test_a_mess_of_a_class_ends_with_findings_that_say_what_they_can(page, crew):
    lesson_now(crew, 60)
    for team in crew.teams:
        crew.plan(team)
    page.goto("/challenges/1/runs")
    page.get_by_label("Version of Godwit").select_option(label="not in this run")  # two are ill
    page.get_by_role("button", name="Start a test").click()
    page.get_by_role("button", name="Start heating").first.click()
    column(page, ["19", "20", "20.5"])  # the air first, then as they stand
    for minutes, values in ((5, ["19", "215", "24"]), (10, ["19", "27", "29"]), (15, ["19", "31", "33"])):
        later(crew, minutes)
        page.reload()
        column(page, values)
        if "215" in values:  # asked beside the cell, and the round goes on
            bubble = page.locator(".bubble")
            expect(bubble).to_contain_text("21.5")
            page.keyboard.press("c")
            expect(bubble).to_have_count(0)
    expect(page.get_by_text("21.5").first).to_be_visible()
    set_apart(page, "Dunlin", "fell over", after="10")
    set_apart(page, "the whole run", "the lamp burnt out", after="15")
    # the bell rings before the test is over: it goes on in the next lesson
    with crew.database.writing() as session:
        (lesson,) = week.lessons_of(session, crew.class_id)
        week.save_lesson(session, crew.class_id, lesson.starts_at, 90, 60, lesson.id)
    page.goto("/challenges/1/runs")
    line = page.get_by_role("region", name="The lesson", exact=True)
    expect(line.get_by_text("The bell: Keeper's supper is still running.")).to_be_visible()
    line.get_by_role("button", name="Go on next lesson").click()
    expect(line.get_by_text("The bell:")).to_have_count(0)
    with crew.database.session() as session:
        assert runs.get_run(session, 1).closed_at is None
    page.goto("/challenges/1/findings")
    said = page.locator("main").inner_text()
    assert "fell over" in said
    assert "the lamp burnt out" in said
    row = page.locator("section[aria-label=Scores] tbody tr")
    expect(row).to_have_count(2)  # nobody says anything of a team that was not there
    expect(page.locator("main")).not_to_contain_text("Godwit")
    # what was set apart is taken back in, and counts again
    page.goto("/runs/1/apart")
    page.get_by_role("button", name="Take back in").first.click()
    expect(page.get_by_role("button", name="Take back in")).to_have_count(1)
