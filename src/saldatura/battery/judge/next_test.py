"""The tests that tell most about the repair for their minutes, and whether any still would."""

import math
from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge import group_outcomes, outcomes, tables
from saldatura.battery.judge.hazards import unsafe
from saldatura.battery.judge.posterior import WIRES, Belief, Hypothesis
from saldatura.battery.judge.tables import TestRow, catalogue

# To take the case off, where nothing says that it is off.
OPENING_MIN = 6.0
# What an hour of waiting costs beside the bench minutes, and what a risk of 1 does, both as minutes.
WAIT_MIN_H, RISK_MIN = 0.35, 6.0
# What a wrong repair costs, min, with the pack that comes back; and what a bit is worth of a right one, where no single outcome
# would turn the choice.
WRONG_MIN, BITS_WORTH = 310.0, 0.1
LEAST_BITS, MOST_TESTS = 0.012, 6
# Sure enough to begin with the repair.
SURE = 0.9
INSIDE = ("cell_direct_v", "path_v", "rail_v", "group_v", "tap_v", "span_v", "acir", "resistance")
SEEN_INSIDE = ("bulged", "burnt_part", "missing_part", "broken_wire", "loose_joint", "torn_tab")
# Tries that are the repair itself, if it is the one: their minutes are not lost.
CURES = {
    "clean_connector": ("sensor",), "reseat": ("sensor",), "resolder": ("joint", "lead"), "swap_charger": ("charger",),
    "swap_tool": ("tool",),
}  # fmt: skip
CURE_BITS, LEAST_MIN = 0.5, 0.3


@dataclass(frozen=True)
class Worth:
    """A test with what it tells of the repair in bits, what it takes in minutes, and by how much it raises the chance to choose
    the right repair; `score` is what the order goes by."""

    row: TestRow
    bits: float
    minutes: float
    groups: tuple[int, ...]
    opens: bool
    gain: float
    score: float


Repair = tuple[str, tuple[int, ...]]


def repair_of(h: Hypothesis) -> tuple[Repair, ...]:
    """What would be done under a hypothesis: repairs with the groups they are done to."""
    found = []
    for c in h.causes:
        row = tables.causes()[c]
        touched = h.touched(row.name) if row.repair in ("cells",) else {}
        found.append((row.repair, tuple(sorted(g for g, p in touched.items() if p > 0.5))))
    return tuple(sorted(set(found)))


def repairs(belief: Belief) -> dict[tuple[Repair, ...], float]:
    """Chance of each repair, or pair of repairs, being the right one."""
    known: dict[tuple[Repair, ...], float] | None = belief.memo.get("repairs")
    if known is not None:
        return known
    found: dict[tuple[Repair, ...], float] = {}
    belief.memo["repairs"] = found
    for h, p in zip(belief.hypotheses, belief.p, strict=True):
        key = repair_of(h)
        found[key] = found.get(key, 0.0) + float(p)
    return found


def best_repair(belief: Belief) -> tuple[str, float]:
    """The repair that is likeliest a part of what has to be done, and how likely."""
    total: dict[str, float] = {}
    for key, p in repairs(belief).items():
        for name in {name for name, _ in key}:
            total[name] = total.get(name, 0.0) + p
    name = max(total, key=lambda n: total[n])
    return name, total[name]


def worth(belief: Belief) -> list[Worth]:
    """Every test that may be done in this state and tells something, by bits a minute."""
    kept = [i for i in np.argsort(-belief.p)[:90] if belief.p[i] > 4e-4]
    keep = [belief.hypotheses[i] for i in kept]
    p = belief.p[kept] / belief.p[kept].sum()
    keys = [repair_of(h) for h in keep]
    order = {key: i for i, key in enumerate(dict.fromkeys(keys))}
    member = np.zeros((len(order), len(keep)))
    for i, key in enumerate(keys):
        member[order[key], i] = 1.0
    before = float((member @ p).max())
    barred = unsafe(belief)
    found = []
    for row in catalogue():
        if row.test in barred or not fits(belief, row):
            continue
        shown = outcomes.outcomes_of(belief, keep, row.test)
        if shown is None:
            continue
        bits, known = information(member * p, shown.chances)
        owed = (row.test == "cell_direct_v" and wants_tabs(belief)) or (row.test == "group_v" and wants_groups(belief))
        if bits >= LEAST_BITS or owed:
            minutes, opens = _minutes(belief, row, len(shown.groups))
            cured = _cured(row, keep, p, shown.chances)
            score = (bits + CURE_BITS * cured) / (minutes * (1 - cured) + LEAST_MIN)
            gain = known - before
            found.append(Worth(row, bits, minutes, shown.groups, opens, gain, math.inf if owed else score))
    return sorted(found, key=lambda w: -w.score)


