"""Joining loose leads to their connector, one at a time: which is next, what its pin must read, what a wrong value means."""

from typing import Literal

from saldatura.battery.join.words.joints import pin_says
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.battery.string.lead_types import ZERO_V, IdentifiedLeads, Lead, LeadsRequest, PlacedLead
from saldatura.battery.string.leads import identify_leads
from saldatura.job import words
from saldatura.job.facts import JobFacts, JoinFact


class Pin(Value):
    """A pin of the connector: the lead that belongs there, what it must read against pin 0, and what it read."""

    tap: int
    lead: str | None
    expected_v: float | None
    read_v: float | None
    state: Literal["waiting", "next", "joined", "wrong", "missing"]


# A pin that reads wrong, or what keeps the leads from being told apart.
JoinStop = Literal[
    "wrong_pin", "no_lead_at_minus", "implausible_gap", "duplicate_potential", "floating_lead", "missing_tap"
]


class Joining(Value):
    """The leads as identified, and how far their joining has come. `stop` is why nothing more may be joined now, `stopped_by` its code.

    `measuring`: the leads are still being measured, and none is to be joined before they are told apart.
    """

    leads: list[Lead]
    identified: IdentifiedLeads | None
    pins: list[Pin]
    next: PlacedLead | None
    stop: str | None
    stopped_by: JoinStop | None
    done: bool
    measuring: bool = False


def joining_of(facts: JobFacts, policy: Policy) -> Joining | None:
    """Where the leads stand; None while none was read."""
    leads = _leads(facts)
    if not facts.leads:
        return None
    pack = facts.intake.pack
    if len(leads) < 2 or all(abs(lead.volts) > ZERO_V for lead in leads):
        alone = len(leads) < 2
        return Joining(
            leads=leads, identified=None, pins=[], next=None, stop=None if alone else words.NO_LEAD_READS_NOTE,
            stopped_by=None if alone else "no_lead_at_minus", done=False, measuring=True,
        )  # fmt: skip
    found = identify_leads(LeadsRequest(chemistry=pack.chemistry, series=pack.series, leads=leads))
    last: dict[int, JoinFact] = {join.tap: join for join in facts.joined}
    unclear = _not_yet(
        found, {fact.lead for fact in facts.leads if fact.corrects} | {lead.lead for lead in leads if lead.again_v}
    )
    wrong = next((s for join in last.values() if (s := _wrong(join, found, policy)) is not None), None)
    stop, stopped_by = (wrong, "wrong_pin") if wrong else unclear or (None, None)
    upcoming = None if stop else next((p for p in found.order if p.tap not in last), None)
    placed = {p.tap: p for p in found.order}
    pins = [_pin(tap, placed.get(tap), last.get(tap), found, upcoming, policy) for tap in range(pack.series + 1)]
    done = stop is None and upcoming is None and len(placed) == pack.series + 1
    return Joining(
        leads=leads, identified=found, pins=pins, next=upcoming, stop=stop, stopped_by=stopped_by, done=done,
        measuring=unclear is not None,
    )  # fmt: skip


def _leads(facts: JobFacts) -> list[Lead]:
    values: dict[str, list[float]] = {}
    for fact in facts.leads:
        if fact.volts is None:
            values.pop(fact.lead, None)
        elif fact.corrects:
            # It keeps its place in the list.
            values[fact.lead] = [fact.volts]
        else:
            values.setdefault(fact.lead, []).append(fact.volts)
    return [Lead(lead=name, volts=volts[-1], again_v=volts[-4:-1]) for name, volts in values.items()]


def _pin(
    tap: int,
    placed: PlacedLead | None,
    join: JoinFact | None,
    found: IdentifiedLeads,
    upcoming: PlacedLead | None,
    policy: Policy,
) -> Pin:
    state: Literal["waiting", "next", "joined", "wrong", "missing"] = "waiting"
    if join is not None:
        state = "wrong" if _wrong(join, found, policy) else "joined"
    elif placed is None:
        state = "missing"
    elif placed == upcoming:
        state = "next"
    return Pin(
        tap=tap,
        lead=placed.lead if placed else None,
        expected_v=placed.expected_v if placed else None,
        read_v=join.volts if join else None,
        state=state,
    )


def _not_yet(found: IdentifiedLeads, read_twice: set[str]) -> tuple[str, JoinStop] | None:
    for finding in found.findings:
        # A group may have fallen so low; two leads that read the same once more say so.
        if finding.kind == "implausible_gap" and not {finding.lower, finding.upper} <= read_twice:
            return words.nothing_is_joined_yet(finding.because, finding.lower, finding.upper), finding.kind
        if finding.kind == "duplicate_potential":
            return words.nothing_is_joined_yet_2(finding.because), finding.kind
        if finding.kind == "floating_lead":
            return words.nothing_is_joined_yet_find(finding.because), finding.kind
    missing = [f.tap for f in found.findings if f.kind == "missing_tap"]
    if missing:
        return words.nothing_is_joined_yet_no(missing), "missing_tap"
    return None


def _wrong(join: JoinFact, found: IdentifiedLeads, policy: Policy) -> str | None:
    placed = next((p for p in found.order if p.tap == join.tap), None)
    if placed is None:
        return None
    others = {words.tap_so_lead(p.tap, p.lead): p.expected_v for p in found.order}
    return pin_says(f"Pin {join.tap}", join.volts, placed.expected_v, others, policy.pin_v)
