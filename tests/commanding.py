"""The command line, called as a shell calls it, or within the test, which starts no other program."""

import os
import subprocess
import sys
from pathlib import Path

from typer.testing import CliRunner

from saldatura import cli


def spawned(data: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    """A program of its own, as a shell starts it: what holds between two programs, and what the whole of it prints."""
    return subprocess.run(
        [sys.executable, "-m", "saldatura", *arguments],
        env={**os.environ, "SALDATURA_DATA": str(data)},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )


def run(data: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    """The same command within this program. Raises what it does not tell in a line itself."""
    done = CliRunner(env={"SALDATURA_DATA": str(data)}).invoke(cli.app, list(arguments))
    if done.exception is not None and not isinstance(done.exception, SystemExit):
        raise done.exception
    return subprocess.CompletedProcess(arguments, done.exit_code, done.stdout, done.stderr)
