"""The `identify-leads` computation: loose balance leads, measured against one of them, put in the order of their taps.

Sorted by voltage, neighbouring leads must lie whole groups apart. Every way to lay the leads on the taps is weighed:
each gap by how groups hang (together, some fallen), each departure from one lead a tap by how rare it is; the likeliest
is taken, by dynamic programming over leads and taps.
"""

import itertools
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.quantities import (
    Pack,
)
from saldatura.battery.string import words
from saldatura.battery.string.hazard import in_scope
from saldatura.battery.string.lead_types import (
    ZERO_V,
    DuplicatePotential,
    FloatingLead,
    IdentifiedLeads,
    ImplausibleGap,
    Lead,
    LeadFinding,
    LeadsRequest,
    MissingTap,
    PackDiffers,
    PlacedLead,
    ReferenceNotNegative,
    TooManyLeads,
)
from saldatura.battery.string.words import why_floating

# How often each departure is met, a lead or a tap.
P_MISSING, P_FLOATING, P_SAME_TAP = 0.02, 0.02, 0.004
# Groups: most hang together, some have fallen anywhere below.
SIBLING_SIGMA_V, P_SIBLING, P_FALLEN, P_BEYOND = 0.04, 0.8, 0.2, 1e-9
# Two leads on one tap differ by no more than the meter's last digits.
SAME_SIGMA_V = 0.008
PACK_SIGMA, BOARD_V = 0.01, 0.35
MOST_SKIPPED = 4
# Group voltages tried: all that matter for a real bundle, few for a heap of leads, so that none takes seconds.
MOST_WAYS = 400
# The lead that all were measured against reads nothing; were it open, no reading would make sense.
REFERENCE_FLOATS = -15.0
WANDERS_V = 0.05


# Less than this a group, V, and leads of an empty pack cannot be told from open ones.
LEAST_GROUP_V = 0.15


@dataclass(frozen=True)
class _Laid:
    """A way to lay the leads: the tap of each in the order of their volts, None where it floats."""

    score: float
    taps: tuple[int | None, ...]
    group_v: float


def identify_leads(request: LeadsRequest) -> IdentifiedLeads:
    """Put loose leads in order; what cannot be laid on a tap is a finding. Raises Impossible above the voltage limit."""
    in_scope(Pack(chemistry=request.chemistry, series=request.series, rated_ah=1.0), "series")
    window, series = WINDOWS[request.chemistry], request.series
    ordered = sorted(request.leads, key=lambda lead: lead.volts)
    wandering = {lead.lead for lead in ordered if _wanders(lead)}
    steady = [lead for lead in ordered if lead.lead not in wandering]
    volts = [lead.volts for lead in steady]
    laid = _laid(volts, series, window, _candidates(volts, series, window, request.pack_v))
    if sum(tap is not None for tap in laid.taps) < 2 < len(volts):
        # Nothing lies where charged groups would: sound leads of a pack that is nearly empty stand a little apart, and evenly.
        flat = _laid(volts, series, window, _empty(volts, series, window, request.pack_v))
        laid = flat if sum(tap is not None for tap in flat.taps) > 2 else laid
    on_tap: dict[int, list[Lead]] = {}
    floating: list[Lead] = [lead for lead in ordered if lead.lead in wandering]
    for lead, tap in zip(steady, laid.taps, strict=True):
        if tap is None:
            floating.append(lead)
        else:
            on_tap.setdefault(tap, []).append(lead)
    findings: list[LeadFinding] = []
    if len(request.leads) > series + 1:
        findings.append(TooManyLeads(because=words.leads_for_taps_some(len(request.leads), series)))
    if volts and volts[0] < -ZERO_V:
        findings.append(ReferenceNotNegative(because=words.reads_so_reference(steady[0].lead, volts[0])))
    findings += [FloatingLead(lead=x.lead, because=why_floating(x, x.lead in wandering)) for x in floating]
    findings += _alike(on_tap)
    findings += _missing(on_tap, series, laid.group_v)
    findings += _gaps(on_tap, window, laid.group_v)
    if request.pack_v is not None and on_tap:
        findings += _terminals(on_tap, series, laid.group_v, request.pack_v)
    return IdentifiedLeads(order=_placed(on_tap, laid.group_v), findings=findings, group_v=round(laid.group_v, 3))


