"""What has to be waited for: open charges, and the rest before a proving set."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal

from pydantic import model_validator

from saldatura.battery.charge.fit import ChargeFit
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.again import least_rest_s, rest_due_s
from saldatura.job.assessment.block_work import waits_of
from saldatura.job.assessment.looked import sharpened
from saldatura.job.assessment.rested import rested_s
from saldatura.job.assessment.watched import open_waits
from saldatura.job.facts import ChargeRun, JobFacts
from saldatura.job.minding.charge import AlarmKind, ChargeWatch
from saldatura.job.minding.cost import COST_OF, COST_OF_WAIT, Cost
from saldatura.job.standing import may_rest
from saldatura.ledger.clock import PackClock, ours, own_seconds


class Waiting(Value):
    """Something that has to be waited for, with when it may be and when it will surely be done, on our clock.

    `simulated`: the pack is a virtual one, on a clock of its own. `cost`: what it costs if nobody comes when it is over.
    """

    job_id: int
    pack_name: str
    kind: Literal["charge", "rest", "cure", "cool", "capacity", "self_discharge"]
    group: int | None
    charge_id: int | None
    since: datetime
    done_low: datetime
    done: datetime
    done_high: datetime
    look_again: datetime | None
    simulated: PackClock | None = None
    cost: Cost = "time"

    @model_validator(mode="before")
    @classmethod
    def _costs(cls, given: Any) -> Any:
        return {"cost": COST_OF_WAIT.get(str(given.get("kind")), "time"), **given} if isinstance(given, dict) else given


# What stands on the rail until somebody ends it, due or not.
LASTING = ("charge", "capacity", "self_discharge")


class Driving(Value):
    """An instrument that drives a pack: nobody has to wait for it, but it must not be forgotten."""

    job_id: int
    pack_name: str
    what: str
    amps: float
    stops_in_s: float | None


class Ringing(Value):
    """What rings of a running charge, or of a run under a load, which has no group and no charge, until somebody has seen it.
    `cost`: what it costs if it is missed.
    """

    job_id: int
    pack_name: str
    group: int | None
    charge_id: int | None
    kind: AlarmKind
    says: str
    at: datetime
    cost: Cost = "danger"

    @model_validator(mode="before")
    @classmethod
    def _costs(cls, given: Any) -> Any:
        return (
            {"cost": COST_OF.get(given["kind"], "danger") if "kind" in given else "danger", **given}
            if isinstance(given, dict)
            else given
        )


class NotOff(Value):
    """An instrument that was told to switch off and has not said that it is, since when; also of a charge that has ended since, or
    of a job that is held, signed or taken back.
    """

    id: int
    job_id: int
    group: int | None
    charge_id: int | None
    name: str
    since: datetime
    says: str


class WaitingList(Value):
    """All that is waited for, soonest first, what drives a pack, what rings, and what would not go off. `unread`: jobs of which it
    cannot be told, each with the reason in a line. `clock`: what is to be known of this machine's clock, where it jumped.
    """

    waiting: list[Waiting]
    driving: list[Driving] = []
    ringing: list[Ringing] = []
    not_off: list[NotOff] = []
    unread: list[str] = []
    clock: str = ""


def waiting_of(facts: JobFacts, now: datetime, clock: PackClock | None, policy: Policy) -> list[Waiting]:
    """Open charges, and the rest after the last one while it is still needed. On a real pack's clock, which is ours, all of it
    stands still between facts; only what is next to look at moves.
    """
    if clock is not None:
        return _waiting(facts, now, clock, policy)
    held = facts.memo.get("waiting")
    if held is None or held[0] != (facts.last_id, policy):
        held = ((facts.last_id, policy), _waiting(facts, now, None, policy))
        facts.memo["waiting"] = held
    found: list[Waiting] = [
        w for w in held[1] if w.kind in LASTING or (w.done > now if w.kind != "rest" else _still(facts, w, now))
    ]
    return [w if w.look_again is None or w.look_again > now else _looked(facts, w, now, policy) for w in found]


def _looked(facts: JobFacts, w: Waiting, now: datetime, policy: Policy) -> Waiting:
    run = next(run for run in facts.charges if run.id == w.charge_id)
    return _charging(facts, run, now, None, policy)


def _waiting(facts: JobFacts, now: datetime, clock: PackClock | None, policy: Policy) -> list[Waiting]:
    # What is quarantined is not waited for: its charger comes off, and Take in says so.
    running = [] if facts.quarantine else [run for run in facts.charges if run.end is None]
    waiting = [_charging(facts, run, now, clock, policy) for run in running]
    waiting += _curing(facts, now, clock)
    waiting += _watched(facts, now, clock)
    rest = _resting(facts, now, clock, policy)
    return waiting if rest is None or not _still(facts, rest, now) else [*waiting, rest]


def _resting(facts: JobFacts, now: datetime, clock: PackClock | None, policy: Policy) -> Waiting | None:
    """The rest before the last proving set, where nothing of it is read yet, or something was before it was over."""
    reading_set = facts.last_set("prove")
    if reading_set is None or reading_set.rest_since is None or not may_rest(facts):
        return None
    due_s, least_s = rest_due_s(facts, reading_set, policy), least_rest_s(facts, reading_set)
    if least_s is not None and least_s >= due_s:
        return None
    passed_s = rested_s(facts, reading_set, now, clock.clock_s if clock else None) or 0.0
    done = ours(due_s - passed_s, now, clock)
    return Waiting(
        job_id=facts.id,
        pack_name=facts.intake.pack_name,
        kind="rest",
        group=None,
        charge_id=None,
        since=ours(-passed_s, now, clock),
        done_low=done,
        done=done,
        done_high=done,
        look_again=None,
        simulated=clock,
    )


def _curing(facts: JobFacts, now: datetime, clock: PackClock | None) -> list[Waiting]:
    """What cures or cools after a step of a work list."""
    if facts.quarantine or facts.sign_off is not None:
        return []
    return [
        Waiting(
            job_id=facts.id, pack_name=facts.intake.pack_name, kind=w.kind, group=None, charge_id=None, since=w.since,
            done_low=w.until, done=w.until, done_high=w.until, look_again=None, simulated=clock,
        )
        for w in waits_of(facts, now, clock)
    ]  # fmt: skip


def _watched(facts: JobFacts, now: datetime, clock: PackClock | None) -> list[Waiting]:
    """Capacity tests and watches on self-discharge; they stand until somebody says what came of them."""
    found = []
    for wait in open_waits(facts):
        passed_s = own_seconds(wait.at, wait.clock_s, now, clock.clock_s if clock else None)
        low, done, high = (ours(s - passed_s, now, clock) for s in (wait.low_s, wait.lasts_s, wait.high_s))
        found.append(
            Waiting(
                job_id=facts.id, pack_name=facts.intake.pack_name, kind=wait.kind, group=wait.group, charge_id=None,
                since=ours(-passed_s, now, clock), done_low=low, done=done, done_high=high, look_again=None, simulated=clock,
            )
        )  # fmt: skip
    return found


def _still(facts: JobFacts, rest: Waiting, now: datetime) -> bool:
    """Whether a rest is still waited for: until it is over; after that only where nothing is read at all."""
    reading_set = facts.last_set("prove")
    return rest.done > now or reading_set is None or not facts.standing(reading_set.id)


def refitted(
    facts: JobFacts, w: Waiting, fits: Mapping[int, ChargeWatch], now: datetime, clock: PackClock | None, policy: Policy
) -> Waiting:
    """A charge that is waited for, by what its log says where the program drives it; anything else as it is."""
    watch = fits.get(w.charge_id) if w.charge_id is not None else None
    if watch is None or watch.fit is None or not watch.fit.fits:
        return w
    run = next(run for run in facts.charges if run.id == w.charge_id)
    return _charging(facts, run, now, clock, policy, watch.fit)


def _charging(
    facts: JobFacts,
    run: ChargeRun,
    now: datetime,
    clock: PackClock | None,
    policy: Policy,
    fit: ChargeFit | None = None,
) -> Waiting:
    seen = fit or sharpened(facts, run, policy)
    low_s, done_s, high_s = (
        (seen.duration_low_s, seen.duration_s, seen.duration_high_s)
        if seen is not None and seen.fits
        else (run.forecast_low_s, run.forecast_s, run.forecast_high_s)
    )
    passed_s = own_seconds(run.at, run.clock_s, now, clock.clock_s if clock else None)
    # The range that is believed now says when it may be done: looks of an older forecast would come after the end.
    marks = {*(s for s in run.look_again_s if s < low_s), low_s, done_s, high_s}
    looks = [ours(s - passed_s, now, clock) for s in sorted(marks)]
    if run.stopped is not None:
        # It is off: what is waited for is the reading that ends it.
        low_s = done_s = high_s = min(own_seconds(run.at, run.clock_s, run.stopped.at, run.stopped.clock_s), passed_s)
        looks = []
    return Waiting(
        job_id=facts.id,
        pack_name=facts.intake.pack_name,
        kind="charge",
        group=run.group,
        charge_id=run.id,
        since=ours(-passed_s, now, clock),
        done_low=ours(low_s - passed_s, now, clock),
        done=ours(done_s - passed_s, now, clock),
        done_high=ours(high_s - passed_s, now, clock),
        look_again=next((t for t in looks if t > now), None),
        simulated=clock,
    )
