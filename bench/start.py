"""How long the program takes to start: to its address, and to its first page and answer, beside a process that only loads the libraries it stands on."""

import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from bench.measure import Figure
from running import started

STARTS = 9
LIBRARIES = "import numpy, fastapi, uvicorn, typer"
WANTED_S, WANTED_TIMES = 1.2, 3.0


def figures() -> Iterator[Figure]:
    """The middle of several starts, s, and as a ratio against the libraries alone."""
    addresses, answers, bare = list[float](), list[float](), list[float]()
    with tempfile.TemporaryDirectory() as folder:
        # The first makes the data file, and compiles what is not compiled yet.
        for _ in range(STARTS + 1):
            begun = time.perf_counter()
            subprocess.run([sys.executable, "-c", LIBRARIES], check=True)
            bare.append(time.perf_counter() - begun)
            begun = time.perf_counter()
            process, address, _ = started("serve", data=Path(folder) / "bench.sqlite3")
            addresses.append(time.perf_counter() - begun)
            for path in ("/", "/api/jobs"):
                with urllib.request.urlopen(address + path) as answer:
                    answer.read()
            answers.append(time.perf_counter() - begun)
            process.terminate()
            process.wait(timeout=10)
    address_s, answer_s, bare_s = (sorted(some[1:])[STARTS // 2] for some in (addresses, answers, bare))
    yield Figure(
        "start, to the address, middle of nine", f"{address_s:.2f} s", f"at most {WANTED_S} s", address_s <= WANTED_S
    )
    yield Figure(
        "start, to the first page and answer, against loading the libraries alone",
        f"{answer_s / bare_s:.2f} times ({answer_s:.2f} s against {bare_s:.2f} s)",
        f"at most {WANTED_TIMES} times",
        answer_s <= WANTED_TIMES * bare_s,
    )
