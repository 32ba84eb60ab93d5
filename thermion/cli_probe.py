"""`thermion probe`: a board on a serial line, standard input or pretended probes, sent to Thermion."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from thermion.probes.sending import Sender

RETRY_S = 1.0  # until a cable that was pulled out is looked for again
UNITS = ("C", "F", "K", "g", "kg", "mL", "l", "mm", "cm", "m", "ms", "s", "count")
_URL = click.option(
    "--url", default="http://127.0.0.1:8000/senml", show_default=True, help="Where Thermion takes packs."
)
_KEY = click.option(
    "--key", envvar="THERMION_PROBE_KEY", show_envvar=True, required=True, help="The probe's key."
)


@click.group()
def probe() -> None:
    """Send readings of probes to a Thermion that runs."""


@probe.command()
@_URL
@_KEY
@click.option(
    "--serial", "port", default="-", show_default=True, help="A serial line; - reads standard input."
)
@click.option("--baud", default=9600, show_default=True, type=click.IntRange(50, 4_000_000))
@click.option(
    "--unit", type=click.Choice(UNITS), default="C", show_default=True, help="Of values that name none."
)
def send(url: str, key: str, port: str, baud: int, unit: str) -> None:
    """Read lines such as A:21.5 B:22.0 and send them on."""
    from thermion.probes.lines import as_sent, may_be_decimals, read_line

    sender, read, lost = _sender(url, key), 0, 0
    for line in _serial(port, baud) if port != "-" else sys.stdin:
        found, now = read_line(line), time.time()
        if not found:
            lost += bool(line.strip())
            if line.strip():
                hint = (
                    "; commas may be decimals here: write points, or ; between"
                    if may_be_decimals(line)
                    else ""
                )
                click.echo(f"not read: {line.strip()[:60]!r}{hint}", err=True)
            continue
        read += 1
        for name, value, said in found:
            number, sent_in = as_sent(value, said or unit)
            sender.put(name, number, sent_in, now)
        _flush(sender)
    _end(sender, f"{read} lines read, {lost} not.")


@probe.command()
@_URL
@_KEY
@click.option("--channels", default=8, show_default=True, type=click.IntRange(1, 32))
@click.option("--minutes", default=60.0, show_default=True, help="How long the pretended test lasts.")
@click.option("--every", default=1.0, show_default=True, help="Seconds of the test between readings.")
@click.option("--speed", default=1.0, show_default=True, help="How many times as fast as the clock.")
@click.option("--seed", default=1, show_default=True)
@click.option(
    "--family",
    default="",
    help="Of builds as its model has them; the first that warms, if none is named. Of one that is tested by "
    "turns, the machines at its station.",
)
@click.option("--clock-off", default=0.0, show_default=True, help="Seconds that its clock is wrong by.")
@click.option(
    "--file", "path", type=click.Path(exists=True, dir_okay=False), help="Replay a logger's file instead."
)
def pretend(
    url: str,
    key: str,
    channels: int,
    minutes: float,
    every: float,
    speed: float,
    seed: int,
    family: str,
    clock_off: float,
    path: str | None,
) -> None:
    """Send what probes, or machines at a station, that are not there would read."""
    from thermion.probes.pretend import Pretended, PretendedStation, families, stations

    if family and family not in families() + stations():
        raise click.ClickException(f"--family: expected one of {', '.join(families() + stations())}")

    sender, begun = _sender(url, key), time.time()
    there = (
        PretendedStation(family, seed)
        if family in stations()
        else Pretended(channels=channels, seed=seed, family=family)
    )
    course = there.course(minutes * 60, every, speed) if path is None else _replayed(path, speed)
    for at, name, value, unit in course:
        wait = begun + at - time.time()
        if wait > 0:
            _flush(sender)
            time.sleep(wait)
        sender.put(name, value, unit, begun + at + clock_off)
    _end(sender, "The pretended test is over.")


def _replayed(path: str, speed: float) -> Iterator[tuple[float, str, float, str]]:
    """A logger's file as if it were read now; refused where something in it would have to be asked."""
    from pathlib import Path

    from thermion.core.physics.units import convert
    from thermion.formats.logger import UnreadableFile, read_logger

    try:
        found = read_logger(Path(path).read_bytes())
    except UnreadableFile as error:
        raise click.ClickException(str(error)) from None
    if found.questions:
        raise click.ClickException(f"{found.questions[0].text} Write it so that only one thing can be meant.")
    values = [
        (
            t / speed,
            "".join(ch if ch.isalnum() else "_" for ch in c.heading) or f"P{k}",
            convert(v, c.unit, "degC"),
            "Cel",
        )
        for k, c in enumerate(found.channels)
        for t, v in zip(c.time_s, c.value, strict=True)
    ]
    yield from sorted(values)


def _sender(url: str, key: str) -> Sender:
    from thermion.probes.sending import Sender

    return Sender(url=url, key=key, said=lambda text: click.echo(text, err=True))


def _flush(sender: Sender) -> None:
    from thermion.probes.sending import NeverTaken

    try:
        if not sender.flush():
            click.echo(f"Thermion is away; {len(sender.waiting)} values wait.", err=True)
    except NeverTaken as refused:
        raise click.ClickException(str(refused)) from None


def _end(sender: Sender, said: str) -> None:
    from thermion.probes.sending import NeverTaken

    try:
        done = sender.drain()
    except NeverTaken as refused:
        raise click.ClickException(str(refused)) from None
    click.echo(f"{said} {sender.sent} values sent.")
    if not done:
        raise click.ClickException(f"{len(sender.waiting)} values were not answered.")


def _serial(port: str, baud: int) -> Iterator[str]:
    """Whole lines of a serial line; the first may be torn, and is not read. A cable that was pulled out is waited
    for; one that was never there ends it."""
    import serial

    was_there = said = False
    while True:
        try:
            with serial.Serial(port, baud, timeout=None) as line:
                if said:
                    click.echo(f"{port} is back.", err=True)
                was_there, said, first = True, False, True
                for raw in line:
                    if not first and raw.endswith(b"\n"):
                        yield raw.decode("utf-8", "replace")
                    first = False
        except serial.SerialException as error:
            if not was_there:
                raise click.ClickException(f"{port}: {error}.") from None
        if not said:
            click.echo(f"{port} is gone: goes on when it is back.", err=True)
        said = True
        time.sleep(RETRY_S)
