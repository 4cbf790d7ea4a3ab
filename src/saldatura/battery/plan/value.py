"""Test before you replace: what a test saves on average, because it changes the choice (value of information)."""

from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.plan import tables
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.plan.types import PlannedCause, RepairName, TestFirst
from saldatura.battery.plan.words import value as words

# Tests that load or charge the cells, not done where a cell is lost.
WORKS_CELLS = ("capacity", "resistance", "rest_fall")
OF_CELLS = "capacity_cells"


@dataclass(frozen=True)
class Choice:
    """A repair that may be chosen: its outlay, the years it gives at worst and at best, and the groups it is done to. `old`:
    those years hang on cells whose capacity nobody has measured."""

    repair: RepairName
    outlay: float
    years: tuple[float, float]
    groups: tuple[int, ...]
    old: bool


def test_first(case: PlanCase, choices: list[Choice], a_year: float | None) -> TestFirst | None:
    """The test that saves most beyond its own minutes; None where none pays.

    A repair is worth the years it gives, at the price of a year bought new, in as far as it mends what is wrong. Without the
    test the choice is best on average; with it, best for each outcome (Raiffa and Schlaifer's preposterior analysis).
    """
    causes = case.request.causes
    if not choices or not causes or not a_year:
        return None
    left = max(1 - sum(c.probability for c in causes), 0.0)
    p = np.array([*(c.probability for c in causes), left])
    # Old cells that nobody measured are as likely better as worse than they are taken for, all of them together.
    cells = [
        np.array([[_worth(c, choice, a_year, better) for choice in choices] for c in (*causes, None)])
        for better in (0, 1)
    ]
    worth = (cells[0] + cells[1]) / 2
    without = float((p @ worth).max())
    best: TestFirst | None = None
    most = 0.0
    for row in tables.rows("tests"):
        if row["test"] in WORKS_CELLS and case.lost:
            continue
        # Single cells are tested where the whole pack cannot be.
        if row["test"] == OF_CELLS and not case.lost:
            continue
        named_causes = row["causes"].split()
        tells_cells = row["test"] in ("capacity", OF_CELLS) and any(c.old for c in choices)
        if not tells_cells and not any(c.cause in named_causes for c in causes):
            continue
        told_by = _outcomes(causes, named_causes, float(row["right"])).T * p
        after = [told_by @ w for w in (cells if row["test"] in ("capacity", OF_CELLS) else [worth])]
        saves = float(np.mean([outcome.max(axis=1).sum() for outcome in after])) - without
        price = float(row["minutes"]) / 60 * (case.request.prices.labour_h or 0.0)
        if saves - price > most + 1e-9:
            most = saves - price
            best = TestFirst(
                test=row["test"],
                says=row["says"],
                costs_min=float(row["minutes"]),
                waits_h=float(row["waits_h"]),
                saves=round(saves, 2),
                because=words.saves_on_average(row["says"], row["because"]),
            )
    return best


def _worth(cause: PlannedCause | None, choice: Choice, a_year: float, better: int) -> float:
    """What a repair is worth if that is the cause: years bought so much cheaper, less its outlay."""
    if cause is None:
        mended = tables.mends(choice.repair, "*", None)
    else:
        applies = choice.repair not in ("replace_groups", "donor_cells", "drop_group") or set(cause.at.groups) <= set(
            choice.groups
        )
        mended = tables.mends(choice.repair, cause.cause, cause.at.mode) * applies
    years = choice.years[better] if choice.old else sum(choice.years) / 2
    return mended * years * a_year - choice.outlay


def _outcomes(causes: list[PlannedCause], named_causes: list[str], right: float) -> Array:
    """The chance of each outcome, (C + 1, outcomes): each cause the test names, and none of them."""
    named = [i for i, c in enumerate(causes) if c.cause in named_causes]
    chances = np.full((len(causes) + 1, len(named) + 1), (1 - right) / max(len(named), 1))
    chances[:, -1] = np.where(np.isin(np.arange(len(causes) + 1), named), (1 - right) / max(len(named), 1), right)
    for column, i in enumerate(named):
        chances[i, column] = right
    return np.asarray(chances / chances.sum(axis=1, keepdims=True))
