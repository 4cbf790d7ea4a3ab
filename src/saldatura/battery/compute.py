"""The computations that can be called by name, with their request and response types."""

from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.types import ChargeForecast, ChargeRequest
from saldatura.battery.computation import Computation
from saldatura.battery.day.plan import EXAMPLE as EXAMPLE_DAY
from saldatura.battery.day.plan import day_plan
from saldatura.battery.day.types import DayPlan, DayRequest
from saldatura.battery.join import (
    Interconnect,
    InterconnectRequest,
    PackMap,
    PackMapRequest,
    TakeDown,
    TakeDownRequest,
    WeldRequest,
    WeldWindow,
    interconnect,
    pack_map,
    take_down,
    weld_window,
)
from saldatura.battery.join.metal import StripMetal, StripMetalRequest, strip_metal
from saldatura.battery.join.net_types import EXAMPLE as EXAMPLE_STRIPS
from saldatura.battery.judge import Judgement, JudgeRequest, judge
from saldatura.battery.level import LevelPlan, LevelPlanRequest, level_plan
from saldatura.battery.level.need import LevelNeed, LevelNeedRequest, level_need
from saldatura.battery.match.matching import match
from saldatura.battery.match.types import Matching, MatchRequest
from saldatura.battery.measures.capacity import Capacity, CapacityRequest, capacity
from saldatura.battery.measures.sensor import Sensed, SensorRequest, sense
from saldatura.battery.measures.step import Step, StepRequest, step
from saldatura.battery.plan import Plan, PlanRequest, repairs
from saldatura.battery.prove.checks import Proof, ProveRequest, prove
from saldatura.battery.prove.run_time import run_time
from saldatura.battery.prove.run_types import RunTime, RunTimeRequest
from saldatura.battery.reconcile import Reconciled, ReconcileRequest, reconcile
from saldatura.battery.smart.registers import EXAMPLE, registers
from saldatura.battery.smart.types import RegistersRequest, RegistersSay
from saldatura.battery.string.balance import Balance, BalanceRequest, balance
from saldatura.battery.string.compare import compare
from saldatura.battery.string.compare_types import CompareRequest, Comparison
from saldatura.battery.string.hazard import Hazard, HazardRequest, hazard
from saldatura.battery.string.lead_types import IdentifiedLeads, LeadsRequest
from saldatura.battery.string.leads import identify_leads
from saldatura.battery.string.path import Path, PathRequest, power_path
from saldatura.battery.verdict import Verdict, VerdictRequest, verdict

_PACK = {"chemistry": "nmc", "series": 5, "parallel": 2, "rated_ah": 4.0, "load_a": 15.0}
_GROUPS = [{"kind": "group", "group": k, "volts": v} for k, v in enumerate((4.08, 4.08, 4.09, 4.08, 3.21), start=1)]
_READINGS = [*_GROUPS, {"kind": "pack", "volts": 19.30}]

