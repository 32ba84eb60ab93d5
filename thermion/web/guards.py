"""What keeps the house safe: headers for its own scripts and data only, numbers that can be a row's."""

from __future__ import annotations

from flask import Flask, Response
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


def init(app: Flask) -> None:
    """Bound the numbers in addresses, and set the headers on every answer."""
    app.url_map.converters["int"] = RowConverter

    @app.after_request
    def headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Referrer-Policy", "same-origin")
        response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        if response.mimetype in ("text/html", "application/json"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
