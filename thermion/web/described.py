"""What the addresses that speak JSON take and give, in OpenAPI, made from the models they use."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, TypeVar

from flask import Flask, Response, current_app
from pydantic import BaseModel

from thermion.web.access import ANYBODY, is_for_probes, may
from thermion.web.payloads import Trouble

if TYPE_CHECKING:
    from werkzeug.routing import Rule

V = TypeVar("V", bound=Callable[..., Any])
TAKEN = "application/json"
BEGIN = """Addresses that speak JSON. Numbers of rows are those of the pages' addresses; `/contents.json` lists them.

To read: nothing is needed on the computer that runs Thermion; elsewhere a device's code is sent once to `/join`
(a form with `code` and the token of `/token.json`), and the cookie of the session sent along: what may be read
follows from the code. A program with the key of a probe may follow the runs of its class and send
measurements.

To change something: ask `/token.json` once, keep its cookie, and send its token as the header `X-CSRFToken`.

What is no success is `Trouble` in JSON, at every address, for whoever asks for JSON (by `Accept`, by an address
that ends in .json, or by sending JSON)."""
_ARGUMENT = re.compile(r"<(?:(\w+)(?:\([^)]*\))?:)?(\w+)>")


@dataclass(frozen=True)
class Asks:
    """A parameter of an address, after the question mark, and what it means."""

    name: str
    means: str
    kind: Literal["integer", "string"] = "string"


def speaks(
    gives: type[BaseModel], takes: type[BaseModel] | None = None, *, media: str = TAKEN
) -> Callable[[V], V]:
    """Mark a view with the model of the JSON it gives, and of what it takes, as this media type."""

    def mark(view: V) -> V:
        view.speaks = (gives, takes)  # type: ignore[attr-defined]
        view.takes_as = media  # type: ignore[attr-defined]
        return view

    return mark


def asks(*parameters: Asks) -> Callable[[V], V]:
    """Mark a view with the parameters that it looks at."""

    def mark(view: V) -> V:
        view.asks = parameters  # type: ignore[attr-defined]
        return view

    return mark


def sends(media: str) -> Callable[[V], V]:
    """Mark a view that gives a file of this media type, for programs too."""

    def mark(view: V) -> V:
        view.sends = media  # type: ignore[attr-defined]
        return view

    return mark


def spoken(app: Flask) -> list[tuple[Rule, type[BaseModel] | None, type[BaseModel] | None]]:
    """Every address that gives JSON or a file for programs, with the models of what it gives and takes."""
    from thermion.formats.tables import TableSent

    out = []
    for rule in sorted(app.url_map.iter_rules(), key=lambda r: r.rule):
        view = app.view_functions[rule.endpoint]
        table = "<any(csv,json):ending>" in rule.rule
        gives, takes = getattr(view, "speaks", (TableSent, None) if table else (None, None))
        if gives is not None or hasattr(view, "sends"):
            out.append((rule, gives, takes))
    return out


def openapi(app: Flask) -> dict[str, Any]:
    """The description of all of them, OpenAPI 3.1."""
    from importlib.metadata import version  # loaded when somebody asks, as all that only this needs

    from pydantic.json_schema import models_json_schema

    found = spoken(app)
    models: dict[type[BaseModel], None] = {Trouble: None}
    for _, gives, takes in found:
        models |= {model: None for model in (gives, takes) if model is not None}
    mode: Literal["validation"] = "validation"
    names, schemas = models_json_schema(
        [(m, mode) for m in models], ref_template="#/components/schemas/{model}"
    )
    paths: dict[str, dict[str, Any]] = {}
    for rule, gives, takes in found:
        address, arguments = _address(rule)
        for method in sorted((rule.methods or set()) - {"HEAD", "OPTIONS"}):
            paths.setdefault(address, {})[method.lower()] = _operation(
                app,
                rule,
                method,
                arguments,
                gives=names[gives, mode] if gives else None,
                takes=names[takes, mode] if takes else None,
            )
    return {
        "openapi": "3.1.0",
        "info": {"title": "Thermion", "version": version("thermion"), "description": BEGIN},
        "servers": [{"url": "/"}],
        "paths": paths,
        "components": {
            "schemas": schemas.get("$defs", {}),
            "securitySchemes": {
                "probe": {"type": "http", "scheme": "bearer", "description": "the key of a probe"},
                "token": {
                    "type": "apiKey",
                    "in": "header",
                    "name": "X-CSRFToken",
                    "description": "the token of /token.json, with the cookie that came with it",
                },
            },
        },
    }


def _address(rule: Rule) -> tuple[str, list[tuple[str, str]]]:
    """An address as OpenAPI writes it, always with .json, and its arguments with their types."""
    text = re.sub(r"<any\((?:csv,json|json,csv)\):ending>", "json", rule.rule)
    arguments = [(name, kind or "string") for kind, name in _ARGUMENT.findall(text)]
    return _ARGUMENT.sub(r"{\2}", text), arguments


def _operation(
    app: Flask,
    rule: Rule,
    method: str,
    arguments: list[tuple[str, str]],
    *,
    gives: dict[str, Any] | None,
    takes: dict[str, Any] | None,
) -> dict[str, Any]:
    view = app.view_functions[rule.endpoint]
    said = (view.__doc__ or rule.endpoint.replace(".", ": ").replace("_", " ")).strip().split("\n")[0]
    content = {TAKEN: {"schema": gives}}
    if gives is None:
        content = {getattr(view, "sends", ""): {"schema": {"type": "string", "format": "binary"}}}
    trouble = {TAKEN: {"schema": {"$ref": "#/components/schemas/Trouble"}}}
    out: dict[str, Any] = {
        "operationId": f"{rule.endpoint.replace('.', '_')}_{method.lower()}",
        "summary": said,
        "tags": [rule.endpoint.partition(".")[0]],
        "parameters": [*(_in_path(*each) for each in arguments), *map(_asked, getattr(view, "asks", ()))],
        "responses": {
            "200": {"description": "What was asked for.", "content": content},
            "4XX": {"description": "Why not, in words.", "content": trouble},
            "5XX": {"description": "Why not, in words, and what was kept.", "content": trouble},
        },
    }
    if takes is not None:
        media = getattr(view, "takes_as", TAKEN)
        out["requestBody"] = {"required": True, "content": {media: {"schema": takes}}}
    if is_for_probes(app, rule.endpoint):
        out["security"] = [{"probe": []}, *([{}] if method == "GET" else [])]
    elif method != "GET":
        out["security"] = [{"token": []}]
    return out


def _in_path(name: str, kind: str) -> dict[str, Any]:
    schema: dict[str, Any] = {"type": "integer", "minimum": 0} if kind == "int" else {"type": "string"}
    return {"name": name, "in": "path", "required": True, "schema": schema}


def _asked(parameter: Asks) -> dict[str, Any]:
    return {
        "name": parameter.name,
        "in": "query",
        "required": False,
        "description": parameter.means,
        "schema": {"type": parameter.kind},
    }


def init(app: Flask) -> None:
    """Serve the description, and the schema of the challenge file."""
    import json

    @app.get("/openapi.json")
    @may(ANYBODY)
    def described() -> Response:
        return Response(json.dumps(openapi(current_app._get_current_object()), indent=1), mimetype=TAKEN)  # type: ignore[attr-defined]

    @app.get("/schema/challenge.json")
    @may(ANYBODY)
    def challenge_schema() -> Response:
        return Response(json.dumps(challenge_file_schema(), indent=1), mimetype="application/schema+json")


def challenge_file_schema() -> dict[str, Any]:
    """JSON Schema of the challenge file."""
    from thermion.formats.schema import ChallengeFile

    found = ChallengeFile.model_json_schema(mode="validation")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}
