"""The shop's past: forty packs of two years, mended, proved at rest, signed and put in the archive; some came back."""

from collections.abc import Callable
from datetime import datetime, timedelta

import numpy as np

from saldatura.battery.pack import ContactFault, SensorFault, WireFault
from saldatura.battery.pack.faults import Fault
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.places import TapPlace
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Pack
from saldatura.demo.opened import NOTHING_FOUND
from saldatura.demo.teller import SEED, Teller
from saldatura.job.facts import Intake, NewAccepted, NewSet, NewSignOff
from saldatura.job.facts.pattern import NewLesson
from saldatura.job.facts.promised import NewPromise
from saldatura.job.facts.ruling import NewRuling
from saldatura.job.facts.sign_off import NewArchive
from saldatura.job.facts.work import NewWork, PartPlace, TerminalsPlace
from saldatura.records import lessons

JOBS, DAYS = 40, 730.0
# Before a harvest all want theirs levelled at once, and there is one charger for it.
HARVEST, HARVEST_DAY = range(30, 37), 95.0
CHARGER, CHARGER_A, PROMISED_H = "travel charger", 0.2, 30.0
# Of so many jobs one had its price agreed beforehand.
PRICED = 3
# Of those that went out, so many were here again.
CAME_BACK = 0.18
PUMP = Pack(chemistry="li_oxide", series=4, parallel=1, rated_ah=3.0, load_a=5.0)
LIGHT = Pack(chemistry="lfp", series=3, parallel=1, rated_ah=6.0, load_a=2.0)
PRUNER = Pack(chemistry="nmc", series=5, parallel=1, rated_ah=2.5, load_a=9.0)
OWNERS = (
    "Row team A",
    "Row team C",
    "Cellar master",
    "Press house",
    "Bottling line 1",
    "Dispatch",
    "Weather station",
    "Grafting shed",
)
PACKS: tuple[tuple[str, str, Pack], ...] = (("Sampling pump", "SP", PUMP), ("Row light", "RL", LIGHT), ("Cordless pruner", "CP", PRUNER))  # fmt: skip
BY = ("Ilka", "Bero")


def the_past(tell: Teller, now: datetime) -> dict[str, int]:
    """Everything of it, oldest first; the patterns that its jobs began, by what such packs are called."""
    learned: dict[str, int] = {}
    rng = np.random.default_rng(SEED + 900)
    back: list[tuple[float, Intake]] = []
    for number in range(JOBS):
        day = DAYS * (1 - number / JOBS) + 35.0
        if number in HARVEST:
            day = HARVEST_DAY
        again = next((came_back for came_back in back if came_back[0] >= day), None)
        if again is not None:
            back.remove(again)
        name, short, pack = PACKS[int(rng.integers(len(PACKS)))]
        intake = again[1] if again is not None else Intake(
            customer=str(rng.choice(OWNERS)), pack_name=f"{name} {number + 1}", serial=f"{short}-{2000 + number}", pack=pack, kind="garden",
            age_years=float(rng.integers(1, 7)),
        )  # fmt: skip
        story = STORIES[int(rng.choice(len(STORIES), p=[0.34, 0.28, 0.22, 0.16]))]
        start = now - timedelta(days=day, hours=float(rng.uniform(0, 8)))
        model = intake.pack_name.rstrip("0123456789 ")
        tell.pattern = learned.get(model)
        if number in HARVEST:
            # On a Monday, so that nobody waits for a weekend.
            first = now - timedelta(days=HARVEST_DAY)
            monday = (first - timedelta(days=first.weekday())).replace(hour=7, minute=30)
            story, start = _levelled, monday + timedelta(minutes=25 * (number - HARVEST.start))
        story(tell, intake, start, str(rng.choice(BY)), float(rng.integers(18, 70)), number)
        if model not in learned:
            # Nothing was known of it: what this one taught begins a pattern.
            lesson = lessons.lesson(tell.bench, tell.job)
            lines = [line.line for line in lesson.lines]
            lessons.take(tell.bench, tell.job, NewLesson(lines=lines, by="Ilka", title=model))
            learned[model] = lessons.lesson(tell.bench, tell.job).pattern or 0
            tell.add(NewArchive())
        if again is None and rng.random() < CAME_BACK:
            back.append((day - float(rng.uniform(20, 260)), intake))
        # Nobody has it on the bench any more.
        del tell.packs[tell.job]
    tell.pattern = None
    return learned


def _opened(
    tell: Teller, intake: Intake, start: datetime, faults: list[Fault], number: int, symptoms: list[str]
) -> list[float]:
    tell.begin(start)
    socs = tell.level_socs(intake.pack.series, 0.8)
    complaint = intake.model_copy(update={"symptoms": symptoms})
    tell.take_in(complaint, NOTHING_FOUND, PackSpec(soc=socs, faults=faults, seed=SEED + 910 + number))
    tell.later(minutes=7)
    tell.rested_set("probe", hours=12)
    tell.read_all(intake.pack, "taps")
    tell.go_to("judge")
    tell.later(minutes=10)
    return socs


