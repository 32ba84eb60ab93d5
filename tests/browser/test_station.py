"""A wind hoist, a sail run and a rain catch from brief to findings, at a station."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import check_access
from tests.conftest import Crew
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class

pytestmark = pytest.mark.browser
FIRST = {
    "wind_hoist": ("blade", "card"),
    "sail_run": ("sail", "card"),
    "rain_catch": ("store", "bottle_plastic"),
}


def ready(crew: Crew, key: str) -> int:
    """A challenge of a family with three issued builds; its id."""
    with crew.database.writing() as session:
        made = briefs.create_challenge(session, get_class(session, crew.class_id), key, "By turns")
        briefs.acknowledge_cautions(made)
        briefs.finish_brief(made)
        brief = briefs.brief_of(made)
        place, material = FIRST[key]
        for team in crew.teams.values():
            version = builds.start_version(session, made, team)
            usual = {f.key: f.si("default") for f in brief.kind.build.factors}
            plan = Plan((Part(place=place, material=material, form="flat", units=1),), usual)
            builds.save_draft(version, 1, Draft(plan=plan, prediction=1.0, change_note=""))
            builds.hand_in(version, brief)
            builds.sign(version, brief)
            builds.issue(version)
        return made.id


def begin(page, challenge_id: int) -> None:
    page.goto(f"/challenges/{challenge_id}/runs")
    page.get_by_role("button", name="Start a test").click()
    expect(page.get_by_role("heading", name="On now")).to_be_visible()
    check_access(page)


def point(page, share_x: float, share_y: float) -> None:
    page.wait_for_load_state()  # its script is there
    box = page.locator(".scale").bounding_box()
    page.mouse.click(box["x"] + box["width"] * share_x, box["y"] + box["height"] * share_y)


def test_a_wind_hoist_with_loads_suggested_and_a_zero_in_one_key(page, crew, effort):
    challenge = ready(crew, "wind_hoist")
    begin(page, challenge)
    expect(page.get_by_text("first try: 4")).to_be_visible()
    with effort.of("wind hoist, an attempt with its time", 3):
        page.keyboard.press("s")  # the stopwatch
        page.wait_for_timeout(700)
        point(page, 0.5, 20 / 300)  # the top of the string, which stops it
        expect(page.get_by_label("Rise", exact=True)).to_have_value("60")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Attempts")).to_contain_text(re.compile(r"60.0 cm, \d[.]\d s"))
    expect(page.locator("form h2")).to_contain_text("Dunlin")
    page.wait_for_load_state("load")  # its script is there
    with effort.of("wind hoist, all the way up with its time", 2):
        page.get_by_role("button", name="Stopwatch").click()
        page.wait_for_timeout(700)
        page.get_by_role("button", name="All the way up: keep").click()
        expect(page.get_by_label("Attempts").locator("li")).to_have_count(2)
    expect(page.get_by_label("Attempts").locator("li").first).to_contain_text(
        re.compile(r"60.0 cm, \d[.]\d s")
    )
    page.get_by_role("button", name="Take back").first.click()
    page.get_by_role("button", name="Sure?").click()
    expect(page.get_by_label("Attempts").locator("li")).to_have_count(1)
    page.wait_for_load_state("load")
    page.get_by_role("heading", name="On now").click()
    with effort.of("wind hoist, nothing moved", 1):
        page.locator("body").press("0")
        expect(page.get_by_label("Attempts")).to_contain_text("4 weights, 0.0 cm")
    page.get_by_label("Hub slipped on the shaft").check()
    expect(page.get_by_text("What turned, the rotor or the shaft?")).to_be_visible()
    page.get_by_label("Rise", exact=True).fill("70")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("alert")).to_contain_text("at most 60 cm")
    expect(page.get_by_label("Rise", exact=True)).to_have_value("70")
    expect(page.get_by_label("Hub slipped on the shaft")).to_be_checked()
    page.get_by_label("Rise", exact=True).fill("30")
    page.get_by_label("Time", exact=True).fill("9")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("try 8 (lifts 4)")).to_be_visible()
    page.get_by_role("link", name="Correct this attempt").first.click()
    page.get_by_label("Rise", exact=True).fill("60")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_label("Attempts")).to_contain_text("4 weights, 60.0 cm, 9.0 s")
    expect(page.get_by_label("Attempts")).to_contain_text("before: 4 weights, 30.0 cm, 9.0 s")
    page.goto(f"/challenges/{challenge}/findings")
    check_access(page)
    expect(page.locator("tr", has_text="Dunlin").first).to_contain_text("0")
    expect(page.get_by_role("img", name="Power against load")).to_be_visible()
    page.get_by_role("link", name="All versions").click()
    check_access(page)
    page.get_by_role("link", name="Best power tried").click()
    expect(page.get_by_role("img", name="Best power tried of all versions")).to_be_visible()
    begin(page, challenge)  # tested once more, a build goes on where it was
    expect(page.get_by_text("from an earlier test: try 8 (lifts 4)")).to_be_visible()
    expect(page.get_by_label("Load, weights in the cup")).to_have_value("8")
    page.get_by_role("button", name="All tries in a row").click()
    expect(page.get_by_role("button", name="One each, in rounds")).to_be_visible()
    page.get_by_label("Rise", exact=True).fill("0")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Attempts")).to_contain_text("8 weights, 0.0 cm")
    expect(page.locator("form h2")).to_contain_text("Avocet")


def test_a_sail_run_is_pointed_at_on_the_track(page, crew, effort):
    challenge = ready(crew, "sail_run")
    begin(page, challenge)
    with effort.of("sail run, an attempt with how the sail stood", 3):
        point(page, (20 + 960 * 0.5) / 1000, 0.5)
        expect(page.get_by_label("Where it stopped", exact=True)).to_have_value("120")
        page.get_by_text("held", exact=True).click()
        page.keyboard.press("Enter")
        expect(page.get_by_label("Attempts")).to_contain_text("120 cm, held")
    page.get_by_role("button", name="Absent").click()
    expect(page.get_by_label("Queue")).to_contain_text("absent")
    page.get_by_role("button", name="Take back").click()
    page.get_by_role("button", name="Sure?").click()
    expect(page.get_by_label("Attempts")).to_contain_text("None yet")
    point(page, 0.98, 0.5)  # the end stop
    page.get_by_label("Time", exact=True).fill("4")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Attempts")).to_contain_text("240 cm, 4.0 s")
    page.goto(f"/challenges/{challenge}/findings")
    page.get_by_text("All figures, and how well").click()
    expect(page.get_by_text("≥ 240").first).to_be_visible()


def test_without_a_connection_the_next_build_begins_with_what_it_would_have(page, crew):
    begin(page, ready(crew, "rain_catch"))
    page.wait_for_load_state()
    page.context.set_offline(True)
    first = page.locator("[data-who]").inner_text()
    page.get_by_label("Water caught", exact=True).fill("80")
    page.keyboard.press("Enter")
    expect(page.locator("[data-who]")).not_to_have_text(first)
    expect(page.get_by_label("Water in", exact=True)).to_have_value("200")
    expect(page.get_by_label("Water caught", exact=True)).to_have_value("")
    page.context.set_offline(False)
    expect(page.get_by_label("Attempts")).to_contain_text("200 mL, 80 mL")


def test_rain_is_read_off_the_drawn_jug_and_never_more_than_was_poured(page, crew, effort):
    challenge = ready(crew, "rain_catch")
    begin(page, challenge)
    expect(page.get_by_label("Water in", exact=True)).to_have_value("200")
    with effort.of("rain catch, a shower", 3):
        point(page, 0.3, (280 - 260 * 0.4) / 300)
        expect(page.get_by_label("Water caught", exact=True)).to_have_value("80")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Attempts")).to_contain_text("200 mL, 80 mL")
    leak = page.get_by_role("region", name="Leak check: water in the store")
    for typed in ("78", "90"):
        page.goto(f"{page.url.split('?')[0]}?entry=1")
        leak.get_by_role("textbox").fill(typed)
        leak.get_by_role("button", name="Note").click()
        expect(leak).to_contain_text(f"{typed} mL")
    expect(page.get_by_role("alert")).to_contain_text("More water than at the check before")
    leak.get_by_role("button", name="Take back").last.click()
    leak.get_by_role("button", name="Sure?").click()
    expect(leak).not_to_contain_text("90 mL")
    page.goto(page.url.split("?")[0])
    page.get_by_label("Water caught", exact=True).fill("230")
    page.get_by_role("button", name="Keep").click()
    at_the_field = page.get_by_role("alert").filter(has_text="at most 200 mL")
    in_the_tray = page.locator(
        ".tray", has_text="was not stored"
    )  # where nobody waited so long for an answer
    expect(at_the_field.or_(in_the_tray).first).to_be_visible()
    if not at_the_field.count():
        page.get_by_role("button", name="Look at it").click()
        expect(page.locator(".tray dialog")).to_contain_text("at most 200 mL")
        page.get_by_role("button", name="Close", exact=True).click()
    page.goto(f"{page.url.split('?')[0]}?entry=2")  # where it was slow, a build further on
    page.get_by_role("button", name="Nothing happened").click()
    expect(page.get_by_label("Attempts")).to_contain_text("200 mL, 0 mL")
    page.goto(f"/challenges/{challenge}/findings")
    expect(page.locator("tr", has_text="Avocet").last).to_contain_text("40")
    expect(page.get_by_role("img", name="Caught and lost")).to_be_visible()


def test_ice_is_read_in_millilitres_with_digits_and_enter(page, crew, effort):
    from datetime import UTC, datetime, timedelta

    from tests.records.test_ice import Ice
    from thermion.records.tables import RunPhase

    ice = Ice(crew, "volume")
    with ice.database.writing() as session:
        phase = session.query(RunPhase).filter_by(run_id=ice.run_id).one()
        phase.started_at = datetime.now(UTC) - timedelta(minutes=10, seconds=20)
    page.goto(f"/runs/{ice.run_id}")
    cell = page.locator("input.cell-input")
    cell.wait_for()
    for typed in ("21.5", "9", "14"):  # air, then the jars: digits and Enter each
        with effort.of(f"ice, {typed}", len(typed) + 1):
            page.keyboard.type(typed, delay=40)
            page.keyboard.press("Enter")
            page.wait_for_timeout(250)
    expect(page.locator("tr", has_text="Dunlin").last).to_contain_text("14")
    expect(page.get_by_text("water drained (mL)")).to_be_visible()
    page.goto(f"/challenges/{ice.id}/findings")
    check_access(page)
    expect(page.locator("tr", has_text="Dunlin").last).to_contain_text("14")


def test_two_stations_have_a_queue_each_on_one_page_and_one_that_is_through_helps(page, crew):
    begin(page, ready(crew, "sail_run"))
    page.get_by_role("button", name="Two stations").click()
    first, second = page.get_by_role("region", name="Station 1"), page.get_by_role("region", name="Station 2")
    expect(first.get_by_role("link")).to_contain_text(["Station 1", "Avocet", "Godwit"])
    expect(second.get_by_role("link")).to_contain_text(["Station 2", "Dunlin"])
    check_access(page)
    page.get_by_role("link", name="Station 2").click()
    expect(second).to_contain_text("this screen")
    for number in (1, 2, 3):
        expect(page.locator("[data-station]")).to_contain_text(f"Attempt {number}")
        expect(page.locator("[data-station] h2")).to_contain_text("Dunlin")
        point(page, (20 + 960 * 0.25) / 1000, 0.5)
        page.keyboard.press("Enter")
        expect(page.get_by_label("Attempts").locator("li")).to_have_count(number)
    expect(page.locator("[data-station] h2")).to_contain_text("Godwit")  # who would wait at the other
    expect(second.get_by_role("link")).to_contain_text(["Station 2", "Godwit"])
    page.wait_for_load_state("load")
    page.get_by_role("button", name="Close the run").click()
    page.get_by_role("button", name="Close it with turns left?").click()
    page.goto("/runs/1")  # closed: no turn slips in, a correction does
    expect(page.get_by_text("This run is closed.")).to_be_visible()
    expect(page.locator("[data-station]")).to_have_count(0)
    page.get_by_role("button", name="Open the run again").click()
    expect(page.locator("[data-station] h2")).to_contain_text("Avocet")


def test_what_another_screen_notes_shows_here_but_never_over_what_is_typed(page, crew):
    challenge = ready(crew, "sail_run")
    begin(page, challenge)
    other = page.context.new_page()
    other.goto("/runs/1")
    other.get_by_label("Where it stopped", exact=True).fill("55")
    other.keyboard.press("Enter")
    expect(page.get_by_label("Attempts")).to_contain_text("55 cm")
    expect(page.locator("[data-station] h2")).to_contain_text("Dunlin")
    page.get_by_label("Where it stopped", exact=True).fill("90")
    other.get_by_label("Where it stopped", exact=True).fill("60")
    other.keyboard.press("Enter")
    expect(page.get_by_text("Something was noted meanwhile.")).to_be_visible(timeout=12000)
    expect(page.get_by_label("Where it stopped", exact=True)).to_have_value("90")
