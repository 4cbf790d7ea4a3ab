"""The judgement's tables, each row with its reason, as they stand in data/judge/*.csv."""

import csv
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge.types import CauseName, JudgedPack
from saldatura.battery.judge.words import tables as words

# Missing and wrong answers are expected: one told answer in twenty is wrong.
WRONG = 0.05
# So many packs stand behind the table's own priors when a shop's confirmed causes are counted in.
PRIOR_PACKS = 150.0
# What is known of packs in general stands for so many packs of one model; and however many there were, this share alone goes by them:
# boards change without a word, and a sheet may be of another model. Measured on pairs of models and faults (docs/benchmarks.md): more
# than half costs over a twentieth where what others had misleads.
MODEL_JOBS, MODEL_SHARE = 10.0, 0.5


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """The rows of a table."""
    text = (files("saldatura.battery") / "data" / "judge" / f"{name}.csv").read_text(encoding="utf-8")
    return tuple(csv.DictReader(text.splitlines()))


@dataclass(frozen=True)
class CauseRow:
    """A cause as told apart inside the judgement: a sensor circuit's three modes are three."""

    key: str
    says: str
    weight: float
    repair: str

    @property
    def name(self) -> str:
        return self.key.partition(":")[0]

    @property
    def mode(self) -> str | None:
        return self.key.partition(":")[2] or None


@cache
def causes() -> tuple[CauseRow, ...]:
    """Every cause, in one fixed order."""
    return tuple(CauseRow(r["cause"], r["says"], float(r["per_thousand"]), r["repair"]) for r in rows("causes"))


@cache
def cause_words() -> dict[str, str]:
    """Each cause in words by its name; a sensor circuit's modes share one."""
    said = {row.name: row.says for row in causes()}
    return {**said, "sensor_circuit": words.TEMPERATURE_SENSOR_CIRCUIT}


@cache
def index() -> dict[str, int]:
    """The place of each cause in that order."""
    return {row.key: i for i, row in enumerate(causes())}


def named(words: str) -> list[int]:
    """The causes a row names: `*` is all, a name without a mode is all its modes."""
    if words == "*":
        return list(range(len(causes())))
    wanted = words.split()
    return [i for i, row in enumerate(causes()) if row.key in wanted or row.name in wanted]


NONE: Mapping[CauseName, float] = {}


def priors(pack: JudgedPack, confirmed: Mapping[CauseName, int], of_model: Mapping[CauseName, float] = NONE) -> Array:
    """Probability of each cause before any evidence, (C,): the table's, shifted by what the shop confirmed (Dirichlet counts), and that by
    what packs of the same model had: for each cause a Beta prior of `MODEL_JOBS` jobs' weight, to which those packs are added.
    """
    weights = np.array([row.weight for row in causes()])
    for row in rows("priors"):
        if holds(pack, row["when"]):
            weights[named(row["cause"])] *= float(row["factor"])
    share = weights / weights.sum() * PRIOR_PACKS
    for name, count in confirmed.items():
        mine = named(name)
        own = weights[mine] / max(float(weights[mine].sum()), 1e-12)
        share[mine] += count * own
    share = share / share.sum()
    if not any(of_model.values()):
        return np.asarray(share)
    return _of_model(share, weights, of_model)


def _of_model(share: Array, weights: Array, of_model: Mapping[CauseName, float]) -> Array:
    """Shares beforehand with a model's own counts: half of the belief goes by them, the more of it the more there were."""
    counted = np.zeros(len(share))
    for name, count in of_model.items():
        mine = named(name)
        counted[mine] += count * weights[mine] / max(float(weights[mine].sum()), 1e-12)
    own = (MODEL_JOBS * share + counted) / (MODEL_JOBS + counted.sum())
    return np.asarray((1 - MODEL_SHARE) * share + MODEL_SHARE * own)


def holds(pack: JudgedPack, when: str) -> bool:
    """Whether a row's condition is met; what is not known meets none."""
    family = WINDOWS[pack.chemistry].family
    values: dict[str, object] = {
        "kind": pack.kind, "family": family, "age": pack.age_years, "cycles": pack.cycles, "series": pack.series,
        "parallel": pack.parallel, "board_levels": None if pack.board_levels is None else str(pack.board_levels).lower(),
    }  # fmt: skip
    for sign in (">=", "<", "="):
        name, found, value = when.partition(sign)
        if not found:
            continue
        have = values[name]
        if have is None:
            return False
        if sign == "=":
            return have == value
        assert isinstance(have, int | float)
        return have >= float(value) if sign == ">=" else have < float(value)
    raise ValueError(f"no condition: {when}")


