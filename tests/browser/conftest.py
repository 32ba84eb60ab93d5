"""A real server over a fresh folder and a real browser, driven by keys as a teacher would."""

from __future__ import annotations

import shutil
from contextlib import contextmanager

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import BrowserContext, Page, expect, sync_playwright

from tests.conftest import Crew
from tests.serving import Server, free_port
from thermion.records.database import Database

PATIENT_MS = 120_000  # a machine may be at work elsewhere: what is waited for comes when it comes
expect.set_options(timeout=PATIENT_MS)

ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-sync",
    "--disable-background-networking",
    "--disable-component-update",
    "--process-per-site",
]


@pytest.fixture(scope="session")
def port(worker_id) -> int:
    """One for all servers of this process, below those that the system hands out by itself."""
    number = int(worker_id.removeprefix("gw")) if worker_id.startswith("gw") else 99
    return free_port(20_000 + 100 * number)


@pytest.fixture
def server(folder, port):
    made = Server(folder, port)
    yield made
    made.kill()


@pytest.fixture(scope="session")
def browser():
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert path, "headless Chromium from Debian's packages is needed: make chromium"
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path=path, args=ARGS)
        yield launched
        launched.close()


@pytest.fixture(scope="session")
def device(browser, port) -> BrowserContext:
    """What stories share: a new device each costs a second of the processor, for scripts compiled anew."""
    return browser.new_context(viewport={"width": 1280, "height": 800}, base_url=f"http://127.0.0.1:{port}")


def forget(device: BrowserContext, url: str) -> None:
    """All that a story left on its device; styles and scripts stay, their addresses name their content."""
    device.set_offline(False)
    first, *others = device.pages
    for other in others:
        other.close()
    device.clear_cookies()
    kept = "local_storage,indexeddb,cache_storage,service_workers,websql,file_systems"
    device.new_cdp_session(first).send("Storage.clearDataForOrigin", {"origin": url, "storageTypes": kept})


@pytest.fixture
def page(device, server):
    """A page that fails its test when a script or the content policy complains."""
    if not device.pages:
        device.new_page().goto("/favicon.ico")  # keeps the process of the site's pages
    opened = device.new_page()
    opened.set_default_timeout(PATIENT_MS)
    faults: list[str] = []
    opened.on("pageerror", lambda error: faults.append(str(error)))
    opened.on("console", lambda m: faults.append(m.text) if "Content Security Policy" in m.text else None)
    yield opened
    forget(device, server.url)
    assert faults == []


@pytest.fixture
def own_page(browser, server):
    """A page on a device of its own, for a story that changes the device itself."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
    yield context.new_page()
    context.close()


COUNT_KEYS = """
  for (const kind of ["keydown", "pointerdown"])
    window.addEventListener(kind, () => {
      sessionStorage.effort = Number(sessionStorage.effort || 0) + 1;
    }, true);
"""


class Effort:
    """Keys and taps as the page itself gets them, reading by reading."""

    def __init__(self, page: Page, note) -> None:
        self.page, self.note = page, note
        page.add_init_script(COUNT_KEYS)

    def count(self) -> int:
        return self.page.evaluate("Number(sessionStorage.effort || 0)")

    @contextmanager
    def of(self, what: str, most: int):
        """What is done in the block is one reading; it may cost at most so many keys or taps."""
        before = self.count()
        yield
        used = self.count() - before
        self.note("effort", f"{what}: {used} (aim {most})")
        assert 0 < used <= most, what


@pytest.fixture
def effort(page, record_property) -> Effort:
    return Effort(page, record_property)


@pytest.fixture
def crew(server) -> Crew:
    """A class in the server's folder, made beside it."""
    return Crew(Database(server.folder))


def tab_to(page: Page, name: str, limit: int = 160) -> None:
    """Press Tab until the control with this accessible name has the focus."""
    for _ in range(limit):
        page.keyboard.press("Tab")
        found = page.evaluate(
            """() => { const e = document.activeElement;
              const label = e.labels && e.labels[0] && e.labels[0].innerText;
              const key = e.querySelector("kbd")?.innerText ?? "";
              const text = e.innerText?.trim();
              const words = key && text.endsWith(key) ? text.slice(0, -key.length) : text;
              return [e.getAttribute('aria-label'), label, words, e.value]
                .filter(Boolean).map(s => s.trim()); }"""
        )
        if name in found:
            return
    raise AssertionError(f"Tab never reached “{name}”")


def type_into(page: Page, name: str, text: str) -> None:
    """Reach a field by Tab and type over what is in it."""
    tab_to(page, name)
    page.keyboard.press("Control+A")
    page.keyboard.type(text)


def press(page: Page, name: str, key: str = "Enter") -> None:
    """Reach a button, link or choice by Tab and press it."""
    tab_to(page, name)
    page.keyboard.press(key)


def check_access(page: Page) -> None:
    """No WCAG 2.2 A or AA finding of axe on this page."""
    rules = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
    options = {"runOnly": rules, "resultTypes": ["violations"]}
    found = Axe().run(page, options=options)
    assert found.violations_count == 0, f"{page.url}\n{found.generate_report()}"
