"""A Saldatura of its own for browser work: started on demo or given data, with a headless Chromium beside it."""

import contextlib
import os
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

# How long a test waits for an answer of the program, s: it comes on a busy machine too, only later.
PATIENT_S = 60.0

# Background networking and sandboxing off: the page asks for nothing outside, and neither may the browser.
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def started(*command: str, data: Path | None = None, port: int = 0) -> tuple[subprocess.Popen[str], str, str]:
    """Start `saldatura COMMAND`, on a free port unless one is named; the process, its address, and what it said before."""
    env = {**os.environ, **({"SALDATURA_DATA": str(data)} if data else {})}
    process = subprocess.Popen(
        [sys.executable, "-m", "saldatura", *command, "--port", str(port)],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
        env=env,
    )
    assert process.stdout is not None
    said = ""
    for line in process.stdout:
        found = re.search(r"http://\S+", line)
        if found:
            return process, found.group().rstrip("/"), said
        said += line
    raise RuntimeError(f"saldatura {' '.join(command)} did not start: {said}")


@contextlib.contextmanager
def running(*command: str, data: Path | None = None) -> Iterator[str]:
    """Start `saldatura COMMAND` on a free port; the address while it runs."""
    process, address, _ = started(*command, data=data)
    try:
        yield address
    finally:
        process.terminate()
        process.wait(timeout=PATIENT_S)


@contextlib.contextmanager
def chromium() -> Iterator[Browser]:
    """Debian's Chromium, headless."""
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium") or "/usr/bin/chromium"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path, args=FLAGS)
        yield browser
        browser.close()
