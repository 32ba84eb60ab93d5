"""What the addresses that speak JSON take and give, in OpenAPI, made from the models they use."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal, TypeVar

from flask import Flask, Response, current_app
from pydantic import BaseModel

from thermion.web.payloads import Trouble

if TYPE_CHECKING:
    from werkzeug.routing import Rule

V = TypeVar("V", bound=Callable[..., Any])
TAKEN = "application/json"
_ARGUMENT = re.compile(r"<(?:(\w+)(?:\([^)]*\))?:)?(\w+)>")


def speaks(gives: type[BaseModel], takes: type[BaseModel] | None = None) -> Callable[[V], V]:
    """Mark a view with the model of the JSON it gives, and of what it takes."""

    def mark(view: V) -> V:
        view.speaks = (gives, takes)  # type: ignore[attr-defined]
        return view

    return mark


def spoken(app: Flask) -> list[tuple[Rule, type[BaseModel], type[BaseModel] | None]]:
    """Every address that gives JSON, with the models of what it gives and takes."""
    from thermion.formats.tables import TableSent

    out = []
    for rule in sorted(app.url_map.iter_rules(), key=lambda r: r.rule):
        view = app.view_functions[rule.endpoint]
        table = "<any(csv,json):ending>" in rule.rule
        gives, takes = getattr(view, "speaks", (TableSent, None) if table else (None, None))
        if gives is not None:
            out.append((rule, gives, takes))
    return out


def openapi(app: Flask) -> dict[str, Any]:
    """The description of all of them, OpenAPI 3.1."""
    from importlib.metadata import version  # loaded when somebody asks, as all that only this needs

    from pydantic.json_schema import models_json_schema

    found = spoken(app)
    models: dict[type[BaseModel], None] = dict.fromkeys(
        [Trouble, *(m for _, gives, takes in found for m in (gives, takes) if m is not None)]
    )
    mode: Literal["validation"] = "validation"
    names, schemas = models_json_schema(
        [(m, mode) for m in models], ref_template="#/components/schemas/{model}"
    )
    paths: dict[str, dict[str, Any]] = {}
    for rule, gives, takes in found:
        address, arguments = _address(rule)
        for method in sorted((rule.methods or set()) - {"HEAD", "OPTIONS"}):
            paths.setdefault(address, {})[method.lower()] = _operation(
                app, rule, method, arguments, names[gives, mode], names[takes, mode] if takes else None
            )
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "Thermion",
            "version": version("thermion"),
            "description": "Addresses that speak JSON. Numbers of rows as they stand in the pages' addresses.",
        },
        "paths": paths,
        "components": {
            "schemas": schemas.get("$defs", {}),
            "securitySchemes": {
                "probe": {"type": "http", "scheme": "bearer", "description": "the key of a probe"}
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
    gives: dict[str, Any],
    takes: dict[str, Any] | None,
) -> dict[str, Any]:
    view = app.view_functions[rule.endpoint]
    said = (view.__doc__ or rule.endpoint.replace(".", ": ").replace("_", " ")).strip().split("\n")[0]
    out: dict[str, Any] = {
        "operationId": f"{rule.endpoint.replace('.', '_')}_{method.lower()}",
        "summary": said,
        "parameters": [
            {
                "name": name,
                "in": "path",
                "required": True,
                "schema": {"type": "integer", "minimum": 0} if kind == "int" else {"type": "string"},
            }
            for name, kind in arguments
        ],
        "responses": {
            "200": {"description": "What was asked for.", "content": {TAKEN: {"schema": gives}}},
            "default": {
                "description": "Why not, in words.",
                "content": {TAKEN: {"schema": {"$ref": "#/components/schemas/Trouble"}}},
            },
        },
    }
    if takes is not None:
        out["requestBody"] = {"required": True, "content": {TAKEN: {"schema": takes}}}
    if getattr(view, "for_probes", False):
        out["security"] = [{"probe": []}, {}]
    return out


def init(app: Flask) -> None:
    """Serve the description, and the schema of the challenge file."""
    import json

    @app.get("/openapi.json")
    def described() -> Response:
        return Response(json.dumps(openapi(current_app._get_current_object()), indent=1), mimetype=TAKEN)  # type: ignore[attr-defined]

    @app.get("/schema/challenge.json")
    def challenge_schema() -> Response:
        return Response(json.dumps(challenge_file_schema(), indent=1), mimetype="application/schema+json")


def challenge_file_schema() -> dict[str, Any]:
    """JSON Schema of the challenge file."""
    from thermion.formats.schema import ChallengeFile

    found = ChallengeFile.model_json_schema(mode="validation")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}
