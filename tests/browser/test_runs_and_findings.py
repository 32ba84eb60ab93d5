"""A clocked test by digits and Enter, its troubles, and what comes out of it."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import select

from tests.browser.conftest import check_access, press, type_into
from tests.browser.test_outbox import soon
from tests.conftest import Crew
from thermion.records.planning import briefs
from thermion.records.planning.marks import save_marks
from thermion.records.running import runs
from thermion.records.tables import Reading

pytestmark = pytest.mark.browser


@pytest.fixture
def run(crew: Crew) -> int:
    """A run of two builds, its clock six minutes in; minute 0 is read."""
    at = datetime.now(UTC) - timedelta(minutes=6)
    made = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), at=at)
    for name, value in (("Air", "20"), ("Avocet", "20.5"), ("Dunlin", "21")):
        crew.read(crew.entries(made)[name], 0, value, moment=at + timedelta(seconds=9))
    return made


def open_run(page: Page, run: int) -> None:
    """Open the run; the cursor stands in the first cell to be read."""
    page.goto(f"/runs/{run}")
    expect(page.locator("input.cell-input")).to_be_focused()


def cell(page: Page, team: str, minute: int):
    row = page.locator("tbody tr", has=page.get_by_text(team, exact=True))
    heads = page.locator("thead th").all_inner_texts()
    return row.locator("td").nth(heads.index(str(minute)) - 1)


def readings(page: Page, run: int) -> list[dict]:
    return page.request.get(f"/runs/{run}.json").json()["rows"]


def test_digits_and_enter_walk_down_the_due_column(page, run):
    open_run(page, run)
    expect(page.locator("th.is-due")).to_have_text("5")
    typed = 0
    for value in ("20", "36.5", "33"):
        page.keyboard.type(value)
        page.keyboard.press("Enter")
        typed += len(value) + 1
    expect(page.locator("main [role=status]").first).to_have_text("Minute 5 is read")
    expect(cell(page, "Dunlin", 5)).to_have_text("33.0")
    stored = [r for r in readings(page, run) if r["mark_min"] == 5]
    assert [(r["team"], r["value_si"]) for r in stored] == [("air", 20), ("A", 36.5), ("D", 33)]
    assert all(355 < r["time_s"] < 420 and r["time_measured"] for r in stored)
    print(f"\nkeys per temperature: its digits + {(typed - len('2036.533')) / 3:.0f}")
    assert typed - len("2036.533") == 3  # one Enter each
    check_access(page)


def test_a_slip_is_asked_about_beside_its_cell_and_never_stops_the_round(page, run):
    open_run(page, run)
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    page.keyboard.type("97")  # meant 36 °C, read in °F
    page.keyboard.press("Enter")
    expect(cell(page, "Avocet", 5).locator(".bubble")).to_contain_text("Was that 97 °F?")
    expect(cell(page, "Dunlin", 5).locator("input")).to_be_focused()
    check_access(page)
    page.keyboard.press("c")
    expect(cell(page, "Avocet", 5)).to_have_text("36.1 ✎")
    page.keyboard.type("999")
    page.keyboard.press("Enter")
    bubble = cell(page, "Dunlin", 5).locator(".bubble")
    expect(bubble).to_contain_text("999 °C cannot be here")
    values = [r["value_si"] for r in readings(page, run) if r["mark_min"] == 5]
    assert values == [20, 97, pytest.approx(36.1, abs=0.1)]  # 999 was not stored, 97 is kept
    cell(page, "Dunlin", 5).locator("button.cell").click()
    page.keyboard.press("Control+A")
    page.keyboard.type("33")
    page.keyboard.press("Enter")
    expect(cell(page, "Dunlin", 5)).to_have_text("33.0")
    expect(bubble).to_have_count(0)


def test_nothing_is_lost_when_the_server_dies_and_comes_back(page, server, run):
    open_run(page, run)
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(cell(page, "Air", 5)).to_have_text("20.0")
    server.kill()
    page.keyboard.type("36.5")
    page.keyboard.press("Enter")
    expect(page.locator(".tray", has_text="1 entry waits")).to_be_visible()
    page.keyboard.type("33")
    page.keyboard.press("Enter")
    clock = page.locator(".clock").inner_text()
    server.start()
    expect(page.locator(".tray", has_text="No connection")).to_be_hidden(timeout=15000)
    expect(cell(page, "Avocet", 5)).to_have_text("36.5")
    expect(page.locator(".is-sending")).to_have_count(0)  # shown at once, stored one by one
    stored = [r for r in readings(page, run) if r["mark_min"] == 5]
    assert [r["value_si"] for r in stored] == [20, 36.5, 33]
    page.reload()
    expect(cell(page, "Dunlin", 5)).to_have_text("33.0")
    assert page.locator(".clock").inner_text() > clock  # the clock went on


def test_readings_typed_offline_survive_closing_the_page(page, server, run):
    open_run(page, run)
    server.kill()
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(page.locator(".tray", has_text="1 entry waits")).to_be_visible()
    context = page.context
    page.close()
    server.start()
    again = context.new_page()
    again.goto(f"/runs/{run}")
    expect(cell(again, "Air", 5)).to_have_text("20.0")
    assert len(readings(again, run)) == 4


def test_a_correction_typed_offline_follows_its_reading(page, server, run):
    open_run(page, run)
    server.kill()
    page.keyboard.type("25")
    page.keyboard.press("Enter")
    page.keyboard.press("ArrowUp")
    expect(cell(page, "Air", 5).locator("input")).to_be_focused()
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(page.locator(".tray", has_text="2 entries wait")).to_be_visible()
    server.start()
    expect(cell(page, "Air", 5)).to_have_text("20.0 ✎")
    both = [(r["value_si"], r["current"]) for r in readings(page, run) if r["mark_min"] == 5]
    assert both == [(25.0, False), (20.0, True)]


def test_a_missed_mark_stays_visible_and_a_value_is_corrected_with_its_history(page, crew):
    at = datetime.now(UTC) - timedelta(minutes=11)
    run = crew.run(crew.plan("Avocet"), at=at)
    crew.read(crew.entries(run)["Avocet"], 0, "25", moment=at + timedelta(seconds=5))
    page.goto(f"/runs/{run}")
    expect(cell(page, "Avocet", 5)).to_have_class("is-missed")
    cell(page, "Avocet", 0).click()
    page.keyboard.press("t")
    dialog = page.locator("dialog[open]")
    expect(dialog).to_contain_text("25.0 °C read at 0:05")
    check_access(page)
    dialog.get_by_label("Value").fill("20.5")
    dialog.get_by_role("button", name="Keep").click()
    expect(cell(page, "Avocet", 0)).to_have_text("20.5 ✎")
    rows = readings(page, run)
    assert [(r["value_si"], r["time_s"], r["current"]) for r in rows] == [
        (25.0, 5.0, False),
        (20.5, 5.0, True),
    ]


def test_two_screens_see_the_same_and_do_not_overwrite(page, run, server, browser):
    open_run(page, run)
    tablet = browser.new_context(base_url=server.url).new_page()
    open_run(tablet, run)
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(cell(page, "Air", 5)).to_have_text("20.0")
    tablet.keyboard.type("23")
    tablet.keyboard.press("Enter")
    expect(cell(tablet, "Air", 5).locator(".bubble")).to_contain_text("Another screen has written")
    assert [r["value_si"] for r in readings(page, run) if r["mark_min"] == 5] == [20]
    board = page.context.new_page()
    board.goto(f"/board/runs/{run}")
    expect(board.locator(".clock")).to_contain_text("6:")
    assert board.locator("button, a:not(.sr-only), input").count() == 0
    check_access(board)


@pytest.mark.parametrize(("key", "left"), [("k", "20.0"), ("c", "23.0")])
def test_two_devices_in_one_cell_keep_theirs_or_write_mine_by_a_key(page, crew, run, key, left):
    open_run(page, run)
    crew.read(crew.entries(run)["Air"], 5, "20", moment=datetime.now(UTC))  # the other device was first
    page.keyboard.type("23")
    page.keyboard.press("Enter")
    bubble = cell(page, "Air", 5).locator(".bubble")
    expect(bubble).to_contain_text("keep 20.0")
    expect(bubble).to_contain_text("write 23")
    page.keyboard.press(key)
    expect(bubble).to_have_count(0)
    expect(cell(page, "Air", 5)).to_contain_text(left)
    expect(page.locator("input.cell-input")).to_have_value("")  # the key was a command, and no letter
    current = [r["value_si"] for r in readings(page, run) if r["mark_min"] == 5 and r["current"]]
    assert current == [float(left)]


def test_digits_that_come_while_the_clock_starts_go_to_the_first_row(page, crew: Crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)

    def slow(route) -> None:
        page.wait_for_timeout(400)
        route.continue_()

    page.route("**/start.json", slow)
    page.goto(f"/runs/{run}")
    page.get_by_role("button", name="Start heating").click()
    page.keyboard.type("20.5")
    page.keyboard.press("Enter")
    page.keyboard.type("21")
    expect(page.locator("input.cell-input")).to_have_value("21")
    page.keyboard.press("Enter")
    expect(cell(page, "Avocet", 0)).to_have_text("21.0")
    stored = {r["team"]: r["value_si"] for r in readings(page, run)}
    assert stored == {"air": 20.5, "A": 21.0}


def test_a_run_with_every_cell_read_is_closed_without_a_question_and_its_clock_stands(page, crew: Crew):
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        save_marks(session, challenge, {"heating": [0, 60], "cooling": [0, 600]})
    at = datetime.now(UTC) - timedelta(minutes=12)
    run = crew.run(crew.plan("Avocet"), at=at)
    with crew.database.writing() as session:
        item, brief = runs.get_run(session, run), briefs.brief_of(challenge)
        runs.start_phase(session, item, brief, "cooling", at + timedelta(minutes=1))
    for phase, seconds in (("heating", 0), ("heating", 60), ("cooling", 0), ("cooling", 600)):
        for row in crew.entries(run).values():
            now = datetime.now(UTC)
            crew.read(
                row,
                seconds / 60,
                "30",
                phase=phase,
                keep=True,
                moment=now,
                client_id=f"{row}{phase}{seconds}",
            )
    page.goto(f"/runs/{run}")
    close = page.get_by_role("button", name="Close the run")
    expect(close).to_have_class(re.compile("key-go"))
    close.click()
    page.wait_for_url("**/findings")
    page.goto(f"/runs/{run}")
    expect(page.locator(".clock").first).to_contain_text("11:")
    before = page.locator(".clock").first.inner_text()
    page.wait_for_timeout(1500)
    assert page.locator(".clock").first.inner_text() == before


def test_a_whole_rehearsal_in_seconds_and_its_findings(page, crew: Crew):
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, 1)
        save_marks(session, challenge, {"heating": [0, 60, 120, 180, 240], "cooling": [0, 60, 120, 180]})
    crew.plan("Avocet")
    crew.plan("Dunlin", until="waiting")
    page.goto("/challenges/1/runs")
    check_access(page)
    page.get_by_label("Version of Dunlin").select_option(label="version 1 (waiting)")
    page.get_by_label("60× – rehearsal").check()
    press(page, "Start a test")
    page.wait_for_url("**/runs/*")
    press(page, "Start heating")
    expect(page.get_by_text("All marks have passed. Close the run.")).to_be_visible(timeout=30000)
    soon(lambda: len(readings(page, 1)), 9 * 3)  # the last ones are on their way
    rows = readings(page, 1)
    assert {r["source"] for r in rows} == {"probe"}
    press(page, "Close the run")
    page.wait_for_url("**/findings?rehearsal=1")
    expect(page.locator("h1")).to_have_text("Rehearsed: who did what?")
    expect(page.locator(".c-dots")).to_have_count(2)
    check_access(page)
    page.goto("/challenges/1/findings")
    expect(page.locator("h1")).to_have_text("Nothing has been read yet")


def test_another_school_scores_at_once_and_the_page_prints(page, crew: Crew, tmp_path):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    for name, top in (("Avocet", 30), ("Dunlin", 30.5)):
        for minute in (0, 5, 10, 15, 20):
            value = 20 + top * (1 - 2.71828 ** (-minute / 8))
            crew.read(crew.entries(run)[name], minute, f"{value:.1f}", keep=True)
    page.goto("/challenges/1/findings")
    check_access(page)
    expect(page.locator("section[aria-label=Scores] tbody tr").first).to_contain_text("Dunlin")
    press(page, "Thrift")
    expect(page.locator("section[aria-label=Scores]")).to_contain_text("units")
    expect(page.get_by_label("Ways of scoring").locator("[aria-current]")).to_have_text("Thrift")
    pdf = page.pdf(path=tmp_path / "findings.pdf", format="A4", landscape=True)
    assert pdf[:4] == b"%PDF"


def test_a_logger_file_and_a_challenge_file_go_out_and_in(page, crew: Crew, tmp_path):
    run = crew.run(crew.plan("Avocet"), start=False)
    log = tmp_path / "bench.csv"
    log.write_text("Zeit;Avocet °F\n2026-06-01 10:00;68,0\n2026-06-01 10:05;95,0\n", "utf-8-sig")
    page.goto(f"/runs/{run}/file")
    check_access(page)
    page.get_by_label("CSV file from the logger").set_input_files(log)
    press(page, "Look into it")
    expect(page.get_by_text("Does it fit the test?")).to_be_visible()
    check_access(page)
    press(page, "Store 2 values")
    page.wait_for_url(f"**/runs/{run}")
    expect(page.locator("thead th").first).to_be_visible()
    expect(cell(page, "Avocet", 5)).to_have_text("35.0")
    page.goto("/challenges/1/record")
    check_access(page)
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save as JSON").click()
    file = tmp_path / "supper.json"
    saved.value.save_as(file)
    page.goto("/import")
    check_access(page)
    page.get_by_label("A file that Thermion wrote").set_input_files(file)
    press(page, "Open it")
    expect(page.get_by_text("This is the same challenge as Keeper's supper of Relief crew.")).to_be_visible()
    check_access(page)
    page.get_by_role("button", name="Put it beside it").click()
    page.wait_for_url("**/challenges/2/record")
    first, second = (page.request.get(f"/challenges/{i}/record.thermion.json").json() for i in (1, 2))
    assert first == second


def test_units_of_the_class_can_change_and_nothing_is_lost(page, run):
    page.goto("/classes/1")
    check_access(page)
    page.get_by_label("°F").check()
    type_into(page, "Name of the class", "Relief crew F")
    page.keyboard.press("Enter")
    page.wait_for_url("**/")
    page.goto(f"/runs/{run}")
    expect(cell(page, "Avocet", 0)).to_have_text("68.9")


def test_arrows_walk_the_grid_and_escape_returns_to_the_round(page, run):
    open_run(page, run)
    page.keyboard.press("ArrowDown")
    expect(cell(page, "Avocet", 5).locator("input")).to_be_focused()
    page.keyboard.press("ArrowLeft")
    focused = cell(page, "Avocet", 0).locator("input")
    expect(focused).to_be_focused()
    expect(focused).to_have_value("20.5")
    page.keyboard.type("21")
    page.keyboard.press("ArrowUp")  # leaving a cell keeps what was typed
    expect(cell(page, "Avocet", 0)).to_have_text("21.0 ✎")
    page.keyboard.press("Escape")
    expect(cell(page, "Air", 5).locator("input")).to_be_focused()


def test_ending_a_phase_early_is_asked_once_more(page, run):
    open_run(page, run)
    page.get_by_role("button", name="Start cooling").click()
    sure = page.get_by_role("button", name="End heating now?")
    expect(sure).to_be_visible()
    expect(page.locator(".hint").first).to_have_text("Heating")
    sure.click()
    expect(page.locator("section[aria-label=Clock] .hint")).to_have_text("Cooling")
    expect(page.locator("th.is-due")).to_have_text("0")
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(cell(page, "Air", 0)).to_have_text("20.0")
    page.get_by_role("button", name="Heating", exact=True).click()
    expect(cell(page, "Avocet", 5)).to_have_class("is-missed")


def test_a_value_from_paper_is_marked_as_not_timed(page, crew: Crew):
    run = crew.run(crew.plan("Avocet"), at=datetime.now(UTC) - timedelta(minutes=21))
    page.goto(f"/runs/{run}")
    cell(page, "Avocet", 5).click()
    page.keyboard.type("31")
    page.keyboard.press("Enter")
    expect(cell(page, "Avocet", 5)).to_have_text("31.0 ≈")
    (row,) = readings(page, run)
    assert (row["time_s"], row["time_measured"]) == (300.0, False)


def test_on_a_tablet_every_target_is_large_enough(browser, server, crew: Crew):
    version = crew.plan("Avocet", until="draft")
    run = crew.run(crew.plan("Dunlin"), at=datetime.now(UTC) - timedelta(minutes=6))
    context = browser.new_context(
        viewport={"width": 1024, "height": 768}, has_touch=True, is_mobile=True, base_url=server.url
    )
    tablet = context.new_page()
    for address in (
        f"/runs/{run}",
        f"/versions/{version}",
        "/challenges/1/builds",
        "/challenges/1/findings",
        "/classes/1",
    ):
        tablet.goto(address)
        tablet.wait_for_timeout(300)
        small = tablet.evaluate(
            """() => [...document.querySelectorAll('main button, main .key, main select')]
              .filter(e => e.offsetParent && e.getBoundingClientRect().height < 39)
              .map(e => e.innerText || e.name)"""
        )
        assert small == [], address
        wide = tablet.evaluate("document.documentElement.scrollWidth")
        assert wide <= 1024, address
    context.close()


def test_printing_the_findings_fills_two_pages_without_the_frame(page, crew: Crew, tmp_path):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    for name, top in (("Avocet", 30), ("Dunlin", 20)):
        for minute in (0, 5, 10, 15, 20):
            crew.read(crew.entries(run)[name], minute, f"{20 + top * minute / 20:.1f}", keep=True)
    page.goto("/challenges/1/findings")
    pdf = page.pdf(format="A4", landscape=True, print_background=True)
    assert 1 <= pdf.count(b"/Type /Page\n") + pdf.count(b"/Type /Page ") <= 2
    page.emulate_media(media="print")
    expect(page.locator(".rail")).to_be_hidden()
    expect(page.locator("section[aria-label=Scores]")).to_be_visible()


LISTEN = """
  window.heard = [];
  window.AudioContext = class {
    state = "running"; currentTime = 0; destination = {};
    createOscillator() {
      const tone = { frequency: {}, connect: (x) => x, stop() {} };
      tone.start = () => window.heard.push(tone.frequency.value);
      return tone;
    }
    createGain() {
      const gain = { setValueAtTime() {}, exponentialRampToValueAtTime() {} };
      return { gain, connect: (x) => x };
    }
  };
