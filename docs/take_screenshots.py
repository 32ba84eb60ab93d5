"""Takes the pictures in docs/screenshots/ from a fresh demo week; run with `make screenshots`."""

from __future__ import annotations

import shutil
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from waitress import create_server

from thermion.demo import build_demo
from thermion.web import create_app

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
    "brief-task": "/challenges/4/brief/task?dial=13-16",
    "brief-materials": "/challenges/3/brief/materials",
    "brief-lessons": "/challenges/4/brief/lessons",
    "store": "/classes/1/store",
    "builds": "/challenges/1/builds",
    "check": "/versions/25",
    "ideas": "/challenges/3/ideas/6",
    "lesson": "/classes/1/lesson",
    "run-stages": "/runs/9",
    "run-station": "/runs/10",
    "findings": "/challenges/1/findings",
    "findings-intervals": "/challenges/9/findings",
}


def shot(page: Page, name: str, *, whole: bool = False) -> None:
    page.wait_for_timeout(500)
    page.screenshot(path=TARGET / f"{name}.png", full_page=whole)


def main() -> None:
    TARGET.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        app = create_app({"DATA": Path(folder), "DEMO": True})
        build_demo(app.extensions["thermion"])
        server = create_server(app, host="127.0.0.1", port=0, threads=4)
        threading.Thread(target=server.run, daemon=True).start()
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGS)
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
        page.goto("/challenges/1/findings")
        shot(page, "findings-whole", whole=True)
        page.goto("/classes/1/lesson")
        page.get_by_role("button", name="Again: Share, Each team's minute").click()
        page.get_by_role("button", name="Next turn").click()
        page.goto("/board/classes/1")
        shot(page, "board")
        browser.close()
        server.close()


if __name__ == "__main__":
    main()
