"""Sets of readings, each reconciled and judged once for what it holds."""

import math
from collections.abc import Callable
from statistics import median
from typing import Any, TypeVar

from pydantic import TypeAdapter

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.plausible import MOST_GROUP_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Reading, Value
from saldatura.battery.reconcile import Reconciled, reconcile_pack
from saldatura.battery.reconcile.noise import gain_sigma
from saldatura.battery.reconcile.words import taps_of_two_strings
from saldatura.battery.string.compare import compare
from saldatura.battery.string.compare_types import CompareRequest, Comparison, SetGroup
from saldatura.battery.verdict import Verdict, VerdictRequest, verdict_on
from saldatura.job.assessment.again import asked_again
from saldatura.job.assessment.figures import capacities, resistances
from saldatura.job.assessment.words import sets as words
from saldatura.job.facts import JobFacts, Purpose, ReadingFact, SetFact
from saldatura.job.run import Asked, RunPoint, Scheme, between, point_as, runs_of, used_scheme
from saldatura.ledger.clock import own_seconds

T = TypeVar("T")

_READING: TypeAdapter[Reading] = TypeAdapter(Reading)


# Some three years.
MOST_APART_S = 1e8


class Assessed(Value):
    """One set of readings, reconciled and judged. `reading_ids[i]` is the fact behind `readings[i]`; `used` the scheme they follow."""

    set: SetFact
    reading_ids: list[int]
    readings: list[Reading]
    reconciled: Reconciled
    verdict: Verdict
    runs: dict[Scheme, list[RunPoint]]
    used: Scheme = "taps"


def assess_set(facts: JobFacts, purpose: Purpose, policy: Policy) -> Assessed | None:
    """The last set of a purpose, reconciled and judged; None before there is one."""
    last = facts.last_set(purpose)
    return assessed(facts, last, policy) if last else None


def assessed(facts: JobFacts, reading_set: SetFact, policy: Policy) -> Assessed:
    """A set, reconciled and judged, with the runs that read on from it."""
    every = facts.by_set.get(reading_set.id, [])

    def compute() -> Assessed:
        intake = facts.intake
        ids, readings, solved, judged = judged_set(facts, reading_set, policy)
        if facts.parted and judged.next_reading is not None and judged.next_reading.kind == "pack":
            judged = judged.model_copy(update={"next_reading": None})
        doubt = _doubt(solved, judged)
        return Assessed(
            set=reading_set,
            reading_ids=ids,
            readings=readings,
            reconciled=solved,
            verdict=judged,
            used=used_scheme(readings),
            runs=runs_of(
                intake.pack,
                judged.groups,
                judged.plumb_v,
                every,
                intake.outside_taps,
                doubt,
                policy,
                asked_again(facts, reading_set, policy),
                facts.parted,
            ),
        )

    sources = [facts.intake, *every, *facts.measures, *facts.replaced, *facts.works, facts.parted]
    return once(facts, ("assessed", reading_set.id, policy), sources, compute)


def judged_set(
    facts: JobFacts, reading_set: SetFact, policy: Policy
) -> tuple[list[int], list[Reading], Reconciled, Verdict]:
    """The standing readings of a set by their numbers, reconciled, and judged."""
    standing = [r for r in facts.standing(reading_set.id) if r.volts is not None]

    def compute() -> tuple[list[int], list[Reading], Reconciled, Verdict]:
        intake = facts.intake
        # A reading says the same for ever; only the new ones are made anew.
        made: dict[int, tuple[ReadingFact, Reading]] = facts.memo.setdefault(("readings", reading_set.id), {})
        readings = []
        for r in standing:
            held = made.get(r.id)
            # Numbers may be given again where an act was undone: it must be the very fact.
            if held is None or held[0] is not r:
                held = made[r.id] = (r, _as_reading(reading_set, r))
            readings.append(held[1])
        solved = reconcile_pack(intake.pack, reading_set.meter, readings)
        capacity, resistance = capacities(facts), resistances(facts)
        asked = VerdictRequest(
            pack=intake.pack,
            meter=reading_set.meter,
            readings=readings,
            symptoms=intake.symptoms,
            capacities_ah=[capacity[k].value if k in capacity else None for k in range(1, intake.pack.series + 1)]
            if capacity
            else [],
            resistance_ohm=median(r.value for r in resistance.values()) if resistance else None,
        )
        return [r.id for r in standing], readings, solved, verdict_on(asked, solved, policy)

    return once(
        facts, ("judged", reading_set.id, policy), [facts.intake, *standing, *facts.measures, *facts.replaced], compute
    )


