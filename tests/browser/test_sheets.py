"""Every sheet of every family on paper: whole, on as many pages as it should be, in words of its age."""

from __future__ import annotations

import re
from io import BytesIO

import pytest
from pypdf import PdfReader

from tests.browser.conftest import check_access
from thermion.core.kinds import all_kinds
from thermion.records.planning import briefs
from thermion.records.planning.classes import get_class
from thermion.web.components.printed import SHEETS

pytestmark = pytest.mark.browser
AGES = ("6-8", "9-12", "13-16")
MOST = {"colleague": 2, "home": 1, "brief": 1, "walk": 2}  # two cards on a page
ALIKE = ("teams", "safety", "reflection", "lesson")  # the same for every family
NOT_FOR_THE_YOUNG = re.compile(
    r"W/m²|m/s|\bm[NW]\b|mm\b|kg\b|±|standard uncertainty|milliwatt|Points|%", re.IGNORECASE
)


@pytest.fixture
def families(crew) -> dict[str, int]:
    """A challenge of every family, by its key."""
    with crew.database.writing() as session:
        mine = get_class(session, crew.class_id)
        made = {key: briefs.create_challenge(session, mine, key, f"{key} <b>&") for key in all_kinds()}
        session.flush()
        return {key: challenge.id for key, challenge in made.items()}


def of_age(crew, families, age: str) -> None:
    with crew.database.writing() as session:
        for challenge_id in families.values():
            challenge = briefs.get_challenge(session, challenge_id)
            challenge.age_band = challenge.dial = age


def printed(page, paper: str) -> int:
    """How many pages this sheet takes on paper."""
    wide = page.url.endswith("data")
    return len(PdfReader(BytesIO(page.pdf(format=paper, landscape=wide))).pages)


@pytest.mark.parametrize("age", AGES)
def test_every_sheet_of_every_family_fits_its_pages_on_a4_and_on_letter(page, crew, families, age):
    """Each family meets each age, each sheet too, and each paper: not every one of them every other."""
    too_long, turn = [], list(AGES).index(age)
    of_age(crew, families, age)
    page.emulate_media(media="print")
    for n, (family, challenge_id) in enumerate(families.items()):
        for i, sheet in enumerate(SHEETS):
            if (n + i) % 3 != turn or (n and sheet in ALIKE):
                continue
            page.goto(f"/challenges/{challenge_id}/sheets/{sheet}")
            text = page.locator("body").inner_text()
            assert "Back" not in text  # what is only for the screen stays there
            assert sheet in ("teams", "lesson") or f"{family} <b>&" in text
            for paper in ("A4", "Letter") if sheet == "brief" else (("A4", "Letter")[(n + i) % 2],):
                pages = printed(page, paper)
                if pages > MOST.get(sheet, 1):
                    too_long.append((age, family, sheet, paper, pages))
    assert too_long == []


def test_the_youngest_read_no_units_but_the_one_they_read(page, crew, families):
    of_age(crew, families, "6-8")
    for family, challenge_id in families.items():
        for sheet in ("brief", "home") if family != "wind_hoist" else ("brief", "plan", "reflection", "home"):
            page.goto(f"/challenges/{challenge_id}/sheets/{sheet}")
            text = page.locator("main").inner_text()
            assert not NOT_FOR_THE_YOUNG.search(text), (family, sheet, NOT_FOR_THE_YOUNG.search(text))
    page.goto(f"/challenges/{families['sail_run']}/sheets/data")
    assert page.locator(".to-mark").count() == 3 * 2  # three teams, two attempts: a line for each
    check_access(page)
    of_age(crew, families, "13-16")
    page.goto(f"/challenges/{families['solar_oven']}/sheets/brief")
    text = page.locator("main").inner_text()
    assert "W/m²" in text
    assert "Score = hottest in °C" in text


def test_a_colleague_finds_when_what_where_and_what_to_watch(page, crew, families):
    page.goto(f"/challenges/{families['wind_hoist']}/sheets/colleague")
    text = page.locator("main").inner_text()
    for said in (
        "What comes next",
        "Avocet, Dunlin, Godwit",
        "Fan with guard: 1",
        "hangs clear of the floor",
    ):
        assert said in text
    assert "What would keep the string in place?" in text
    check_access(page)
