"""The collector on its tray, cut open from the side, and from above."""

from __future__ import annotations

from collections.abc import Mapping

from thermion.core.kinds.building import Drawing, Handle, Shape, View
from thermion.core.kinds.shapes import box, line, measure, polygon, tone_at, view
from thermion.core.plans import Plan

WALL_MM = 5.0
EMPTY_APRON_MM = 12.0  # shown so that it can be pointed at


class _Collector:
    """Lengths of a collector [mm]; origin at the middle of the store's floor."""

    def __init__(self, plan: Plan, rig: Mapping[str, float]) -> None:
        f = plan.factors
        self.plan = plan
        self.tray = rig.get("tray_m2", 0.12) ** 0.5 * 1000
        self.mouth, self.store = f.get("mouth_m", 0.12) * 1000, f.get("store_m", 0.08) * 1000
        self.deep, self.rim = f.get("deep_m", 0.06) * 1000, f.get("rim_m", 0.02) * 1000
        self.slope = f.get("slope_deg", 30.0) / 90.0
        self.half = self.store / 2
        self.out = max(self.mouth / 2, self.half + WALL_MM)
        self.top = self.deep + max(self.out - self.half, 0) * self.slope + 5
        self.reach = max(f.get("apron_m", 0.0) * 1000, EMPTY_APRON_MM)


def draw_rain(plan: Plan, conditions: Mapping[str, float]) -> Drawing:
    """The collector to scale [mm], rain from above."""
    c = _Collector(plan, conditions)
    return Drawing("Collector on its tray, cut open, and from above", (_cut(c), _above(c)))


def _cut(c: _Collector) -> View:
    looks = {p: tone_at(c.plan, p) for p in ("store", "lining", "funnel", "apron", "seal")}
    w, half, deep = WALL_MM, c.half, c.deep
    store, made = looks["store"]
    lining, lined = looks["lining"]
    ends = max(c.tray / 2, c.out + c.reach)
    shapes: list[Shape] = [
        polygon(
            [
                (-ends - 8, 26),
                (-ends, 26),
                (-ends, -8),
                (ends, -8),
                (ends, 26),
                (ends + 8, 26),
                (ends + 8, -16),
                (-ends - 8, -16),
            ],
            "shell",
        ),
        box(-half - w, -w, half + w, 0, tone=store, place="store", part=made),
        box(-half - w, 0, -half, deep, tone=store, place="store", part=made),
        box(half, 0, half + w, deep, tone=store, place="store", part=made),
        box(-half + 4, 4, half - 4, max(deep * 0.4, 8), "water"),
        box(-half, 0, -half + 4, deep * 0.95, tone=lining, place="lining", part=lined),
        box(half - 4, 0, half, deep * 0.95, tone=lining, place="lining", part=lined),
    ]
    for side in (-1, 1):
        foot, edge, far = side * (half + 2), side * c.out, side * (c.out + c.reach)
        lift = c.top + c.reach * c.slope
        tone, part = looks["funnel"]
        bowl = [
            (foot, deep),
            (edge, c.top),
            (edge, c.top + c.rim),
            (edge - side * 5, c.top + c.rim),
            (edge - side * 5, c.top + 5),
            (foot - side * 4, deep + 5),
        ]
        shapes.append(polygon(bowl, tone, "funnel", part))
        tone, part = looks["apron"]
        apron = [(edge, c.top), (far, lift + 4), (far, lift + 9), (edge, c.top + 5)]
        shapes.append(polygon(apron, tone, "apron", part))
        tone, part = looks["seal"]
        joint = sorted((foot, foot + side * 9))
        shapes.append(box(joint[0], deep - 7, joint[1], deep + 7, tone=tone, place="seal", part=part))
    cloud = c.top + c.rim + 74
    for share in (-0.4, -0.2, 0.0, 0.2, 0.4):
        x = c.tray * share
        shapes += [
            line("rain", (x, cloud), (x, cloud - 18)),
            line("rain", (x + 9, cloud - 26), (x + 9, cloud - 44)),
        ]
    high = c.top + c.rim + 10
    shapes += measure((-c.out, high), (c.out, high))
    shapes += measure((0, 0), (0, deep))
    shapes += measure((-half, deep * 0.72), (half, deep * 0.72))
    at = c.out + c.reach
    seen = {
        "funnel": (-(half + c.out) / 2, (deep + c.top) / 2 + 2),
        "store": (-half - w / 2, deep * 0.45),
        "lining": (-half + 2, deep * 0.2),
        "apron": (c.out + c.reach * 0.5, c.top + c.reach * 0.5 * c.slope + 5),
        "seal": (half + 6, deep),
        "mouth_m": (-c.out * 0.5, high),
        "rim_m": (c.out - 2, c.top + c.rim * 0.7),
        "slope_deg": ((half + c.out) / 2, (deep + c.top) / 2 + 2),
        "store_m": (half * 0.7, deep * 0.72),
        "deep_m": (0.0, deep * 0.5),
    }
    handles = [
        Handle(factor="mouth_m", at=(c.out, c.top), step=(5.0, 5.0 * c.slope)),
        Handle(factor="apron_m", at=(at, c.top + c.reach * c.slope + 6), step=(10.0, 10.0 * c.slope)),
        Handle(factor="rim_m", at=(-c.out, c.top + c.rim), step=(0.0, 10.0)),
        Handle(factor="store_m", at=(half + w, deep * 0.3), step=(5.0, 0.0)),
        Handle(factor="deep_m", at=(-half - 2, deep), step=(0.0, 10.0)),
    ]
    return view("cut open, from the side", shapes, handles, seen)


def _above(c: _Collector) -> View:
    looks = {p: tone_at(c.plan, p) for p in ("funnel", "apron")}
    whole = c.out + c.reach
    ends = max(c.tray / 2, whole)
    apron, flap = looks["apron"]
    funnel, bowl = looks["funnel"]
    shapes = [
        box(-ends - 8, -ends - 8, ends + 8, ends + 8, "shell"),
        box(-ends, -ends, ends, ends, "air"),
        box(-whole, -whole, whole, whole, tone=apron, place="apron", part=flap),
        box(-c.out, -c.out, c.out, c.out, tone=funnel, place="funnel", part=bowl),
        box(-c.half, -c.half, c.half, c.half, "water"),
        *(line("hair", (s * c.half, t * c.half), (s * c.out, t * c.out)) for s in (-1, 1) for t in (-1, 1)),
        *measure((c.out, -whole * 0.5), (whole, -whole * 0.5)),
    ]
    seen = {"apron_m": ((c.out + whole) / 2, -whole * 0.5)}
    return view("from above", shapes, (), seen)
