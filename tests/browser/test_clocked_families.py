"""Melting by eye, races with one probe and a warm drink, from brief to findings; what is kept."""

from __future__ import annotations

import re
import time
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import check_access
from tests.conftest import Crew, photograph
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.records.running import runs
from thermion.records.tables import RunPhase

pytestmark = pytest.mark.browser
PARTS = {
    "melt_pair": (("fast_base", "black_paper"), ("slow_wrap", "felt")),
    "heat_through": (("sample", "felt"),),
    "keep_temp": (("wall", "felt"),),
}


def ready(crew: Crew, key: str, choices: dict[str, str] | None = None) -> int:
    """A challenge of a family with three issued builds; its id."""
    with crew.database.writing() as session:
        made = briefs.create_challenge(session, get_class(session, crew.class_id), key, key)
        briefs.save_settings(made, {}, choices or {})
        briefs.acknowledge_cautions(made)
        briefs.finish_brief(made)
        session.flush()
        brief = briefs.brief_of(made)
        usual = {f.key: f.si("default") for f in brief.kind.build.factors}
        plan = Plan(tuple(Part(place=p, material=m, form="flat", units=1) for p, m in PARTS[key]), usual)
        for team in crew.teams.values():
            version = builds.start_version(session, made, team)
            builds.save_draft(version, 1, Draft(plan=plan, prediction=5.0, change_note=""))
            for step in (builds.hand_in, builds.sign):
                step(version, brief)
            builds.issue(version)
        return made.id


def set_up(page, challenge_id: int) -> int:
    page.goto(f"/challenges/{challenge_id}/runs")
    page.get_by_role("button", name="Start a test").click()
    page.wait_for_url(re.compile(r"/runs/\d+$"))
    return int(page.url.rsplit("/", 1)[1])


def age(crew: Crew, run_id: int, minutes: float) -> None:
    """Let the run's clock have begun so long ago."""
    with crew.database.writing() as session:
        for phase in runs.get_run(session, run_id).phases:
            phase.started_at = datetime.now(UTC) - timedelta(minutes=minutes)


def test_a_melt_pair_is_read_with_one_key_a_stage(page, crew, effort):
    challenge = ready(crew, "melt_pair")
    page.goto(f"/challenges/{challenge}/runs")
    expect(page.get_by_label("Control beside them")).to_be_checked()
    run = set_up(page, challenge)
    page.get_by_role("button", name="Start the clock").click()
    cell = page.locator("input.cell-input")
    cell.wait_for()
    page.get_by_role("button", name="Close the run").click()
    expect(page.get_by_role("button", name="The control was not read")).to_be_visible()
    for _ in range(6):  # minute 0: control, then fast and slow of the first teams, one key each
        with effort.of("melt pair, a stage", 1):
            page.keyboard.press("0")
            page.wait_for_timeout(200)
    page.get_by_role("button", name="firm").click()  # or pointed at on its drawing
    expect(page.get_by_role("status").first).to_have_text("Minute 0 is read")
    check_access(page)
    for minute, seen in ((2.1, "1302024"), (4.1, "2403040")):
        age(crew, run, minute)
        page.goto(f"/runs/{run}")
        cell.wait_for()
        for stage in seen:
            page.keyboard.press(stage)
            page.wait_for_timeout(200)
    # the last row went from liquid back to firm: asked, with what was seen before one key away
    bubble = page.locator(".bubble")
    expect(bubble).to_contain_text("less melted than before")
    page.keyboard.press("c")
    expect(bubble).to_have_count(0)
    expect(page.locator("tbody tr").last.locator("td").nth(2)).to_contain_text("4")
    page.goto(f"/challenges/{challenge}/findings")
    check_access(page)
    expect(page.get_by_role("img", name="When it got there")).to_be_visible()
    expect(page.locator("tr", has_text="Avocet").last).to_contain_text(re.compile(r"0\.\d–2\.\d"))
    page.get_by_role("link", name="Race").click()  # places by intervals, without a sum
    expect(page.get_by_label("Scores")).to_contain_text(re.compile(r"at least 4\.\d min"))


