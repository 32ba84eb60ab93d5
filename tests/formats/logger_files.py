"""Logger files as general devices, spreadsheets and scripts write them, each with its truth.

`python -m tests.formats.logger_files FOLDER` writes them out, to be looked at or tried in the page.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

TEAMS = ("Avocet", "Dunlin", "Godwit")
START = datetime(2026, 6, 3, 9, 58, 0)  # noqa: DTZ001 - of the place; 3/6 or 6/3
DAYS_1900 = datetime(1899, 12, 30)  # noqa: DTZ001
NONE = "\x00"  # a cell without a value


def course(n: int, k: int) -> float:
    """A box that warms: what team k's read at row n [°C], in tenths."""
    return round(20.0 + k + 42.0 * (1 - 0.97**n) + 0.3 * ((n * 7 + k * 3) % 5), 1)


@dataclass(frozen=True)
class Case:
    """A file, and what it holds: seconds from its first reading, °C by channel (None: no value there).

    `asked` are the questions that have to come, with the right answers; `likely` tells whether the
    proposed answers are the right ones already. `begins` is the moment of its first reading.
    """

    name: str
    data: bytes
    seconds: tuple[float, ...] = ()
    celsius: tuple[tuple[float | None, ...], ...] = ()
    asked: dict[str, str] = field(default_factory=dict)
    likely: bool = True
    begins: datetime | None = None
    refused: str = ""


Stamp = Callable[[int], str]


def table(
    stamp: Stamp | None,
    heads: Sequence[str],
    *,
    rows: int = 40,
    every: float = 30.0,
    sep: str = ",",
    comma: bool = False,
    unit: str = "C",
    above: Sequence[str] = (),
    below: Sequence[str] = (),
    end: str = "\n",
    encoding: str = "utf-8",
    cell: Callable[[int, int, str], str] = lambda n, k, text: text,
    units_row: str = "",
    digits: int = 1,
) -> tuple[bytes, tuple[float, ...], tuple[tuple[float | None, ...], ...]]:
    """A wide table: the time, then a column for each channel."""
    channels = len(heads) - (stamp is not None)
    lines = [*above, sep.join(heads)] if heads and any(heads) else [*above]
    if units_row:
        lines.append(units_row)
    truth: list[list[float | None]] = [[] for _ in range(channels)]
    for n in range(rows):
        cells = []
        for k in range(channels):
            c = course(n, k)
            number = {"C": c, "F": c * 1.8 + 32, "K": c + 273.15}[unit]
            text = cell(n, k, f"{number:.{2 if unit != 'C' else digits}f}")
            truth[k].append(None if text.startswith(NONE) else c)
            text = text.lstrip(NONE)
            cells.append(text.replace(".", ",") if comma else text)
        lines.append(sep.join([*([stamp(n)] if stamp else []), *cells]))
    text = end.join([*lines, *below]) + end
    return text.encode(encoding), tuple(n * every for n in range(rows)), tuple(map(tuple, truth))


def at(n: int, every: float = 30.0, start: datetime = START) -> datetime:
    return start + timedelta(seconds=n * every)


def dates(form: str, every: float = 30.0, start: datetime = START) -> Stamp:
    def stamp(n: int) -> str:
        moment = at(n, every, start)
        return moment.strftime(form).replace("{d}", str(moment.day)).replace("{m}", str(moment.month))

    return stamp


def wide(
    name: str,
    stamp: Stamp | None,
    *heads: str,
    asked: dict[str, str] | None = None,
    likely: bool = True,
    begins: datetime | None = None,
    **how: object,
) -> Case:
    data, seconds, celsius = table(stamp, heads, **how)  # type: ignore[arg-type]
    return Case(
        name=name,
        data=data,
        seconds=seconds,
        celsius=celsius,
        asked=asked or {},
        likely=likely,
        begins=begins,
    )


C3 = tuple(f"{t} (°C)" for t in TEAMS)


