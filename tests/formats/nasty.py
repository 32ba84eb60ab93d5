"""Logger files that nobody made for a reader: odd names, odd clocks, odd tables, each with what is true of it.

Every file holds the same three curves or a part of them, so that what was read can be held against the truth.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from io import BytesIO
from typing import Literal

from xlsxwriter import Workbook

Want = Literal["read", "refused"]
ROWS = 24
STEP_S = 10.0
BEGAN = datetime.fromisoformat("2026-06-03T09:05:00")


def curve(channel: int, row: int) -> float:
    """A temperature of a channel, to a tenth; never a round number, and no two channels alike."""
    return round(20.3 + 3.7 * channel + (31.0 + channel) * (1 - 0.93**row), 1)


TIMES = [STEP_S * k for k in range(ROWS)]


@dataclass(frozen=True, kw_only=True)
class Nasty:
    """A file, and what is true of it: each channel's values at its times [s from the first row], by name."""

    name: str
    text: str | bytes
    truth: dict[str, list[tuple[float, float]]]
    want: Want = "read"

    @property
    def data(self) -> bytes:
        return self.text if isinstance(self.text, bytes) else self.text.encode()


def truth_of(names: Sequence[str], rows: Sequence[int] = range(ROWS)) -> dict[str, list[tuple[float, float]]]:
    return {n: [(TIMES[k] - TIMES[rows[0]], curve(c, k)) for k in rows] for c, n in enumerate(names)}


def table(
    heading: str,
    names: Sequence[str],
    stamp: Callable[[int], str] = lambda k: f"{TIMES[k]:g}",
    *,
    sep: str = ",",
    cell: Callable[[int, int], str] = lambda c, k: f"{curve(c, k):.1f}",
    rows: Sequence[int] = range(ROWS),
    above: str = "",
) -> str:
    lines = [sep.join([heading, *names])] if heading or names else []
    lines += [sep.join([stamp(k), *(cell(c, k) for c in range(len(names)))]) for k in rows]
    return above + "\n".join(lines) + "\n"


def clock(k: int, form: str = "%H:%M:%S", began: datetime = BEGAN) -> str:
    return (began + timedelta(seconds=TIMES[k])).strftime(form)


def workbook(heading: str, names: Sequence[str], *, dated: bool) -> bytes:
    """A spreadsheet's file, with dates as a spreadsheet holds them, and a sheet of remarks before."""
    out = BytesIO()
    book = Workbook(out, {"in_memory": True})
    book.add_worksheet("About").write_row(0, 0, ["Logger 7"])
    sheet = book.add_worksheet("Data")
    sheet.write_row(0, 0, [heading, *names])
    form = book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
    for k in range(ROWS):
        if dated:
            sheet.write_datetime(k + 1, 0, BEGAN + timedelta(seconds=TIMES[k]), form)
        else:
            sheet.write_number(k + 1, 0, TIMES[k])
        sheet.write_row(k + 1, 1, [curve(c, k) for c in range(len(names))])
    book.close()
    return out.getvalue()


# names of channels that look like something else
NAMES: tuple[tuple[str, ...], ...] = (
    ("A", "B", "C", "D", "E", "F"),
    ("A", "B", "C", "D", "E", "F", "G", "H"),
    ("T1", "T2", "T3"),
    ("t1", "t2"),
    ("T_A", "T_B"),
    ("T",),
    ("T (°C)", "T2 (°C)"),
    ("S", "Min", "Date palm"),
    ("Min", "Max"),
    ("D", "H", "M"),
    ("Day lily", "Hour glass"),
    ("Temp 1", "Temp 2"),
    ("temp", "Hour"),
    ("time capsule", "box"),
    ("Stunde", "Tag"),
    ("1", "2", "3"),
    ("x", "y"),
    ("Record holder", "Row house"),
    ("sec", "min"),
    ("Clock tower", "Id"),
)
HEADINGS: tuple[tuple[str, Callable[[int], str]], ...] = (
    ("Time (s)", lambda k: f"{TIMES[k]:g}"),
    ("time_s", lambda k: f"{TIMES[k]:g}"),
    ("Zeit [min]", lambda k: f"{TIMES[k] / 60:.4f}"),
    ("Time", clock),
    ("Date/Time", lambda k: clock(k, "%Y-%m-%d %H:%M:%S")),
)


