"""Nothing typed is lost: tabs that share a device, refusals, login pages of networks, full storage."""

from __future__ import annotations

import json
import re
import time
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import PATIENT_MS, check_access
from tests.browser.test_clocked_families import ready as clocked
from tests.browser.test_clocked_families import set_up
from tests.browser.test_station import begin
from tests.browser.test_station import ready as by_turns
from thermion.records.running import runs
from thermion.records.running.attempts import all_attempts
from thermion.web.static_files import version

pytestmark = pytest.mark.browser


@pytest.fixture
def run(crew) -> int:
    """Avocet and Dunlin are heating since six minutes; minute 5 is due."""
    return crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), at=datetime.now(UTC) - timedelta(minutes=6))


def grid(page: Page, run: int) -> Page:
    page.goto(f"/runs/{run}")
    page.locator("input.cell-input").wait_for()
    return page


def typed(page: Page, *values: str) -> None:
    for value in values:
        page.keyboard.type(value)
        page.keyboard.press("Enter")


def stored(crew, run: int) -> list[float | None]:
    with crew.database.session() as session:
        return [r.value for r in runs.all_readings(session, run)]


def soon(found, wanted) -> None:
    """After a while it is so, however slow the machine."""
    tries = 0
    while found() != wanted and tries < PATIENT_MS / 100:
        time.sleep(0.1)
        tries += 1
    assert found() == wanted


def tray(page: Page):
    return page.locator(".tray")


def test_two_tabs_offline_keep_what_each_typed_over_a_reload(page, crew, run, server):
    other = page.context.new_page()
    other.set_default_timeout(PATIENT_MS)
    grid(page, run)
    grid(other, run)
    server.kill()
    typed(page, "20.4")
    expect(tray(other)).to_contain_text("1 entry waits")  # one device, one outbox
    other.locator("td").get_by_label("Dunlin, minute 5").click()
    typed(other, "20.5")
    expect(tray(page)).to_contain_text("2 entries wait")
    page.close()
    other.close()
    again = page.context.new_page()
    server.start()
    again.goto("/")  # any page of the desk sends what waits
    expect(tray(again)).to_be_hidden()
    soon(lambda: sorted(stored(crew, run)), [20.4, 20.5])


def test_what_the_server_refused_is_still_there_after_a_reload_and_can_be_decided(page, crew, run):
    grid(page, run)
    air = crew.entries(run)["Air"]
    crew.read(air, 5, "21", moment=datetime.now(UTC))  # another device was first
    typed(page, "23")
    expect(page.locator(".bubble")).to_contain_text("Another screen has written 21.0 °C here")
    page.goto(f"/challenges/{crew.challenge_id}/brief/safety")
    expect(tray(page)).to_contain_text(
        "Keeper's supper, run 1: Air, minute 5: “23” was not stored. Another screen"
    )
    page.get_by_role("button", name="Look at it").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Heating: 23")
    expect(dialog).to_contain_text("Keeper's supper, run 1: Air, minute 5")
    expect(dialog).to_contain_text("Another screen has written 21.0")
    check_access(page)
    dialog.get_by_role("button", name="Keep both: 21.0 °C stands, 23 beside it").click()
    expect(tray(page)).to_be_hidden()
    soon(lambda: stored(crew, run), [21, 23, 21])  # theirs stands, mine is among the earlier values


def test_a_mark_that_has_not_come_yet_waits_in_the_tray_and_goes_in_later(page, crew, run):
    grid(page, run)
    page.locator("td").get_by_label("Avocet, minute 10").click()
    typed(page, "44")
    expect(page.locator(".bubble")).to_contain_text("This mark has not come yet.")
    page.reload()
    expect(page.locator("td").get_by_label("Avocet, minute 10")).to_have_text("44")
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("link", name="Open where it was typed").click()
    expect(page.locator("input.cell-input")).to_have_value("44")
    with crew.database.writing() as session:
        runs.get_run(session, run).phases[0].started_at -= timedelta(minutes=5)
    page.goto("/")
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("button", name="Send again").click()
    expect(tray(page)).to_be_hidden()
    soon(lambda: stored(crew, run), [44])


