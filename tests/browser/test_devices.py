"""Every device in the room: Desk, helper, board, station and three pads, from joining to results."""

from __future__ import annotations

from contextlib import contextmanager
from datetime import timedelta

import pytest
from playwright.sync_api import Error, Page, expect
from sqlalchemy import select

from tests.browser.conftest import PATIENT_MS, check_access
from tests.browser.test_station import begin, point
from tests.browser.test_station import ready as by_turns
from tests.records.test_families import Test
from thermion.records import moments
from thermion.records.running import runs
from thermion.records.tables import AttemptRow, Reading, Run, Version

pytestmark = pytest.mark.browser
UPRIGHT, ACROSS, TABLET = (390, 844), (844, 390), (820, 1180)

SMALL = """() => [...document.querySelectorAll("a[href], button, select, summary, input:not([type=hidden])")]
  .filter((e) => e.checkVisibility() && !e.closest(".sr-only, .plan-sheet svg"))
  .map((e) => [(e.closest("label") ?? e).getBoundingClientRect(), e.innerText || e.ariaLabel || e.name])
  .filter(([r]) => r.width > 2 && Math.min(r.width, r.height) < 43.5)
  .map(([r, name]) => `${name} ${Math.round(r.width)}x${Math.round(r.height)}`)"""


class Room:
    """A door that stands open, and the devices that come in through it."""

    def __init__(self, browser, server, desk: Page):
        self.browser, self.server, self.desk = browser, server, desk
        self.contexts = []
        desk.goto("/devices")
        desk.get_by_role("button", name="Open the door").click()
        expect(desk.get_by_role("heading", name="Who is in")).to_be_visible()

    def code(self, label: str) -> str:
        self.desk.goto("/devices")
        row = self.desk.locator(".door-code", has_text=label).first
        return row.locator(".door-said").inner_text().replace("·", " ")

    def once(self, label: str) -> str:
        """A code that lets in one adult."""
        self.desk.goto("/devices")
        self.desk.get_by_role("button", name=label).click()
        said = self.desk.get_by_role("alert").inner_text()
        return said.partition(":")[2].partition(".")[0].strip()

    def join(self, code: str, size=UPRIGHT) -> Page:
        context = self.browser.new_context(
            viewport={"width": size[0], "height": size[1]}, has_touch=True, base_url=self.server.door
        )
        self.contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(PATIENT_MS)
        page.goto("/")
        page.get_by_label("What is your code?").fill(code)
        page.get_by_role("button", name="Come in").click()
        expect(page.get_by_label("What is your code?")).to_have_count(0)
        return page

    def leave(self) -> None:
        for context in self.contexts:
            context.close()


@contextmanager
def room(browser, server, desk):
    made = Room(browser, server, desk)
    try:
        yield made
    finally:
        made.leave()


def state_of(crew, version_id: int) -> str:
    with crew.database.session() as session:
        return session.get_one(Version, version_id).state


def newest(crew) -> int:
    with crew.database.session() as session:
        return session.scalars(select(Version.id).order_by(Version.id.desc())).first()


def fits(page: Page) -> None:
    """Nothing to scroll sideways, and every key large enough for a thumb."""
    for size in (UPRIGHT, ACROSS, TABLET):
        page.set_viewport_size({"width": size[0], "height": size[1]})
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), (page.url, size)
        assert page.evaluate(SMALL) == [], (page.url, size)
    page.set_viewport_size({"width": UPRIGHT[0], "height": UPRIGHT[1]})


