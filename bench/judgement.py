"""How often the verdict is right, honestly cannot tell, is wrong, or is dangerous, on strings made apart from the core."""

import os
import secrets
import time
from collections import Counter, defaultdict
from collections.abc import Iterator

import numpy as np

from bench.measure import Figure
from bench.strings import FLOOR, FULL, KINDS, USUAL, Case
from saldatura.battery.verdict import Verdict, VerdictRequest, verdict

COUNT = int(os.environ.get("SALDATURA_JUDGED", "20000"))
MILD = {"level", "low", "high"}


def graded(case: Case, found: Verdict) -> str:
    """`right`, `cannot tell`, `wrong` or `dangerous`."""
    state = {g.group: g.state for g in found.groups}
    if _dangerous(case, found):
        return "dangerous"
    named = {g: _alike(s, case.bad.get(g)) for g, s in state.items() if s not in ("level", "unread", "in_doubt")}
    taps = sorted(f.tap for f in found.findings if f.kind == "open_tap")
    if named == case.bad and taps == case.open_taps and _kind_fits(case, found):
        return "right"
    doubtful = {g for g, s in state.items() if s in ("unread", "in_doubt")} | {
        g for alike in found.findings if alike.kind == "undetermined" for g in alike.groups
    }
    honest = all(case.bad.get(g) == s for g, s in named.items()) and (set(case.bad) - set(named)) <= doubtful
    if honest and found.kind in ("cannot_tell", "readings_inconsistent") and not set(taps) - set(case.open_taps):
        return "cannot tell"
    return "wrong"


def _alike(found: str, true: str | None) -> str:
    """A dead group and one a little beside zero are the same to the hand: replaced, never charged."""
    same = {found, true} in ({"dead", "under_floor"}, {"dead", "reversed"})
    return true if true is not None and same else found


def _kind_fits(case: Case, found: Verdict) -> bool:
    states = set(case.bad.values())
    wanted = {"overcharged"} if "overcharged" in states else set()
    if not wanted:
        for state, kind in (
            ("dead", "reversed_or_dead_group"),
            ("reversed", "reversed_or_dead_group"),
            ("under_floor", "group_under_floor"),
            ("run_flat", "run_flat"),
            ("low", "imbalanced"),
        ):
            if state in states:
                wanted = {kind}
                break
    if not wanted:
        wanted = (
            {"readings_inconsistent"}
            if case.open_taps
            else {"output_open"}
            if case.terminals == "off"
            else {"terminals_differ"}
            if case.terminals == "diode"
            else {"sound"}
        )
        if case.kind == "mistyped":
            wanted = {"sound", "cannot_tell"}
    if "dead" in states or "under_floor" in states:
        wanted |= {"group_under_floor", "reversed_or_dead_group"}
    return found.kind in wanted


def _dangerous(case: Case, found: Verdict) -> bool:
    """A verdict that could hurt: a group that must not be charged is let through, or condemned groups are called sound."""
    chemistry = case.request["pack"]["chemistry"]
    barred = {b.group for b in found.barred}
    settled = {g.group: g for g in found.groups if g.state not in ("unread", "in_doubt")}
    for group, volts in enumerate(case.true_v, start=1):
        if group not in settled or group in barred:
            continue
        state = settled[group].state
        # A meter that shows tenths cannot tell a fifth of a volt; what it does show above full may not pass.
        sigma = settled[group].sigma_v or 0.0
        seen = sigma < 0.05 or (settled[group].volts or 0.0) > FULL[chemistry] + 1.5 * sigma
        if (volts > FULL[chemistry] + 0.09 and seen) or volts < FLOOR[chemistry] - 0.08:
            return True
        # In the lower band a charge must be slow and timed; in the upper one every charger's own pre-charge does.
        if volts < (USUAL[chemistry] + FLOOR[chemistry]) / 2 - 0.08 and state in MILD:
            return True
    return False


def run(count: int, seed: int) -> tuple[dict[str, Counter[str]], list[tuple[Case, Verdict, str]], float]:
    """Grades by kind, what was wrong or dangerous, and seconds taken."""
    rng = np.random.default_rng(seed)
    grades: dict[str, Counter[str]] = defaultdict(Counter)
    bad = []
    start = time.perf_counter()
    names = list(KINDS)
    for i in range(count):
        case = KINDS[names[i % len(names)]](rng)
        found = verdict(VerdictRequest.model_validate(case.request))
        grade = graded(case, found)
        grades[names[i % len(names)]][grade] += 1
        if grade != "right":
            bad.append((case, found, grade))
    return grades, bad, time.perf_counter() - start


def figures() -> Iterator[Figure]:
    """Rates by kind, on a seed of this run."""
    seed = secrets.randbits(32)
    grades, _, _ = run(COUNT, seed)
    plain: Counter[str] = Counter()
    for name, counts in grades.items():
        total = sum(counts.values())
        share = {k: counts[k] / total for k in ("right", "cannot tell", "wrong", "dangerous")}
        plain.update(counts)
        yield Figure(
            f"Judgement, {name} (n {total}, seed {seed})",
            f"right {share['right']:.1%}, cannot tell {share['cannot tell']:.1%}, wrong {share['wrong']:.1%}, dangerous {counts['dangerous']}",
            "≥ 97 % right, none dangerous",
            share["right"] >= 0.97 and not counts["dangerous"],
        )
    total = sum(plain.values())
    yield Figure(
        "Judgement, all strings",
        f"right {plain['right'] / total:.1%}, cannot tell {plain['cannot tell'] / total:.1%}, wrong {plain['wrong'] / total:.1%}, dangerous {plain['dangerous']} of {total}",
        "≥ 97 % right, none dangerous",
        plain["right"] >= 0.97 * total and not plain["dangerous"],
    )
