"""What a test of the groups may show: voltages, resistance, capacity, self-discharge."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.judge.account import TOUCHES
from saldatura.battery.judge.grid import WEAR
from saldatura.battery.judge.posterior import WIRES, Belief, Hypothesis
from saldatura.battery.judge.siblings import siblings


@dataclass(frozen=True)
class Outcomes:
    """Chances of a test's outcomes under each hypothesis of a belief, (H, outcomes)."""

    chances: Array
    groups: tuple[int, ...] = ()


def _off(belief: Belief) -> dict[str, tuple[Array, Array]]:
    """By state, the chances that a group in it stands off its siblings, low and high, at each of their states of charge."""
    held = belief.memo.get("off")
    if held is None:
        grid, key = belief.string.grid, belief.pack.chemistry
        held = {}
        for state, b in siblings(key).items():
            if not b.own_volts:
                off = b.rest_volts(key, grid.soc)[0] - grid.volts[:, None]
                weight = b.weights(grid.soc)
                held[state] = ((weight * (off < -LEVEL_V)).sum(axis=1), (weight * (off > LEVEL_V)).sum(axis=1))
        belief.memo["off"] = held
    return held


def _shows(belief: Belief, h: Hypothesis) -> dict[str, Array]:
    """What a touched group would show at rest, by cause: chances of GROUP_CLASSES at the siblings' likely charge."""
    if ("shows", h.causes) in belief.memo:
        known: dict[str, Array] = belief.memo["shows", h.causes]
        return known
    off, found = _off(belief), {}
    soc_p = sum(w * a.by_soc for w, _, a in h.accounts)
    for key in h.keys:
        if key not in TOUCHES:
            continue
        chances = np.zeros(len(GROUP_CLASSES))
        for state, share in TOUCHES[key][0].items():
            if state not in off:
                chances[GROUP_CLASSES.index(state)] += share
                continue
            low, high = float(off[state][0] @ soc_p), float(off[state][1] @ soc_p)
            chances[1] += share * low
            chances[2] += share * high
            chances[0] += share * max(1 - low - high, 0.0)
        found[key] = chances
    belief.memo["shows", h.causes] = found
    return found


def unread(belief: Belief) -> list[int]:
    """Groups never read at rest by themselves."""
    return [g for g in range(1, belief.pack.series + 1) if g not in belief.found.read_groups]


