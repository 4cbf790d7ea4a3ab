"""Whether a proof at rest is still of the pack as it is: what was done to it since, or read of it, that the proof does not know."""

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.quantities import GroupPoint
from saldatura.job.assessment.rest import flows
from saldatura.job.assessment.story import change_says, changes
from saldatura.job.assessment.words import stale as words
from saldatura.job.facts import ChargeBegun, HarvestedFact, JobFacts, ReadingFact, SetFact
from saldatura.job.facts.block import TickFact


def changed_since(facts: JobFacts, reading_set: SetFact, policy: Policy) -> str | None:
    """What makes a proving set one of another state, in words, the last of it; None where it still holds."""
    standing = facts.standing(reading_set.id)
    if not standing:
        return None
    first = min(r.id for r in standing)
    found = [(flow.fact, flow.what) for flow in flows(facts) if flow.moved or flow.runs]
    found += [(run.id, words.charge_of_group(run.group)) for run in facts.recorded(ChargeBegun)]
    found += [(end.end.id, words.charge_of_group(end.group)) for end in facts.charges if end.end is not None]
    found += [(fact.id, change_says(fact).rstrip(".")) for fact in changes(facts)]
    found += [(tick.id, words.STEP_OF_WORK_LIST) for tick in facts.recorded(TickFact)]
    found += [(join.id, words.lead_joined_to_pin(join.tap)) for join in facts.joined]
    found += [(cut.id, words.CELLS_THAT_WERE_CUT) for cut in facts.recorded(HarvestedFact)]
    found += _outside(facts, first, policy)
    later = [(number, what) for number, what in found if number > first]
    return max(later)[1] if later else None


def _outside(facts: JobFacts, first: int, policy: Policy) -> list[tuple[int, str]]:
    """Readings of one group since, in whichever set, that no sound group of the kind gives."""
    window = WINDOWS[facts.intake.pack.chemistry]
    loaded = {s.id for s in facts.recorded(SetFact) if s.purpose == "load"}
    most_v = window.highest_charge_v + ABOVE_FULL_V if window.family == "lithium" else float("inf")
    found = []
    for r in facts.recorded(ReadingFact):
        if r.id <= first or r.volts is None or r.id in facts.superseded or not isinstance(r.point, GroupPoint):
            continue
        least_v = window.hard_end_v if r.set_id in loaded else policy.window(facts.intake.pack.chemistry).rest_floor_v
        if not least_v <= r.volts <= most_v:
            found.append((r.id, words.group_read(r.point.group, r.volts)))
    return found
