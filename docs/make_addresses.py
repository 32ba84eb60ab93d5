"""Writes docs/addresses.md from the models of every JSON address and of the package; run with `make docs`."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from thermion.formats.package.tables import TABLES
from thermion.web import create_app
from thermion.web.described import BEGIN, openapi

OUT = Path(__file__).parent / "addresses.md"
HEAD = """# Addresses and tables

Made by `make docs` from the models that the program itself uses (do not edit here). The same as OpenAPI 3.1 is at
`/openapi.json` of a running Thermion; the JSON Schema of the challenge file at `/schema/challenge.json`.

"""


def _type(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return str(schema["$ref"].split("/")[-1])
    if "anyOf" in schema:
        return " or ".join(_type(each) for each in schema["anyOf"])
    if schema.get("type") == "array":
        return f"list of {_type(schema.get('items', {}))}"
    if "enum" in schema:
        return " or ".join(f"`{each}`" for each in schema["enum"])
    return str(schema.get("format") or schema.get("type") or "any")


def _model(name: str, schema: dict[str, Any]) -> str:
    lines = [f"### {name}", ""]
    if schema.get("description"):
        lines += [" ".join(str(schema["description"]).split()), ""]
    needed = set(schema.get("required", ()))
    for key, each in schema.get("properties", {}).items():
        lines.append(f"- `{key}`: {_type(each)}{'' if key in needed else ' (may be left out)'}")
    return "\n".join(lines)


def _content(of: dict[str, Any]) -> str:
    """What a body holds: a model in JSON, or a file of a media type."""
    for media, each in of.get("content", {}).items():
        return _type(each["schema"]) if media.endswith("json") else str(media)
    return ""


def pages() -> str:
    """The whole document."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app({"DATA": Path(folder)})
        found = openapi(app)
        app.extensions["thermion"].close()
    parts = [
        HEAD + BEGIN + "\n",
        "## Addresses",
        "",
        "| address | takes | gives | what for |",
        "| --- | --- | --- | --- |",
    ]
    for address, operations in found["paths"].items():
        for method, each in operations.items():
            takes, gives = _content(each.get("requestBody", {})), _content(each["responses"]["200"])
            asked = [f"`?{p['name']}=` {p['description']}" for p in each["parameters"] if p["in"] == "query"]
            said = "; ".join([each["summary"].replace("|", "/").rstrip("."), *asked])
            parts.append(f"| {method.upper()} `{address}` | {takes} | {gives} | {said} |")
    parts += ["", "## Models", ""]
    parts += [_model(name, schema) + "\n" for name, schema in sorted(found["components"]["schemas"].items())]
    parts += ["## Tables of a package", ""]
    for table in TABLES:
        parts += [f"### {table.name}", "", table.means, ""]
        for field in table.fields:
            unit = f" [{field.unit}]" if field.unit else ""
            free = " (free text)" if field.words else ""
            parts.append(f"- `{field.name}` ({field.type}): {field.means}{unit}{free}")
        parts.append("")
    return "\n".join(parts).rstrip() + "\n"


if __name__ == "__main__":
    OUT.write_text(pages(), encoding="utf-8")
