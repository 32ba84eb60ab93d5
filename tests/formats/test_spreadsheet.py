"""A table of a class is read right, or after a question, or refused with what is missing: never silently wrong."""

from __future__ import annotations

import csv
import io
import zipfile
from contextlib import suppress
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from thermion.core.kinds import get_kind
from thermion.core.physics.units import Setting
from thermion.formats.spreadsheet.cells import NoTable, tabs_of
from thermion.formats.spreadsheet.filling import to_fill_in, workbook
from thermion.formats.spreadsheet.placing import TableRead, read_table
from thermion.formats.spreadsheet.wanted import BuildLine, Stretch, Wanted
from thermion.formats.tables import Column, Table

TEAMS = ("Avocet", "Dunlin", "Godwit", "Knot")
BUILDS = tuple(BuildLine(key=n, name=name, letter=name[0]) for n, name in enumerate(TEAMS, 1))
AIR = BuildLine(key=9, name="Air", also=("air", "outside", "ambient"))
POINT = Setting()
HEATING, COOLING = (0.0, 300.0, 600.0, 900.0), (0.0, 300.0)


def oven(setting: Setting = POINT) -> Wanted:
    test = get_kind("solar_oven").test
    marks = zip(test.phases, (HEATING, COOLING), strict=True)
    return Wanted(
        lines=(AIR, *BUILDS),
        setting=setting,
        stretches=tuple(Stretch(key=p.key, label=p.label, marks_s=m) for p, m in marks),
        read=test.grid_read({}),
    )


def pair() -> Wanted:
    test = get_kind("melt_pair").test
    lines = [BuildLine(key=90, name="Control", also=("control",))]
    for line in BUILDS:
        for n, (key, label) in enumerate(test.devices):
            lines.append(replace(line, key=2 * line.key + n, device=label, device_key=key))
    stretch = Stretch(key="melting", label="Melting", marks_s=(0.0, 120.0, 240.0))
    return Wanted(lines=tuple(lines), setting=Setting(), stretches=(stretch,), read=test.grid_read({}))


def turns(family: str, **usual: str) -> Wanted:
    kind = get_kind(family)
    choices = kind.brief.default_choices()
    reads = tuple(kind.test.attempt_reads(choices))
    later = kind.test.later_for(choices)
    return Wanted(
        lines=BUILDS,
        setting=Setting(),
        reads=reads,
        counted=next((r for r in reads if r.whole and not r.words and r.limit), None),
        later=later.read if later else None,
        usual=usual,
        seen=kind.test.observations,
    )


def read(text: str | bytes, wanted: Wanted, **answers: str) -> TableRead:
    data = text if isinstance(text, bytes) else text.encode()
    return read_table(
        tabs_of(data), wanted, {key.replace("__", "-"): value for key, value in answers.items()}
    )


def taken(found: TableRead) -> list[tuple[int, str, float | None, str]]:
    return sorted((one.line, one.phase, one.mark_s, one.typed) for one in found.placed)


H0, H5, C0, C5 = ("heating", 0.0), ("heating", 300.0), ("cooling", 0.0), ("cooling", 300.0)
AVOCET = [(1, *H0, "21"), (1, *H5, "25")]
BOTH = [*AVOCET, (4, *H0, "20"), (4, *H5, "24")]
COOLED = [(1, *C0, "40"), (1, *C5, "39")]

