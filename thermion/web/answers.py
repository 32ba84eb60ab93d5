"""Answers that are no page: tables and pictures as files, and the way back after a form."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Sequence
from functools import lru_cache
from io import BytesIO
from pathlib import Path

from flask import Response, flash, make_response, redirect, render_template, request, send_file
from flask.typing import ResponseReturnValue
from werkzeug.wrappers import Response as BaseResponse

from thermion.core.physics.units import Setting
from thermion.formats.tables import Table, to_csv, to_json
from thermion.records import moments
from thermion.records.deleting import Removed
from thermion.records.stamps import Thing
from thermion.web.payloads import own_address
from thermion.web.sessions import database

_PROCESS = secrets.token_hex(4)  # counts of changes begin anew with each


def unless_same(make: Callable[[], ResponseReturnValue], *also: object, of: Sequence[Thing] = ()) -> Response:
    """What a script asks for again and again: 304 and no work while nothing was stored.

    `of` is all that it shows: then only what touched that counts. `also` is what else it shows that can
    change, such as the minute. The server's time goes with every answer, so that clocks stay right.
    """
    now = moments.now()
    mark = "-".join(map(str, (_PROCESS, database().stamps.stamp(*of), *also)))
    same = request.if_none_match.contains(mark)
    response = Response(status=304) if same else make_response(make())
    response.set_etag(mark)
    response.headers["X-Now"] = now.isoformat()
    return response


def table_file(ending: str, table: Table, name: str, setting: Setting) -> Response:
    """The data of a page at the same address with .csv or .json."""
    if ending == "json":
        return Response(to_json(table), mimetype="application/json")
    return named("\ufeff" + to_csv(table, setting.decimal), "text/csv", f"{name}.csv")


def named(text: str, mimetype: str, name: str, *, save: bool = True) -> Response:
    """Text as a file with a name, whatever letters are in it."""
    return send_file(
        BytesIO(text.encode("utf-8")), mimetype=mimetype, as_attachment=save, download_name=name, max_age=0
    )


@lru_cache
def stylesheet_for_pictures() -> str:
    """The tokens and drawing styles with their variables filled in, for a downloaded SVG."""
    return (Path(__file__).parent / "static" / "pictures.css").read_text(encoding="utf-8")


def svg_text(body: str) -> str:
    """An SVG as a file of its own: the same picture, with its styles inside.

    Without anything to draw it says so: an empty file tells nobody why.
    """
    body = body or render_template("pictures/nothing.svg")
    head, _, rest = body.partition(">")
    styles = f"<style>{stylesheet_for_pictures()}</style>"
    if "pic-build" in head:
        styles += render_template("pictures/patterns.svg")
    return f"{head} xmlns='http://www.w3.org/2000/svg'>{styles}{rest}"


def svg_file(body: str, name: str) -> Response:
    """An SVG as an answer."""
    response = named(svg_text(body), "image/svg+xml", f"{name}.svg", save=False)
    response.headers["Content-Security-Policy"] = "default-src 'none'; style-src 'unsafe-inline'; sandbox"
    return response


def flash_undo(kept: Removed) -> None:
    """Say on the next page what was deleted, with a key that brings it back."""
    flash(f"Deleted: {kept.title}.", f"undo:{kept.id}")


def go_back(default: str) -> BaseResponse:
    """To the page of ours that the form names as `back`, else to `default`; never anywhere else."""
    return redirect(own_address(request.form.get("back", ""), default), 303)
