"""An own material in ten seconds, from the brief to the findings, and a word of our own at the station."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import check_access
from tests.browser.test_station import begin
from tests.conftest import Crew
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.planning import briefs, own
from thermion.records.planning.classes import get_class

pytestmark = pytest.mark.browser


def wind_hoist(crew: Crew) -> int:
    with crew.database.writing() as session:
        made = briefs.create_challenge(
            session, get_class(session, crew.class_id), "wind_hoist", "Crane the stores"
        )
        briefs.acknowledge_cautions(made)
        briefs.finish_brief(made)
        return made.id


def issue_all(crew: Crew, challenge_id: int) -> None:
    """Each team's blades are of the class's own material."""
    with crew.database.writing() as session:
        made = briefs.get_challenge(session, challenge_id)
        brief = briefs.brief_of(made)
        (mine,) = own.own_materials(session, crew.class_id)
        for team in crew.teams.values():
            version = builds.start_version(session, made, team)
            plan = Plan(
                (Part(place="blade", material=mine.key, form="flat", units=1),),
                brief.kind.build.usual().factors,
            )
            builds.save_draft(version, 1, Draft(plan=plan, prediction=1.0, change_note=""))
            builds.hand_in(version, brief)
            builds.sign(version, brief)
            builds.issue(version)


def test_an_own_material_goes_from_the_brief_to_the_findings_and_a_word_is_kept_at_the_station(
    page, crew, effort
):
    at = wind_hoist(crew)
    page.goto(f"/challenges/{at}/brief/materials")
    with effort.of("a material of our own, on offer", 20):
        page.get_by_label("Another one").click()
        page.keyboard.type("Old card maps")
        page.keyboard.press("Enter")  # none of that name: it becomes one of our own, and card by its name
        expect(page.get_by_role("button", name="Put it on offer")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.get_by_role("checkbox", name="Old card maps")).to_be_checked()
    expect(page.get_by_text("ours, about like thin card")).to_be_visible()
    check_access(page)
    page.goto(f"/challenges/{at}/brief/safety")
    page.get_by_label("Another caution or rule of this room").fill("The hatch stays shut.")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_text("The hatch stays shut.")).to_be_visible()
    page.get_by_role("button", name="I have read this with my class").click()
    issue_all(crew, at)
    page.goto("/versions/1")
    expect(page.get_by_text("Old card maps").filter(visible=True).first).to_be_visible()
    begin(page, at)
    page.get_by_label("Rise", exact=True).fill("20")
    page.get_by_text("Something else").click()
    page.get_by_label("What was seen, in our words").fill("the maps unfolded")
    page.get_by_label("The question it brings up").fill("What holds a fold in the wind?")
    page.get_by_role("button", name="Keep").first.click()
    expect(page.get_by_label("Attempts")).to_contain_text("the maps unfolded")
    page.get_by_role("checkbox", name="the maps unfolded").check()  # for the next team it is there
    expect(page.get_by_text("What holds a fold in the wind?")).to_be_visible()
    check_access(page)
    page.goto(f"/challenges/{at}/sheets/safety")
    expect(page.get_by_text("The hatch stays shut.")).to_be_visible()
    with page.expect_download() as download:
        page.goto(f"/challenges/{at}/record")
        page.get_by_role("link", name="Save as JSON").click()
    assert "Old%20card%20maps" in download.value.path().read_text()
