"""A lesson from bell to bell in a real browser: the Desk, a phone in the hand, and the board."""

from __future__ import annotations

import re
import time
from datetime import timedelta

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import select

from tests.browser.conftest import PATIENT_MS, check_access
from tests.conftest import Crew
from thermion.records import moments
from thermion.records.planning import week
from thermion.records.tables import Conducted

pytestmark = pytest.mark.browser
SMALLEST = """() => Math.min(...[...document.querySelectorAll("main *")]
  .filter(e => e.checkVisibility() && [...e.childNodes].some(n => n.nodeType === 3 && n.data.trim()))
  .filter(e => !e.closest("svg") && !e.classList.contains("sr-only"))
  .map(e => parseFloat(getComputedStyle(e).fontSize)))"""


def lesson_now(crew: Crew, minutes: float = 60) -> None:
    """A lesson that began a minute ago."""
    with crew.database.writing() as session:
        start = moments.now() - timedelta(minutes=1)
        week.save_lesson(session, crew.class_id, start, minutes * 60, 300)


def window(page: Page, address: str, size: tuple[int, int]) -> Page:
    made = page.context.browser.new_context(
        viewport={"width": size[0], "height": size[1]}, base_url=page.url.split("/classes")[0]
    )
    opened = made.new_page()
    opened.set_default_timeout(PATIENT_MS)
    opened.goto(address)
    return opened


def test_a_lesson_is_conducted_from_bell_to_bell_with_one_key_a_step(page, crew, effort, record_property):
    lesson_now(crew, 50)
    page.goto("/classes/1/lesson")
    board = window(page, "/board/classes/1", (1280, 800))
    phone = window(page, "/challenges/1/builds", (390, 844))
    expect(board.get_by_text("The lesson begins.")).to_be_visible()
    line = page.get_by_role("region", name="The lesson", exact=True)
    seconds = []
    for act in ("The task and its rules", "A question for each team", "Silent ideas", "Team talk"):
        page.wait_for_timeout(600)  # pressed sooner again, it would be one press that came twice
        with effort.of("a step of the lesson, at the Desk", 1):
            page.keyboard.press("l")
        pressed = time.monotonic()
        expect(board.get_by_role("heading", name=act)).to_be_visible()
        seconds.append(time.monotonic() - pressed)
        expect(line).to_contain_text(act)
        assert board.evaluate(SMALLEST) >= 28
    record_property("effort", f"the board follows the Desk after {max(seconds):.1f} s (aim 2)")
    check_access(page)
    check_access(board)
    # in the hand: a minute more, a pause, and on
    hand = phone.get_by_role("region", name="The lesson", exact=True)
    expect(hand).to_contain_text("Team talk")
    for name in ("A minute more", "Pause"):
        key = hand.get_by_role("button", name=name)
        box = key.evaluate("key => key.getBoundingClientRect().toJSON()")
        assert box["height"] >= 44
        assert box["y"] > 600  # in reach of a thumb
        key.click()
    expect(board.get_by_text("Pause")).to_be_visible()
    stood = board.locator("[data-left]").inner_text()
    hand.get_by_role("button", name="Go on").click()
    expect(board.get_by_text("Pause")).to_have_count(0)
    assert stood.startswith(("2:", "3:"))
    hand.get_by_role("button", name="Next: Plan: Agree on one").click()
    expect(line).to_contain_text("Agree on one")
    # two desks press at once: the step is started once, and the second is told
    page.evaluate(
        """() => {
          document.querySelector("[data-line]").dataset.mark = "old"; // and pressed before it is drawn anew
          document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "l", bubbles: true }));
        }"""
    )
    expect(line).to_contain_text("Another screen was first")
    expect(line).to_contain_text("Agree on one")
    # the page shows the step that the phone has begun
    on = page.locator("section", has=page.get_by_label("What learners read"))
    expect(on).to_contain_text("Agree on one")
    # another sentence, on the board; typed while the page, asked for before, comes in slowly
    page.evaluate(
        """() => {
          const text = Response.prototype.text;
          Response.prototype.text = async function () {
            const found = await text.call(this);
            await new Promise((done) => setTimeout(done, 700));
            return found;
          };
          document.dispatchEvent(new Event("lesson"));
        }"""
    )
    page.wait_for_timeout(300)
    page.get_by_label("What learners read").fill("Choose by voting.")
    page.keyboard.press("Tab")  # the page is drawn anew while the hand goes to the key
    page.evaluate("document.dispatchEvent(new Event('lesson'))")
    page.wait_for_timeout(600)
    page.get_by_role("button", name="On the board").click()
    expect(board.get_by_text("Choose by voting.")).to_be_visible()
    board.context.close()
    phone.context.close()


SHOWN = {  # what a class must find on the board at a step, beside its sentence
    "Task": ("The same for everyone", "What can hurt"),
    "Ideas": ("Newspaper", "Clear film"),
    "Plan": ("The plan shows", "At most"),
    "Build": ("What always goes wrong",),
    "Change": ("One change, of one of these",),
}


