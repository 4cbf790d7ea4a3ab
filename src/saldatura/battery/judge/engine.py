"""The `judge` computation: causes ranked by all evidence, the tests that tell most for their minutes, and when to stop."""

import math

import numpy as np

from saldatura.battery.judge import tables
from saldatura.battery.judge.hazards import dangers
from saldatura.battery.judge.next_test import MOST_TESTS, Worth, best_repair, enough, wants_tabs, worth
from saldatura.battery.judge.posterior import WIRES, Belief, believe
from saldatura.battery.judge.types import Cause, Judgement, JudgeRequest, NextTest, Where
from saldatura.battery.judge.words import engine as words
from saldatura.battery.judge.words.why import go_on_because, missing, place, speaks, told_apart_says, where_words
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.measures.evidence import (
    Action,
    Blink,
    BoardFeeds,
    ChargerSays,
    History,
    MovingChanges,
    Registers,
    Swap,
    ToolDoes,
    evidence_words,
)
from saldatura.battery.quantities import groups_words
from saldatura.battery.reconcile.words import TURNED
from saldatura.battery.string.hazard import in_scope

# Causes less likely than this are not listed, and answers less likely than this given all else are doubted.
LEAST, DOUBTFUL = 0.004, 0.12
NOTED = ChargerSays | ToolDoes | Blink | MovingChanges | History | BoardFeeds | Registers | Action


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
        because=go_on_because(belief, done, repair, sure, tests),
    )


def _causes(belief: Belief) -> list[Cause]:
    """Causes by chance; a sensor circuit's modes count as one cause, with the likeliest mode."""
    chief, present = belief.chief(), belief.present()
    by_name: dict[str, list[int]] = {}
    for c, row in enumerate(tables.causes()):
        by_name.setdefault(row.name, []).append(c)
    found = []
    for name, which in by_name.items():
        p = float(chief[which].sum())
        if p < LEAST:
            continue
        best = max(which, key=lambda c: chief[c])
        at = place(belief, best)
        pro, con = speaks(belief, best, at)
        row, where = tables.causes()[best], where_words(at)
        found.append(
            Cause(
                cause=name,
                at=at,
                probability=math.floor(p * 1e4) / 1e4,
                present=round(min(float(present[which].sum()), 1.0), 4),
                says=row.says[:1].upper() + row.says[1:] + (f": {where}" if where else ""),
                supporting=pro,
                against=con,
                missing=missing(belief, name),
            )
        )
    return sorted(found, key=lambda cause: -cause.probability)


def _test(belief: Belief, worth: Worth) -> NextTest:
    return NextTest(
        test=worth.row.test,
        at=Where(groups=list(worth.groups)),
        information_bits=round(worth.bits, 3),
        minutes=round(worth.minutes, 1),
        waits_h=worth.row.waits_h,
        opens_pack=worth.opens,
        evidence=worth.row.evidence,
        says=worth.row.says
        + (f": {groups_words(worth.groups).lower()}" if worth.row.test == "cell_direct_v" else "")
        + ".",
        because=told_apart_says(belief, worth),
    )


def _doubts(belief: Belief) -> list[str]:
    """Reference parts and answers that contradict the rest: what they said is unlikely by all that else is known."""
    said = []
    boards = [
        e
        for e in belief.evidence
        if isinstance(e, Swap) and e.put == "board" and e.result in ("fault_stays", "another_fault")
    ]
    if len(boards) >= 2:
        said.append(words.reference_boards_show_fault(len(boards)))
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
                why = words.ANOTHER_REVISION_MAY_LACK if e.reference.same_revision is False else words.PROVE_IT_ON_SOUND
                said.append(words.doubt_fits_of_what(part, evidence_words(e), expected, why))
        elif isinstance(e, NOTED) and float((belief.chief() * f.likelihood).sum()) < 0.06:
            said.append(words.fits_little_of_rest(evidence_words(e)))
    foreign = [
        e for e in belief.evidence if isinstance(e, Swap) and e.put == "board" and e.reference.same_revision is False
    ]
    if foreign and not any("revision" in s for s in said):
        said.append(words.BOARD_TRIED)
    if any(
        set(h.keys) & set(WIRES) for h, p in zip(belief.hypotheses, belief.p, strict=True) if p > 0.5
    ) and wants_tabs(belief):
        said.append(words.CELLS_BEHIND_DOUBTFUL_WIRE)
    return said
