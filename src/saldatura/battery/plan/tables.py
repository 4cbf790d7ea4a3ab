"""The plan's tables, each row with its reason, as they stand in data/plan/*.csv."""

import csv
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import ChemistryKey

# So many jobs stand behind the table's own minutes when the shop's are counted in.
PRIOR_JOBS = 4.0
# So many packs stand behind a chance reckoned from tables, and behind the years, when the shop's own returns are counted in.
PRIOR_PACKS = 8.0
# What stays out of repairs that were well chosen: against it the shop's own returns are held.
USUALLY_STAYS = 0.9


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """The rows of a table."""
    text = (files("saldatura.battery") / "data" / "plan" / f"{name}.csv").read_text(encoding="utf-8")
    return tuple(csv.DictReader(text.splitlines()))


@dataclass(frozen=True)
class Ageing:
    """Capacity left after y years and n full cycles: 1 − a·√y − b·n, with a and b as ranges."""

    a: tuple[float, float]
    b: tuple[float, float]


@cache
def ageing(chemistry: ChemistryKey) -> Ageing:
    """How a chemistry ages."""
    row = next(r for r in rows("ageing") if chemistry in r["chemistries"].split())
    return Ageing((float(row["a_low"]), float(row["a_high"])), (float(row["b_low"]), float(row["b_high"])))


@cache
def cycles_a_year(kind: str) -> float:
    """Full cycles a year of a kind of pack, where the user does not tell."""
    return float(next(r for r in rows("use") if r["kind"] == kind)["cycles_a_year"])


def minutes(steps: Iterable[tuple[str, float]]) -> float:
    """Bench minutes of steps, each taken so many times."""
    table = {r["step"]: float(r["minutes"]) for r in rows("steps")}
    return sum(table[step] * times for step, times in steps)


@cache
def market(what: str) -> float:
    """A figure of what is bought."""
    return float(next(r for r in rows("market") if r["what"] == what)["value"])


def mends(repair: RepairName, cause: str, mode: str | None) -> float:
    """The chance that a repair mends a cause, done where the cause is; a row of a mode goes before one of the cause."""
    keys = [f"{cause}:{mode}", cause, "*"]
    found = [
        (keys.index(key), float(r["chance"]))
        for r in rows("mends")
        if r["repair"] == repair
        for key in r["causes"].split()
        if key in keys
    ]
    return min(found)[1] if found else 0.0
