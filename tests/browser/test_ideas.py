"""From silent ideas to a plan that remembers them, round the places, and to a second version."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import check_access
from tests.conftest import GOOD, photograph
from thermion.core.plans import Plan
from thermion.records.building import builds

pytestmark = pytest.mark.browser


def draw_line(page) -> None:
    box = page.locator("[data-lines]").bounding_box()
    page.mouse.move(box["x"] + 60, box["y"] + 60)
    page.mouse.down()
    page.mouse.move(box["x"] + 200, box["y"] + 90, steps=8)
    page.mouse.up()


def test_ideas_to_plan_to_walk_round_to_the_second_version(page, crew):
    page.goto("/challenges/1/ideas")
    check_access(page)
    page.get_by_role("link", name="Draw an idea of Avocet").click()
    page.wait_for_url("**/ideas/*/draw")
    page.wait_for_load_state("load")  # its script is there
    draw_line(page)
    page.get_by_role("combobox", name="Window").select_option(label="Clear film")
    page.get_by_label("Because").fill("Light goes in, air stays in.")
    check_access(page)
    page.get_by_role("button", name="Keep this idea").click()
    expect(page.get_by_role("heading", name="Idea 1", exact=True)).to_be_visible()
    expect(page.locator(".idea-lines polyline")).to_have_count(1)
    page.get_by_role("link", name="Draw one more").click()
    page.wait_for_url("**/ideas/*/draw")
    page.wait_for_load_state("load")
    page.get_by_role("combobox", name="Walls").select_option(label="Newspaper")  # a material is an idea too
    page.get_by_role("button", name="Keep this idea").click()
    expect(page.get_by_role("heading", name="Idea 2", exact=True)).to_be_visible()
    page.wait_for_load_state("load")  # its script is there, which sends them one by one
    page.get_by_label("Photographs of the sheets").set_input_files(
        [
            {"name": f"sheet{i}.jpg", "mimeType": "image/jpeg", "buffer": photograph(300 + i, 200)}
            for i in range(2)
        ]
        + [{"name": "notes.txt", "mimeType": "text/plain", "buffer": b"no picture"}]
    )
    page.get_by_role("button", name="Keep photographs").click()
    expect(page.get_by_text("2 / 3. notes.txt:")).to_be_visible(timeout=20000)  # what cannot be kept is named
    page.reload()
    expect(page.get_by_alt_text("Idea 4, photographed")).to_be_visible()
    check_access(page)
    page.get_by_label("Window: clear film").check()
    page.get_by_label("Walls: newspaper").check()
    page.get_by_role("button", name="Take the ticked parts into the plan").click()
    page.wait_for_url("**/versions/*")
    expect(page.get_by_text("Taken into version 1")).to_be_visible()
    expect(page.get_by_text("from idea 2")).to_be_hidden()  # the window is open, which is of idea 1
    expect(page.get_by_text("from idea 1")).to_be_visible()
    version = int(page.url.rsplit("/", 1)[1])
    # a change on the editor forgets none of it
    page.get_by_label("Prediction: hottest").fill("60")
    expect(page.get_by_text("kept", exact=True)).to_be_visible()
    with crew.database.session() as session:
        plan = builds.plan_of(builds.get_version(session, version))
        assert {p.place: p.idea for p in plan.parts} == {"window": 1, "wall": 2}
    # built and tested; on the walk round Avocet learns from Dunlin, with two clicks
    first = crew.plan("Dunlin")
    with crew.database.writing() as session:
        item = builds.get_version(session, version)
        builds.save_draft(
            item,
            item.revision,
            builds.Draft(plan=Plan(GOOD.parts, plan.factors), prediction=60.0, change_note=""),
        )
        item.state = "issued"
    crew.run(version, first)
    page.goto("/challenges/1/walk")
    page.get_by_label("What is taken, if you like").fill("paper in the walls")
    page.get_by_role("button", name="Avocet takes from Dunlin").click()
    expect(page.get_by_text("Avocet takes something from Dunlin: paper in the walls")).to_be_visible()
    check_access(page)
    page.goto("/challenges/1/builds")
    page.get_by_role("button", name="Version 2").first.click()
    page.wait_for_url("**/versions/*")
    expect(page.get_by_label("An idea that helped came from")).to_have_value(str(crew.teams["Dunlin"]))
    page.get_by_label("What worked?").fill("The dark lining.")
    page.get_by_label("What did not?").fill("The lid let air out.")
    group = page.get_by_role("group", name="Places of the build")
    for place in ("Seal", "Walls"):  # two things at once: a word, and nothing more
        group.get_by_role("button", name=place, exact=True).click()
        page.get_by_role("button", name="more").first.click()
    expect(page.get_by_text("2 things change at once")).to_be_visible()
    page.reload()
    expect(page.get_by_label("What did not?")).to_have_value("The lid let air out.")
