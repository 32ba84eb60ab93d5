"""What a class may claim, in the browser: at a look, on demand, and without what went wrong."""

from __future__ import annotations

from datetime import timedelta

from playwright.sync_api import expect

from tests.browser.conftest import check_access, press, tab_to
from tests.conftest import NOON, Crew
from tests.records.test_findings import RISES, fill

DAYS = ({**RISES}, {**RISES, "Avocet": 40.4}, {**RISES, "Dunlin": 25.4})


def days_tested(crew: Crew, *days: dict[str, float]) -> list[int]:
    versions, made = [crew.plan("Avocet"), crew.plan("Dunlin")], []
    for day, rises in enumerate(days):
        at = NOON + timedelta(days=day)
        made.append(crew.run(*versions, at=at, irradiance_w_m2=600.0, air_c=20.0))
        fill(crew, made[-1], rises, at=at)
    return made


def test_a_claim_is_told_at_one_look_and_its_details_on_demand(page, crew: Crew):
    days_tested(crew, *DAYS)
    page.goto("/challenges/1/findings")
    check_access(page)
    expect(page.locator("main p").first).to_contain_text("Avocet came first")
    claim = page.get_by_label("How sure is the first place?")
    for part in ("Avocet over Dunlin", "clear", "95 %:", "from 2 repeats in this class"):
        expect(claim).to_contain_text(part)
    # the picture, the places and the claim are seen together, without scrolling
    assert page.evaluate("document.querySelector('[aria-label=Scores]').getBoundingClientRect().bottom") < 800
    bars = page.locator(".s-reach")
    expect(bars).to_have_count(2)
    first, second = (bars.nth(i).bounding_box() for i in (0, 1))
    assert second["x"] + second["width"] < first["x"]  # certainly apart: the bars do not overlap
    hidden = page.get_by_label("Where the uncertainty comes from")
    expect(hidden).to_be_hidden()
    tab_to(page, "All figures, and how well each was read")
    page.keyboard.press("Enter")
    expect(hidden).to_be_visible()
    expect(hidden).to_contain_text("the build's thermometer")
    check_access(page)
    assert page.evaluate("document.documentElement.scrollWidth") <= 1280


def test_a_run_that_went_wrong_is_set_apart_by_keyboard_and_taken_back(page, crew: Crew):
    days_tested(crew, *DAYS, {**RISES, "Avocet": 11, "Dunlin": 8})
    page.goto("/challenges/1/findings")
    first = page.get_by_label("Scores").locator("tbody tr").first
    expect(first).to_contain_text("51.")  # the wet day counts, and pulls the score down
    page.goto("/challenges/1/runs")
    page.get_by_role("link", name="Set apart").first.click()
    expect(page.locator("h1")).to_have_text("Leave something out of run 4")
    check_access(page)
    tab_to(page, "Why")
    page.keyboard.type("rain")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Set apart", exact=True)).to_contain_text("the whole run rain")
    page.goto("/challenges/1/findings")
    expect(page.get_by_text("Set apart, not counted: Run 4: rain.")).to_be_visible()
    expect(first).to_contain_text("58.")
    page.goto("/runs/4/apart")
    press(page, "Take back in")
    expect(page.get_by_text("taken back in")).to_be_visible()


def test_instruments_and_the_sun_are_told_where_they_are_asked_for(page, crew: Crew):
    crew.plan("Avocet")
    page.goto("/challenges/1/brief/rig")
    check_access(page)
    step = page.get_by_label("Thermometer: step")
    expect(step).to_have_value("0.5")
    step.fill("0.1")
    press(page, "Keep and go on")
    page.wait_for_url("**/brief/marks")
    page.goto("/challenges/1/brief/rig")
    expect(step).to_have_value("0.1")
    step.fill("-2")
    press(page, "Keep and go on")
    expect(page.locator("main")).to_contain_text("At least")
    expect(step).to_have_value("-2")
    page.goto("/challenges/1/runs")
    check_access(page)
    measured = page.get_by_role("group", name="Light on a level window was").get_by_label("measured")
    measured.check()
    press(page, "Start a test")
    page.wait_for_url("**/runs/*")
    with crew.database.session() as session:
        from thermion.records.running import runs

        (run,) = runs.runs_of(session, 1)
        assert {c.key: c.how for c in run.conditions}["irradiance_w_m2"] == "measured"
