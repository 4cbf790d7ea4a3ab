"""Described cases: few pieces of evidence, what a good technician concludes, and with which test he would go on."""

from typing import Any

Evidence = list[dict[str, Any]]

TOOL: dict[str, Any] = {
    "chemistry": "nmc", "series": 5, "parallel": 2, "rated_ah": 4.0, "load_a": 20, "kind": "power_tool", "age_years": 4,
}  # fmt: skip
NICKEL = {"chemistry": "nimh", "series": 10, "parallel": 1, "rated_ah": 2.6, "load_a": 10, "kind": "power_tool"}
LAMP = {"chemistry": "li_oxide", "series": 2, "parallel": 1, "rated_ah": 2.6, "kind": "light"}
TABLET = {"chemistry": "lipo", "series": 3, "parallel": 2, "rated_ah": 5.0, "kind": "laptop", "age_years": 3}
POUCH = {"chemistry": "lipo", "series": 4, "parallel": 1, "rated_ah": 5.0, "kind": "drone"}


def groups(*volts: float) -> Evidence:
    return [{"kind": "group_v", "group": g, "volts": v} for g, v in enumerate(volts, start=1)]


EVEN = groups(3.91, 3.90, 3.90, 3.91, 3.90)
BLINKS = [{"kind": "blink", "means": "temperature"}]
RIGHT = [{"kind": "sensor_ohm", "sensor": 1, "ohm": 11_400, "ambient_c": 22}]
MOVED = [{"kind": "moving_changes", "what": "blink", "changes": True}]


def swapped(result: str, same: bool | None, days: float | None = 10, put: str = "board") -> Evidence:
    return [
        {
            "kind": "swap",
            "put": put,
            "reference": {"same_revision": same, "proved_days_ago": days},
            "result": result,
        }
    ]


# name: pack, evidence, cause, where (a part of `at`), tests of which one must come first or second
CASES: dict[str, tuple[dict[str, Any], Evidence, str, dict[str, Any], set[str]]] = {
    "a temperature blink that moving changes": (
        TOOL, BLINKS + EVEN + RIGHT + MOVED, "sensor_circuit", {"mode": "intermittent"}, {"clean_connector", "reseat"},
    ),
    "the same, and an older board does not blink": (
        TOOL, BLINKS + EVEN + RIGHT + MOVED + swapped("fault_goes", False, 400), "sensor_circuit", {"mode": "intermittent"}, {"clean_connector", "reseat"},
    ),
    "a ladder that drops at one tap": (
        TOOL, groups(3.9, 3.9, 0.0, 7.8, 3.9), "open_sense_wire", {"taps": [3]}, {"cell_direct_v", "look_inside"},
    ),
    "the same ladder as taps": (
        TOOL, [{"kind": "tap_v", "tap": t, "volts": v} for t, v in enumerate((3.9, 7.8, 7.82, 15.6, 19.5), start=1)], "open_sense_wire", {"taps": [3]}, {"cell_direct_v"},
    ),
    "one bank low and full at once": (
        TOOL, [*groups(4.10, 4.10, 4.11, 4.10, 3.42), {"kind": "charger", "says": "full_at_once"}], "imbalance", {"groups": [5]}, set(),
    ),
    "two cells dead and one bulged in nickel": (
        NICKEL, [*groups(1.30, 1.31, 1.30, 0.02, 1.30, 1.29, 0.0, 1.30, 1.31, 1.30), {"kind": "seen", "what": "bulged", "at": {"groups": [4]}}], "dead_group", {"groups": [4, 7]}, set(),
    ),
    "two groups run flat and a dead charger light": (
        LAMP, [*groups(1.92, 1.87), {"kind": "charger", "says": "no_reaction"}], "run_flat", {"groups": [1, 2]}, set(),
    ),
    "healthy registers, switches on, no current, answers only when fed": (
        TABLET,
        [*groups(3.84, 3.84, 3.85), {"kind": "terminal_v", "volts": 0.0}, {"kind": "tool", "does": "dead"},
         {"kind": "registers", "permanent_failure": False, "charge_switch": True, "discharge_switch": True, "soc": 0.5, "answers_unpowered": False}],
        "board_supply", {}, {"rail_v", "path_v"},
    ),
    "evenly worn, a minute's run and full rest voltage": (
        {**TOOL, "age_years": 9}, [*groups(4.15, 4.15, 4.16, 4.15, 4.15), {"kind": "tool", "does": "short_run"}], "worn", {}, set(),
    ),
    "a jack that works when wiggled": (
        {**TOOL, "kind": "appliance"}, [{"kind": "tool", "does": "dead"}, {"kind": "moving_changes", "what": "output", "changes": True}], "main_lead", {}, set(),
    ),
    "a fault that came after a rebuild": (
        TOOL, [*EVEN, *BLINKS, {"kind": "history", "what": "opened_before"}, {"kind": "sensor_ohm", "ohm": 5e6}], "sensor_circuit", {"mode": "open"}, set(),
    ),
}  # fmt: skip
