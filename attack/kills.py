"""Kills at random moments: of writing, import, charging, backup, restore, migration. Nothing acknowledged is lost, every file opens."""

import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections import Counter
from contextlib import closing
from pathlib import Path

from attack.victim import WORK, later_steps, taken_in
from saldatura.records import data_file, hold
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.records.soundness import told_of

ROOT = Path(__file__).parents[1]


def _prepared(folder: Path, work: str) -> Path:
    data = folder / "data.sqlite3"
    if work == "restore":
        for name, jobs in (("kept.sqlite3", 1), ("data.sqlite3", 2)):
            bench = Bench(Database(folder / name))
            for _ in range(jobs):
                taken_in(bench)
            bench.db.close()
    if work == "migrate":
        with closing(sqlite3.connect(folder / "earlier.sqlite3")) as db:
            for number, sql in data_file.migrations():
                db.executescript(f"BEGIN;\n{sql}\nPRAGMA user_version = {number};\nCOMMIT;")
    return data


def kill_once(work: str, rng: random.Random) -> tuple[int, list[str]]:
    """Let it work, kill it, look: what it had acknowledged, and what is wrong."""
    with tempfile.TemporaryDirectory(prefix="kill-") as name:
        data = _prepared(Path(name), work)
        victim = subprocess.Popen(
            [sys.executable, "-m", "attack.victim", work, str(data)], cwd=ROOT, stdout=subprocess.PIPE, text=True,
            stderr=subprocess.PIPE,
        )  # fmt: skip
        assert victim.stdout is not None
        assert victim.stderr is not None
        if victim.stdout.readline().strip() != "begun":
            return 0, [f"{work}: it did not begin: {victim.stderr.read()[-400:]}"]
        time.sleep(rng.uniform(0.0, 0.35))
        os.kill(victim.pid, signal.SIGKILL)
        said = [line for line in victim.stdout.read().splitlines() if line]
        complained = victim.stderr.read()
        victim.wait()
        wrong = [f"{work}: it failed before it was killed: {complained[-300:]}"] if "Error" in complained else []
        return len(said), wrong + [f"{work}: {what}" for what in _lost(work, data, said)]


def _lost(work: str, data: Path, said: list[str]) -> list[str]:
    wrong: list[str] = []
    try:
        held = Database(data, steps=later_steps() if work == "migrate" else None)
    except hold.DataFileError as error:
        # Killed between two copies of the earlier file there may be half a copy; that is the attack's own, not the program's.
        return [] if work == "migrate" and (not said or said[-1] == "migrated") else [f"it does not open: {error}"]
    db = held.read()
    if db.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
        wrong.append("it is not sound")
    tables = {"reading": "SELECT 1 FROM reading WHERE key = ?", "job": "SELECT 1 FROM job WHERE uid = ?"}
    for line in said:
        what, _, name = line.partition(" ")
        if what in tables and not db.execute(tables[what], (name,)).fetchone():
            wrong.append(f"{line} was acknowledged and is gone")
        if what in ("charge", "end"):
            kind = "charge" if what == "charge" else "charge_end"
            found = db.execute(
                "SELECT 1 FROM fact WHERE kind = ? AND (id = ? OR json_extract(body, '$.charge') = ?)",
                (kind, int(name), int(name)),
            ).fetchone()
            if not found:
                wrong.append(f"{line} was acknowledged and is gone")
        if what == "saved" and not told_of(data.with_name(f"saved-{name}.sqlite3"))[-1].startswith("It is sound"):
            wrong.append(f"backup {name} is not sound")
    if work == "restore" and db.execute("SELECT count(*) FROM job").fetchone()[0] not in (1, 2):
        wrong.append("it is neither the old shop nor the restored one")
    held.close()
    return wrong


def kills(count: int, seed: int) -> tuple[Counter[str], int, list[str]]:
    """So many kills, the kinds of work in turn: how many of each, what was acknowledged in all, and what is wrong."""
    rng, done, acknowledged, wrong = random.Random(seed), Counter[str](), 0, list[str]()
    for n in range(count):
        work = list(WORK)[n % len(WORK)]
        said, found = kill_once(work, rng)
        done[work] += 1
        acknowledged += said
        wrong += found
    return done, acknowledged, wrong