def test_a_race_with_one_probe_starts_and_stops_with_one_key(page, crew, effort):
    challenge = ready(crew, "heat_through")
    run = set_up(page, challenge)
    check_access(page)
    expect(page.get_by_label("Queue").locator("p").first).to_contain_text("Control")
    page.get_by_role("link", name="Avocet").first.click()
    page.wait_for_url("**entry=*")
    page.get_by_label("What does the probe show?").fill("20.1")
    page.keyboard.press("Enter")
    expect(page.get_by_text("The bare probe has not been raced yet")).to_be_visible()
    page.goto(f"/runs/{run}")
    page.get_by_label("What does the probe show?").fill("36")
    page.keyboard.press("Enter")
    expect(page.get_by_text("at the target of 35.0 °C already")).to_be_visible()
    page.get_by_label("What does the probe show?").fill("20.0")
    with effort.of("heat-through, the start", 1):
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="At 35.0 °C: stop")).to_be_visible()
    with effort.of("heat-through, 27.5 °C on the way", 5):
        page.keyboard.type("27.5")
        page.keyboard.press("Enter")
        expect(page.get_by_text("last 27.5 °C at")).to_be_visible()
    page.reload()  # the clock is the moment of its start, so it runs on
    expect(page.locator("[data-clock]")).to_have_text(re.compile(r"0:0[1-9]"))
    with effort.of("heat-through, the stop", 1):
        page.keyboard.press("Space")
        expect(page.get_by_text("It is still warm from Control")).to_be_visible()
    expect(page.get_by_label("Attempts")).to_contain_text("20.0 °C")
    expect(page.get_by_role("button", name="Start")).to_be_enabled()
    page.get_by_label("What does the probe show?").fill("23")  # Avocet: the probe was not cooled
    page.keyboard.press("Enter")
    expect(page.get_by_text("Cool the probe in the glass and dry it.").last).to_be_visible()
    page.get_by_role("button", name="Start anyway").click()
    page.get_by_role("button", name="False start").click()
    page.get_by_role("button", name="Does not count: sure?").click()
    expect(page.get_by_label("What does the probe show?")).to_be_visible()
    expect(page.get_by_label("Attempts").locator("li")).to_have_count(1)
    page.goto(f"/runs/{run}?entry=3&paper=1")
    page.get_by_label("Probe at the start").fill("20.2")
    page.get_by_label("Time to the target").fill("41.5")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Attempts")).to_contain_text("20.2 °C, 41.5 s")
    page.goto(f"/board/runs/{run}")
    check_access(page)
    page.goto(f"/challenges/{challenge}/findings")
    check_access(page)
    expect(page.get_by_role("img", name="Times against the bare probe")).to_be_visible()
    expect(page.locator("tr", has_text="Dunlin").last).to_contain_text("41.9")


def test_a_race_goes_on_when_the_connection_drops(page, crew):
    run = set_up(page, ready(crew, "heat_through"))
    page.get_by_label("What does the probe show?").fill("20")
    begun = time.monotonic()
    page.keyboard.press("Enter")
    stop = page.get_by_role("button", name="At 35.0 °C: stop")
    expect(stop).to_be_visible()
    page.wait_for_timeout(1300)
    page.context.set_offline(True)
    page.keyboard.press("Space")
    raced = time.monotonic() - begun
    expect(page.get_by_role("alert").first).to_contain_text("entry waits on this device")
    page.wait_for_timeout(3000)
    page.context.set_offline(False)
    attempts = page.get_by_label("Attempts")
    expect(attempts).to_contain_text(re.compile(r"20.0 °C, \d+\.\d s"))
    shown = float(re.search(r"20.0 °C, (\d+\.\d) s", attempts.inner_text())[1])
    assert 1.2 < shown <= raced + 0.1  # when the key was pressed, not when it arrived
    page.goto(f"/runs/{run}")
    expect(attempts).to_contain_text("20.0 °C")


