"""The server dies under open pages, and is started again: nobody reloads anything, nothing is lost."""

from __future__ import annotations

from datetime import timedelta

import pytest
from playwright.sync_api import expect
from sqlalchemy import select

from tests.browser.conftest import PATIENT_MS
from tests.browser.test_outbox import soon
from tests.conftest import Crew
from tests.serving import Supervised
from thermion.records import moments
from thermion.records.database import Database
from thermion.records.planning import week
from thermion.records.tables import Reading

pytestmark = pytest.mark.browser


def test_open_pages_notice_nothing_but_a_moment_without_connection(browser, folder):
    crew = Crew(Database(folder))
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), at=moments.now() - timedelta(seconds=5))
    with crew.database.writing() as session:
        week.save_lesson(session, crew.class_id, moments.now() - timedelta(minutes=1), 50 * 60, 300)
    server = Supervised(folder)
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
    desk, tablet, board, lesson = pages = [context.new_page() for _ in range(4)]
    addresses = (f"/runs/{run}", f"/runs/{run}", f"/board/runs/{run}", "/classes/1/lesson")
    for page, address in zip(pages, addresses, strict=True):
        page.set_default_timeout(PATIENT_MS)
        page.goto(address)
        page.evaluate("window.sameAsBefore = true")
    for number, typed in enumerate(("21.5", "22", "23.5"), start=1):
        server.kill()
        desk.locator("input.cell-input").wait_for()
        desk.keyboard.type(typed)
        desk.keyboard.press("Enter")
        soon(lambda number=number: stored(crew), number)
        expect(desk.locator(".tray")).to_be_hidden()
    expect(tablet.get_by_text("23.5").first).to_be_visible()  # what the desk typed
    expect(board.get_by_text("Minute 0 is read")).to_be_visible()
    lesson.keyboard.press("l")
    expect(lesson.get_by_role("region", name="The lesson", exact=True)).to_contain_text(
        "The task and its rules"
    )
    for page in pages:
        assert page.evaluate("window.sameAsBefore")
    context.close()
    assert server.stop() == 0
    assert sum("is started again" in line for line in server.lines()) == 3


def stored(crew: Crew) -> int:
    with crew.database.session() as session:
        return len(session.scalars(select(Reading.id)).all())
