"""Simulates how single groups stand beside sound siblings, for every way in which a group goes bad, on the bench model.

Writes src/saldatura/battery/data/judge/groups.csv, from which the judgement takes the likelihoods of what is measured.
Run it again when the bench model changes: .venv/bin/python tools/tabulate_groups.py
"""

import csv
from pathlib import Path

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack.build import PackModel, build
from saldatura.battery.pack.drive import ConstantCurrent, Rest, StringCharger
from saldatura.battery.pack.faults import CellFault, ContactFault, Fault, JointFault
from saldatura.battery.pack.model import PackState, advance, group_volts
from saldatura.battery.quantities import Pack

TARGET = Path(__file__).parents[1] / "src/saldatura/battery/data/judge/groups.csv"
PACKS = {
    "lithium": Pack(chemistry="nmc", series=3, parallel=2, rated_ah=4.0),
    "nickel": Pack(chemistry="nimh", series=3, parallel=1, rated_ah=4.0),
}
EACH = {"low": 100, "weak": 100, "leaking": 72}
OTHERS = 28
GROUP = 2


def _faults(state: str, pack: Pack, rng: np.random.Generator) -> list[Fault]:
    cells = range(1, pack.parallel + 1)
    if state == "weak":
        left, more = float(rng.uniform(0.2, 0.8)), float(rng.uniform(1.0, 2.8))
        worn: list[Fault] = []
        for cell in cells:
            worn.append(CellFault(kind="low_capacity", group=GROUP, cell=cell, size=left))
            worn.append(CellFault(kind="high_resistance", group=GROUP, cell=cell, size=more))
        return worn
    if state == "leaking":
        return [CellFault(kind="soft_short", group=GROUP, size=float(np.exp(rng.uniform(np.log(8), np.log(3000)))))]
    if state == "joint":
        ohm = usual = float(np.exp(rng.uniform(np.log(0.02), np.log(1.5))))
        if pack.parallel > 1 and rng.random() < 0.25:
            return [JointFault(kind="torn_tab", group=GROUP)]
        return [ContactFault(kind="strip", group=GROUP, ohm=usual)] if rng.random() < 0.5 else [
            JointFault(kind="weld", group=GROUP, cell=cell, ohm=ohm) for cell in cells
        ]  # fmt: skip
    return []


def _lived(state: str, pack: Pack, model: PackModel, rng: np.random.Generator) -> PackState:
    """The pack after a charge to full and a discharge to a random depth, both ended by the first group that says so, and days at rest."""
    window = WINDOWS[pack.chemistry]
    end_v = window.full_v if window.family == "lithium" else 1.42
    at = PackState.at_rest(model, 22.0)
    if state != "sound":
        at, _ = advance(
            model, at, StringCharger(volts=end_v * pack.series * 1.05, amps=2.0), 40_000, 10.0, 22.0, high_v=end_v
        )
    # A pack comes in when its tool has stopped, or after it was charged once more.
    depth = (1.0 if rng.random() < 0.4 else float(rng.uniform(0.0, 1.0))) * pack.rated_ah * 3600
    at, _ = advance(model, at, ConstantCurrent(amps=-4.0), depth / 4.0, 1.0, 22.0, low_v=window.tool_end_v)
    days = float(rng.uniform(0.2, 12.0))
    at, _ = advance(model, at, Rest(), days * 86400, 60.0, 22.0)
    return at


def _sag_ohm(model: PackModel, at: PackState, seconds: float) -> np.ndarray:
    rest = group_volts(model, at)
    _, log = advance(model, at, ConstantCurrent(amps=-4.0), seconds, min(0.05, seconds), 22.0)
    return np.asarray((rest - log.group_v[-1]) / 4.0)


