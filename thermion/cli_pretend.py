"""`thermion pretend`: a class of pads that are not there, at work in a Thermion that runs."""

from __future__ import annotations

import threading
import time

import click


@click.command()
@click.option(
    "--desk", default="http://127.0.0.1:8000", show_default=True, help="The Desk, asked for the teams' codes."
)
@click.option("--url", default=None, help="The door. Default: what the Desk says.")
@click.option("--speed", default=1.0, show_default=True, type=click.FloatRange(0.1, 100.0))
@click.option("--minutes", default=50.0, show_default=True, type=click.FloatRange(0.01, 600.0))
@click.argument("codes", nargs=-1)
def pretend(desk: str, url: str | None, speed: float, minutes: float, codes: tuple[str, ...]) -> None:
    """Work as the pads of a class: with these CODES, or with those of the class that has a lesson on."""
    from thermion.probes.class_pretended import door_and_codes, pads

    try:
        door, found = door_and_codes(desk) if not codes or url is None else (url, {})
    except OSError as error:
        raise click.ClickException(f"The Desk at {desk} does not answer: {error}.") from None
    made = pads(url or door, codes or tuple(found.values()), speed, lambda line: click.echo(line, err=True))
    if not made:
        raise click.ClickException("There are no codes: open the door on the page Devices first.")
    until = time.monotonic() + minutes * 60
    threads = [threading.Thread(target=pad.work, args=(until,), daemon=True) for pad in made]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    total: dict[str, int] = {}
    for pad in made:
        for what, times in pad.done.items():
            total[what] = total.get(what, 0) + times
    click.echo(", ".join(f"{what} {times}" for what, times in sorted(total.items())))
