"""What came back: of packs that were handed over, how many are still out after so long, by what was done to them."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from math import isfinite
from typing import Any, Literal, get_args
from warnings import catch_warnings, simplefilter

from saldatura.battery.judge.tables import cause_words
from saldatura.battery.judge.types import CauseName
from saldatura.battery.limits.acceptance import SOON_DAYS
from saldatura.battery.plan.own_record import ShopMinutes, ShopReturns
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Value
from saldatura.battery.verdict import Symptom
from saldatura.job import words
from saldatura.job.facts import JobFacts, SignOffFact
from saldatura.job.facts.sign_off import ReopenedFact
from saldatura.job.words import SYMPTOMS

DAY_S = 86_400.0

ReturnedKind = RepairName | Literal["other_work", "measured_only"]

KIND_WORDS: Mapping[ReturnedKind, str] = {
    "clean_connector": "Connector cleaned", "mend_wire": "Wire mended", "mend_joint": "Joint mended", "level": "Levelled",
    "replace_groups": "Groups replaced", "donor_cells": "Donor cells", "recell": "All cells new", "drop_group": "One group fewer",
    "replace_board": "Board replaced", "repair_board": "Board mended", "transplant": "Block transplanted",
    "original": "A new original", "copy": "A copy", "retire": "Retired", "other_work": "Other work", "measured_only": "Measured only",
}  # fmt: skip

# What work on record says was done where no option of a plan was taken.
OF_WORK: Mapping[str, ReturnedKind] = {
    "cleaned": "clean_connector", "reseated": "clean_connector", "mended_wire": "mend_wire", "insulated": "mend_wire",
    "resoldered": "mend_joint", "rewelded": "mend_joint",
}  # fmt: skip


class Customer(Value):
    """Somebody whose packs were here: on how many jobs, and how they were reached last."""

    name: str
    contact: str
    jobs: int


class Outing(Value):
    """A pack that went out: after which kind of repair, when, and when it came back, if it did: on another job, or on its own again;
    with the cause confirmed then, or what was said. `minutes`: what it took at the bench.
    """

    job_id: int
    pack_name: str
    kind: ReturnedKind
    went: datetime
    back: datetime | None = None
    back_job: int | None = None
    cause: CauseName | None = None
    symptoms: list[Symptom] = []
    said: str = ""
    minutes: float | None = None
    simulated: bool = False


class KeptPoint(Value):
    """From that many days on this share is still out, with its 95 % band."""

    days: float
    kept: float
    low: float
    high: float


class Returned(Value):
    """A pack that came back: which, after how many days, on which job, and why."""

    job_id: int
    back_job: int
    pack_name: str
    days: float
    why: str


class ReturnCurve(Value):
    """Of one kind of repair: how many went, how many came back, what share is still out after so long, and what that says of a plan."""

    kind: ReturnedKind
    name: str
    went: int
    back: int
    longest_days: float
    points: list[KeptPoint]
    returned: list[Returned]
    says: str


class Returns(Value):
    """What came back, by kind of repair, the commonest kind first. `simulated`: no real pack went out yet, and these are virtual ones."""

    curves: list[ReturnCurve]
    went: int
    back: int
    simulated: bool = False


def outings_of(facts: JobFacts) -> list[Outing]:
    """How often the job's pack was handed back, and whether its own job was opened again after."""
    accepted = facts.accepted
    kind = _kind(
        accepted.repair if accepted else None, bool(facts.replaced), [w.did for w in facts.works], bool(facts.joined),
        any(run.end is not None and run.end.outcome == "finished" for run in facts.charges),
    )  # fmt: skip
    again = facts.of_kind(ReopenedFact)
    found = []
    for signed in facts.of_kind(SignOffFact):
        # What another shop handed back is no outing of this one.
        if signed.outcome == "handed_back" and signed.id > facts.theirs:
            opened = next((r for r in again if r.id > signed.id), None)
            back = None if opened is None else opened.at
            cause = None if opened is None else cause_of(facts, opened.id)
            found.append(Outing(
                job_id=facts.id, pack_name=facts.intake.pack_name, kind=kind, went=signed.at, back=back,
                back_job=None if opened is None else facts.id, cause=cause, said=opened.reason if opened is not None else "",
                minutes=signed.minutes if signed.minutes is not None else sum(w.minutes or 0 for w in facts.works) or None,
                simulated=signed.simulated,
            ))  # fmt: skip
    return found


def cause_of(facts: JobFacts, after: int = 0) -> CauseName | None:
    """What the job's technician confirmed last, by a fact after that number."""
    return next((r.cause for r in reversed(facts.rulings) if r.confirmed and r.id > after), None)


def _kind(accepted: str | None, replaced: bool, works: Iterable[str], joined: bool, levelled: bool) -> ReturnedKind:
    """Which repair a pack had: the option taken, else what the acts on record come to, the heaviest first."""
    if accepted in get_args(RepairName):
        return accepted  # type: ignore[return-value]
    if replaced:
        return "replace_groups"
    did = {OF_WORK.get(work, "other_work") for work in works} | ({"mend_wire"} if joined else set())
    order: tuple[ReturnedKind, ...] = ("mend_joint", "mend_wire", "clean_connector", "other_work")
    for kind in order:
        if kind in did:
            return kind
    return "level" if levelled else "measured_only"


