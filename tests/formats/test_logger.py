"""Logger files as devices really write them, and files that are something else."""

from __future__ import annotations

from datetime import datetime

import pytest

from thermion.core.physics.units import convert
from thermion.formats.logger import UnreadableFile, read_logger

PLAIN = "time (s),Avocet (°C),Dunlin (°C)\n0,20.5,20.0\n60,24.0,21.5\n120,27.5,22.5\n"


def values(text: str | bytes):
    data = text if isinstance(text, bytes) else text.encode()
    return read_logger(data)


def test_the_plain_case():
    file = values(PLAIN)
    assert [c.heading for c in file.channels] == ["Avocet (°C)", "Dunlin (°C)"]
    assert [c.unit for c in file.channels] == ["degC", "degC"]
    assert file.rows == ((0.0, (20.5, 20.0)), (60.0, (24.0, 21.5)), (120.0, (27.5, 22.5)))
    assert (file.skipped_count, file.starts_at) == (0, None)


@pytest.mark.parametrize("mark", [b"\xef\xbb\xbf", "utf-16"])
def test_byte_order_marks(mark):
    data = PLAIN.encode(mark) if isinstance(mark, str) else mark + PLAIN.encode()
    assert values(data).rows == values(PLAIN).rows


def test_semicolons_decimal_comma_preamble_dates_and_old_windows_letters():
    text = (
        "Skerry bench 4\r\nSite;pier\r\nZeit;Avocet (°F);Außen °F\r\n"
        "01.06.2026 10:00:00;68,0;66,2\r\n01.06.2026 10:01:30;75,2;66,3\r\n"
    )
    file = values(text.encode("cp1252"))
    assert (file.delimiter, file.decimal) == (";", "comma")
    assert file.starts_at == datetime(2026, 6, 1, 10, 0)  # noqa: DTZ001
    assert [t for t, _ in file.rows] == [0.0, 90.0]
    assert [c.unit for c in file.channels] == ["degF", "degF"]
    assert convert(file.rows[0][1][0], "degF", "degC") == pytest.approx(20.0)


@pytest.mark.parametrize(
    ("heading", "cells", "seconds"),
    [
        ("Elapsed (min)", ["0", "0.5", "1"], [0, 30, 60]),
        ("t/h", ["0", "0.5", "1"], [0, 1800, 3600]),
        ("Time", ["0:00", "1:30", "61:05"], [0, 90, 3665]),
        ("Time", ["10:00:00", "10:00:30", "10:01:00"], [0, 30, 60]),
        ("Date time", ["2026-06-01T10:00:00", "2026-06-01T10:00:05", "2026-06-01T11:00:00"], [0, 5, 3600]),
        ("Stamp", ["06/05/2026 09:00", "06/05/2026 09:01", "06/05/2026 09:02"], [0, 60, 120]),
    ],
)
def test_elapsed_clock_and_calendar_times(heading, cells, seconds):
    text = f"{heading}\tBox 1\n" + "".join(f"{c}\t2{i}.5\n" for i, c in enumerate(cells))
    assert [t for t, _ in values(text).rows] == seconds


def test_date_and_time_in_two_columns():
    text = "Date,Time,A (C)\n2026-06-01,23:59:30,20.5\n2026-06-02,00:00:30,21.5\n"
    file = values(text)
    assert [t for t, _ in file.rows] == [0.0, 60.0]
    assert file.time_heading == "Date + Time"


def test_every_row_that_cannot_be_used_is_listed_with_line_and_reason():
    text = PLAIN + "120,28,22\n180,err,23\n\nx,1,2\n240,,\n300,,24.5\n"
    file = values(text)
    assert [(s.line, s.reason) for s in file.skipped] == [
        (5, "the time does not go forward"),
        (6, "“err” in Avocet (°C) is not a number"),
        (8, "the time cannot be read"),
        (9, "no value in this row"),
    ]
    assert file.rows[-1] == (300.0, (None, 24.5))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"  \n ", "empty"),
        (b"\x89PNG\r\n\x1a\n\x00\x00", "PNG picture"),
        (b"PK\x03\x04rest", "save it as CSV"),
        (b"%PDF-1.7", "PDF"),
        (b"a\x00b\x00", "not a text file"),
        (b"hello\nworld\n", "No rows of times and numbers"),
        (b"0,20.5\n60,21.5\n", "column names"),
        (b"name,shape\na,b\nc,d\n", "No rows"),
    ],
)
def test_what_is_no_logger_file_is_refused_in_words(data, says):
    with pytest.raises(UnreadableFile, match=says):
        read_logger(data)


def test_a_file_of_200_000_rows_is_refused_with_what_to_do():
    rows = "".join(f"{i},20.5\n" for i in range(200_000))
    with pytest.raises(UnreadableFile, match=r"200,000 rows.*longer interval"):
        values("time,Avocet\n" + rows)
