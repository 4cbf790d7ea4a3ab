"""Patterns: what a learned prior saves, and costs where it misleads; and how fast five thousand of them are found."""

import secrets
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from bench.judge import patient, run
from bench.judge_packs import MET
from bench.measure import Figure, at_most, milliseconds
from saldatura.battery.judge import tables
from saldatura.battery.quantities import Pack
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.patterns.facts import NewPattern
from saldatura.shop.patterns.sheet import CodeSeen, ContactSeen, PatternSheet, PhotoSeen, SheetStep

# Pairs of a model and a fault, packs of each, and patterns that are searched.
PAIRS, HANDS, MANY = 200, 2, 5000
# A repair that was not the one costs this at the bench before the pack is on it again, min.
WRONG_REPAIR_MIN = 45.0


def model(rng: np.random.Generator) -> dict[str, float]:
    """How much likelier each fault is on packs of one model than on packs in general: most much as usual, a few many times so. Drawn from
    what benches tell of models, and from nothing of the program's.
    """
    times = np.exp(rng.normal(0, 0.7, len(MET)))
    for at in rng.choice(len(MET), size=int(rng.integers(1, 4)), replace=False):
        times[at] *= float(rng.uniform(4, 20))
    return dict(zip(MET, times, strict=True))


def pair(seed: int) -> list[dict[str, Any]]:
    """A model that was here some times, and more of it: judged with and without what the others had."""
    rng = np.random.default_rng(seed)
    weights = model(rng)
    before = int(rng.integers(2, 25))
    learned = Counter(t for k in range(before) for t in patient(seed * 1000 + k, weights, seed).truth[:1])
    # Every fourth: a sheet that is of another model, so that what it tells is wrong.
    other = rng.random() < 0.25
    if other:
        another = model(rng)
        learned = Counter(t for k in range(before) for t in patient(seed * 1000 + k, another, seed).truth[:1])
    general = tables.priors(_judged(patient(seed * 1000 + 990, weights, seed)), {})
    names = np.array([row.name for row in tables.causes()])
    found = []
    for this in range(seed * 1000 + 990, seed * 1000 + 990 + HANDS):
        without, with_it = run(patient(this, weights, seed), "next"), run(patient(this, weights, seed), "next", learned)
        truth = set(without["truth"])
        usual = sum(float(general[names == t].sum()) for t in truth)
        found.append({
            "without": _cost(without), "with": _cost(with_it), "misleads": sum(learned[t] for t in truth) / before < usual,
            "right": (without["top1"], with_it["top1"]), "other": other, "unsafe": with_it["unsafe"] - without["unsafe"],
        })  # fmt: skip
    return found


def _judged(p: Any) -> Any:
    from bench.judge import request

    return request(p, []).pack


def _cost(found: dict[str, Any]) -> float:
    """Minutes to the right cause: tests, and where the leading cause was wrong, a repair that was not the one."""
    return float(found["minutes"] + (0.0 if found["top1"] else WRONG_REPAIR_MIN))


def study(count: int, seed: int) -> list[dict[str, Any]]:
    with ProcessPoolExecutor(2) as pool:
        return [one for of in pool.map(pair, range(seed, seed + count), chunksize=4) for one in of]


def summed(found: list[dict[str, Any]], seed: int) -> Iterator[Figure]:
    def minutes(runs: list[dict[str, Any]], how: str) -> float:
        return float(np.mean([r[how] for r in runs]))

    led = [r for r in found if not r["misleads"]]
    misled = [r for r in found if r["misleads"]]
    whole = minutes(found, "with") / minutes(found, "without")
    right = [float(np.mean([r["right"][k] for r in found])) for k in (0, 1)]
    yield Figure(
        f"Minutes to the right cause with what packs of the model had, against without ({PAIRS} pairs, {len(found)} packs, seed {seed})",
        f"{whole:.2f} ({minutes(found, 'with'):.1f} against {minutes(found, 'without'):.1f} min)", "under 1", whole < 1,
    )  # fmt: skip
    if led:
        leads = minutes(led, "with") / minutes(led, "without")
        yield Figure(f"The same where it leads ({len(led)} of them)", f"{leads:.2f}", "under 1", leads < 1)
    if misled:
        worse = minutes(misled, "with") / minutes(misled, "without")
        yield Figure(
            f"The same where it misleads ({len(misled)} of them)", f"{worse:.3f}", "at most 1.05", worse <= 1.05
        )
    yield Figure(
        "Leading cause right with it, against without",
        f"{right[1]:.1%} against {right[0]:.1%}",
        "no less",
        right[1] >= right[0] - 0.005,
    )
    unsafe = sum(max(r["unsafe"], 0) for r in found)
    yield Figure(
        "Tests offered with it that what was found forbids, beyond those without", str(unsafe), "none", unsafe == 0
    )


def sheets(bench: Bench, count: int, rng: np.random.Generator) -> None:
    """Patterns with photos, as many shops might have handed on."""
    names = (
        "pump",
        "light",
        "pruner",
        "shears",
        "drill",
        "lamp",
        "scrubber",
        "scale",
        "sprayer",
        "winch",
        "probe",
        "gate",
    )
    photos = [bench.db.photos.keep(bytes([0xFF, 0xD8, k])) for k in range(8)]
    for k in range(count):
        series = int(rng.integers(2, 15))
        sheet = PatternSheet(
            title=f"{rng.choice(names)} {rng.choice(names)} {k}", tags=[str(rng.choice(names))], pack=Pack(chemistry="nmc", series=series, rated_ah=2.5),
            contacts=[ContactSeen(contact=f"c{n}") for n in range(int(rng.integers(2, 6)))],
            photos=[PhotoSeen(photo="opened", sha256=str(rng.choice(photos)), width=1200, height=800)],
            opening=[SheetStep(does=f"step {n} of how it is opened, in some words", photo="opened") for n in range(6)],
            codes=[CodeSeen(shows=f"{n} short", means="cell") for n in range(1, 5)],
        )  # fmt: skip
        bench.patterns.create(NewPattern(sheet=sheet, by="bench", why="one of many"))


def figures() -> Iterator[Figure]:
    """What a prior saves on fresh pairs, and the times of list, search and offer."""
    seed = secrets.randbits(20)
    yield from summed(study(PAIRS, seed), seed)
    yield from found_fast()


def found_fast() -> Iterator[Figure]:
    from fastapi.testclient import TestClient

    from saldatura.api.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        bench = Bench(Database(Path(folder) / "many.sqlite3"))
        sheets(bench, MANY, np.random.default_rng(7))
        with TestClient(create_app(bench), base_url="http://127.0.0.1") as client:
            words = iter([f"pump {k}" for k in range(400)])
            get = lambda path: client.get(path).raise_for_status()  # noqa: E731
            yield at_most(
                f"Patterns: list of {MANY:,}, 95th percentile",
                milliseconds(lambda: get("/api/patterns"), 40, 5),
                0.95,
                50,
            )
            yield at_most(
                f"Patterns: search in {MANY:,}",
                milliseconds(lambda: get(f"/api/patterns?search={next(words)}"), 40, 5),
                0.95,
                50,
            )
            yield at_most(
                f"Patterns: offer at the counter from {MANY:,}",
                milliseconds(lambda: get(f"/api/patterns/offers?text={next(words)[:3]}&volts=18&ah=2.5&contacts=4"), 40, 5), 0.95, 100,
            )  # fmt: skip
            yield at_most("Patterns: one sheet", milliseconds(lambda: get("/api/patterns/17"), 40, 5), 0.95, 50)