def elapsed() -> list[Case]:
    """Times from a start, in any unit, named in any way."""

    def n(scale: float, digits: int) -> Stamp:
        return lambda i: f"{i * 30 / scale:.{digits}f}"

    def colon(i: int) -> str:
        return f"{i * 30 // 60}:{i * 30 % 60:02d}"

    return [
        wide("seconds", n(1, 0), "time (s)", *C3),
        wide("time_min", n(60, 1), "time_min", *C3),
        wide("t [h]", n(3600, 6), "t [h]", *C3),
        wide("ms", n(0.001, 0), "elapsed_ms", *C3),
        wide("camel", n(0.001, 0), "elapsedMs", *C3),
        wide("only a unit", n(60, 1), "Minutes", *C3),
        wide("t/s", n(1, 0), "t/s", *C3, sep="\t"),
        wide("Zeit in Minuten", n(60, 1), "Zeit [min]", *C3, sep=";", comma=True, end="\r\n"),
        wide("mm:ss said", colon, "Elapsed (mm:ss)", *C3),
        wide("m:ss not said", colon, "Time", *C3, asked={"time": "m:ss"}),
        wide("h:mm from noon", dates("%H:%M", 60), "Time", *C3, every=60.0, asked={"time": "h:mm"}),
        wide("HH:MM said", dates("%H:%M", 60), "Time (HH:MM)", *C3, every=60.0),
        wide("m:ss beyond an hour", lambda i: f"{i * 2}:00", "Time", *C3, every=120.0, rows=50),
        wide("m:ss.f", lambda i: f"{i * 30 // 60:02d}:{i * 30 % 60:02d}.0", "Time", *C3),
        wide("h:mm:ss", lambda i: f"0:{i * 30 // 60:02d}:{i * 30 % 60:02d}", "Elapsed time", *C3),
        wide("days and clock", lambda i: f"0 days 00:{i * 30 // 60:02d}:{i * 30 % 60:02d}", "elapsed", *C3),
        wide("1h 5m 30s", lambda i: f"0h {i * 30 // 60}m {i * 30 % 60}s", "Elapsed", *C3),
        wide("minutes not said", n(60, 1), "Time", *C3, asked={"time": "min"}, likely=False),
        wide("seconds not said", n(1, 0), "Time", *C3, asked={"time": "s"}),
        wide(
            "part of a day", lambda i: f"{(35880 + i * 30) / 86400:.8f}", "Time", *C3, asked={"time": "day"}
        ),
        wide("row of units", n(60, 1), "Time", *TEAMS, units_row="min,°C,°C,°C"),
        wide("no headings", n(1, 0), *[""] * 4, asked={"time": "s", "unit": "degC"}),
        wide("thousands in seconds", lambda i: f"{i * 30:,}", "time (s)", *C3, sep=";", rows=60),
    ]


