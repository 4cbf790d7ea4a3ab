"""The drawer and the plan: matching against its bound, repairs against the long way, a big drawer on the wire and on screen."""

import json
import secrets
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import httpx
import numpy as np

from bench.long_way import run
from bench.measure import Figure, at_most, milliseconds
from running import chromium, running
from saldatura.battery.compute import COMPUTATIONS
from saldatura.battery.match.matching import match
from saldatura.battery.match.types import DrawerCell, MatchRequest
from saldatura.battery.plan import PlanRequest, repairs
from saldatura.battery.plan.strings import Group, charged, given
from saldatura.battery.quantities import Pack
from saldatura.formats.cell_tests import guessed, results_of
from saldatura.formats.table import read_table
from saldatura.records import cells as records
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.cells.types import CellTested, CellTook, CellType

CELLS, DRAWERS, PACKS = 10_000, 50, 100
KIND = CellType(name="Colle 2500", size="18650", chemistry="nmc", rated_ah=2.5, discharge_a=18.0, ohm=0.024)


def figures() -> Iterator[Figure]:
    """Matching, plans, files and a drawer of ten thousand."""
    rng = np.random.default_rng(secrets.randbits(31))
    yield from _matching(rng)
    yield from _plans(rng)
    yield from _file(rng)
    yield from _big_drawer(rng)


def _cells(rng: np.random.Generator, count: int) -> list[DrawerCell]:
    """Cells as a bench finds them: some lots near each other, some spread wide, some few odd."""
    middle, spread = float(rng.uniform(1.5, 3.4)), float(rng.uniform(0.01, 0.12))
    ah = np.clip(rng.normal(middle, spread * middle, count), 0.3 * middle, None)
    ohm = 0.06 / middle * np.exp(rng.normal(0, 0.12, count))
    return [
        DrawerCell(cell=f"c{i}", capacity_ah=round(float(a), 3), resistance_ohm=round(float(o), 5), chemistry="nmc")
        for i, (a, o) in enumerate(zip(ah, ohm, strict=True))
    ]


def _matching(rng: np.random.Generator) -> Iterator[Figure]:
    worst, ratios = 1.0, []
    for _ in range(DRAWERS):
        series, parallel = int(rng.integers(2, 15)), int(rng.integers(1, 11))
        count = round(series * parallel * float(rng.uniform(1.1, 4.0)))
        found = match(MatchRequest(series=series, parallel=parallel, cells=_cells(rng, count)))
        ratios.append(found.capacity_ah / found.bound_ah)
        worst = min(worst, ratios[-1])
    yield Figure(
        f"match: smallest group against its bound, {DRAWERS} random drawers",
        f"worst {worst:.4f}, median {np.median(ratios):.5f}",
        "at least 0.99",
        worst >= 0.99,
    )
    large = [MatchRequest(series=14, parallel=10, cells=_cells(rng, 400)) for _ in range(12)]
    matched = [match(request) for request in large]
    short = min(m.capacity_ah / m.bound_ah for m in matched)
    spread = max(m.spread_fraction for m in matched)
    yield Figure(
        "match: 14S10P of 400, smallest group against its bound",
        f"worst of 12 {short:.5f}",
        "at least 0.999",
        short >= 0.999,
    )
    yield Figure("match: 14S10P of 400, spread of groups", f"worst of 12 {spread:.3%}", "under 0.2 %", spread < 0.002)
    turn = iter(large * 3)
    yield at_most("match: 14S10P of 400, 95th percentile", milliseconds(lambda: match(next(turn)), 24), 0.95, 2000)
    small = MatchRequest(series=3, parallel=2, cells=_cells(rng, 200))
    yield at_most("match: 3S2P of 200, 95th percentile", milliseconds(lambda: match(small), 40), 0.95, 200)


def _one_pack(seed: int) -> tuple[float, bool]:
    """How far the charge of a run lies from the long way, and whether the current that lasts is the long way's within 5 %."""
    rng = np.random.default_rng(seed)
    chemistry = str(rng.choice(["nmc", "nca", "lfp", "lipo", "nimh"]))
    rated = float(rng.uniform(1.5, 8))
    usual = {"nmc": 0.08, "nca": 0.08, "lfp": 0.08, "lipo": 0.02, "nimh": 0.04}[chemistry]
    groups = charged(
        tuple(
            Group(
                rated * float(rng.uniform(0.5, 1.0)),
                usual * float(rng.uniform(0.6, 2.0)) / rated,
                float(rng.uniform(0.75, 1.0)),
            )
            for _ in range(int(rng.integers(1, 8)))
        )
    )
    amps = rated * float(rng.uniform(0.3, 2.0))
    got = given(Pack(chemistry=chemistry, series=len(groups), rated_ah=rated), groups, amps, None)
    ah, _ = run(chemistry, groups, amps, dt=1.0)
    holds = min(g.capacity_ah * g.soc for g in groups)

    def lasts(current: float) -> bool:
        out, warm = run(chemistry, groups, current, dt=1.0)
        return out >= 0.8 * holds and warm <= 60

    # Where not even a trickle brings most of it out, there is no such current.
    right = (
        lasts(got.current_a * 0.95) and not lasts(got.current_a * 1.05)
        if got.current_a > 0
        else not lasts(0.05 * holds)
    )
    return abs(got.usable_ah - ah) / max(ah, 0.02 * rated), right


