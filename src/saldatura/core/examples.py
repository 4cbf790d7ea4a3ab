"""A worked request for every computation: what `saldatura compute NAME --example` prints, and that runs as it is."""

from typing import Any

_PACK = {"chemistry": "nmc", "series": 5, "parallel": 2, "rated_ah": 4.0, "load_a": 15.0}
_GROUPS = [{"kind": "group", "group": k, "volts": v} for k, v in enumerate((4.08, 4.08, 4.09, 4.08, 3.21), start=1)]
_READINGS = [*_GROUPS, {"kind": "pack", "volts": 19.30}]

EXAMPLES: dict[str, dict[str, Any]] = {
    "balance": {
        "chemistry": "nmc",
        "rated_ah": 4.0,
        "groups": [{"rest_v": 4.11}, {"rest_v": 3.17, "capacity_ah": 3.6}],
        "load_a": 8.0,
        "resistance_ohm": 0.03,
    },
    "capacity": {"text": "time (s),voltage (V),current (A)\n0,4.15,2\n1800,3.62,2\n3600,2.95,2\n", "rated_ah": 2.5},
    "charge": {
        "chemistry": "nmc",
        "capacity_ah": 5.0,
        "resistance_ohm": 0.03,
        "start_rest_v": 3.45,
        "current_a": 2.5,
        "full_v": 4.2,
        "cutoff_a": 0.25,
        "ambient_c": 25,
    },
    "compare": {
        "pack": {"chemistry": "nmc", "series": 4, "rated_ah": 4.0},
        "then": [{"volts": 4.08, "sigma_v": 0.004}] * 4,
        "now": [{"volts": v, "sigma_v": 0.004} for v in (4.07, 4.07, 4.02, 4.07)],
        "days": 7,
    },
    "hazard": {"pack": _PACK},
    "identify-leads": {
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
    "level-need": {
        "pack": _PACK,
        "groups": [{"group": k, "rest_v": v} for k, v in enumerate((4.08, 4.08, 4.09, 4.08, 3.21), start=1)],
        "target": "match",
    },
    "power-path": {
        "string_v": 20.1,
        "chain": [
            {"node": "after the fuse", "part": "fuse", "fails": 3, "volts": 20.1},
            {"node": "after the switches", "part": "discharge switch", "fails": 4, "minutes": 3},
            {"node": "at the terminal", "part": "contact", "fails": 4, "volts": 0.0},
        ],
    },
    "prove": {
        "pack": _PACK,
        "readings": [{"kind": "group", "group": k, "volts": 4.15} for k in range(1, 6)]
        + [{"kind": "pack", "volts": 20.74}],
        "rest_s": 7200,
        "last_current_a": 2.0,
    },
    "reconcile": {"chemistry": "nmc", "series": 5, "readings": _READINGS},
    "sensor": {"ohm": 11_500, "r25_ohm": 10_000, "b_k": 3435, "ambient_c": 22},
    "step": {
        "group": 2,
        "points": [
            {"at_s": t, "volts": v, "amps": a}
            for t, v, a in ((0, 4.081, 0), (1, 4.081, 0), (1.2, 3.982, 5), (11.2, 3.941, 5))
        ],
    },
    "verdict": {"pack": _PACK, "readings": _READINGS, "symptoms": ["full_at_once", "dies_under_load"]},
}