def of_names() -> Iterator[Nasty]:
    """Each odd set of names under each usual heading of time."""
    for names in NAMES:
        for heading, stamp in HEADINGS:
            yield Nasty(
                name=f"names {'/'.join(names)} under {heading}",
                text=table(heading, names, stamp),
                truth=truth_of(names),
            )


def of_clocks() -> Iterator[Nasty]:
    """Times that go wrong in the middle, stand in an odd order, or are odd numbers."""
    two = ("A", "B")
    half = ROWS // 2
    everything = truth_of(two)
    reset = [clock(k, "%Y-%m-%d %H:%M:%S") for k in range(half)]
    reset += [
        (datetime.fromisoformat("2000-01-01") + timedelta(seconds=TIMES[k - half])).strftime(
            "%Y-%m-%d %H:%M:%S"
        )
        for k in range(half, ROWS)
    ]
    text = table("Time", two, lambda k: reset[k])
    halves = {n: v[:half] for n, v in everything.items()}
    yield Nasty(name="clock reset to 2000 midway", text=text, truth=halves)
    order = [*range(0, 8), 12, 13, 14, 8, 9, 10, 11, *range(15, ROWS)]
    yield Nasty(name="rows out of order, seconds", text=table("t (s)", two, rows=order), truth=everything)
    yield Nasty(name="rows out of order, clock", text=table("Time", two, clock, rows=order), truth=everything)
    back = list(reversed(range(ROWS)))
    yield Nasty(name="newest first, seconds", text=table("Seconds", two, rows=back), truth=everything)
    yield Nasty(
        name="newest first, dates",
        text=table("Date", two, lambda k: clock(k, "%d.%m.%Y %H:%M:%S"), rows=back),
        truth=everything,
    )
    noon = datetime.fromisoformat("2026-06-03T12:58:00")
    yield Nasty(
        name="twelve hours without AM or PM",
        text=table("Time", two, lambda k: clock(k, "%I:%M:%S", noon).lstrip("0")),
        truth=everything,
    )
    wrap = 2**16
    yield Nasty(
        name="a counter of milliseconds that wraps",
        text=table("ms", two, lambda k: str(int(30_000 + TIMES[k] * 1000) % wrap)),
        truth=everything,
    )
    again = table("Time (s)", two, lambda k: f"{TIMES[k % half]:g}")
    joined = {n: [(TIMES[k], curve(c, k)) for k in range(half)] for c, n in enumerate(two)}
    yield Nasty(name="a second recording below", text=again, truth=joined)
    yield Nasty(
        name="midnight",
        text=table(
            "Time", two, lambda k: clock(k, "%H:%M:%S", datetime.fromisoformat("2026-06-03T23:58:30"))
        ),
        truth=everything,
    )
    yield Nasty(
        name="seconds since 1970",
        text=table("ts", two, lambda k: f"{1_780_000_000 + TIMES[k]:.0f}"),
        truth=everything,
    )
    yield Nasty(
        name="seconds since 1970 without a name for them",
        text=table("epoch", two, lambda k: f"{1_780_000_000 + TIMES[k]:.0f}"),
        truth=everything,
    )
    yield Nasty(
        name="milliseconds since the start of the board",
        text=table("millis()", two, lambda k: f"{417_233 + 1000 * TIMES[k]:.0f}"),
        truth=everything,
    )
    yield Nasty(
        name="days of a spreadsheet",
        text=table("Time", two, lambda k: f"{46176.5 + TIMES[k] / 86400:.8f}"),
        truth=everything,
    )
    yield Nasty(
        name="ISO with an offset",
        text=table("timestamp", two, lambda k: clock(k, "%Y-%m-%dT%H:%M:%S+02:00")),
        truth=everything,
    )
    yield Nasty(
        name="compact date and clock",
        text=table("stamp", two, lambda k: clock(k, "%Y%m%d%H%M%S")),
        truth=everything,
    )
    yield Nasty(
        name="date and clock in two columns",
        text=table("Date;Time", two, lambda k: clock(k, "%d/%m/%Y;%H:%M:%S"), sep=";"),
        truth=everything,
    )
    yield Nasty(
        name="date, clock and seconds",
        text=table(
            "Date;Time;Elapsed (s)", two, lambda k: clock(k, "%d/%m/%Y;%H:%M:%S") + f";{TIMES[k]:g}", sep=";"
        ),
        truth=everything,
    )
    yield Nasty(
        name="a number of the row before the time",
        text=table("#,Time (s)", two, lambda k: f"{k + 1},{TIMES[k]:g}"),
        truth=everything,
    )
    yield Nasty(
        name="a number of the row as the only time",
        text=table("No.", two, lambda k: f"{k + 1}"),
        truth={},
        want="refused",
    )
    yield Nasty(
        name="minutes and seconds",
        text=table("mm:ss", two, lambda k: f"{int(TIMES[k]) // 60:02d}:{int(TIMES[k]) % 60:02d}"),
        truth=everything,
    )
    yield Nasty(
        name="seconds with a unit in each cell",
        text=table("t", two, lambda k: f"{TIMES[k]:g} s"),
        truth=everything,
    )


