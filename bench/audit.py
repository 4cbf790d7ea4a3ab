"""Answers that could hurt, class by class, on packs of a fresh seed made apart from the core: how many are right, cannot tell, wrong, dangerous."""

import secrets
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from bench.measure import Figure
from saldatura.battery.compute import COMPUTATIONS
from saldatura.battery.errors import Impossible

COUNT = 400
# A published curve of iron phosphate, read by eye at a few charges: what rests where, apart from the core's own table.
IRON = (
    (0.0, 2.0),
    (0.05, 2.80),
    (0.1, 2.98),
    (0.2, 3.17),
    (0.3, 3.21),
    (0.5, 3.26),
    (0.7, 3.28),
    (0.9, 3.31),
    (0.96, 3.32),
    (0.98, 3.35),
    (1.0, 3.60),
)
Grade = str


def ask(name: str, **body: Any) -> Any:
    """The answer, or None where it is refused."""
    of = COMPUTATIONS[name]
    try:
        return of.run(of.request.model_validate(body))
    except (Impossible, ValueError):
        return None


def _iron_v(soc: float) -> float:
    return float(np.interp(soc, [s for s, _ in IRON], [v for _, v in IRON]))


def iron(rng: np.random.Generator) -> Grade:
    """A string of iron phosphate with one group behind in charge: passed by voltage, it is handed back out of balance."""
    body = float(rng.uniform(0.02, 1.0))
    apart = float(rng.choice([0.0, rng.uniform(0.12, 0.9)]))
    other = float(np.clip(body + rng.choice([-1, 1]) * apart, 0, 1))
    socs = [body, body, body, other]
    volts = [round(_iron_v(s) + float(rng.normal(0, 0.001)), 3) for s in socs]
    readings = [{"kind": "group", "group": k, "volts": v} for k, v in enumerate(volts, 1)]
    pack = {"chemistry": "lfp", "series": 4, "rated_ah": 5.0}
    found = ask(
        "prove", pack=pack, readings=readings, rest_s=86400, meter={"percent": 0.05, "digits": 1, "resolution_v": 0.001}
    )
    spread = next(c for c in found.checks if c.name == "spread").result
    behind = abs(other - body) > 0.1
    if spread == "pass":
        return "dangerous" if behind else "right"
    return ("right" if behind else "wrong") if spread == "fail" else "cannot tell"


def leak(rng: np.random.Generator) -> Grade:
    """A leak as measured, whatever the group reads; levelled again it is handed back to fall."""
    volts, ma = float(rng.uniform(3.5, 4.15)), float(np.exp(rng.uniform(np.log(2), np.log(80))))
    group = int(rng.integers(1, 6))
    evidence = [
        {"kind": "group_v", "group": k, "volts": round(volts + float(rng.normal(0, 0.003)), 3)} for k in range(1, 6)
    ]
    evidence.append({"kind": "leak", "group": group, "ma": ma})
    pack = {"chemistry": "nmc", "series": 5, "parallel": 2, "rated_ah": 4.0}
    first = ask("judge", pack=pack, evidence=evidence).causes[0]
    groups = [
        {
            "group": k,
            "rest_v": volts - (0.3 if k == group else 0),
            "leak_ma": ma if k == group else 0.02,
            "capacity_ah": 3.6,
        }
        for k in range(1, 6)
    ]
    plan = ask(
        "repairs",
        pack=pack,
        groups=groups,
        causes=[{"cause": "imbalance", "at": {"groups": [group]}, "probability": 0.9}],
        prices={"labour_h": 40, "cell": 4.5},
    )
    levels = next(r for r in plan.repairs if r.repair == "level").ruled_out is None
    kept = any("drawer" in s and str(group) in s for r in plan.repairs if r.repair == "retire" for s in r.because)
    if levels or kept:
        return "dangerous"
    return "right" if first.cause == "leaking_group" and first.at.groups == [group] else "wrong"


def alone(rng: np.random.Generator) -> Grade:
    """A plan with hours: what wants somebody must not run on when nobody is there."""
    volts = [round(float(v), 2) for v in rng.choice([1.7, 2.2, 2.7, 3.4, 3.7, 4.0], int(rng.integers(1, 5)))]
    channels = [
        {"name": "supply", "max_a": 2.0, "stops": False},
        {"name": "charger", "max_a": 1.0},
        {"name": "plug", "kind": "harness", "max_a": 2.0, "balance_a": 0.3},
    ]
    kept = [c for c in channels if rng.random() < 0.6] or channels[:1]
    start = float(rng.uniform(0, 3600))
    hours = [
        {"from_s": start, "to_s": start + float(rng.uniform(1800, 40_000))},
        {"from_s": 86_400, "to_s": 86_400 + float(rng.uniform(3600, 40_000))},
    ]
    plan = ask(
        "level-plan",
        chemistry="nmc",
        groups=[{"rest_v": v, "capacity_ah": 4.0} for v in volts],
        target="full",
        channels=kept,
        attended=hours,
    )
    if plan is None:
        return "wrong"
    for s in plan.steps:
        late = s.start_s + s.duration_high_s
        inside = any(h["from_s"] - 1 <= s.start_s and late <= h["to_s"] + 1 for h in hours)
        ends = any(h["from_s"] - 1 <= late <= h["to_s"] + 1 for h in hours)
        if (s.kind in ("precharge", "harness", "bleed") and not inside) or (s.channel == "supply" and not ends):
            return "dangerous"
    return "right" if plan.steps or plan.refused else "cannot tell"


