"""What reconciliation found, in the technician's words."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import groups_words, number_words, span_of, volts_words, words_for
from saldatura.battery.reconcile.beliefs import SEESAW_V, centred
from saldatura.battery.reconcile.types import LookAlike

if TYPE_CHECKING:
    from collections.abc import Sequence

    from saldatura.battery.cell.windows import Window
    from saldatura.battery.quantities import GroupReading, PackReading, Reading, SpanReading, TapReading
    from saldatura.battery.reconcile.fit import Array, Edge, Fit
    from saldatura.battery.reconcile.proposals import Fault
    from saldatura.battery.reconcile.types import KnownSum, ReconcileRequest, TerminalState


SIBLING_V = 0.12
# Siblings hang within this of their centre.
SIBLINGS_V = 0.2
# The slips of a hand: the point one place off, two places off, or a meter on its millivolt range.
SLIPS = ((1000.0, "a meter set to millivolts"), (100.0, "the point two places off"), (10.0, "the point one place off"))


def fault_words(fault: Fault, readings: Sequence[Reading]) -> str:
    """A fault in a few words."""
    match fault.kind:
        case "open_tap":
            return f"the sense wire of tap {fault.taps[0]} is open"
        case "swapped_taps":
            return f"the wires of taps {number_words(fault.taps)} are exchanged"
        case "shifted_connector":
            return f"the connector sits one tap off from pin {fault.taps[0]}"
        case "pack_differs":
            return "the terminals do not show the string"
    assert fault.reading is not None
    what = "taken backwards" if fault.kind == "reversed_probes" else "wrong"
    return f"the reading at {words_for(readings[fault.reading])} is {what}"


def because_open(taps: Sequence[int], tap: int, found: Fit, window: Window) -> str:
    """An open wire, and what the groups about it can hold. `taps` are all that float."""
    low = high = tap
    while low - 1 in taps:
        low -= 1
    while high + 1 in taps:
        high += 1
    if tap != low:
        return f"Tap {tap} floats as tap {low} does; what lies between them is known together only."
    whole = next(
        (v for span, v in zip(found.spans, found.volts.tolist(), strict=True) if span == (low - 1, high + 1)), None
    )
    if whole is None:
        return f"Tap {tap} floats: what is read on it fits nothing. Its sense wire is open."
    groups = range(low, high + 2)
    wires = (
        "its sense wire is open"
        if low == high
        else f"the sense wires of taps {number_words(range(low, high + 1))} are open"
    )
    return (
        f"Tap {tap} floats: {wires}. {groups_words(groups)} together hold {volts_words(whole)}: "
        f"{sum_allows(whole, len(groups), found, window)}. Read them on the cells' own tabs."
    )


def sum_allows(whole: float, count: int, found: Fit, window: Window) -> str:
    """What groups known only together may hold."""
    centre = centred(window, found.volts, found.counts)[1]
    mean = whole / count
    every = "both" if count == 2 else "all of them"
    if window.family == "lithium" and mean > window.full_v + 0.02:
        return "one of them at least is above full"
    if abs(mean - centre) <= SIBLING_V:
        return "they may be like their siblings, but one full and one flat would read the same"
    if mean < window.charge_normally_from_v:
        return f"one full and one flat, or {every} low"
    return f"{every} low, or one of them very low" if mean < centre else f"{every} high, or one of them very high"


def look_alikes(found: Fit, on_tabs: Array, window: Window) -> list[LookAlike]:
    """Neighbours that nothing tells from an open wire between them: two groups alone, or neither among its siblings."""
    used = np.abs(found.weights) > 0.05
    at = {b: (v, u) for (a, b), v, u in zip(found.spans, found.volts.tolist(), used, strict=True) if b - a == 1}
    centre = centred(window, found.volts, found.counts)[1]
    alike = []
    for group, (volts, by) in sorted(at.items()):
        if group + 1 not in at:
            continue
        other, other_by = at[group + 1]
        sibling = len(at) > 2 and any(abs(v - centre) <= SIBLINGS_V for v in (volts, other))
        by_hand = bool((by & on_tabs).any()) and bool((other_by & on_tabs).any())
        if abs(volts - other) <= SEESAW_V or sibling or by_hand:
            continue
        whole = volts + other
        alike.append(
            LookAlike(
                tap=group,
                groups=[group, group + 1],
                together_v=round(whole, 4),
                because=(
                    f"Groups {group} and {group + 1} together hold {volts_words(whole)}; an open wire at tap {group} would share "
                    f"that out wrongly in just this way: {sum_allows(whole, 2, found, window)}. Read both on the cells' own tabs."
                ),
            )
        )
    return alike


def because_wrong(
    reading: Reading, expected: float | None, sibling_v: float, series: int, terminals: float | None
) -> str:
    """A reading that does not fit, what it should be, and the slip that would give it."""
    where = words_for(reading)
    said = f"The reading at {where}, {volts_words(reading.volts)}, does not fit the others"
    a, b = span_of(reading, series)
    likely = expected if expected is not None else sibling_v * (b - a)
    slip = next(
        (words for by, words in SLIPS if likely and math.isclose(reading.volts / by, likely, rel_tol=0.06)), None
    )
    if slip is not None:
        by = next(by for by, words in SLIPS if words == slip)
        return f"{said}: {slip} would make it of {volts_words(reading.volts / by)}. Read it again."
    if expected is not None:
        return f"{said}: they put it at {volts_words(expected)}."
    if terminals is not None and abs(reading.volts) > abs(terminals) + 0.5:
        return f"{said}: it is more than the whole string holds at its terminals, {volts_words(terminals)}."
    return f"{said}: with it, a group would hold a voltage no cell of this kind can have, or stand alone."


def expected_at(found: Fit, edge: Edge) -> float | None:
    """What the fit says a reading should have been, where it can."""
    low, high = min(edge), max(edge)
    inside = [
        (span, v)
        for span, v in zip(found.spans, found.volts.tolist(), strict=True)
        if span[0] >= low and span[1] <= high
    ]
    at, total = low, 0.0
    for (a, b), v in sorted(inside):
        if a == at:
            at, total = b, total + v
    if at != high:
        return None
    return total if edge[1] > edge[0] else -total


def because_missing(missing: Sequence[int], sums: Sequence[KnownSum]) -> str:
    """Groups that are not settled, and what they hold together."""
    said = f"{groups_words(missing)} {'is' if len(missing) == 1 else 'are'} not settled by the readings so far."
    for known in sums:
        inside = [g for g in missing if known.from_tap < g <= known.to_tap]
        if inside == list(range(known.from_tap + 1, known.to_tap + 1)):
            said += f" {groups_words(inside)} together hold {volts_words(known.volts)}."
    return said


def because_exchanged(request: ReconcileRequest, what: str, found: Fit) -> str:
    """An exchange or a shift, and how the groups hang once it is undone in thought."""
    window = WINDOWS[request.chemistry]
    centre = centred(window, found.volts, found.counts)[1]
    apart = [
        b
        for (a, b), v in zip(found.spans, found.volts.tolist(), strict=True)
        if b - a == 1 and abs(v - centre) > SIBLING_V
    ]
    if not apart:
        return f"{what} every group reads like its siblings."
    return f"{what} all groups but {number_words(apart)} read like their siblings."


def terminals_says(state: TerminalState, total: float, pack_v: float) -> str:
    """What the terminals tell beside the sum of the groups."""
    less = volts_words(abs(pack_v - total))
    sums = f"The groups add up to {volts_words(total)} and the terminals read {volts_words(pack_v)}"
    match state:
        case "agree":
            return f"Their sum, {volts_words(total)}, is what the terminals read within the meter's doubt ({volts_words(pack_v)})."
        case "board":
            return f"{sums}: {less} less, which a board in between ordinarily takes."
        case "diode":
            return f"{sums}: {less} less, as much as the body diode of a switch that is off. Look along the power path."
        case "off":
            return f"The string holds {volts_words(total)} and the terminals read {volts_words(pack_v)}: the path between them is open. Go to the power path."
        case "reversed":
            return f"The terminals read {volts_words(pack_v)} for a string of {volts_words(total)}: black and red are exchanged, on the meter or on the terminals. Read them again; if it stays, connect nothing."
    more = "more" if pack_v > total else "less"
    return f"{sums}, {less} {more} than board and meter account for: read the terminals again, then the groups."


def taps_of_two_strings(low: int, high: int) -> str:
    return f"no string has both tap {low} and tap {high}; read each against the minus of its own string"


def group_does_not_exist(tap: int, series: int) -> str:
    return f"group {tap} does not exist: {series} in series"


def tap_does_not_exist(tap: int, series: int) -> str:
    return f"tap {tap} does not exist: a pack of {series} in series has taps 0 to {series}"


def wires_of_taps(a: int, b: int) -> str:
    return f"The wires of taps {a} and {b} are exchanged: with them put back,"


def pin_on_connector_sits(tap: int) -> str:
    return f"From pin {tap} on, the connector sits one tap off: moved back,"


def reading_at_fits(reading: TapReading | GroupReading | SpanReading | PackReading, volts: float) -> str:
    return f"The reading at {words_for(reading)}, {volts_words(volts)}, fits with its sign reversed: the probes were exchanged."


def terminals_read_which_what(volts: float) -> str:
    return f"The terminals read {volts_words(volts)}, which what is read of the string does not allow."


TURNED = (
    "Every reading is negative: the probes are exchanged, or plus and minus of the pack are taken for one another. No wire is called wrong on that. "
    "Check the probes, then the polarity, and read again."
)
