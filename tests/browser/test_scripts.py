"""What the pages' scripts share: sentences, clocks, and the outbox that loses nothing."""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import Page

pytestmark = pytest.mark.browser


@pytest.fixture
def ask(page: Page):
    """Runs a script of the house in a page: its modules are `lib`; what it returns."""
    page.goto("/")

    def run(script: str):
        return page.evaluate(
            f"""async () => {{
              const names = ["format", "clock", "outbox", "page"];
              const found = await Promise.all(names.map((n) => import(`/static/js/lib/${{n}}.js`)));
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


OUTBOX = """
  localStorage.clear();
  const seen = [];
  const answers = %s;
  window.fetch = async (url, asked) => {
    const answer = answers.shift();
    seen.push(JSON.parse(asked.body).n);
    if (answer === 0) throw new Error("away");
    return new Response("{}", { status: answer });
  };
  const told = [];
  const hooks = Object.fromEntries(
    ["took", "away", "stale", "back", "empty"].map((name) => [name, () => told.push(name)]),
  );
  const box = new lib.Outbox("t", { save: "/save" }, hooks);
  box.put("save", { n: 1 });
  box.put("save", { n: 2 });
  await new Promise((done) => setTimeout(done, 300));
  const kept = JSON.parse(localStorage.getItem("t")).map((item) => item.body.n);
  const again = new lib.Outbox("t", {}, hooks).items.map((item) => item.body.n);
  return { seen, told, kept, again };
"""


@pytest.mark.parametrize(
    ("answers", "seen", "kept", "last"),
    [
        ([200, 200], [1, 2], [], "empty"),
        ([200, 0], [1, 2], [2], "away"),  # the connection goes between the two
        ([0], [1], [1, 2], "away"),  # the second waits behind the first
        ([503], [1], [1, 2], "away"),
        ([400], [1], [1, 2], "stale"),  # a page older than the server's key
        ([422, 409], [1, 2], [], "empty"),  # refused is answered: it is not sent again
    ],
)
def test_what_waits_goes_out_in_order_and_stays_until_it_is_answered(ask, answers, seen, kept, last):
    found = ask(OUTBOX % json.dumps(answers))
    assert found["seen"] == seen
    assert found["kept"] == found["again"] == kept
    assert found["told"][-1] == last
