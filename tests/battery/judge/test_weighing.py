"""The weighing behind the judgement, against slow sums over every case and against packs simulated for the test."""

import itertools
import math

import numpy as np
import pytest

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.judge import tables
from saldatura.battery.judge.account import TOUCHES
from saldatura.battery.judge.grid import WEAR
from saldatura.battery.judge.next_test import information
from saldatura.battery.judge.posterior import believe
from saldatura.battery.judge.readings import sort
from saldatura.battery.judge.siblings import siblings
from saldatura.battery.judge.string import String
from saldatura.battery.judge.types import JudgedPack, JudgeRequest
from saldatura.battery.judge.witness import swap, trust
from saldatura.battery.measures.evidence import Reference
from saldatura.battery.pack.build import build
from saldatura.battery.pack.drive import ConstantCurrent
from saldatura.battery.pack.faults import CellFault
from saldatura.battery.pack.model import PackState, advance, group_volts
from saldatura.battery.quantities import Pack
from tests.battery.judge.cases import Evidence, groups

FOUR = JudgedPack(chemistry="nmc", series=4, parallel=1, rated_ah=4.0, kind="power_tool")


def string_of(evidence: Evidence) -> String:
    request = JudgeRequest.model_validate({"pack": FOUR.model_dump(), "evidence": evidence})
    return String.from_sorted(FOUR, sort(FOUR, request.evidence), {})


def log_sum(string: String, weights: dict[frozenset[int], float], cause: str) -> float:
    """Log probability of the evidence, summed over every set of touched groups, node by node."""
    total = np.zeros_like(string.sound[0])
    for touched, weight in weights.items():
        log = string.sound.sum(axis=0)
        for g in touched:
            log = log + np.log(string.odds[cause][g])
        total += weight * np.exp(log)
    node = string.grid.node_p[:, None] * WEAR.sound[None, :]
    return math.log(float((node * total).sum()))


@pytest.mark.parametrize("cause", ["imbalance", "weak_group", "leaking_group"])
def test_touched_groups_are_summed_over_as_a_slow_sum_over_all_sets_does(cause: str) -> None:
    string = string_of(groups(3.92, 3.90, 3.61, 3.91))
    chance = string._chance(cause)
    sets = [frozenset(s) for n in range(1, 5) for s in itertools.combinations(range(4), n)]
    raw = {s: chance ** len(s) * (1 - chance) ** (4 - len(s)) for s in sets}
    given = {s: w / sum(raw.values()) for s, w in raw.items()}
    account = string.touched(cause)
    assert account.log_p == pytest.approx(log_sum(string, given, cause), abs=1e-6)
    # Which group it is: the chance of the sets that hold it, out of all.
    share = [
        math.exp(log_sum(string, {s: w for s, w in given.items() if g in s}, cause) - account.log_p) for g in range(4)
    ]
    assert [account.states[g + 1][cause] for g in range(4)] == pytest.approx(share, abs=1e-6)
    assert share[2] > 0.99 > 0.5 > max(share[0], share[1], share[3])


def test_two_causes_are_summed_over_as_a_slow_sum_does() -> None:
    string = string_of(groups(3.92, 3.20, 3.61, 3.91))
    one, other = "imbalance", "weak_group"
    a, b = (0.8 * string._chance(c) for c in (one, other))
    total, prior = np.zeros_like(string.sound[0]), 0.0
    for states in itertools.product((None, one, other), repeat=4):
        if not {one, other} <= set(states):
            continue
        weight = math.prod({None: 1 - a - b, one: a, other: b}[s] for s in states)
        prior += weight
        log = string.sound.sum(axis=0)
        for g, s in enumerate(states):
            log = log if s is None else log + np.log(string.odds[s][g])
        total += weight * np.exp(log)
    node = string.grid.node_p[:, None] * WEAR.sound[None, :]
    slow = math.log(float((node * total).sum()) / prior)
    assert string.both(one, other).log_p == pytest.approx(slow, abs=1e-6)


def testinformation_is_that_of_the_joint_table() -> None:
    rng = np.random.default_rng(3)
    weight = rng.dirichlet(np.ones(6)).reshape(2, 3)
    chances = rng.dirichlet(np.ones(4), size=3)
    joint = np.array([[sum(weight[r, h] * chances[h, o] for h in range(3)) for o in range(4)] for r in range(2)])

    def entropy(p: np.ndarray) -> float:
        return -float(sum(x * math.log2(x) for x in p.ravel() if x > 0))

    bits, known = information(weight, chances)
    assert bits == pytest.approx(entropy(joint.sum(axis=1)) + entropy(joint.sum(axis=0)) - entropy(joint))
    assert known == pytest.approx(sum(max(joint[0, o], joint[1, o]) for o in range(4)))
    # A test that shows the same whatever it is tells nothing.
    assert information(weight, np.tile(chances[0], (3, 1)))[0] == pytest.approx(0, abs=1e-12)


