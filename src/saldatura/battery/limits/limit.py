"""A limit: a number that something is held against, with its unit, why it is there, and where it comes from."""

from typing import Self


class Limit(float):
    """Reckoned with like the number it is. `unit` as a sheet prints it, `share` for a part of one, `times` for a multiple. `why` in a
    sentence; `source`: a standard, usual data sheets, a measurement or bench of ours, or `house` for a choice of this program's own.
    Choices that a shop may move are not here but in `policy`.
    """

    unit: str
    why: str
    source: str

    def __new__(cls, value: float, unit: str, why: str, source: str) -> Self:
        found = super().__new__(cls, value)
        found.unit, found.why, found.source = unit, why, source
        return found

    def __copy__(self) -> Self:
        return self

    def __deepcopy__(self, _memo: object) -> Self:
        return self

    def __reduce__(self) -> tuple[type[float], tuple[float]]:
        return (float, (float(self),))
