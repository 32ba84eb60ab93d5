"""Live probes at the desk: put into a build, read at the mark by themselves, and a hand asked when one fails."""

from __future__ import annotations

import re
import threading
from datetime import timedelta

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import check_access
from tests.browser.test_clocked_families import ready as clocked
from tests.browser.test_clocked_families import set_up
from tests.browser.test_station import begin
from tests.browser.test_station import ready as by_turns
from tests.formats.logger_files import dates, table
from thermion.core.judging.probing import Measured
from thermion.records import moments
from thermion.records.running import probes
from thermion.records.running.placed_probes import STORED


def sends(crew, key: str, *values: tuple[str, float], unit: str = "Cel") -> None:
    with crew.database.writing() as session:
        probe = probes.probe_of_key(session, key)
        measured = [
            Measured(name=name, unit=unit, stored_unit=STORED[unit], value=value, time_s=None)
            for name, value in values
        ]
        probes.receive(session, probe, measured)


def test_a_probe_reads_by_itself_and_when_it_falls_silent_a_hand_is_asked(page, crew):
    with crew.database.writing() as session:
        _, key = probes.make_probe(session, "board")
    sends(crew, key, ("A", 20.0), ("B", 34.0))
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)
    page.goto(f"/runs/{run}/probes")
    check_access(page)
    row = page.locator("tr", has_text="B board")
    expect(row.locator("[data-trouble]")).to_have_text("still in the hand?")
    page.get_by_label("Place of A").select_option(label="Avocet")
    page.locator("[data-drag]", has_text="B").drag_to(page.locator("[data-drop]", has_text="Dunlin"))
    expect(page.locator("[data-drop]", has_text="Dunlin").locator("[data-stands]")).to_have_text("B")
    expect(page.locator("[data-drop]", has_text="Avocet").locator("[data-stands]")).to_have_text("A")
    page.get_by_role("link", name="To the run").click()
    page.get_by_role("button", name="Start heating").click()
    expect(page.get_by_text("Read minute 0")).to_be_visible()
    sends(crew, key, ("A", 21.4))
    cell = page.get_by_role("button", name="Avocet, minute 0")
    expect(cell).to_contain_text("21.4")
    lines = page.locator("[data-probe-lines]")
    with crew.database.writing() as session:
        probes.probes_of(session)[0].battery = 9.0
    expect(lines).to_contain_text("The battery of board is at 9 %.")
    with crew.database.writing() as session:  # half a minute goes by
        for channel in probes.probes_of(session)[0].channels:
            channel.last_at -= timedelta(seconds=40)
        session.execute(probes.delete(probes.ProbeValue))
    expect(lines).to_contain_text("Probe of Dunlin: silent. Read it by hand.")
    check_access(page)
    expect(page.get_by_label("Dunlin, minute 0").first).to_be_visible()


def test_a_file_is_slid_along_the_test_by_hand_and_by_keys(page, crew, tmp_path):
    run = crew.run(crew.plan("Avocet"), at=moments.now() - timedelta(minutes=30))
    data, _, _ = table(dates("%d/%m/%Y %H:%M"), ("Date", "Avocet"), rows=30, every=60)
    log = tmp_path / "grey.csv"
    log.write_bytes(data)
    page.goto(f"/runs/{run}/file")
    page.get_by_label("CSV file from the logger").set_input_files(log)
    page.get_by_role("button", name="Look into it").click()
    expect(page.get_by_text("How is this file meant?")).to_be_visible()
    check_access(page)
    page.get_by_role("button", name="That is right").click()
    begin = page.get_by_label("Its first reading is at")
    expect(page.get_by_role("button", name="Store 30 values")).to_be_visible()
    check_access(page)
    slide = page.get_by_label("Slide the file along the test")
    slide.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(begin).to_have_value("0:03")
    begin.fill("-2:00")
    expect(page.get_by_text("before the test began: left out")).to_be_visible()
    box = page.locator("svg.lineup").bounding_box()
    page.mouse.move(box["x"] + 300, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 700, box["y"] + 100, steps=4)
    page.mouse.up()
    expect(begin).to_have_value(re.compile(r"^\d"))
    page.get_by_role("button", name="Store 30 values").click()
    page.wait_for_url(f"**/runs/{run}")


