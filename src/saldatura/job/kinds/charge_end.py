"""A charge ends."""

from saldatura.battery.errors import Impossible
from saldatura.job.facts import ChargeBegun, ChargeEnd, EndOfCharge, JobFacts, ReadingFact, SetFact
from saldatura.job.gates.charge import runs
from saldatura.job.gates.common import not_signed
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.kind import Kind


def end_of_charge(facts: JobFacts, new: EndOfCharge) -> None:
    """A charge that runs; also in quarantine, where ending it is the first thing to do, and no voltage is read."""
    not_signed(facts)
    if new.volts is None and not facts.quarantine:
        raise Impossible(
            "volts", "volts_missing", "give what the group reads now; only a pack in quarantine is left alone"
        )
    runs(facts, new.charge)


def unfollowed(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """After the end of a charge readings and charges go by it; a stand-in charger is off already."""
    if facts.simulated:
        return StandsAgainst("charger_is_off", "the stand-in charger is off; begin another charge")
    later = [kind for kind in (ReadingFact, SetFact, ChargeBegun) if any(f.id > fact.id for f in facts.of_kind(kind))]
    return StandsAgainst("followed", "it was read or charged again since") if later else None


def record_end(facts: JobFacts, new: EndOfCharge, moment: Moment) -> list[Fact]:
    """An end; of a charge that the program drove, with what it counted itself where nobody read a counter."""
    run = next((run for run in facts.charges if run.id == new.charge), None)
    counted = new.counted_ah
    if counted is None and run is not None and run.stopped is not None:
        counted = run.stopped.ah
    return [ChargeEnd(**{**dict(new), "counted_ah": counted}, **moment.stamp)]


KIND = Kind(
    "charge_end",
    ChargeEnd,
    EndOfCharge,
    gate=lambda facts, new, _m: end_of_charge(facts, new),
    make=record_end,
    sent_from=lambda fact: EndOfCharge.model_construct(
        **{name: getattr(fact, name) for name in EndOfCharge.model_fields}
    ),
    refs=("charge",),
    closed=True,
    against=unfollowed,
)
