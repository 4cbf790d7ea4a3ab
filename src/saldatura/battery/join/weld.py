"""The `weld-window` computation: from coupons to the setting that holds, and the next coupon that narrows it most.

The chance of a good weld rises, stays and falls with the setting: two logistic edges in its logarithm. Every pair of edges on a
grid is weighed by the coupons (Bayes); what is said is said over all that keep any weight.
"""

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.join.weld_types import Coupon, Outcome, WeldChance, WeldRange, WeldRequest, WeldWindow
from saldatura.battery.join.words import weld as words
from saldatura.battery.limits.joining import WELD_DONE, WELD_HOLDS, WELD_MAY_BURN, WELD_SURE
from saldatura.battery.wording import counted

# Coupons that should do.
MOST_COUPONS = 10
# Good coupons about the setting before it is named, by a pull or a torn button, or by the eye alone.
PROVED, PROVED_BY_EYE = 3, 4
# The setting itself was good twice: once may be luck at the foot of an edge.
TWICE = 2
NODES, CANDIDATES, KEPT = 110, 121, 4500
# Widths of the edges in the setting's logarithm: from a sharp edge to one that takes a third of the setting.
WIDTHS = (0.01, 0.025, 0.06, 0.11)
# How far apart the edges may lie in the setting's logarithm: a window of a tenth of the setting, and one of a factor of seven.
GAPS = tuple(float(g) for g in np.geomspace(0.1, 2.0, 16))
# A weak weld lies above no bond by about this much of the setting's logarithm.
WEAK_BELOW = 0.3
# Of coupons judged by a pull or a torn button so many are judged or welded wrong; by the eye alone a weak weld passes for a good one oftener.
SLIP, EYE_SLIP = 0.02, 0.10
# A neighbour is tried so near and so far from the setting, in its logarithm, and those within the first count as the same setting.
SAME, NEAR, FAR = 0.012, 0.05, 0.14
# A neighbour further out is tried while it is good with this chance.
WORTH = 0.8


class _Edges(NamedTuple):
    """Lower and upper edge and their widths in the setting's logarithm, 0 at the lowest, and how far each is believed."""

    low: Array
    high: Array
    w_low: Array
    w_high: Array
    weight: Array

    def up(self, x: Array | float) -> Array:
        """Chance that a weld bonds fully at each place, (N, E)."""
        return _logistic((np.atleast_1d(x)[:, None] - self.low) / self.w_low)

    def burnt(self, x: Array | float) -> Array:
        """Chance that it burns."""
        return _logistic((np.atleast_1d(x)[:, None] - self.high) / self.w_high)

    def bonds(self, x: Array | float) -> Array:
        """Chance that it bonds at all."""
        return _logistic((np.atleast_1d(x)[:, None] - (self.low - WEAK_BELOW)) / self.w_low)


def _logistic(z: Array) -> Array:
    return np.asarray(1 / (1 + np.exp(-np.clip(z, -40, 40))))


@lru_cache(maxsize=8)
def _prior(span: float) -> _Edges:
    """Every pair of edges on the grid, equally likely in place and in the logarithm of their distance."""
    at = np.linspace(-0.1 * span, 1.1 * span, NODES)
    low, gap, w_low, w_high = (a.ravel() for a in np.meshgrid(at, GAPS, WIDTHS, WIDTHS, indexing="ij"))
    high = low + gap
    keep = (gap > 2.5 * (w_low + w_high)) & (low < 1.05 * span)
    # A window off the range is not as likely.
    weight = np.where((high > 0.05 * span) & (low < 0.95 * span), 1.0, 0.13)[keep]
    return _Edges(low[keep], high[keep], w_low[keep], w_high[keep], np.asarray(weight / weight.sum()))


def _believed(request: WeldRequest, span: float) -> _Edges:
    """The pairs of edges that the coupons leave any belief, thinned where they are many."""
    edges = _prior(span)
    log_p = np.log(edges.weight)
    for coupon in request.coupons:
        x = math.log(coupon.setting / request.lowest)
        up, burnt = edges.up(x)[0], edges.burnt(x)[0]
        bonds = edges.bonds(x)[0]
        p = {
            "burnt": burnt,
            "good": up * (1 - burnt),
            "weak": np.maximum(bonds - up, 0) * (1 - burnt),
            "no_bond": (1 - bonds) * (1 - burnt),
        }
        outcome = _outcome(request, coupon)
        seen = p[outcome]
        if outcome == "good" and not coupon.torn:
            # The eye takes a weak weld for a good one.
            seen = seen + EYE_SLIP * p["weak"]
        slip = SLIP if coupon.torn or outcome != "good" else EYE_SLIP
        log_p = log_p + np.log((1 - slip) * seen + slip / 4)
    weight = np.exp(log_p - log_p.max())
    some = np.flatnonzero(weight > 1e-6)
    if len(some) > KEPT:
        some = some[np.linspace(0, len(some) - 1, KEPT).astype(int)]
    weight = weight[some]
    return _Edges(
        edges.low[some], edges.high[some], edges.w_low[some], edges.w_high[some], np.asarray(weight / weight.sum())
    )


