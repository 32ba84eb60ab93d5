"""The application over a fresh folder, and a client that can find its way in the pages."""

from __future__ import annotations

import re
from html.parser import HTMLParser

import pytest
from flask.testing import FlaskClient

import tests.loaded  # noqa: F401 - templates are compiled once for all
from tests.conftest import Crew
from thermion.web import create_app


@pytest.fixture
def app(folder):
    made = create_app({"DATA": folder, "TESTING": True, "WTF_CSRF_ENABLED": False})
    yield made
    made.extensions["thermion"].close()


@pytest.fixture
def client(app) -> FlaskClient:
    return app.test_client()


@pytest.fixture
def crew(app) -> Crew:
    return Crew(app.extensions["thermion"])


def flat(page) -> str:
    """The text of an answer or a page on one line, as a browser reads it: a break is a space."""
    whole = page if isinstance(page, str) else page.get_data(as_text=True)
    return re.sub(r"\s+", " ", whole)


def fields_of(page: str) -> dict[str, list[str]]:
    """What a browser would send of the page's form, untouched."""

    class Form(HTMLParser):
        def __init__(self) -> None:
            super().__init__()
            self.sent: dict[str, list[str]] = {}
            self.text: str | None = None
            self.select: str | None = None

        def handle_starttag(self, tag, attributes):
            a = dict(attributes)
            if tag == "textarea":
                self.text = a["name"]
                self.sent[self.text] = [""]
            elif tag == "select":
                self.select = a.get("name")
            elif tag == "option" and self.select and "selected" in a:
                self.sent.setdefault(self.select, []).append(a.get("value", ""))
            elif tag == "input" and a.get("name"):
                boxed = a.get("type") in ("checkbox", "radio")
                if not boxed or "checked" in a:
                    self.sent.setdefault(a["name"], []).append(a.get("value") or "")

        def handle_data(self, data):
            if self.text:
                self.sent[self.text][0] += data

        def handle_endtag(self, tag):
            if tag == "textarea":
                self.text = None
            if tag == "select":
                self.select = None

    form = Form()
    form.feed(page)
    return form.sent
