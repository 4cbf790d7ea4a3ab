"""Tests at rest and under a load: spread, load step, load run, capacity, full charge, drift."""

from collections.abc import Sequence
from statistics import median
from typing import Literal

from saldatura.battery.cell.resistance import rest_needed_s, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.acceptance import (
    BEHIND_V,
    LEAK_SHARE_IN_A_DAY,
    LEAK_SHARE_IN_A_WEEK,
    OF_PROMISED,
    OUT_OF_LINE,
)
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.limits.running import HOTTEST_C, USEFUL
from saldatura.battery.measures.kinds.capacity import CapacityMeasure, of_one_group
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.prove.checks import REST_ERROR_V
from saldatura.battery.prove.run_time import sags_of
from saldatura.battery.prove.run_types import Load, RunTime, RunTimeRequest
from saldatura.job.assessment.condemned import before_change
from saldatura.job.assessment.groups import GroupNow, groups_now, quiet_since, rest_sets
from saldatura.job.assessment.known_of_model import charger_end_v
from saldatura.job.assessment.odd_charges import last_charges, odd_charge
from saldatura.job.assessment.proving.case import ProofCase, as_charged, least_run_s, stale
from saldatura.job.assessment.proving.each_group import Stands, at_charge_end, at_run_end
from saldatura.job.assessment.proving.types import Outcome, ProofTest, outcome_as, outcome_of
from saldatura.job.assessment.proving.words import load as words
from saldatura.job.assessment.rest import flows
from saldatura.job.assessment.sets import compare_sets
from saldatura.job.assessment.words.odd_charges import WHY_ODD
from saldatura.job.facts import JobFacts
from saldatura.ledger.clock import own_seconds

DAY_H, WEEK_H = 20.0, 6.5 * 24


def spread(case: ProofCase) -> ProofTest:
    check = next((c for c in case.proof.checks if c.name == "spread"), None) if case.proof is not None else None
    whole = case.proof.result if case.proof is not None else "not_yet"
    apart = f"{1000 * check.limit:.0f} mV" if check and check.limit is not None else words.WHAT_CHEMISTRY_VOLTAGE
    outcome: Outcome = whole if check is not None else "not_done"
    return ProofTest(
        name="spread", label="Groups at rest", due=True, why=words.ALWAYS_WHAT_REPAIR, bench_min=4, wait_h=0.5,
        limit=words.all_within_every_group(apart),
        measured=f"{1000 * check.value:.0f} mV apart" if check and check.value is not None else "",
        outcome=outcome, because=case.proof.headline if case.proof is not None else words.READ_EVERY_GROUP_AFTER,
        then="level" if outcome == "fail" else "",
    )  # fmt: skip


def load_step(case: ProofCase) -> ProofTest:
    amps = case.load_a
    pack, series = case.facts.intake.pack, case.facts.intake.pack.series
    due = case.joints or case.facts.intake.pack.load_a is not None
    why = words.JOINTS_WERE_MADE_ONE if case.joints else words.TOOL_DRAWS_IT_WEAK
    base = ProofTest(name="load_step", label="Load step", due=due, why=why, bench_min=5, wait_h=0.0, limit="",
            caution=words.LOAD_ON_FOR_TEN)  # fmt: skip
    usual = WINDOWS[pack.chemistry].resistance_ohm_ah
    forecast = sag_words(case, amps)
    limit = words.no_group_sags_times()
    assessed = case.load
    if assessed is None or assessed.set.condition != "load" or assessed.set.amps == 0:
        return outcome_as(base, limit=limit, forecast=forecast, outcome="not_done", because=words.set_under_load(amps))  # fmt: skip
    fresh = assessed.set.id > case.since
    then = before_change(case.facts, assessed.set.id)
    rested = groups_now(then, None, case.policy)
    if (restless := not_rested(case, rested, then)) is not None:
        return outcome_as(base, limit=limit, forecast=forecast, outcome="not_yet", because=restless)
    rest = {g.group: g.volts for g in rested}
    drawn = abs(assessed.set.amps) / pack.strings
    ohms: dict[int, float] = {}
    doubts: dict[int, float] = {}
    for g in assessed.reconciled.groups:
        before = rest.get(g.group)
        if g.volts is not None and before is not None:
            ohms[g.group] = (before - g.volts) / drawn
            doubts[g.group] = 2 * 1.41 * (g.sigma_v or 0.002) / drawn
    if len(ohms) < series:
        return outcome_as(base, limit=limit, forecast=forecast, outcome="not_yet", because=words.groups_are_not_read(series, len(ohms)))  # fmt: skip
    middle = median(ohms.values()) if series > 1 else usual.usual / pack.rated_ah
    most = max(OUT_OF_LINE * middle, middle + 0.001)
    absolute = 2 * usual.high / pack.rated_ah
    worst = max(ohms, key=lambda k: ohms[k])
    measured = words.m_group_most_m(middle, ohms[worst], worst, abs(assessed.set.amps))
    surely = [k for k, r in ohms.items() if r - doubts[k] > most or r - doubts[k] > absolute]
    maybe = [k for k, r in ohms.items() if r + doubts[k] > most or r + doubts[k] > absolute]
    floor = WINDOWS[pack.chemistry].hard_end_v
    under = [g.group for g in assessed.reconciled.groups if g.volts is not None and g.volts < floor]
    outcome: Outcome = "not_yet" if not fresh else "fail" if surely or under else "not_yet" if maybe else "pass"
    because = (
        stale(fresh, "set under load")
        or (words.fell_under_where_no(under, floor) if under else "")
        or (words.out_of_line_weak(surely) if surely else "")
        or (words.may_be_out(maybe) if maybe else words.NO_GROUP_SAGS_OUT)
    )  # fmt: skip
    return outcome_as(base, then="judge" if outcome == "fail" else "", limit=words.m_here(limit, most), forecast=forecast, measured=measured, outcome=outcome, because=because)  # fmt: skip