def weld_window(request: WeldRequest) -> WeldWindow:
    """Read the coupons. Deterministic; nothing is refused that the request's own bounds let through. No setting is named that was
    not welded well itself, with good neighbours on both sides of it."""
    span = round(math.log(request.highest / request.lowest), 9)
    edges = _believed(request, span)
    tried = _tried(request)
    x = np.linspace(0, span, CANDIDATES)
    good = edges.up(x) * (1 - edges.burnt(x))
    holds, chance = (good >= WELD_HOLDS) @ edges.weight, good @ edges.weight
    best = _middle(holds, int((holds + 1e-6 * chance).argmax()))

    def setting(log: float) -> float:
        return float(request.lowest * np.exp(log))

    named = _named(request, edges, tried, span)
    window = None
    if named is not None:
        run = _good_run(tried, named.place)
        window = WeldRange(low=round(setting(run[0].place), 3), high=round(setting(run[-1].place), 3))
    enough = named is not None and named.holds >= WELD_DONE
    next_at: float | None = None
    if not enough and len(request.coupons) < 4 * MOST_COUPONS:
        next_at = _next(edges, good, x, tried, float(holds[best]), float(x[best]), span)
    at = int(np.abs(x - named.place).argmin()) if named is not None else best
    return WeldWindow(
        window=window,
        use=round(setting(named.place), 3) if named is not None else None,
        chance_good=round(named.chance if named is not None else float(chance[at]), 4),
        next_coupon=None if next_at is None else round(min(max(setting(next_at), request.lowest), request.highest), 3),
        because=_because(request, named, float(chance[at])),
        curve=[
            WeldChance(setting=round(setting(float(x[k])), 3), chance=round(float(chance[k]), 4))
            for k in range(0, CANDIDATES, 3)
        ],
    )


class _Tried(NamedTuple):
    """Coupons of one setting: its place, how many were good (by pull or button, by the eye), how many not."""

    place: float
    torn: int
    seen: int
    bad: int

    @property
    def good(self) -> bool:
        return self.torn + self.seen > 0 and self.bad == 0


class _Named(NamedTuple):
    """A setting that may be used: its place, how surely it holds, and its chance of a good weld."""

    place: float
    holds: float
    chance: float


def _tried(request: WeldRequest) -> list[_Tried]:
    """The settings that coupons were welded at, in order; those next to one another count as one."""
    found: list[_Tried] = []
    for coupon in sorted(request.coupons, key=lambda c: c.setting):
        place = math.log(coupon.setting / request.lowest)
        good = _outcome(request, coupon) == "good"
        one = _Tried(place, int(good and coupon.torn), int(good and not coupon.torn), int(not good))
        if found and place - found[-1].place <= SAME:
            last = found.pop()
            one = _Tried(last.place, last.torn + one.torn, last.seen + one.seen, last.bad + one.bad)
        found.append(one)
    return found


def _good_run(tried: Sequence[_Tried], place: float) -> list[_Tried]:
    """The settings about a place that were all good, with none between that was not."""
    runs: list[list[_Tried]] = [[]]
    for one in tried:
        if one.good:
            runs[-1].append(one)
        else:
            runs.append([])
    return next((run for run in runs if run and run[0].place <= place + SAME and place - SAME <= run[-1].place), [])