def _agreed(tell: Teller, repair: RepairName, price: float, by: str, number: int) -> None:
    """The option the customer took, and for how much; of most jobs nobody wrote it down."""
    if number % PRICED == 0 and number not in HARVEST:
        tell.go_to("plan")
        tell.add(
            NewAccepted(repair=repair, price=price, by=by, note="The customer knows this repair from other packs.")
        )
        tell.later(minutes=4)


def _proved(tell: Teller, intake: Intake, by: str, minutes: float, ruling: NewRuling, rest_h: float = 12.0) -> None:
    tell.go_to("prove")
    tell.later(minutes=6)
    tell.add(NewSet(purpose="prove", rest_since=tell.at - timedelta(hours=rest_h), last_current_a=0.0))
    tell.read_all(intake.pack, "groups", "prove")
    tell.go_to("hand_over")
    tell.add(ruling)
    proof = tell.bench.view(tell.job).assessment.proof
    reason = "" if proof is not None and proof.result == "pass" else "It runs as the customer wants it."
    tell.add(NewSignOff(by=by, minutes=minutes, reason=reason))
    tell.later(hours=30)
    tell.add(NewArchive())


def _cleaned(tell: Teller, intake: Intake, start: datetime, by: str, minutes: float, number: int) -> None:
    socs = _opened(tell, intake, start, [SensorFault(kind="dirty", sensor=1, ohm=4000)], number, ["cuts_out"])
    _agreed(tell, "clean_connector", 38.0, by, number)
    tell.again(PackSpec(soc=socs, seed=SEED + 910 + number))
    tell.add(NewWork(did="cleaned", place=PartPlace(part="sensor plug"), by=by, minutes=minutes / 2))
    _proved(tell, intake, by, minutes, NewRuling(cause="sensor_circuit", groups=[], confirmed=True, by=by))


def _wired(tell: Teller, intake: Intake, start: datetime, by: str, minutes: float, number: int) -> None:
    tap = 1 + number % (intake.pack.series - 1)
    broken = WireFault(kind="open", tap=tap, to_lower_ohm=2.2e6, to_upper_ohm=6.8e6)
    socs = _opened(tell, intake, start, [broken], number, ["charger_refuses"])
    tell.again(PackSpec(soc=socs, seed=SEED + 910 + number))
    tell.add(NewWork(did="mended_wire", place=TapPlace(tap=tap), by=by, minutes=minutes / 2))
    _proved(tell, intake, by, minutes, NewRuling(cause="open_sense_wire", groups=[], confirmed=True, by=by))


def _soldered(tell: Teller, intake: Intake, start: datetime, by: str, minutes: float, number: int) -> None:
    socs = _opened(tell, intake, start, [ContactFault(kind="main_contact", ohm=0.2)], number, ["dies_under_load"])
    _agreed(tell, "mend_joint", 52.0, by, number)
    tell.again(PackSpec(soc=socs, seed=SEED + 910 + number))
    tell.add(NewWork(did="resoldered", place=TerminalsPlace(), by=by, minutes=minutes / 2))
    _proved(tell, intake, by, minutes, NewRuling(cause="main_lead", groups=[], confirmed=True, by=by))


def _levelled(tell: Teller, intake: Intake, start: datetime, by: str, minutes: float, number: int) -> None:
    low = 1 + number % intake.pack.series
    tell.begin(start)
    socs = tell.level_socs(intake.pack.series, 0.85)
    socs[low - 1] = 0.62
    complaint = intake.model_copy(update={"symptoms": ["short_run"]})
    tell.take_in(complaint, NOTHING_FOUND, PackSpec(soc=socs, seed=SEED + 910 + number))
    tell.later(minutes=7)
    tell.rested_set("probe", hours=12)
    tell.read_all(intake.pack, "taps")
    tell.go_to("judge")
    tell.go_to("level")
    if number in HARVEST:
        ready = start + timedelta(hours=PROMISED_H)
        tell.add(NewPromise(ready=ready, chance=0.8, by=by))
        # The charger is on the pack before it.
        tell.go(max(tell.at, tell.charger_free))
        tell.charge(low, CHARGER_A, CHARGER)
    else:
        tell.charge(low, intake.pack.rated_ah / 2)
    tell.charger_free = tell.at + timedelta(minutes=20)
    tell.later(hours=15)
    _proved(tell, intake, by, minutes, NewRuling(cause="imbalance", groups=[low], confirmed=True, by=by), 15.0)


Story = Callable[[Teller, Intake, datetime, str, float, int], None]
STORIES: tuple[Story, ...] = (_cleaned, _wired, _soldered, _levelled)
