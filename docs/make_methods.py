"""Writes docs/methods.md from the docstrings of the core; run with `make docs`."""

from __future__ import annotations

import inspect
import re
from pathlib import Path

import griffe

from thermion.core.kinds import all_kinds
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import unit_label

OUT = Path(__file__).parent / "methods.md"
SECTIONS = {
    "Curves": ["physics.approach", "physics.fitted", "physics.curves", "physics.thinning"],
    "Ovens and the sun": ["physics.oven", "physics.cooking", "physics.sun"],
    "Ice, warm drinks, heat through a sample": ["physics.heat"],
    "Melting by eye": ["physics.melting"],
    "Wind hoist": ["physics.lift"],
    "Sail run": ["physics.sail"],
    "Rain catch": ["physics.rain"],
    "Repeats, places and claims": [
        "judging.spread",
        "judging.claims",
        "judging.standings",
        "judging.intervals",
        "judging.layout",
        "judging.budget",
    ],
    "Scores": ["judging.scoring"],
    "Plausibility": ["judging.plausibility"],
    "Lessons, rounds and kit": [
        "planning.schedule",
        "planning.rounds",
        "planning.kit",
        "planning.ledger",
        "planning.week",
    ],
    "Simulation": ["sim.readings", "sim.oven", "sim.thermal", "sim.rotor", "sim.sail", "sim.rain"],
    "Families as physics": [
        "kinds.layers",
        "kinds.solar_oven.body",
        "kinds.keep_temp.body",
        "kinds.melt_pair.body",
        "kinds.heat_through.body",
        "kinds.wind_hoist.body",
        "kinds.sail_run.body",
        "kinds.rain_catch.body",
    ],
    "Figures, units and materials": ["values", "physics.units", "physics.materials"],
}
HEAD = """# Methods

What the core computes and how, made from its docstrings by `make docs` (do not edit here).
Inside, temperatures are °C, differences K, times s and everything else SI; names end in their
unit. A figure that the data cannot carry is a reason or a bound, never a number. Numbered sources
stand with the formula they belong to.

"""


def text_of(docstring: griffe.Docstring) -> str:
    """A docstring as Markdown: prose as it is, parameters and returns as lists."""
    out = []
    for section in docstring.parse("numpy"):
        if section.kind is griffe.DocstringSectionKind.text:
            out.append(inspect.cleandoc(section.value))
        elif section.kind is griffe.DocstringSectionKind.admonition:
            body = re.sub(r"^\.\. ", "", inspect.cleandoc(section.value.description), flags=re.M)
            out.append(f"*{section.title}.* {body}")
        else:
            lines = [f"*{str(section.kind.value).capitalize()}.*"]
            for item in section.value:
                name = getattr(item, "name", "") or ""
                words = " ".join(f"{item.annotation or ''} {item.description or ''}".split())
                lines.append(f"- `{name}`: {words}" if name else f"- {words}")
            out.append("\n".join(lines))
    text = "\n\n".join(out)
    text = re.sub(r"^\.\. \[(\d+)\] ", r"[\1] ", text, flags=re.M)
    return re.sub(r"\[(\d+)\]_", r"[\1]", text)


def entry(member: griffe.Object) -> str:
    names = [p.name for p in member.parameters] if member.is_function else []
    shown = f"{member.name}({', '.join(names)})" if names or member.is_function else member.name
    return f"### `{shown}`\n\n{text_of(member.docstring)}\n"


def families() -> str:
    """What each family reads, derives and holds fixed, as tables."""
    out = ["## The seven families\n"]
    for kind in all_kinds().values():
        read = ", ".join(f"{r.label.lower()} [{unit_label(r.unit) or '–'}]" for r in kind.test.reads)
        out.append(f"### {kind.label}\n\nRead: {read}.\n")
        out.append("| figure | unit | better | what it is worked out from |\n| --- | --- | --- | --- |")
        out += [
            f"| {m.label} | {unit_label(m.unit) or '–'} | {m.better} | {m.means} |"
            for m in kind.analysis.metrics
        ]
        out.append("\n| held fixed | unit | usual | tolerance |\n| --- | --- | --- | --- |")
        out += [
            f"| {c.label} | {unit_label(c.unit) or '–'} | {c.default:g} | {c.tolerance:g} |"
            for c in kind.brief.conditions
        ]
        out.append("")
    return "\n".join(out)


def material_rows() -> str:
    """The table of materials; letters of the sources are explained above it."""
    out = [
        "| material | unit | W/(m·K) | kg/m³ | mm | absorbs | passes | reflects | GPa "
        "| drinks mL | points | sources |",
        "| --- " * 12 + "|",
    ]
    out += [
        f"| {m.name} | {m.unit} | {m.conductivity:g} | {m.density:g} | {m.thickness_m * 1000:g} "
        f"| {m.absorptance:g} | {m.transmittance:g} | {m.reflectance:g} | {m.modulus_gpa:g} "
        f"| {m.drinks_ml:g} | {m.points:g} | {m.source} |"
        for m in MATERIALS.values()
    ]
    return "\n".join(out)


def how_tries_vary() -> str:
    """The table of how much the tries of each metric vary, with where its floor is from."""
    out = [
        "## How a try varies with its size",
        "",
        "In proportion to √(y² + c²), y counted from where it says; a dash: alike for all builds.",
        "",
        "| family | metric | unit | c | why | y counts from | could not vary at |",
        "| --- | --- | --- | --: | --- | --- | --- |",
    ]
    for kind in all_kinds().values():
        for m in kind.analysis.metrics:
            if m.varies.never:
                continue
            v = m.varies
            floor = "–" if v.above is None else f"{v.above:g}"
            ends = ", ".join(map(str, v.ends))
            out.append(
                f"| {kind.label} | {m.label} | {unit_label(m.unit) or '–'} | {floor} | {v.why} | {v.zero} | {ends} |"
            )
    return "\n".join(out)


def pages() -> str:
    package = griffe.load("thermion.core", search_paths=[OUT.parent.parent])
    out = [HEAD]
    for title, names in SECTIONS.items():
        out.append(f"## {title}\n")
        for name in names:
            if name not in package.modules and "." not in name:
                continue
            module = package[name]
            out.append(f"`thermion.core.{name}`. {text_of(module.docstring)}\n")
            for member in module.members.values():
                public = not member.name.startswith("_") and not member.is_alias
                if public and member.docstring and (member.is_function or member.is_class):
                    out.append(entry(member))
    out += [how_tries_vary(), "", material_rows(), "", families()]
    return re.sub(r"\n{3,}", "\n\n", "\n".join(out)).rstrip() + "\n"


if __name__ == "__main__":
    OUT.write_text(pages())