RIGHT = {
    "teams down": ("Heating\nTeam,0,5\nAvocet,21,25\nKnot,20,24\n", BOTH),
    "minutes down": ("Heating\tAvocet\tKnot\n0\t21\t20\n5\t25\t24\n", BOTH),
    "three marks that only one phase has": ("Team,0,5,10\nAvocet,21,25,\nKnot,20,24,–\n", BOTH),
    "letters, any case, in another order": ("Heating\nteam,5 min,0 min\nk,24,20\nTEAM A,25,21\n", BOTH),
    "a title, an empty line, a note": (
        "Class 5b\n\nHeating\nTeam,0,5\nAvocet,21,25\n\nwindy today\n",
        AVOCET,
    ),
    "seconds": ("Heating (s),0,300\nAvocet,21,25\n", AVOCET),
    "minutes and seconds": ("Heating,0:00,5:00\nAvocet,21,25\n", AVOCET),
    "times of the day": ("Heating,10:15,10:20,10:25\nAvocet,21,25,\n", AVOCET),
    "semicolons and decimal commas": (
        "Heating\nTeam;0;5\nAvocet;21,0;25,5\n",
        [(1, *H0, "21.0"), (1, *H5, "25.5")],
    ),
    "its unit in the corner": (
        "Heating\nTeam (°F);0;5\nAvocet;70;77\n",
        [(1, *H0, "70 °F"), (1, *H5, "77 °F")],
    ),
    "a unit that is a team's letter too": (
        "Team [C],Cooling 0 min,Cooling 5 min\nA,40 C,39 C\n",
        [(1, *C0, "40 C"), (1, *C5, "39 C")],
    ),
    "phases above the minutes": (
        "\tHeating\t\tCooling\t\nTeam\t0\t5\t0\t5\nAvocet\t21\t25\t40\t39\n",
        AVOCET + COOLED,
    ),
    "phases beside the minutes": (
        "\t\tAvocet\nHeating\t0\t21\n\t5\t25\nCooling\t0\t40\n\t5\t39\n",
        AVOCET + COOLED,
    ),
    "one table below the other": (
        "Heating\nTeam,0,5\nAvocet,21,25\n\nCooling\nTeam,0,5\nAvocet,40,39\n",
        AVOCET + COOLED,
    ),
    "one table beside the other": (
        "Heating,,,,Cooling,,\nTeam,0,5,,Team,0,5\nAvocet,21,25,,Avocet,40,39\n",
        AVOCET + COOLED,
    ),
    "a line for each reading": (
        "team,phase,minute,value\nA,heating,0,21\nA,heating,5,25\nair,cooling,5,19\n",
        [*AVOCET, (9, *C5, "19")],
    ),
    "the outside air": ("Heating\nTeam,0\nOutside,19\nAvocet,21\n", [(1, *H0, "21"), (9, *H0, "19")]),
    "the same twice": ("Heating\nTeam,0,5\nAvocet,21,25\nAvocet,21,25\n", AVOCET),
}


@pytest.mark.parametrize("name", RIGHT)
def test_a_table_of_teams_and_minutes_is_read_without_a_question(name):
    text, expected = RIGHT[name]
    found = read(text, oven())
    assert [q.text for q in found.questions] == []
    assert taken(found) == sorted(expected)


ASKED = {
    "which phase": ("Team,0,5\nAvocet,21,25\n", "phase--0", "cooling", [(1, *C0, "21"), (1, *C5, "25")]),
    "which phases": ("Team,0,5,0,5\nAvocet,21,25,40,39\n", "phase--0", "both", AVOCET + COOLED),
    "a name that is misspelt": ("Heating\nTeam,0,5\nAvocett,21,25\n", None, None, None),
    "a team too many": ("Heating\nTeam,0,5\nAvocet,21,25\nGull,1,2\n", "line--3-0", "leave", AVOCET),
    "the same team twice": ("Heating\nTeam,0,5\nAvocet,9,9\nAvocet,21,25\n", "twice-1", "line 4", AVOCET),
    "a title that names both phases": (
        "Heating and cooling\nTeam,0,5,0,5\nAvocet,21,25,40,39\n",
        "phase--0",
        "both",
        AVOCET + COOLED,
    ),
    "two columns for one minute": (
        "Heating\nTeam,0,5,5\nAvocet,21,9,25\n",
        "cell-1-heating-300.0",
        "D3",
        AVOCET,
    ),
    "a mark that is none": ("Heating\nTeam,0,5,12\nAvocet,21,25,30\n", "mark--1-3", "leave", AVOCET),
    "no names": ("Heating\n0,5,10,15\n21,25,1,1\n1,1,1,1\n1,1,1,1\n20,24,1,1\n", "lines--0", "yes", None),
    "no minutes": ("Heating\nAvocet,21,25,1,1\n", "order--heating", "yes", None),
    "both units": ("Heating\nTeam,0,5\nAvocet,21,25\nKnot,68 F,75 F\n", "plain", "C", None),
    "two decimal signs": ("Heating\nTeam;0;5\nAvocet;21,5;25.5\n", "decimals", "comma", None),
    "one number that may be two": (
        "Heating\nTeam;0\nAvocet;1,250\n",
        "decimals",
        "point",
        [(1, *H0, "1250")],
    ),
    "several tests": (
        "run,team,phase,minute,value\n1,A,heating,0,21\n2,A,heating,0,9\n1,A,heating,5,25\n",
        "run-",
        "1",
        AVOCET,
    ),
}