def sign(rng: np.random.Generator) -> Grade:
    """Probes or poles exchanged: no wire is to be moved and nothing joined on that."""
    volts = round(float(rng.uniform(3.4, 4.15)), 2)
    series = int(rng.integers(2, 10))
    read = [{"kind": "group", "group": k, "volts": -volts} for k in range(1, series + 1)]
    kinds = {f.kind for f in ask("reconcile", chemistry="nmc", series=series, readings=read).findings}
    path = ask(
        "power-path", string_v=volts * series, chain=[{"node": "end", "part": "contact", "volts": -volts * series}]
    )
    if kinds & {"swapped_taps", "shifted_connector", "open_tap"} or path.finding != "polarity":
        return "dangerous"
    return "right" if "reversed_probes" in kinds else "wrong"


def side_by_side(rng: np.random.Generator) -> Grade:
    """Cells joined in parallel that must not be."""
    fault = str(rng.choice(["none", "over", "flat", "unread", "old", "turned"]))
    cells = [
        {"cell": f"a{k}", "capacity_ah": 2.4, "resistance_ohm": 0.025, "rest_v": 3.70, "chemistry": "nmc", "max_a": 15}
        for k in range(6)
    ]
    change: dict[str, dict[str, Any]] = {
        "over": {"rest_v": 4.3},
        "flat": {"rest_v": 2.2},
        "unread": {"rest_v": None},
        "old": {"resistance_ohm": 0.08},
        "turned": {"rest_v": -3.7},
        "none": {},
    }
    at = int(rng.integers(0, 6))
    cells[at] = {**cells[at], **change[fault]}
    found = ask("match", series=2, parallel=2, cells=cells, load_a=10)
    if found is None:
        return "wrong"
    taken = {c for g in found.groups for c in g.cells}
    warned = any(g.together for g in found.groups if cells[at]["cell"] in g.cells)
    if fault != "none" and cells[at]["cell"] in taken and not warned:
        return "dangerous"
    return "right"


def weather(rng: np.random.Generator) -> Grade:
    """A charge too cold, too hot, too hard, or of a cell that is lost."""
    fault = str(rng.choice(["none", "cold", "hot", "hard", "lost"]))
    body: dict[str, Any] = {
        "chemistry": str(rng.choice(["nmc", "lfp", "lipo"])),
        "capacity_ah": 5.0,
        "resistance_ohm": 0.02,
        "start_rest_v": 3.3,
        "current_a": 2.5,
        "ambient_c": 22.0,
    }
    body |= {
        "cold": {"ambient_c": float(rng.uniform(-30, -1))},
        "hot": {"ambient_c": float(rng.uniform(47, 80))},
        "hard": {"current_a": float(rng.uniform(26, 80))},
        "lost": {"start_rest_v": float(rng.uniform(-1, 0.9))},
        "none": {},
    }[fault]
    found = ask("charge", **body)
    if fault == "none":
        return "right" if found is not None else "wrong"
    return "right" if found is None or found.cautions else "dangerous"


CLASSES: dict[str, Callable[[np.random.Generator], Grade]] = {
    "iron phosphate by charge": iron, "a measured leak": leak, "left alone": alone, "probes or polarity": sign, "cells side by side": side_by_side,
    "charged in no fit state": weather,
}  # fmt: skip


def figures() -> Iterator[Figure]:
    """Each class on its own packs."""
    seed = secrets.randbits(31)
    for k, (name, of) in enumerate(CLASSES.items()):
        rng = np.random.default_rng([seed, k])
        count = COUNT // 4 if of is leak else COUNT
        grades = Counter(of(rng) for _ in range(count))
        said = ", ".join(f"{g} {grades[g] / count:.1%}" for g in ("right", "cannot tell", "wrong"))
        yield Figure(
            f"audit, {name} (n {count}, seed {seed})", f"{said}, dangerous {grades['dangerous']}", "none dangerous, at most 5 % wrong",
            not grades["dangerous"] and grades["wrong"] <= 0.05 * count,
        )  # fmt: skip
