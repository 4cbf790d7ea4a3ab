"""Belief over causes, one or two at once, from all evidence."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from itertools import combinations
from typing import Any, get_args

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.judge import tables
from saldatura.battery.judge.account import TOUCHES, Account
from saldatura.battery.judge.measured import (
    CapacityTest,
    DirectVolts,
    GroupVolts,
    Measured,
    PathVolts,
    SensorOhm,
    TerminalVolts,
)
from saldatura.battery.judge.readings import Sorted, sort
from saldatura.battery.judge.string import String
from saldatura.battery.judge.types import Evidence, JudgedPack, JudgeRequest
from saldatura.battery.judge.witness import Factor, factors, path_likelihoods
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.measures.evidence import BoardFeeds, GaugeShows, History, RailVolts, Seen, Temperature
from saldatura.battery.reconcile.solve import TURNED_SHARE

# What is measured of the string itself; the rest of it hangs on nothing that the groups share.
OF_STRING: tuple[type, ...] = tuple(
    set(get_args(get_args(Measured)[0])) - {SensorOhm, PathVolts, RailVolts, GaugeShows, Temperature}
)
# Groups at which something was seen: how much likelier each is touched by a cause.
SeenAt = tuple[tuple[int, str, float], ...]
# So many packs in a hundred have two things wrong with them.
TWO = 0.08
# What was seen or happened after which no pack is called sound.
NEVER_SOUND = ("torn_tab", "burnt_part", "heat_marks", "wet", "crash")
# Terminals below this read negative, V.
NEGATIVE_V = 0.1
# A group that was picked for a test is that much likelier the one.
PICKED = 8.0
WIRES = ("open_sense_wire", "swapped_sense_wires", "shorted_sense_wires")
# Low groups that feed the board are its draw before they are bad cells.
FED = {"imbalance": 3.0, "leaking_group": 0.1, "weak_group": 0.3}
# What is seen at a group makes it that much likelier to be the one.
SEEN_AT = {
    "swollen": 6.0,
    "bulged": 12.0,
    "leak": 10.0,
    "heat_marks": 4.0,
    "loose_joint": 8.0,
    "corrosion": 3.0,
    "torn_tab": 12.0,
}
SEEN_SHOWS = {
    "swollen": ("dead_group", "weak_group", "leaking_group"), "bulged": ("dead_group", "reversed_group", "leaking_group"),
    "leak": ("dead_group", "reversed_group", "leaking_group"), "heat_marks": ("bad_joint",), "loose_joint": ("bad_joint",),
    "corrosion": ("leaking_group",), "torn_tab": ("bad_joint", "dead_group"),
}  # fmt: skip


@dataclass(frozen=True)
class Hypothesis:
    """One cause, or two at once, by their place in the table; `accounts` of the string's evidence under it, each with a place
    (taps) where it has one, weights summing to 1."""

    causes: tuple[int, ...]
    accounts: tuple[tuple[float, tuple[int, ...], Account], ...]
    _touched: dict[str, dict[int, float]] = field(default_factory=dict, compare=False)

    @cached_property
    def keys(self) -> tuple[str, ...]:
        return tuple(tables.causes()[i].key for i in self.causes)

    def touched(self, cause: str) -> dict[int, float]:
        """How likely each group is touched by a cause under this hypothesis."""
        if cause not in self._touched:
            self._touched[cause] = self._touch(cause)
        return self._touched[cause]

    def _touch(self, cause: str) -> dict[int, float]:
        found: dict[int, float] = {}
        for weight, _, account in self.accounts:
            for g, by_cause in account.states.items():
                if cause in by_cause:
                    found[g] = found.get(g, 0.0) + weight * by_cause[cause]
        return found


@dataclass(frozen=True)
class Belief:
    """Hypotheses with their probabilities, and what they were judged by."""

    pack: JudgedPack
    evidence: Sequence[Evidence]
    found: Sorted
    string: String
    factors: list[Factor]
    string_p: dict[tuple[int, ...], float]
    hypotheses: list[Hypothesis]
    p: Array
    policy: Policy = DEFAULT_POLICY
    memo: dict[Any, Any] = field(default_factory=dict)
    reported: Sequence[Evidence] = ()
    turned: bool = False

    @property
    def window(self) -> Window:
        """The chemistry's window as the shop's policy has it."""
        return self.policy.window(self.pack.chemistry)

    def present(self) -> Array:
        """Chance that each cause is there at all, (C,)."""
        total = np.zeros(len(tables.causes()))
        for h, p in zip(self.hypotheses, self.p, strict=True):
            for c in h.causes:
                total[c] += p
        return total

    def chief(self) -> Array:
        """Chance that each cause is the chief one, (C,): two causes share what is believed of both."""
        total = np.zeros(len(tables.causes()))
        for h, p in zip(self.hypotheses, self.p, strict=True):
            for c in h.causes:
                total[c] += p / len(h.causes)
        return total


class Strings:
    """Accounts of the string's evidence, each worked out once."""

    def __init__(self, string: String) -> None:
        self.string = string
        self.known: dict[tuple[str, ...], list[tuple[tuple[int, ...], Account]]] = {}
        self.summed: dict[tuple[str, ...], tuple[float, tuple[tuple[float, tuple[int, ...], Account], ...]]] = {}

    def accounts_of(self, names: tuple[str, ...]) -> tuple[float, tuple[tuple[float, tuple[int, ...], Account], ...]]:
        """Log probability of the evidence under causes that touch the string, and its accounts with weight and taps; each account
        is as likely beforehand as the others."""
        if names not in self.summed:
            accounts = self._accounts(names)
            weight = np.array([a.log_p for _, a in accounts])
            top = float(weight.max())
            share = np.exp(weight - top)
            log = top + float(np.log(share.mean()))
            share = share / share.sum()
            kept = tuple((float(w), taps, a) for w, (taps, a) in zip(share, accounts, strict=True) if w > 0.01)
            self.summed[names] = (log, kept)
        return self.summed[names]

    def _accounts(self, names: tuple[str, ...]) -> list[tuple[tuple[int, ...], Account]]:
        s = self.string
        groups = [n for n in names if n in TOUCHES]
        wires = [n for n in names if n in WIRES]
        worn = "worn" in names
        if wires:
            if wires[0] == "open_sense_wire" and groups and s.found.pins:
                with_it = s.open_and_touched(groups[0])
                return with_it or [((), s.touched(groups[0]))]
            if wires[0] == "open_sense_wire":
                return [((tap,), a) for tap, a in enumerate(s.open_wires)]
            return [((a, b), account) for a, b, account in (s.swapped if wires[0].startswith("swapped") else s.shorted)]
        if len(groups) == 2:
            return [((), s.both(*groups))]
        if groups == ["run_flat"] and not worn:
            return [((), s.touched("run_flat")), ((), s.run_flat_together())]
        if groups:
            return [((), s.touched(groups[0], worn))]
        return [((), s.all_sound(worn))]


