"""Why a cause is believed, in a technician's words: for, against, and what is missing."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from saldatura.battery.judge import outcomes, tables
from saldatura.battery.judge.account import TOUCHES
from saldatura.battery.judge.hazards import group_volts, overcharged, unsafe
from saldatura.battery.judge.next_test import CURES, wants_tabs
from saldatura.battery.judge.posterior import WIRES, Belief
from saldatura.battery.judge.types import Where
from saldatura.battery.judge.witness import lost_at_switch
from saldatura.battery.quantities import groups_words, number_words, volts_words
from saldatura.battery.wording import counted, figure, percent

if TYPE_CHECKING:
    from saldatura.battery.cell.curves import Array
    from saldatura.battery.judge.next_test import Worth

# A piece of evidence is named where it makes a cause this much likelier or less likely, as a natural logarithm.
NAMED = 0.35
LEVEL_V = 0.035
MOST = 5

Wanted = tuple[Callable[[Belief], bool], str]


def _no(*kinds: str) -> Callable[[Belief], bool]:
    return lambda b: not any(e.kind in kinds for e in b.evidence)


def _no_rail(rail: str) -> Callable[[Belief], bool]:
    return lambda b: not any(r.rail == rail for r in b.found.rails)


def _no_groups(b: Belief) -> bool:
    return len(b.found.read_groups) < b.pack.series


_GROUPS: Wanted = (_no_groups, "every group read at rest")
_GATE: Wanted = (
    lambda b: lost_at_switch(b.pack, b.found) and _no_rail("gate")(b),
    "the gate of the switch that does not pass",
)
_STEP: Wanted = (_no("resistance", "acir"), "the groups' resistances under a load")
_REST: Wanted = (_no("rest_fall", "leak"), "the same groups read again after a day's rest")
_TABS: Wanted = (_no("cell_direct_v"), "a reading on the cells' own tabs")
_PATH: Wanted = (_no("path_v"), "the voltage along the power path")
_SENSOR: Wanted = (_no("sensor_ohm"), "the sensor's resistance against the air's temperature")
MISSING: dict[str, tuple[Wanted, ...]] = {
    "imbalance": (_GROUPS, _REST),
    "weak_group": (_GROUPS, _STEP, (_no("capacity"), "the capacity of the group")),
    "dead_group": (_GROUPS, _TABS),
    "reversed_group": (_GROUPS, _TABS),
    "run_flat": (_GROUPS,),
    "worn": (_GROUPS, _STEP, (_no("capacity"), "a capacity from full to empty")),
    "leaking_group": (_GROUPS, _REST),
    "open_sense_wire": (_GROUPS, _TABS),
    "swapped_sense_wires": (_GROUPS, _TABS),
    "shorted_sense_wires": (_GROUPS, _TABS),
    "bad_joint": (_STEP, (_no("moving_changes"), "whether moving the pack changes its output")),
    "main_lead": ((_no("terminal_v", "path_v"), "the terminals against the string"), (_no("moving_changes"), "whether moving plug and leads changes the output")),
    "sensor_circuit": (_SENSOR, (_no("moving_changes"), "whether moving the sensor's plug changes anything"), (_no("action"), "cleaning its connector and trying again")),
    "board_latched": (_PATH, (_no("registers"), "the chip's registers")),
    "board_failed": (_GROUPS, _PATH, (_no("swap"), "a reference board of the same revision")),
    "board_switch": (_PATH, _GATE),
    "board_fuse": (_PATH,),
    "board_supply": ((_no_rail("board_supply"), "the board's own supply"), _PATH),
    "board_misfit": ((_no("seen"), "a look at the board: is it the one that belongs there"),),
    "gauge_lost": (_GROUPS, (_no("gauge"), "what the gauge shows")),
    "charger_fault": ((_no("swap"), "another pack on the same charger"),),
    "tool_fault": ((_no("swap"), "another pack in the same tool"),),
    "sound": (_GROUPS, (_no("tool"), "the tool tried with it")),
}  # fmt: skip


def missing(belief: Belief, cause: str) -> list[str]:
    """What nobody has looked at yet and would speak for or against a cause."""
    return [says for lacks, says in MISSING.get(cause, ()) if lacks(belief)]


def speaks(belief: Belief, c: int, at: Where) -> tuple[list[str], list[str]]:
    """Evidence for and against cause `c`, strongest first, each against what the other causes would make of it."""
    others = belief.chief() ** 0.5
    others[c] = 0.0
    others = others / max(float(others.sum()), 1e-12)
    weighed: list[tuple[float, str]] = []
    for f in belief.factors:
        rest = float((others * f.likelihood).sum())
        weighed.append((math.log(float(f.likelihood[c]) / max(rest, 1e-12)), _sentence(f.says)))
    name = tables.causes()[c].name
    string, off = _string_says(belief, name, at), bool(_off_at(belief, name, at))
    # What stands off is a sign of what it is held to have, though another cause that moves a group were to expect it more
    # nearly so: it is weighed against those that move none, and never speaks against the cause.
    weight = _string_weight(belief, c, _that_move_none(others) if off else others)
    if string and (weight > 0 or not off):
        weighed.append((weight, string))
    weighed.sort(key=lambda t: -abs(t[0]))
    pro = [says for weight, says in weighed if weight > NAMED][:MOST]
    con = [says for weight, says in weighed if weight < -NAMED][:MOST]
    return pro, con


def _sentence(says: str) -> str:
    return says[:1].upper() + says[1:].rstrip(".") + "."


def _string_weight(belief: Belief, c: int, others: Array) -> float:
    mine = belief.string_p.get((c,))
    if mine is None:
        return 0.0
    logs = np.array([belief.string_p.get((i,), -50.0) for i in range(len(others))])
    top = float(logs.max())
    rest = math.log(max(float((others * np.exp(logs - top)).sum()), 1e-12)) + top
    return mine - rest


def _that_move_none(others: Array) -> Array:
    still = np.array([cause.name not in TOUCHES for cause in tables.causes()]) * others
    return still / still.sum() if still.sum() > 0 else others


def _off_at(belief: Belief, cause: str, at: Where) -> list[int]:
    """The groups where a cause is held to be that stand off the others."""
    volts = group_volts(belief)
    plumb = float(np.median(list(volts.values()))) if volts else 0.0
    return [g for g in at.groups if cause in TOUCHES and g in volts and abs(volts[g] - plumb) > LEVEL_V]


def _string_says(belief: Belief, cause: str, at: Where) -> str:
    """What the groups read, from where this cause stands."""
    volts = group_volts(belief)
    if not volts:
        return ""
    plumb = float(np.median(list(volts.values())))
    off = {g: v for g, v in volts.items() if abs(v - plumb) > LEVEL_V}
    if cause in WIRES and at.taps:
        about = sorted({g for t in at.taps for g in (t, t + 1)} & set(volts)) or sorted(volts)[:2]
        listed = " and ".join(volts_words(volts[g]) for g in about)
        if len(about) == 2 and cause == "open_sense_wire":
            both = sum(volts[g] for g in about)
            if abs(both - 2 * plumb) < 0.04 * 2 * plumb:
                together = f"{volts_words(both)} together, as much as two of their siblings"
            else:
                together = "one low and its neighbour high, drawn down by the meter itself"
            return f"{groups_words(about)} read {listed}, {together}: a pin whose wire is open reads like this."
        one = len(about) == 1
        return f"{groups_words(about)} {'reads' if one else 'read'} {listed}, {'its' if one else 'their'} siblings {volts_words(plumb)}."
    if shown := _off_at(belief, cause, at):
        listed = ", ".join(volts_words(volts[g]) for g in shown)
        return f"{groups_words(shown)} {'reads' if len(shown) == 1 else 'read'} {listed}; the others read {volts_words(plumb)}."
    if not off:
        span = (max(volts.values()) - min(volts.values())) * 1000
        count = "all groups" if len(volts) == belief.pack.series else f"the {counted(len(volts), 'group')} read"
        return f"At rest {count} are level at {volts_words(plumb)}, within {figure(max(span, 1), 0)} mV."
    listed = "; ".join(f"{g} at {volts_words(v)}" for g, v in sorted(off.items())[:4])
    return f"These groups differ from the others' {volts_words(plumb)}: {listed}."


def place(belief: Belief, c: int) -> Where:
    """Where a cause most likely sits."""
    row = tables.causes()[c]
    groups: dict[int, float] = {}
    taps: dict[tuple[int, ...], float] = {}
    total = 0.0
    for h, p in zip(belief.hypotheses, belief.p, strict=True):
        if c not in h.causes:
            continue
        total += float(p)
        for g, share in h.touched(row.name).items():
            groups[g] = groups.get(g, 0.0) + float(p) * share
        if row.name in WIRES:
            for weight, at, _ in h.accounts:
                taps[at] = taps.get(at, 0.0) + float(p) * weight
    sure = sorted(g for g, p in groups.items() if p > 0.5 * total)
    best = max(taps, key=lambda t: taps[t], default=())
    known = [list(best)] if best and taps[best] > 0.4 * total and belief.found.pins else [[]]
    node = "fuse" if row.key == "board_fuse" else None
    return Where(
        groups=sure, taps=known[0], mode=row.mode, node=node, sensor=1 if row.name == "sensor_circuit" else None
    )


def where_words(at: Where) -> str:
    """A place in a few words; empty where it is not known."""
    if at.groups:
        return groups_words(at.groups).lower()
    if at.taps:
        return f"tap{'s' if len(at.taps) > 1 else ''} {number_words(at.taps)}"
    return ""


REPAIRS = {
    "none": "Nothing to mend in the pack",
    "level": "Level the groups",
    "cells": "New cells in the group",
    "precharge": "Bring the run-flat groups up gently",
    "recell": "New cells throughout, or another pack",
    "wire": "Mend the sense wire",
    "joint": "Mend the joint",
    "lead": "Mend the lead or contact",
    "sensor": "Clean and mend the sensor circuit",
    "board": "Another board of the same revision",
    "board_part": "Mend the part of the board that failed, or another board",
    "fuse": "Find what blew the fuse, then another fuse",
    "gauge": "Let the gauge learn: a full charge and a full run",
    "charger": "The charger, not the pack",
    "tool": "The tool, not the pack",
}


def told_apart_says(belief: Belief, worth: Worth) -> str:
    """The two likely causes that a test parts best."""
    if worth.row.test == "cell_direct_v" and wants_tabs(belief):
        return (
            "Read through its pins a group shows its wires as well: two known as a sum may hide one full and one flat."
        )
    top = [int(c) for c in np.argsort(-belief.chief())[:5]]
    singles = {h.causes[0]: h for h in belief.hypotheses if len(h.causes) == 1}
    keep = [(c, singles[c]) for c in top if c in singles]
    shown = outcomes.outcomes_of(belief, [h for _, h in keep], worth.row.test) if len(keep) > 1 else None
    if shown is None:
        return "It tells whether the likeliest cause is the one."
    chief = belief.chief()
    best, pair = -1.0, (0, 1)
    for i in range(len(keep)):
        for j in range(i + 1, len(keep)):
            apart = (
                float(np.abs(shown.chances[i] - shown.chances[j]).sum())
                * float(chief[keep[i][0]] * chief[keep[j][0]]) ** 0.5
            )
            if apart > best:
                best, pair = apart, (i, j)
    one, other = (tables.causes()[keep[k][0]].says for k in pair)
    also = ""
    if any(tables.causes()[top[0]].repair == r for r in CURES.get(worth.row.test, ())):
        also = " If it is the first, this is the repair as well."
    return f"It tells “{one}” from “{other}”.{also}"


def go_on_because(belief: Belief, done: bool, repair: str, sure: float, tests: list[Worth]) -> str:
    """Whether to go on, and why."""
    what = REPAIRS[repair]
    if repair == "level" and overcharged(belief):
        what = "Bring the overcharged group down, watched"
    if unsafe(belief) >= {"look_outside"}:
        return (
            "Quarantine first: nothing more is tried on it here. A release, or its replacement, comes before any test."
        )
    if wants_tabs(belief):
        return f"{what}: likely ({percent(sure)}), but not before the cells' own tabs beside it were read."
    if done and sure >= 0.9:
        return f"{what}: no test left would change it ({percent(sure)})."
    if done:
        return f"No test allowed in this state would tell more; likeliest so far: {what.lower()} ({percent(sure)})."
    return f"Not settled yet; likeliest so far: {what.lower()} ({percent(sure)})."