def not_rested(case: ProofCase, rested: list[GroupNow], then: JobFacts) -> str | None:
    """Why the rest voltages that a set under load is held against are none; None where the groups had rested, and nothing flowed since.
    `then`: the job as it stood when that set began.
    """
    pack, told_ = then.intake.pack, flows(then)
    for g in rested:
        if g.volts is None or g.read_order is None or g.read_at is None:
            return words.group_was_not_read(g.group)
        # Several sets under load are one step after another: each is short, and what they take all groups give.
        since = [f for f in told_ if f.fact > g.read_order and f.set_id is None]
        if since:
            return words.group_was_not_read_at_rest(g.group, since[-1].what)
        last = next((f for f in reversed(told_) if f.fact <= g.read_order), None)
        if last is None:
            continue
        ohm = g.resistance_ohm.value if g.resistance_ohm else usual_resistance_ohm(pack.chemistry, pack.rated_ah)
        due_s = max(rest_needed_s(last.amps, ohm, REST_ERROR_V), case.policy.rest_minutes * 60)
        rest_s = own_seconds(last.at, last.clock_s, g.read_at, g.read_clock_s)
        if rest_s < due_s:
            return words.group_had_rested_since(g.group, rest_s, last.what, due_s)
    return None


def sag_words(case: ProofCase, amps: float) -> str:
    pack, groups = case.facts.intake.pack, as_charged(case)
    if groups is None:
        return ""
    request = RunTimeRequest(
        chemistry=pack.chemistry, series=pack.series, strings=pack.strings, groups=groups, load=Load(current_a=amps)
    )
    at_once, after_ten = sags_of(request, groups)
    return words.at_once_and_after(at_once, after_ten, amps)


def load_run(case: ProofCase, forecast: RunTime | None) -> ProofTest:
    due = bool(case.replaced) or (
        case.facts.accepted is not None
        and not case.facts.accepted.does.isdisjoint(("recell", "replace_groups", "donor_cells", "drop_group"))
    )
    line = "" if forecast is None else words.run_is_to_last(least_run_s(case.groups, forecast), case.load_a, forecast)
    base = ProofTest(
        name="load_run", label="Load run", due=due, bench_min=6, wait_h=(forecast.duration_s / 3600 if forecast else 0.5), forecast=line,
        why=words.CELLS_WERE_PUT if due else words.NOT_ASKED,
        limit=words.no_shorter_than_forecast(),
        caution=words.NEVER_UNATTENDED_ON_PLATE,
    )  # fmt: skip
    fact, fresh = case.last(LoadRunMeasure)
    if fact is None or not isinstance(fact.measure, LoadRunMeasure):
        return outcome_as(base, outcome="not_done", because="Not run yet.")
    run = fact.measure
    low = run.forecast.low_s if run.forecast is not None else None
    short = low is not None and run.seconds < low and run.ended_by != "hand"
    warm = run.ended_by == "temperature" or (run.hottest_c is not None and run.hottest_c > HOTTEST_C)
    early = run.ended_by == "hand" and low is not None and run.seconds < low
    pack = case.facts.intake.pack
    drop_v = run.amps / pack.strings * WINDOWS[pack.chemistry].resistance_ohm_ah.usual / pack.rated_ah
    stands = at_run_end(pack.chemistry, run.group_v, drop_v, BEHIND_V) if run.group_v else None
    grave = stands is not None and stands.kind in ("under", "behind")
    unread = stands is None and case.wired and due
    outcome: Outcome = (
        "not_yet" if not fresh or early else "fail" if short or warm or grave else "not_yet" if unread else "pass"
    )
    because = (
        stale(fresh, "run")
        or (words.GREW_TOO_WARM if warm else "")
        or (words.group_read(stands.group, stands.volts, stands.limit_v) if stands is not None and stands.kind == "under" else "")
        or (words.group_was_empty_before(stands.group) if stands is not None and stands.kind == "behind" else "")
        or (words.ended_after_and_were(run.seconds, low) if short and low else "")
        or (words.stopped_by_hand_before(low) if early and low else "")
        or (words.GROUPS_WERE_NOT_READ if unread else "")
        or (words.CARRIED_ITS_LOAD if low else words.CARRIED_ITS_LOAD_NO)
    )  # fmt: skip
    return outcome_as(base, then="judge" if outcome == "fail" else "", measured=words.seconds_amps_ah(run.seconds, run.amps, run.ah, run), outcome=outcome, because=because)  # fmt: skip