def test_attempts_typed_offline_at_a_station_wait_and_the_next_team_is_on(page, crew, server):
    begin(page, by_turns(crew, "sail_run"))
    server.kill()
    stop = page.get_by_label("Where it stopped", exact=True)
    head = page.locator("[data-station] h2")
    for distance, after in (("55", "Dunlin"), ("90", "Godwit")):
        stop.fill(distance)
        page.keyboard.press("Enter")
        expect(head).to_have_text(after)
    page.get_by_role("link", name="Avocet").first.click()  # and any other can be chosen
    expect(head).to_have_text("Avocet")
    stop.fill("70")
    page.keyboard.press("Enter")
    expect(tray(page)).to_contain_text("3 entries wait on this device")
    server.start()
    expect(page.get_by_label("Attempts").locator("li")).to_have_count(3)
    with crew.database.session() as session:
        rows = all_attempts(session, [1])
        assert [round(next(iter(r.values.values())), 2) for r in rows] == [0.55, 0.9, 0.7]
        assert rows[0].entry_id == rows[2].entry_id != rows[1].entry_id


def test_a_slow_server_holds_up_nobody_and_its_page_comes_when_it_answers(page, crew):
    def late(route):
        time.sleep(1.5)
        route.continue_()

    begin(page, by_turns(crew, "wind_hoist"))
    page.route("**/attempts", late)
    page.get_by_role("button", name="Nothing happened").click()
    expect(page.locator("[data-station] h2")).to_have_text("Dunlin")  # by the page itself
    expect(page.get_by_label("Attempts")).to_contain_text("0.0 cm")
    expect(page.get_by_text("first try: 4")).to_be_visible()


def test_an_attempt_that_cannot_be_is_put_right_from_the_tray(page, crew):
    begin(page, by_turns(crew, "sail_run"))
    page.get_by_label("Where it stopped", exact=True).fill("900")
    page.get_by_label("The mast leaned").check()
    page.keyboard.press("Enter")
    # it is said where it was typed; beside a slow answer the next team is on, and the tray says it
    expect(page.locator(".wrong, [data-tray-line]").filter(has_text="at most").first).to_be_visible()
    page.goto("/")
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("link", name="Open where it was typed").click()
    expect(page.get_by_label("Where it stopped", exact=True)).to_have_value("900")
    expect(page.get_by_label("The mast leaned")).to_be_checked()
    page.get_by_label("Where it stopped", exact=True).fill("90")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Attempts")).to_contain_text("90 cm")
    expect(tray(page)).to_be_hidden()


def test_a_race_press_that_was_refused_is_not_dropped(page, crew):
    run = set_up(page, clocked(crew, "heat_through"))
    page.get_by_label("What does the probe show?").fill("20")
    page.keyboard.press("Enter")
    page.wait_for_timeout(900)
    other = page.context.browser.new_context(base_url=page.url.split("/runs")[0]).new_page()
    other.goto(f"/runs/{run}")
    other.get_by_role("button", name=re.compile("stop")).click()
    expect(other.get_by_label("Attempts")).to_contain_text("20.0 °C")
    page.keyboard.press("Space")
    expect(page.locator("[data-going] > .wrong")).to_contain_text("ended on another screen")
    page.goto("/")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("dialog")).to_contain_text("heat_through, run 1: Control")
    page.get_by_role("button", name="Throw away").click()
    page.get_by_role("button", name="Throw away: sure?").click()
    expect(tray(page)).to_be_hidden()


