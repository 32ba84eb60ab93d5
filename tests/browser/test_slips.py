"""A tired hand: each slip is asked about at the place where it was typed, and what was typed is kept."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from playwright.sync_api import expect

from tests.browser.test_clocked_families import ready as prepared
from tests.browser.test_clocked_families import set_up
from tests.browser.test_station import begin, ready
from tests.records.test_ice import Ice
from thermion.records.planning.classes import get_class
from thermion.records.running import runs
from thermion.records.tables import RunPhase


def note(page, entry: int, **typed: str) -> None:
    page.goto(f"{page.url.split('?')[0]}?entry={entry}")
    page.wait_for_load_state()
    for name, text in typed.items():
        page.locator(f"[name={name}]").fill(text)
    page.get_by_role("button", name="Keep").click()


def test_metres_for_centimetres_a_lost_sign_and_minutes_with_seconds_at_a_station(page, crew):
    begin(page, ready(crew, "wind_hoist"))
    attempts, main = page.get_by_label("Attempts"), page.locator("body")
    note(page, 1, load="12", rise_m="0.6")
    expect(main).to_contain_text("Rise: Was that in metres? Then it is 60 cm. It was kept.")
    expect(attempts).to_contain_text("12 weights, 0.6 cm")
    note(page, 2, load="2", rise_m="60", time_s="7")
    expect(attempts).to_contain_text("2 weights, 60.0 cm, 7.0 s")
    note(page, 2, load="2", rise_m="60", time_s="75")
    expect(main).to_contain_text("Time: A decimal sign left out? Then it is 7.5 s. It was kept.")
    note(page, 3, load="1", rise_m="30", time_s="3:10")  # refused until now, though it is clear
    expect(attempts).to_contain_text("1 weight, 30.0 cm, 190.0 s")


def test_more_water_than_there_was_ice(page, crew):
    ice = Ice(crew, "volume")
    with ice.database.writing() as session:
        phase = session.query(RunPhase).filter_by(run_id=ice.run_id).one()
        phase.started_at = datetime.now(UTC) - timedelta(minutes=10, seconds=20)
    page.goto(f"/runs/{ice.run_id}")
    page.locator("input.cell-input").wait_for()
    for typed in ("21.5", "140"):
        page.keyboard.type(typed, delay=40)
        page.keyboard.press("Enter")
    expect(page.locator("main")).to_contain_text("That is more than the ice that was put in")


def test_a_drink_in_degrees_celsius_in_a_class_of_fahrenheit(page, crew):
    with crew.database.writing() as session:
        get_class(session, crew.class_id).temp_unit = "degF"
    run_id = set_up(page, prepared(crew, "keep_temp", {"measure": "temp"}))
    with crew.database.writing() as session:
        began = datetime.now(UTC) - timedelta(seconds=20)
        runs.get_run(session, run_id).phases = [RunPhase(phase="standing", started_at=began)]
    page.goto(f"/runs/{run_id}")
    page.locator("input.cell-input").wait_for()
    for number in ("60", "72"):  # the control, the air
        page.keyboard.type(number, delay=40)
        page.keyboard.press("Enter")
    page.keyboard.type("60", delay=40)  # the first jar
    page.keyboard.press("Enter")
    expect(page.locator("main")).to_contain_text("Was that 60 °C?")


def test_the_findings_lead_to_the_number_that_all_others_contradict(page, crew):
    """64 for 46, kept at the hand: found afterwards, opened where it stands and put right."""
    began = datetime.now(UTC) - timedelta(minutes=32)
    run_id = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), at=began)
    entries = crew.entries(run_id)
    curves = {"Avocet": (20, 31, 40, 64, 50, 53, 55), "Dunlin": (20, 28, 34, 38, 41, 43, 44)}
    for name, values in curves.items():
        for i, value in enumerate(values):
            moment = began + timedelta(minutes=5 * i, seconds=5)
            crew.read(entries[name], 5 * i, str(value), keep=True, moment=moment)
    page.goto("/challenges/1/findings")
    asked = page.locator(".notice-ask", has_text="Avocet in run 1, minute 15: 64.0 °C.")
    asked.get_by_role("link", name="Look at it").click()
    cell = page.locator("input.cell-input")
    expect(cell).to_have_attribute("data-cell", f"{entries['Avocet']}|heating|900")
    cell.fill("46")
    cell.press("Enter")
    expect(page.locator("button.cell", has_text="46.0")).to_be_visible()
    page.goto("/challenges/1/findings")
    expect(page.get_by_text("Its other readings make it")).to_have_count(0)
    page.get_by_role("button", name="How Avocet came to").click()
    expect(page.get_by_text("20.0, 31.0, 40.0, 46.0, 50.0, 53.0, 55.0 °C at")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("20.0, 31.0, 40.0, 46.0, 50.0, 53.0, 55.0 °C at")).to_be_hidden()
