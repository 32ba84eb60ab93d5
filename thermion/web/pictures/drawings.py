"""Builds drawn from their data, from each side, with a label at each place and dimension."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

from flask import g, render_template

from thermion.core.kinds.base import Kind
from thermion.core.kinds.building import Drawing, Handle, Point, Shape, View
from thermion.core.plans import Plan, differences
from thermion.records.planning.briefs import Brief
from thermion.web.pictures.labels import labels_of, names_of
from thermion.web.pictures.leaders import Label, Room, StandingView, place_labels

PAGE = Room(width=740, height=385, column=118)  # beside a list, on a desk
CHECK = Room(width=720, height=500, column=118)  # with the whole height of a desk
PHONE = Room(width=350, height=330, numbered=True, column=16)
PAPER = Room(width=680, height=210)
SMALL = Room(width=280, height=150, text=0)
BOARD = Room(width=840, height=600, text=31, column=210)
MINUTE = Room(width=620, height=430, text=31, column=160)  # on the board, beside what its team tells

BETWEEN = re.compile(r">\s+<")  # a page holds a dozen drawings
FORMED = {"crumpled", "shredded", "folded", "rolled"}  # drawn over the material's pattern


@dataclass(frozen=True, kw_only=True)
class _ViewShown:
    """A view in px: shapes with their points as SVG writes them."""

    name: str
    shapes: list[tuple[Shape, str]]
    changed: list[str]
    ghosts: list[str]
    middle: float
    below: float


@dataclass(frozen=True, kw_only=True)
class _HandleShown:
    factor: str
    at: Point
    step: Point
    about: Point | None
    turn: float
    changed: bool


def drawing_svg(
    drawing: Drawing,
    room: Room = SMALL,
    *,
    labels: Mapping[str, Label] | None = None,
    places: Collection[str] = (),
    handles: bool = False,
    before: Drawing | None = None,
) -> str:
    """The drawing as an SVG element that fills the room.

    What `labels` say is different from the version before is marked, and its outline then stands
    behind if that is given; `places` can be pointed at, and `handles` can be pulled.
    """
    g.drawn = True  # the page brings the patterns
    labels = labels or {}
    changed = {key for key, label in labels.items() if label.was}
    layout = place_labels(drawing.views, labels, room)
    earlier = _outlines(before) if before else set()
    said = [": ".join([label.heading, ", ".join(label.lines)]) for label in labels.values()]
    drawn = render_template(
        "pictures/drawing.svg",
        title=drawing.title if places else ". ".join([drawing.title, *said]),
        room=room,
        width=layout.width,
        height=layout.height + (16 if room.text else 0),
        views=[_shown(v, changed, earlier) for v in layout.views],
        labels=layout.labels,
        notes=layout.notes,
        handles=[
            _handle(v, h, h.factor in changed)
            for v in layout.views
            for h in v.view.handles
            if handles or h.factor in changed
        ],
        scale=layout.scale if drawing.to_scale and room.text else 0,
        places=places,
        FORMED=FORMED,
    )
    return BETWEEN.sub("><", drawn)


def plan_svg(
    plan: Plan, brief: Brief, room: Room = PAGE, *, before: Plan | None = None, editable: bool = False
) -> str:
    """A plan drawn with its labels; what differs from the plan `before` is marked."""
    build, rig = brief.kind.build, brief.rig()
    return drawing_svg(
        build.draw(plan, rig),
        room,
        labels=labels_of(build, plan, brief.setting, before) if room.text else {},
        places=[p.key for p in build.places] if editable else (),
        handles=editable,
        before=build.draw(before, rig) if before is not None and _moved(before, plan, brief) else None,
    )


def board_svg(plan: Plan, brief: Brief, *, names_only: bool = False) -> str:
    """A plan for the back of the room: what it is made of, or the names of its places; no dimensions."""
    build = brief.kind.build
    places = {place.key for place in build.places}
    said = {key: label for key, label in labels_of(build, plan, brief.setting).items() if key in places}
    if not names_only:
        return drawing_svg(build.draw(plan, brief.rig()), BOARD, labels=said)
    used = {part.place for part in plan.parts}
    named = {key: replace(label, lines=(), was="") for key, label in said.items() if key in used}
    return drawing_svg(build.draw(plan, brief.rig()), MINUTE, labels=named)


def example_svg(kind: Kind) -> str:
    """A family by what most teams would build first, under the usual conditions."""
    rig = {c.key: c.si("default") for c in kind.brief.settings(kind.brief.default_choices())}
    return drawing_svg(kind.build.draw(kind.build.example(), rig))


def names_svg(brief: Brief, room: Room) -> str:
    """An empty build under the brief's conditions, with the name of each place."""
    build = brief.kind.build
    return drawing_svg(build.draw(build.usual(), brief.rig()), room, labels=names_of(build))


def _moved(before: Plan, plan: Plan, brief: Brief) -> bool:
    build = brief.kind.build
    return bool(differences(before, plan, build.place_names(), build.factor_names()))


def _outlines(drawing: Drawing) -> set[tuple[str, str, tuple[Point, ...]]]:
    """Where places stood, by view."""
    return {
        (v.name, s.place, s.points)
        for v in drawing.views
        for s in v.shapes
        if s.kind == "polygon" and s.place
    }


def _shown(
    standing: StandingView, changed: set[str], earlier: set[tuple[str, str, tuple[Point, ...]]]
) -> _ViewShown:
    view: View = standing.view
    now = {(view.name, s.place, s.points) for s in view.shapes}
    ghosts = [points for name, _, points in sorted(earlier - now) if name == view.name]
    return _ViewShown(
        name=view.name,
        shapes=[(s, _points(standing, s.points)) for s in view.shapes],
        changed=[
            _points(standing, s.points) for s in view.shapes if s.kind == "polygon" and s.place in changed
        ],
        ghosts=[_points(standing, points) for points in ghosts],
        middle=standing.left + standing.wide / 2,
        below=standing.below,
    )


def _points(standing: StandingView, points: Collection[Point]) -> str:
    return " ".join(f"{round(x, 1):g},{round(y, 1):g}" for x, y in map(standing.at, points))


def _handle(standing: StandingView, handle: Handle, changed: bool) -> _HandleShown:
    s = standing.scale
    return _HandleShown(
        factor=handle.factor,
        at=standing.at(handle.at),
        step=(handle.step[0] * s, -handle.step[1] * s),
        about=standing.at(handle.about) if handle.about else None,
        turn=handle.turn,
        changed=changed,
    )