def capacity(case: ProofCase) -> ProofTest:
    pack, took = case.facts.intake.pack, case.facts.accepted
    due = took is not None and not took.does.isdisjoint(("donor_cells", "recell", "drop_group"))
    promised = took.offered.usable_ah if took is not None and took.offered is not None else None
    least = OF_PROMISED * promised if promised else USEFUL * pack.whole_ah
    limit = words.least_promised(least, promised)
    fact, fresh = case.last(CapacityMeasure)
    measure = (
        fact.measure
        if fact is not None and isinstance(fact.measure, CapacityMeasure) and fact.measure.group is None
        else None
    )
    if measure is not None and ((measure.at_least and measure.ah < least) or of_one_group(measure, pack)):
        # A log of one cell is none of the pack. What did not begin full or did not finish tells nothing of what is missing.
        measure = None
    outcome = outcome_of(measure is not None, fresh, measure is not None and measure.ah >= least)
    because = (
        "Not measured."
        if measure is None
        else stale(fresh, "test")
        or (words.HOLDS_WHAT_WAS_PROMISED if outcome == "pass" else words.HOLDS_LESS_WEAKEST_GROUP)
    )
    return ProofTest(
        name="capacity", label="Capacity", due=due, why=words.WHAT_IT_CAN_NOW if due else words.NOT_ASKED_BY_THIS_REPAIR,
        bench_min=5, wait_h=2.0, limit=limit, measured=f"{measure.ah:.2f} Ah" if measure is not None else "", outcome=outcome, because=because, then="judge" if outcome == "fail" else "",
    )  # fmt: skip


def full_charge(case: ProofCase) -> ProofTest:
    pack = case.facts.intake.pack
    window = WINDOWS[pack.chemistry]
    ceiling = window.highest_charge_v + ABOVE_FULL_V
    fact, fresh = case.last(FullChargeMeasure)
    each = words.no_group_above(ceiling, window.tool_end_v, case.policy.proof_soc) if case.wired else ""
    usual = charger_end_v(case.facts)
    if usual is not None:
        each += words.its_charger_ends_at(usual[0])
    own = words.OWN_CHARGER if not case.facts.structure.shifts else words.charger_for_in_series(pack.in_string)
    base = ProofTest(name="full_charge", label=f"Full charge {own}", due=True, bench_min=3, wait_h=2.0,
            why=words.ALWAYS_CUSTOMER_DOES, limit=words.taken_ended_by_itself(each),
            caution=words.first_charge_is_watched())  # fmt: skip
    if fact is None or not isinstance(fact.measure, FullChargeMeasure):
        return outcome_as(base, outcome="not_done", because=words.not_charged_yet(own))
    measure = fact.measure
    stands = at_charge_end(pack.chemistry, measure.group_v, case.policy) if measure.group_v else None
    wrong = stands is not None and stands.kind in ("over", "under", "behind")
    outcome = outcome_of(True, fresh, measure.accepts and measure.ended_itself and not wrong)
    unread = stands is None and case.wired
    if outcome == "pass" and (unread or (stands is not None and stands.kind == "not_shown")):
        outcome = "not_yet"
    because = (
        stale(fresh, "charge")
        or (words.CHARGER_REFUSES_IT_JUDGE if not measure.accepts else "")
        or (words.DID_NOT_END if not measure.ended_itself else "")
        or _ended(stands)
        or _elsewhere(pack.in_string, measure.group_v, usual)
        or (words.TAKEN_AND_ENDED if unread else words.TAKES_ITS_CHARGE)
    )  # fmt: skip
    then = (
        ""
        if outcome != "fail"
        else "level"
        if stands is not None and stands.kind == "behind" and measure.accepts and measure.ended_itself
        else "judge"
    )
    apart = words.apart_at_end(measure.group_v) if len(measure.group_v) > 1 else ""
    measured = apart or (
        words.TAKEN_GROUPS_NOT_READ if measure.accepts and case.wired else "taken" if measure.accepts else "refused"
    )
    plain = words.full_charge_which_ended(own)
    return outcome_as(base, then=then, measured=measured, outcome=outcome, because=because, plain=plain)


