"""Charges that are switched by hand, minded by the looks at them: what rings."""

from datetime import timedelta

import numpy as np

from saldatura.battery.charge.fit import Series
from saldatura.battery.limits.policy import Policy
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.looked import asked_of
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.waiting import Ringing
from saldatura.job.facts import ChargeRun, JobFacts
from saldatura.job.facts.charge import FINISHED
from saldatura.job.minding.charge import Alarm, siblings_moved, stop_now, watch
from saldatura.ledger.clock import own_seconds


def ringing_of(facts: JobFacts, policy: Policy) -> list[Ringing]:
    """What the looks at a job's running charges say that should not wait."""
    found = []
    for run in facts.charges:
        if run.end is not None or not run.looks:
            continue
        key, mark = ("ringing", run.id), (run.looks[-1].id, len(run.looks), policy)
        held = facts.memo.get(key)
        if held is None or held[0] != mark:
            held = facts.memo[key] = (mark, _alarms(facts, run, policy))
        found += [
            Ringing(
                job_id=facts.id, pack_name=facts.intake.pack_name, group=run.group, charge_id=run.id, kind=alarm.kind,
                says=alarm.says, at=run.looks[-1].at if run.clock_s is not None else run.at + timedelta(seconds=alarm.at_s),
            )
            for alarm in held[1]
        ]  # fmt: skip
    return found


def _alarms(facts: JobFacts, run: ChargeRun, policy: Policy) -> list[Alarm]:
    last = run.looks[-1]
    at_s = own_seconds(run.at, run.clock_s, last.at, last.clock_s)
    now = {
        g.group: g.volts for g in groups_now(facts, assess_set(facts, "probe", policy), policy) if g.volts is not None
    }
    charging = {other.group for other in facts.charges if other.end is None}
    alarms = siblings_moved(now, {o.group: o.volts for o in last.others}, charging, at_s)
    if run.driven:
        return alarms
    rows = np.array(
        [
            (
                own_seconds(run.at, run.clock_s, look.at, look.clock_s), look.volts,
                run.current_a if look.amps is None else look.amps, np.nan if look.celsius is None else look.celsius,
            )
            for look in run.looks
            if look.volts is not None
        ],
        dtype=np.float64,
    ).reshape(-1, 4)  # fmt: skip
    if not len(rows):
        return alarms
    asked, capacity_known, resistance_known = asked_of(facts, run)
    series = Series.from_rows(rows)
    stop = stop_now(run, asked, series, policy)
    if stop is not None:
        done = stop.why in FINISHED
        alarms.append(
            Alarm(
                kind="ended" if done else "stop_it",
                at_s=at_s,
                says=f"{'It is done' if done else 'Switch it off'}. {stop.says}",
            )
        )
    return [*alarms, *watch(run, asked, series, capacity_known, resistance_known, policy).alarms]