def test_a_warm_drink_beside_a_melt_pair_in_one_class(page, crew):
    drink = ready(crew, "keep_temp", {"measure": "temp"})
    melting = ready(crew, "melt_pair")
    first, second = set_up(page, melting), set_up(page, drink)
    with crew.database.writing() as session:
        began = datetime.now(UTC) - timedelta(minutes=10, seconds=20)
        for run_id, phase in ((first, "melting"), (second, "standing")):
            runs.get_run(session, run_id).phases = [RunPhase(phase=phase, started_at=began)]
    page.goto(f"/runs/{second}")
    going = page.get_by_label("Going on")
    expect(going).to_contain_text("melt_pair, minute 10")
    page.locator("input.cell-input").wait_for()
    for typed in ("50.5", "21", "52", "53.5", "51"):  # control, air, three jars
        page.keyboard.type(typed, delay=30)
        page.keyboard.press("Enter")
        page.wait_for_timeout(200)
    expect(page.get_by_role("status").first).to_have_text("Minute 10 is read")
    age(crew, second, 20.2)
    page.goto(f"/runs/{second}")
    page.locator("input.cell-input").wait_for()
    for typed in ("42", "21", "45", "48", "44"):
        page.keyboard.type(typed, delay=30)
        page.keyboard.press("Enter")
        page.wait_for_timeout(200)
    going.get_by_role("link", name="melt_pair").click()
    expect(page.get_by_label("Going on")).to_contain_text("keep_temp")
    page.goto(f"/challenges/{drink}/findings")
    check_access(page)
    dunlin = page.locator("tr", has_text="Dunlin").last
    expect(dunlin).to_contain_text("≥ ")  # held so long at least: it was not watched longer
    page.get_by_role("link", name="All versions").click()
    page.get_by_role("link", name="Minutes held").click()
    expect(page.get_by_role("img", name="Minutes held of all versions")).to_be_visible()


def test_handles_pictures_ideas_and_a_conclusion_that_is_carried_on(page, crew, tmp_path):
    first = ready(crew, "heat_through")
    later = ready(crew, "keep_temp")
    page.goto(f"/challenges/{later}/builds")
    page.get_by_role("button", name="Version 2").first.click()
    page.wait_for_url("**/versions/*")
    page.wait_for_load_state("load")  # its script is there
    slider = page.get_by_label("Jacket, thickness")
    before = float(slider.input_value())
    handle = page.locator(".d-handle[data-handle=jacket_m]:visible").bounding_box()
    x, y = handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 30, y, steps=3)
    page.mouse.up()
    assert float(slider.input_value()) < before - 0.4
    expect(page.get_by_text("Jacket, thickness: 3 →")).to_be_visible()
    expect(page.locator(".d-ghost").first).to_be_attached()  # where version 1 ended
    expect(page.locator(".d-handle-changed")).to_have_count(1)
    page.get_by_label("An idea that helped came from").select_option(label="Godwit")
    expect(page.get_by_text("kept", exact=True)).to_be_visible()
    picture = tmp_path / "jar.jpg"
    picture.write_bytes(photograph())
    page.get_by_label("Sketch or photograph").set_input_files(picture)
    page.get_by_role("button", name="Attach").click()
    shown = page.get_by_role("img", name="Picture 1 of version 2")
    expect(shown).to_be_visible()
    expect(shown).to_have_js_property("naturalHeight", 320)
    expect(shown).to_have_js_property("naturalWidth", 200)
    expect(page.get_by_label("An idea that helped came from")).to_have_value(str(crew.teams["Godwit"]))
    note = tmp_path / "note.txt"
    note.write_text("not a picture")
    page.get_by_label("Sketch or photograph").set_input_files(note)
    page.get_by_role("button", name="Attach").click()
    expect(page.get_by_text("not a JPEG, PNG or WebP").first).to_be_visible()
    check_access(page)
    run = set_up(page, first)
    for entry, seconds in ((1, "20"), (2, "80")):
        page.goto(f"/runs/{run}?entry={entry}&paper=1")
        page.get_by_label("Probe at the start").fill("20")
        page.get_by_label("Time to the target").fill(seconds)
        page.keyboard.press("Enter")
        expect(page.get_by_label("Attempts")).to_contain_text(f"{seconds}.0 s")
    page.goto(f"/challenges/{first}/findings")
    page.get_by_label("What we found, in one sentence").fill("Felt holds the heat back.")
    page.get_by_label("For which challenge").select_option(label="keep_temp")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_label("Conclusions")).to_contain_text("Felt holds the heat back.")
    for address in (
        f"/challenges/{later}/brief/task",
        f"/challenges/{later}/builds",
        f"/challenges/{later}/sheets/brief",
    ):
        page.goto(address)
        expect(page.get_by_text("Felt holds the heat back.")).to_be_visible()
