"""The check: twelve plans, each on one screen with one key, and then the store's one list."""

from __future__ import annotations

import time

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import check_access
from tests.conftest import GOOD, Crew
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.planning.classes import TeamInput, save_class

pytestmark = pytest.mark.browser
OPEN = Plan(tuple(p for p in GOOD.parts if p.place != "seal"), GOOD.factors)
NAMES = ["Avocet", "Dunlin", "Godwit", "Knot", "Plover", "Turnstone", "Whimbrel", "Curlew"]
NAMES += ["Sanderling", "Dotterel", "Ruff", "Oystercatcher"]


def twelve(crew: Crew) -> list[int]:
    """Twelve teams whose plans wait; Dunlin, Knot and Ruff left a joint open, Avocet is at its second."""
    with crew.database.writing() as session:
        teams = [TeamInput(name=name, id=crew.teams.get(name)) for name in NAMES]
        made = save_class(
            session,
            name="Relief crew",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=teams,
            class_id=crew.class_id,
        )
        crew.teams = {t.name: t.id for t in made.teams}
    crew.plan("Avocet")
    better = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)
    waiting = [crew.plan("Avocet", better, note="The floor was bare.", until="waiting")]
    for name in NAMES[1:]:
        plan = OPEN if name in ("Dunlin", "Knot", "Ruff") else GOOD
        waiting.append(crew.plan(name, plan, until="waiting"))
    return waiting


def states(crew: Crew, versions: list[int]) -> list[str]:
    with crew.database.session() as session:
        return [builds.get_version(session, v).state for v in versions]


def up(page: Page, heading: str) -> None:
    """This plan is up, and its keys work: one pressed before it was there does nothing to it."""
    expect(page.get_by_role("heading", level=1)).to_have_text(heading)
    page.wait_for_load_state()


def on_screen(page: Page, *locators) -> None:
    """All of it can be seen at once, without scrolling."""
    high, wide = page.viewport_size["height"], page.viewport_size["width"]
    for locator in locators:
        box = locator.bounding_box()
        assert box is not None
        assert box["y"] >= 0
        assert box["y"] + box["height"] <= high, locator
        assert box["x"] + box["width"] <= wide, locator


def test_twelve_plans_are_checked_with_a_key_each_and_the_rest_at_once(page, crew, effort, record_property):
    waiting = twelve(crew)
    page.goto("/challenges/1/builds")
    with effort.of("twelve plans checked, four of them looked at one by one", 40):
        began = time.monotonic()
        page.get_by_role("link", name="Check").first.click()
        up(page, "Avocet, version 2")
        page.keyboard.press("s")
        up(page, "Dunlin, version 1")
        page.keyboard.press("a")  # whatever has nothing missing, over its limit or to ask
        expect(page.get_by_role("alert")).to_contain_text("8 plans signed off")
        up(page, "Dunlin, version 1")
        page.get_by_role(
            "button", name="Where could air slip out"
        ).click()  # the question goes into its field
        page.keyboard.press("Enter")
        up(page, "Knot, version 1")
        page.keyboard.press("n")
        up(page, "Ruff, version 1")
        page.keyboard.press("b")
        page.keyboard.type("Which joint?")
        page.keyboard.press("Enter")
        up(page, "Knot, version 1")
        page.keyboard.press("s")
        page.wait_for_url("**/store")
        took = time.monotonic() - began
    record_property(
        "effort", f"twelve plans checked: {took:.0f} s of the program's and its test's time (aim 120)"
    )
    assert states(crew, waiting) == ["signed", "draft"] + ["signed"] * 8 + ["draft", "signed"]
    page.goto(f"/versions/{waiting[1]}")
    expect(
        page.get_by_text("Sent back: Where could air slip out, and how would you find out?")
    ).to_be_visible()

    page.goto("/classes/1/store")
    handing = page.get_by_label("To hand out", exact=True)
    expect(handing.locator("tr", has_text="Newspaper")).to_contain_text("36 sheets")  # nine new teams
    expect(handing.locator("tr", has_text="Wool felt")).to_contain_text("2 pieces")
    expect(handing.locator("tr", has_text="Paper tape")).to_contain_text("16 strips of 50 cm")
    check_access(page)
    page.keyboard.press("h")
    expect(page.get_by_role("alert")).to_contain_text("Handed out for 10 plans")
    assert states(crew, waiting).count("issued") == 10


