"""A data file with thousands of jobs, written in one transaction."""

import random
import uuid
from datetime import timedelta
from pathlib import Path

from saldatura.core.job import Intake, NewReading, NewSet, Safety
from saldatura.core.quantities import Pack, PackPoint, TapPoint
from saldatura.records import clock, jobs, readings
from saldatura.records.database import Database

SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
PACK = Pack(chemistry="li_oxide", series=12, parallel=2, rated_ah=5.0, load_a=12.0)


def seed(path: Path, count: int) -> Database:
    """Fill `path` with `count` jobs of twelve groups, each probed once."""
    db = Database(path)
    rng = random.Random(1)
    start = clock.now() - timedelta(days=900)
    with db.write() as connection:
        for number in range(count):
            at = start + timedelta(hours=4 * number)
            intake = Intake(
                customer=f"Row team {number % 90}",
                pack_name=f"Vine shears {number}",
                serial=f"VS-{number:05d}",
                pack=PACK,
            )
            job = jobs.open_job(connection, str(uuid.UUID(int=rng.getrandbits(128))), intake, at)
            jobs.add_safety(connection, job, SAFE, at)
            jobs.add_stage(connection, job, "probe", at)
            of = readings.add_set(connection, job, NewSet(rest_since=at), at)
            volts = 0.0
            for tap in range(1, 13):
                volts += rng.gauss(4.1, 0.003)
                new = NewReading(point=TapPoint(tap=tap), volts=round(volts, 3), key=f"seed-{number}-{tap}")
                readings.add_reading(connection, job, of, new, at)
            new = NewReading(point=PackPoint(), volts=round(volts, 3), key=f"seed-{number}-p")
            readings.add_reading(connection, job, of, new, at)
            if number % 7:
                jobs.add_stage(connection, job, rng.choice(["judge", "level", "prove"]), at)
    return db
