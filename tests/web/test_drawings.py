"""Drawings speak: every place and dimension is named, and no name lies on another or on the drawing."""

from __future__ import annotations

import random
import re
from dataclasses import replace
from itertools import combinations

import pytest

from tests.core.test_kinds import example_plan
from thermion.core.kinds import all_kinds
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import Setting
from thermion.core.plans import Part, Plan
from thermion.web.pictures.drawings import BOARD, PAGE, PAPER, PHONE, drawing_svg
from thermion.web.pictures.labels import labels_of, part_words
from thermion.web.pictures.leaders import PlacedLabels, Room, crosses, place_labels, text_width, wrap

KINDS = list(all_kinds().values())


def any_plan(kind, draw: random.Random) -> Plan:
    """Up to three parts of anything at each place, every factor anywhere between its ends."""
    parts = []
    for place in kind.build.places:
        for _ in range(draw.choice([0, 1, 1, 2, 3])):
            material = MATERIALS[draw.choice(kind.build.materials)[0]]
            parts.append(
                Part(
                    place=place.key,
                    material=material.key,
                    form=draw.choice(material.forms),
                    units=draw.choice([1, 2.5, 4, 12]),
                )
            )
    low_high = {f.key: (f.si("low"), f.si("high")) for f in kind.build.factors}
    factors = {
        k: draw.choice([low, high, low + (high - low) * draw.random()]) for k, (low, high) in low_high.items()
    }
    return Plan(tuple(parts), factors)


def layout(kind, plan: Plan, room: Room, setting: Setting | None = None) -> PlacedLabels:
    drawing = kind.build.draw(plan, kind.brief.default_rig())
    return place_labels(drawing.views, labels_of(kind.build, plan, setting or Setting()), room)


def meet(a, b) -> bool:
    return a[0] < b[0] + b[2] and b[0] < a[0] + a[2] and a[1] < b[1] + b[3] and b[1] < a[1] + a[3]


def sides(box):
    x, y, w, h = box
    corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
    return list(zip(corners, corners[1:] + corners[:1], strict=True))


def faults(found: PlacedLabels) -> list[str]:
    """Whatever lies where it should not."""
    views = [(v.left, v.top, v.wide, v.view.window[3] * v.scale) for v in found.views]
    out = []
    for a, b in combinations(found.labels, 2):
        out += [f"{a.label.key} lies on {b.label.key}"] * meet(a.box, b.box)
        out += [f"leaders of {a.label.key} and {b.label.key} cross"] * crosses(a.leader, b.leader)
    for label in found.labels:
        others = [b.box for b in found.labels if b is not label]
        over = any(crosses(label.leader, side) for box in others for side in sides(box))
        out += [f"the leader of {label.label.key} runs over a label"] * over
        out += [f"{label.label.key} lies on the drawing"] * any(meet(label.box, view) for view in views)
        x, y, w, h = label.box
        out += [f"{label.label.key} is cut"] * (
            x < -1 or x + w > found.width + 1 or y < -1 or y + h > found.height + 1
        )
    out += [f"{a} and {b} lie on each other" for a, b in combinations(views, 2) if meet(a, b)]
    return out


@pytest.mark.parametrize("room", [PAGE, PHONE, PAPER, BOARD], ids=["page", "phone", "paper", "board"])
@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_no_label_of_any_plan_lies_on_anything(kind, room):
    draw = random.Random(f"{kind.key}{room}")
    plans = [any_plan(kind, draw) for _ in range(200 if room in (PAGE, PHONE) else 60)]
    assert [(i, found) for i, plan in enumerate(plans) if (found := faults(layout(kind, plan, room)))] == []


def test_labels_that_lie_on_each_other_would_be_found():
    found = layout(KINDS[0], example_plan(KINDS[0]), PAGE)
    one, other = found.labels[:2]
    moved = replace(one, box=other.box)
    assert faults(
        PlacedLabels(
            width=found.width,
            height=found.height,
            scale=found.scale,
            views=found.views,
            labels=(moved, other),
            notes=(),
        )
    )


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_every_place_and_dimension_is_named_in_the_drawing_in_the_classs_units(kind):
    plan = example_plan(kind)
    found = layout(kind, plan, PAGE, Setting("degF", "comma"))
    named = {s.label.key for s in found.labels}
    assert named >= {p.key for p in kind.build.places}
    assert named >= {f.key for f in kind.build.factors if plan.factors[f.key] or f.unit != "dimensionless"}
    said = {s.label.key: s.label.lines for s in found.labels}
    halves = [f for f in kind.build.factors if f.step < 1]
    assert all(re.search(r"\d,\d", said[f.key][0]) for f in halves)


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_plan_of_forty_parts_of_one_and_of_none_is_drawn_and_said(kind):
    place, (material, _) = kind.build.places[0], kind.build.materials[0]
    usual = kind.build.usual().factors
    part = Part(place=place.key, material=material, form=MATERIALS[material].forms[0], units=1)
    many = [Part(place=place.key, material=m, form=MATERIALS[m].forms[0], units=1) for m in MATERIALS][:40]
    forty = part_words(Part(place=place.key, material=material, form=part.form, units=40))
    for parts, said in (
        ([], "nothing"),
        ([part], part_words(part)),
        ([part] * 40, forty),
        (many, "and 37 more"),
    ):
        found = layout(kind, Plan(tuple(parts), usual), PAGE)
        assert not faults(found)
        mine = next(s.label for s in found.labels if s.label.key == place.key)
        assert said in mine.lines


def test_parts_are_named_as_a_teacher_would():
    assert (
        part_words(Part(place="wall", material="newspaper", form="crumpled", units=4))
        == "4 sheets newspaper, crumpled"
    )
    assert (
        part_words(Part(place="wall", material="newspaper", form="flat", units=1))
        == "1 sheet newspaper, flat"
    )
    assert (
        part_words(Part(place="seal", material="tape", form="flat", units=2))
        == "2 strips of 50 cm paper tape"
    )
    assert part_words(Part(place="spar", material="craft_stick", form="flat", units=3)) == "3 × craft stick"
    assert (
        part_words(Part(place="wall", material="wool", form="flat", units=1.5)) == "1.5 handfuls sheep's wool"
    )


def test_a_word_longer_than_its_column_is_cut_and_nothing_of_it_is_lost():
    rows = wrap("Aluminiumfolienverbundstück, glatt", 60, 13)
    assert "".join(row.rstrip("-") for row in rows).replace(" ", "") == "Aluminiumfolienverbundstück,glatt"
    assert all(text_width(row, 13) <= 60 for row in rows)


def test_what_changed_since_the_version_before_is_said_and_marked(app, crew):
    kind = all_kinds()["solar_oven"]
    usual = kind.build.usual()
    part = Part(place="wall", material="newspaper", form="crumpled", units=4)
    before = Plan((part,), usual.factors)
    after = Plan((), {**usual.factors, "gap_m": 0.06})
    labels = labels_of(kind.build, after, Setting(), before)
    assert labels["wall"].was == "was 4 sheets newspaper, crumpled"
    assert labels["gap_m"].was == "was 4.0 cm"
    assert [k for k, label in labels.items() if label.was] == ["wall", "gap_m"]
    with app.test_request_context():
        drawing = kind.build.draw(after, kind.brief.default_rig())
        svg = drawing_svg(
            drawing, PAGE, labels=labels, before=kind.build.draw(before, kind.brief.default_rig())
        )
        assert svg.count("d-label-changed") == 2
        assert "d-ghost" in svg
        assert "d-ghost" not in drawing_svg(
            drawing, PAGE, labels=labels_of(kind.build, after, Setting(), after)
        )
