"""Charges that cannot be as they were told: ended in no time, with next to nothing gone in, too warm, or above what the group was set to."""

from typing import Literal

from saldatura.battery.limits.acceptance import ENDED_CHARGE, ENDED_NEAR_V, ENDED_TIME, METER_AND_CHARGER_V
from saldatura.battery.limits.policy import Policy
from saldatura.job.facts import ChargeRun, EndOfCharge, JobFacts
from saldatura.ledger.clock import own_seconds

Odd = Literal["too_soon", "too_little", "too_warm", "too_high"]


def odd_end(run: ChargeRun, took_s: float, counted_ah: float | None, volts: float | None, policy: Policy) -> Odd | None:
    """What is odd about a charge that is said to be finished after so many seconds."""
    if any(look.celsius is not None and look.celsius > policy.charge_to_c for look in run.looks):
        return "too_warm"
    read = [look.volts for look in run.looks if look.volts is not None] + ([volts] if volts is not None else [])
    if any(v > run.target_v + METER_AND_CHARGER_V for v in read):
        return "too_high"
    # What reads full is full: its charge was only told of late.
    if took_s < ENDED_TIME * run.forecast_low_s and (volts is None or volts < run.target_v - ENDED_NEAR_V):
        return "too_soon"
    if counted_ah is not None and counted_ah < ENDED_CHARGE * run.forecast_ah:
        return "too_little"
    return None


def odd_charge(run: ChargeRun, policy: Policy) -> Odd | None:
    """What is odd about a charge that ended; None for one that is not, or that was stopped and is not said to be done."""
    end = run.end
    if end is None:
        return None
    took_s = own_seconds(run.at, run.clock_s, end.at, end.clock_s)
    odd = odd_end(run, took_s, end.counted_ah, end.volts, policy)
    return odd if end.outcome == "finished" or odd in ("too_warm", "too_high") else None


def last_charges(facts: JobFacts) -> list[ChargeRun]:
    """The last charge of each group that ended."""
    return list({run.group: run for run in facts.charges if run.end is not None}.values())


def asked_end(facts: JobFacts, new: EndOfCharge, took_s: float, policy: Policy) -> Odd | None:
    """What is asked before a charge is taken to have finished."""
    run = next((run for run in facts.charges if run.id == new.charge), None)
    if run is None or new.outcome != "finished":
        return None
    return odd_end(run, took_s, new.counted_ah, new.volts, policy)
