"""What holds on every page: its own scripts and styles only, no forged change, no other host."""

from __future__ import annotations

import re

import pytest
from sqlalchemy import event, func, select

from tests.conftest import Crew
from thermion.records.running import runs
from thermion.records.tables import Challenge
from thermion.web import create_app


def addresses(crew: Crew) -> list[str]:
    """Every page of the application, with data behind it."""
    version = crew.plan("Avocet")
    draft = crew.plan("Dunlin", until="draft")
    run = crew.run(version)
    crew.read(crew.entries(run)["Avocet"], 0, "20.5")
    brief = [f"/challenges/1/brief/{s}" for s in ("task", "rig", "marks", "materials", "score", "safety")]
    return [
        "/",
        "/classes/new",
        "/classes/1",
        "/classes/1/challenges/new",
        "/import",
        *brief,
        "/challenges/1/builds",
        f"/versions/{version}",
        f"/versions/{draft}",
        "/challenges/1/runs",
        f"/runs/{run}",
        f"/runs/{run}/file",
        f"/board/runs/{run}",
        "/challenges/1/findings",
        "/challenges/1/findings?rehearsal=1",
        "/challenges/1/record",
    ]


def test_every_page_keeps_to_its_own_scripts_and_styles(client, crew):
    for address in [*addresses(crew), "/nothing-here"]:
        answer = client.get(address)
        assert answer.status_code == (404 if "nothing" in address else 200), address
        policy = answer.headers["Content-Security-Policy"]
        assert "unsafe" not in policy
        assert "default-src 'none'" in policy
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        page = answer.get_data(as_text=True)
        assert not re.search(r"<style|\sstyle=|\son[a-z]+=", page), address
        for script in re.findall(r"<script([^>]*)>", page):
            assert 'src="/static/' in script or 'type="application/json"' in script
        for module in re.findall(r'"modulepreload" href="([^"]+)"', page):
            assert client.get(module).mimetype == "text/javascript", module
        assert not re.search(r"https?://(?!www\.w3\.org)", page), address


def test_a_name_with_markup_is_only_ever_text(client, crew):
    nasty = """<b>&'"</b>"""
    sent = {
        "name": nasty,
        "temp_unit": "degC",
        "decimal": "point",
        "zone": "UTC",
        "team_name": [nasty],
        "team_id": ["1"],
    }
    client.post("/classes/1", data=sent)
    for address in ("/", "/classes/1", "/challenges/1/builds"):
        page = client.get(address).get_data(as_text=True)
        assert "<b>&'" not in page
        assert "&lt;b&gt;" in page


def test_a_change_without_the_pages_token_is_refused_and_stores_nothing(folder):
    app = create_app({"DATA": folder})
    client = app.test_client()
    for address in ("/classes/new", "/import"):
        answer = client.post(address, data={"name": "Forged", "team_name": "X"})
        assert answer.status_code == 400
        assert "Nothing was stored" in answer.get_data(as_text=True)
    answer = client.post("/runs/1/readings", json={"typed": "20"})
    assert (answer.status_code, "Reload" in answer.json["error"]) == (400, True)
    with app.extensions["thermion"].session() as session:
        assert session.scalar(select(func.count()).select_from(Challenge)) == 0


def test_another_host_name_is_not_served(client):
    assert client.get("/", headers={"Host": "evil.example"}).status_code == 400
    assert client.get("/", headers={"Host": "127.0.0.1:8000"}).status_code == 200


def count_queries(app, client, address: str) -> int:
    seen: list[str] = []
    engine = app.extensions["thermion"].engine

    def note(_connection, _cursor, statement, *_):
        seen.append(statement)

    event.listen(engine, "before_cursor_execute", note)
    assert client.get(address).status_code == 200
    event.remove(engine, "before_cursor_execute", note)
    return len(seen)


@pytest.mark.parametrize(
    "address", ["/", "/challenges/1/builds", "/challenges/1/runs", "/runs/{run}", "/challenges/1/findings"]
)
def test_the_number_of_queries_does_not_grow_with_teams(fresh, address):
    counts = []
    for teams in (("Avocet",), ("Avocet", "Dunlin", "Godwit")):
        app = create_app({"DATA": fresh(str(len(teams))), "WTF_CSRF_ENABLED": False})
        crew = Crew(app.extensions["thermion"])
        run = crew.run(*[crew.plan(team) for team in teams])
        for entry in crew.entries(run).values():
            for minute in (0, 5, 10):
                crew.read(entry, minute, f"{20 + minute}", keep=True)
        client = app.test_client()
        client.get(address.format(run=run))
        counts.append(count_queries(app, client, address.format(run=run)))
    assert counts[0] == counts[1]


def test_the_check_asks_the_store_no_more_when_more_plans_wait(fresh):
    counts = []
    for teams in (("Avocet",), ("Avocet", "Dunlin", "Godwit")):
        app = create_app({"DATA": fresh(str(len(teams))), "WTF_CSRF_ENABLED": False})
        crew = Crew(app.extensions["thermion"])
        waiting = [crew.plan(team, until="waiting") for team in teams]
        counts.append(count_queries(app, app.test_client(), f"/versions/{waiting[0]}"))
    assert counts[0] == counts[1] <= 15


def test_saved_is_saved_when_the_server_dies(folder):
    first = create_app({"DATA": folder, "WTF_CSRF_ENABLED": False})
    crew = Crew(first.extensions["thermion"])
    run = crew.run(crew.plan("Avocet"))
    crew.read(crew.entries(run)["Avocet"], 0, "20.5")
    before = first.test_client().get(f"/runs/{run}/state.json").json
    second = create_app({"DATA": folder, "WTF_CSRF_ENABLED": False})  # nobody closed the first
    after = second.test_client().get(f"/runs/{run}/state.json").json
    assert {**before, "now": 0} == {**after, "now": 0}
    assert first.secret_key == second.secret_key  # pages that are open stay valid
    with second.extensions["thermion"].session() as session:
        assert runs.get_run(session, run).phases[0].phase == "heating"


def test_demo_and_own_data_side_by_side_do_not_spoil_each_others_pages(fresh):
    """Ports do not part cookies: one browser, one host, two applications."""
    apps = [create_app({"DATA": fresh(name)}) for name in ("demo", "own")]
    names = [app.config["SESSION_COOKIE_NAME"] for app in apps]
    assert len(set(names)) == 2
    cookies = {}
    for app in apps:
        client = app.test_client()
        answer = client.get("/classes/new")
        cookies |= dict([answer.headers["Set-Cookie"].split(";")[0].split("=", 1)])
    assert set(cookies) == set(names)


def test_the_cookie_is_out_of_reach_of_scripts_and_other_sites(client):
    cookie = client.get("/classes/new").headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Strict" in cookie


def test_a_browser_asks_for_a_style_once_and_after_an_update_for_the_new_one(client):
    address = re.search(r'href="(/static/\w+/app.css)"', client.get("/").get_data(as_text=True))[1]
    style = client.get(address)
    assert (style.headers["Cache-Control"], style.mimetype) == ("max-age=31536000, immutable", "text/css")
    before = client.get("/static/0ldw0rd/app.css")  # of a page that is still open
    assert (before.get_data(), before.headers["Cache-Control"]) == (style.get_data(), "no-cache")
    assert client.get("/static/app.css").status_code == 404
    assert client.get(address.replace("app.css", "../app.py")).status_code == 404
