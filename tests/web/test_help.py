"""The question mark of a page says what to do there, shortly."""

from __future__ import annotations

import re

import pytest

from tests.pages import PAGES
from thermion.web import create_app
from thermion.web.components.helps import HELPS


@pytest.fixture(scope="module")
def client(demo_copy):
    made = create_app({"DATA": demo_copy()})
    brought = made.extensions["thermion"].folder / "inbox"
    brought.mkdir()
    (brought / f"{'a' * 24}.csv").write_text("time (s),Avocet (C)\n0,20\n60,21\n")
    (brought / f"{'b' * 24}.csv").write_text("Team,Heating 0 min\nAvocet,20\n")
    yield made.test_client()
    made.extensions["thermion"].close()


def test_every_page_of_the_desk_has_its_own_and_no_help_is_without_a_page(client):
    shown = set()
    for address in (*PAGES, "/runs/4/apart", f"/runs/4/file/{'a' * 24}", f"/runs/4/table/{'b' * 24}"):
        page = client.get(address).get_data(as_text=True)
        if "data-tray" not in page or address == "/nothing-here":  # boards and sheets have no frame
            continue
        found = re.search(r'<div class="help-card.*?<p>(.*?)</p>', page, re.S)
        assert found, address
        shown.add(found[1])
    assert len(shown) == len(HELPS)


def test_a_help_is_read_in_a_breath():
    assert max(len(found.text.split()) for found in HELPS.values()) < 60
