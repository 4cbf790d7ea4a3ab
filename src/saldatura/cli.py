"""The command line: serve, demo, compute, backup, restore, check, export, export-shop, import, pattern."""

import gc
import json
import os
import sqlite3
import sys
import tempfile
from pathlib import Path
from typing import Annotated, NoReturn

import typer
from pydantic import ValidationError

from saldatura import cli_patterns
from saldatura.battery.compute import COMPUTATIONS
from saldatura.battery.errors import Impossible, field_lines
from saldatura.records.hold import DataFileError
from saldatura.records.salvage import salvage as write_salvaged
from saldatura.settings import own_data_file

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help=__doc__)

Port = Annotated[int, typer.Option(min=0, max=65535, help="0 takes any free port.")]
Host = Annotated[str, typer.Option(help="Only the loopback for now.")]


def _fail(message: str, status: int = 2) -> NoReturn:
    print(message, file=sys.stderr)
    raise typer.Exit(status)


def _load_undisturbed() -> None:
    """Nothing that is loaded now is garbage, and looking for some takes a fifth of the start; `serving.run` looks again from there on."""
    gc.disable()


DataFile = Annotated[Path | None, typer.Option(help="The data file; it is made where it is not there.")]


@app.command()
def serve(port: Port = 8750, host: Host = "127.0.0.1", data: DataFile = None) -> None:
    """Run the application on the shop's own data file, or on the one that --data names."""
    _load_undisturbed()
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database
    from saldatura.records.hold import DataFileError
    from saldatura.serving import AddressError, check_host, run

    try:
        check_host(host)
        run(Bench(Database(data or own_data_file(), serving=True)), host, port)
    except (AddressError, DataFileError) as error:
        _fail(str(error))


@app.command()
def demo(port: Port = 8750, host: Host = "127.0.0.1", data: DataFile = None) -> None:
    """Run the application on demo data, in a temporary file unless --data names one; jobs that are there already stay."""
    _load_undisturbed()
    from saldatura.demo.kept import fill
    from saldatura.records import jobs
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database
    from saldatura.records.hold import DataFileError
    from saldatura.serving import AddressError, check_host, run

    try:
        check_host(host)
        with tempfile.TemporaryDirectory(prefix="saldatura-demo-") as folder:
            db = Database(data or Path(folder) / "demo.sqlite3", serving=True)
            jobs_held = sum(jobs.counts(db.read()).values()) + sum(jobs.counts(db.read(), archived=True).values())
            if jobs_held:
                print(
                    f"{db.path.name} holds {jobs_held} jobs already; the demo goes on with what is there.", flush=True
                )
            else:
                fill(db)
            run(Bench(db), host, port)
    except (AddressError, DataFileError) as error:
        _fail(str(error))


@app.command()
def compute(
    name: Annotated[str, typer.Argument(help="One of " + ", ".join(sorted(COMPUTATIONS)))],
    file: Annotated[Path | None, typer.Argument(help="The request as JSON; standard input when left out.")] = None,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of request and response.")] = False,
    example: Annotated[bool, typer.Option("--example", help="Print a worked request, which runs as it is.")] = False,
) -> None:
    """Compute from JSON to JSON, with nothing stored.

    `saldatura compute verdict --example | saldatura compute verdict` shows how.
    """
    computation = COMPUTATIONS.get(name)
    if computation is None:
        _fail(f"name: there is no computation {name}; there are {', '.join(sorted(COMPUTATIONS))}")
    if schema:
        print(json.dumps(computation.schema(), indent=1))
        return
    if example:
        print(json.dumps(computation.example, indent=1, ensure_ascii=False))
        return
    try:
        text = file.read_text(encoding="utf-8") if file and str(file) != "-" else sys.stdin.read()
        request = computation.request.model_validate(json.loads(text))
        print(computation.run(request).model_dump_json())
    except OSError as error:
        _fail(f"file: {file} cannot be read ({error.strerror})")
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        _fail(f"body: is not valid JSON ({error})")
    except RecursionError:
        _fail("body: is nested too deeply")
    except ValidationError as error:
        _fail(
            "\n".join(
                f"{wrong.field}: {wrong.message}"
                for wrong in {w.field: w for w in field_lines(error.errors())}.values()
            )
        )
    except Impossible as error:
        _fail(str(error))


@app.command()
def backup(target: Path) -> None:
    """Copy the data file to TARGET while it may be in use."""
    from saldatura.records.data_file import photos_beside
    from saldatura.records.database import Database
    from saldatura.records.hold import DataFileError

    source = own_data_file()
    if not source.exists():
        _fail(f"{source} does not exist; nothing to back up")
    try:
        db = Database(source)
        db.backup(target)
        db.close()
    except (DataFileError, OSError) as error:
        _fail(str(error))
    print("\n".join(filter(None, [f"Copied to {target}", photos_beside(target)])))


