"""A brief again and elsewhere, through the pages."""

from __future__ import annotations

import re

from sqlalchemy import select

from tests.web.conftest import flat
from thermion.records.planning.classes import TeamInput, save_class
from thermion.records.tables import Challenge, SchoolClass


def titles(app) -> dict[str, list[str]]:
    with app.extensions["thermion"].session() as session:
        found = session.scalars(select(SchoolClass).order_by(SchoolClass.id)).all()
        return {c.name: [x.title for x in c.challenges] for c in found}


def test_a_brief_is_copied_to_three_classes_and_begins_another_from_the_shelf(app, client, crew):
    with crew.database.writing() as session:
        names = ("Supply crew", "Signal crew", "Night crew")
        made = [
            save_class(
                session, name=n, temp_unit="degC", decimal="point", zone="UTC", teams=[TeamInput(name="Knot")]
            )
            for n in names
        ]
        ids = [c.id for c in made]
    page = flat(client.get("/challenges/1/record"))
    assert all(name in page for name in names)
    once = re.search(r'name="once" value="([^"]+)"', page)[1]
    for _ in range(2):  # pressed twice
        client.post("/challenges/1/copy", data={"class_id": ids, "once": once})
    assert "in Supply crew, Signal crew and Night crew now" in flat(client.get("/challenges/1/record"))
    assert titles(app) == {n: ["Keeper's supper"] for n in ("Relief crew", *names)}
    client.post("/challenges/1/copy", data={"once": "none"})
    assert "Choose a class first." in flat(client.get("/"))
    client.post("/challenges/1/copy", data={"shelf": "1"})
    page = flat(client.get(f"/classes/{ids[0]}/challenges/new"))
    assert "From the shelf" in page
    led = client.post(f"/classes/{ids[0]}/challenges/new", data={"shelf": "1", "once": "again"})
    assert led.location.endswith("/brief/task")
    assert len(titles(app)["Supply crew"]) == 2
    led = client.post(f"/classes/{ids[0]}/next-year", data={"once": "year"})
    assert "Supply crew (2)" in flat(client.get(led.location))
    with app.extensions["thermion"].session() as session:
        assert len(set(session.scalars(select(Challenge.lineage)))) == 1
    client.post(f"/classes/{ids[0]}/challenges/new", data={"off": "1"})
    assert "From the shelf" not in flat(client.get(f"/classes/{ids[0]}/challenges/new"))