def test_a_networks_login_page_and_a_full_disk_are_no_answers(page, crew, run):
    grid(page, run)
    page.route("**/readings", lambda route: route.fulfill(status=200, body="<h1>Welcome to our network</h1>"))
    typed(page, "20.1")
    expect(tray(page)).to_contain_text("No connection: 1 entry waits")
    page.unroute("**/readings")
    full = json.dumps({"error": "The disk of the computer that runs Thermion is full."})
    house = page.evaluate("document.querySelector('meta[name=house]').content")
    page.route("**/readings", lambda route: route.fulfill(status=507, body=full, headers={"X-House": house}))
    expect(tray(page)).to_contain_text("could not store: 1 entry waits")
    expect(tray(page)).to_contain_text("is full")
    page.unroute("**/readings")
    expect(tray(page)).to_be_hidden(timeout=9000)
    soon(lambda: stored(crew, run), [20.1])


def test_a_browser_that_keeps_nothing_still_sends_at_once_and_says_so(page, crew, run):
    page.add_init_script("indexedDB.open = () => { throw new Error('blocked'); }")
    grid(page, run)
    typed(page, "20.2")
    expect(tray(page)).to_contain_text("This browser keeps nothing")
    expect(page.locator("td").get_by_label("Air, minute 5")).to_have_text("20.2")
    soon(lambda: stored(crew, run), [20.2])


SHELF = """([house, made]) => new Promise((done) => {
  const asked = indexedDB.open("thermion-outbox", 1);
  asked.onsuccess = () => {
    const items = asked.result.transaction("items", "readwrite").objectStore("items");
    for (let n = 1; n <= 50; n += 1)
      items.put({ id: `old-${n}`, order: n, house, made, url: "/runs/1/readings", scope: "x", key: "",
        body: { entry: 1, phase: "heating", mark: 0, typed: String(n), client_id: `old-${n}`,
                entered_at: "2026-11-25T10:00:00Z" },
        page: "/runs/1", at: "2026-11-25T10:00:00Z", what: "Heating", where: "Supper", typed: `${n}` });
    items.transaction.oncomplete = done;
  };
})"""


def test_fifty_entries_of_other_data_are_not_sent_here_and_can_be_saved_or_thrown_away(page, crew, run):
    page.goto("/")
    page.evaluate(SHELF, ["another-school", ""])
    page.reload()
    expect(tray(page)).to_contain_text("50 entries on this device belong to other data")
    page.get_by_role("button", name="Look at it").click()
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save it as a file").click()
    assert len(json.loads(saved.value.path().read_text())) == 50
    assert stored(crew, run) == []
    page.get_by_role("button", name="Throw it away").click()
    page.get_by_role("button", name="Throw it away: sure?").click()
    expect(tray(page)).to_be_hidden()


def test_fifty_entries_for_a_run_that_was_deleted_are_listed_with_why(page, crew, run):
    page.goto("/")
    house = page.evaluate("document.querySelector('meta[name=house]').content")
    page.evaluate(SHELF, [house, "2025-01-01T00:00:00+00:00"])  # its number was given again
    page.reload()
    expect(tray(page)).to_contain_text("50 entries were not stored")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("dialog").locator("li")).to_have_count(50)
    expect(page.get_by_role("dialog").locator("li").first).to_contain_text("was deleted")
    check_access(page)
    assert stored(crew, run) == []


SLOW_DISK = (
    f"() => import('/static/{version()}/js/lib/outbox.js')"
    """.then(({ outbox }) => {
  const drop = outbox.shelf.drop.bind(outbox.shelf);
  outbox.shelf.drop = async (id) => {
    await new Promise((done) => (window.goOn = done));
    return drop(id);
  };
})"""
)


def test_on_a_slow_device_the_cursor_never_goes_back_to_what_was_typed(page, crew, run):
    grid(page, run)
    page.evaluate(SLOW_DISK)
    with page.expect_response("**/readings"):
        typed(page, "20")
    page.wait_for_function(
        "() => Boolean(window.goOn)"
    )  # the server has it, the browser is still putting it away
    typed(page, "40", "41")
    expect(page.locator("input.cell-input")).to_have_count(0)  # the column is whole
    page.evaluate("() => window.goOn()")
    expect(page.get_by_label("Air, minute 5", exact=True)).to_contain_text("20.0")
