"""The application over a fresh folder, and a client that can find its way in the pages."""

from __future__ import annotations

import re

import pytest
from flask.testing import FlaskClient

from tests.conftest import Crew
from thermion.web import create_app


@pytest.fixture
def app(tmp_path):
    made = create_app(
        {
            "DATA": tmp_path / "data",
            "TESTING": True,
            "WTF_CSRF_ENABLED": False,
            "TRUSTED_HOSTS": ["localhost", "127.0.0.1"],
        }
    )
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
