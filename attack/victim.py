"""A program that works until it is killed: what it has acknowledged it prints."""

import itertools
import json
import shutil
import sys
import threading
import uuid
from pathlib import Path

from saldatura.battery.quantities import GroupPoint, Pack, TapPoint
from saldatura.formats import job_file
from saldatura.job.facts import EndOfCharge, Intake, NewCharge, NewReading, Safety
from saldatura.records import data_file
from saldatura.records.bench import Bench
from saldatura.records.database import Database

SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
PACK = Pack(chemistry="nmc", series=3, parallel=1, rated_ah=2.5)


def taken_in(bench: Bench) -> int:
    """A job of three groups, one low."""
    job = bench.take_in(Intake(customer="Attack", pack_name="Attack", pack=PACK), SAFE).facts.id
    for group, volts in ((1, 3.9), (2, 3.6), (3, 3.9)):
        bench.add(job, NewReading(point=GroupPoint(group=group), volts=volts, key=f"first-{job}-{group}"))
    return job


_telling = threading.Lock()


def acknowledge(what: object) -> None:
    """Tell that it is done: it was on the disk before."""
    with _telling:
        print(what, flush=True)


def write(data: Path) -> None:
    """Readings of four hands on one job, so that they share commits; a job of its own for each, now and then."""
    bench = Bench(Database(data))
    shared, own = taken_in(bench), uuid.uuid4().hex[:8]
    acknowledge("begun")

    def hand(number: int) -> None:
        for n in itertools.count():
            job = taken_in(bench) if n % 20 == 19 else shared
            key = f"{own}-{number}-{n:06d}"
            bench.add(job, NewReading(point=TapPoint(tap=1 + n % 3), volts=3.9, key=key))
            acknowledge(f"reading {key}")

    hands = [threading.Thread(target=hand, args=(number,)) for number in range(4)]
    for one in hands:
        one.start()
    for one in hands:
        one.join()


def bring_in(data: Path) -> None:
    """The same job again and again, each under a name of its own."""
    bench = Bench(Database(data))
    document = bench.export(taken_in(bench)).model_dump(mode="json")
    acknowledge("begun")
    while True:
        document["job"]["uid"] = str(uuid.uuid4())
        document["sha256"] = job_file._digest(document["job"])
        bench.bring_in(json.loads(json.dumps(document)))
        acknowledge(f"job {document['job']['uid']}")


def charging(data: Path) -> None:
    """Charges begun and ended."""
    bench = Bench(Database(data))
    acknowledge("begun")
    while True:
        job = taken_in(bench)
        run = bench.add(job, NewCharge(group=2, target="match")).facts.charges[-1].id
        acknowledge(f"charge {run}")
        bench.add(job, EndOfCharge(charge=run, outcome="finished", volts=3.88, counted_ah=1.0))
        acknowledge(f"end {run}")


def backup(data: Path) -> None:
    """Backups beside the data, while readings come."""
    bench = Bench(Database(data))
    taken_in(bench)
    acknowledge("begun")
    for n in itertools.count():
        bench.db.backup(data.with_name(f"saved-{n % 3}.sqlite3"))
        acknowledge(f"saved {n % 3}")


def restore(data: Path) -> None:
    """A backup put in the data's place, again and again."""
    acknowledge("begun")
    while True:
        data_file.restore(data.with_name("kept.sqlite3"), data)
        for old in data.parent.glob("*.before-restore*"):
            shutil.rmtree(old, ignore_errors=True) if old.is_dir() else old.unlink(missing_ok=True)


def later_steps() -> data_file.Steps:
    """The migrations of a program that is to come: its last one takes a while."""
    steps = data_file.migrations()
    rows = "WITH RECURSIVE n(k) AS (SELECT 1 UNION ALL SELECT k + 1 FROM n WHERE k < 2000) SELECT hex(randomblob(500)) FROM n"
    sql = f"CREATE TABLE later (id INTEGER PRIMARY KEY, body TEXT) STRICT; INSERT INTO later (body) {rows};"
    return [*steps, (steps[-1][0] + 1, sql)]


def migrate(data: Path) -> None:
    """A file brought up to the schema of a later program, again and again."""
    acknowledge("begun")
    while True:
        shutil.copy(data.with_name("earlier.sqlite3"), data)
        for stale in ("-wal", "-shm"):
            Path(f"{data}{stale}").unlink(missing_ok=True)
        acknowledge("copied")
        Database(data, steps=later_steps()).close()
        acknowledge("migrated")


WORK = {
    "write": write,
    "import": bring_in,
    "charging": charging,
    "backup": backup,
    "restore": restore,
    "migrate": migrate,
}

if __name__ == "__main__":
    WORK[sys.argv[1]](Path(sys.argv[2]))