def test_weak_groups_simulated_afresh_lie_where_the_table_expects_them() -> None:
    """Of other sizes and depths than the table's: each must be likelier as a weak group than as a sound one."""
    rng = np.random.default_rng(11)
    pack, curve = Pack(chemistry="nmc", series=3, parallel=1, rated_ah=3.0), middle_curve("nmc")
    bank = siblings("nmc")["weak"]
    seen = 0
    for _ in range(12):
        left = float(rng.uniform(0.3, 0.65))
        model = build(pack, 0.99, [CellFault(kind="low_capacity", group=2, size=left)])
        depth = float(rng.uniform(0.15, 0.9)) * left * 3.0 * 3600
        at, _ = advance(model, PackState.at_rest(model, 22.0), ConstantCurrent(amps=-1.5), depth / 1.5, 1.0, 22.0)
        at, _ = advance(model, at, ConstantCurrent(amps=0.0), 7200, 10.0, 22.0)
        volts = group_volts(model, at)
        soc = np.array([curve.soc_at(float(volts[0]))])
        expected, spread, _ = bank.rest_volts("nmc", soc)
        sigma = np.hypot(spread, 0.012)
        density = bank.weights(soc) * np.exp(-0.5 * ((volts[1] - expected) / sigma) ** 2) / sigma
        level = math.exp(-0.5 * float((volts[1] - volts[0]) / 0.015) ** 2) / 0.015
        seen += float(density.sum()) > level
        # And the likely ones lie near the truth, not anywhere.
        assert float((bank.weights(soc) * (np.abs(expected - volts[1]) < 0.25)).sum()) > 0.15
    assert seen >= 11


def test_trust_in_a_reference_grows_with_its_revision_and_its_proof() -> None:
    best = Reference(same_revision=True, proved_days_ago=5)
    worse = [
        Reference(same_revision=True, proved_days_ago=2000), Reference(same_revision=None, proved_days_ago=5),
        Reference(same_revision=False, proved_days_ago=5),
    ]  # fmt: skip
    assert all(trust(best) > trust(w) for w in worse)
    at = tables.index()

    def odds(reference: Reference) -> float:
        goes = swap("board", reference)[:, tables.RESULTS.index("fault_goes")]
        return float(goes[at["board_failed"]] / goes[at["dead_group"]])

    # Put in and the fault goes: with a part nobody trusts that says next to nothing.
    assert odds(best) > 6
    assert odds(Reference(same_revision=False, proved_days_ago=2000)) < 2
    for reference in (best, *worse):
        assert swap("board", reference).sum(axis=1) == pytest.approx(1)


def test_every_row_of_evidence_is_weighed_once_however_it_is_read() -> None:
    """A ladder read as taps, as groups, or both in turn leads to one belief."""
    volts = (3.91, 3.90, 3.42, 3.90)
    taps = [{"kind": "tap_v", "tap": t, "volts": round(sum(volts[:t]), 3)} for t in range(1, 5)]
    spans = [{"kind": "span_v", "from_tap": t - 1, "to_tap": t, "volts": volts[t - 1]} for t in range(1, 5)]
    lead = {}
    for name, evidence in (("taps", taps), ("groups", groups(*volts)), ("spans", spans)):
        belief = believe(JudgeRequest.model_validate({"pack": FOUR.model_dump(), "evidence": evidence}))
        lead[name] = belief.present()[[tables.index()[c] for c in TOUCHES]]
    assert lead["groups"] == pytest.approx(lead["spans"], abs=1e-6)
    assert np.abs(lead["taps"] - lead["groups"]).max() < 0.12
    assert lead["groups"].sum() > 0.8


def test_a_sum_that_lacks_a_group_tells_of_one_before_any_group_is_read() -> None:
    full = believe(
        JudgeRequest.model_validate({"pack": FOUR.model_dump(), "evidence": [{"kind": "terminal_v", "volts": 16.4}]})
    )
    less = believe(
        JudgeRequest.model_validate({"pack": FOUR.model_dump(), "evidence": [{"kind": "terminal_v", "volts": 12.3}]})
    )
    dead = tables.index()["dead_group"]
    # A string that reads 12.3 V may be one of four at 3.08 V, near empty, or three at 4.1 V and one dead.
    assert less.present()[dead] > 2 * full.present()[dead]
