"""The command line of patterns: export, import, check."""

import json
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from saldatura.battery.errors import Impossible, Refused
from saldatura.records.hold import DataFileError
from saldatura.settings import own_data_file

app = typer.Typer(no_args_is_help=True, help=__doc__)
Source = Annotated[Path, typer.Argument(help="A pattern as one JSON file.")]


def _fail(message: str) -> NoReturn:
    typer.echo(message, err=True)
    raise typer.Exit(2)


def _document(source: Path) -> Any:
    try:
        return json.loads(source.read_text(encoding="utf-8"))
    except OSError as error:
        _fail(f"file: {source} cannot be read ({error.strerror})")
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
        _fail("file: is not valid JSON, so it is damaged or no pattern; export it again")


@app.command(name="export")
def export_pattern(pattern: int, target: Annotated[Path | None, typer.Argument()] = None) -> None:
    """Write a pattern with its photos as JSON to TARGET, or to standard output."""
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database

    try:
        text = Bench(Database(own_data_file())).patterns.export(pattern).model_dump_json(indent=1)
    except (Impossible, DataFileError) as error:
        _fail(str(error))
    if target is None:
        typer.echo(text)
    else:
        target.write_text(text, encoding="utf-8")


@app.command(name="import")
def import_pattern(
    source: Source,
    by: Annotated[str, typer.Option(help="Who takes it in.")],
    keep_both: Annotated[bool, typer.Option(help="Keep it beside ours where both were changed.")] = False,
) -> None:
    """Take a pattern in: one that says more than ours supersedes it, one that was changed apart is kept beside it."""
    from saldatura.formats.pattern_file import PatternFileError
    from saldatura.records.bench import Bench
    from saldatura.records.database import Database

    document = _document(source)
    try:
        done = Bench(Database(own_data_file())).patterns.bring(
            document, by, "taken from a file", "keep_both" if keep_both else None
        )
    except (PatternFileError, Impossible, Refused, DataFileError) as error:
        _fail(f"file: {error}")
    typer.echo(
        f"Taken in as pattern {done.id}" if done.recorded else f"Nothing new in it; it is pattern {done.id} here"
    )


@app.command()
def check(source: Source) -> None:
    """Tell what a file is and whether it is whole; nothing is taken in."""
    # Slow to load, and wanted by no other command.
    from saldatura.formats.pattern_file import PatternFileError, parse

    try:
        read = parse(_document(source))
    except PatternFileError as error:
        _fail(f"file: {error}")
    sheet = read.pattern.sheet
    typer.echo(
        f"{sheet.title}: {sheet.pack.label}, revision {read.pattern.revision}, {len(read.photos)} photos. It is whole."
    )