def calendar() -> list[Case]:
    """Dates and clocks."""
    later, night = datetime(2026, 6, 23, 9, 58), datetime(2026, 6, 3, 23, 50)  # noqa: DTZ001
    day = {"asked": {"time": "dmy"}, "begins": START}
    month = {"asked": {"time": "mdy"}, "begins": START, "likely": False}
    worded = "3-Jun-26 %H:%M:%S"
    return [
        wide("iso", dates("%Y-%m-%d %H:%M:%S"), "Time", *C3, begins=START),
        wide("iso T", dates("%Y-%m-%dT%H:%M:%S"), "timestamp", *C3, begins=START),
        wide("iso Z", dates("%Y-%m-%dT%H:%M:%S.000Z"), "timestamp", *C3, begins=START.replace(tzinfo=UTC)),
        wide(
            "iso offset",
            dates("%Y-%m-%dT%H:%M:%S+02:00"),
            "t",
            *C3,
            begins=(START - timedelta(hours=2)).replace(tzinfo=UTC),
        ),
        wide("compact", dates("%Y%m%dT%H%M%S"), "Date", *C3, begins=START),
        wide("compact, run together", dates("%Y%m%d%H%M%S"), "timestamp", *C3, begins=START),
        wide("points", dates("%d.%m.%Y %H:%M:%S"), "Zeit", *C3, sep=";", comma=True, begins=START),
        wide("slashes, day first", dates("%d/%m/%Y %H:%M:%S", start=later), "Date", *C3, begins=later),
        wide("slashes, either", dates("%d/%m/%Y %H:%M:%S"), "Date", *C3, **day),
        wide("slashes, month first", dates("%m/%d/%Y %I:%M:%S %p"), "Date/Time", *C3, **month),
        wide(
            "over midnight, month first",
            dates("%m/%d/%Y %H:%M:%S", start=night),
            "When",
            *C3,
            asked={"time": "mdy"},
            begins=night,
        ),
        wide("two-digit year", dates("%d.%m.%y %H:%M:%S"), "Datum", *C3, sep=";", begins=START),
        wide("month in letters", dates("%d %b %Y %H:%M:%S"), "Date", *C3, begins=START),
        wide("letters first", dates("Jun 3, 2026 %I:%M:%S %p"), "Date", *C3, sep=";", begins=START),
        wide("letters, dashes", dates(worded), "Date", *C3, begins=START),
        wide("weekday", dates("%a %d %b %Y %H:%M:%S"), "Date", *C3, begins=START),
        wide("two columns", dates("%Y-%m-%d,%H:%M:%S"), "Date,Time", *C3, begins=START),
        wide(
            "two columns, points",
            dates("%d.%m.%Y;%H:%M:%S"),
            "Datum;Uhrzeit",
            *C3,
            sep=";",
            comma=True,
            begins=START,
        ),
        wide("two columns, compact", dates("%Y%m%d,%H%M%S"), "Date,Time", *C3, begins=START),
        wide("clock only, over midnight", dates("%H:%M:%S", start=night), "Time", *C3),
        wide("AM and PM", dates("%I:%M:%S %p"), "Time", *C3),
        wide(
            "seconds since 1970",
            lambda n: f"{START.replace(tzinfo=UTC).timestamp() + n * 30:.0f}",
            "ts",
            *C3,
            begins=START.replace(tzinfo=UTC),
        ),
        wide(
            "ms since 1970",
            lambda n: f"{START.replace(tzinfo=UTC).timestamp() * 1000 + n * 30000:.0f}",
            "time",
            *C3,
            begins=START.replace(tzinfo=UTC),
        ),
        wide(
            "spreadsheet days",
            lambda n: f"{(at(n) - DAYS_1900).total_seconds() / 86400:.9f}",
            "Date",
            *C3,
            begins=START,
        ),
        wide(
            "parts in columns", dates("%Y,%m,%d,%H,%M,%S"), "Year,Month,Day,Hour,Min,Sec", *C3, begins=START
        ),
        wide(
            "start and interval",
            None,
            *C3,
            above=["Bench logger 4", "Start,2026-06-03 09:58:00", "Interval,30 s"],
            begins=START,
        ),
        wide("rate in Hz", None, *C3, above=["Sample rate: 0.5 Hz"], every=2.0),
        wide(
            "start above, seconds below",
            lambda n: str(n * 30),
            "t (s)",
            *C3,
            above=["Started: 2026-06-03 09:58:00"],
            begins=START,
        ),
        wide(
            "two that agree",
            lambda n: f"{at(n):%Y-%m-%d %H:%M:%S},{n * 30}",
            "Time,Elapsed (s)",
            *C3,
            begins=START,
        ),
        wide(
            "two that differ",
            lambda n: f"{at(n):%Y-%m-%d %H:%M:%S},{n * 7}",
            "Time,Elapsed (s)",
            *C3,
            asked={"column": "0"},
            begins=START,
        ),
        newest_first(),
        within_a_second(),
        autumn(),
        begun_again(),
    ]


def newest_first() -> Case:
    data, seconds, celsius = table(dates("%Y-%m-%d %H:%M:%S"), ("Time", *C3))
    head, *rows = data.decode().splitlines()
    return Case(
        name="newest first",
        data="\n".join([head, *reversed(rows)]).encode(),
        seconds=seconds,
        celsius=celsius,
        begins=START,
    )


def within_a_second() -> Case:
    """Two readings a second by a clock that tells whole seconds."""
    return wide("two a second", lambda n: f"{at(n // 2, 1):%H:%M:%S}", "Time", *C3, every=0.5)


def autumn() -> Case:
    """The clocks go back in the middle of the file."""
    start = datetime(2026, 10, 25, 2, 50)  # noqa: DTZ001

    def stamp(n: int) -> str:
        moment = at(n, 30, start)
        return f"{moment - timedelta(hours=moment.hour >= 3):%Y-%m-%d %H:%M:%S}"

    return wide("clocks go back", stamp, "Time", *C3, asked={"clocks": "changed"}, begins=start)


def begun_again() -> Case:
    """A try of three readings, then the real recording, in one file."""
    data, seconds, celsius = table(lambda n: str(n * 30), ("time (s)", *C3))
    head, *rows = data.decode().splitlines()
    return Case(
        name="begun again",
        data="\n".join([head, *rows[:3], *rows]).encode(),
        seconds=seconds,
        celsius=celsius,
        asked={"part": "2"},
    )