@pytest.mark.parametrize("name", ASKED)
def test_what_can_be_meant_in_two_ways_is_asked_and_nothing_is_settled_before(name):
    text, key, answer, expected = ASKED[name]
    found = read(text, oven())
    assert not found.settled
    if key is None:
        (question,) = found.questions
        key, answer, expected = question.key, question.likely, AVOCET  # the likely answer is the near name
    again = read_table(tabs_of(text.encode()), oven(), {key: answer})
    assert again.settled
    if expected is not None:
        assert taken(again) == sorted(expected)


REFUSED = {
    "nothing": (b" \n", "empty"),
    "a letter": (b"Dear all,\nsee you tomorrow\n", "No table of teams"),
    "a picture": (b"\x89PNG\r\n\x1a\n000", "a PNG picture"),
    "a zip of something": (b"PK\x03\x04" + b"0" * 90, "damaged"),
    "a locked spreadsheet": (
        b"\xd0\xcf\x11\xe0" + b"0" * 600 + "EncryptedPackage".encode("utf-16-le"),
        "password",
    ),
    "ten thousand lines": (b"Team,0,5\n" + b"Avocet,21,25\n" * 10_000, "no table of a class"),
    "a comma between decimals and columns": (b"Team,0,5\nAvocet,21,5,22,0\n", "cannot be told apart"),
    "another class's": (
        b"Heating\nTeam,0\n" + b"".join(b"Bird %d,21\n" % n for n in range(40)),
        "another class",
    ),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_is_no_table_of_this_test_is_refused_with_what_it_is(name):
    data, why = REFUSED[name]
    with pytest.raises(NoTable, match=why):
        read(data, oven())


def test_an_archive_that_swells_is_not_opened():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * 50_000_000)
    with pytest.raises(NoTable, match="far more"):
        read(out.getvalue(), oven())


def test_a_pair_of_devices_is_told_apart_by_a_word_in_its_own_column_or_in_the_name():
    apart = "Team\tDevice\t0\t2\nAvocet\tfast\tfirm\tglossy\n\tslow\tfirm\tfirm\nControl\t\tfirm\t1\n"
    beside = "\tAvocet fast\tAvocet slow\tControl\n0\tfirm\tfirm\tfirm\n2\tglossy\tfirm\t1\n"
    expected = [
        (2, "melting", 0.0, "firm"),
        (2, "melting", 120.0, "glossy"),
        (3, "melting", 0.0, "firm"),
        (3, "melting", 120.0, "firm"),
        (90, "melting", 0.0, "firm"),
        (90, "melting", 120.0, "1"),
    ]
    for text in (apart, beside):
        found = read(text, pair())
        assert (found.questions, taken(found)) == ([], expected)
    (question,) = read("Team\t0\t2\nAvocet\tfirm\tfirm\n", pair()).questions
    assert question.text == "Whose is line 2, “Avocet”?"


def tried(found: TableRead) -> list[tuple[int, dict[str, str]]]:
    return [(one.line, dict(one.typed)) for one in found.attempted]


def test_attempts_stand_a_line_each_and_a_blank_name_goes_on_with_the_team_above():
    found = read(
        "Team,Load,Rise (cm),Time (s),Seen,Note\nAvocet,1,120,12.5,String slid off the spool,windy\n,2,60,,,\n",
        turns("wind_hoist"),
    )
    assert tried(found) == [
        (1, {"load": "1", "rise_m": "120 cm", "time_s": "12.5 s"}),
        (1, {"load": "2", "rise_m": "60 cm"}),
    ]
    assert (found.attempted[0].seen, found.attempted[0].note) == (("string",), "windy")


def test_a_list_of_loads_with_ticks_is_a_list_of_attempts():
    hoist = turns("wind_hoist", **{"rise_m-full": "120"})
    found = read("Weights,1,2,4\nAvocet,✓,✓,✗\nKnot,yes,30,\n", hoist)
    assert found.questions == []
    assert tried(found) == [
        (1, {"rise_m": "120", "load": "1"}),
        (1, {"rise_m": "120", "load": "2"}),
        (1, {"rise_m": "0", "load": "4"}),
        (4, {"rise_m": "120", "load": "1"}),
        (4, {"rise_m": "30", "load": "2"}),
    ]
    (question,) = read(",1,2,3\nAvocet,✓,✓,✗\n", hoist).questions  # three loads, or three tries
    assert question.options[0][1].startswith("Tries")


