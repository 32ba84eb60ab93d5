"""Builds drawn from their data."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from flask import render_template

from thermion.core.kinds.building import Drawing, Place, Shape
from thermion.core.plans import Plan
from thermion.records.planning.briefs import Brief


def drawing_svg(
    drawing: Drawing,
    *,
    chosen: str = "",
    changed: Iterable[str] = (),
    places: Sequence[Place] = (),
    handles: bool = False,
    before: Drawing | None = None,
) -> str:
    """The drawing as an SVG element.

    `changed` places and factors are marked, the outline of the version `before` stands behind,
    `places` can be pointed at, and `handles` can be pulled.
    """
    return render_template(
        "pictures/drawing.svg",
        drawing=drawing,
        chosen=chosen,
        changed=set(changed),
        places={p.key: p.label for p in places},
        handles=handles,
        ghosts=_ghosts(drawing, before) if before else (),
    )


def _ghosts(drawing: Drawing, before: Drawing) -> list[Shape]:
    """Outlines of an earlier version that are no longer where they were."""
    now = {(s.place, s.points) for s in drawing.shapes}
    return [s for s in before.shapes if s.kind == "polygon" and s.place and (s.place, s.points) not in now]


def plan_drawing(plan: Plan, brief: Brief) -> Drawing:
    return brief.kind.build.draw(plan, brief.rig())
