"""Every sentence that a computation makes agrees in number, sign and digits, whatever it is asked."""

import json
import re
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest

from saldatura.battery.compute import COMPUTATIONS
from saldatura.battery.errors import Impossible

NOUNS = "coupon|day|group|cell|step|hour|minute|entry|test|job|tap|lead|wire|wait|option|channel|month|year|time|row|reading"
WRONG = {
    "one of many": rf"(?<![\d.,:])1 (?:{NOUNS})s\b|\b1 (?:entries|are)\b",
    "many of one": rf"(?<![\d.,:])(?:[2-9]|\d\d+) (?:{NOUNS})(?![\w’'])",
    "both": r"\b[Aa]ll (?:2|two|1) ",
    "a capital within": r"[a-z0-9,;:] (?:Group|Groups) \d",
    "verb of one for many": r"\bGroups \d[\d, ]*(?: (?:and|to) \d+)? (?:is|has|stands|hangs|rests|reads|leaks|loses|lies|lags|was)\b",
    "verb of many for one": r"\bGroup \d+ (?:are|have|stand|hang|rest|read|leak|lose|lie|lag|were)\b",
    "a hyphen for a minus": r"(?<![\w.–])-\d",
    "minus nothing": r"−0(?:\.0+)?(?![\d.])",
    "a thousand millivolts": r"\d{4,} m[VΩ]",
    "no number": r"\bnan\b|\binf\b|\bNone\b|\d[eE][+-]?\d",
    "its of many": r"\bGroups \d[^.;:]*(?::[^.;]*)?\bits own (?:tabs|wire|pins)\b",
    "one in series": r"(?<!\d)1 in series should",
}
# What stands in a sentence that names a field or a unit is no count.
FINE = re.compile(r"(?:[\d.]+ C\b|\d+ h \d\d|S\d)")


def words(value: object) -> Iterator[str]:
    """Every text in an answer that is a sentence."""
    if isinstance(value, dict):
        for part in value.values():
            yield from words(part)
    elif isinstance(value, list):
        for part in value:
            yield from words(part)
    elif isinstance(value, str) and " " in value:
        yield value


