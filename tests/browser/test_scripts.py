"""What the pages' scripts share: sentences and clocks."""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_station import begin, ready
from thermion.web.static_files import version

pytestmark = pytest.mark.browser


@pytest.fixture
def ask(page: Page):
    """Runs a script of the house in a page: its modules are `lib`; what it returns."""
    page.goto("/")

    def run(script: str):
        return page.evaluate(
            f"""async () => {{
              const names = ["format", "clock", "page", "http"];
              const found = await Promise.all(names.map((n) => import(`/static/{version()}/js/lib/${{n}}.js`)));
              const lib = Object.assign({{}}, ...found);
              {script}
            }}"""
        )

    return run


def test_sentences_are_filled_and_counted(ask):
    assert ask('return lib.fill("{n} of {all} {missing}.", { n: 0, all: 3 })') == "0 of 3 ."
    both = json.dumps(["{n} reading waits", "{n} readings wait"])
    assert ask(f"return [0, 1, 2].map((n) => lib.fill({both}, {{ n }}))") == [
        "0 readings wait",
        "1 reading waits",
        "2 readings wait",
    ]
    assert ask("return [-3, 0, 59.9, 60, 3601].map(lib.clockText)") == [
        "0:00",
        "0:00",
        "0:59",
        "1:00",
        "60:01",
    ]


def test_a_device_whose_clock_is_wrong_tells_the_servers_time(ask):
    script = """
      const server = new Date(Date.now() - 3600e3);
      const clock = new lib.ServerClock(server.toISOString());
      const since = clock.since(new Date(server - 90e3).toISOString());
      return [Math.abs(Date.parse(clock.moment()) - server) < 500, Math.round(since)];
    """
    assert ask(script) == [True, 90]


def test_a_device_whose_clock_is_set_while_the_page_is_open_still_tells_the_servers_time(ask):
    """Back it notices by itself; forward may be sleep, so it asks the server."""
    script = """
      const own = Date.now.bind(Date);
      const clock = new lib.ServerClock(await lib.serverNow());
      const apart = Date.parse(clock.moment()) - own(); // of the two clocks, whoever set one of them
      const off = () => Math.round((Date.parse(clock.moment()) - own() - apart) / 1000);
      const right = [];
      for (const hours of [-5, 3]) {
        Date.now = () => own() + hours * 3600e3;
        off();
        const until = own() + 60e3; // the answer of a server that is busy elsewhere
        while (Math.abs(off()) >= 2 && own() < until)
          await new Promise((done) => setTimeout(done, 50));
        right.push(Math.abs(off()) < 2);
      }
      Date.now = own;
      return right;
    """
    assert ask(script) == [True, True]


def test_what_cannot_be_undone_is_asked_also_before_the_pages_scripts_are_there(page, crew):
    begin(page, ready(crew, "wind_hoist"))
    page.route("**/js/*.js", lambda route: None if "sure" not in route.request.url else route.continue_())
    page.goto(page.url, wait_until="commit")
    close = page.get_by_role("button", name="Close the run")
    close.click(no_wait_after=True)
    expect(page.get_by_role("button", name="Close it with turns left?")).to_be_visible()
    page.unroute_all()