def test_a_team_plans_is_asked_answers_reads_and_sees_what_came_out(page, browser, server, crew):
    with room(browser, server, page) as devices:
        pad, other = devices.join(devices.code("Avocet")), devices.join(devices.code("Dunlin"))
        expect(pad.get_by_role("heading", name="Draw an idea. Everybody draws one.")).to_be_visible()
        fits(pad)
        check_access(pad)
        pad.get_by_role("link", name="Plan").click()
        pad.get_by_role("button", name="Begin our plan").click()
        pad.get_by_role("button", name="Walls").click()
        pad.get_by_role("button", name="Newspaper").click()
        pad.get_by_label("Prediction").fill("60")
        expect(pad.get_by_text("No prediction yet")).to_have_count(0)
        pad.get_by_role("button", name="Hand in for the check").click()
        expect(pad.get_by_role("heading", name="Version 1 is waiting for the check")).to_be_visible()
        version = newest(crew)

        page.goto(f"/classes/{crew.class_id}/lesson")
        page.get_by_role("link", name="1 plan waits").click()  # on every page of the Desk, one key
        page.get_by_label("Question to the team").fill("What keeps the heat in?")
        page.get_by_role("button", name="Send back").click()
        pad.get_by_role("link", name="Now").click()
        expect(pad.get_by_text("What keeps the heat in?")).to_be_visible()
        pad.get_by_role("link", name="Look at it").click()
        pad.get_by_label("What we say").fill("The newspaper")
        pad.get_by_role("button", name="Say it").click()
        page.goto(f"/classes/{crew.class_id}/lesson")
        page.get_by_role("link", name="Avocet has answered").click()
        expect(page.get_by_text("The team says: The newspaper")).to_be_visible()
        pad.get_by_role("link", name="Look at it").click()
        pad.get_by_role("button", name="Hand in for the check").click()
        expect(pad.get_by_role("heading", name="Version 1 is waiting")).to_be_visible()

        helper = devices.join(devices.once("Let in a helper"), TABLET)
        check_access(helper)
        helper.get_by_role("link", name="Keeper's supper, version 1").click()
        expect(helper.get_by_text("The newspaper")).to_be_visible()
        helper.get_by_role("button", name="Sign off").click()
        expect(helper.get_by_role("button", name="Hand out").first).to_be_visible()
        assert state_of(crew, version) == "signed"
        pad.get_by_role("link", name="Now").click()
        expect(pad.get_by_role("heading", name="Your plan is signed. Fetch this:")).to_be_visible()
        assert other.get_by_text("Fetch").count() == 0
        helper.get_by_role("button", name="Hand out").first.click()
        expect(pad.get_by_role("heading", name="Build what is on your plan.")).to_be_visible()
        with crew.database.session() as session:
            found = session.get_one(Version, version)
            by = (found.waiting_by, found.signed_by, found.issued_by)
        assert by == ("team A", "helper 1", "helper 1")


def test_two_pads_of_a_team_read_one_build_and_the_teacher_looks_at_what_they_typed(
    page, browser, server, crew
):
    first, second = crew.plan("Avocet"), crew.plan("Dunlin")
    run = crew.run(first, second, at=moments.now() - timedelta(minutes=5, seconds=20))
    with room(browser, server, page) as devices:
        page.goto(f"/runs/{run}")
        page.get_by_role("group", name="Pads read").get_by_role("button", name="after a look").click()
        code = devices.code("Avocet")
        pad, beside = devices.join(code), devices.join(code, ACROSS)
        theirs = devices.join(devices.code("Dunlin"))
        board = devices.join(devices.code("Board"), (1280, 800))
        expect(board).to_have_url(f"{server.door}/board/runs/{run}?follow={crew.class_id}")
        for each in (pad, beside, theirs):
            each.get_by_role("link", name="Read", exact=True).click()
            expect(each.get_by_text("Read now: minute 5")).to_be_visible()
        fits(pad)
        check_access(pad)
        for digit in "98":
            pad.get_by_role("button", name=digit, exact=True).click()
        pad.get_by_role("button", name="Keep").click()
        expect(pad.get_by_text("Was that 98 °F?")).to_be_visible()  # asked at the hand that typed it
        pad.get_by_role("button", name="It is 36.7").click()
        expect(beside.get_by_role("group", name="What is read")).to_contain_text("36.7")
        expect(theirs.get_by_role("group", name="What is read")).not_to_contain_text("36.7")
        page.goto(f"/classes/{crew.class_id}/lesson")
        page.get_by_role("link", name="1 value to look at").click()
        expect(page).to_have_url(f"{server.url}/runs/{run}")
        with crew.database.session() as session:
            rows = session.scalars(select(Reading).order_by(Reading.id)).all()
            assert [(r.by, r.mark_s) for r in rows] == [("team A", 300.0)] * 2
            assert rows[-1].question

        beside.context.set_offline(True)  # a pad that drops out keeps what is typed on it
        for digit in "37":
            beside.get_by_role("button", name=digit, exact=True).click()
        beside.get_by_role("button", name="Keep").click()
        expect(beside.get_by_text("It is sent by itself.")).to_be_visible()
        beside.context.set_offline(False)
        expect(pad.get_by_role("group", name="What is read")).to_contain_text("37.0")

        with crew.database.writing() as session:
            runs.close_run(session.get_one(Run, run))
        pad.get_by_role("link", name="Now").click()
        expect(pad.get_by_role("heading", name="Your test is over. What came out?")).to_be_visible()
        pad.get_by_role("link", name="Our results").click()
        expect(pad.get_by_role("heading", name="What came out?")).to_be_visible()
        fits(pad)
        check_access(pad)


