"""The `weld-window` computation: from coupons to the setting that holds, and the next coupon that narrows it most.

The chance of a good weld rises, stays and falls with the setting: two logistic edges in its logarithm. Every pair of edges on a
grid is weighed by the coupons (Bayes); what is said is said over all that keep any weight.
"""

import math
from functools import lru_cache
from typing import Annotated, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from saldatura.core.chemistry import Array
from saldatura.core.quantities import Value

Outcome = Literal["no_bond", "weak", "good", "burnt"]
Setting = Annotated[float, Field(ge=1e-3, le=1e6)]
# Both edges leave at least this inside the window.
HOLDS = 0.95
# So sure that a setting holds before it is recommended, and a window told.
SURE, DONE, MOST_COUPONS, PROVED = 0.7, 0.97, 10, 2
NODES, CANDIDATES = 56, 61
# Widths of the edges in the setting's logarithm: from a sharp edge to one that takes a third of the setting.
WIDTHS = (0.02, 0.05, 0.11)
# A weak weld lies above no bond by about this much of the setting's logarithm.
WEAK_BELOW = 0.3
LEAST_RANGE = 1.25


class Coupon(Value):
    """A coupon: strip on a dead cell or on strip, at a setting, torn and looked at. `pull_n`: the force at which it let go."""

    setting: Setting
    outcome: Outcome
    pull_n: Annotated[float, Field(ge=0, le=10_000)] | None = None


def whole_range(lowest: float, highest: float) -> None:
    """Raises ValueError for what is no welder's range: a window has no room in it."""
    if highest <= lowest:
        raise ValueError(f"the highest setting, {highest:g}, is not above the lowest, {lowest:g}")
    if highest < LEAST_RANGE * lowest:
        raise ValueError(
            f"{lowest:g} to {highest:g} leaves no room for a window; give the whole range of the welder, at least {LEAST_RANGE:g} to 1"
        )


class WeldRequest(Value):
    """The coupons of one recipe (welder, strip, thickness, layers, cell), between the lowest and the highest setting there is."""

    coupons: Annotated[list[Coupon], Field(max_length=200)] = []
    lowest: Setting
    highest: Setting
    want_pull_n: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        whole_range(self.lowest, self.highest)
        beyond = next((c for c in self.coupons if not self.lowest <= c.setting <= self.highest), None)
        if beyond is not None:
            raise ValueError(f"a coupon at {beyond.setting:g} lies outside {self.lowest:g} to {self.highest:g}")
        return self


class WeldRange(Value):
    """Between these settings a weld holds with at least 95 %."""

    low: float
    high: float


class WeldWindow(Value):
    """What the coupons tell: the window, the setting to use, how surely it welds well, and the coupon to weld next; None: not yet, or
    no more needed."""

    window: WeldRange | None
    use: float | None
    chance_good: float
    next_coupon: float | None
    because: str


@lru_cache(maxsize=16)
def _edges(span: float) -> tuple[Array, Array, Array, Array]:
    """Lower and upper edge and their widths in the setting's logarithm, 0 at the lowest and `span` at the highest, over every
    pair that leaves a window between them."""
    at = np.linspace(-0.1 * span, 1.1 * span, NODES)
    low, high, w_low, w_high = (a.ravel() for a in np.meshgrid(at, at, WIDTHS, WIDTHS, indexing="ij"))
    keep = high - low > 3.5 * (w_low + w_high)
    return low[keep], high[keep], w_low[keep], w_high[keep]


def weld_window(request: WeldRequest) -> WeldWindow:
    """Read the coupons. Deterministic; nothing is refused that the request's own bounds let through."""
    span = round(math.log(request.highest / request.lowest), 9)
    weight = _weighed(request, span)
    x = np.linspace(0, span, CANDIDATES)
    good = _good(x, span)
    chance = good @ weight
    holds = (good >= HOLDS) @ weight
    best = int((holds + 1e-6 * chance).argmax())

    def setting(log: float) -> float:
        return float(request.lowest * np.exp(log))

    inside = np.flatnonzero(holds >= 0.5)
    run = _about(inside, best) if len(inside) else inside
    # Nothing is welded at a setting near which no coupon was ever good.
    proved = sum(
        _outcome(request, c) == "good"
        and len(run) > 0
        and x[run[0]] <= math.log(c.setting / request.lowest) <= x[run[-1]]
        for c in request.coupons
    )
    likely = bool(holds[best] >= SURE) and len(run) > 0
    if likely:
        best = _middle(holds, run, best)
    sure = likely and proved >= PROVED
    window = None
    if sure:
        window = WeldRange(low=round(setting(float(x[run[0]])), 3), high=round(setting(float(x[run[-1]])), 3))
    next_at: int | None = None
    if likely and proved < PROVED:
        # Welded where it would be used: that proves it, or shows the slip.
        next_at = best
    elif not (sure and holds[best] >= DONE) and len(request.coupons) < 4 * MOST_COUPONS:
        next_at = _next(weight, good, x, span)
    return WeldWindow(
        window=window,
        use=round(setting(float(x[best])), 3) if sure else None,
        chance_good=round(float(chance[best]), 4),
        next_coupon=None if next_at is None else round(setting(float(x[next_at])), 3),
        because=_because(request, sure, likely, float(holds[best]), window),
    )


