"""The evening before, in a real browser: made to fit, tried out, handed out, printed."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from io import BytesIO

import pytest
from playwright.sync_api import expect
from pypdf import PdfReader

from tests.browser.conftest import check_access
from tests.conftest import Crew
from thermion.records.building import builds, store
from thermion.records.planning import week

pytestmark = pytest.mark.browser
MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


def add_lessons(crew: Crew, count: int, minutes: float = 60) -> None:
    with crew.database.writing() as session:
        for i in range(count):
            week.save_lesson(session, crew.class_id, MONDAY + timedelta(days=i), minutes * 60, 300)


def test_a_plan_that_does_not_fit_is_made_to_fit(page, crew):
    add_lessons(crew, 4, 70)
    page.goto("/challenges/1/brief/lessons")
    expect(page.get_by_role("status").first).to_contain_text("It does not fit: Show")
    check_access(page)
    page.get_by_role("button", name="One more lesson").click()
    expect(page.get_by_role("status").first).to_contain_text("Everything fits.")
    # by keys: Build waits for the second lesson, is shortened, and Ideas is left out
    page.wait_for_load_state("load")
    create = page.locator('[data-phase="build"]').first
    create.focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator('[data-phase="build"]').first).to_have_attribute("data-lesson", "1")
    expect(page.locator('[data-phase="build"]').first).to_be_focused()
    page.keyboard.press("-")
    expect(page.locator('[data-phase="build"]').first).to_have_attribute("data-minutes", "25.0")
    page.locator('[data-phase="ideas"]').focus()
    page.keyboard.press("Delete")
    expect(page.locator('[data-phase="ideas"]')).to_have_count(0)
    page.get_by_role("button", name="Ideas +").click()
    expect(page.locator('[data-phase="ideas"]')).to_have_count(1)
    page.reload()
    expect(page.locator('[data-phase="build"]').first).to_have_attribute("data-minutes", "25.0")


def test_a_step_is_dragged_to_another_lesson_and_stretched_at_its_edge(page, crew):
    add_lessons(crew, 5)
    page.goto("/challenges/1/brief/lessons")
    bar = page.locator('[data-phase="plan"]').bounding_box()
    page.mouse.move(bar["x"] + 20, bar["y"] + 12)
    page.mouse.down()
    page.mouse.move(bar["x"] + 24, bar["y"] + 40, steps=4)
    page.mouse.move(bar["x"] + 24, bar["y"] + 60, steps=4)
    page.mouse.up()
    expect(page.locator('[data-phase="plan"]')).to_have_attribute("data-lesson", "1")
    grip = page.locator('[data-phase="task"] .l-grip').bounding_box()
    page.mouse.move(grip["x"] + 3, grip["y"] + 10)
    page.mouse.down()
    page.mouse.move(grip["x"] + 200, grip["y"] + 10, steps=5)
    page.mouse.up()
    ask = page.locator('[data-phase="task"]').first
    expect(ask).not_to_have_attribute("data-minutes", "10.0")
    assert 15 <= float(ask.get_attribute("data-minutes")) <= 40


def test_a_draft_goes_through_check_and_store_to_issued(page, crew):
    version = crew.plan("Avocet", until="draft")
    page.goto(f"/versions/{version}")
    page.get_by_role("button", name="Hand in for the check").click()
    page.goto("/classes/1/store")
    expect(page.get_by_label("Waiting for you")).to_contain_text("Avocet")
    check_access(page)
    page.get_by_label("Newspaper").fill("3")
    page.get_by_role("button", name="Keep the counts").click()
    page.get_by_role("link", name="Check").click()
    page.get_by_role("button", name="Sign off").click()
    page.goto("/classes/1/store")
    page.get_by_role("button", name="Hand out").first.click()
    expect(page.get_by_role("alert")).to_contain_text("newspaper (4 needed, 3 there)")
    page.get_by_label("Counted: Newspaper").fill("30")
    page.get_by_role("button", name="Keep the counts").click()
    page.get_by_role("button", name="Hand out all").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Test the builds")
    page.goto("/classes/1/store")
    expect(page.get_by_text("No plan waits")).to_be_visible()
    expect(page.get_by_text("Used so far: Keeper's supper")).to_be_visible()
    with crew.database.session() as session:
        assert builds.get_version(session, version).state == "issued"
        assert store.stock(session, crew.class_id) == {"newspaper": 26}


def test_the_brief_is_tried_out_by_itself_with_progress_and_kept(page, crew):
    page.goto("/challenges/1/brief/try")
    expect(page.get_by_text("of the designs meet the criterion")).to_be_visible()
    check_access(page)
    page.reload()
    expect(page.get_by_text("of the designs meet the criterion")).to_be_visible()


def test_kit_is_ticked_off_and_a_pack_that_cannot_be_says_so(page, crew):
    page.goto("/challenges/1/brief/kit")
    check_access(page)
    with page.expect_response("**/kit"):
        page.get_by_label("Thermometer is there").check()
    page.reload()
    expect(page.get_by_label("Thermometer is there")).to_be_checked()
    field = page.get_by_label("Newspaper: in a pack")
    field.fill("none")
    field.press("Tab")
    expect(page.get_by_role("alert")).to_contain_text("is not a number")
    expect(field).to_have_value("none")


PRINTED = {
    "/challenges/1/sheets/brief": "Points for one",
    "/challenges/1/sheets/plan": "Cut open, from the side",
    "/challenges/1/sheets/data": "Godwit",
    "/challenges/1/sheets/reflection": "Reflection",
    "/challenges/1/sheets/teams": "Avocet",
    "/challenges/1/sheets/safety": "Read with the class on",
    "/classes/1/week": "Plan of the week",
}


def test_each_sheet_prints_on_one_page(page, crew):
    add_lessons(crew, 3)
    for address, holds in PRINTED.items():
        page.goto(address)
        check_access(page)
        (printed,) = PdfReader(BytesIO(page.pdf(prefer_css_page_size=True))).pages
        text = printed.extract_text()
        assert holds in text, address
        assert "Print" not in text.split("\n")[0]  # what is only for the screen stays there
        assert (printed.mediabox.width > printed.mediabox.height) == address.endswith("data")


def test_checks_sun_and_safety_can_be_used_by_everyone(page, crew):
    page.goto("/challenges/1/rig-check")
    check_access(page)
    page.get_by_role("button", name="Done").first.click()
    expect(page.get_by_text("1 of 3 done")).to_be_visible()
    page.goto("/challenges/1/brief/sun")
    page.get_by_label("Latitude").fill("-37.2")
    page.get_by_label("Longitude").fill("-12.4")
    page.get_by_role("button", name="Keep the place").click()
    expect(page.get_by_text("Best of the day")).to_be_visible()
    check_access(page)
    page.goto("/challenges/1/brief/safety")
    page.get_by_label("Craft knife").check()
    page.get_by_role("button", name="Show their cautions").click()
    expect(page.get_by_text("cutting mat")).to_be_visible()
    expect(page.get_by_text("Not yet read with the class")).to_be_visible()
    check_access(page)
    page.keyboard.press("g")  # going on says nothing of what was read
    page.wait_for_load_state()
    page.goto("/challenges/1/brief/safety")
    expect(page.get_by_text("Not yet read with the class")).to_be_visible()
    page.keyboard.press("r")
    page.wait_for_url("**/builds")
    page.goto("/challenges/1/brief/safety")
    expect(page.get_by_text("Read with the class on")).to_be_visible()
