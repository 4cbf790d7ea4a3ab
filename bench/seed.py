"""A data file with thousands of jobs in every standing, written through the records with the door's own facts."""

import random
import uuid
from datetime import datetime, timedelta
from pathlib import Path

from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Pack, PackPoint, TapPoint
from saldatura.job.facts import (
    ChargeBegun,
    ChargeEnd,
    Fact,
    Intake,
    IntakeFact,
    ReadingFact,
    Safety,
    SafetyFact,
    SetFact,
    SignOffFact,
    StageFact,
)
from saldatura.records import clock, facts
from saldatura.records.database import Database

PACK = Pack(chemistry="li_oxide", series=12, parallel=2, rated_ah=5.0, load_a=12.0)
SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
METER = Meter(percent=0.5, digits=2, resolution_v=0.001)
# Of each twelve jobs: how far they have come. A few charge, a few rest; a quarter is proved.
FATES = (
    "probe",
    "judge",
    "level",
    "charged",
    "proved",
    "proved",
    "proved",
    "signed",
    "signed",
    "signed",
    "held",
    "taken_in",
)


def seed(path: Path, count: int) -> Database:
    """Fill `path` with `count` jobs of twelve groups; every hundredth charges and every hundred and first rests."""
    db = Database(path)
    rng = random.Random(1)
    start = clock.now() - timedelta(hours=count)
    with db.write() as connection:
        for number in range(count):
            at = start + timedelta(hours=number)
            job = facts.open_job(connection, str(uuid.UUID(int=rng.getrandbits(128))), at)
            facts.append(connection, job, list(_story(number, at, rng)))
    return db


def _story(number: int, at: datetime, rng: random.Random) -> list[Fact]:
    fate = FATES[number % len(FATES)]
    intake = Intake(
        customer=f"Row team {number % 90}", pack_name=f"Vine shears {number}", serial=f"VS-{number:05d}", pack=PACK
    )
    told: list[Fact] = [IntakeFact(**dict(intake), id=-1, at=at)]
    if fate == "taken_in":
        return told
    told.append(SafetyFact(**dict(SAFE), id=-2, at=at))
    if fate == "held":
        told[-1] = SafetyFact(**{**dict(SAFE), "hot": True}, id=-2, at=at)
        return told
    told += [StageFact(stage="probe", id=-3, at=at), *_set("probe", -4, number, at, rng)]
    if fate == "probe" and number % 200:
        return told
    told.append(StageFact(stage="judge" if fate == "judge" else "level", id=-30, at=at))
    if fate in ("judge", "level") and number % 200:
        return told
    told.append(_begun(at))
    if number % 200 == 0:
        return told
    told.append(ChargeEnd(charge=-31, outcome="finished", volts=4.1, counted_ah=1.2, id=-32, at=at))
    if fate == "charged":
        return told
    told.append(StageFact(stage="prove", id=-33, at=at))
    later = at + timedelta(hours=12)
    told += _set("prove", -34, number, later, rng) if number % 303 else _set("prove", -34, number, later, rng)[:1]
    if fate == "signed":
        results: dict[str, object] = {}
        told.append(SignOffFact(by="Ilka", program_version="0", inputs={}, results=results, id=-60, at=later))
    return told


def _begun(at: datetime) -> ChargeBegun:
    return ChargeBegun(
        group=3, target="match", start_v=3.9, target_v=4.1, current_a=2.5, cutoff_a=0.25, forecast_s=4000,
        forecast_low_s=3500, forecast_high_s=4600, forecast_ah=1.2, look_again_s=[600, 3500, 4600], id=-31, at=at,
    )  # fmt: skip


def _set(purpose: str, number: int, job: int, at: datetime, rng: random.Random) -> list[Fact]:
    of = SetFact.model_validate({"purpose": purpose, "meter": METER, "rest_since": at, "id": number, "at": at})
    found: list[Fact] = [of]
    volts = 0.0
    for tap in range(1, 13):
        volts += rng.gauss(4.1, 0.003)
        key = f"seed-{purpose}-{job}-{tap}"
        found.append(
            ReadingFact(set_id=number, point=TapPoint(tap=tap), volts=round(volts, 3), key=key, id=number - tap, at=at)
        )
    key = f"seed-{purpose}-{job}-p"
    found.append(ReadingFact(set_id=number, point=PackPoint(), volts=round(volts, 3), key=key, id=number - 13, at=at))
    return found