def _elsewhere(in_string: int, group_v: Sequence[float], usual: tuple[float, float, float] | None) -> str:
    """Where packs of the pattern end and this one did not: told, and no test fails by it, for chargers differ."""
    if usual is None or len(group_v) != in_string or usual[1] <= sum(group_v) <= usual[2]:
        return ""
    return words.ended_elsewhere(sum(group_v), usual[0])


def _ended(stands: Stands | None) -> str:
    match stands:
        case Stands(kind="over"):
            return words.group_read_at_end(stands.group, stands.volts, stands.limit_v)
        case Stands(kind="under"):
            return words.group_read_when_charger(stands.group, stands.volts)
        case Stands(kind="behind"):
            return words.group_is(stands.group, stands.behind[0])
        case Stands(kind="not_shown"):
            return words.group_may_be_up(stands.group, stands.behind[1])
    return ""


def charges(case: ProofCase) -> ProofTest | None:
    """Charges that could not be as they were told: the last one of a group stands in the way until another one ended as it should."""
    odd = [(run, why) for run in last_charges(case.facts) if (why := odd_charge(run, case.policy)) is not None]
    if not odd:
        return None
    said = "; ".join(f"group {run.group}: {WHY_ODD[why]}" for run, why in odd)
    return ProofTest(
        name="charges", label=words.CHARGES_AS_THEY_WERE, due=True, why=words.CHARGE_THAT_CANNOT, bench_min=5, wait_h=1.0,
        limit=words.EACH_ENDED, measured=said, outcome="fail",
        because=words.charge_it_again_watched(said), then="level",
    )  # fmt: skip


def drift(case: ProofCase, name: Literal["after_day", "after_week"]) -> ProofTest:
    """What each group falls behind its siblings between two sets at rest, the longest apart between which nothing flowed."""
    day = name == "after_day"
    pack = case.facts.intake.pack
    need_h = DAY_H if day else WEEK_H
    due = (bool(case.replaced) or case.levelled) if day else bool(case.replaced)
    limit_mah = 1000 * (LEAK_SHARE_IN_A_DAY if day else LEAK_SHARE_IN_A_WEEK) * pack.rated_ah
    rest = rest_sets(case.facts, case.since)
    quiet = quiet_since(case.facts, rest) if rest else []
    apart_h = (quiet[-1].at - quiet[0].at).total_seconds() / 3600 if len(quiet) > 1 else 0.0
    limit = words.no_group_loses_more(limit_mah)
    base = ProofTest(
        name=name, label=words.SPREAD_AFTER_DAY if day else words.SPREAD_AFTER_WEEK, due=due, bench_min=4, wait_h=need_h, limit=limit,
        why=words.GROUP_THAT_LEAKS_HAS if due else words.NOTHING_THAT_COULD_LEAK,
    )  # fmt: skip
    found = compare_sets(case.facts, quiet[0].id, quiet[-1].id, case.policy).groups if apart_h >= need_h else []
    known = [g for g in found if g.leak_mah_day is not None]
    if len(known) < pack.series:
        waits = words.first_set_at_rest(apart_h) if len(quiet) > 1 else words.TWO_SETS_AT_REST
        return outcome_as(base, outcome="not_yet" if quiet and due else "not_done", because=waits)
    worst = max(known, key=lambda g: g.leak_mah_day or 0.0)
    leak, doubt = worst.leak_mah_day or 0.0, 2 * (worst.sigma_mah_day or 0.0)
    outcome: Outcome = "fail" if leak - doubt > limit_mah else "not_yet" if leak + doubt > limit_mah else "pass"
    because = {
        "fail": words.group_loses_day_beyond(worst.group, leak),
        "not_yet": words.group_may_lose_day(worst.group, leak, doubt),
        "pass": words.NO_GROUP_FALLS_BEHIND,
    }[outcome]
    behind = _behind_mv([(g.moved_v or 0.0) for g in known], known.index(worst))
    measured = words.day_at_most_behind(leak, doubt, behind, apart_h)
    return outcome_as(
        base, measured=measured, outcome=outcome, because=because, then="judge" if outcome == "fail" else ""
    )


def _behind_mv(moved: list[float], worst: int) -> float:
    """How far a group fell behind the median of the others, mV."""
    others = [v for k, v in enumerate(moved) if k != worst] or [0.0]
    return 1000 * (median(others) - moved[worst])
