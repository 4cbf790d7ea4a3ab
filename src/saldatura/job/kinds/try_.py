"""Record what was tried, and what came of it."""

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.measures.evidence import Swap, sites
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, NewTry, TryFact
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import sites_exist, work
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def tried(facts: JobFacts, new: NewTry) -> None:
    """A try on a pack that may be worked on."""
    work(facts)
    sites_exist(facts, sites(new.evidence))


def record_try(facts: JobFacts, new: NewTry, moment: Moment) -> list[Fact]:
    """A try; one with a part of the shop, with how long ago that was proved. Raises Impossible, Refused."""
    if new.part is None:
        return [TryFact(**dict(new), **moment.stamp)]
    part = next((p for p in moment.references() if p.id == new.part), None)
    if part is None or not isinstance(new.evidence, Swap) or part.what != new.evidence.put:
        what = f", which is a {part.what}" if part is not None else ""
        raise Impossible(
            "part",
            "no_such_part",
            f"the shop has no such reference part {new.part}{what}; Instruments lists those there are",
        )
    if not part.sound:
        raise errors.Refused(
            "reference",
            "part_at_fault",
            f"{part.name} was found at fault ({part.proved_by}): a swap with it tells nothing. Prove it first",
        )
    days = (
        None
        if part.proved_at is None or part.due is not None
        else (moment.at - part.proved_at).total_seconds() / 86_400
    )
    reference = new.evidence.reference.model_copy(update={"proved_days_ago": None if days is None else max(days, 0.0)})
    evidence = new.evidence.model_copy(update={"reference": reference})
    return [TryFact(**{**dict(new), "evidence": evidence}, **moment.stamp)]


KIND = Kind(
    "try",
    TryFact,
    NewTry,
    gate=lambda facts, new, _m: tried(facts, new),
    make=record_try,
    fits=lambda facts, fact, _b: gates.sites_exist(facts, sites(fact.evidence)),
    against=taking_back.nothing,
    path="tries",
    summary="Record what was tried, and what came of it.",
)
