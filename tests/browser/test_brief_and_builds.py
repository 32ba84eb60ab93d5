"""From an empty start to issued materials, by keyboard alone."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import check_access, press, tab_to, type_into
from tests.conftest import Crew

pytestmark = pytest.mark.browser


def test_a_class_and_a_brief_by_keyboard(page):
    page.goto("/")
    check_access(page)
    press(page, "Make a class")
    page.wait_for_url("**/classes/new")
    check_access(page)
    for i, team in enumerate(("Avocet", "Dunlin", "Godwit"), start=1):
        type_into(page, f"Name of team {i}", team)
    tab_to(page, "Name of the class")
    page.keyboard.type("Relief crew")
    press(page, "Make the class")
    page.wait_for_url("**/challenges/new")
    check_access(page)
    type_into(page, "Title", "Keeper's <b>supper</b> & 'more'")
    page.keyboard.press("Enter")  # chooses nothing by itself
    expect(page.get_by_label("Title")).to_be_focused()
    page.get_by_role("button", name="Solar oven").press("Enter")
    page.wait_for_url("**/brief/task")
    expect(page.locator(".crumb b")).to_have_text("Keeper's <b>supper</b> & 'more'")
    tab_to(page, "Sun")
    page.keyboard.press("ArrowRight")  # lamp
    page.locator(".sections .key-go").focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**/brief/rig")
    assert page.get_by_label("Lamp above the window", exact=True).count() == 1
    assert page.get_by_label("Sun above the horizon", exact=True).count() == 0
    type_into(page, "Water in the mug", "heavy")
    page.keyboard.press("Enter")
    expect(page.locator(".wrong")).to_have_text(
        "“heavy” is not a number. Digits, one decimal sign, then the unit."
    )
    check_access(page)
    expect(page.get_by_label("Water in the mug", exact=True)).to_be_focused()
    page.keyboard.press("Control+A")
    page.keyboard.type("120")
    page.keyboard.press("Enter")
    page.wait_for_url("**/brief/marks")
    expect(page.get_by_text("7 readings of each build")).to_be_visible()
    press(page, "10 min")
    expect(page.locator("#heating")).to_have_value("0, 10, 20, 30")
    check_access(page)
    page.locator(".sections .key-go").press("Enter")
    page.wait_for_url("**/brief/materials")
    check_access(page)
    type_into(page, "Limit of newspaper", "3")
    page.keyboard.press("Enter")
    page.wait_for_url("**/brief/score")
    check_access(page)
    tab_to(page, "raw")  # what this age usually scores by is chosen
    page.locator(".sections .key-go").press("Enter")
    for part in ("try", "lessons", "kit"):
        page.wait_for_url(f"**/brief/{part}")
        page.get_by_role("link", name="Go on").press("Enter")
    page.wait_for_url("**/brief/safety")
    expect(page.get_by_text("The lamp is hot")).to_be_visible()
    check_access(page)
    press(page, "I have read this with my class")
    page.wait_for_url("**/builds")
    expect(page.locator(".stop").first).to_contain_text("set")
    expect(page.get_by_text("No plan yet")).to_have_count(6)  # three are left as they were filled in


def test_a_ruler_takes_a_mark_where_it_is_pointed_at(page, crew: Crew):
    page.goto("/challenges/1/brief/marks")
    box = page.locator("svg.minutes").first.bounding_box()
    page.mouse.click(box["x"] + box["width"] * (20 + 7 * 16) / 1000, box["y"] + 20)
    expect(page.locator("#heating")).to_have_value("0, 5, 7, 10, 15, 20, 25, 30")
    expect(page.get_by_text("8 readings of each build")).to_be_visible()


def test_from_draft_over_its_limit_to_issued_and_the_next_version(page, crew: Crew):
    page.goto("/challenges/1/builds")
    check_access(page)
    press(page, "Start a plan")
    page.wait_for_url("**/versions/*")
    check_access(page)
    shapes = page.locator(".drawing:visible polygon")
    before = shapes.count()
    press(page, "Walls")
    press(page, "Newspaper\n0/8")
    expect(page.locator("main [role=status]")).to_have_text("kept")
    assert shapes.count() > before  # the drawing follows the data
    for _ in range(8):
        press(page, "One Newspaper more")
    wrong = page.locator("p.wrong", has_text="Newspaper: 9 used, the limit is 8.")
    expect(wrong).to_be_visible()
    page.reload()
    press(page, "Walls")
    expect(wrong).to_be_visible()  # what was typed is kept, over the limit or not
    press(page, "Hand in for the check")
    expect(page.locator(".notice[role=alert]").first).to_contain_text("the limit is 8")
    press(page, "Walls")
    press(page, "One Newspaper less")
    expect(wrong).to_have_count(0)
    type_into(page, "Prediction: hottest", "60")
    press(page, "Hand in for the check")
    expect(page.locator(".chip").first).to_have_text("waits for check")
    check_access(page)
    press(page, "Sign off")
    page.wait_for_url("**/store")
    press(page, "Hand out")
    expect(page.get_by_text("No plan waits")).to_be_visible()
    page.goto("/challenges/1/builds")
    expect(page.locator(".chip").first).to_have_text("issued")
    press(page, "Version 2")
    page.wait_for_url("**/versions/*")
    press(page, "Floor")
    press(page, "Wool felt\n0/3")
    expect(page.get_by_text("Floor: no wool felt → 1 flat wool felt")).to_be_visible()
    expect(page.locator(".drawing:visible .d-changed").first).to_be_attached()  # marked on the drawing
    expect(page.get_by_text("What changes against the version before")).to_be_visible()


def test_a_place_is_chosen_by_pointing_at_the_drawing(page, crew: Crew):
    version = crew.plan("Avocet", until="draft")
    page.goto(f"/versions/{version}")
    page.locator(".drawing:visible [data-place=floor]").first.click()
    expect(page.locator("button[data-place=floor]")).to_have_attribute("aria-pressed", "true")
    page.locator("input[data-factor=reflector_deg]").focus()
    before = page.locator(".drawing:visible").inner_html()
    page.keyboard.press("ArrowRight")
    expect(page.locator("main [role=status]")).to_have_text("kept")
    assert page.locator(".drawing:visible").inner_html() != before
    expect(page.locator("[data-out=reflector_deg]")).to_contain_text("115")


def test_a_plan_deleted_in_another_tab_keeps_the_screen(page, crew: Crew):
    version = crew.plan("Avocet", until="draft")
    page.goto(f"/versions/{version}")
    other = page.context.new_page()
    other.goto(f"/versions/{version}")
    other.get_by_role("button", name="Delete draft").click()
    other.get_by_role("button", name="Delete this draft?").click()
    other.wait_for_url("**/builds")
    page.get_by_label("Prediction: hottest").fill("71")
    expect(page.locator(".notice[role=alert]")).to_contain_text("still on this screen")
    expect(page.get_by_label("Prediction: hottest")).to_have_value("71")


def test_a_team_is_added_moved_and_keeps_its_look(page, crew: Crew):
    page.goto("/classes/1")
    page.get_by_role("button", name="Add a team").click()
    page.get_by_label("Name of team 4", exact=True).fill("Knot")
    rows = page.locator("[data-team]")
    expect(rows).to_have_count(4)
    rows.last.get_by_role("button").click()
    expect(rows.nth(2).locator("input[name=team_name]")).to_have_value("Knot")
    rows.nth(2).locator("select[name=team_shape]").select_option("star")
    page.get_by_role("button", name="Keep the changes").click()
    page.wait_for_url("**/")
    page.goto("/challenges/1/builds")
    expect(page.locator("li h2")).to_have_text(["Avocet", "Dunlin", "Knot", "Godwit"])
    expect(page.locator("li .badge b")).to_have_text(["A", "D", "K", "G"])


def test_an_own_rule_is_built_and_kept(page, crew: Crew):
    page.goto("/challenges/1/brief/score")
    page.get_by_label("Our own rule").check()
    page.get_by_role("button", name="Add a term").click()
    page.locator("select[name=term_metric]").last.select_option("units")
    page.locator("input[name=term_weight]").last.fill("-0.5x")
    page.locator(".sections .key-go").click()
    expect(page.locator(".wrong")).to_contain_text("“-0.5x”")
    expect(page.locator("input[name=term_weight]").last).to_have_value("-0.5x")
    page.locator("input[name=term_weight]").last.fill("-0.5")
    page.locator(".sections .key-go").click()
    page.wait_for_url("**/brief/try")
    page.goto("/challenges/1/brief/score")
    expect(page.get_by_label("Our own rule")).to_be_checked()
    expect(page.locator("input[name=term_weight]").last).to_have_value("-0.5")


def test_a_lost_connection_while_planning_loses_nothing(page, server, crew: Crew):
    version = crew.plan("Avocet", until="draft")
    page.goto(f"/versions/{version}")
    server.kill()
    page.get_by_role("button", name="Floor", exact=True).click()
    page.get_by_role("button", name="Wool felt").click()
    expect(page.locator("main [role=status]")).to_have_text("no connection; trying again")
    server.start()
    expect(page.locator("main [role=status]")).to_have_text("kept")
    page.reload()
    page.get_by_role("button", name="Floor", exact=True).click()
    expect(page.get_by_label("Units of Wool felt")).to_have_value("1")


def test_words_in_a_count_are_said_beside_it_and_the_number_before_stays(page, crew: Crew):
    version = crew.plan("Avocet", until="draft")
    page.goto(f"/versions/{version}")
    page.get_by_role("button", name="Walls").click()
    units = page.get_by_label("Units of Newspaper")
    units.fill("lots")
    units.press("Tab")
    expect(page.locator("p.wrong:visible")).to_have_text("“lots” is no number of units; 4 stays.")
    expect(units).to_have_value("lots")
    expect(page.locator("output").first).to_have_text("10")
    units.fill("2,5")
    units.press("Tab")
    expect(page.locator("output").first).to_have_text("8.5")
    expect(page.locator("p.wrong:visible")).to_have_count(0)
    page.get_by_label("reused").first.fill("9")
    page.get_by_label("reused").first.press("Tab")
    expect(page.locator("p.wrong:visible")).to_have_text("9 reused of only 2.5.")


PASTED = """(text) => {
  const data = new DataTransfer();
  data.setData("text", text);
  const event = new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true });
  document.activeElement.dispatchEvent(event);
}"""


def test_a_pasted_list_of_teams_makes_a_class(page):
    page.goto("/classes/new")
    page.get_by_label("Name of team 1").focus()
    page.evaluate(PASTED, "Petrel\r\nPuffin\r\nPlover\r\nGannet\r\nTern\r\nShag\r\nKnot\r\n\r\n")
    expect(page.get_by_label("Name of team 7")).to_have_value("Knot")
    page.get_by_label("Name of the class").fill("Watch crew")
    page.get_by_role("button", name="Make the class").click()
    page.goto("/")
    letters = page.get_by_role("region", name="Watch crew").locator(".badge b").all_inner_texts()
    assert letters == ["P", "U", "L", "G", "T", "S", "K"]