def once(facts: JobFacts, key: Any, sources: list[Any], compute: Callable[[], T]) -> T:
    """What `compute` gives, kept with the job for as long as the facts it is told from are the same ones."""
    held = facts.memo.get(key)
    if held is not None and len(held[0]) == len(sources) and all(a is b for a, b in zip(held[0], sources, strict=True)):
        kept: T = held[1]
        return kept
    found = compute()
    facts.memo[key] = (sources, found)
    return found


def _as_reading(reading_set: SetFact, r: ReadingFact) -> Reading:
    return _READING.validate_python(
        {
            **r.point.model_dump(),
            "volts": r.volts,
            "place": r.place,
            "resolution_v": r.resolution_v,
            # Of a clock that was set by years between two readings no more is asked than "long".
            "at_s": min(
                max(own_seconds(reading_set.at, reading_set.clock_s, r.at, r.clock_s), -MOST_APART_S), MOST_APART_S
            ),
        }
    )


def _doubt(solved: Reconciled, judged: Verdict) -> Asked | None:
    """The reading that would settle what contradicts itself."""
    if judged.next_reading is None or not any(f.kind != "undetermined" for f in solved.findings):
        return None
    return judged.next_reading, words.WOULD_SETTLE_WHAT_DOES


def span_point(facts: JobFacts, purpose: Purpose, from_tap: int, to_tap: int, policy: Policy) -> RunPoint:
    """Two taps that no run reads, as a point of the run. Raises Impossible for taps that are not there."""
    pack = facts.intake.pack
    for tap in (from_tap, to_tap):
        if tap > pack.series:
            raise Impossible("to_tap", "no_such_tap", words.tap_does_not_exist(tap, pack.series))
    if from_tap < to_tap and pack.lowest_tap(to_tap) > from_tap:
        raise Impossible("to_tap", "two_strings", taps_of_two_strings(from_tap, to_tap))
    if from_tap >= to_tap:
        raise Impossible("to_tap", "red_on_higher_tap", words.RED_PROBES_TAP_LIES)
    last = assess_set(facts, purpose, policy)
    groups, plumb_v = (last.verdict.groups, last.verdict.plumb_v) if last else ([], None)
    readings = facts.by_set.get(last.set.id, []) if last else []
    return point_as(pack, (between(from_tap, to_tap, pack), words.PICKED_IN_FIGURE), groups, plumb_v, readings, policy)


def compare_sets(facts: JobFacts, then_id: int, now_id: int, policy: Policy) -> Comparison:
    """Two sets of the job side by side. Raises Impossible for a set that is not there, or one set twice."""
    sets = {s.id: s for s in facts.sets}
    for field, set_id in (("then", then_id), ("now", now_id)):
        if set_id not in sets:
            raise Impossible(field, "no_such_set", words.job_has_no_set(set_id))
    if then_id == now_id:
        raise Impossible("now", "set_to_itself", words.SET_AGAINST_ITSELF_TELLS)
    # Whichever is named first: the earlier one is what was.
    then, now = sorted(
        (sets[then_id], sets[now_id]),
        key=lambda later: own_seconds(sets[then_id].at, sets[then_id].clock_s, later.at, later.clock_s),
    )
    request = CompareRequest(
        pack=facts.intake.pack,
        then=_groups_of(facts, then, policy),
        now=_groups_of(facts, now, policy),
        then_a=then.amps,
        now_a=now.amps,
        days=own_seconds(then.at, then.clock_s, now.at, now.clock_s) / 86400,
    )
    return compare(request, policy)


def _groups_of(facts: JobFacts, reading_set: SetFact, policy: Policy) -> list[SetGroup]:
    solved = judged_set(facts, reading_set, policy)[2]
    # One meter's gain error is the same in both sets and cancels in what moved: only the rest of the doubt counts.
    gain = gain_sigma(reading_set.meter)
    return [
        SetGroup(
            volts=g.volts if g.volts is None or abs(g.volts) <= MOST_GROUP_V else None,
            sigma_v=math.sqrt(max((g.sigma_v or 0.0) ** 2 - (gain * (g.volts or 0.0)) ** 2, 1e-8)),
        )
        for g in solved.groups
    ]
