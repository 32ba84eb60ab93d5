"""A class's worst hour: three tabs of one run, a station and a race on one device, and a connection that
comes and goes. Whatever was typed has arrived once, or waits in the tray."""

from __future__ import annotations

import os
import random
import re
import time
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Error, Page

from tests.browser.test_clocked_families import ready as clocked
from tests.browser.test_clocked_families import set_up
from tests.browser.test_outbox import soon
from tests.browser.test_station import begin
from tests.browser.test_station import ready as by_turns
from thermion.records.running.attempts import FROM
from thermion.records.tables import AttemptRow, Reading
from thermion.web.static_files import version

pytestmark = pytest.mark.browser
WRITES = int(os.environ.get("WRITES", "30"))

# Every id that an outbox of this device is given, and what it was; kept by the test, not by the page.
WATCH = (
    f"import('/static/{version()}/js/lib/outbox.js')"
    """
  .then(({ outbox }) => {
    outbox.listen(({ kind, item }) => {
      if (kind === "put") window.noted(item.id, `${item.where}: ${item.typed}`);
      if (kind === "dropped") window.decided(item.id);
    });
  });
"""
)


class Device:
    """A browser with its pages, whose connection can be cut."""

    def __init__(self, page: Page, addresses: list[str]) -> None:
        self.context = page.context
        self.typed: dict[str, str] = {}
        self.online = True
        self.decided: set[str] = set()  # refused ones that another value typed there replaced
        self.context.expose_function("noted", self.noted)
        self.context.expose_function("decided", self.dropped)
        self.context.add_init_script(f"addEventListener('DOMContentLoaded', () => {{ {WATCH} }});")
        self.pages = [self.context.new_page() for _ in addresses]
        self.addresses = addresses
        for page, address in zip(self.pages, addresses, strict=True):
            page.set_default_timeout(8000)
            page.goto(address)

    def noted(self, item: str, what: str) -> None:
        self.typed[item] = what

    def dropped(self, item: str) -> None:
        self.decided.add(item)

    def flap(self, draw: random.Random) -> None:
        self.online = draw.random() < 0.5
        self.context.set_offline(not self.online)

    def anew(self, which: int, draw: random.Random) -> None:
        """A page loaded anew, or closed and opened again, in the middle of what it does."""
        if draw.random() < 0.5:
            self.pages[which].close()
            self.pages[which] = self.context.new_page()
            self.pages[which].set_default_timeout(8000)
        self.open(which)

    def open(self, which: int) -> None:
        until = time.monotonic() + 600
        while True:
            try:
                self.pages[which].goto(self.addresses[which])
                return
            except Error:  # the page was just going there by itself, or the connection has just come
                if time.monotonic() > until:
                    raise
                time.sleep(0.2)

    def waiting(self) -> list[str]:
        script = """() => new Promise((done) => {
          const asked = indexedDB.open("thermion-outbox", 1);
          asked.onsuccess = () => {
            const all = asked.result.transaction("items").objectStore("items").getAll();
            all.onsuccess = () => done(all.result.map((item) => [item.id, Boolean(item.answer)]));
          };
        })"""
        return self.pages[0].evaluate(script)


def on_grid(page: Page, draw: random.Random) -> None:
    """A value in any cell of the two marks that have come."""
    cells = page.locator("td").get_by_label(re.compile("minute [05]$"))
    cells.nth(draw.randrange(cells.count())).dispatch_event("click", timeout=2000)  # a bubble may lie over it
    page.keyboard.press("Control+A")
    page.keyboard.type(str(draw.randrange(180, 320) / 10))
    page.keyboard.press("Enter")


def at_station(page: Page, draw: random.Random) -> None:
    field = page.get_by_label("Where it stopped", exact=True)
    if field.is_visible():
        field.fill(str(draw.randrange(20, 200)), timeout=2000)
        page.keyboard.press("Enter")


def in_race(page: Page, draw: random.Random) -> None:
    """Whatever can be pressed now: a start, what the probe shows, a false start."""
    if page.locator("[data-ready]").is_visible():
        page.get_by_label("What does the probe show?").fill("20", timeout=2000)
    elif page.locator("[data-going]").is_visible():
        page.get_by_label("Probe now").fill(str(20 + draw.randrange(100) / 10), timeout=2000)
    page.keyboard.press("Enter")


@pytest.mark.parametrize("seed", [7])
def test_many_writes_over_a_connection_that_comes_and_goes(own_page, crew, seed):
    page = own_page
    begin(page, by_turns(crew, "sail_run"))
    station = f"{page.url}?entry=1"  # which shows the form also when all have had their turns
    race = set_up(page, clocked(crew, "heat_through"))
    began = datetime.now(UTC) - timedelta(minutes=6)
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), crew.plan("Godwit"), at=began)
    grid = f"/runs/{run}"
    device = Device(page, [grid, grid, grid, station, f"/runs/{race}"])
    acts = [on_grid, on_grid, on_grid, at_station, in_race]
    draw = random.Random(seed)
    tried = 0
    while len(device.typed) < WRITES and tried < 3 * WRITES:
        tried += 1
        if draw.random() < 0.15:
            device.flap(draw)
        which = draw.randrange(len(acts))
        if device.online and draw.random() < 0.06:
            device.anew(which, draw)
        try:
            acts[which](device.pages[which], draw)
        except Error:  # the page went on at that moment, or the browser shows that it is offline
            if device.online:
                device.open(which)
    device.context.set_offline(False)
    for which in range(len(acts)):
        device.open(which)
    soon(lambda: [x for x, refused in device.waiting() if not refused], [])

    with crew.database.session() as session:
        arrived = [r for (r,) in session.query(Reading.client_id)]
        arrived += [a.rpartition(FROM)[2] for (a,) in session.query(AttemptRow.client_id)]
    refused = {item for item, _ in device.waiting()}
    assert len(device.typed) >= WRITES
    assert len(arrived) == len(set(arrived))
    # a start that was asked about or refused is said at once on the page, and is no start any more
    lost = [what for item, what in device.typed.items() if item not in refused.union(arrived, device.decided)]
    assert lost == []
