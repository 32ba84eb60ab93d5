"""Live probes at the desk: put into a build, read at the mark by themselves, and a hand asked when one fails."""

from __future__ import annotations

import re
from datetime import timedelta

from playwright.sync_api import expect

from tests.browser.conftest import check_access
from tests.formats.logger_files import dates, table
from thermion.core.judging.probing import Measured
from thermion.records import moments
from thermion.records.running import probes


def sends(crew, key: str, *values: tuple[str, float], ago_s: float = 0.0) -> None:
    with crew.database.writing() as session:
        probe = probes.probe_of_key(session, key)
        measured = [Measured(name, "Cel", "degC", celsius, None, ago_s) for name, celsius in values]
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
    page.get_by_label("Build of A").select_option(label="Avocet")
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