def test_a_tablet_stays_at_its_station_and_a_pad_sees_that_its_build_is_on(page, browser, server, crew):
    begin(page, by_turns(crew, "sail_run"))
    run = int(page.url.partition("/runs/")[2].partition("?")[0])
    with room(browser, server, page) as devices:
        tablet = devices.join(devices.code("Station 1, By turns"), TABLET)
        expect(tablet).to_have_url(f"{server.door}/runs/{run}?station=1")
        check_access(tablet)
        pad = devices.join(devices.code("Dunlin"))
        expect(pad.get_by_role("heading", name="Your build is tested at the station")).to_be_visible()
        for name in ("Set apart", "Bring a table", "Machines", "Builds"):  # only its run, only its station
            assert tablet.get_by_role("link", name=name).count() == 0
        point(tablet, 0.5, 0.5)
        tablet.get_by_label("Time", exact=True).fill("4")
        tablet.get_by_role("button", name="Keep").first.click()
        expect(tablet.get_by_role("heading", name="Dunlin")).to_be_visible()
        with crew.database.session() as session:
            assert session.scalars(select(AttemptRow.by)).all() == ["station 1"]
        page.goto("/devices")
        page.get_by_role("row", name="Station 1").get_by_role("button", name="Send away").click()
        tablet.reload()
        expect(tablet.get_by_text("This device was sent away")).to_be_visible()
        page.get_by_role("button", name="Close the door").click()
        page.get_by_role("button", name="Close, and let all go: sure?").click()
        expect(page.get_by_text("The door is closed.")).to_be_visible()
        expect(pad.get_by_role("heading", name="Your build is tested at the station")).to_be_visible()
        with pytest.raises(Error):  # nothing listens there any more
            devices.join("kanebo")
        page.get_by_role("button", name="Open the door").click()
        again = devices.join(devices.code("Dunlin"))
        expect(again.get_by_role("heading", name="Your build is tested at the station")).to_be_visible()


def test_a_team_notes_its_own_try_when_its_turn_comes(page, browser, server, crew):
    begin(page, by_turns(crew, "sail_run"))
    run = page.url.partition("?")[0]
    with room(browser, server, page) as devices:
        pad, other = devices.join(devices.code("Avocet")), devices.join(devices.code("Dunlin"))
        page.goto(run)
        page.get_by_role("group", name="Pads read").get_by_role("button", name="after a look").click()
        pad.get_by_role("link", name="Our turn").click()
        expect(pad.get_by_role("heading", name="It is your turn. Try 1 of")).to_be_visible()
        fits(pad)
        check_access(pad)
        point(pad, 0.5, 0.5)
        pad.context.set_offline(True)  # what is kept meanwhile is sent by itself
        pad.get_by_role("button", name="Keep").click()
        expect(pad.get_by_text("1 entry waits on this device")).to_be_visible()
        pad.context.set_offline(False)
        expect(pad.get_by_role("list", name="Our tries")).to_contain_text("cm")
        other.get_by_role("link", name="Our turn").click()
        expect(other.get_by_role("heading", name="It is your turn. Try 1 of")).to_be_visible()
        page.goto(run)
        page.get_by_role("button", name="It is so").click()
        expect(page.get_by_role("button", name="It is so")).to_have_count(0)
        with crew.database.session() as session:
            rows = session.scalars(select(AttemptRow).order_by(AttemptRow.id)).all()
            assert [r.by for r in rows] == ["team A", "desk"]


def test_a_team_runs_its_own_race(page, browser, server, crew):
    test = Test(crew, "heat_through")
    test.race("control", "20", 15)
    with room(browser, server, page) as devices:
        page.goto(f"/runs/{test.run_id}")
        page.get_by_role("group", name="Pads read").get_by_role("button", name="as typed").click()
        pad = devices.join(devices.code("Avocet"))
        pad.get_by_role("link", name="Our turn").click()
        fits(pad)
        check_access(pad)
        pad.get_by_label("What does the probe show?").fill("20")
        pad.get_by_role("button", name="Start").first.click()
        fits(pad)
        pad.get_by_label("Probe now").fill("25")
        pad.get_by_role("button", name="Keep").click()
        expect(pad.get_by_text("last 25")).to_be_visible()
        check_access(pad)
        pad.get_by_role("button", name="stop").click()
        expect(pad.get_by_role("list", name="Our tries")).to_contain_text("s")
        with crew.database.session() as session:
            assert session.scalars(select(AttemptRow.by)).all() == ["desk", "team A"]