def test_a_lesson_planned_for_tomorrow_is_held_this_evening_and_the_board_is_read_at_each_step(page, crew):
    with crew.database.writing() as session:
        week.save_lesson(session, crew.class_id, moments.now() + timedelta(hours=15), 8 * 3600, 300)
    page.goto("/classes/1/lesson")
    board = window(page, "/board/classes/1", (1280, 800))
    line = page.get_by_role("region", name="The lesson", exact=True)
    expect(line).to_have_count(0)
    page.get_by_role("button", name="Start the lesson").click()
    expect(line).to_contain_text("The task and its rules")
    step, act, read = "Task", "The task and its rules", {}
    while act != "Pack up":
        expect(board.get_by_role("heading", name=act).first).to_be_visible()
        read[step] = read.get(step, "") + board.locator("main").inner_text()
        assert board.evaluate(SMALLEST) >= 28
        following = line.get_by_role("button", name=re.compile("^Next: "))
        *steps, act = following.inner_text().removeprefix("Next: ").removesuffix("L").strip().split(": ")
        step = steps[0] if steps else act if act == "Build" else step  # which is one act, by its own name
        page.wait_for_timeout(600)  # pressed sooner again, it would be one press that came twice
        following.click()
        expect(line.locator("b, strong, span").filter(has_text=act).first).to_be_visible()
    for name, words in SHOWN.items():
        for said in words:
            assert said in read[name], name
    with crew.database.session() as session:
        held = session.scalars(select(Conducted)).all()
    assert {row.phase for row in held} >= {
        "task",
        "ideas",
        "plan",
        "build",
        "test",
        "findings",
        "change",
        "show",
    }
    assert all(
        abs(row.started_at - moments.now()) < timedelta(hours=1) for row in held
    )  # held when it was held
    board.context.close()


def test_a_walk_and_the_results_on_the_board_and_a_bell_in_the_test(page, crew):
    lesson_now(crew)
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), at=moments.now() - timedelta(minutes=1))
    rows = crew.entries(run_id)
    for team, hottest in (("Avocet", "60"), ("Dunlin", "40")):
        crew.read(rows[team], 0, hottest, moment=moments.now(), client_id=team)
    page.goto("/classes/1/lesson")
    board = window(page, "/board/classes/1", (1280, 800))
    board.wait_for_url("**/board/runs/**")  # nothing else is on: the test is shown
    page.get_by_label("Another step").select_option(label="Show: Each team's minute")
    page.get_by_role("button", name="Start it").click()
    board.wait_for_url("**/board/classes/1")
    expect(board.locator(".board-name")).to_contain_text("Avocet")
    page.get_by_role("button", name="Next turn").click()
    expect(board.locator(".board-name")).to_contain_text("Dunlin")
    page.get_by_role("button", name="Walk round").click()
    expect(board.locator(".board-walk li")).to_have_count(3)
    assert board.evaluate(SMALLEST) >= 28
    # results from the last place up
    page.get_by_role("button", name="Results").click()
    board.wait_for_url("**/results**")
    expect(board.get_by_label("Not revealed yet")).to_have_count(2)
    page.get_by_role("button", name="Reveal the next").click()
    expect(board.get_by_label("Not revealed yet")).to_have_count(1)
    expect(board.locator(".board-results")).to_contain_text("Dunlin")
    page.get_by_role("button", name="All at once").click()
    expect(board.locator(".board-next")).to_contain_text("Avocet")
    page.get_by_role("button", name="What is going on").click()
    board.wait_for_url("**/board/classes/1")
    # the lesson is shortened so that its bell has rung: it is asked once what becomes of the run
    with crew.database.writing() as session:
        (lesson,) = week.lessons_of(session, crew.class_id)
        week.save_lesson(session, crew.class_id, lesson.starts_at, 90, 60, lesson.id)
    line = page.get_by_role("region", name="The lesson", exact=True)
    expect(line.get_by_text("The bell: Keeper's supper is still running.")).to_be_visible(timeout=15000)
    line.get_by_role("button", name="Go on next lesson").click()
    expect(line.get_by_text("The bell:")).to_have_count(0)
    page.reload()
    expect(line).to_contain_text("Walk round")
    expect(line.get_by_text("The bell:")).to_have_count(0)
    board.context.close()


def test_a_board_on_a_slow_line_waits_for_its_next_page_and_does_not_begin_it_anew(page, crew):
    page.goto("/board/classes/1")
    held, broken_off = [], []
    page.on("requestfailed", lambda r: broken_off.append(r.url) if r.is_navigation_request() else None)
    page.route(
        "**/board/runs/*", lambda r: held.append(r) if r.request.is_navigation_request() else r.continue_()
    )
    crew.run(crew.plan("Avocet"), at=moments.now())
    page.wait_for_timeout(
        7000
    )  # a browser itself lets the same address through again only after three seconds
    assert (len(held), broken_off) == (1, [])
    held[0].continue_()
    page.wait_for_url("**/board/runs/*")