def asked(rng: np.random.Generator) -> Iterator[tuple[str, dict[str, Any]]]:
    """Requests of every kind, near the edges where sentences turn."""
    chemistry = str(rng.choice(["nmc", "lfp", "lipo", "nimh", "nicd", "lco"]))
    top, floor = {"lfp": (3.6, 1.0), "nimh": (1.42, 0.0), "nicd": (1.42, 0.0), "lipo": (4.2, 2.0)}.get(
        chemistry, (4.2, 1.5)
    )
    series = int(rng.integers(1, 8))
    usual = float(rng.uniform(0.75, 1.02)) * top
    odd = rng.choice(
        [usual, usual - 0.2, floor - 0.3, -0.3, 0.0, top + 0.2, floor + 0.4],
        series,
        p=[0.6, 0.12, 0.06, 0.04, 0.04, 0.06, 0.08],
    )
    volts = [round(float(v), 3) for v in odd]
    pack = {
        "chemistry": chemistry,
        "series": series,
        "rated_ah": float(rng.choice([1.0, 2.5, 4.0])),
        "load_a": float(rng.choice([1, 8, 60])),
    }
    read = [{"kind": "group", "group": k, "volts": v} for k, v in enumerate(volts, 1) if rng.random() < 0.9]
    read += [{"kind": "pack", "volts": round(sum(volts), 2)}] if rng.random() < 0.6 else []
    yield "verdict", {"pack": pack, "readings": read, "symptoms": ["full_at_once"] if rng.random() < 0.5 else []}
    yield (
        "prove",
        {
            "pack": pack,
            "readings": read,
            "rest_s": float(rng.choice([0, 60, 86400])),
            "meter": {"percent": float(rng.choice([0.05, 0.5, 5])), "digits": 2, "resolution_v": 0.01},
        },
    )
    evidence = [{"kind": "group_v", "group": k, "volts": v} for k, v in enumerate(volts, 1) if abs(v) < 6]
    evidence += [
        {"kind": "leak", "group": 1, "ma": float(rng.choice([-1, 0.1, 20]))},
        {"kind": "terminal_v", "volts": round(sum(volts), 1)},
    ]
    evidence += (
        [{"kind": "history", "what": str(rng.choice(["wet", "crash", "dropped"]))}] if rng.random() < 0.3 else []
    )
    yield "judge", {"pack": {**pack, "kind": "power_tool", "age_years": int(rng.integers(0, 9))}, "evidence": evidence}
    now = [round(v - float(rng.choice([0, 0.005, 0.2])), 3) for v in volts]
    yield (
        "compare",
        {
            "pack": pack,
            "then": [{"volts": v} for v in volts],
            "now": [{"volts": v} for v in now],
            "days": float(rng.choice([0.5, 1, 7])),
            "now_a": float(rng.choice([0, -5])),
        },
    )
    groups = [{"group": k, "rest_v": v} for k, v in enumerate(volts, 1)]
    yield (
        "level-need",
        {
            "pack": pack,
            "groups": groups,
            "target": str(rng.choice(["full", "match", "storage"])),
            "ambient_c": float(rng.choice([-10, 5, 25, 60])),
        },
    )
    channels = [
        {"name": "supply", "max_a": 3.0, "stops": False},
        {"name": "plug", "kind": "harness", "balance_a": 0.2},
        {"name": "ohms", "kind": "bleed", "ohm": 10},
    ]
    hours = [{"from_s": 0, "to_s": float(rng.choice([600, 30_000]))}] if rng.random() < 0.5 else []
    yield (
        "level-plan",
        {
            "chemistry": chemistry,
            "groups": [{"rest_v": v, "capacity_ah": 2.5} for v in volts],
            "channels": channels[: int(rng.integers(1, 4))],
            "attended": hours,
            "target": "match",
        },
    )
    planned = [
        {
            "group": k,
            "rest_v": v,
            "capacity_ah": float(rng.choice([0, 1.1, 2.4])),
            "resistance_ohm": float(rng.choice([0.02, 3.0])),
        }
        for k, v in enumerate(volts, 1)
        if rng.random() < 0.7
    ]
    causes = [
        {
            "cause": str(rng.choice(["imbalance", "dead_group", "weak_group", "worn"])),
            "at": {"groups": [1]},
            "probability": 0.8,
        }
    ]
    yield (
        "repairs",
        {
            "pack": pack,
            "groups": planned,
            "causes": causes,
            "prices": {"labour_h": 40, "cell": 4.5, "original": 130, "copy": 35},
            "age_years": int(rng.integers(0, 9)),
        },
    )
    cells = [
        {
            "cell": f"a{k}",
            "capacity_ah": float(rng.uniform(1.8, 2.6)),
            "resistance_ohm": float(rng.choice([0.02, 0.03, 0.09])),
            "rest_v": float(rng.choice([3.6, 3.7, 2.0, 4.4])) if rng.random() < 0.8 else None,
            "chemistry": "nmc",
        }
        for k in range(int(rng.integers(1, 12)))
    ]
    yield "match", {"series": int(rng.integers(1, 3)), "parallel": int(rng.integers(1, 4)), "cells": cells, "load_a": 5}
    coupons = [
        {"setting": float(rng.uniform(2, 40)), "outcome": str(rng.choice(["weak", "good", "burnt"]))}
        for _ in range(int(rng.integers(0, 6)))
    ]
    yield "weld-window", {"coupons": coupons, "lowest": 2, "highest": 40}
    chain = [
        {"node": "fuse", "part": "fuse", "volts": 20.0},
        {"node": "end", "part": "discharge switch", "volts": float(rng.choice([-20, 0, 19.4, 20]))},
    ]
    yield "power-path", {"string_v": 20.1, "chain": chain}
    yield (
        "sensor",
        {
            "kind": "diodes",
            "junctions": int(rng.integers(1, 4)),
            "volts": None if rng.random() < 0.4 else float(rng.uniform(0.1, 2)),
        },
    )
    yield (
        "step",
        {
            "group": 1,
            "points": [
                {"at_s": t, "volts": v, "amps": a}
                for t, v, a in ((0, 4.0, 0), (1, 4.0, 0), (1.2, 3.9, 5), (11, 3.88, 5))
            ],
        },
    )
    yield (
        "identify-leads",
        {
            "chemistry": chemistry,
            "series": series,
            "leads": [
                {"lead": f"w{k}", "volts": round(float(np.sum(np.abs(volts[:k]))), 2)} for k in range(series + 1)
            ],
        },
    )
    strips = [
        {"segment": n, "from": a, "to": b, "width_mm": 8, "thickness_mm": 0.1, "length_mm": 20}
        for n, a, b in (("s1", "a+", "b+"), ("s2", "b+", "p"), ("s3", "a-", "b-"), ("s4", "b-", "n"))
    ]
    yield (
        "interconnect",
        {
            "cells": [{"cell": c, "volts": float(rng.choice([3.7, 3.2, -3.7])), "resistance_ohm": 0.02} for c in "ab"],
            "segments": strips,
            "take_off": {"positive": "p", "negative": "n"},
            "current_a": float(rng.choice([5, 40])),
        },
    )


@pytest.mark.parametrize("seed", range(5))
def test_sentences_agree(seed: int) -> None:
    rng = np.random.default_rng(seed)
    heard: set[tuple[str, str]] = set()
    for _ in range(6):
        for name, body in asked(rng):
            of = COMPUTATIONS[name]
            try:
                said = json.loads(of.run(of.request.model_validate(body)).model_dump_json())
            except Impossible as refused:
                said = {"message": refused.message}
            heard |= {(name, sentence) for sentence in words(said)}
    assert len(heard) > 100
    wrong = [
        (what, f"{name}: {s}")
        for name, s in sorted(heard)
        for what, form in WRONG.items()
        if re.search(form, FINE.sub("…", s))
    ]
    assert not wrong, "\n".join(f"{what}: {s}" for what, s in wrong[:25])
