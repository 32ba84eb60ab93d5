"""Logger files: read right, or asked about, or refused; a cell that cannot be used costs that cell alone."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from tests.formats.logger_files import START, Case, cases
from thermion.core.physics.units import convert
from thermion.formats.logger import LoggerFile, UnreadableFile, read_logger, settled
from thermion.formats.logger.cells import NO_PROBE

NOW = datetime(2026, 11, 26, tzinfo=UTC)
CASES = cases()


def read(data: str | bytes, **answers: str) -> LoggerFile:
    data = data if isinstance(data, bytes) else data.encode()
    return read_logger(data, answers, zone="Europe/Berlin", now=NOW)


def holds(file: LoggerFile) -> list[tuple[float, list[float | None]]]:
    """The rows in °C, to the hundredth."""
    units = [c.unit for c in file.channels]
    return [
        (
            round(t, 1),
            [None if v is None else round(convert(v, u, "degC"), 1) for v, u in zip(row, units, strict=True)],
        )
        for t, row in file.rows
    ]


def truth(case: Case) -> list[tuple[float, list[float | None]]]:
    rows = [(t, [column[i] for column in case.celsius]) for i, t in enumerate(case.seconds)]
    kept = [(t, row) for t, row in rows if any(v is not None for v in row)]
    return [(t - kept[0][0], row) for t, row in kept]


@pytest.mark.parametrize("case", [c for c in CASES if not c.refused and not c.asked], ids=lambda c: c.name)
def test_what_can_be_told_is_read_right_and_nothing_is_asked(case):
    file = read(case.data)
    assert [q.text for q in file.questions] == []
    assert holds(file) == truth(case)
    if case.begins is not None:
        assert file.starts_at == case.begins


@pytest.mark.parametrize("case", [c for c in CASES if c.asked], ids=lambda c: c.name)
def test_what_can_be_meant_in_two_ways_is_asked_and_read_right_once_answered(case):
    file = read(case.data)
    assert {q.key for q in file.questions} == set(case.asked)
    assert not settled(file, {})
    if case.likely:  # the answer that is filled in is the right one
        assert {q.key: q.likely for q in file.questions} == case.asked
    answered = read(case.data, **case.asked)
    assert settled(answered, case.asked)
    assert holds(answered) == truth(case)
    if case.begins is not None:
        assert answered.starts_at == case.begins


@pytest.mark.parametrize("case", [c for c in CASES if c.refused], ids=lambda c: c.name)
def test_what_is_no_logger_file_is_refused_with_what_to_do(case):
    with pytest.raises(UnreadableFile, match=case.refused):
        read(case.data)


def test_there_are_files_enough_of_every_sort():
    assert len(CASES) >= 60
    assert len({c.name for c in CASES}) == len(CASES)


def test_a_cell_that_holds_no_temperature_costs_that_cell_and_is_named_with_its_line():
    text = (
        "time (s),Avocet (°C),Dunlin (°C)\n0,85,20.0\n60,24.0,err\n120,27.5,-127\n120,28,22\n180,x9,23\n"
        "\nhalf past,1,2\n240,,24\n300,9000,24.5\n"
    )
    file = read(text)
    avocet, dunlin = file.channels
    assert list(zip(avocet.time_s, avocet.value, strict=True)) == [(60, 24.0), (120, 27.75)]
    assert list(zip(dunlin.time_s, dunlin.value, strict=True)) == [
        *[(0, 20.0), (120, 22.0), (180, 23.0), (240, 24.0)],
        (300, 24.5),
    ]
    assert [(lost.line, lost.cell, lost.reason) for lost in avocet.lost] == [
        (6, "x9", "is not a number"),
        (10, "9000", "no temperature can be that"),
        (2, "85", "what a probe shows before its first reading"),
    ]
    assert [(lost.line, lost.reason) for lost in dunlin.lost] == [(3, "no reading"), (4, NO_PROBE)]
    assert [(s.line, s.reason) for s in file.skipped] == [(8, "the time cannot be read")]


def test_an_oven_that_really_is_at_85_degrees_keeps_its_readings():
    rows = "".join(f"{i * 30},{82 + i * 0.5:.1f}\n" for i in range(12))
    (oven,) = read("time (s),Oven (°C)\n" + rows).channels
    assert 85.0 in oven.value
    assert oven.lost == ()


def test_what_is_asked_says_what_would_follow_from_each_answer():
    (asked,) = read(next(c for c in CASES if c.name == "over midnight, month first").data).questions
    assert dict(asked.options)["mdy"] == (
        "month before day: from 3 June 2026, 23:50 to 4 June 2026, 00:09; 19.5 min, a reading every 30 s"
    )
    assert "30.01 days" in dict(asked.options)["dmy"]


def test_a_clock_that_began_with_the_recording_tells_no_time_of_day():
    found = {c.name: read(c.data).of_day_s for c in CASES if c.name in ("h:mm:ss", "AM and PM")}
    assert found == {"h:mm:ss": None, "AM and PM": 35880}


def test_an_answer_that_the_file_does_not_offer_answers_nothing():
    data = next(c for c in CASES if c.name == "no unit").data
    assert not settled(read(data, unit="parsec"), {"unit": "parsec"})


def test_the_moment_of_the_world_is_kept_where_the_file_tells_it():
    found = {c.name: read(c.data).starts_at for c in CASES if c.name in ("iso", "iso offset")}
    assert found == {"iso": START, "iso offset": datetime(2026, 6, 3, 7, 58, tzinfo=UTC)}
