"""Tests at rest and under a load: spread, load step, load run, capacity, full charge, drift."""

from statistics import median
from typing import Literal

from saldatura.battery.cell.resistance import rest_needed_s, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.acceptance import (
    AT_THE_END,
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
from saldatura.battery.quantities import groups_words, time_words
from saldatura.job.assessment.condemned import before_change
from saldatura.job.assessment.groups import GroupNow, groups_now, quiet_since, rest_sets
from saldatura.job.assessment.odd_charges import WHY_ODD, last_charges, odd_charge
from saldatura.job.assessment.proving.case import ProofCase, as_charged, least_run_s, stale
from saldatura.job.assessment.proving.each_group import Stands, at_charge_end, at_run_end
from saldatura.job.assessment.proving.types import Outcome, ProofTest, outcome_as, outcome_of
from saldatura.job.assessment.rest import flows
from saldatura.job.assessment.sets import compare_sets
from saldatura.job.facts import JobFacts
from saldatura.ledger.clock import own_seconds

DAY_H, WEEK_H = 20.0, 6.5 * 24


def spread(case: ProofCase) -> ProofTest:
    check = next((c for c in case.proof.checks if c.name == "spread"), None) if case.proof is not None else None
    whole = case.proof.result if case.proof is not None else "not_yet"
    apart = (
        f"{1000 * check.limit:.0f} mV"
        if check and check.limit is not None
        else "what chemistry, voltage and meter allow"
    )
    outcome: Outcome = whole if check is not None else "not_done"
    return ProofTest(
        name="spread", label="Groups at rest", due=True, why="Always: what the repair was for is seen here first.", bench_min=4, wait_h=0.5,
        limit=f"all within {apart}, every group in its window, the sum at the terminals",
        measured=f"{1000 * check.value:.0f} mV apart" if check and check.value is not None else "",
        outcome=outcome, because=case.proof.headline if case.proof is not None else "Read every group after its rest.",
        then="level" if outcome == "fail" else "",
    )  # fmt: skip


def load_step(case: ProofCase) -> ProofTest:
    amps = case.load_a
    pack, series = case.facts.intake.pack, case.facts.intake.pack.series
    due = case.joints or case.facts.intake.pack.load_a is not None
    why = (
        "Joints were made: one that is bad shows under load alone."
        if case.joints
        else "The tool draws it: a weak group shows under load alone."
    )
    base = ProofTest(name="load_step", label="Load step", due=due, why=why, bench_min=5, wait_h=0.0, limit="",
            caution="The load on for ten seconds a group at most; it grows hot. Fingers and rings off bare taps.")  # fmt: skip
    usual = WINDOWS[pack.chemistry].resistance_ohm_ah
    forecast = sag_words(case, amps)
    limit = f"no group sags {OUT_OF_LINE:g} times what its siblings do"
    of = case.load
    if of is None or of.set.condition != "load" or of.set.amps == 0:
        return outcome_as(base, limit=limit, forecast=forecast, outcome="not_done", because=f"A set under load, at some {amps:.3g} A, in Probe tells it.")  # fmt: skip
    fresh = of.set.id > case.since
    then = before_change(case.facts, of.set.id)
    rested = groups_now(then, None, case.policy)
    if (restless := not_rested(case, rested, then)) is not None:
        return outcome_as(base, limit=limit, forecast=forecast, outcome="not_yet", because=restless)
    rest = {g.group: g.volts for g in rested}
    drawn = abs(of.set.amps)
    ohms: dict[int, float] = {}
    doubts: dict[int, float] = {}
    for g in of.reconciled.groups:
        before = rest.get(g.group)
        if g.volts is not None and before is not None:
            ohms[g.group] = (before - g.volts) / drawn
            doubts[g.group] = 2 * 1.41 * (g.sigma_v or 0.002) / drawn
    if len(ohms) < series:
        return outcome_as(base, limit=limit, forecast=forecast, outcome="not_yet", because=f"{series - len(ohms)} groups are not read under load yet.")  # fmt: skip
    middle = median(ohms.values()) if series > 1 else usual.usual / pack.rated_ah
    most = max(OUT_OF_LINE * middle, middle + 0.001)
    absolute = 2 * usual.high / pack.rated_ah
    worst = max(ohms, key=lambda k: ohms[k])
    measured = (
        f"{1000 * middle:.1f} mΩ a group, the most {1000 * ohms[worst]:.1f} mΩ in group {worst}, at {drawn:.3g} A"
    )
    surely = [k for k, r in ohms.items() if r - doubts[k] > most or r - doubts[k] > absolute]
    maybe = [k for k, r in ohms.items() if r + doubts[k] > most or r + doubts[k] > absolute]
    floor = WINDOWS[pack.chemistry].hard_end_v
    under = [g.group for g in of.reconciled.groups if g.volts is not None and g.volts < floor]
    outcome: Outcome = "not_yet" if not fresh else "fail" if surely or under else "not_yet" if maybe else "pass"
    because = (
        stale(fresh, "set under load")
        or (f"{groups_words(under)} fell under {floor:.2f} V, where no cell of the kind may be drawn to." if under else "")
        or (f"{groups_words(surely)} {'sags' if len(surely) == 1 else 'sag'} out of line: a weak cell or a joint. Judge tells which." if surely else "")
        or (f"{groups_words(maybe)} may be out of line, the meter cannot tell: a larger load, or a finer range." if maybe else "No group sags out of line.")
    )  # fmt: skip
    return outcome_as(base, then="judge" if outcome == "fail" else "", limit=f"{limit}: {1000 * most:.1f} mΩ here", forecast=forecast, measured=measured, outcome=outcome, because=because)  # fmt: skip


def not_rested(case: ProofCase, rested: list[GroupNow], then: JobFacts) -> str | None:
    """Why the rest voltages that a set under load is held against are none; None where the groups had rested, and nothing flowed since.
    `then`: the job as it stood when that set began.
    """
    pack, told_ = then.intake.pack, flows(then)
    for g in rested:
        if g.volts is None or g.read_order is None or g.read_at is None:
            return (
                f"Group {g.group} was not read at rest before the load: read every group at rest, then under the load."
            )
        # Several sets under load are one step after another: each is short, and what they take all groups give.
        since = [f for f in told_ if f.fact > g.read_order and f.set_id is None]
        if since:
            return f"Group {g.group} was not read at rest since {since[-1].what}: read every group at rest, then under the load."
        last = next((f for f in reversed(told_) if f.fact <= g.read_order), None)
        if last is None:
            continue
        ohm = g.resistance_ohm.value if g.resistance_ohm else usual_resistance_ohm(pack.chemistry, pack.rated_ah)
        due_s = max(rest_needed_s(last.amps, ohm, REST_ERROR_V), case.policy.rest_minutes * 60)
        rest_s = own_seconds(last.at, last.clock_s, g.read_at, g.read_clock_s)
        if rest_s < due_s:
            return (
                f"Group {g.group} had rested {time_words(max(rest_s, 0.0))} since {last.what}, {time_words(due_s)} are needed: read it at rest, then "
                "under the load."
            )
    return None


def sag_words(case: ProofCase, amps: float) -> str:
    pack, groups = case.facts.intake.pack, as_charged(case)
    if groups is None:
        return ""
    request = RunTimeRequest(chemistry=pack.chemistry, series=pack.series, groups=groups, load=Load(current_a=amps))
    at_once, after_ten = sags_of(request, groups)
    return f"{at_once:.2f} V at once and {after_ten:.2f} V after 10 s, at {amps:.3g} A"


def load_run(case: ProofCase, forecast: RunTime | None) -> ProofTest:
    due = bool(case.replaced) or (
        case.facts.accepted is not None
        and case.facts.accepted.repair in ("recell", "replace_groups", "donor_cells", "drop_group")
    )
    words = (
        ""
        if forecast is None
        else f"{time_words(least_run_s(case.groups, forecast))} to {time_words(forecast.duration_high_s)} at {case.load_a:.3g} A, {forecast.delivered_ah:.2f} Ah, ended by {'the pack' if forecast.ends.group is None else f'group {forecast.ends.group}'}, {forecast.hottest_c:.0f} °C at most"
    )
    base = ProofTest(
        name="load_run", label="Load run", due=due, bench_min=6, wait_h=(forecast.duration_s / 3600 if forecast else 0.5), forecast=words,
        why="Cells were put in: whether they carry the work is seen in a run." if due else "Not asked by this repair; it shows what the pack can now.",
        limit=f"no shorter than forecast, no warmer than {HOTTEST_C:.0f} °C, no group {1000 * BEHIND_V:.0f} mV behind its siblings at its end",
        caution="Never unattended, on a plate that does not burn. Stop at a group's own cut-off, not at the pack's alone.",
    )  # fmt: skip
    fact, fresh = case.last(LoadRunMeasure)
    if fact is None or not isinstance(fact.measure, LoadRunMeasure):
        return outcome_as(base, outcome="not_done", because="Not run yet.")
    of = fact.measure
    low = of.forecast.low_s if of.forecast is not None else None
    short = low is not None and of.seconds < low and of.ended_by != "hand"
    warm = of.ended_by == "temperature" or (of.hottest_c is not None and of.hottest_c > HOTTEST_C)
    early = of.ended_by == "hand" and low is not None and of.seconds < low
    pack = case.facts.intake.pack
    drop_v = of.amps * WINDOWS[pack.chemistry].resistance_ohm_ah.usual / pack.rated_ah
    stands = at_run_end(pack.chemistry, of.group_v, drop_v, BEHIND_V) if of.group_v else None
    grave = stands is not None and stands.kind in ("under", "behind")
    unread = stands is None and case.wired and due
    outcome: Outcome = (
        "not_yet" if not fresh or early else "fail" if short or warm or grave else "not_yet" if unread else "pass"
    )
    because = (
        stale(fresh, "run")
        or ("It grew too warm." if warm else "")
        or (f"Group {stands.group} read {stands.volts:.2f} V at its end, under the {stands.limit_v:.2f} V that no cell of the kind bears." if stands is not None and stands.kind == "under" else "")
        or (f"Group {stands.group} was empty before its siblings: it holds less than they do." if stands is not None and stands.kind == "behind" else "")
        or (f"It ended after {time_words(of.seconds)} and {time_words(low)} were the least: a group holds less than taken, or was not full." if short and low else "")
        or (f"It was stopped by hand before the {time_words(low)} that are the least." if early and low else "")
        or ("The groups were not read at its end: read each as the load goes off." if unread else "")
        or ("It carried its load as forecast." if low else "It carried its load; no forecast was kept with it.")
    )  # fmt: skip
    return outcome_as(base, then="judge" if outcome == "fail" else "", measured=f"{time_words(of.seconds)} at {of.amps:.3g} A{f', {of.ah:.2f} Ah' if of.ah else ''}", outcome=outcome, because=because)  # fmt: skip


def capacity(case: ProofCase) -> ProofTest:
    pack, took = case.facts.intake.pack, case.facts.accepted
    due = took is not None and took.repair in ("donor_cells", "recell", "drop_group")
    promised = took.offered.usable_ah if took is not None and took.offered is not None else None
    least = OF_PROMISED * promised if promised else USEFUL * pack.rated_ah
    limit = f"{least:.2f} Ah, {f'{OF_PROMISED:.0%} of the {promised:.2f} Ah promised' if promised else f'{USEFUL:.0%} of the label'}"
    fact, fresh = case.last(CapacityMeasure)
    of = (
        fact.measure
        if fact is not None and isinstance(fact.measure, CapacityMeasure) and fact.measure.group is None
        else None
    )
    if of is not None and ((of.at_least and of.ah < least) or of_one_group(of, pack)):
        # A log of one cell is none of the pack. What did not begin full or did not finish tells nothing of what is missing.
        of = None
    outcome = outcome_of(of is not None, fresh, of is not None and of.ah >= least)
    because = (
        "Not measured."
        if of is None
        else stale(fresh, "test")
        or (
            "It holds what was promised."
            if outcome == "pass"
            else "It holds less: the weakest group sets it; Judge names it."
        )
    )
    return ProofTest(
        name="capacity", label="Capacity", due=due, why="What it can now was promised." if due else "Not asked by this repair; the customer is told that it was not measured.",
        bench_min=5, wait_h=2.0, limit=limit, measured=f"{of.ah:.2f} Ah" if of is not None else "", outcome=outcome, because=because, then="judge" if outcome == "fail" else "",
    )  # fmt: skip


def full_charge(case: ProofCase) -> ProofTest:
    pack = case.facts.intake.pack
    window = WINDOWS[pack.chemistry]
    ceiling = window.highest_charge_v + ABOVE_FULL_V
    fact, fresh = case.last(FullChargeMeasure)
    each = (
        f", no group above {ceiling:.2f} V or under {window.tool_end_v:.2f} V, none more than {AT_THE_END * case.policy.proof_soc:.0%} of its charge behind"
        if case.wired
        else ""
    )
    own = "on its own charger" if not case.facts.structure.shifts else f"on a charger for {pack.series} in series"
    base = ProofTest(name="full_charge", label=f"Full charge {own}", due=True, bench_min=3, wait_h=2.0,
            why="Always: the customer does this first.", limit=f"taken, ended by itself{each}",
            caution="The first charge is watched to its end; past 45 °C it is off and outside.")  # fmt: skip
    if fact is None or not isinstance(fact.measure, FullChargeMeasure):
        return outcome_as(base, outcome="not_done", because=f"Not charged {own} yet.")
    of = fact.measure
    stands = at_charge_end(pack.chemistry, of.group_v, case.policy) if of.group_v else None
    wrong = stands is not None and stands.kind in ("over", "under", "behind")
    outcome = outcome_of(True, fresh, of.accepts and of.ended_itself and not wrong)
    unread = stands is None and case.wired
    if outcome == "pass" and (unread or (stands is not None and stands.kind == "not_shown")):
        outcome = "not_yet"
    because = (
        stale(fresh, "charge")
        or ("Its charger refuses it: Judge says what it asks for." if not of.accepts else "")
        or ("It did not end by itself: a board or a charger that does not stop overcharges." if not of.ended_itself else "")
        or _ended(stands)
        or ("Taken, and ended by itself. The groups were not read at its end: read each before it rests." if unread else "It takes its charge and ends it.")
    )  # fmt: skip
    then = (
        ""
        if outcome != "fail"
        else "level"
        if stands is not None and stands.kind == "behind" and of.accepts and of.ended_itself
        else "judge"
    )
    apart = f"{1000 * (max(of.group_v) - min(of.group_v)):.0f} mV apart at the end" if len(of.group_v) > 1 else ""
    measured = apart or (
        "taken, groups not read" if of.accepts and case.wired else "taken" if of.accepts else "refused"
    )
    plain = f"a full charge {own}, which ended by itself"
    return outcome_as(base, then=then, measured=measured, outcome=outcome, because=because, plain=plain)


def _ended(stands: Stands | None) -> str:
    match stands:
        case Stands(kind="over"):
            return f"Group {stands.group} read {stands.volts:.2f} V at the end, {stands.limit_v:.2f} V is the most: overcharged. Charge nothing before it is let down."
        case Stands(kind="under"):
            return f"Group {stands.group} read {stands.volts:.2f} V when the charger had ended: it is nearly empty beside its siblings."
        case Stands(kind="behind"):
            return f"Group {stands.group} is {stands.behind[0]:.0%} of its charge behind its siblings at least: level further."
        case Stands(kind="not_shown"):
            return (
                f"Group {stands.group} may be up to {stands.behind[1]:.0%} of its charge behind: the voltage does not show it there. Read it nearer to full, or "
                "count its capacity."
            )
    return ""


def charges(case: ProofCase) -> ProofTest | None:
    """Charges that could not be as they were told: the last one of a group stands in the way until another one ended as it should."""
    odd = [(run, why) for run in last_charges(case.facts) if (why := odd_charge(run, case.policy)) is not None]
    if not odd:
        return None
    said = "; ".join(f"group {run.group}: {WHY_ODD[why]}" for run, why in odd)
    return ProofTest(
        name="charges", label="Charges as they were told", due=True, why="A charge that cannot be as it was told proves nothing.", bench_min=5, wait_h=1.0,
        limit="each ended in its time, with its charge, inside voltage and warmth", measured=said, outcome="fail",
        because=f"{said.capitalize()}. Charge it again, watched.", then="level",
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
    limit = f"no group loses more than {limit_mah:.0f} mAh a day beyond its siblings"
    base = ProofTest(
        name=name, label="Spread after a day" if day else "Spread after a week", due=due, bench_min=4, wait_h=need_h, limit=limit,
        why="A group that leaks has fallen by then." if due else "Nothing that could leak was changed.",
    )  # fmt: skip
    found = compare_sets(case.facts, quiet[0].id, quiet[-1].id, case.policy).groups if apart_h >= need_h else []
    known = [g for g in found if g.leak_mah_day is not None]
    if len(known) < pack.series:
        waits = (
            f"The first set at rest since anything flowed is {time_words(3600 * apart_h)} old."
            if len(quiet) > 1
            else "Two sets at rest so far apart tell it; put the watch on the rail."
        )
        return outcome_as(base, outcome="not_yet" if quiet and due else "not_done", because=waits)
    worst = max(known, key=lambda g: g.leak_mah_day or 0.0)
    leak, doubt = worst.leak_mah_day or 0.0, 2 * (worst.sigma_mah_day or 0.0)
    outcome: Outcome = "fail" if leak - doubt > limit_mah else "not_yet" if leak + doubt > limit_mah else "pass"
    because = {
        "fail": f"Group {worst.group} loses {leak:.0f} mAh a day beyond its siblings: it leaks.",
        "not_yet": f"Group {worst.group} may lose {max(leak + doubt, 0):.0f} mAh a day, as far as this meter tells in the time: a longer watch, or a finer range.",
        "pass": "No group falls behind its siblings.",
    }[outcome]
    behind = _behind_mv([(g.moved_v or 0.0) for g in known], known.index(worst))
    measured = f"{max(leak, 0):.0f} ± {doubt:.0f} mAh a day at most, {max(behind, 0):.0f} mV behind in {time_words(3600 * apart_h)}"
    return outcome_as(
        base, measured=measured, outcome=outcome, because=because, then="judge" if outcome == "fail" else ""
    )


def _behind_mv(moved: list[float], worst: int) -> float:
    """How far a group fell behind the median of the others, mV."""
    others = [v for k, v in enumerate(moved) if k != worst] or [0.0]
    return 1000 * (median(others) - moved[worst])
