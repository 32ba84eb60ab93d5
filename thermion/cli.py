"""The thermion command: serve, demo, export, import, backup, restore, probe, pretend.

What it needs is loaded by the command that needs it, so that asking for help is quick. Whatever goes
wrong is said in one sentence: exit code 2 for a command that cannot be understood, 1 for the rest.
"""

from __future__ import annotations

import secrets
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from click.exceptions import NoArgsIsHelpError

from thermion import supervisor
from thermion.cli_pretend import pretend
from thermion.cli_probe import probe
from thermion.records.keeping.folder import alone_in, used_by
from thermion.server import Where

if TYPE_CHECKING:
    from thermion.records.database import Database
    from thermion.records.keeping.copies import CopyChecked


BEGUN = "begun by thermion demo\n"  # beside a demo that is being made


class OneSentence(click.Group):
    """A command whose errors are one sentence on standard error."""

    def main(self, *args: Any, **extra: Any) -> Any:
        alone = extra.pop("standalone_mode", True)
        try:
            found = super().main(*args, **extra, standalone_mode=False)  # type: ignore[call-overload]
        except NoArgsIsHelpError as error:
            error.show()
            found = 2
        except click.ClickException as error:
            click.echo(f"thermion: {error.format_message()}", err=True)
            found = error.exit_code
        except (click.Abort, KeyboardInterrupt):
            found = 130
        if alone:
            sys.exit(found if isinstance(found, int) else 0)
        return found


_DATA = click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    envvar="THERMION_DATA",
    show_envvar=True,
    default=None,
    help="Folder for the data. Default: this user's data folder.",
)
_HOST = click.option(
    "--host",
    envvar="THERMION_HOST",
    show_envvar=True,
    default="127.0.0.1",
    show_default=True,
    help="Address of this computer to listen on; others come in by the door.",
)
_DOOR_HOST = click.option(
    "--door-host",
    envvar="THERMION_DOOR_HOST",
    show_envvar=True,
    default="0.0.0.0",  # noqa: S104 - while the teacher has opened it
    show_default=True,
    help="Address of the door for other devices, while it is open.",
)
_DOOR_PORT = click.option(
    "--door-port",
    envvar="THERMION_DOOR_PORT",
    show_envvar=True,
    default=None,
    type=click.IntRange(1, 65535),
    help="Port of the door. Default: the port, and 100 more.",
)
_PORT = click.option(
    "--port",
    envvar="THERMION_PORT",
    show_envvar=True,
    default=8000,
    show_default=True,
    type=click.IntRange(1, 65535),
)


def _WHERE(command: Callable[..., Any]) -> Callable[..., Any]:  # noqa: N802 - an option as the others
    """The options of a command that serves."""
    for option in (_DOOR_PORT, _DOOR_HOST, _PORT, _HOST):
        command = option(command)
    return command


@click.group(cls=OneSentence, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="thermion", message="thermion %(version)s")
def main() -> None:
    """Thermion: a bench instrument for design challenges in the classroom."""


main.add_command(probe)
main.add_command(pretend)


@contextmanager
def _said(what: str, folder: Path | None = None) -> Iterator[None]:
    """What can go wrong with files, folders and the record, as one sentence; with a `folder` whose
    record is broken, also which copy would read."""
    from sqlalchemy.exc import SQLAlchemyError

    from thermion.records.errors import Refused

    try:
        yield
    except Refused as refused:
        raise click.ClickException(refused.message) from None
    except OSError as error:
        raise click.ClickException(f"{what}: {error.strerror or error}.") from None
    except SQLAlchemyError as error:
        reason = str(getattr(error, "orig", None) or error).partition("\n")[
            0
        ]  # one sentence, whatever it says
        raise click.ClickException(f"{what}: {reason}.{_newest_copy(folder)}") from None


def _newest_copy(folder: Path | None) -> str:
    from thermion.records.keeping.copies import copies_of

    found = [] if folder is None else copies_of(folder)
    return f" The newest copy that reads: thermion restore {found[0].path}" if found else ""


