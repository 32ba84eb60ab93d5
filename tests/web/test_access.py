"""Who may what: every address, every method, every role, at one's own things and at others', against the table
in docs/access.md."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from flask import request
from sqlalchemy import select
from werkzeug.exceptions import Forbidden

from tests.conftest import Crew, photograph
from thermion.core.door import ROLES
from thermion.formats.pictures import encode_anew
from thermion.records import moments
from thermion.records.building import attachments, ideas
from thermion.records.building.ideas import IdeaInput
from thermion.records.planning.briefs import get_challenge
from thermion.records.running import devices
from thermion.records.tables import Attachment, Idea
from thermion.web.access import NAMES, THROUGH_DOOR

PRINTED = Path(__file__).parents[2] / "docs" / "access.md"
IN = "a view has answered"
METHODS = ("GET", "POST", "PUT", "DELETE", "PATCH")


class Things:
    """A class's own: the numbers that an address may name."""

    def __init__(self, crew: Crew):
        self.crew = crew
        version = crew.plan("Avocet")
        other = crew.plan("Dunlin")
        run = crew.run(version, other)
        with crew.database.writing() as session:
            challenge = get_challenge(session, crew.challenge_id)
            data, width, height = encode_anew(photograph())
            for of in (version, other):
                attachments.attach(session, of, data, width, height)
            for team in ("Avocet", "Dunlin"):
                given = IdeaInput([[1, 1, 9, 9]], {}, "It keeps warm.", f"{team} {version}")
                ideas.add_idea(session, challenge, crew.teams[team], given)
            session.flush()
            pictures = session.scalars(
                select(Attachment.id)
                .where(Attachment.version_id.in_([version, other]))
                .order_by(Attachment.id)
            ).all()
            drawn = session.scalars(
                select(Idea.id).where(Idea.challenge_id == crew.challenge_id).order_by(Idea.id)
            ).all()
        common = {"class_id": crew.class_id, "challenge_id": crew.challenge_id, "run_id": run}
        self.mine, self.of_others_here = (
            common | {"version_id": v, "picture_id": p, "idea_id": i, "team_id": crew.teams[name]}
            for v, p, i, name in (
                (version, pictures[0], drawn[0], "Avocet"),
                (other, pictures[1], drawn[1], "Dunlin"),
            )
        )


@pytest.fixture
def mine(crew: Crew) -> Things:
    return Things(crew)


@pytest.fixture
def theirs(mine: Things) -> Things:
    """Another class, with all that."""
    return Things(Crew(mine.crew.database))


@pytest.fixture
def clients(app, mine: Things) -> dict:
    """A client of each role, come in by its code where it needs one."""
    now, out = moments.now(), {}
    with mine.crew.database.writing() as session:
        devices.open_door(session, now)
        made = {
            "second desk": devices.make_code(session, "second desk", now, None),
            "helper": devices.make_code(session, "helper", now, mine.crew.class_id),
            "board": devices.make_code(session, "board", now, mine.crew.class_id),
            "team": devices.make_code(
                session, "team", now, mine.crew.class_id, team_id=mine.crew.teams["Avocet"]
            ),
            "station": devices.make_code(
                session, "station", now, mine.crew.class_id, challenge_id=mine.crew.challenge_id, station=1
            ),
        }
        codes = {role: row.code for role, row in made.items()}
    for role in ROLES:
        out[role] = app.test_client()
        if role != "desk":
            out[role].environ_base[THROUGH_DOOR] = True
        if role in codes:
            assert out[role].post("/join", data={"code": codes[role]}).location == "/joined"
    return out


def printed() -> dict[tuple[str, str], dict[str, str]]:
    """The table of the document: by method and address, what each role may."""
    out = {}
    for line in PRINTED.read_text(encoding="utf-8").splitlines():
        cells = [cell.strip() for cell in line.replace("\\|", "\0").strip("|").split("|")]
        if len(cells) == 2 + len(ROLES) and cells[0] in METHODS:
            address = cells[1].strip("`").replace("\0", "|")
            out[cells[0], address] = dict(zip(ROLES, cells[2:], strict=True))
    return out