def test_ones_and_noughts_may_be_ticks_and_are_asked_about():
    hoist = turns("wind_hoist", **{"rise_m-full": "120"})
    text = "Weights,1,2,4\nAvocet,1,1,0\n"
    (question,) = read(text, hoist).questions
    assert question.text == "What do 1 and 0 mean in this table?"
    assert [
        typed["rise_m"]
        for _, typed in tried(read_table(tabs_of(text.encode()), hoist, {question.key: "yes"}))
    ] == ["120", "120", "0"]
    assert tried(read_table(tabs_of(text.encode()), hoist, {question.key: "leave"}))[0][1]["rise_m"] == "1"


def test_a_letter_in_a_title_is_no_unit():
    fahrenheit = oven(Setting(temp_unit="degF"))
    found = read("Class 5 (C)\n\nHeating\nTeam,0\nAvocet,70\n", fahrenheit)
    assert [one.typed for one in found.placed] == ["70"]
    assert [one.typed for one in read("Heating (°C)\nTeam,0\nAvocet,21\n", fahrenheit).placed] == ["21 °C"]


def test_tries_across_and_what_the_table_does_not_say_is_asked_once():
    assert tried(read("Team,Try 1,Try 2\nAvocet,120,1.3 m\n", turns("sail_run"))) == [
        (1, {"stop_m": "120"}),
        (1, {"stop_m": "1.3 m"}),
    ]
    text = ",Avocet,Knot\nShower 1,120,130\nShower 2,100,90\n"
    (question,) = read(text, turns("rain_catch", poured_m3="200")).questions
    assert question.text == "The table does not say “Water in”. Was it 200 mL each time?"
    found = read(text, turns("rain_catch", poured_m3="200"), usual__poured_m3="yes")
    assert tried(found)[0] == (1, {"caught_m3": "120", "poured_m3": "200"})
    (unknown,) = read("Team,Distance\nAvocet,120\n", turns("sail_run")).questions
    assert (unknown.text, unknown.likely) == ("What is “Distance”?", "stop_m")


def test_a_time_that_the_spreadsheet_took_for_the_hour_of_the_day_is_minutes_and_seconds():
    found = read("Team,Start (°C),Time\nAvocet,20.1,3:10\n", turns("heat_through"))
    assert tried(found) == [(1, {"start_c": "20.1 °C", "time_s": "3:10"})]
    from datetime import time

    from xlsxwriter import Workbook

    out = io.BytesIO()
    book = Workbook(out, {"in_memory": True})
    sheet = book.add_worksheet()
    sheet.write_row(0, 0, ["Team", "Start", "Time"])
    sheet.write_row(1, 0, ["Avocet", 20.1])
    sheet.write_datetime(1, 2, time(3, 10), book.add_format({"num_format": "h:mm"}))
    sheet.merge_range(2, 0, 3, 0, "Knot")
    for row in (2, 3):
        sheet.write_row(row, 1, [20, 50 + row])
    book.close()
    assert tried(read(out.getvalue(), turns("heat_through"))) == [
        (1, {"start_c": "20.1", "time_s": "3:10"}),
        (4, {"start_c": "20", "time_s": "52"}),
        (4, {"start_c": "20", "time_s": "53"}),
    ]


def test_a_later_reading_has_the_minutes_of_its_heading_or_asks_for_them():
    text = "Team,Water in,Water caught,Leak check: water in the store{}\nAvocet,200,120,100\n"
    found = read(text.format(" after 30 min"), turns("rain_catch"))
    assert [(one.phase, one.mark_s, one.at_s, one.typed) for one in found.placed] == [
        ("store", None, 1800.0, "100")
    ]
    (question,) = read(text.format(""), turns("rain_catch")).questions
    assert question.text.startswith("How long after the start of the test")


values = st.one_of(st.none(), st.integers(-20, 120), st.integers(-200, 1200).map(lambda n: n / 10))