def _open(data: Path | None, *, filled: bool, usual: str = "Thermion") -> Database:
    """The record in a folder; `filled`: there must be one already."""
    from thermion.records.database import Database, default_folder
    from thermion.records.revisions import FILE_NAME

    folder = data or default_folder(usual)
    if filled and not (folder / FILE_NAME).exists():
        raise click.ClickException(f"There are no Thermion data in {folder}.")
    with _said(f"The data in {folder} cannot be opened", folder):
        database = Database(folder)
        if database.migrate():
            from thermion.records.judging.earlier import relearn_all

            relearn_all(database)
    return database


def _keep_serving(command: str, folder: Path, where: Where, *, fresh: bool = False) -> None:
    """Be the supervisor of a server that runs the same command, until it stops."""
    words = [command, "--data", str(folder), "--host", where.host, "--port", str(where.port)]
    words += ["--door-host", where.door_host, "--door-port", str(where.door_port)]
    first = [*words, "--fresh"] if fresh else words
    _say_if_new(folder)
    with _said(f"The data in {folder} cannot be opened"):
        code = supervisor.keep_serving(first, words, folder, lambda line: click.echo(line, err=True))
    if code:
        sys.exit(code)


def _say_if_new(folder: Path) -> None:
    """A folder without data may be a mistyped one: it is said before anything is made in it."""
    from platformdirs import user_state_path

    from thermion.records.revisions import FILE_NAME

    last = user_state_path("Thermion", appauthor=False) / "last_folder"
    with suppress(OSError):
        if not (folder / FILE_NAME).exists():
            before = last.read_text(encoding="utf-8").strip() if last.exists() else ""
            used = f" The one used last is {before}." if before and before != str(folder) else ""
            click.echo(f"There are no data in {folder} yet: a new record is made there.{used}", err=True)
        last.parent.mkdir(parents=True, exist_ok=True)
        last.write_text(str(folder.absolute()), encoding="utf-8")


class CouldNotStart(click.ClickException):
    """A server that need not be tried again."""

    exit_code = supervisor.COULD_NOT_START


@contextmanager
def _could_start() -> Iterator[None]:
    """In the server: what kept it from starting is for its supervisor to pass on, not to try again."""
    try:
        yield
    except click.ClickException as error:
        if supervisor.is_server():
            raise CouldNotStart(error.message) from None
        raise


def _serve_here(folder: Path, where: Where, *, demo: bool) -> None:
    from thermion.server import listen

    with _said(f"The data in {folder} cannot be opened", folder):
        _open(folder, filled=False).close()
        listen(folder, where, demo)


@main.command()
@_DATA
@_WHERE
def serve(data: Path | None, **where: Any) -> None:
    """Run the application with your own data."""
    from thermion.records.database import default_folder

    folder, at = data or default_folder(), Where.of(**where)
    if not supervisor.is_server():
        return _keep_serving("serve", folder, at)
    with _could_start(), _said(f"{folder} cannot be used"), used_by(folder, at.url):
        return _serve_here(folder, at, demo=False)


@main.command()
@_DATA
@_WHERE
@click.option("--fresh", is_flag=True, help="Throw the demo's changes away and start over.")
def demo(data: Path | None, fresh: bool, **where: Any) -> None:
    """Run the application with the made-up Skerry Light week."""
    from thermion.records.database import default_folder

    folder, at = data or default_folder("Thermion-demo"), Where.of(**where)
    if not supervisor.is_server():
        return _keep_serving("demo", folder, at, fresh=fresh)
    with _could_start(), _said(f"{folder} cannot be used"), used_by(folder, at.url):
        _make_demo(folder, fresh)
        return _serve_here(folder, at, demo=True)