def _cured(row: TestRow, keep: list[Hypothesis], p: Array, chances: Array) -> float:
    """The chance that a try is the repair, and works."""
    cures = CURES.get(row.test, ())
    right = [bool({tables.causes()[c].repair for c in h.causes} & set(cures)) for h in keep]
    return float((p * np.array(right) * chances[:, tables.RESULTS.index("fault_goes")]).sum()) if any(right) else 0.0


def information(weight: Array, chances: Array) -> tuple[float, float]:
    """Mutual information of repair and outcome in bits, from (R, H) weights and (H, O) chances, and the chance to name the right
    repair afterwards."""
    joint = weight @ chances
    repair, outcome = joint.sum(axis=1, keepdims=True), joint.sum(axis=0, keepdims=True)
    with np.errstate(divide="ignore", invalid="ignore"):
        bits = np.where(joint > 0, joint * np.log2(joint / (repair * outcome)), 0.0)
    return float(bits.sum()), float(joint.max(axis=0).sum())


def opened(belief: Belief) -> bool:
    """Whether the case is off already, as far as the evidence tells."""
    if belief.pack.opened is not None:
        return belief.pack.opened
    return any(
        e.kind in INSIDE
        or (e.kind == "seen" and e.what in SEEN_INSIDE)
        or (e.kind == "swap" and e.put in ("board", "harness"))
        or (e.kind == "action" and e.did != "woke")
        for e in belief.evidence
    )


def _minutes(belief: Belief, row: TestRow, groups: int) -> tuple[float, bool]:
    opens = row.opens == "yes" or (row.opens == "pins" and belief.pack.kind != "drone")
    opens = opens and not opened(belief)
    minutes = row.minutes
    if row.test == "group_v":
        minutes = 0.5 + 0.12 * groups
    elif row.test == "acir":
        minutes = 1.0 + 0.3 * belief.pack.series
    elif row.test == "cell_direct_v":
        minutes = 0.8 + 0.4 * groups
    return minutes + WAIT_MIN_H * row.waits_h + RISK_MIN * row.risk + OPENING_MIN * opens, opens


def fits(belief: Belief, row: TestRow) -> bool:
    """Whether the pack has what the test looks at."""
    pack = belief.pack
    nickel = WINDOWS[pack.chemistry].family == "nickel"
    if row.test in ("swap_board", "rail_v", "look_at_lamps", "moving_blink") and (pack.kind == "drone" or nickel):
        return any(e.kind in ("blink", "rail_v", "registers") for e in belief.evidence)
    if row.test in ("sensor_ohm", "moving_sensor", "clean_connector") and pack.kind == "drone":
        return False
    return not (row.test in ("swap_harness", "moving_group_v") and nickel)


def enough(belief: Belief, tests: list[Worth]) -> bool:
    """Whether no test left would change the repair: one is nearly certain, or nothing that may be done tells."""
    if unsafe(belief) >= {"look_outside"}:
        return True
    if wants_tabs(belief) or (wants_groups(belief) and any(w.row.test == "group_v" for w in tests)):
        return False
    sure = max(repairs(belief).values())
    name_p = best_repair(belief)[1]
    if max(sure, name_p) >= SURE:
        return True
    # A test pays where what it may spare of a wrong repair is more than its own minutes.
    return not any(WRONG_MIN * max(w.gain, BITS_WORTH * w.bits) > w.minutes for w in tests)


def wants_groups(belief: Belief) -> bool:
    """New cells go into a group: as long as nobody knows which, the repair is none yet."""
    if belief.pack.series == 1 or best_repair(belief)[0] != "cells":
        return False
    placed = {True: 0.0, False: 0.0}
    for key, p in repairs(belief).items():
        for name, groups in key:
            if name == "cells":
                placed[bool(groups)] += p
    return placed[False] > placed[True]


def wants_tabs(belief: Belief) -> bool:
    """An open wire says where to read next, never that the cells are fine; and a group that reads dead through its pins may be
    a wire: neither before the cells' own tabs were read."""
    lithium = WINDOWS[belief.pack.chemistry].family == "lithium"
    about = {*WIRES, *(("dead_group", "reversed_group") if lithium and belief.found.pins else ())}
    share = sum(float(p) for h, p in zip(belief.hypotheses, belief.p, strict=True) if set(h.keys) & about)
    return share > 0.5 and bool(group_outcomes.doubtful_groups(belief))
