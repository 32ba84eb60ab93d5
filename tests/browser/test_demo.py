"""Five minutes with the demo, as the README tells them."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Server, check_access
from tests.pages import PAGES

pytestmark = pytest.mark.browser


@pytest.fixture
def server(demo_copy, port):
    made = Server(demo_copy(), port)
    yield made
    made.kill()


def test_every_stage_of_the_week_is_there_with_its_next_step(page):
    page.goto("/")
    check_access(page)
    expect(page.get_by_role("heading", name="Signal crew")).to_be_visible()
    relief = page.get_by_role("region", name="Relief crew")
    steps = relief.locator("a.key.text-left")
    expect(steps).to_have_text(
        [
            "Look at what came out",
            "Read the next mark",
            "4 plans wait for your check",
            "Finish the brief",
            "Look at what came out",
            "Look at what came out",
            "2 plans wait for your check",
            "Start the clock",
            "Read the next mark",
            "Take the next turn",
        ]
    )
    steps.nth(1).click()
    page.get_by_role("link", name="Run 1").click()
    expect(page.locator(".clock")).to_have_text(re.compile(r"^\d\d:\d\d"))  # it goes on since 12 min
    expect(page.locator("main [role=status]").first).to_have_text("Read minute 10: 1 to go")
    expect(page.locator("td.is-missed")).to_have_count(1)  # Whimbrel at minute 5
    expect(page.locator("sup", has_text="✎")).to_have_count(1)  # Knot's corrected slip
    page.locator("input.cell-input").wait_for()
    page.keyboard.type("98")
    page.keyboard.press("Enter")
    expect(page.locator(".bubble")).to_contain_text("Was that 98 °F?")
    page.keyboard.press("c")
    expect(page.locator("main [role=status]").first).to_have_text("Minute 10 is read")


def test_plans_wait_for_the_check_and_one_is_over_its_limit(page):
    page.goto("/challenges/3/builds")
    check_access(page)
    expect(page.get_by_role("link", name="Check", exact=True)).to_have_count(4)
    expect(page.get_by_text("over limit")).to_have_count(1)
    page.get_by_role("link", name="Check", exact=True).first.click()
    page.get_by_label("Question to the team").fill("Where is the air going?")
    page.get_by_role("button", name="Send back").click()
    expect(page.locator(".stop[aria-current=page]")).to_contain_text("1 of 8 have materials")
    expect(page.locator("header")).to_contain_text("3 plans wait for your check")


def test_findings_say_how_sure_they_are_and_another_school_turns_the_order(page):
    page.goto("/challenges/1/findings")
    check_access(page)
    scores = page.locator("section[aria-label=Scores]")
    expect(page.locator("main p").first).to_contain_text("would very likely come first again")
    places = scores.locator("tbody tr td:nth-child(5)").all_inner_texts()
    assert places[0] == "1st"
    assert any(" to " in text for text in places)  # builds that cannot be told apart
    expect(page.get_by_label("How sure is the first place?")).to_contain_text("from 2 repeats in this class")
    thrift = scores.locator("tbody tr td:nth-child(2)").all_inner_texts()
    page.get_by_role("link", name="Green").click()
    expect(page.get_by_label("Ways of scoring").locator("[aria-current]")).to_have_text("Green")
    assert scores.locator("tbody tr td:nth-child(2)").all_inner_texts() != thrift
    expect(page.get_by_text("Curlew 1, tested unchanged on both days, shows")).to_be_visible()
    expect(page.locator("article", has_text="Dunlin")).to_contain_text("4 things changed at once")
    expect(page.locator(".notice-ask")).to_contain_text("Not all runs are alike")
    page.get_by_title("Show only this team").first.click()
    expect(page.locator(".c-dots")).to_have_count(2)  # both versions of one team


def test_the_second_screen_and_the_record_show_the_same_run(page):
    page.goto("/board/runs/4")
    expect(page.locator(".clock")).to_have_text(re.compile(r"^\d\d:\d\d"))  # it goes on since 12 min
    expect(page.locator(".c-label")).to_have_count(9)  # eight builds and the air
    assert page.evaluate("document.documentElement.scrollHeight") <= 800
    page.goto("/challenges/1/record")
    expect(page.locator("tbody tr")).to_have_count(3)
    page.get_by_role("link", name="Run 1").click()
    clock = page.locator("section[aria-label=Clock]")
    expect(clock).to_contain_text("This run is closed")
    expect(clock.get_by_role("button", name="Start")).to_have_count(0)


INNER = """() => [...document.querySelectorAll("main *")]
  .filter(e => e.scrollWidth > e.clientWidth + 2 && getComputedStyle(e).overflowX === "auto")
  .map(e => e.className)"""


@pytest.mark.parametrize("part", [0, 1])
def test_no_page_scrolls_sideways_on_laptop_tablet_or_phone_and_the_frame_is_thin(page, part):
    wide, thick = [], []
    for address in PAGES[part::2]:
        page.goto(address)
        for width, height, frame in ((1280, 800, 100), (820, 1180, 100), (390, 844, 64)):
            page.set_viewport_size({"width": width, "height": height})
            over = page.evaluate("document.documentElement.scrollWidth - innerWidth")
            if over > 0:
                wide.append((address, width, over))
            rail = page.locator(".rail")
            top = page.locator("main").bounding_box()["y"] if rail.count() else 0
            if top > frame:
                thick.append((address, width, top))
            if width < 1280 and re.search(
                r"/(kit|rig|walk)$", address
            ):  # on the move, not in its plate either
                wide += [(address, width, what) for what in page.evaluate(INNER)]
    assert wide == []
    assert thick == []


SEEN_WORDS = """() => {
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  let count = 0;
  while (walker.nextNode()) {
    const range = document.createRange();
    range.selectNode(walker.currentNode);
    const { top, height } = range.getBoundingClientRect();
    const seen = walker.currentNode.parentElement.checkVisibility() && height > 0 && top < innerHeight;
    if (seen) count += walker.currentNode.data.split(/\\s+/).filter(Boolean).length;
  }
  return count;
}"""


def test_the_first_page_is_read_in_a_minute_and_the_lessons_line_hides_nothing_on_a_phone(page):
    page.goto("/")
    assert page.evaluate(SEEN_WORDS) <= 200
    expect(page.get_by_role("link", name="Builds: 1 of 8 have materials")).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 844})
    for address in ("/runs/10", "/versions/9", "/challenges/5/brief/lessons"):
        page.goto(address)
        line = page.locator(".line-room")
        expect(line).to_be_visible()
        page.wait_for_function("document.body.style.getPropertyValue('--line-height')")
        page.evaluate("window.scrollTo(0, 99999)")
        end = page.locator("main").bounding_box()
        assert end["y"] + end["height"] <= line.bounding_box()["y"], address


WRITTEN = """() => [...document.querySelectorAll("main *")]
  .filter(e => e.checkVisibility() && [...e.childNodes].some(n => n.nodeType === 3 && n.data.trim()))
  .filter(e => !e.classList.contains("sr-only") && e.tagName !== "title")
  .map(e => [parseFloat(getComputedStyle(e).fontSize) * (e.getScreenCTM?.().a ?? 1), e.textContent.trim()])"""


@pytest.mark.parametrize(("run", "on"), [(5, True), (10, True), (11, False)])
def test_a_stations_board_shows_who_is_on_and_every_attempt_on_one_scale_for_the_back_row(page, run, on):
    page.goto(f"/board/runs/{run}")
    expect(page.locator(".board-name")).to_have_count(int(on))
    expect(page.locator(".board-drawing svg")).to_have_count(int(on))
    expect(page.get_by_text("All turns are taken.")).to_have_count(int(not on))
    assert page.locator(".board-attempts :is(.s-dot, .s-hollow)").count() > 8
    written = page.evaluate(WRITTEN)
    assert len(written) > 15
    assert min(size for size, _ in written) >= 27.5, min(written)
    assert page.evaluate("document.documentElement.scrollHeight") <= 800
