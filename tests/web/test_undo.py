"""Deleted by mistake, put away for the summer: how it comes back."""

from __future__ import annotations

from tests.web.conftest import flat


def test_a_challenge_deleted_by_mistake_comes_back_from_the_next_page(crew, client):
    entry = crew.entries(crew.run(crew.plan("Avocet")))["Avocet"]
    crew.read(entry, 0, "20.5")
    shown = client.post("/challenges/1/brief/delete", follow_redirects=True)
    assert "Deleted: Keeper&#39;s supper. " in flat(shown)
    assert client.get("/challenges/1/brief/task").status_code == 410
    assert "challenge with its builds and readings" in flat(client.get("/data"))
    assert client.post("/data/deleted/1/back").status_code == 303
    assert "20.5" in flat(client.get("/challenges/1/findings"))
    assert "Nothing. A draft, run, challenge or class" in flat(client.get("/data"))
    assert client.post("/data/deleted/1/back").status_code == 410


def test_a_draft_and_a_run_that_were_deleted_lead_back_to_where_they_are(crew, client):
    draft, run = crew.plan("Avocet", until="draft"), crew.run(crew.plan("Dunlin"), start=False)
    client.post(f"/versions/{draft}/delete")
    client.post(f"/runs/{run}/delete")
    assert flat(client.get("/data")).count("Bring back") == 2
    assert client.post("/data/deleted/2/back").location == f"/runs/{run}"
    client.post("/data/deleted/1/back")
    assert client.get(f"/versions/{draft}").status_code == 200


def test_a_class_is_put_away_for_the_summer_taken_out_and_deleted_with_a_way_back(crew, client):
    client.post("/classes/1/away")
    home = flat(client.get("/"))
    assert "Put away" in home
    assert "New challenge" not in home
    client.post("/classes/1/back")
    assert "New challenge" in flat(client.get("/"))
    client.post("/classes/1/delete")
    assert "Start with a class" in flat(client.get("/"))
    client.post("/data/deleted/1/back")
    assert "Relief crew" in flat(client.get("/"))