def groups_read(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    """What reading every group may show; None where all are read."""
    left = unread(belief)
    if not left:
        return None
    chances = np.full((len(keep), len(GROUP_CLASSES)), ODD / len(GROUP_CLASSES))
    for i, h in enumerate(keep):
        shows, level = _shows(belief, h), 1.0
        for key, classes in shows.items():
            touched = h.touched(key)
            present = 1 - float(np.prod([1 - min(touched.get(g, 0.0), 1.0) for g in left]))
            chances[i] += level * present * np.where(np.arange(len(classes)) == 0, 0, classes)
            level *= 1 - present * (1 - classes[0])
        for wire in (k for k in h.keys if k in WIRES):
            share = min(1.0, len(left) / belief.pack.series * 1.2)
            chances[i, GROUP_CLASSES.index("see_saw" if wire != "shorted_sense_wires" else "dead")] += (
                level * share * 0.96
            )
            level *= 1 - share * 0.96
        chances[i, 0] += level
    return Outcomes(chances / chances.sum(axis=1, keepdims=True), tuple(left))


def doubtful_groups(belief: Belief) -> list[int]:
    """Groups whose pins read something else than their siblings', or that an open wire may hide, not read on their tabs."""
    suspects: dict[int, float] = {}
    for h, p in zip(belief.hypotheses, belief.p, strict=True):
        for key in h.keys:
            for g, share in h.touched(key).items():
                suspects[g] = suspects.get(g, 0.0) + float(p) * share
            if key in WIRES:
                for weight, taps, _ in h.accounts:
                    for g in {g for t in taps for g in (t, t + 1)}:
                        suspects[g] = suspects.get(g, 0.0) + float(p) * weight
    pins = belief.found.pins
    likely = [
        g
        for g, p in suspects.items()
        if p > 0.12 and 1 <= g <= belief.pack.series and pins.get(g) and not belief.found.tabs.get(g)
    ]
    return sorted(sorted(likely, key=lambda g: -suspects[g])[:3])


def tabs(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    """What reading the cells' own tabs may show; None where nothing is in doubt."""
    groups = doubtful_groups(belief)
    if not groups:
        return None
    chances = np.full((len(keep), 2), ODD)
    for i, h in enumerate(keep):
        odd = 0.0
        shows = _shows(belief, h)
        for key, classes in shows.items():
            touched = h.touched(key)
            present = max((touched.get(g, 0.0) for g in groups), default=0.0)
            odd = max(odd, present * (1 - classes[0] if key != "bad_joint" else 0.05))
        chances[i] += [1 - odd, odd]
    return Outcomes(chances / chances.sum(axis=1, keepdims=True), tuple(groups))


def rested_a_day(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    """Groups that were read too soon after a current, or only with one flowing."""
    soon = [
        e.group for e in belief.evidence
        if e.kind == "group_v" and (e.condition != "rest" or (e.rested_h is not None and e.rested_h < 0.5))
    ]  # fmt: skip
    rested = [
        e.group
        for e in belief.evidence
        if e.kind == "group_v" and e.condition == "rest" and (e.rested_h is None or e.rested_h >= 0.5)
    ]
    groups = sorted(set(soon) - set(rested))
    if not groups:
        return None
    chances = np.full((len(keep), 2), ODD)
    for i, h in enumerate(keep):
        off = 0.0
        for key, classes in _shows(belief, h).items():
            off = max(off, (1 - classes[0]) * max((h.touched(key).get(g, 0.0) for g in groups), default=0.0))
        chances[i] += [1 - off, off]
    return Outcomes(chances / chances.sum(axis=1, keepdims=True), tuple(groups))


def resistance(at_once_only: bool) -> Callable[[Belief, list[Hypothesis]], Outcomes | None]:
    """What a step in current may show: all alike, one high at once, or one that grows."""

    def make(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
        if belief.found.figures and any(
            e.kind in ("resistance", "acir") for figures in belief.found.figures.values() for e in figures
        ):
            return None
        bank = siblings(belief.pack.chemistry)
        all_high = {
            worn: float((w * (WEAR.resistance > HIGH)).sum()) for worn, w in ((False, WEAR.sound), (True, WEAR.worn))
        }
        chances = np.full((len(keep), 4), ODD)
        for i, h in enumerate(keep):
            high = all_high["worn" in h.keys]
            mine = np.array([1 - high, high, 0.0, 0.0])
            for key in (k for k in h.keys if k in TOUCHES):
                state = max(TOUCHES[key][0], key=lambda s: TOUCHES[key][0][s])
                b = bank[state]
                once = float(np.mean((b.r0 > AT_ONCE) & (b.r0 > 1.15 * b.r10)))
                lasting = float(np.mean((b.r10 > LASTING) & ~((b.r0 > AT_ONCE) & (b.r0 > 1.15 * b.r10))))
                if b.own_volts:
                    once, lasting = 0.0, 0.5
                if at_once_only:
                    # One instant does not tell a joint from a weak cell.
                    once, lasting = float(np.mean(b.r_khz > LASTING)), 0.0
                mine = mine * (1 - once - lasting) + np.array([0, 0, once, lasting])
            chances[i] += mine
        return Outcomes(chances / chances.sum(axis=1, keepdims=True))

    return make


def capacity(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    """What a capacity test of the groups may show."""
    if belief.found.whole or any(e.kind == "capacity" for figures in belief.found.figures.values() for e in figures):
        return None
    bank = siblings(belief.pack.chemistry)
    chances = np.full((len(keep), 3), ODD)
    for i, h in enumerate(keep):
        wear = WEAR.worn if "worn" in h.keys else WEAR.sound
        share = WEAR.capacity
        for key in (k for k in h.keys if k in TOUCHES):
            b = bank[max(TOUCHES[key][0], key=lambda s: TOUCHES[key][0][s])]
            lost = (
                np.median(b.capacity)
                if key == "weak_group"
                else 0.1
                if b.own_volts
                else max(1 - float(np.mean(b.reference - b.soc)), 0.2)
            )
            share = share * float(lost) if key != "bad_joint" else share
        less, little = float((wear * (share < LESS)).sum()), float((wear * (share < LITTLE)).sum())
        chances[i] += [1 - less, less - little, little]
    return Outcomes(chances / chances.sum(axis=1, keepdims=True))


def fall(belief: Belief, keep: list[Hypothesis]) -> Outcomes | None:
    """What reading again after a day may show."""
    if any(e.kind in ("rest_fall", "leak") for figures in belief.found.figures.values() for e in figures):
        return None
    leaks = siblings(belief.pack.chemistry)["leaking"].leak_a_day
    falls = float(np.mean(leaks > SHOWS_A_DAY)) * 0.97
    chances = np.stack(
        [np.array([falls, 1 - falls]) if "leaking_group" in h.keys else np.array([ODD, 1 - ODD]) for h in keep]
    )
    return Outcomes(chances)


LEVEL_V = 0.035


GROUP_CLASSES = ("level", "low", "high", "flat", "dead", "reversed", "see_saw")


# Of resistances: all alike, all high, one high at once, one high and growing; by multiples of the usual or the siblings'.
HIGH, AT_ONCE, LASTING = 1.9, 1.5, 1.35


# Of a capacity: near the rated one, less than three quarters, less than two fifths.
LESS, LITTLE = 0.75, 0.4


# A leak of so much of the charge a day shows in the rest of a day.
SHOWS_A_DAY = 0.004


# Of outcomes that do not fit a cause a few are met with all the same.
ODD = 0.02