def shapes() -> list[Case]:
    """A time column for each channel; long tables."""

    def s(n: int) -> str:
        return str(n * 30)

    pairs = ["t1 (s),A (°C),t2 (s),D (°C)"] + [
        f"{n * 30},{course(n, 0)},{n * 30 + 5},{course(n, 1)}" for n in range(40)
    ]
    every = sorted([n * 30.0 for n in range(40)] + [n * 30.0 + 5 for n in range(40)])
    own = (
        tuple(course(int(t // 30), 0) if t % 30 == 0 else None for t in every),
        tuple(course(int(t // 30), 1) if t % 30 == 5 else None for t in every),
    )
    long = [f"{at(n):%Y-%m-%d %H:%M:%S},{t},{course(n, k)}" for n in range(40) for k, t in enumerate(TEAMS)]
    block = [f"{n * 30},{t},{course(n, k)},°C" for k, t in enumerate(TEAMS) for n in range(40)]
    ids = [f"{n * 30};{k + 1};{course(n, k):.1f}".replace(".", ",") for n in range(40) for k in range(3)]
    mixed = [
        f"{n * 30},{t},{q},{v},{u}"
        for n in range(40)
        for k, t in enumerate(TEAMS)
        for q, v, u in (("temperature", course(n, k), "°C"), ("humidity", 55 + n % 3, "%"))
    ]
    states = [f"{n * 30},{'OK' if n % 2 else 'LOW'},{course(n, 0)}" for n in range(40)]
    seconds, three = (
        tuple(n * 30.0 for n in range(40)),
        tuple(tuple(course(n, k) for n in range(40)) for k in range(3)),
    )

    def made(name: str, head: str, rows: Sequence[str], **how: object) -> Case:
        found = {"seconds": seconds, "celsius": three} | how
        return Case(name=name, data="\n".join([head, *rows, ""]).encode(), **found)  # type: ignore[arg-type]

    return [
        made("a clock for each", "t1 (s),A (°C),t2 (s),D (°C)", pairs, seconds=tuple(every), celsius=own),
        made("long", "time,sensor,temp_c", long, begins=START),
        made("long in blocks", "t (s),channel,value,unit", block),
        made("long with numbers of probes", "Zeit (s);Kanal;Wert (°C)", ids),
        made("long with other quantities", "t (s),probe,quantity,value,unit", mixed),
        made(
            "a column of states",
            "t (s),state,A (°C)",
            states,
            celsius=three[:1],
            asked={"long-1": "no"},
            likely=False,
        ),
        wide("rows numbered", lambda n: f"{n + 1},{n * 30}", "#,time (s)", *C3),
        wide("numbers without a name", lambda n: f"{n},{n * 30}", "time (s)", *C3),
        others(),
    ]


def others() -> Case:
    """Humidity and a battery between the temperatures."""
    rows = [f"{n * 30},{course(n, 0)},5{n % 9}.1,{course(n, 1)},3.0{n % 2}" for n in range(40)]
    head = "t (s),Avocet (°C),Humidity (%RH),Dunlin (°C),Battery (V)"
    two = tuple(tuple(course(n, k) for n in range(40)) for k in range(2))
    return Case(
        name="other columns",
        data="\n".join([head, *rows]).encode(),
        seconds=tuple(n * 30.0 for n in range(40)),
        celsius=two,
    )


def values() -> list[Case]:
    """Units, decimals, gaps, and what devices write in place of a temperature."""

    def s(n: int) -> str:
        return str(n * 30)

    def gap(*signs: str) -> Callable[[int, int, str], str]:
        return lambda n, k, text: NONE + signs[n % len(signs)] if k == 1 and n % 9 == 4 else text

    def first(n: int, k: int, text: str) -> str:
        return NONE + "85.0" if k == 0 and n == 0 else text

    def names(mark: str) -> tuple[str, ...]:
        return tuple(f"{t}{mark}" for t in TEAMS)

    f, k = {"unit": "F"}, {"unit": "K"}
    return [
        wide("°F", s, "time (s)", *names(" (°F)"), **f),
        wide("temp_f", s, "t_s", *("temp_f" if i == 0 else f"temp{i}_f" for i in range(3)), **f),
        wide("deg F", s, "time (s)", *names(" [deg F]"), **f),
        wide("Fahrenheit", s, "time (s)", *names(" Fahrenheit"), **f),
        wide("kelvin", s, "time (s)", *names(" (K)"), **k),
        wide("T/K", s, "t/s", "T1/K", "T2/K", "T3/K", **k),
        wide("look-alikes", s, "time (s)", "A (ºC)", "D (˚C)", "G (℃)"),
        wide("letters read wrong", s, "time (s)", *names(" (Â°C)")),
        wide("old Windows letters", s, "Zeit (s)", *names(" (°C)"), encoding="cp1252", sep=";", comma=True),
        wide("utf-16", s, "time (s)", *C3, encoding="utf-16"),
        wide("shared letter", s, "time (s)", "Box1_C", "Box2_C", "Box3_C"),
        wide("unit in the cell", s, "time (s)", *TEAMS, cell=lambda n, k, text: f"{text} °C"),
        wide("°F in the cell", s, "time (s)", *TEAMS, cell=lambda n, k, text: f"{text}°F", **f),
        wide("unit above", s, "time (s)", *TEAMS, above=["Temperature unit: °F"], **f),
        wide("row of units, °F", s, "time", *TEAMS, units_row="s;°F;°F;°F", sep=";", comma=True, **f),
        wide("no unit", s, "time (s)", *TEAMS, asked={"unit": "degC"}),
        wide("no unit, °F", s, "time (s)", *TEAMS, asked={"unit": "degF"}, likely=False, **f),
        wide("boxes A, C, F", s, "time (s)", "Box A", "Box C", "Box F", asked={"unit": "degC"}),
        wide("says °C, reads kelvin", s, "time (s)", "A (°C)", asked={"unit-0": "K"}, **k),
        wide("says K, reads °C", s, "time (s)", "A (K)", asked={"unit-0": "degC"}),
        wide(
            "heading and cells differ",
            s,
            "time (s)",
            "A (°C)",
            cell=lambda n, k, t: f"{t} °F",
            asked={"unit-0": "degF"},
            **f,
        ),
        wide("gaps", s, "time (s)", *C3, cell=gap("", "NaN", "---", "OL", "n/a", "err", "#N/A", "null")),
        wide(
            "signs of devices", s, "time (s)", *C3, cell=gap("-127.00", "999.9", "-999.9", "32767"), rows=60
        ),
        wide("85 first", s, "time (s)", *C3, cell=first),
        wide(
            "decimal comma in quotes",
            s,
            "time (s)",
            *C3,
            cell=lambda n, k, t: '"' + t.replace(".", ",") + '"',
        ),
        wide("three decimals with a comma", s, "time (s)", *C3, sep=";", comma=True, digits=3),
        wide("odd minus signs", s, "time (s)", "A (°C)", cell=lambda n, k, t: NONE + "−300" if n == 3 else t),
        wide("footer", s, "time (s)", *C3, below=["", "End of data", "Average,31.2,32.2,33.2"]),
        wide("wide spaces", s, "time (s)", *C3, sep="   "),
        wide("unclosed quote", s, "time (s)", *C3, above=['"Bench logger 4']),
        wide("heading again in the middle", lambda n: f"{n * 30}", "time (s)", *C3),
        with_heading_again(),
    ]


def with_heading_again() -> Case:
    data, seconds, celsius = table(lambda n: str(n * 30), ("time (s)", *C3))
    head, *rows = data.decode().splitlines()
    return Case(
        name="heading twice",
        data="\n".join([head, *rows[:20], head, *rows[20:]]).encode(),
        seconds=seconds,
        celsius=celsius,
    )


def refused() -> list[Case]:
    """What cannot be read, with what is said of it."""
    cut, _, _ = table(lambda n: str(n * 30), ("time (s)", *C3), comma=True)
    bare, _, _ = table(lambda n: str(n * 30), ("", "", ""), comma=True)
    timeless, _, _ = table(None, C3)
    return [
        Case(name="decimal comma cut", data=cut, refused="decimal"),
        Case(name="decimal comma cut, no headings", data=bare, refused="decimal"),
        Case(name="no time at all", data=timeless, refused="No column of times"),
        Case(name="binary", data=bytes(range(256)) * 40, refused="not a text file"),
        Case(name="a picture", data=b"\x89PNG\r\n\x1a\n\x00\x00", refused="PNG picture"),
        Case(name="a spreadsheet", data=b"PK\x03\x04rest", refused="Save it again"),
        Case(name="words", data=b"name,shape\na,b\nc,d\n", refused="No rows"),
        Case(name="empty", data=b" \n ", refused="empty"),
        Case(name="one line of ten million", data=b"time,A\n" + b"1," * 5_000_000, refused="letters"),
        Case(
            name="200,000 rows",
            data=b"time (s),A (C)\n" + b"".join(b"%d,20.5\n" % i for i in range(200_000)),
            refused="200,000",
        ),
    ]


def cases() -> list[Case]:
    return [*elapsed(), *calendar(), *shapes(), *values(), *refused()]


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for number, case in enumerate(cases(), 1):
        (folder / f"{number:02d} {case.name.replace('/', '-')}.csv").write_bytes(case.data)
