"""What `for_good` says."""

from saldatura.battery.wording import figure, significant

EACH_END_COVERED = "Both ends of every cell, and none lies on another: a bare cell in a box is how fires begin."
UNFINISHED_IS_RESULT = "Each by itself, entered in Cells under its own name. One that did not finish its test is a result too: it is waste."
WASTE_BY_KIND = "Weighed by kind: cells, board and case go different ways. The figure is reckoned, the scale is right."


def ends_of(group: int, cells: str) -> str:
    return f"the ends of {cells}, group {group}"


def to_the_tester(group: int) -> str:
    return f"the cells of group {group}, one by one"


def by_weight(kind: str, kilos: float | None) -> str:
    if kilos is None:
        return kind
    weight = f"{figure(kilos * 1000, 0)} g" if kilos < 1 else f"{significant(kilos, 2)} kg"
    return f"{kind}, about {weight}"