def of_values() -> Iterator[Nasty]:
    """Values that are none, in odd units, or beside columns of words."""
    two = ("A", "B")
    everything = truth_of(two)

    def but(channel: int, row: int, text: str) -> Callable[[int, int], str]:
        return lambda c, k: text if (c, k) == (channel, row) else f"{curve(c, k):.1f}"

    without = {"A": [v for k, v in enumerate(everything["A"]) if k != 7], "B": everything["B"]}
    for bad in (
        "327.67",
        "-3276.8",
        "3276.7",
        "-127",
        "999.9",
        "9999",
        "-300",
        "85.0",
        "NaN",
        "Err",
        "---",
        "#N/A",
        "",
        "OL",
        "inf",
        "null",
    ):
        yield Nasty(
            name=f"a value of {bad or 'nothing'}",
            text=table("Time (s)", two, cell=but(0, 7, bad)),
            truth=without,
        )
    yield Nasty(
        name="decimal commas",
        text=table("Zeit (s)", two, sep=";", cell=lambda c, k: f"{curve(c, k):.1f}".replace(".", ",")),
        truth=everything,
    )
    yield Nasty(
        name="decimal commas between tabs",
        text=table("Zeit [s]", two, sep="\t", cell=lambda c, k: f"{curve(c, k):.2f}".replace(".", ",")),
        truth=everything,
    )
    yield Nasty(
        name="degrees in every cell",
        text=table("Time (s)", two, cell=lambda c, k: f"{curve(c, k):.1f} °C"),
        truth=everything,
    )
    yield Nasty(
        name="fahrenheit by a row of units",
        text="Time,A,B\ns,°F,°F\n"
        + table("", (), rows=()).strip()
        + "\n".join(
            f"{TIMES[k]:g},{curve(0, k) * 1.8 + 32:.2f},{curve(1, k) * 1.8 + 32:.2f}" for k in range(ROWS)
        ),
        truth=everything,
    )
    yield Nasty(
        name="kelvin in the heading",
        text=table("Time (s)", ("A (K)", "B (K)"), cell=lambda c, k: f"{curve(c, k) + 273.15:.2f}"),
        truth={f"{n} (K)": v for n, v in everything.items()},
    )
    yield Nasty(
        name="a column of states",
        text=table("Time (s),State", two, lambda k: f"{TIMES[k]:g},{'heat' if k < 12 else 'cool'}"),
        truth=everything,
    )
    yield Nasty(
        name="a column of notes",
        text=table(
            "Time (s)",
            ("A", "B", "Note"),
            cell=lambda c, k: ("lid off" if k == 5 else "") if c == 2 else f"{curve(c, k):.1f}",
        ),
        truth=everything,
    )
    yield Nasty(
        name="a column of codes",
        text=table(
            "Time (s)", ("A", "B", "Code"), cell=lambda c, k: f"0x{k:02X}" if c == 2 else f"{curve(c, k):.1f}"
        ),
        truth=everything,
    )
    yield Nasty(
        name="humidity and battery beside",
        text=table(
            "Time (s)",
            ("A", "B", "RH (%)", "Battery (V)"),
            cell=lambda c, k: ("45.2", "3.71")[c - 2] if c > 1 else f"{curve(c, k):.1f}",
        ),
        truth=everything,
    )
    swapped = table("Time (s)", two, rows=range(12)) + table(
        "Time (s)", ("B", "A"), cell=lambda c, k: f"{curve(1 - c, k):.1f}", rows=range(12, ROWS)
    )
    yield Nasty(name="a second heading with columns swapped", text=swapped, truth=everything)
    repeated = table("Time (s)", two, rows=range(12)) + table("Time (s)", two, rows=range(12, ROWS))
    yield Nasty(name="the heading again in the middle", text=repeated, truth=everything)
    wrapped = '"Time\n(s)","A\n(°C)","B\n(°C)"\n' + table("", ()).lstrip("\n")
    wrapped = '"Time\n(s)","A\n(°C)","B\n(°C)"\n' + "\n".join(
        f"{TIMES[k]:g},{curve(0, k):.1f},{curve(1, k):.1f}" for k in range(ROWS)
    )
    yield Nasty(
        name="headings of two lines", text=wrapped, truth={f"{n} (°C)": v for n, v in everything.items()}
    )
    bare = "\n".join(f"{TIMES[k]:g},{curve(0, k):.1f},{curve(1, k):.1f}" for k in range(ROWS))
    yield Nasty(
        name="no headings", text=bare, truth={"column 2": everything["A"], "column 3": everything["B"]}
    )
    yield Nasty(name="UTF-16", text=table("Time (s)", two).encode("utf-16"), truth=everything)
    yield Nasty(
        name="old Windows letters",
        text=table("Zeit (s)", ("A (°C)", "B (°C)"), sep=";").encode("cp1252"),
        truth={f"{n} (°C)": v for n, v in everything.items()},
    )
    yield Nasty(
        name="a line of the maker above",
        text=table("Time (s)", two, above="Logger 7\nSerial: 12,345\n\n"),
        truth=everything,
    )
    yield Nasty(
        name="a line of statistics below",
        text=table("Time (s)", two) + "Max,51.3,55.9\nMin,20.3,24.0\n",
        truth=everything,
    )
    yield Nasty(
        name="fixed interval above",
        text="Interval: 10 s\n" + table("", two, lambda k: "").replace("\n,", "\n").lstrip(","),
        truth=everything,
    )
    long_rows = [f"{TIMES[k]:g},{n},{curve(c, k):.1f}" for k in range(ROWS) for c, n in enumerate(two)]
    yield Nasty(
        name="a long table", text="time_s,sensor,value\n" + "\n".join(long_rows) + "\n", truth=everything
    )
    own = [f"{TIMES[k]:g},{curve(0, k):.1f},{TIMES[k]:g},{curve(1, k):.1f}" for k in range(ROWS)]
    yield Nasty(
        name="a time for each channel",
        text="Time A (s),A,Time B (s),B\n" + "\n".join(own) + "\n",
        truth=everything,
    )
    lines = [f'{{"t": {TIMES[k]:g}, "A": {curve(0, k)}, "B": {curve(1, k)}}}' for k in range(ROWS)]
    yield Nasty(name="JSON lines", text="\n".join(lines) + "\n", truth=everything)
    yield Nasty(name="a workbook of dates", text=workbook("Time", two, dated=True), truth=everything)
    yield Nasty(name="a workbook of seconds", text=workbook("Time (s)", two, dated=False), truth=everything)
    yield Nasty(name="a list of JSON objects", text="[" + ",".join(lines) + "]", truth=everything)
    broken = [*lines[:5], '{"t": 50, "A": ', *lines[6:]]
    kept = {n: [v for k, v in enumerate(values) if k != 5] for n, values in everything.items()}
    yield Nasty(name="JSON lines, one broken", text="\n".join(broken), truth=kept)
    yield Nasty(name="only words", text="Dear class,\nthe logger broke.\n", truth={}, want="refused")
    yield Nasty(name="nothing", text="", truth={}, want="refused")
    yield Nasty(name="one row", text="Time (s),A\n0,20.5\n", truth={}, want="refused")


def every() -> list[Nasty]:
    return [*of_names(), *of_clocks(), *of_values()]
