"""The drawer of cells: their types, tests, grades and places."""

from saldatura.shop.cells.drawer import CellNow, Drawer
from saldatura.shop.cells.grading import Grade, Graded, graded
from saldatura.shop.cells.types import (
    CellMoved,
    CellTest,
    CellTested,
    CellTook,
    CellType,
    ColumnsKept,
    Move,
    NewLot,
    TypeEntered,
    WrongTest,
    WrongTestFact,
)

__all__ = [
    "CellMoved",
    "CellNow",
    "CellTest",
    "CellTested",
    "CellTook",
    "CellType",
    "ColumnsKept",
    "Drawer",
    "Grade",
    "Graded",
    "Move",
    "NewLot",
    "TypeEntered",
    "WrongTest",
    "WrongTestFact",
    "graded",
]
