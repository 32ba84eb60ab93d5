"""What keeps the house safe: headers for its own scripts and data only, numbers that can be a row's."""

from __future__ import annotations

from flask import Flask, Response
from flask.sessions import SecureCookieSessionInterface
from itsdangerous import URLSafeTimedSerializer
from werkzeug.routing import IntegerConverter, ValidationError

from thermion.web.payloads import MOST_ID

POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self'",
        "font-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)


class RowConverter(IntegerConverter):
    """`<int:…>` in an address: a number beyond what a row can have leads nowhere (404)."""

    def to_python(self, value: str) -> int:
        found: int = super().to_python(value)
        if found > MOST_ID:
            raise ValidationError
        return found


class Signed(SecureCookieSessionInterface):
    """Flask's signed cookies, with the signer made once instead of at every request."""

    def __init__(self) -> None:
        self._signer: URLSafeTimedSerializer | None = None

    def get_signing_serializer(self, app: Flask) -> URLSafeTimedSerializer | None:
        if self._signer is None:
            self._signer = super().get_signing_serializer(app)
        return self._signer


def init(app: Flask) -> None:
    """Bound the numbers in addresses, sign cookies, and set the headers on every answer."""
    app.url_map.converters["int"] = RowConverter
    app.session_interface = Signed()

    @app.after_request
    def headers(response: Response) -> Response:
        if response.status_code == 304:  # has no content to keep safe
            return response
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Referrer-Policy", "same-origin")
        response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        if response.mimetype in ("text/html", "application/json"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