def touches_string(name: str) -> bool:
    """Whether a cause changes what is read of the groups."""
    return name in TOUCHES or name in WIRES or name == "worn"


@lru_cache(maxsize=128)
def _strings(pack: JudgedPack, measured: tuple[Any, ...], seen_at: SeenAt, whole: bool) -> Strings:
    """What was measured of the string, weighed once however often more is told."""
    at: dict[int, dict[str, float]] = {}
    for g, cause, factor in seen_at:
        by_cause = at.setdefault(g, {})
        by_cause[cause] = by_cause.get(cause, 1.0) * factor
    return Strings(String.from_sorted(pack, sort(pack, measured), at, whole))


@lru_cache(maxsize=32)
def _hypotheses(prior: tuple[float, ...]) -> tuple[list[tuple[int, ...]], Array, Array, Array, list[tuple[str, ...]]]:
    """Every hypothesis: its causes, first and last of them as arrays, log prior, and those that touch the string by name."""
    every = _combinations(np.array(prior))
    causes = [c for c, _ in every]
    table = tables.causes()
    names = [tuple(sorted({table[i].name for i in c if touches_string(table[i].name)})) for c in causes]
    log = np.log(np.maximum(np.array([p for _, p in every]), 1e-12))
    return causes, np.array([c[0] for c in causes]), np.array([c[-1] for c in causes]), log, names