def _make_demo(folder: Path, fresh: bool) -> None:
    """The week in its folder, which nobody else uses; what is no demo is never touched."""
    from thermion.records.keeping.folder import empty
    from thermion.records.revisions import FILE_NAME

    sign = folder / "demo"
    state = sign.read_text(encoding="utf-8") if sign.exists() else ""
    if (folder / FILE_NAME).exists() and not state:
        raise click.ClickException(
            f"{folder} does not hold a demo; it is left as it is. Choose another with --data."
        )
    if state and (fresh or state == BEGUN):  # one that was broken off while it was made is made anew
        empty(folder)
        state = ""
    if not state:
        from thermion.demo import build_demo

        click.echo("Making the demo week …", err=True)
        with _said(f"The demo cannot be made in {folder}"):
            sign.write_text(BEGUN, encoding="utf-8")
        database = _open(folder, filled=False)
        build_demo(database)
        database.close()
        sign.write_text("made by thermion demo\n", encoding="utf-8")


@main.command("export")
@click.argument("challenge", type=int)
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path, allow_dash=True))
@_DATA
def export_(challenge: int, file: Path, data: Path | None) -> None:
    """Write challenge number CHALLENGE to FILE as JSON; - is standard output."""
    from thermion.formats.exchange import export_challenge

    _new(file)
    with _said(f"{file} cannot be written"):
        with _open(data, filled=True).session() as session:
            text = export_challenge(session, challenge)
        _write(file, text.encode("utf-8"))


@main.command("import")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path, allow_dash=True))
@_DATA
def import_(file: Path, data: Path | None) -> None:
    """Read a challenge from FILE into a new class; - is standard input."""
    from datetime import datetime

    from thermion.formats.exchange import import_challenge, unpacked
    from thermion.formats.intake import read_file
    from thermion.records.database import default_folder
    from thermion.records.keeping.copies import copy_before

    with _said(f"{file} cannot be read"):
        content = read_file(sys.stdin.buffer.read() if str(file) == "-" else file.read_bytes())
        folder = data or default_folder()
        with alone_in(folder):
            database = _open(folder, filled=False)
            copy_before(folder, "import", datetime.now().astimezone())
            ready = unpacked(content)
            with database.writing() as session:
                made = import_challenge(session, content, secrets.token_urlsafe(12), ready=ready)
                said = f"Imported “{made.title}” as challenge {made.id}"
    click.echo(said)


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path, allow_dash=True), required=False)
@_DATA
def backup(file: Path | None, data: Path | None) -> None:
    """Copy the whole database to FILE, also while the application runs; - is standard output."""
    from datetime import datetime
    from tempfile import TemporaryDirectory

    from thermion.records.keeping.copies import copy

    target = file or Path(f"thermion-{datetime.now():%Y%m%d-%H%M%S}.sqlite3")  # noqa: DTZ005
    _new(target)
    with _said(f"{target} cannot be written"), TemporaryDirectory() as folder:
        made = Path(folder) / "copy" if str(target) == "-" else target
        found = copy(_open(data, filled=True).path, made)
        if made is target:
            click.echo(f"Wrote {target}: {_counted(found)}, read back and whole")
        else:
            sys.stdout.buffer.write(made.read_bytes())


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@_DATA
def restore(file: Path, data: Path | None) -> None:
    """Put the copy FILE in the place of the data; what was there is kept beside it under a dated name."""
    from datetime import datetime

    from thermion.records.database import default_folder
    from thermion.records.keeping.copies import FOLDER
    from thermion.records.keeping.copies import restore as put_back
    from thermion.records.revisions import FILE_NAME

    folder = data or default_folder("Thermion")
    with _said(f"{file} cannot be put back"), alone_in(folder):
        before = (folder / FILE_NAME).exists()
        found = put_back(folder, file, datetime.now().astimezone())
        kept = f" What was there is in {folder / FOLDER}." if before else ""
        click.echo(f"Put back {file}: {_counted(found)}.{kept}")


def _counted(found: CopyChecked) -> str:
    counts = found.counts
    return f"{counts.get('challenges', 0)} challenges, {counts.get('readings', 0)} readings"


def _new(file: Path) -> None:
    if str(file) != "-" and file.exists():
        raise click.ClickException(f"{file} is already there; it is left as it is.")


def _write(file: Path, content: bytes) -> None:
    """To standard output as it is, or to a new file, saying so."""
    if str(file) == "-":
        sys.stdout.buffer.write(content)
    else:
        file.write_bytes(content)
        click.echo(f"Wrote {file}")


if __name__ == "__main__":
    main()