COMPUTATIONS: dict[str, Computation] = {
    "balance": Computation(
        BalanceRequest,
        Balance,
        balance,
        {
            "chemistry": "nmc",
            "rated_ah": 4.0,
            "groups": [{"rest_v": 4.11}, {"rest_v": 3.17, "capacity_ah": 3.6}],
            "load_a": 8.0,
            "resistance_ohm": 0.03,
        },
    ),
    "capacity": Computation(
        CapacityRequest,
        Capacity,
        capacity,
        {"text": "time (s),voltage (V),current (A)\n0,4.15,2\n1800,3.62,2\n3600,2.95,2\n", "rated_ah": 2.5},
    ),
    "charge": Computation(
        ChargeRequest,
        ChargeForecast,
        charge,
        {
            "chemistry": "nmc",
            "capacity_ah": 5.0,
            "resistance_ohm": 0.03,
            "start_rest_v": 3.45,
            "current_a": 2.5,
            "full_v": 4.2,
            "cutoff_a": 0.25,
            "ambient_c": 25,
        },
    ),
    "compare": Computation(
        CompareRequest,
        Comparison,
        compare,
        {
            "pack": {"chemistry": "nmc", "series": 4, "rated_ah": 4.0},
            "then": [{"volts": 4.08, "sigma_v": 0.004}] * 4,
            "now": [{"volts": v, "sigma_v": 0.004} for v in (4.07, 4.07, 4.02, 4.07)],
            "days": 7,
        },
    ),
    "day-plan": Computation(DayRequest, DayPlan, day_plan, EXAMPLE_DAY),
    "hazard": Computation(HazardRequest, Hazard, hazard, {"pack": _PACK}),
    "identify-leads": Computation(
        LeadsRequest,
        IdentifiedLeads,
        identify_leads,
        {
            "chemistry": "lipo",
            "series": 3,
            "leads": [
                {"lead": "red", "volts": 11.4},
                {"lead": "black", "volts": 0.0},
                {"lead": "white", "volts": 3.8},
                {"lead": "blue", "volts": 7.6},
            ],
            "pack_v": 11.4,
        },
    ),
    "interconnect": Computation(InterconnectRequest, Interconnect, interconnect, EXAMPLE_STRIPS),
    "judge": Computation(
        JudgeRequest,
        Judgement,
        judge,
        {
            "pack": {**_PACK, "kind": "power_tool", "age_years": 6, "board_levels": False},
            "evidence": [
                *(
                    {"kind": "group_v", "group": k, "volts": v}
                    for k, v in enumerate((4.08, 4.08, 4.09, 4.08, 3.21), start=1)
                ),
                {"kind": "charger", "says": "full_at_once"},
                {"kind": "tool", "does": "cuts_out_under_load"},
            ],
        },
    ),
    "level-need": Computation(
        LevelNeedRequest,
        LevelNeed,
        level_need,
        {
            "pack": _PACK,
            "groups": [{"group": k, "rest_v": v} for k, v in enumerate((4.08, 4.08, 4.09, 4.08, 3.21), start=1)],
            "target": "match",
        },
    ),
    "match": Computation(
        MatchRequest,
        Matching,
        match,
        {
            "series": 3,
            "parallel": 2,
            "cells": [
                {
                    "cell": f"a{i}",
                    "capacity_ah": ah,
                    "resistance_ohm": 0.03,
                    "rest_v": 3.61,
                    "chemistry": "nmc",
                    "max_a": 10,
                }
                for i, ah in enumerate((2.41, 2.38, 2.52, 2.47, 2.44, 2.36, 2.29, 2.5), start=1)
            ],
            "load_a": 12,
            "aim": "most",
        },
    ),
    "level-plan": Computation(
        LevelPlanRequest,
        LevelPlan,
        level_plan,
        {
            "chemistry": "nmc",
            "groups": [
                {"rest_v": 3.4, "capacity_ah": 4.0, "resistance_ohm": 0.02},
                {"rest_v": 3.9, "capacity_ah": 4.1, "resistance_ohm": 0.02},
                {"rest_v": 3.6, "capacity_ah": 3.9, "resistance_ohm": 0.021},
            ],
            "target": "full",
            "channels": [
                {"name": "supply", "max_a": 3.0, "min_a": 0.05, "kind": "single", "stops": False},
                {"name": "charger", "max_a": 1.0, "kind": "single"},
            ],
            "attended": [{"from_s": 0, "to_s": 28800}],
        },
    ),
    "strip-metal": Computation(
        StripMetalRequest,
        StripMetal,
        strip_metal,
        {"length_mm": 100.0, "width_mm": 8.0, "thickness_mm": 0.15, "milliohm": 12.4},
    ),
    "pack-map": Computation(
        PackMapRequest,
        PackMap,
        pack_map,
        {"series": 5, "parallel": 2, "arrangement": "grid", "columns": 5, "diameter_mm": 18.4, "pitch_mm": 20.2},
    ),
    "power-path": Computation(
        PathRequest,
        Path,
        power_path,
        {
            "string_v": 20.1,
            "chain": [
                {"node": "after the fuse", "part": "fuse", "fails": 3, "volts": 20.1},
                {"node": "after the switches", "part": "discharge switch", "fails": 4, "minutes": 3},
                {"node": "at the terminal", "part": "contact", "fails": 4, "volts": 0.0},
            ],
        },
    ),
    "prove": Computation(
        ProveRequest,
        Proof,
        prove,
        {
            "pack": _PACK,
            "readings": [{"kind": "group", "group": k, "volts": 4.15} for k in range(1, 6)]
            + [{"kind": "pack", "volts": 20.74}],
            "rest_s": 7200,
            "last_current_a": 2.0,
        },
    ),
    "reconcile": Computation(
        ReconcileRequest, Reconciled, reconcile, {"chemistry": "nmc", "series": 5, "readings": _READINGS}
    ),
    "repairs": Computation(
        PlanRequest,
        Plan,
        repairs,
        {
            "pack": {**_PACK, "kind": "power_tool", "age_years": 6, "board_levels": False},
            "causes": [{"cause": "weak_group", "at": {"groups": [3]}, "probability": 0.8}],
            "groups": [
                {"group": k, "capacity_ah": ah, "resistance_ohm": 0.03}
                for k, ah in enumerate((3.5, 3.4, 2.1, 3.5, 3.4), start=1)
            ],
            "need": {"load_a": 15},
            "prices": {"labour_h": 40, "cell": 4.5, "board": 18, "original": 130, "copy": 35},
            "age_years": 6,
        },
    ),
    "registers": Computation(RegistersRequest, RegistersSay, registers, EXAMPLE),
    "run-time": Computation(
        RunTimeRequest,
        RunTime,
        run_time,
        {
            "chemistry": "nmc",
            "series": 5,
            "groups": [{"rest_v": 4.1, "capacity_ah": 3.8, "resistance_ohm": 0.02}],
            "load": {"current_a": 15},
            "cutoff_v": 15.0,
            "group_cutoff_v": 3.0,
            "ambient_c": 22,
        },
    ),
    "sensor": Computation(
        SensorRequest, Sensed, sense, {"ohm": 11_500, "r25_ohm": 10_000, "b_k": 3435, "ambient_c": 22}
    ),
    "step": Computation(
        StepRequest,
        Step,
        step,
        {
            "group": 2,
            "points": [
                {"at_s": t, "volts": v, "amps": a}
                for t, v, a in ((0, 4.081, 0), (1, 4.081, 0), (1.2, 3.982, 5), (11.2, 3.941, 5))
            ],
        },
    ),
    "take-down": Computation(
        TakeDownRequest,
        TakeDown,
        take_down,
        {
            "series": 14,
            "group_v": 3.9,
            "joints": [{"joint": "main+", "tap": 14}, {"joint": "mid", "tap": 7}, {"joint": "sense4", "tap": 4}],
            "aim": "open",
        },
    ),
    "weld-window": Computation(
        WeldRequest,
        WeldWindow,
        weld_window,
        {
            "coupons": [
                {"setting": 8.0, "outcome": "weak", "pull_n": 12},
                {"setting": 14.0, "outcome": "good", "pull_n": 34},
                {"setting": 26.0, "outcome": "burnt"},
            ],
            "lowest": 2,
            "highest": 40,
            "want_pull_n": 25,
        },
    ),
    "verdict": Computation(
        VerdictRequest,
        Verdict,
        verdict,
        {"pack": _PACK, "readings": _READINGS, "symptoms": ["full_at_once", "dies_under_load"]},
    ),
}