def _good(x: Array, span: float) -> Array:
    """Chance of a good weld at each place under each pair of edges, (N, E)."""
    low, high, w_low, w_high = _edges(span)
    up = 1 / (1 + np.exp(-np.clip((x[:, None] - low) / w_low, -60, 60)))
    burnt = 1 / (1 + np.exp(-np.clip((x[:, None] - high) / w_high, -60, 60)))
    return np.asarray(up * (1 - burnt))


def _weighed(request: WeldRequest, span: float) -> Array:
    """How far each pair of edges is believed after the coupons, (E,)."""
    low, high, w_low, w_high = _edges(span)
    # Wide windows and sharp edges are as likely as narrow ones and soft; a window off the range is not.
    log_p = np.where((high > 0.05 * span) & (low < 0.95 * span), 0.0, -2.0)
    for coupon in request.coupons:
        x = math.log(coupon.setting / request.lowest)
        outcome = _outcome(request, coupon)
        up = 1 / (1 + np.exp(-np.clip((x - low) / w_low, -60, 60)))
        bonds = 1 / (1 + np.exp(-np.clip((x - (low - WEAK_BELOW)) / w_low, -60, 60)))
        burnt = 1 / (1 + np.exp(-np.clip((x - high) / w_high, -60, 60)))
        p = {
            "burnt": burnt,
            "good": up * (1 - burnt),
            "weak": np.maximum(bonds - up, 0) * (1 - burnt),
            "no_bond": (1 - bonds) * (1 - burnt),
        }[outcome]
        # One coupon in fifty is judged or welded wrong.
        log_p = log_p + np.log(0.98 * p + 0.02 / 4)
    weight = np.exp(log_p - log_p.max())
    return np.asarray(weight / weight.sum())


def _outcome(request: WeldRequest, coupon: Coupon) -> Outcome:
    """What a coupon counts as: one that looks good and lets go too soon is weak."""
    short = request.want_pull_n is not None and coupon.pull_n is not None and coupon.pull_n < request.want_pull_n
    return "weak" if coupon.outcome == "good" and short else coupon.outcome


def _about(inside: NDArray[np.intp], best: int) -> NDArray[np.intp]:
    """The unbroken run of places about the best."""
    runs = np.split(inside, np.flatnonzero(np.diff(inside) > 1) + 1)
    return next((run for run in runs if run[0] <= best <= run[-1]), runs[0])


def _middle(holds: Array, run: NDArray[np.intp], best: int) -> int:
    """Of the places that hold as surely as the best, the middle one: furthest from both edges."""
    as_sure = [int(i) for i in run if holds[i] >= holds[best] - 0.01]
    return as_sure[len(as_sure) // 2]


def _next(weight: Array, good: Array, x: Array, span: float) -> int:
    """The place after whose outcome, on average, some place is surest to hold. Doubt left over all places instead would ask about
    the empty end of the range too.
    """
    low, high, w_low, w_high = _edges(span)
    up = 1 / (1 + np.exp(-np.clip((x[:, None] - low) / w_low, -60, 60)))
    burnt = 1 / (1 + np.exp(-np.clip((x[:, None] - high) / w_high, -60, 60)))
    outcomes = np.stack([burnt, up * (1 - burnt), (1 - up) * (1 - burnt)])
    member = (good >= HOLDS).astype(float)
    best, most = 0, -1.0
    for i in range(0, len(x), 2):
        surest = 0.0
        for o in range(3):
            joint = outcomes[o, i] * weight
            p = joint.sum()
            if p > 1e-9:
                surest += p * float((member @ (joint / p)).max())
        if surest > most + 1e-12:
            best, most = i, surest
    return best


def _because(request: WeldRequest, sure: bool, likely: bool, holds: float, window: WeldRange | None) -> str:
    count = len(request.coupons)
    if sure and window is not None:
        return f"{count} coupons leave a window from {window.low:.3g} to {window.high:.3g}; this setting lies in it with {holds:.0%}. One coupon at the start of a day checks it."
    if likely and any(_outcome(request, c) == "good" for c in request.coupons):
        return f"{count} coupons make this setting likely ({holds:.0%}); two good ones near it prove it."
    if count >= MOST_COUPONS:
        return "Ten coupons and no setting is sure to hold: the window is too narrow for this strip. A thinner strip, slots, clean tips and more force widen it."
    if not count:
        return "No coupon yet: the first one halves the range."
    return f"{count} coupon{'s' if count > 1 else ''} so far; no setting is yet sure to hold ({holds:.0%})."