def filled(address: str, things: dict[str, int]) -> str:
    """An address with numbers in it, and a word for whatever else it takes."""

    def one(match: re.Match[str]) -> str:
        return str(things.get(match.group(1), 1 if match.group(0).startswith("<int") else "word"))

    return re.sub(r"<(?:\w+:)?(\w+)>", one, address)


def comes_to_a_view(app, client, address: str, method: str) -> bool:
    """Whether a request gets as far as the view that is to answer it."""
    cookie = client.get_cookie(app.config["SESSION_COOKIE_NAME"])
    held = {"Cookie": f"{cookie.key}={cookie.value}"} if cookie else {}
    with app.test_request_context(address, method=method, headers=held, environ_base=client.environ_base):
        if request.routing_exception is not None:
            return False
        try:
            return app.preprocess_request() is None
        except Forbidden:
            return False


def test_not_one_cell_of_the_printed_table_differs(app, mine, theirs, clients):
    table = printed()
    for (
        endpoint
    ) in app.view_functions:  # after the door, nothing but this; a form's token is not what is tried
        view = lambda **_: IN  # noqa: E731
        view.may = app.view_functions[endpoint].may
        app.view_functions[endpoint] = view
    differs, tried = [], 0
    for (_, address), _ in {(None, a): None for _, a in table}.items():
        whose = {"own": mine.mine}
        if any(f"{name}>" in address for name in NAMES):
            whose["foreign"] = theirs.mine
        if any(f"{name}>" in address for name in ("version_id", "picture_id", "idea_id", "team_id")):
            whose["another team's"] = mine.of_others_here
        for method in METHODS:
            cells = table.get((method, address), {})
            for role, client in clients.items():
                if role == "probe":  # has no session: the view looks at its key
                    continue
                for which, things in whose.items():
                    tried += 1
                    came_in = comes_to_a_view(app, client, filled(address, things), method)
                    may = cells.get(role, "")
                    only = which == "foreign" or (which == "another team's" and role == "team")
                    expected = may == "yes" or (may == "own" and not only)
                    by_key = role == "nobody" and cells.get("probe") == "yes"  # the view asks for its key
                    if came_in != (expected or by_key):
                        differs.append((role, method, address, which))
    assert not differs
    assert tried > 5000


def test_every_address_is_printed_and_declared(app):
    declared = {endpoint for endpoint, view in app.view_functions.items() if hasattr(view, "may")}
    assert declared == set(app.view_functions)
    from docs.make_access import page

    assert PRINTED.read_text(encoding="utf-8") == page(), "run `make docs`"


def test_an_address_at_which_nothing_is_declared_is_denied_to_all(app, clients):
    app.view_functions["contents.listed"] = lambda: IN
    assert {c.get("/contents.json").status_code for c in clients.values()} == {401, 403}


def test_a_name_that_a_website_pointed_here_is_not_answered(app, clients):
    for role in ("desk", "helper", "nobody"):
        for host, fine in (("games.example", False), ("localhost:8000", True), ("127.0.0.1", True)):
            status = clients[role].get("/", headers={"Host": host}).status_code
            assert (status != 400) == fine, (role, host)
    assert clients["helper"].get("/", headers={"Host": "192.168.7.2:8100"}).status_code != 400
    assert clients["desk"].get("/", headers={"Host": "192.168.7.2:8100"}).status_code == 400


def test_what_another_website_makes_a_browser_send_is_refused(mine, clients):
    address = f"/runs/{mine.mine['run_id']}/readings"
    for headers in ({"Origin": "http://games.example"}, {"Origin": "null"}, {"Sec-Fetch-Site": "cross-site"}):
        assert clients["desk"].post(address, json={}, headers=headers).status_code == 400
        assert clients["helper"].post(address, json={}, headers=headers).status_code == 400
    own = {"Origin": "http://localhost", "Sec-Fetch-Site": "same-origin"}
    assert clients["helper"].post(address, json={}, headers=own).status_code == 422
