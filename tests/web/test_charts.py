"""Charts: honest gaps, labels that can be read, the same picture wherever it stands."""

from __future__ import annotations

import re
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import Crew
from thermion.core.teams import COLOURS, SHAPES
from thermion.web.components.shapes import OUTLINES
from thermion.web.pictures import curves as charts
from thermion.web.pictures.curves import CurveLine, curves, nice_ticks, split_at_gaps


def line(label: str, *points: tuple[float, float], **more) -> CurveLine:
    return CurveLine(
        label=label, name=f"Team {label}", colour="blue", shape="circle", stretches=(points,), **more
    )


@given(st.floats(-200, 200), st.floats(0.5, 400), st.integers(3, 12))
def test_ticks_are_round_cover_the_data_and_are_about_as_many_as_wanted(low, span, about):
    ticks = nice_ticks(low, low + span, about)
    assert ticks[0] <= low + 1e-6
    assert ticks[-1] >= low + span - 1e-6
    steps = {round(b - a, 6) for a, b in pairwise(ticks)}
    assert len(steps) == 1
    assert f"{steps.pop():e}"[0] in "125"
    assert len(ticks) <= about + 3


@given(st.lists(st.floats(20, 90), min_size=2, max_size=12))
def test_labels_at_the_ends_never_overlap_and_stay_in_the_frame(ends):
    lines = [line(str(i), (0, 20), (30, end)) for i, end in enumerate(ends)]
    chart = curves(lines, title="", y_label="°C", x_end=30)
    at = sorted(d.label_y for d in chart.drawn)
    assert all(b - a >= charts.LABEL_GAP - 1e-6 for a, b in pairwise(at))
    assert at[-1] <= chart.bottom + 1e-6
    order = sorted(chart.drawn, key=lambda d: d.label_y)
    assert [d.lead_y for d in order] == sorted(d.lead_y for d in chart.drawn)


def test_a_missed_mark_breaks_the_line_and_is_not_drawn_across():
    stretches = split_at_gaps([0, 300, 600, 1200, 1500], [20, 30, 38, 47, 50], 300)
    assert [list(times) for times, _ in stretches] == [[0, 300, 600], [1200, 1500]]
    drawn = tuple(tuple(zip(*each, strict=True)) for each in stretches)
    chart = curves(
        [CurveLine(label="A", name="Avocet", colour="blue", shape="circle", stretches=drawn)],
        title="",
        y_label="",
        x_end=30,
    )
    assert chart.drawn[0].path.count("M") == 2
    assert chart.drawn[0].dots.count("M") == 5
    late = split_at_gaps([0, 347, 690], [20, 30, 38], 300)
    assert len(late) == 1  # a late reading is no gap


def test_a_fit_is_a_line_and_a_reading_a_point_and_a_level_is_in_the_frame():
    fit = tuple((m, 20 + m) for m in range(31))
    chart = curves(
        [line("A", (0, 20), (30, 50), fit=fit)],
        title="",
        y_label="",
        x_end=30,
        level=70,
        level_text="level 70 °C",
    )
    assert chart.drawn[0].fit.count("L") == 30
    assert charts.TOP <= chart.level_y <= chart.bottom
    empty = curves([], title="", y_label="", x_end=30)
    assert empty.y_ticks


def test_every_team_has_a_mark_and_a_colour_of_its_own_in_every_picture():
    assert set(OUTLINES) == set(SHAPES)
    assert len(set(OUTLINES.values())) == len(SHAPES)
    with open("thermion/web/static/pictures.css") as file:
        styles = file.read()
    assert all(f".team-{colour} " in styles for colour in COLOURS)


def luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def tokens_of(name: str) -> dict[str, str]:
    return dict(re.findall(r"--color-([\w-]+): (#\w{6})", Path(f"assets/{name}.css").read_text()))


def contrast(one: str, other: str) -> float:
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("light", ["light", "dark"])
def test_colours_stand_out_from_the_plate_and_letters_from_the_colours(light):
    tokens = tokens_of("tokens") | (tokens_of("dark") if light == "dark" else {})
    for name in (
        "ink",
        "quiet",
        "brand",
        "heat",
        "cold",
        "done",
        "ask",
        "alarm",
        *(f"team-{c}" for c in COLOURS),
    ):
        for ground in ("plate", "paper"):
            assert contrast(tokens[name], tokens[ground]) >= 4.5, (name, ground)
    for colour in COLOURS:
        assert contrast(tokens[f"team-{colour}"], tokens["letter"]) >= 4.5, colour
    if light == "light":
        for pale, ink in (("ask-pale", "ask"), ("alarm-pale", "alarm"), ("done-pale", "done")):
            assert contrast(tokens[pale], tokens[ink]) >= 4.5, ink


def test_a_board_is_light_or_dark_as_the_room_is(client, crew):
    run = crew.run(crew.plan("Avocet"))
    for light in ("light", "dark"):
        board = client.get(f"/board/runs/{run}?light={light}").get_data(as_text=True)
        assert f'data-board-light="{light}"' in board
    assert 'data-board-light="light"' in client.get(f"/board/runs/{run}?light=<b>").get_data(as_text=True)


@pytest.fixture
def read(crew: Crew) -> int:
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    for name, rise in (("Avocet", 40), ("Dunlin", 30)):
        for minute in (0, 5, 10, 20, 25):
            value = 20 + rise * (1 - 2.71828 ** (-minute / 10))
            crew.read(crew.entries(run)[name], minute, f"{value:.1f}", keep=True)
    return run


def test_the_picture_on_the_page_is_the_picture_in_the_file(client, read):
    for query, least in (("", 8), ("?picture=curves", 20)):
        page = client.get(f"/challenges/1/findings{query}").get_data(as_text=True)
        file = client.get(f"/challenges/1/findings/curves.svg{query}").get_data(as_text=True)
        paths = re.findall(r' d="([^"]+)"', file)
        assert len(paths) > least
        assert all(path in page for path in paths)
    assert "Avocet, version 1" in file
    only = client.get("/challenges/1/findings/curves.svg?only=A").get_data(as_text=True)
    assert "Dunlin" not in only
    run = client.get(f"/runs/{read}/curves.svg").get_data(as_text=True)
    assert run.count('class="c-dots"') == 2