def _plans(rng: np.random.Generator) -> Iterator[Figure]:
    seed = int(rng.integers(2**31))
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_one_pack, range(seed, seed + PACKS), chunksize=4))
    within = float(np.mean([off <= 0.03 for off, _ in found]))
    current = float(np.mean([right for _, right in found]))
    yield Figure(
        f"plan: charge of a run within 3 % of the long way, {PACKS} packs (seed {seed})",
        f"{within:.0%}, worst off by {max(off for off, _ in found):.1%}", "all", within == 1.0,
    )  # fmt: skip
    yield Figure("plan: current that lasts within 5 % of the long way", f"{current:.0%}", "all", current == 1.0)
    example = PlanRequest.model_validate(COMPUTATIONS["repairs"].example)

    def fresh() -> None:
        given.cache_clear()
        repairs(example)

    yield at_most("`repairs`, nothing kept from before, 95th percentile", milliseconds(fresh, 40), 0.95, 150)


def _file(rng: np.random.Generator) -> Iterator[Figure]:
    rows = ["Channel;Test Time / s;Voltage / V;Current / A"]
    for channel in range(8):
        amps = float(rng.uniform(1.0, 1.3))
        rows += [f"K-{channel};{t};{4.1 - t / 9000:.4f};{amps:.3f}".replace(".", ",") for t in range(0, 6250, 1)]
    text = "\n".join(rows)
    start = time.perf_counter()
    table = read_table(text, of_values=True)
    found = results_of(table, guessed(table), lambda _name: (2.5, None), "bench")
    rate = (len(rows) - 1) / (time.perf_counter() - start)
    yield Figure(
        f"tester's log, {len(rows) - 1} rows of 8 channels, decimal comma", f"{rate:,.0f} rows a second", "at least 10,000",
        rate >= 10_000 and len(found.tests) == 8 and not found.bad,
    )  # fmt: skip


def _big_drawer(rng: np.random.Generator) -> Iterator[Figure]:
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "drawer.sqlite3"
        _seed(data, rng)
        with running("serve", data=data) as address:
            with httpx.Client(base_url=address, timeout=30) as client:
                yield from _served(client)
            with chromium() as browser:
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                taken = []
                for _ in range(6):
                    start = time.perf_counter()
                    page.goto(f"{address}/cells")
                    page.get_by_role("img", name=f"{CELLS} cells by capacity and resistance").wait_for()
                    page.get_by_role("row").nth(4).wait_for()
                    taken.append((time.perf_counter() - start) * 1000)
                yield at_most(f"Cells on screen, {CELLS} cells, figure and rows, median", taken[1:], 0.5, 1000)


def _seed(data: Path, rng: np.random.Generator) -> None:
    db = Database(data)
    bench = Bench(db)
    bench.cells.enter_types([KIND])
    at = bench.now()
    with db.write() as writer:
        for n in range(CELLS):
            number = records.enter(writer, f"K-{n:05d}", CellTook(type=KIND.name, origin="reclaimed", at=at))
            values = {
                "capacity_ah": round(float(rng.normal(2.2, 0.15)), 3),
                "dc_ohm": round(0.03 * float(np.exp(rng.normal(0, 0.1))), 5),
            }
            records.add(writer, CellTested.model_validate({**values, "rest_v": 3.7, "at": at.isoformat()}), number)
    db.close()


def _served(client: httpx.Client) -> Iterator[Figure]:
    client.get("/api/cells/figure").raise_for_status()
    page: dict[str, str | int] = {"offset": 5000, "limit": 100, "sort": "grade"}
    yield at_most(
        f"API, {CELLS} cells: a page by grade, 95th percentile",
        milliseconds(lambda: client.get("/api/cells", params=page).raise_for_status(), 30), 0.95, 50,
    )  # fmt: skip
    yield at_most(
        f"API, {CELLS} cells: the whole figure, 95th percentile",
        milliseconds(lambda: client.get("/api/cells/figure").raise_for_status(), 20), 0.95, 150,
    )  # fmt: skip
    body = json.dumps({"rest_v": 3.69})
    headers = {"Content-Type": "application/json"}
    yield at_most(
        f"API, {CELLS} cells: a test of one, 95th percentile",
        milliseconds(lambda: client.post("/api/cells/of/K-00042/tests", content=body, headers=headers).raise_for_status(), 20),
        0.95, 150,
    )  # fmt: skip