@cache
def mechanisms() -> tuple[tuple[str, ...], Array]:
    """What a pack does to charger, tool and lamps, by name, and how likely each cause does it, (C, M)."""
    table = rows("mechanisms")
    names = tuple(dict.fromkeys(r["mechanism"] for r in table))
    share = np.zeros((len(causes()), len(names)))
    for r in table:
        share[named(r["cause"]), names.index(r["mechanism"])] += float(r["share"])
    return names, share / share.sum(axis=1, keepdims=True)


VALUES = {
    "charger": ("refuses", "full_at_once", "stops_early", "fault_blink", "never_ends", "no_reaction", "normal"),
    "tool": ("dead", "cuts_out_under_load", "short_run", "gauge_jumps", "normal"),
    "blink": ("temperature", "cell", "communication", "unknown", "none"),
}


@cache
def symptoms(kind: str) -> Array:
    """How likely each mechanism shows each value of `kind`, (M, values); one answer in twenty is wrong."""
    names, _ = mechanisms()
    values = VALUES[kind]
    share = np.full((len(names), len(values)), math.nan)
    for r in rows("symptoms"):
        if r["kind"] == kind:
            share[names.index(r["mechanism"]), values.index(r["value"])] = float(r["share"])
    left = 1 - np.nansum(share, axis=1)
    gaps = np.isnan(share)
    share = np.where(gaps, (np.maximum(left, 0.01) / np.maximum(gaps.sum(axis=1), 1))[:, None], share)
    share /= share.sum(axis=1, keepdims=True)
    return np.asarray((1 - WRONG) * share + WRONG / len(values))


@cache
def chances_of_told(kind: str, value: str) -> Array:
    """How likely each cause shows `value` of `kind`, (C,), wrong answers let in."""
    share = np.full(len(causes()), math.nan)
    for r in rows("told"):
        if r["kind"] == kind and r["value"] == value:
            share[named(r["cause"])] = float(r["probability"])
    if np.isnan(share).any():
        raise KeyError(f"{kind} {value}")
    # A wrong answer is one of many, so a rare one is seldom given by mistake.
    return np.asarray((1 - WRONG) * share + WRONG * max(0.1, float(np.median(share))))


@cache
def told_values(kind: str) -> tuple[str, ...]:
    """The values of a kind that the table knows."""
    return tuple(dict.fromkeys(r["value"] for r in rows("told") if r["kind"] == kind))


RESULTS = ("fault_stays", "fault_goes", "comes_back", "another_fault")
ANOTHER = 0.03


@cache
def tried(what: str) -> Array:
    """How likely each result of a try is under each cause, (C, results), as `RESULTS` has them."""
    share = np.zeros((len(causes()), len(RESULTS)))
    for r in rows("tries"):
        if r["try"] not in ("*", what):
            continue
        mine = named(r["cause"])
        share[mine, 1], share[mine, 2] = float(r["goes"]), float(r["comes_back"])
    share[:, 3] = ANOTHER
    share[:, 0] = 1 - share[:, 1:].sum(axis=1)
    return np.asarray((1 - WRONG) * share + WRONG / len(RESULTS))


NODES = ("none", "fuse", "charge_switch", "discharge_switch", "contact", "terminal")


@cache
def lost() -> Array:
    """Where along the path each cause loses the voltage, (C, nodes): before `NODES[i]`, or nowhere."""
    share = np.zeros((len(causes()), len(NODES)))
    for r in rows("path"):
        share[named(r["cause"])] = [float(r[node]) for node in NODES]
    return np.asarray(share / share.sum(axis=1, keepdims=True))


@dataclass(frozen=True)
class TestRow:
    """A test of the catalogue."""

    test: str
    evidence: str
    minutes: float
    waits_h: float
    opens: str
    risk: float
    says: str


@cache
def catalogue() -> tuple[TestRow, ...]:
    """Every test there is."""
    return tuple(
        TestRow(
            r["test"], r["evidence"], float(r["minutes"]), float(r["waits_h"]), r["opens"], float(r["risk"]), r["says"]
        )
        for r in rows("tests")
    )