class Board:
    """A board that sends what it shows every second, as one does, until it is unplugged."""

    def __init__(self, crew, unit: str) -> None:
        self.crew, self.unit = crew, unit
        with crew.database.writing() as session:
            self.key = probes.make_probe(session, "board")[1]
        self.shown: dict[str, float] = {}
        self.unplugged = threading.Event()
        self.thread = threading.Thread(target=self.go_on, daemon=True)

    def shows(self, name: str, value: float) -> None:
        self.shown = {name: value}
        sends(self.crew, self.key, (name, value), unit=self.unit)
        if not self.thread.is_alive():
            self.thread.start()

    def go_on(self) -> None:
        while not self.unplugged.wait(1.0):
            sends(self.crew, self.key, *self.shown.items(), unit=self.unit)


@pytest.fixture
def board(crew):
    made: list[Board] = []

    def plug_in(unit: str) -> Board:
        made.append(Board(crew, unit))
        return made[0]

    yield plug_in
    for each in made:
        each.unplugged.set()
        each.thread.join()


def test_a_counter_at_the_shaft_fills_the_rise_until_a_person_types(page, crew, board):
    counter = board("count")
    counter.shows("shaft", 107)
    begin(page, by_turns(crew, "wind_hoist"))
    page.get_by_role("link", name="Machines").click()
    expect(page.get_by_role("heading", name="Which machine reads what")).to_be_visible()
    check_access(page)
    page.get_by_label("Place of shaft").select_option(label="Rise")
    expect(page.locator("[data-drop]", has_text="Rise").locator("[data-stands]")).to_have_text("shaft")
    page.get_by_role("link", name="To the run").click()
    rise = page.get_by_label("Rise", exact=True)
    line = page.locator("[data-machine]")
    expect(line).to_contain_text("set it to zero before the run")
    check_access(page)
    page.keyboard.press("z")
    expect(line).to_contain_text("0 since its zero")
    counter.shows("shaft", 117)
    expect(rise).to_have_value("34.6")
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_label("Rise", exact=True)).to_have_value("34.6")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Attempts")).to_contain_text("34.6 cm")
    expect(page.get_by_label("Attempts")).to_contain_text("rise by a machine")
    expect(line).to_contain_text("set it to zero before the run")  # the next team begins anew
    expect(other.get_by_label("Rise", exact=True)).to_have_value("")  # it was the first team's
    other.close()
    page.get_by_role("button", name="Zero", exact=False).last.click()
    expect(line).to_contain_text("0 since its zero")  # stored, before the counter goes on
    rise.fill("20")
    counter.shows("shaft", 130)
    expect(line).to_contain_text("13 since its zero")
    expect(rise).to_have_value("20")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Attempts").locator("li").first).to_contain_text("20.0 cm")
    expect(page.get_by_label("Attempts").get_by_text("by a machine")).to_have_count(1)


def test_the_probe_of_a_race_is_read_by_itself_and_says_when_the_target_is_reached(page, crew, board):
    probe = board("Cel")
    probe.shows("tip", 20.0)
    set_up(page, clocked(crew, "heat_through"))
    page.get_by_role("link", name="Machines").click()
    page.get_by_label("Place of tip").select_option(label="The race's probe")
    expect(page.locator("[data-drop] [data-stands]")).to_have_text("tip")
    page.get_by_role("link", name="To the run").click()
    expect(page.get_by_label("What does the probe show?")).to_have_value("20")
    page.keyboard.press("Enter")
    expect(page.locator("[data-clock]")).not_to_have_text("0:00")
    probe.shows("tip", 24.5)
    expect(page.locator("[data-last]")).to_contain_text("24.5")
    probe.shows("tip", 55.0)
    expect(page.locator("[data-note]")).to_contain_text("is reached. Stop this race.")
    check_access(page)
    page.get_by_role("button", name="End without reaching it").click()
    expect(page.get_by_label("Attempts")).to_contain_text("20.0 °C")
