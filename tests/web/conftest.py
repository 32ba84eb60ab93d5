"""The application over a fresh folder, and a client that can find its way in the pages."""

from __future__ import annotations

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
