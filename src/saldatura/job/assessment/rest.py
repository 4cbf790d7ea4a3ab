"""What moved charge, and when: the one place that says which facts do. Any current breaks rest."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from saldatura.battery.quantities import Value
from saldatura.job.assessment.words import rest as words
from saldatura.job.facts import ChargeBegun, JobFacts, ReadingFact, SetFact, TakenBackFact
from saldatura.job.facts.charge import ChargeEnd
from saldatura.job.facts.measure import MeasureFact
from saldatura.ledger.fact import Fact

# A key pressed by mistake is taken back within this.
MISTAKEN = timedelta(minutes=2)


class LastCurrent(Value):
    """When a current last flowed, how much of it, and what it was, in words."""

    at: datetime
    amps: float
    what: str


@dataclass(frozen=True)
class Flow:
    """A current that flowed: by which fact it is known to have ended, when, how much, in words. `runs`: it has not ended.
    `moved`: the groups, as numbered then, whose charge it moved so far that what was read of them before does not hold.
    """

    fact: int
    at: datetime
    amps: float
    what: str
    runs: bool = False
    clock_s: float | None = None
    set_id: int | None = None
    moved: tuple[int, ...] | Literal["all"] = ()


def flows(facts: JobFacts) -> list[Flow]:
    """Every current on record, in the order of record, also through cells that are out of the pack since: charges, loads, steps, runs, full
    charges, counted discharges.
    """
    found: list[Flow] = []
    ends = {end.charge: end for end in facts.recorded(ChargeEnd)}
    for run in facts.recorded(ChargeBegun):
        what, end = words.charge_of_group(run.group), ends.get(run.id)
        if end is None:
            found.append(Flow(run.id, run.at, run.current_a, words.which_still_runs(what), runs=facts.sign_off is None))
        else:
            # It charged in another shop, and nobody knows how it ended: what the group read before does not hold.
            moved: tuple[int, ...] | Literal["all"] = (
                (run.group,) if end.volts is None and run.id <= facts.theirs else ()
            )
            if facts.intake.pack.strings > 1 and not facts.parted_at(end.id):
                # What it took lifted its string, and the string beside it drank from it.
                moved = "all"
            found.append(Flow(end.id, end.at, run.current_a, what, clock_s=end.clock_s, moved=moved))
    for back in facts.by_class.get(TakenBackFact, []):
        # Called off: a key pressed by mistake charged nothing, but one that stood for minutes may have.
        off = next((c for c in facts.by_class.get(ChargeBegun, []) if c.id == back.fact), None)  # type: ignore[attr-defined]
        if isinstance(off, ChargeBegun) and back.at - off.at > MISTAKEN:
            what = words.charge_of_group_which(off.group)
            found.append(Flow(back.id, back.at, off.current_a, what, clock_s=back.clock_s))
    found += _under_load(facts)
    for fact in facts.recorded(MeasureFact):
        flowed = fact.measure.current
        if flowed is not None:
            groups: tuple[int, ...] | Literal["all"] = (
                "all" if flowed.moves == "all" else () if flowed.moves is None else (flowed.moves,)
            )
            found.append(Flow(fact.id, fact.at, flowed.amps, flowed.what, clock_s=fact.clock_s, moved=groups))
    return sorted(found, key=lambda flow: flow.fact)


def _under_load(facts: JobFacts) -> list[Flow]:
    last: dict[int, ReadingFact] = {r.set_id: r for r in facts.recorded(ReadingFact)}
    found = []
    for reading_set in facts.recorded(SetFact):
        if reading_set.purpose == "load":
            r = last.get(reading_set.id)
            fact: Fact = r if r is not None else reading_set
            found.append(
                Flow(
                    fact.id,
                    fact.at,
                    abs(reading_set.amps),
                    words.SET_UNDER_LOAD,
                    clock_s=fact.clock_s,
                    set_id=reading_set.id,
                )
            )
    return found


def last_current(facts: JobFacts, now: datetime) -> LastCurrent | None:
    """The last current by the order of record, one that still runs before all; None where none is known."""
    currents = flows(facts)
    running = next((flow for flow in currents if flow.runs), None)
    if running is not None:
        return LastCurrent(at=now, amps=running.amps, what=running.what)
    return LastCurrent(at=currents[-1].at, amps=currents[-1].amps, what=currents[-1].what) if currents else None