@settings(max_examples=120, deadline=None)
@given(
    data=st.data(), comma=st.booleans(), turned=st.booleans(), dialect=st.sampled_from([";", "\t", "xlsx"])
)
def test_any_order_of_teams_and_minutes_either_way_round_comes_back_as_written(data, comma, turned, dialect):
    lines = data.draw(st.permutations((AIR, *BUILDS)))
    marks = data.draw(st.permutations(HEATING))
    cells = {(line.key, mark): data.draw(values) for line in lines for mark in marks}
    setting = Setting(decimal="comma" if comma else "point")
    rows = [["Heating", *(f"{mark / 60:g} min" for mark in marks)]]
    rows += [[line.name, *(cells[line.key, mark] for mark in marks)] for line in lines]
    if turned:
        rows = [list(row) for row in zip(*rows, strict=True)]
    if dialect == "xlsx":
        text = workbook(Table("Results", tuple(Column(str(c), "") for c in rows[0]), rows[1:]))
    else:
        out = io.StringIO()
        shown = [
            ["" if v is None else str(v).replace(".", "," if comma else ".") for v in row] for row in rows
        ]
        csv.writer(out, delimiter=dialect).writerows(shown)
        text = out.getvalue().encode()
    written = {key: value for key, value in cells.items() if value is not None}
    if not written:
        return
    found = read_table(tabs_of(text), oven(setting), {"decimals": "comma" if comma else "point"})
    assert [q.key for q in found.questions] in ([], ["decimals"])
    got = {(one.line, one.mark_s): float(one.typed.replace(",", ".")) for one in found.placed}
    assert got == written


@pytest.mark.parametrize(
    "wanted", [oven(), pair(), *(turns(f) for f in ("wind_hoist", "sail_run", "heat_through", "rain_catch"))]
)
def test_a_table_to_fill_in_is_read_without_a_question_and_empty_cells_are_nothing(wanted):
    table = to_fill_in(wanted)
    filled = [[row[0], *(1 if k % 2 else None for k in range(len(row) - 1))] for row in table.rows]
    found = read(workbook(replace(table, rows=filled)), wanted)
    asked = [q.key for q in found.questions if not q.key.startswith("later-")]
    assert asked == []
    assert found.placed or found.attempted


WORDS = [
    "Team",
    "Avocet",
    "Knot",
    "0",
    "5",
    "min",
    "21,5",
    "21.5",
    "°C",
    "(°F)",
    "Heating",
    "Cooling",
    "s",
    "=A1",
    "-",
    "✓",
    "x",
    "1e999",
    "99999999999999999999",
    "::",
    "5:99",
    "0:05:00",
    "٣",
    "A",
    "k",
    "Try",
    "Load",
    "Time",
    "run",
    "value",
    "mark",
    "unit",
    "current",
    "false",
    "Control",
    "fast",
    "firm",
    "'",
    "<b>",
]


@settings(max_examples=150, deadline=None)
@given(
    rows=st.lists(
        st.lists(st.sampled_from([*WORDS, "", "10 min", "Try 1", "Time (s)"]), min_size=1), min_size=1
    ),
    separator=st.sampled_from(",;\t|"),
    wanted=st.sampled_from([oven(), pair(), turns("wind_hoist"), turns("rain_catch", poured_m3="200")]),
    data=st.data(),
)
def test_whatever_stands_in_a_table_and_whatever_is_answered_it_is_read_or_refused(
    rows, separator, wanted, data
):
    text = "\n".join(separator.join(row) for row in rows)
    answers: dict[str, str] = {}
    for _ in range(3):
        try:
            found = read(text, wanted, **answers)
        except NoTable:
            return
        for q in found.questions:
            answers.setdefault(
                q.key.replace("-", "__"), data.draw(st.sampled_from([v for v, _ in q.options]))
            )


BOOK = workbook(to_fill_in(oven()))


@settings(max_examples=150, deadline=None)
@given(st.lists(st.tuples(st.integers(0, len(BOOK) - 1), st.integers(0, 255)), min_size=1, max_size=12))
def test_a_damaged_spreadsheet_is_refused_in_words(changes):
    damaged = bytearray(BOOK)
    for at, byte in changes:
        damaged[at] = byte
    with suppress(NoTable):  # anything else fails
        read(bytes(damaged), oven())