def _story(family: str, state: str, rng: np.random.Generator) -> dict[str, float | str]:
    pack = PACKS[family]
    window = WINDOWS[pack.chemistry]
    socs = np.full(3, 0.55 if state == "high" else 0.99) + rng.normal(0, 0.006, 3)
    if state == "low":
        # Drifts are found when they hurt: from a few hundredths of the charge to nearly all of it.
        socs[GROUP - 1] -= (
            float(rng.uniform(0.08, 0.96))
            if rng.random() < 0.55
            else min(float(np.exp(rng.normal(np.log(0.15), 0.7))), 0.9)
        )
    if state == "leaking":
        # It leaked before it came in as well.
        socs[GROUP - 1] -= float(rng.uniform(0.0, 0.8)) ** 1.3
    if state == "high":
        socs[GROUP - 1] += float(rng.uniform(0.05, 0.25))
    socs = np.clip(socs, 0.01, 1.0)
    faults = _faults(state, pack, rng)
    if state in ("flat", "dead", "reversed"):
        # Where the policy on run-flat groups draws its lines; a nickel cell has no floor but zero.
        floor = window.rest_floor_v or 0.7
        top = window.charge_normally_from_v or 1.1
        volts = {
            "flat": float(rng.uniform(floor, top + 0.35)),
            "dead": floor * float(rng.beta(0.6, 2.0)),
            "reversed": float(rng.uniform(0.02, 0.7)),
        }[state]
        faults = [
            CellFault(kind="reversed" if state == "reversed" else "run_flat", group=GROUP, size=max(volts, 0.001))
        ]
        model = build(pack, 0.4, faults)
        at = PackState.at_rest(model, 22.0)
        return {"family": family, "state": state, "reference": "", "soc": "", "volts": round(float(group_volts(model, at)[1]), 4),
                "r10": 1.5, "r0": 1.5, "r_khz": 1.5, "capacity": 0.0, "leak_a_day": 0.0}  # fmt: skip
    model = build(pack, socs.tolist(), faults)
    at = _lived(state, pack, model, rng)
    r10, r0 = _sag_ohm(model, at, 10.0), _sag_ohm(model, at, 0.05)
    # At 1 kHz nothing is moved but what conducts: a group that is near empty shows no more than a full one.
    khz = 1 / (1 / model.ohmic_ohm).sum(axis=1)
    if state == "joint" and faults and isinstance(faults[0], ContactFault):
        # A strip lies between two groups: who reads across it reads it with the lower one.
        more = faults[0].ohm * 4.0 / 4.0
        r10[1] += more
        r0[1] += more
        khz[1] += more
    soc, sound = at.soc.mean(axis=1), np.array([0, 2])
    capacity = model.capacity_as.sum(axis=1)
    if any(isinstance(f, JointFault) and f.kind == "torn_tab" for f in faults):
        capacity[1] /= pack.parallel
        soc[1] = at.soc[1, 1:].mean()
    leak = 0.0
    if state == "leaking":
        # While it still holds charge: an emptied group leaks no more.
        full = PackState.at_rest(build(pack, 0.5, faults), 22.0)
        later, _ = advance(model, full, Rest(), 3600.0, 10.0, 22.0)
        lost = (full.soc - later.soc).mean(axis=1) * 24
        leak = float(lost[1] - lost[sound].mean())
    return {
        "family": family, "state": state, "reference": round(float(soc[sound].mean()), 4), "soc": round(float(soc[1]), 4),
        "volts": "", "r10": round(float(r10[1] / r10[sound].mean()), 3), "r0": round(float(r0[1] / r0[sound].mean()), 3),
        "r_khz": round(float(khz[1] / khz[sound].mean()), 3),
        "capacity": round(float(capacity[1] / capacity[sound].mean()), 3), "leak_a_day": round(leak, 5),
    }  # fmt: skip


def main() -> None:
    rng = np.random.default_rng(7)
    rows = [
        _story(family, state, rng)
        for family in PACKS
        for state in ("low", "high", "weak", "leaking", "joint", "flat", "dead", "reversed")
        for _ in range(EACH.get(state, OTHERS))
    ]
    with TARGET.open("w", newline="", encoding="utf-8") as file:
        writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)
    print(f"{TARGET.name}: {len(rows)} groups")


if __name__ == "__main__":
    main()
