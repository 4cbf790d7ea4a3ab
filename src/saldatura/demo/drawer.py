"""The demo's drawer of cells: some two hundred of five invented types, tested as a bench tests them, with a few that are to be refused."""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from saldatura.battery.cell.curves import middle_curve
from saldatura.records.bench import Bench
from saldatura.shop.cells.types import CellTest, CellType, Move, NewLot, Origin

SEED = 20_271
TYPES = (
    CellType(name="Colle 2500", size="18650", chemistry="nmc", rated_ah=2.5, charge_a=2.5, discharge_a=18.0, peak_a=30.0, ohm=0.024, price=4.2),
    CellType(name="Vetta 3400", size="18650", chemistry="nca", rated_ah=3.4, charge_a=1.7, discharge_a=8.0, peak_a=12.0, ohm=0.042, price=5.1),
    CellType(name="Forra 3200", size="26650", chemistry="lfp", rated_ah=3.2, charge_a=3.2, discharge_a=12.0, peak_a=25.0, ohm=0.022, price=5.5),
    CellType(name="Malga 2600", size="sub-C", chemistry="nimh", rated_ah=2.6, charge_a=1.3, discharge_a=26.0, peak_a=40.0, ohm=0.008, price=3.6),
    CellType(name="Sella 2200", size="pouch 5 × 43 × 70", chemistry="lipo", rated_ah=2.2, charge_a=2.2, discharge_a=11.0, ohm=0.016, price=7.5),
)  # fmt: skip
BY_NAME = {cell_type.name: cell_type for cell_type in TYPES}


@dataclass(frozen=True)
class Lot:
    """Cells that came in together: how many, from where, how much of their rating they hold (mean and spread), and where they lie."""

    type: str
    name: str
    count: int
    origin: Origin
    donor: str = ""
    holds: tuple[float, float] = (1.0, 0.012)
    ohm: float = 1.0
    price: float | None = None
    box: str = ""
    tested: bool = True
    soc: float = 0.45


LOTS = (
    Lot("Colle 2500", "K-", 84, "reclaimed", "shears backpacks of the year before", (0.86, 0.07), 1.35, 0.5, "A"),
    Lot("Colle 2500", "N-", 30, "new", "", price=4.2, box="B", tested=False),
    Lot("Vetta 3400", "V-", 40, "reclaimed", "survey packs, written off", (0.91, 0.05), 1.2, 0.8, "C"),
    Lot("Forra 3200", "F-", 8, "new", "", price=5.5, box="D"),
    Lot("Forra 3200", "FR-", 6, "reclaimed", "frost-fan battery of the south slope", (0.84, 0.05), 1.3, 0.0, "D"),
    Lot("Malga 2600", "M-", 26, "harvested", "torque driver, press 1", (0.83, 0.06), 1.3, 0.0, "E", soc=0.6),
    Lot("Sella 2200", "S-", 6, "new", "", price=7.5, box="F"),
)  # fmt: skip
# What a bench finds among them, by cell: seen, or how much of its charge it loses in a month, or how its resistance stands out.
ODD: dict[str, CellTest] = {
    "K-07": CellTest(seen=["dent"]),
    "K-19": CellTest(rest_v=0.62),
    "K-33": CellTest(seen=["rust"]),
    "K-58": CellTest(seen=["leak"]),
    "V-11": CellTest(seen=["wrap"]),
    "M-09": CellTest(rest_v=-0.21),
    "M-20": CellTest(seen=["rust"]),
}
LEAKS = {"K-41": 0.19, "K-66": 0.08, "V-30": 0.11}
HIGH_OHM = {"K-12": 2.1, "K-72": 1.8, "V-05": 2.2, "M-15": 1.9}


def fill(bench: Bench, at: list[datetime], now: datetime) -> None:
    """Fill the drawer; `at` holds the bench's clock, which is set to when each thing happened."""
    rng = np.random.default_rng(SEED)
    at[0] = now - timedelta(days=40)
    bench.cells.enter_types(TYPES)
    for lot in LOTS:
        at[0] = now - timedelta(days=30)
        names = bench.cells.enter(
            NewLot(
                type=lot.type,
                name=lot.name,
                count=lot.count,
                origin=lot.origin,
                donor=lot.donor,
                price=lot.price,
                box=lot.box,
            )
        )
        for name in names:
            _tested(bench, at, now, rng, lot, name)
    at[0] = now - timedelta(days=3)
    bench.cells.move(["K-58", "K-19", "M-09"], Move(to="scrap", by="Ilka", reason="to cell waste, ends taped"))


def _tested(bench: Bench, at: list[datetime], now: datetime, rng: np.random.Generator, lot: Lot, name: str) -> None:
    cell_type = BY_NAME[lot.type]
    share = float(np.clip(rng.normal(*lot.holds), 0.3, 1.04))
    factor = lot.ohm * float(np.exp(rng.normal(0, 0.06))) * HIGH_OHM.get(name, 1.0)
    lithium = cell_type.chemistry not in ("nimh", "nicd")
    # A sound lithium cell loses some two hundredths of its charge a month.
    lost = LEAKS.get(name, 0.02 * float(np.exp(rng.normal(0, 0.25)))) * 20 / 30
    curve, soc = middle_curve(cell_type.chemistry), lot.soc + float(rng.normal(0, 0.01))
    if lot.tested:
        at[0] = now - timedelta(days=25)
        first = CellTest(
            capacity_ah=round(cell_type.rated_ah * share, 3), capacity_a=round(cell_type.rated_ah / 2, 2), dc_ohm=round((cell_type.ohm or 0.02) * factor, 5),
            rest_v=round(float(curve.volts(soc)), 4) if lithium else None, seen=[], rise_k=round(float(rng.normal(7, 1.2)), 1), by="bay tester", simulated=True,
        )  # fmt: skip
        bench.cells.test(name, first)
        if lithium:
            at[0] = now - timedelta(days=5)
            bench.cells.test(name, CellTest(rest_v=round(float(curve.volts(soc - lost)), 4), by="bench meter"))
    if name in ODD:
        at[0] = now - timedelta(days=4)
        bench.cells.test(name, ODD[name])
