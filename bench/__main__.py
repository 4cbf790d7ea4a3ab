"""Run every benchmark, or the parts that are named; print the figures, and write them to docs/benchmarks.md."""

import platform
import re
import sys
from collections.abc import Iterable
from datetime import date
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tools"))

from bench import (  # noqa: E402
    audit,
    charge_log,
    core,
    crowd,
    day,
    drawer,
    instruments,
    join,
    judge,
    judgement,
    level_plan,
    live,
    looks,
    patterns,
    promises,
    prove,
    run_time,
    service,
    size,
    start,
    taper,
)

PARTS = {
    part.__name__.rsplit(".", 1)[-1]: part
    for part in (
        core, audit, judgement, judge, drawer, join, level_plan, taper, charge_log, run_time, prove, looks, patterns, instruments, day, promises, live, crowd, service, size, start,
    )
}  # fmt: skip
FILE = ROOT / "docs" / "benchmarks.md"


def main(names: list[str]) -> int:
    """Exit status 1 when a figure misses what is wanted. Of parts that are not named the figures of an earlier run stay, with its day."""
    found = []
    for name in names or PARTS:
        for figure in PARTS[name].figures():
            print(
                f"{'ok  ' if figure.holds else 'MISS'} {figure.what}: {figure.measured} ({figure.wanted})", flush=True
            )
            found.append(figure)
    today = date.today().isoformat()
    rows = _keyed(
        f"| {f.what} | {f.measured} | {f.wanted} | {'holds' if f.holds else '**misses**'}, {today} |" for f in found
    )
    told = {**(_rows() if names else {}), **rows}
    lines = [
        "# Benchmarks",
        "",
        f"Written by `make bench`: two cores, Python {platform.python_version()}, Debian's Chromium headless; each figure with the day on "
        "which it was measured. The API figures include HTTP over the loopback and the write to disk.",
        "",
        "| what | measured | wanted | |",
        "|---|---|---|---|",
        *told.values(),
    ]
    FILE.write_text("\n".join(lines) + "\n", encoding="utf-8")
    return 0 if all(f.holds for f in found) else 1


def _keyed(lines: Iterable[str]) -> dict[str, str]:
    """Lines by what they are of, whatever its seed and its counts were; of several alike by their order."""
    found: dict[str, str] = {}
    for line in lines:
        key = re.sub(r"[0-9]+", "#", line.split("|")[1]).strip()
        while key in found:
            key += "+"
        found[key] = line
    return found


def _rows() -> dict[str, str]:
    """The figures that stand."""
    return _keyed([line for line in FILE.read_text(encoding="utf-8").splitlines() if line.startswith("| ")][1:])


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