def _laid(volts: list[float], series: int, window: Window, levels: Sequence[float]) -> _Laid:
    """The likeliest way to lay the leads, over what a group may hang at."""
    return max(
        (_lay(volts, series, m, window) for m in levels),
        key=lambda way: way.score,
        default=_Laid(0.0, tuple(None for _ in volts), window.nominal_v),
    )


def _empty(volts: Sequence[float], series: int, window: Window, pack_v: float | None) -> list[float]:
    """What a group of a nearly empty pack may hang at: the middle gap, and the terminals' share."""
    gaps = sorted(b - a for a, b in itertools.pairwise(sorted(volts)))
    middles = [gaps[len(gaps) // 2], *([] if pack_v is None else [pack_v / series])]
    return [m for m in middles if LEAST_GROUP_V <= m < window.rest_floor_v]


def _alike(on_tap: dict[int, list[Lead]]) -> list[DuplicatePotential]:
    """Leads at one potential, on one tap or on two with a group between that shows nothing."""
    found = []
    taps = sorted(on_tap)
    for n, tap in enumerate(taps):
        alike = on_tap[tap]
        following = on_tap[taps[n + 1]] if n + 1 < len(taps) else []
        if following and abs(following[0].volts - alike[-1].volts) <= ZERO_V:
            alike = [*alike, *following]
        if len(alike) > 1:
            names = [lead.lead for lead in alike]
            found.append(
                DuplicatePotential(
                    leads=names,
                    because=(words.read_same_on_one(names)),
                )
            )
    return found


def _missing(on_tap: dict[int, list[Lead]], series: int, group_v: float) -> list[MissingTap]:
    """Taps that no lead comes from. At an end nothing but a reading against pack minus tells which end it is."""
    top = max(on_tap, default=series)
    lowest = on_tap[min(on_tap)][0].lead if on_tap else ""
    found = []
    for tap in range(series + 1):
        if tap in on_tap:
            continue
        because, other = words.no_lead_has_potential(tap), None
        if on_tap and tap > top:
            other = tap - top - 1
            because = words.no_lead_comes(tap, other, series, top, lowest, group_v)
        found.append(MissingTap(tap=tap, or_tap=other, because=because))
    return found


def _terminals(on_tap: dict[int, list[Lead]], series: int, group_v: float, pack_v: float) -> list[PackDiffers]:
    """Terminals that do not fit what the leads span, with a sibling for each tap that has no lead."""
    low, high = min(on_tap), max(on_tap)
    whole = on_tap[high][0].volts - on_tap[low][0].volts + (series - high + low) * group_v
    difference = pack_v - whole
    if -BOARD_V - PACK_SIGMA * pack_v <= difference <= max(2 * PACK_SIGMA * pack_v, 0.1):
        return []
    return [
        PackDiffers(
            difference_v=round(difference, 3),
            because=(words.leads_span_and_terminals(whole, pack_v)),
        )
    ]


def _wanders(lead: Lead) -> bool:
    values = [lead.volts, *lead.again_v]
    return max(values) - min(values) > WANDERS_V


def _placed(on_tap: dict[int, list[Lead]], group_v: float) -> list[PlacedLead]:
    if not on_tap:
        return []
    lowest = min(on_tap)
    base = on_tap[lowest][0].volts - lowest * group_v
    return [
        PlacedLead(tap=tap, lead=leads[0].lead, expected_v=round(leads[0].volts - base, 3))
        for tap, leads in sorted(on_tap.items())
    ]


def _gaps(on_tap: dict[int, list[Lead]], window: Window, group_v: float) -> list[ImplausibleGap]:
    taps = sorted(on_tap)
    found = []
    for a, b in itertools.pairwise(taps):
        lower, upper = on_tap[a][0], on_tap[b][0]
        mean = (upper.volts - lower.volts) / (b - a)
        if (mean < window.rest_floor_v and abs(upper.volts - lower.volts) > ZERO_V) or mean > window.questioned_v:
            says = words.lead_upper_lead_volts_lower_volts(lower.lead, upper.lead, upper.volts, lower.volts)
            because = words.should_read_about(says, b, a, window.name, group_v)
            if b - a == 1 and mean < window.rest_floor_v:
                because += words.group_at_or_reversed(mean)
            found.append(
                ImplausibleGap(
                    lower=lower.lead, upper=upper.lead, volts=round(upper.volts - lower.volts, 3), because=because
                )
            )
    return found


def _candidates(volts: Sequence[float], series: int, window: Window, pack_v: float | None) -> list[float]:
    """What a group may hang at: what the gaps say, taken as one, two or three groups."""
    least = max(window.rest_floor_v, 0.3)
    counts = Counter(
        round((high - low) / k / 0.02) * 0.02
        for i, low in enumerate(volts)
        for high in volts[i + 1 : i + 4]
        for k in (1, 2, 3)
    )
    if pack_v is not None:
        counts[pack_v / series] = len(volts)
    able = Counter({m: n for m, n in counts.items() if least <= m <= window.full_v + 0.05})
    return [m for m, _ in able.most_common(max(6, MOST_WAYS // max(len(volts), 1)))]


def _lay(volts: list[float], series: int, m: float, window: Window) -> _Laid:
    """The likeliest way to lay the sorted `volts` on taps 0…S where a group hangs at `m`."""
    count = len(volts)
    missing, same = math.log(P_MISSING), math.log(P_SAME_TAP)
    floats = math.log(P_FLOATING) - math.log(max(window.full_v * series, 1.0))

    at_zero = next((i for i, v in enumerate(volts) if v == 0), -1)

    def floating(start: int, end: int) -> float:
        return (end - start) * floats + (REFERENCE_FLOATS if start <= at_zero < end else 0.0)

    def gap(across_v: float, k: int) -> float:
        if k == 0:
            return same + _normal(across_v, 0.0, SAME_SIGMA_V)
        skipped = (k - 1) * missing
        if k == 1:
            return skipped + math.log(_group(across_v, m, window.full_v))
        # Several groups together: siblings, or one of them fallen.
        sibling = P_SIBLING * math.exp(_normal(across_v, k * m, SIBLING_SIGMA_V * math.sqrt(k)))
        fallen = P_FALLEN / (k * m) if 0 <= across_v <= k * m else 0.0
        return skipped + math.log(sibling + fallen + P_BEYOND)

    @cache
    def best(i: int, tap: int) -> tuple[float, tuple[int | None, ...]]:
        """Score and taps of the leads after i, which sits on `tap`."""
        top = (series - tap) * missing
        found: tuple[float, tuple[int | None, ...]] = (top + floating(i + 1, count), (None,) * (count - 1 - i))
        for j in range(i + 1, count):
            skipped = floating(i + 1, j)
            for k in range(min(MOST_SKIPPED, series - tap) + 1):
                if k * (window.full_v + 0.5) < volts[j] - volts[i]:
                    continue
                after, taps = best(j, tap + k)
                score = skipped + gap(volts[j] - volts[i], k) + after
                if score > found[0]:
                    found = (score, (*(None,) * (j - i - 1), tap + k, *taps))
            if j - i > MOST_SKIPPED:
                break
        return found

    chosen = _Laid(-math.inf, (None,) * count, m)
    for first in range(min(count, MOST_SKIPPED + 1)):
        # Nothing tells how many taps lie below the lowest lead: none, as long as the leads fit.
        base = 0
        after, taps = best(first, base)
        score = floating(0, first) + after
        if score > chosen.score:
            chosen = _Laid(score, (*(None,) * first, base, *taps), m)
    return chosen


def _group(volts: float, m: float, full_v: float) -> float:
    sibling = P_SIBLING * math.exp(_normal(volts, m, SIBLING_SIGMA_V))
    fallen = P_FALLEN / m if 0.0 <= volts <= m else 0.0
    # Fuller than the others is rare, above full impossible.
    risen = 0.01 / full_v if m < volts <= full_v + 0.05 else 0.0
    return sibling + fallen + risen + P_BEYOND


def _normal(x: float, mean: float, sigma: float) -> float:
    return -0.5 * ((x - mean) / sigma) ** 2 - math.log(sigma * math.sqrt(2 * math.pi))