def kept_curve(days: Sequence[float], back: Sequence[bool]) -> list[KeptPoint]:
    """The share still out, day by day: Kaplan and Meier's product limit, JASA 53 (1958), with the log-log band after Greenwood.

    `days`: how long each was out, or has been; `back`: whether it came back then. Empty for nothing observed.
    """
    # Slow to load, and only this page wants it.
    from scipy.stats import CensoredData, ecdf

    if not days:
        return []
    sf = ecdf(
        CensoredData(
            uncensored=[d for d, b in zip(days, back, strict=True) if b],
            right=[d for d, b in zip(days, back, strict=True) if not b],
        )
    ).sf
    found, last = [KeptPoint(days=0, kept=1, low=1, high=1)], max(days)
    if any(back):
        # With the last one back, or nobody, the log-log band has no width to tell: all is open then.
        with catch_warnings():
            simplefilter("ignore")
            band: Any = sf.confidence_interval(0.95, method="log-log")
        for q, share, low, high in zip(
            sf.quantiles, sf.probabilities, band.low.probabilities, band.high.probabilities, strict=True
        ):
            if share < found[-1].kept:
                known = isfinite(low) and isfinite(high)
                found.append(KeptPoint(days=q, kept=share, low=low if known else 0.0, high=high if known else 1.0))
    if last > found[-1].days:
        found.append(found[-1].model_copy(update={"days": float(last)}))
    return found


def returns_of(outings: Iterable[Outing], now: datetime) -> Returns:
    """Every kind of repair with its curve: of real packs, where any went out."""
    known = list(outings)
    real = [outing for outing in known if not outing.simulated]
    by_kind: dict[ReturnedKind, list[Outing]] = {}
    for outing in real or known:
        by_kind.setdefault(outing.kind, []).append(outing)
    curves = [_curve(kind, found, now) for kind, found in by_kind.items()]
    curves.sort(key=lambda c: (-c.went, c.kind))
    return Returns(
        curves=curves,
        went=sum(c.went for c in curves),
        back=sum(c.back for c in curves),
        simulated=bool(known) and not real,
    )


def _days(outing: Outing, now: datetime) -> float:
    return max(((outing.back or now) - outing.went).total_seconds() / DAY_S, 0.0)


def _curve(kind: ReturnedKind, found: Sequence[Outing], now: datetime) -> ReturnCurve:
    days, back = [_days(o, now) for o in found], [o.back is not None for o in found]
    returned = [
        Returned(job_id=o.job_id, back_job=o.back_job or o.job_id, pack_name=o.pack_name, days=round(_days(o, now), 1), why=_why(o))
        for o in found
        if o.back is not None
    ]  # fmt: skip
    return ReturnCurve(
        kind=kind, name=KIND_WORDS[kind], went=len(found), back=sum(back), longest_days=round(max(days), 1),
        points=kept_curve(days, back), returned=sorted(returned, key=lambda r: r.days), says=_says(found, now),
    )  # fmt: skip


def _why(outing: Outing) -> str:
    if outing.cause is not None:
        return cause_words()[outing.cause]
    return ", ".join(SYMPTOMS[s] for s in outing.symptoms) or outing.said or "not told"


def _says(found: Sequence[Outing], now: datetime) -> str:
    counted = shop_returns(found, now)
    back = sum(o.back is not None for o in found)
    if counted.tried == 0:
        return words.none_has_been_out()
    opening = words.were_out_days(counted.tried, counted.soon)
    later = back - counted.soon
    return opening + (words.later_later(later) if later else ".")


def shop_returns(found: Iterable[Outing], now: datetime) -> ShopReturns:
    """What a plan counts of them: of those out long enough to tell, how many were back soon; and how long all were out."""
    all_of = list(found)
    soon = sum(o.back is not None and _days(o, now) < SOON_DAYS for o in all_of)
    stayed = [o for o in all_of if _days(o, now) >= SOON_DAYS]
    return ShopReturns(
        tried=soon + len(stayed),
        soon=soon,
        later=sum(o.back is not None for o in stayed),
        years=sum(_days(o, now) for o in stayed) / 365.25,
    )


def counted(outings: Iterable[Outing], now: datetime) -> dict[RepairName, ShopReturns]:
    """The same by repair, as a plan takes it; what is no repair of a plan is left out."""
    return {kind: shop_returns(found, now) for kind, found in _by_repair(outings).items()}


def minutes_taken(outings: Iterable[Outing]) -> dict[RepairName, ShopMinutes]:
    """What each repair took the shop at the bench; packs of which no minutes were told are left out."""
    by_kind = _by_repair(o for o in outings if o.minutes)
    return {
        kind: ShopMinutes(jobs=len(found), mean_min=min(sum(o.minutes or 0 for o in found) / len(found), 10_000))
        for kind, found in by_kind.items()
    }


def _by_repair(outings: Iterable[Outing]) -> dict[RepairName, list[Outing]]:
    found: dict[RepairName, list[Outing]] = {}
    for outing in outings:
        if outing.kind in get_args(RepairName):
            found.setdefault(outing.kind, []).append(outing)  # type: ignore[arg-type]
    return found
