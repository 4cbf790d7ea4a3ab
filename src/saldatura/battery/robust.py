"""How far a sibling lies out of line: the robust z-score.

Distance from the median over 1.4826 times the median absolute deviation, which is the standard deviation of a normal
sample (Rousseeuw and Croux, 1993).
"""

from collections.abc import Sequence
from statistics import median

MAD_TO_SIGMA = 1.4826
# Siblings needed before any of them can be out of line.
LEAST_SIBLINGS = 3


def robust_z(values: Sequence[float | None], sigmas: Sequence[float]) -> list[float | None]:
    """Each value's score, None where there is no value. `sigmas`: what each cannot be told better than; siblings that
    agree better than that say nothing of how alike they are."""
    known = [v for v in values if v is not None]
    if not known:
        return [None] * len(values)
    middle = median(known)
    spread = MAD_TO_SIGMA * median(abs(v - middle) for v in known)
    return [
        None if v is None else round((v - middle) / max(spread, s, 1e-12), 1)
        for v, s in zip(values, sigmas, strict=True)
    ]
