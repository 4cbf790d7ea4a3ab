"""The least change by which strips that grow too warm are enough: tried on the network itself, never guessed.

In the order of the work: another layer on the pieces that are too warm, the lead moved or given a second foot, copper in place of the strip, copper and
layers, and only then more metal than a strip is sold in.
"""

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from saldatura.battery.join.net_types import MATERIALS, InterconnectRequest, Mend, Segment, StripChange, TakeOff
from saldatura.battery.join.network import Carried, carried, is_cool, too_warm
from saldatura.battery.join.words import mend as words
from saldatura.battery.limits.joining import ONE_SIZE

MOST_LAYERS = 3
# Each change moves the currents and may warm a piece that was cool: it is added and tried again, so often at most.
ROUNDS = 12
# Networks of more pieces than this are not tried with the lead at other places.
MOST_MOVED = 400
PLACES = 12
# Beyond this no strip is meant.
MOST_TIMES = 1000.0
MOST_NAMED = 40


def least_mend(request: InterconnectRequest, found: Carried) -> Mend | None:
    """The first of the changes, in order of the work they make, that is enough; None where none is."""
    return next(_mends(request, found), None)


def _mends(request: InterconnectRequest, found: Carried) -> Iterator[Mend]:
    yield from _layers(request, found, None)
    if len(request.segments) <= MOST_MOVED:
        yield from _moved(request)
    if any(s.material != "copper" for s in request.segments):
        yield from _layers(request, found, "copper")
    yield from _times(request, found)


def _layers(request: InterconnectRequest, found: Carried, material: str | None) -> Iterator[Mend]:
    """Up to three layers; with a material, in that."""
    for layers in range(1 if material else 2, MOST_LAYERS + 1):

        def made(s: Segment, layers: int = layers) -> Segment:
            return s.model_copy(update={"layers": max(s.layers, layers), "material": material or s.material})

        changed = _until_cool(request, found, made)
        if changed is None:
            continue
        before = {s.segment: s for s in request.segments}
        changed = {name: s for name, s in changed.items() if s != before[name]}
        least = min(before[name].layers for name in changed)
        where = _where(request, list(changed))
        if material is None:
            said = words.layers_instead(layers, least, where)
        elif all(s.layers == before[name].layers for name, s in changed.items()):
            gain = MATERIALS[before[next(iter(changed))].material].resistivity / MATERIALS["copper"].resistivity
            said = words.copper_of_same_size(where, gain)
        else:
            said = words.copper_in_layers_instead(layers, least, where)
        yield Mend(changes=_changes(changed), says=said)


def _moved(request: InterconnectRequest) -> Iterator[Mend]:
    """A lead at another node of its own piece of strip."""
    for end in ("positive", "negative"):
        now = getattr(request.take_off, end)
        for node in _of_one_piece(request, now):
            moved = request.take_off.model_copy(update={end: node})
            if is_cool(request, carried(request.model_copy(update={"take_off": moved}))):
                yield Mend(take_off=moved, says=words.lead_at_instead(end, node, now))
    best = _both(request)
    if best is not None:
        yield Mend(
            take_off=best,
            says=words.leads_at_and_instead(
                best.positive, best.negative, request.take_off.positive, request.take_off.negative
            ),
        )


def _both(request: InterconnectRequest) -> TakeOff | None:
    for plus in _of_one_piece(request, request.take_off.positive)[: PLACES // 3]:
        for minus in _of_one_piece(request, request.take_off.negative)[: PLACES // 3]:
            moved = TakeOff(positive=plus, negative=minus)
            if is_cool(request, carried(request.model_copy(update={"take_off": moved}))):
                return moved
    return None


def _of_one_piece(request: InterconnectRequest, node: str) -> list[str]:
    """Other nodes that strips alone join to one, the middle ones first."""
    beside: dict[str, list[str]] = {}
    for s in request.segments:
        beside.setdefault(s.from_, []).append(s.to)
        beside.setdefault(s.to, []).append(s.from_)
    reached, edge = [node], [node]
    while edge:
        edge = [n for n in dict.fromkeys(b for at in edge for b in beside[at]) if n not in reached]
        reached += edge
    others = sorted((n for n in reached if n != node), key=lambda n: -len(beside[n]))
    return others[:PLACES]


def _times(request: InterconnectRequest, found: Carried) -> Iterator[Mend]:
    """More cross-section, as much as it takes, by halving."""

    def changed(times: float) -> dict[str, Segment] | None:
        return _until_cool(request, found, lambda s: s.model_copy(update={"width_mm": min(s.width_mm * times, 1000.0)}))

    low, high = 1.0, 2.0
    while changed(high) is None:
        low, high = high, high * 2
        if high > MOST_TIMES:
            return
    while high / low > ONE_SIZE:
        middle = (low * high) ** 0.5
        low, high = (low, middle) if changed(middle) is not None else (middle, high)
    times = float(np.ceil(high * 10) / 10)
    made = changed(times) or changed(high)
    if made is not None:
        yield Mend(changes=_changes(made), says=words.times_cross_section(times, _where(request, list(made))))


def _until_cool(
    request: InterconnectRequest, found: Carried, made: Callable[[Segment], Segment]
) -> dict[str, Segment] | None:
    """The pieces that must be made anew, and how, until none is too warm; None where that is not enough."""
    hot = too_warm(request, found)
    for _ in range(ROUNDS):
        segments = [made(s) if h else s for s, h in zip(request.segments, hot, strict=True)]
        tried = request.model_copy(update={"segments": segments})
        more = too_warm(tried, carried(tried, found.node))
        if not more.any():
            return {s.segment: s for s, h in zip(segments, hot, strict=True) if h}
        if not (more & ~hot).any():
            return None
        hot = hot | more
    return None


def _changes(changed: dict[str, Segment]) -> list[StripChange]:
    return [
        StripChange(segment=name, material=s.material, width_mm=round(s.width_mm, 4), layers=s.layers)
        for name, s in changed.items()
    ]


def _where(request: InterconnectRequest, names: Sequence[str]) -> str:
    return "every piece" if len(names) == len(request.segments) and len(names) > MOST_NAMED else ", ".join(names)