def _named(request: WeldRequest, edges: _Edges, tried: Sequence[_Tried], span: float) -> _Named | None:
    """Of the settings that were welded well, between others that were, the surest one; None while none is sure enough."""
    found = []
    for one in tried:
        run = _good_run(tried, one.place) if one.good else []
        at_low, at_high = one.place <= SAME, one.place >= span - SAME
        inside = bool(run) and (at_low or run[0].place < one.place) and (at_high or one.place < run[-1].place)
        if not inside:
            continue
        torn, seen = sum(t.torn for t in run), sum(t.seen for t in run)
        if torn / PROVED + seen / PROVED_BY_EYE < 1 - 1e-9 or one.torn + one.seen < TWICE:
            continue
        good = (edges.up(one.place) * (1 - edges.burnt(one.place)))[0]
        if float(edges.burnt(one.place)[0] @ edges.weight) <= WELD_MAY_BURN:
            found.append(_Named(one.place, float((good >= WELD_HOLDS) @ edges.weight), float(good @ edges.weight)))
    best = max(found, key=lambda f: f.holds, default=None)
    return best if best is not None and best.holds >= WELD_SURE and best.chance >= WELD_HOLDS else None


def _outcome(request: WeldRequest, coupon: Coupon) -> Outcome:
    """What a coupon counts as: one that looks good and lets go too soon, or leaves no button, is weak."""
    if coupon.outcome == "good" and coupon.button is False:
        return "weak"
    short = request.want_pull_n is not None and coupon.pull_n is not None and coupon.pull_n < request.want_pull_n
    return "weak" if coupon.outcome == "good" and short else coupon.outcome


def _middle(holds: Array, best: int) -> int:
    """Of the places beside the best that hold as surely, the middle one: furthest from both edges."""
    low = high = best
    while low > 0 and holds[low - 1] >= holds[best] - 0.02:
        low -= 1
    while high < len(holds) - 1 and holds[high + 1] >= holds[best] - 0.02:
        high += 1
    return (low + high) // 2


def _next(
    edges: _Edges, good: Array, x: Array, tried: Sequence[_Tried], holds: float, best: float, span: float
) -> float:
    """Where to weld next. While no place is likely, the one after whose outcome some place is surest; then the likely place itself and its
    neighbours, which prove it or show the slip. Doubt left over all places instead would ask about the empty end of the range too.
    """
    if holds < 0.5:
        return _most_telling(edges, good, x)
    here = min((t for t in tried if t.good), key=lambda t: abs(t.place - best), default=None)
    if here is None or abs(here.place - best) > FAR:
        return best
    run = _good_run(tried, here.place)
    # The most central of the good ones is proved by a neighbour on each side.
    centre = min(run, key=lambda t: abs(t.place - best)).place
    step = NEAR if holds < 0.8 else (NEAR + FAR) / 2
    if run[-1].place <= centre + SAME and centre < span - SAME:
        return min(centre + step, span)
    if run[0].place >= centre - SAME and centre > SAME:
        return max(centre - step, 0.0)
    if sum(t.torn + t.seen for t in run if abs(t.place - centre) <= SAME) < TWICE:
        return centre
    # Then further out on the side that is likelier good, so that the setting comes to lie in the middle.
    out = [min(run[-1].place + FAR, span), max(run[0].place - FAR, 0.0)]
    chance = (edges.up(np.array(out)) * (1 - edges.burnt(np.array(out)))) @ edges.weight
    side = int(chance.argmax())
    return out[side] if chance[side] >= WORTH and min(abs(out[side] - t.place) for t in tried) > SAME else centre


def _most_telling(edges: _Edges, good: Array, x: Array) -> float:
    some = np.linspace(0, len(edges.low) - 1, min(len(edges.low), KEPT // 3)).astype(int)
    weight = edges.weight[some] / edges.weight[some].sum()
    up, burnt, fit = edges.up(x)[:, some], edges.burnt(x)[:, some], good[:, some]
    member = (fit >= WELD_HOLDS).astype(float)
    outcomes = np.stack([burnt, fit, (1 - up) * (1 - burnt)])
    best, most = 0, -1.0
    for i in range(0, len(x), 3):
        surest = float((member @ (outcomes[:, i] * weight).T).max(axis=0).sum())
        if surest > most + 1e-12:
            best, most = i, surest
    return float(x[best])


def _because(request: WeldRequest, named: _Named | None, chance: float) -> str:
    count = counted(len(request.coupons), "coupon")
    if named is not None:
        return words.far_weld(count, named.chance)
    if any(_outcome(request, c) == "good" for c in request.coupons):
        more = words.TEN_COUPONS_AND_NONE if len(request.coupons) >= MOST_COUPONS else ""
        by_eye = "" if any(c.torn for c in request.coupons) else words.TEAR_THEM_BY_EYE
        return words.far_setting_is_used(count, by_eye, more)
    if len(request.coupons) >= MOST_COUPONS:
        return words.TEN_COUPONS_AND_NO
    if not request.coupons:
        return words.NO_COUPON_YET_FIRST
    return words.far_no_setting(count)
