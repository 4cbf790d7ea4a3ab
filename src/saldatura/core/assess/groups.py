"""What is known of each group now: its rest voltage, what was measured of it, and whether it may be charged."""

from saldatura.core.assess.figures import Figure, capacities, replaced_at, resistances
from saldatura.core.assess.sets import Assessed, compare_sets, judged_set
from saldatura.core.facts import ChargeRun, JobFacts, SetFact
from saldatura.core.measure import CapacityMeasure
from saldatura.core.policy import Policy
from saldatura.core.proof_tests import FullChargeMeasure, LoadRunMeasure
from saldatura.core.quantities import Value, span_of, volts_words

# States that nothing lifts but new cells.
GRAVE = ("reversed", "dead", "under_floor")
# Beyond this a voltage is not one group's.
MOST_GROUP_V = 10.0


class GroupNow(Value):
    """A group as it is known now. `since_charge`: its volts were read after the charge of that number.

    `capacity_ah`, `resistance_ohm` (10 s) and `leak_mah_day` are there where they were measured since its cells are in.
    """

    group: int
    volts: float | None
    since_charge: int | None = None
    capacity_ah: Figure | None = None
    resistance_ohm: Figure | None = None
    leak_mah_day: Figure | None = None
    replaced: bool = False
    barred: str | None = None
    wants_cells: bool = False


def groups_now(facts: JobFacts, probe: Assessed | None, policy: Policy) -> list[GroupNow]:
    """Every group as it is known now, by number."""
    volts, since = group_volts(facts, probe), charged_since(facts, probe)
    condemned_ = condemned(facts, probe, policy)
    doubtful = doubtful_groups(facts, probe)
    new = replaced_at(facts)
    capacity, resistance, leak = capacities(facts), resistances(facts), _leaks(facts, new, policy)
    return [
        GroupNow(
            group=k,
            volts=volts.get(k),
            since_charge=since.get(k),
            capacity_ah=capacity.get(k),
            resistance_ohm=resistance.get(k),
            leak_mah_day=leak.get(k),
            replaced=k in new,
            barred=condemned_.get(k) or doubtful.get(k),
            wants_cells=k in condemned_,
        )
        for k in range(1, facts.intake.pack.series + 1)
    ]


def charged_since(facts: JobFacts, probe: Assessed | None) -> dict[int, int]:
    """Groups read after a charge that ended after the probe set was opened, by the order of record, and that charge."""
    if probe is None:
        return {}
    return {run.group: run.id for run in facts.charges if _read_since(run, probe)}


def group_volts(facts: JobFacts, probe: Assessed | None) -> dict[int, float]:
    """Rest voltage of each group as known now: the last probe set, overridden by what was read after a charge."""
    if probe is None:
        return {}
    known = {g.group: g.volts for g in probe.reconciled.groups if g.volts is not None}
    for run in facts.charges:
        if run.end is not None and run.end.volts is not None and _read_since(run, probe):
            known[run.group] = run.end.volts
    return known


def _read_since(run: ChargeRun, probe: Assessed) -> bool:
    return run.end is not None and run.end.volts is not None and run.end.id > probe.set.id


def doubtful_groups(facts: JobFacts, probe: Assessed | None) -> dict[int, str]:
    """Groups that the probe set bars for a doubt, and why; what was read after a charge stands by itself."""
    if probe is None:
        return {}
    since = charged_since(facts, probe)
    return {
        b.group: b.because
        for b in probe.verdict.barred
        if b.group not in since and probe.verdict.groups[b.group - 1].state in ("in_doubt", "run_flat")
    }


def condemned(facts: JobFacts, probe: Assessed | None, policy: Policy) -> dict[int, str]:
    """Groups that were once found dead, reversed or under the floor at rest, and why nothing lifts that by itself; `probe` is
    the last probe set, assessed already.

    Only new cells, or a reading on the cell's own tabs that shows the earlier one to be a wire's fault, clears a group: a
    fresh reading that is higher does not, for copper that has plated through recovers its voltage.
    """
    window = policy.window(facts.intake.pack.chemistry)
    found: dict[int, str] = {}
    for of in facts.sets:
        if of.purpose == "load":
            continue
        judged = probe.verdict if probe and probe.set.id == of.id else judged_set(facts, of, policy)[-1]
        for g in judged.groups:
            grave = g.state == "reversed" if window.family == "nickel" else g.state in GRAVE
            if grave and g.volts is not None and not _cleared(facts, g.group, of, policy):
                found.setdefault(
                    g.group,
                    f"It rested at {volts_words(g.volts)} before, under the floor of {window.rest_floor_v:.2f} V: only new cells, or a "
                    "reading on its own tabs that shows the wire to be at fault, clear it.",
                )
    return found


def _cleared(facts: JobFacts, group: int, of: SetFact, policy: Policy) -> bool:
    if any(fact.group == group and fact.id > of.id for fact in facts.replaced):
        return True
    floor = policy.window(facts.intake.pack.chemistry).rest_floor_v
    series = facts.intake.pack.series
    return any(
        r.place == "tab" and span_of(r.point, series) == (group - 1, group) and (r.volts or 0.0) >= floor
        for later in facts.sets
        if later.id >= of.id and later.purpose != "load"
        for r in facts.by_set.get(later.id, [])
    )


def rest_sets(facts: JobFacts, since: int = 0) -> list[SetFact]:
    """Sets at rest that were read, begun after the fact of that number, in order."""
    return [
        s
        for s in facts.sets
        if s.id > since and s.purpose != "load" and s.condition == "rest" and facts.by_set.get(s.id)
    ]


def quiet_since(facts: JobFacts, rest: list[SetFact]) -> list[SetFact]:
    """Those of the sets, up to the last one, between which no charge moved: nothing charged, ran or was tested for capacity."""
    now = rest[-1]
    moved = [run.id for run in facts.charges] + [run.end.id for run in facts.charges if run.end is not None]
    moved += [
        m.id for m in facts.measures if isinstance(m.measure, CapacityMeasure | LoadRunMeasure | FullChargeMeasure)
    ]
    last = max((number for number in moved if number < now.id), default=0)
    return [s for s in rest if s.id > last]


def _leaks(facts: JobFacts, new: dict[int, int], policy: Policy) -> dict[int, Figure]:
    """What each group loses beyond its siblings, from the last rest set and the first before it since no charge moved."""
    rest = rest_sets(facts)
    quiet = quiet_since(facts, rest) if rest else []
    if len(quiet) < 2:
        return {}
    then, now = quiet[0], quiet[-1]
    told = compare_sets(facts, then.id, now.id, policy)
    return {
        g.group: Figure(value=g.leak_mah_day, told="two sets of readings at rest", fact=now.id)
        for g in told.groups
        if g.leak_mah_day is not None and new.get(g.group, 0) < then.id
    }
