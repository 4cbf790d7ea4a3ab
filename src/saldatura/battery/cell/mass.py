"""What cells weigh, by what usual ones of their chemistry hold: data/cell_mass.csv, each row with its reason."""

import csv
from functools import cache
from importlib.resources import files

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey


@cache
def wh_per_kg(chemistry: ChemistryKey) -> float:
    """Energy of a kilogram of bare cells, Wh/kg."""
    text = (files("saldatura.battery") / "data" / "cell_mass.csv").read_text(encoding="utf-8")
    row = next(r for r in csv.DictReader(text.splitlines()) if chemistry in r["chemistries"].split())
    return float(row["wh_per_kg"])


def cells_kg(chemistry: ChemistryKey, rated_ah: float, count: int = 1) -> float:
    """Mass of so many cells of that capacity each, kg: nominal energy by the usual energy of a kilogram."""
    return count * rated_ah * WINDOWS[chemistry].nominal_v / wh_per_kg(chemistry)
