"""The thermion command: serve, demo, export, import, backup."""

from __future__ import annotations

import secrets
import shutil
import sys
from datetime import datetime
from pathlib import Path

import click

from thermion.records.database import Database, default_folder

_DATA = click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    default=None,
    help="Folder for the data. Default: this user's data folder.",
)
_HOST = click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="Address to listen on; 0.0.0.0 lets tablets in the room reach it.",
)
_PORT = click.option("--port", default=8000, show_default=True, type=click.IntRange(1, 65535))


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
def main() -> None:
    """Thermion: a bench instrument for design challenges in the classroom."""


def listen(folder: Path, host: str, port: int, demo: bool) -> None:
    from waitress import create_server

    from thermion.web import create_app

    trusted = ["127.0.0.1", "localhost", "[::1]"] if host in ("127.0.0.1", "localhost") else None
    app = create_app({"DATA": folder, "DEMO": demo, "TRUSTED_HOSTS": trusted})
    try:
        server = create_server(app, host=host, port=port, threads=8, clear_untrusted_proxy_headers=True)
    except OSError as error:
        raise click.ClickException(
            f"Port {port} cannot be used ({error.strerror}). Try another: --port {port + 1}"
        ) from None
    what = "the Skerry Light demo" if demo else "your classes"
    click.echo(f"Thermion with {what} at http://{host}:{port}  (data in {folder}; Ctrl-C stops)")
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()


@main.command()
@_DATA
@_HOST
@_PORT
def serve(data: Path | None, host: str, port: int) -> None:
    """Run the application with your own data."""
    listen(data or default_folder(), host, port, demo=False)


@main.command()
@_DATA
@_HOST
@_PORT
@click.option("--fresh", is_flag=True, help="Throw the demo's changes away and start over.")
def demo(data: Path | None, host: str, port: int, fresh: bool) -> None:
    """Run the application with the made-up Skerry Light week."""
    from thermion.demo import build_demo

    folder = data or default_folder("Thermion-demo")
    if fresh and folder.exists():
        if not (folder / "demo").exists():
            raise click.ClickException(f"{folder} does not hold a demo; it is left as it is.")
        shutil.rmtree(folder)
    database = Database(folder)
    database.migrate()
    if not (folder / "demo").exists():
        build_demo(database)
        (folder / "demo").write_text("made by thermion demo\n", encoding="utf-8")
    database.close()
    listen(folder, host, port, demo=True)


def _open(data: Path | None) -> Database:
    database = Database(data or default_folder())
    database.migrate()
    return database


@main.command("export")
@click.argument("challenge", type=int)
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@_DATA
def export_(challenge: int, file: Path, data: Path | None) -> None:
    """Write challenge number CHALLENGE to FILE as JSON."""
    from thermion.formats.exchange import export_challenge
    from thermion.records.errors import Refused

    if file.exists():
        raise click.ClickException(f"{file} is already there; it is left as it is.")
    try:
        with _open(data).session() as session:
            text = export_challenge(session, challenge)
    except Refused as refused:
        raise click.ClickException(refused.message) from None
    file.write_text(text, encoding="utf-8")
    click.echo(f"Wrote {file}")


@main.command("import")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@_DATA
def import_(file: Path, data: Path | None) -> None:
    """Read a challenge from FILE into a new class."""
    from thermion.formats.exchange import import_challenge
    from thermion.formats.intake import read_file
    from thermion.records.errors import Refused

    try:
        content = read_file(file.read_bytes())
        with _open(data).writing() as session:
            made = import_challenge(session, content, secrets.token_urlsafe(12))
            click.echo(f"Imported “{made.title}” as challenge {made.id}")
    except Refused as refused:
        raise click.ClickException(refused.message) from None


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path), required=False)
@_DATA
def backup(file: Path | None, data: Path | None) -> None:
    """Copy the whole database to FILE, also while the application runs."""
    target = file or Path(f"thermion-{datetime.now():%Y%m%d-%H%M%S}.sqlite3")  # noqa: DTZ005
    try:
        _open(data).backup(target)
    except FileExistsError as error:
        raise click.ClickException(str(error)) from None
    click.echo(f"Wrote {target}")


if __name__ == "__main__":
    sys.exit(main())
