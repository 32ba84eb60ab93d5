"""What keeps the house safe: headers for its own scripts and data only, and cookies signed."""

from __future__ import annotations

from typing import Any

from flask import Flask, Response, request
from flask.sessions import SecureCookieSessionInterface
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import generate_csrf
from itsdangerous import URLSafeTimedSerializer

from thermion.records import moments
from thermion.web.access import ANYBODY, may
from thermion.web.described import speaks
from thermion.web.payloads import Answer, Trouble, answer, kept_by_device
from thermion.web.sessions import house

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


class Token(Answer):
    """What changes of ours are signed with."""

    token: str


class Untimed(URLSafeTimedSerializer):
    """Signed cookies that no step of this computer's clock makes old, or not yet made.

    A device's session ends with its row in the record.
    """

    def loads(self, s: str | bytes, *more: Any, **also: Any) -> Any:
        also["max_age"] = None
        return super().loads(s, *more[1:], **also)


class Signed(SecureCookieSessionInterface):
    """Flask's signed cookies, with the signer made once instead of at every request."""

    def __init__(self) -> None:
        self._signer: URLSafeTimedSerializer | None = None

    def get_signing_serializer(self, app: Flask) -> URLSafeTimedSerializer | None:
        if self._signer is None and app.secret_key:
            self._signer = Untimed(
                app.secret_key,
                salt=self.salt,
                serializer=self.serializer,
                signer_kwargs={"key_derivation": self.key_derivation, "digest_method": self.digest_method},
            )
        return self._signer


def init(app: Flask) -> None:
    """Sign cookies, and set the headers on every answer."""
    app.session_interface = Signed()

    @app.get("/token.json")
    @may(ANYBODY)
    @speaks(Token)
    def token() -> Response:
        """A token for a page that is older than the server's key, so that it need not be loaded anew."""
        found = answer(Token(token=generate_csrf()))
        found.headers["X-Now"] = moments.now().isoformat()
        return found

    @app.before_request
    def same_house() -> ResponseReturnValue | None:
        """What a device kept for other data (another school's, at the same address) is not stored here."""
        if request.headers.get("X-House") in (None, house()):
            return None
        said = "This was typed for other data than those at this address. Nothing was stored."
        return answer(Trouble(error=said), 421)

    @app.after_request
    def headers(response: Response) -> Response:
        if response.status_code == 304:  # has no content to keep safe
            return response
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        if kept_by_device():
            response.headers["X-House"] = house()  # an answer of ours, and not of a network's login page
        response.headers.setdefault("Referrer-Policy", "same-origin")
        response.headers.setdefault("Cross-Origin-Opener-Policy", "same-origin")
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        if response.mimetype in ("text/html", "application/json"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
