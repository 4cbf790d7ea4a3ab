"""What each test would show under each hypothesis: classes of outcome and their chances, given what is known already."""

from collections.abc import Callable

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.judge import tables
from saldatura.battery.judge.group_outcomes import Outcomes, capacity, fall, groups_read, resistance, rested_a_day, tabs
from saldatura.battery.judge.posterior import Belief, Hypothesis
from saldatura.battery.judge.witness import (
    SENSOR_CLASSES,
    lost_at_switch,
    mechanism_shares,
    path_likelihoods,
    registers_factors,
    sensor_reads,
    sensor_shares,
    swap,
)
from saldatura.battery.measures.evidence import Reference, Registers

LOOK_OUTSIDE = ("swollen", "leak", "heat_marks", "opened_before")
LOOK_INSIDE = (
    "bulged",
    "leak",
    "corrosion",
    "heat_marks",
    "burnt_part",
    "missing_part",
    "broken_wire",
    "loose_joint",
    "torn_tab",
)


def outcomes_of(belief: Belief, keep: list[Hypothesis], test: str) -> Outcomes | None:
    """What a test would show, or None where it tells nothing that is not known."""
    make = _MAKERS.get(test)
    if make is None:
        return None
    return make(belief, keep)


def _from_causes(keep: list[Hypothesis], chances: Array, either: bool = False) -> Outcomes:
    """From chances by cause, (C, outcomes), to chances by hypothesis; `either`: the first outcome shows if one of two does it."""
    first, last = (np.array([h.causes[i] for h in keep]) for i in (0, -1))
    found = (chances[first] + chances[last]) / 2
    if either:
        found[:, 0] = np.maximum(chances[first, 0], chances[last, 0])
        found[:, 1] = 1 - found[:, 0]
    return Outcomes(found / found.sum(axis=1, keepdims=True))


def _symptom(kind: str) -> Callable[[Belief, list[Hypothesis]], Outcomes | None]:
    def make(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
        if any(e.kind == kind for e in belief.evidence):
            return None
        joint = mechanism_shares(belief.evidence)
        share = joint / np.maximum(joint.sum(axis=1, keepdims=True), 1e-12)
        return _from_causes(keep, share @ tables.symptoms(kind))

    return make


def _told(kind: str, values: tuple[str, ...] = ()) -> Callable[[Belief, list[Hypothesis]], Outcomes | None]:
    def make(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
        known = {e.what for e in belief.evidence if e.kind == kind and hasattr(e, "what")}
        left = [v for v in values or tables.told_values(kind) if v not in known]
        if "nothing" in known or not left or (kind == "history" and known):
            return None
        shown = np.stack([tables.chances_of_told(kind, v) for v in left], axis=1)
        shown = shown * np.minimum(1.0, 0.95 / shown.sum(axis=1, keepdims=True))
        return _from_causes(keep, np.concatenate([shown, 1 - shown.sum(axis=1, keepdims=True)], axis=1))

    return make


def _moving(what: str) -> Callable[[Belief, list[Hypothesis]], Outcomes | None]:
    def make(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
        if any(e.kind == "moving_changes" and e.what == what for e in belief.evidence):
            return None
        said = {(e.kind, getattr(e, "says", None)) for e in belief.evidence}
        if what == "blink" and not (
            any(e.kind == "blink" for e in belief.evidence) or ("charger", "fault_blink") in said
        ):
            return None
        yes = tables.chances_of_told("moving", what)
        return _from_causes(keep, np.stack([yes, 1 - yes], axis=1), either=True)

    return make


def _tried(kind: str, what: str) -> Callable[[Belief, list[Hypothesis]], Outcomes | None]:
    def make(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
        if any(getattr(e, "did", None) == what or (getattr(e, "put", None) == what) for e in belief.evidence):
            return None
        trusted = Reference(same_revision=True, proved_days_ago=30)
        return _from_causes(keep, swap(what, trusted) if kind == "swap" else tables.tried(what))

    return make


def _sensor(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    if sensor_reads(belief.found):
        return None
    return _from_causes(keep, sensor_shares(False)[:, : len(SENSOR_CLASSES)])


def _path(ends: bool) -> Callable[[Belief, list[Hypothesis]], Outcomes | None]:
    def make(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
        read = path_likelihoods(belief.pack, belief.found)
        if (ends and read is not None) or (not ends and len([p for p in belief.found.path if p.node != "string"]) >= 3):
            return None
        where = tables.lost() * (read if read is not None else 1.0)
        where = where / where.sum(axis=1, keepdims=True)
        if ends:
            where = np.stack([where[:, 0], where[:, 1:].sum(axis=1)], axis=1)
        found = _from_causes(keep, 0.95 * where + 0.05 / where.shape[1])
        return found

    return make


def _rail(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    if any(r.rail == "board_supply" for r in belief.found.rails):
        return None
    yes = tables.chances_of_told("rail", "board_supply_low")
    return _from_causes(keep, np.stack([yes, 1 - yes], axis=1), either=True)


def _gate(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    if any(r.rail == "gate" for r in belief.found.rails) or not lost_at_switch(belief.pack, belief.found):
        return None
    yes = tables.chances_of_told("rail", "gate_driven")
    return _from_causes(keep, np.stack([yes, 1 - yes], axis=1), either=True)


def _registers(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    if any(e.kind == "registers" for e in belief.evidence):
        return None
    if belief.pack.gauge is False or (belief.pack.gauge is None and belief.pack.kind != "laptop"):
        return None
    shows = [
        f.likelihood
        for f in registers_factors(Registers(permanent_failure=True, answers_unpowered=False, charge_switch=False), 0)
    ]
    flag, switch, silent = shows
    first = np.stack([silent, (1 - silent) * flag, (1 - silent) * (1 - flag) * switch], axis=1)
    return _from_causes(keep, np.concatenate([first, 1 - first.sum(axis=1, keepdims=True)], axis=1))


# --- the string


_MAKERS: dict[str, Callable[[Belief, list[Hypothesis]], Outcomes | None]] = {
    "ask_charger": _symptom("charger"),
    "ask_tool": _symptom("tool"),
    "look_at_lamps": _symptom("blink"),
    "ask_history": _told("history"),
    "look_outside": _told("seen", LOOK_OUTSIDE),
    "look_inside": _told("seen", LOOK_INSIDE),
    "terminal_v": _path(ends=True),
    "group_v": groups_read,
    "group_v_after_rest": rested_a_day,
    "cell_direct_v": tabs,
    "resistance": resistance(False),
    "acir": resistance(True),
    "capacity": capacity,
    "rest_fall": fall,
    "sensor_ohm": _sensor,
    "moving_blink": _moving("blink"),
    "moving_output": _moving("output"),
    "moving_sensor": _moving("sensor"),
    "moving_group_v": _moving("group_v"),
    "path_v": _path(ends=False),
    "rail_v": _rail,
    "gate_v": _gate,
    "registers": _registers,
    "clean_connector": _tried("action", "cleaned_connector"),
    "reseat": _tried("action", "reseated"),
    "resolder": _tried("action", "resoldered"),
    "charge_group": _tried("action", "charged_group"),
    "swap_charger": _tried("swap", "charger"),
    "swap_tool": _tried("swap", "tool"),
    "swap_pack": _tried("swap", "pack"),
    "swap_harness": _tried("swap", "harness"),
    "swap_board": _tried("swap", "board"),
}
