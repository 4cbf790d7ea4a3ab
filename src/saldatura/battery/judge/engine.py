"""The `judge` computation: causes ranked by all evidence, the tests that tell most for their minutes, and when to stop."""

import math

import numpy as np

from saldatura.battery.judge import outcomes, tables
from saldatura.battery.judge.hazards import dangers, overcharged, unsafe
from saldatura.battery.judge.next_test import CURES, MOST_TESTS, Worth, best_repair, enough, wants_tabs, worth
from saldatura.battery.judge.posterior import WIRES, Belief, believe
from saldatura.battery.judge.types import Cause, Judgement, JudgeRequest, NextTest, Where
from saldatura.battery.judge.words import missing, place, speaks, where_words
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.measures.evidence import (
    Action,
    Blink,
    ChargerSays,
    History,
    MovingChanges,
    Registers,
    Swap,
    ToolDoes,
    evidence_words,
)
from saldatura.battery.quantities import groups_words
from saldatura.battery.reconcile.solve import TURNED
from saldatura.battery.string.hazard import in_scope

# Causes less likely than this are not listed, and answers less likely than this given all else are doubted.
LEAST, DOUBTFUL = 0.004, 0.12
NOTED = ChargerSays | ToolDoes | Blink | MovingChanges | History | Registers | Action
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


def judge(request: JudgeRequest, policy: Policy = DEFAULT_POLICY) -> Judgement:
    """Judge a pack by all evidence. Raises Impossible for evidence that cannot be so, and for a pack above the voltage limit."""
    in_scope(request.pack, policy=policy)
    belief = believe(request, policy)
    tests = worth(belief)
    done = enough(belief, tests)
    repair, sure = best_repair(belief)
    return Judgement(
        causes=_causes(belief),
        next_tests=[_test(belief, w) for w in tests[:MOST_TESTS]],
        enough=done,
        hazards=([TURNED] if belief.turned else []) + dangers(belief),
        doubts=_doubts(belief),
        repair=repair,
        because=_because(belief, done, repair, sure, tests),
    )


def _causes(belief: Belief) -> list[Cause]:
    """Causes by chance; a sensor circuit's modes count as one cause, with the likeliest mode."""
    chief, present = belief.chief(), belief.present()
    by_name: dict[str, list[int]] = {}
    for c, row in enumerate(tables.causes()):
        by_name.setdefault(row.name, []).append(c)
    found = []
    for name, of in by_name.items():
        p = float(chief[of].sum())
        if p < LEAST:
            continue
        best = max(of, key=lambda c: chief[c])
        at = place(belief, best)
        pro, con = speaks(belief, best, at)
        row, where = tables.causes()[best], where_words(at)
        found.append(
            Cause(
                cause=name,
                at=at,
                probability=math.floor(p * 1e4) / 1e4,
                present=round(min(float(present[of].sum()), 1.0), 4),
                says=row.says[:1].upper() + row.says[1:] + (f": {where}" if where else ""),
                supporting=pro,
                against=con,
                missing=missing(belief, name),
            )
        )
    return sorted(found, key=lambda cause: -cause.probability)


def _test(belief: Belief, of: Worth) -> NextTest:
    return NextTest(
        test=of.row.test,
        at=Where(groups=list(of.groups)),
        information_bits=round(of.bits, 3),
        minutes=round(of.minutes, 1),
        waits_h=of.row.waits_h,
        opens_pack=of.opens,
        evidence=of.row.evidence,
        says=of.row.says + (f": {groups_words(of.groups).lower()}" if of.row.test == "cell_direct_v" else "") + ".",
        because=_told_apart(belief, of),
    )


def _told_apart(belief: Belief, of: Worth) -> str:
    """The two likely causes that a test parts best."""
    if of.row.test == "cell_direct_v" and wants_tabs(belief):
        return (
            "Read through its pins a group shows its wires as well: two known as a sum may hide one full and one flat."
        )
    top = [int(c) for c in np.argsort(-belief.chief())[:5]]
    singles = {h.causes[0]: h for h in belief.hypotheses if len(h.causes) == 1}
    keep = [(c, singles[c]) for c in top if c in singles]
    shown = outcomes.outcomes_of(belief, [h for _, h in keep], of.row.test) if len(keep) > 1 else None
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
    if any(tables.causes()[top[0]].repair == r for r in CURES.get(of.row.test, ())):
        also = " If it is the first, this is the repair as well."
    return f"It tells “{one}” from “{other}”.{also}"


def _because(belief: Belief, done: bool, repair: str, sure: float, tests: list[Worth]) -> str:
    """Whether to go on, and why."""
    what = REPAIRS[repair]
    if repair == "level" and overcharged(belief):
        what = "Bring the overcharged group down, watched"
    if unsafe(belief) >= {"look_outside"}:
        return (
            "Quarantine first: nothing more is tried on it here. A release, or its replacement, comes before any test."
        )
    if wants_tabs(belief):
        return f"{what}: likely ({sure:.0%}), but not before the cells' own tabs beside it were read."
    if done and sure >= 0.9:
        return f"{what}: no test left would change that ({sure:.0%})."
    if done:
        return f"No test that may be done in this state tells more; likeliest so far: {what.lower()} ({sure:.0%})."
    return f"Not settled yet; likeliest so far: {what.lower()} ({sure:.0%})."


def _doubts(belief: Belief) -> list[str]:
    """Reference parts and answers that contradict the rest: what they said is unlikely by all that else is known."""
    said = []
    boards = [
        e
        for e in belief.evidence
        if isinstance(e, Swap) and e.put == "board" and e.result in ("fault_stays", "another_fault")
    ]
    if len(boards) >= 2:
        said.append(
            f"{len(boards)} reference boards show a fault on this pack: doubt the pack they are tried on, not the boards."
        )
    for f in belief.factors:
        if f.index is None:
            continue
        e = belief.evidence[f.index]
        if isinstance(e, Swap):
            # Were the part to be trusted fully, how likely was this?
            trusted = tables.tried(e.put)[:, tables.RESULTS.index(e.result)]
            without = belief.chief() / np.maximum(f.likelihood, 1e-9)
            expected = float((without / without.sum() * trusted).sum())
            if expected < DOUBTFUL:
                part = {"pack": "test pack"}.get(e.put, f"test {e.put}")
                why = (
                    "another revision may lack the very circuit in doubt"
                    if e.reference.same_revision is False
                    else "prove it on a sound one before it is believed"
                )
                said.append(
                    f"Doubt the {part}: {evidence_words(e).replace('reference ', '')} fits {expected:.0%} of what else is known; {why}."
                )
        elif isinstance(e, NOTED) and float((belief.chief() * f.likelihood).sum()) < 0.06:
            said.append(f"“{evidence_words(e)}” fits little of the rest: ask or look again.")
    foreign = [
        e for e in belief.evidence if isinstance(e, Swap) and e.put == "board" and e.reference.same_revision is False
    ]
    if foreign and not any("revision" in s for s in said):
        said.append(
            "The board tried was of another revision: it may lack the very circuit in doubt, so it counts for little."
        )
    if any(
        set(h.keys) & set(WIRES) for h, p in zip(belief.hypotheses, belief.p, strict=True) if p > 0.5
    ) and wants_tabs(belief):
        said.append("The cells behind the doubtful wire are not proved: they were read through it.")
    return said