def test_a_plan_is_seen_whole_on_one_screen_with_what_changed_and_the_version_before(page, crew):
    waiting = twelve(crew)
    page.goto(f"/versions/{waiting[0]}")
    whole = page.get_by_label("The whole list")
    earlier = page.get_by_label("The version before")
    drawing = page.locator(".check-drawing .drawing:visible svg")
    on_screen(page, drawing, whole, earlier, page.get_by_role("button", name="Sign off"))
    expect(whole).to_contain_text("hottest 60 °C")
    expect(whole.locator("tr", has_text="Walls")).to_contain_text("4 sheets newspaper, crumpled")
    expect(whole.locator("tr", has_text="Walls")).to_contain_text("4 of 8")
    expect(whole.locator("tr", has_text="Reflector")).to_contain_text("nothing")
    expect(earlier).to_contain_text("Floor: no wool felt → 2 flat wool felt")
    expect(earlier).to_contain_text("The floor was bare.")
    expect(drawing).to_contain_text("was nothing")
    check_access(page)
    page.goto(f"/versions/{waiting[1]}")  # two questions, and none of them says the answer
    asked = page.get_by_label("What to ask")
    expect(asked.get_by_role("button")).to_have_text(
        ["Where could air slip out, and how would you find out?"]
    )
    for wide, high in ((820, 1180), (390, 844)):
        page.set_viewport_size({"width": wide, "height": high})
        on_screen(
            page, page.get_by_role("button", name="Sign off"), page.get_by_role("button", name="Send back")
        )
        check_access(page)


def test_labels_stand_apart_as_the_browser_writes_them(page, crew):
    """The same law as in the core's test, with the real font."""
    waiting = twelve(crew)
    for wide, shown in ((1280, ".check-drawing .max-sm\\:hidden"), (390, ".check-drawing .sm\\:hidden")):
        page.set_viewport_size({"width": wide, "height": 900})
        page.goto(f"/versions/{waiting[0]}")
        boxes = page.locator(f"{shown} .d-label").evaluate_all(
            """(labels) => labels.map((g) => {
              const all = [...g.querySelectorAll("text")].map((t) => t.getBoundingClientRect());
              const [x, y] = [Math.min(...all.map((b) => b.left)), Math.min(...all.map((b) => b.top))];
              return [x, y, Math.max(...all.map((b) => b.right)), Math.max(...all.map((b) => b.bottom))];
            })"""
        )
        assert len(boxes) >= 10
        apart = [
            a[2] <= b[0] + 1 or b[2] <= a[0] + 1 or a[3] <= b[1] + 3 or b[3] <= a[1] + 3
            for i, a in enumerate(boxes)
            for b in boxes[i + 1 :]
        ]
        assert all(apart)


def test_single_keys_can_be_switched_off_on_a_device(page, crew):
    waiting = twelve(crew)
    page.goto(f"/versions/{waiting[0]}")
    page.keyboard.press("?")
    page.get_by_label("Single keys act on this device").uncheck()
    page.keyboard.press("Escape")
    page.get_by_role("heading", level=1).click()
    page.keyboard.press("s")
    page.reload()
    page.keyboard.press("s")
    page.wait_for_timeout(300)
    assert states(crew, waiting[:1]) == ["waiting"]
    page.keyboard.press("?")  # switched off too: the mark itself opens
    expect(page.get_by_label("Single keys act on this device")).not_to_be_visible()
    page.get_by_label("What to do here").click()
    page.get_by_label("Single keys act on this device").check()
    page.keyboard.press("Escape")
    page.get_by_role("heading", level=1).click()
    page.keyboard.press("s")
    up(page, "Dunlin, version 1")


def test_when_all_are_in_order_one_key_leads_to_the_store(page, crew):
    waiting = [crew.plan(team, until="waiting") for team in ("Avocet", "Dunlin")]
    page.goto(f"/versions/{waiting[1]}")
    late = crew.plan("Godwit", until="waiting")  # handed in since the page was opened: nobody has seen it
    page.keyboard.press("a")
    up(page, "Godwit, version 1")
    assert states(crew, [late]) == ["waiting"]
    page.keyboard.press("s")
    page.wait_for_url("**/store")
    assert states(crew, [*waiting, late]) == ["signed"] * 3