@app.command()
def restore(source: Path) -> None:
    """Put the backup SOURCE in the data file's place; what was there is kept beside it."""
    from saldatura.records import data_file

    if not source.exists():
        _fail(f"{source} does not exist; name a backup")
    try:
        kept = data_file.restore(source, own_data_file())
    except (DataFileError, OSError) as error:
        _fail(str(error))
    print(f"Restored {source} to {own_data_file()}" + (f"; what was there is kept as {kept.name}" if kept else ""))
    if warning := data_file.photos_beside(own_data_file()):
        print(warning)


@app.command()
def check(
    file: Annotated[Path | None, typer.Argument(help="A data file or a backup; the shop's own when left out.")] = None,
    salvage: Annotated[
        Path | None, typer.Option(help="Write every row that can still be read there, as JSON lines.")
    ] = None,
) -> None:
    """Tell what a data file is and holds, and whether it is sound; nothing in it is changed."""
    from saldatura.records.soundness import told_of

    path, unsound = file or own_data_file(), ""
    try:
        print("\n".join(told_of(path)))
    except DataFileError as error:
        unsound = str(error)
    if salvage is not None and path.exists():
        try:
            with open(os.open(salvage, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w", encoding="utf-8") as out:
                print(f"{write_salvaged(path, out)} rows written to {salvage}")
        except (DataFileError, OSError) as error:
            _fail("\n".join(filter(None, (unsound, str(error)))))
    if unsound:
        _fail(unsound)


@app.command(name="export")
def export_job(job: int, target: Annotated[Path | None, typer.Argument()] = None) -> None:
    """Write a whole job as JSON to TARGET, or to standard output."""
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database
    from saldatura.records.facts import NoSuchJob
    from saldatura.records.hold import DataFileError

    try:
        text = Bench(Database(own_data_file())).export(job).model_dump_json(indent=1)
    except NoSuchJob:
        _fail(f"job: there is no job {job}")
    except DataFileError as error:
        _fail(str(error))
    if target is None:
        print(text)
    else:
        target.write_text(text, encoding="utf-8")


@app.command(name="export-shop")
def export_shop(target: Path) -> None:
    """Write everything recorded in the shop to TARGET, an archive of JSON lines, CSV, photos and a data dictionary."""
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database
    from saldatura.records.hold import DataFileError

    partial = target.with_name(target.name + ".part")
    try:
        with partial.open("wb") as out:
            Bench(Database(own_data_file())).write_whole(out)
        partial.replace(target)
    except (DataFileError, OSError) as error:
        _fail(str(error))
    finally:
        partial.unlink(missing_ok=True)
    print(f"Written to {target}")


@app.command(name="import")
def import_job(source: Path) -> None:
    """Restore an exported job in this data file."""
    from saldatura.formats.job_file import JobFileError
    from saldatura.records.bench import AlreadyHere, Bench
    from saldatura.records.database import Database
    from saldatura.records.hold import DataFileError

    try:
        document = json.loads(source.read_text(encoding="utf-8"))
        view = Bench(Database(own_data_file())).bring_in(document)
    except OSError as error:
        _fail(f"file: {source} cannot be read ({error.strerror})")
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
        _fail("file: is not valid JSON, so it is damaged or no job file; export it again")
    except (JobFileError, AlreadyHere, DataFileError) as error:
        _fail(f"file: {error}")
    print(f"Restored as job {view.facts.id}")


app.add_typer(cli_patterns.app, name="pattern")


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's OpenAPI document, from which the front end's client is generated."""
    from saldatura.api.app import create_app
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database

    with tempfile.TemporaryDirectory() as folder:
        document = create_app(Bench(Database(Path(folder) / "empty.sqlite3"))).openapi()
    print(json.dumps(document, indent=1, ensure_ascii=False))


@app.command(name="pattern-schema", hidden=True)
def pattern_schema() -> None:
    """Print the JSON Schema of a pattern's file, as docs/pattern.schema.json keeps it."""
    from saldatura.formats.pattern_file import schema

    print(json.dumps(schema(), indent=1, ensure_ascii=False, sort_keys=True))


def main() -> None:
    """Entry point. Whatever goes wrong is told in a line; SALDATURA_TRACE shows where."""
    # Only the one who runs it reads what it writes: customers' names are in it.
    os.umask(0o077)
    try:
        app()
    except Exception as error:
        if os.environ.get("SALDATURA_TRACE"):
            raise
        known = _known(error)
        print(
            known or " ".join(f"{type(error).__name__}: {error}; with SALDATURA_TRACE=1 it says where".split()),
            file=sys.stderr,
        )
        sys.exit(2 if known else 1)


def _known(error: Exception) -> str:
    """What a data file that cannot be used is, in a line; empty where it is sound and the failure ours."""
    from saldatura.records.data_file import damaged
    from saldatura.records.hold import DataFileError
    from saldatura.records.soundness import told_of

    path = own_data_file()
    try:
        if isinstance(error, sqlite3.DatabaseError) and not isinstance(error, sqlite3.IntegrityError):
            raise damaged(path, error)
        if isinstance(error, DataFileError):
            raise error
        # Of a damaged file nothing is as the program knows it: that is said, and not where it stumbled.
        if path.exists():
            told_of(path)
    except DataFileError as unsound:
        return str(unsound)
    return ""