"""


def test_the_count_down_is_heard_before_a_mark_and_the_mark_itself(page, crew: Crew):
    run = crew.run(crew.plan("Avocet"), at=datetime.now(UTC) - timedelta(seconds=200))
    page.add_init_script(LISTEN)
    page.goto(f"/runs/{run}")
    page.keyboard.press("Escape")  # a first key lets the browser sound
    for lead in (10, 60):  # the page hears of it within seconds, on a slow machine later
        with crew.database.writing() as session:
            began = datetime.now(UTC) - timedelta(seconds=300 - lead)
            runs.get_run(session, run).phases[0].started_at = began
        expect(page.locator("th.is-due")).to_have_text("0")
        expect(page.locator("th.is-due")).to_have_text("5")
        heard = page.evaluate("window.heard")
        if 520 in heard:
            break
    assert heard[-2:] == [880, 1175]
    assert 1 <= heard[:-2].count(520) <= 3
    page.get_by_role("button", name="Sound on").click()
    expect(page.get_by_role("button", name="Sound off")).to_be_visible()


def test_the_clock_is_right_on_a_laptop_whose_own_clock_is_wrong(page, run):
    page.clock.install(time=datetime.now(UTC) + timedelta(hours=3))
    page.goto(f"/runs/{run}")
    expect(page.locator(".clock")).to_contain_text("6:")
    page.keyboard.press("Escape")
    page.clock.run_for(1000)
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(cell(page, "Air", 5)).to_have_text("20.0")
    (row,) = [r for r in readings(page, run) if r["mark_min"] == 5]
    assert 355 < row["time_s"] < 420


def test_a_sheet_is_typed_in_after_the_test_with_enter_alone(page, crew: Crew):
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)
    page.goto(f"/runs/{run_id}")
    page.get_by_text("It was held on paper").click()
    page.get_by_role("button", name="Type it in").click()
    clock = page.get_by_label("Clock")
    expect(clock).to_contain_text("From paper")
    expect(page.get_by_text("Next: Type in the sheet")).to_be_visible()
    expect(clock).to_contain_text("Read minute 0: 3 to go")
    for minute, values in ((0, ("20", "21", "21.5")), (5, ("20", "30", "28"))):
        for row, value in zip(("Air", "Avocet", "Dunlin"), values, strict=True):
            expect(page.locator("input.cell-input")).to_have_attribute(
                "aria-label", f"{row}, minute {minute}"
            )
            page.keyboard.type(value)
            page.keyboard.press("Enter")
    expect(clock).to_contain_text("Read minute 10: 3 to go")  # no clock was waited for
    expect(page.locator("tr", has_text="Dunlin").first).to_contain_text(re.compile(r"28\.0\s*≈"))
    page.get_by_label("after 3, the last a tenth").check()
    expect(page.locator("input.cell-input")).to_be_focused()
    page.keyboard.type("200305281")  # digits alone: a key a digit
    expect(clock).to_contain_text("Read minute 15: 3 to go")
    soon(lambda: sorted(current(crew))[-3:], [28.1, 30.0, 30.5])
    page.reload()
    expect(clock).to_contain_text("Read minute 15: 3 to go")
    check_access(page)


PASTE = """(text) => {
  const data = new DataTransfer();
  data.setData("text", text);
  const at = document.querySelector("input.cell-input");
  at.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
}"""


def test_a_block_of_a_spreadsheet_goes_in_at_once_and_can_be_taken_back(page, crew: Crew):
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)
    page.goto(f"/runs/{run_id}")
    page.get_by_text("It was held on paper").click()
    page.get_by_role("button", name="Type it in").click()
    page.locator("input.cell-input").wait_for()
    said = page.get_by_role("alert")
    page.evaluate(PASTE, "20\t20\n21\t30\n21.5\t28\n1\t2")
    expect(said).to_contain_text("more rows or columns")
    page.evaluate(PASTE, "20\t20\n21\t30\n21.5\t–")
    expect(page.get_by_text("5 values pasted.")).to_be_visible()
    expect(page.get_by_role("button", name="Not from paper")).to_be_hidden()
    expect(page.get_by_label("Clock")).to_contain_text("Read minute 5: 1 to go")
    page.keyboard.type("28")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Clock")).to_contain_text("Read minute 10: 3 to go")
    page.get_by_label("Avocet, minute 0", exact=True).click()
    page.keyboard.press("Control+A")
    page.keyboard.type("22")  # what was corrected since is not taken back
    page.keyboard.press("Enter")
    soon(lambda: sorted(current(crew))[-3:], [22.0, 28.0, 30.0])
    page.get_by_role("button", name="Take them back").click()
    soon(lambda: sorted(current(crew)), [22.0, 28.0])
    expect(page.get_by_label("Clock")).to_contain_text("Read minute 0: 2 to go")


def test_a_table_with_names_that_is_pasted_into_the_grid_is_looked_into_first(page, crew: Crew):
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)
    page.goto(f"/runs/{run_id}")
    page.get_by_text("It was held on paper").click()
    page.get_by_role("button", name="Type it in").click()
    page.locator("input.cell-input").wait_for()
    page.evaluate(PASTE, "min\tDunlin\tAvocett\n0\t20\t21\n5\t24\t250")
    expect(page.get_by_role("heading", name="How is this table meant?")).to_be_visible()
    expect(page.get_by_role("group", name="Whose is column C, “Avocett”?")).to_be_visible()
    expect(page.get_by_role("radio", name="Avocet")).to_be_checked()
    check_access(page)
    page.get_by_role("button", name="That is right").click()
    expect(page.get_by_text("250 °C cannot be here: this test reads")).to_be_visible()
    page.get_by_role("button", name="That is right").click()
    expect(page.get_by_role("heading", name="Is it so?")).to_be_visible()
    assert current(crew) == []
    page.keyboard.press("s")
    page.get_by_role("link", name="To the test").click()
    expect(page.get_by_label("Clock")).to_contain_text("Read minute 0: 1 to go")  # the air
    assert sorted(current(crew)) == [20.0, 21.0, 24.0]
    page.go_back()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text("3 values taken back.")).to_be_visible()
    assert current(crew) == []


def current(crew: Crew) -> list[float]:
    """The values that count."""
    with crew.database.session() as session:
        rows = session.scalars(select(Reading).order_by(Reading.id)).all()
    replaced = {r.supersedes_id for r in rows}
    return [r.value for r in rows if r.id not in replaced and r.value is not None]