def believe(request: JudgeRequest, policy: Policy = DEFAULT_POLICY) -> Belief:
    """The belief that the evidence leaves. Raises Impossible for evidence that cannot be so."""
    pack, reported = request.pack, request.evidence
    evidence, turned = _put_right(pack, reported)
    found = sort(pack, evidence)
    read = path_likelihoods(pack, found)
    whole = read is None or bool(read[0] >= read[1:].max())
    measured = tuple(e for e in evidence if isinstance(e, OF_STRING))
    strings = _strings(pack, measured, _seen_at(evidence) + _picked(pack, evidence) + _fed(pack, evidence), whole)
    string = strings.string
    sound = strings.accounts_of(())[1][0][2]
    soc = float((sound.node.sum(axis=1) * string.grid.soc).sum()) if found.read_groups else None
    every = factors(pack, evidence, found, soc)
    causes, first, last, log, names = _hypotheses(
        tuple(tables.priors(pack, request.confirmed, request.of_model).tolist())
    )
    accounts = [strings.accounts_of(n) for n in names]
    of_string = np.array([a[0] for a in accounts])
    log = log + of_string
    for f in every:
        pa, pb = f.likelihood[first], f.likelihood[last]
        log = log + np.log(np.maximum(pa, pb) if f.either else (pa + pb) / 2)
    if any(e.what in NEVER_SOUND for e in evidence if isinstance(e, Seen | History)):
        log = np.where(_sound_alone(tuple(causes)), -np.inf, log)
    p = np.exp(log - log.max())
    p /= p.sum()
    keep = np.flatnonzero(p > 1e-5)
    string_p = {causes[i]: float(of_string[i]) for i in range(len(causes)) if len(causes[i]) == 1}
    hypotheses = [Hypothesis(causes[i], accounts[i][1]) for i in keep]
    return Belief(
        pack,
        evidence,
        found,
        string,
        every,
        string_p,
        hypotheses,
        p[keep] / p[keep].sum(),
        policy,
        reported=reported,
        turned=turned,
    )


def _sound_alone(causes: tuple[tuple[int, ...], ...]) -> Array:
    return np.array([len(c) == 1 and tables.causes()[c[0]].name == "sound" for c in causes])


def _put_right(pack: JudgedPack, reported: Sequence[Evidence]) -> tuple[Sequence[Evidence], bool]:
    """The evidence without terminals that read negative, which speak of probes or polarity and of no cell, and with the sign of group
    readings put right where every one is negative by more than any reversed cell; whether that was so."""
    kept = [e for e in reported if not (isinstance(e, TerminalVolts) and e.volts < -NEGATIVE_V)]
    groups = [e for e in kept if isinstance(e, GroupVolts | DirectVolts)]
    least = TURNED_SHARE * WINDOWS[pack.chemistry].nominal_v
    turned = bool(groups) and all(e.volts < -least for e in groups)
    if not turned:
        return kept, False
    return [e.model_copy(update={"volts": -e.volts}) if e in groups else e for e in kept], True


def _combinations(prior: Array) -> list[tuple[tuple[int, ...], float]]:
    """Every cause and every two that can stand together, with their chances before any evidence."""
    found: list[tuple[tuple[int, ...], float]] = [((c,), (1 - TWO) * float(p)) for c, p in enumerate(prior)]
    table = tables.causes()
    pairs = []
    for a, b in combinations(range(len(table)), 2):
        one, other = table[a].name, table[b].name
        if "sound" in (one, other) or one == other or (one in WIRES and other in WIRES):
            continue
        if ("worn" in (one, other)) and (one in WIRES or other in WIRES):
            continue
        pairs.append(((a, b), float(prior[a] * prior[b])))
    total = sum(p for _, p in pairs)
    return found + [(pair, TWO * p / total) for pair, p in pairs if p > 0]


def _picked(pack: JudgedPack, evidence: Sequence[Evidence]) -> SeenAt:
    """Groups whose capacity was tested while most of their siblings' was not: they were picked because something spoke against them."""
    tested = {e.group for e in evidence if isinstance(e, CapacityTest) and e.group is not None}
    if not tested or 2 * len(tested) >= pack.series:
        return ()
    return tuple((g, cause, PICKED) for g in sorted(tested) for cause in ("weak_group", "dead_group"))


def _fed(pack: JudgedPack, evidence: Sequence[Evidence]) -> SeenAt:
    """Groups that feed the board run low by its draw, before they are bad cells; where all do, none runs low by it."""
    groups = {g for e in evidence if isinstance(e, BoardFeeds) and len(e.groups) < pack.series for g in e.groups}
    return tuple((g, cause, factor) for g in sorted(groups) for cause, factor in FED.items())


def _seen_at(evidence: Sequence[Evidence]) -> SeenAt:
    found: dict[tuple[int, str], float] = {}
    for e in evidence:
        if isinstance(e, Seen):
            for g in e.at.groups:
                for cause in SEEN_SHOWS.get(e.what, ()):
                    found[g, cause] = found.get((g, cause), 1.0) * SEEN_AT[e.what]
    return tuple((g, cause, factor) for (g, cause), factor in found.items())
