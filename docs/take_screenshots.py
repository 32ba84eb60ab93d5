"""Takes the pictures in docs/screenshots/ from a fresh demo week; run with `make screenshots`."""

from __future__ import annotations

import shutil
import tempfile
import threading
from pathlib import Path

from flask import Flask
from playwright.sync_api import Browser, Page, sync_playwright
from waitress import create_server

from thermion.core.judging.probing import Measured
from thermion.demo import build_demo
from thermion.probes.pretend import Pretended
from thermion.records.database import Database
from thermion.records.planning import briefs
from thermion.records.running import placed_probes, probes, runs
from thermion.web import create_app
from thermion.web.access import through_the_door

ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-sync",
    "--disable-background-networking",
    "--disable-component-update",
]
TARGET = Path(__file__).parent / "screenshots"
VIEWS = {
    "home": "/",
    "new-challenge": "/classes/1/challenges/new",
    "brief-materials": "/challenges/3/brief/materials",
    "brief-lessons": "/challenges/4/brief/lessons",
    "store": "/classes/1/store",
    "builds": "/challenges/1/builds",
    "check": "/versions/25",
    "ideas": "/challenges/3/ideas/6",
    "lesson": "/classes/1/lesson",
    "run-station": "/runs/10",
    "findings": "/challenges/1/findings",
}


def shot(page: Page, name: str) -> None:
    page.wait_for_timeout(500)
    page.screenshot(path=TARGET / f"{name}.png")


def probes_stand(database: Database, run: int) -> None:
    """Six pretended channels in six builds of a run; one has fallen out of its oven's mug."""
    pretended = Pretended(channels=6, family="solar_oven", drop_out=0.0)
    with database.writing() as session:
        probe, _ = probes.make_probe(session, "board at the window")
        for ago in range(8, -1, -1):
            values = pretended.at(900.0 - ago, 900 - ago)
            sent = [
                Measured(name=n, unit="Cel", stored_unit="degC", value=v, time_s=None, ago_s=float(ago))
                for n, v in values
            ]
            probes.receive(session, probe, sent)
        item = runs.get_run(session, run)
        brief = briefs.brief_of(briefs.get_challenge(session, item.challenge_id))
        for channel, entry in zip(probe.channels, [e for e in item.entries if e.version], strict=False):
            placed_probes.put_in(session, channel.id, f"row-{entry.id}", item, brief)


def logged(folder: Path) -> Path:
    """What a logger without a clock would have written of two builds."""
    pretended = Pretended(channels=2, family="solar_oven", drop_out=0.0)
    rows = [pretended.at(float(t), t) for t in range(0, 1200, 10)]
    lines = ["t [s],Avocet [°C],Dunlin [°C]"]
    lines += [f"{10 * i},{','.join(f'{v:.2f}' for _, v in row)}" for i, row in enumerate(rows)]
    file = folder / "grey logger.csv"
    file.write_text("\n".join(lines), encoding="utf-8")
    return file


def what_reads_by_itself(page: Page, database: Database, folder: Path) -> None:
    probes_stand(database, run=4)
    page.goto("/runs/4/probes")
    page.wait_for_timeout(2500)
    shot(page, "probes")
    page.goto("/runs/4/file")
    page.get_by_label("CSV file from the logger").set_input_files(logged(folder))
    page.get_by_role("button", name="Look into it").click()
    if page.get_by_role("button", name="That is right").is_visible():
        page.get_by_role("button", name="That is right").click()
    page.get_by_label("Slide the file along the test").focus()
    for _ in range(90):
        page.keyboard.press("ArrowRight")
    page.wait_for_timeout(1000)
    shot(page, "logger")


def other_devices(page: Page, app: Flask, browser: Browser) -> None:
    """The door at the Desk with who is in, and a pad on a phone that reads its own build."""
    door = create_server(through_the_door(app), host="127.0.0.1", port=0, threads=4)
    threading.Thread(target=door.run, daemon=True).start()
    database = app.extensions["thermion"]
    page.goto("/devices")
    page.get_by_role("button", name="Open the door").click()
    with database.writing() as session:
        runs.get_run(session, 4).pads = "typed"
    for team in ("Avocet", "Dunlin", "Godwit"):
        page.goto("/devices")
        code = page.locator(".door-code", has_text=team).locator(".door-said").inner_text()
        pad = browser.new_page(
            viewport={"width": 390, "height": 844}, base_url=f"http://127.0.0.1:{door.effective_port}"
        )
        pad.goto("/join")
        pad.get_by_label("What is your code?").fill(code)
        pad.get_by_role("button", name="Come in").click()
        pad.locator("summary", has_text="Fill the cistern").or_(
            pad.locator(".pad-more summary")
        ).first.click()
        pad.get_by_role("button", name="Keeper's supper by lamp").click()
        pad.get_by_role("link", name="Read", exact=True).click()
        pad.get_by_role("button", name="4", exact=True).wait_for()
    shot(pad, "pad")
    page.goto("/devices")
    shot(page, "devices")
    door.close()


def main() -> None:
    TARGET.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = create_app({"DATA": Path(folder), "DEMO": True})
        build_demo(app.extensions["thermion"])
        server = create_server(app, host="127.0.0.1", port=0, threads=4)
        threading.Thread(target=server.run, daemon=True).start()
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or shutil.which("chromium"), args=ARGS
        )
        base = f"http://127.0.0.1:{server.effective_port}"
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=base)
        for name, address in VIEWS.items():
            page.goto(address)
            shot(page, name)
        page.goto("/challenges/6/builds")
        page.get_by_role("button", name="Version 2").first.click()
        page.wait_for_load_state()
        handle = page.locator(".d-handle[data-handle=belly]:visible").bounding_box()
        x, y = handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 45, y, steps=4)
        page.mouse.up()
        shot(page, "plan")
        page.goto("/runs/7")
        page.get_by_role("button", name="Open the run again").click()
        page.get_by_role("link", name="Godwit").first.click()
        page.get_by_label("What does the probe show?").fill("20.2")
        page.keyboard.press("Enter")
        for typed in ("20.9", "22.4"):
            page.wait_for_timeout(2500)
            page.keyboard.type(typed, delay=60)
            page.keyboard.press("Enter")
        shot(page, "run-race")
        page.goto("/runs/4")
        page.locator("input.cell-input").wait_for()
        page.keyboard.type("98", delay=60)
        page.keyboard.press("Enter")
        shot(page, "run")
        what_reads_by_itself(page, app.extensions["thermion"], Path(folder))
        page.goto("/classes/1/lesson")
        page.get_by_role("button", name="Again: Show, Each team's minute").click()
        page.get_by_role("button", name="Next turn").click()
        page.goto("/board/classes/1")
        shot(page, "board")
        other_devices(page, app, browser)
        browser.close()
        server.close()


if __name__ == "__main__":
    main()
