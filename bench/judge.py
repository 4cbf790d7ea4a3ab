"""The judgement on packs made apart from it: how often right, how sure, in how many minutes, against two simpler ways."""

import secrets
from collections import Counter
from collections.abc import Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from bench.judge_answers import answer, start
from bench.judge_packs import BOARD, GROUPS, INSIDE, KINDS, MET, MINUTES, OPENING, WAITS_H, WIRES, Patient
from bench.measure import Figure, at_most, milliseconds
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge import JudgeRequest, judge, outcomes, tables
from saldatura.battery.judge.hazards import unsafe
from saldatura.battery.judge.next_test import SURE, best_repair, enough, fits, wants_tabs, worth
from saldatura.battery.judge.posterior import Belief, believe
from saldatura.battery.quantities import Pack

COUNT, MOST_TESTS = 2000, 26
# A sensible order: what is told, what is read outside, then inside, then tries, then what takes long.
ORDER = (
    "look_outside", "ask_charger", "ask_tool", "look_at_lamps", "ask_history", "terminal_v", "sensor_ohm", "group_v", "look_inside",
    "cell_direct_v", "swap_charger", "swap_pack", "moving_output", "moving_sensor", "registers", "resistance", "path_v", "gate_v", "rail_v",
    "clean_connector", "capacity", "rest_fall", "swap_board",
)  # fmt: skip
WEAK = """\
- A group that loses charge looks like one that drifted long ago until it has rested for a day: a group is levelled, and the
  self-discharge watch finds the leak. That first repair is the cheap one.
- A weak group that comes in full hangs level with its siblings. Only a load, 1 kHz, a capacity or a discharge to its end shows it.
- The ways in which a board fails are told apart by registers, its supply, its nodes and the gate of a switch that does not pass; a board
  that latched and one that died look alike where there is no chip to ask and nothing burnt. The repair, another board, is the same.
- Two things wrong at once: the first is found as surely as one alone, the second often only after the first is mended.
- Nothing wrong at all: a customer's complaint that was a mistake leaves charger, tool and pack to be cleared one by one.
- The answers of the benchmark are a script of one hand: other shops' customers lie differently."""
ROOT = Path(__file__).parents[1]


def patient(seed: int, likelier: Mapping[str, float] | None = None, model: int | None = None) -> Patient:
    """A pack with nothing, one or two things wrong; `likelier`: how much likelier packs of its model have each than packs in general, `model`:
    the seed of what the model is, so that others of it are built alike.
    """
    own = np.random.default_rng(seed)
    rng = own if model is None else np.random.default_rng(model)
    chemistry = str(
        rng.choice(
            ["nmc", "li_oxide", "nca", "lco", "lipo", "lipo_hv", "lfp", "nimh", "nicd"],
            p=[0.28, 0.2, 0.08, 0.06, 0.1, 0.06, 0.1, 0.08, 0.04],
        )
    )
    family = WINDOWS[chemistry].family  # type: ignore[index]
    series = int(rng.integers(1, 15))
    pouch = chemistry in ("lipo", "lipo_hv")
    kind = "drone" if pouch and rng.random() < 0.7 else str(rng.choice([k for k in KINDS if k != "drone"]))
    has_board = kind != "drone" and family == "lithium"
    met = dict(MET)
    for cause in met:
        if not has_board and (cause in BOARD or cause in ("gauge_lost", "sensor_circuit")):
            met[cause] = 0 if kind == "drone" else met[cause] // 8
        if family == "nickel" and cause in WIRES:
            met[cause] = 0
        if series == 1 and cause in ("imbalance", "weak_group", *WIRES):
            met[cause] = 0
    rated = float(rng.choice([1.5, 2.0, 2.6, 4.0, 5.0, 7.5]))
    pack = Pack(
        chemistry=chemistry,
        series=series,
        parallel=int(rng.integers(1, 6)),
        rated_ah=rated,
        load_a=round(rated * float(rng.uniform(1, 4)), 1),
    )
    rng = own
    age = float(rng.gamma(2.2, 2.2))
    met["worn"] = int(met["worn"] * (0.2 if age < 2 else 1.0 if age < 5 else 2.2))
    names = list(met)
    weight = np.array([met[n] * (1.0 if likelier is None else likelier[n]) for n in names], dtype=float)
    count = int(rng.choice([1, 2], p=[0.9, 0.1]))
    truth = list(rng.choice(names, size=count, replace=False, p=weight / weight.sum()))
    if count == 2 and ("sound" in truth or len(set(truth) & set(GROUPS)) == 2 or len(set(truth) & set(WIRES)) == 2):
        truth = truth[:1]
    return Patient(pack=pack, kind=kind, age=age, has_board=has_board, truth=tuple(str(t) for t in truth), rng=rng)


def request(p: Patient, evidence: list[dict[str, Any]], of_model: Mapping[str, float] | None = None) -> JudgeRequest:
    pack = {**p.pack.model_dump(), "kind": p.kind, "age_years": round(p.age)}
    return JudgeRequest.model_validate({"pack": pack, "evidence": evidence, "of_model": dict(of_model or {})})


def danger_shown(p: Patient, evidence: list[dict[str, Any]], test: str) -> bool:
    """Whether a test is one that what was found so far forbids."""
    window = WINDOWS[p.pack.chemistry]
    seen = {e["what"] for e in evidence if e["kind"] == "seen"}
    if seen & {"swollen", "leak"}:
        return test != "ask_history"
    tabs = {e["group"]: e["volts"] for e in evidence if e["kind"] == "cell_direct_v"}
    volts = {e["group"]: e["volts"] for e in evidence if e["kind"] == "group_v"} | tabs
    lithium = window.family == "lithium"
    gone = [v for v in volts.values() if v < -0.05 or (lithium and v < window.rest_floor_v)]
    over = [v for v in volts.values() if lithium and window.full_v + 0.05 < v < window.full_v + 0.5]
    charges = test in ("ask_charger", "swap_charger", "charge_group")
    return bool((gone or over) and charges) or bool(
        gone and test in ("resistance", "capacity", "ask_tool", "swap_tool")
    )


def sure(belief: Belief) -> bool:
    """Whether one repair is as good as certain."""
    return best_repair(belief)[1] >= SURE and not wants_tabs(belief)


def next_in_order(p: Patient, belief: Belief, line: list[str]) -> tuple[str, tuple[int, ...]] | None:
    """The next test of the fixed order that this pack allows and that was not answered yet; it does not weigh what it tells."""
    barred = unsafe(belief)
    while line:
        test = line.pop(0)
        row = next(r for r in tables.catalogue() if r.test == test)
        shown = outcomes.outcomes_of(belief, belief.hypotheses[:1], test)
        if test not in barred and shown is not None and fits(belief, row):
            return test, shown.groups
    return None


def run(p: Patient, how: str, of_model: Mapping[str, float] | None = None) -> dict[str, Any]:
    """One pack judged: `next` by the judgement's own tests, `order` by the fixed order, `priors` by nothing. `of_model`: what packs of its
    model had before.
    """
    evidence = start(p) if how != "priors" else []
    minutes, hours, tests, forbidden, is_open = 0.0, 0.0, 0, 0, p.kind == "drone"
    done: set[tuple[str, tuple[int, ...]]] = set()
    belief: Belief = believe(request(p, evidence, of_model))
    line = list(ORDER)
    while how != "priors" and tests < MOST_TESTS:
        if how == "next":
            offered = worth(belief)
            if enough(belief, offered):
                break
            forbidden += sum(danger_shown(p, evidence, w.row.test) for w in offered)
            choice = next(((w.row.test, w.groups) for w in offered if (w.row.test, w.groups) not in done), None)
        else:
            choice = None if sure(belief) else next_in_order(p, belief, line)
        if choice is None:
            break
        test, at = choice
        done.add((test, at))
        tests += 1
        minutes += MINUTES[test] + (OPENING if test in INSIDE and not is_open else 0.0)
        hours += WAITS_H.get(test, 0.0)
        is_open |= test in INSIDE
        groups = list(at) or list(range(1, p.pack.series + 1))
        try:
            more = [*evidence, *answer(p, test, groups)]
            belief = believe(request(p, more, of_model))
            evidence = more
        except Exception as error:
            # Two answers that contradict each other: the bench keeps the first.
            if "at once" not in str(error):
                raise
    right = {row.repair for row in tables.causes() if row.name in p.truth}
    chief = belief.chief()
    names = np.array([row.name for row in tables.causes()])
    order = list(dict.fromkeys(names[np.argsort(-chief)]))
    present = belief.present()
    p_top = float(min(present[names == order[0]].sum(), 1.0))
    return {
        "truth": p.truth, "top": order[0], "top1": order[0] in p.truth, "top3": bool(set(p.truth) & set(order[:3])), "all3": set(p.truth) <= set(order[:3]), "order": order[:4],
        "repair": best_repair(belief)[0] in right, "sure": p_top,
        "minutes": minutes, "hours": hours, "tests": tests, "unsafe": forbidden, "enough": bool(p_top >= 0.9),
    }  # fmt: skip


def _one(seed: int) -> dict[str, dict[str, Any]]:
    return {how: run(patient(seed), how) for how in ("next", "order", "priors")}


def calibration_error(runs: list[dict[str, Any]]) -> float:
    """Expected calibration error of the leading cause over ten bins."""
    sure, right = np.array([r["sure"] for r in runs]), np.array([r["top1"] for r in runs], dtype=float)
    bins = np.minimum((sure * 10).astype(int), 9)
    return float(
        sum(abs(right[bins == b].mean() - sure[bins == b].mean()) * (bins == b).mean() for b in set(bins.tolist()))
    )


def study(count: int, seed: int) -> list[dict[str, dict[str, Any]]]:
    with ProcessPoolExecutor(2) as pool:
        return list(pool.map(_one, range(seed, seed + count), chunksize=8))


def many_pieces(rng: np.random.Generator) -> JudgeRequest:
    """Twenty nickel cells in series, each read at its pins, on its tabs and under load: no two alike, so nothing is kept from before."""
    rest = 1.3 + rng.normal(0, 0.006, 20) - 0.2 * (np.arange(20) == rng.integers(20))
    evidence = [{"kind": "group_v", "group": g + 1, "volts": round(float(v), 4)} for g, v in enumerate(rest)]
    evidence += [
        {"kind": "cell_direct_v", "group": g + 1, "volts": round(float(v), 4)}
        for g, v in enumerate(rest + rng.normal(0, 0.002, 20))
    ]
    loaded = rest - 0.1 + rng.normal(0, 0.01, 20)
    evidence += [
        {"kind": "group_v", "group": g + 1, "volts": round(float(v), 4), "condition": "load", "current_a": 10}
        for g, v in enumerate(loaded)
    ]
    pack = {"chemistry": "nimh", "series": 20, "parallel": 5, "rated_ah": 4.0, "load_a": 20, "kind": "power_tool"}
    return JudgeRequest.model_validate({"pack": pack, "evidence": evidence})


def figures() -> Iterator[Figure]:
    """Right, sure, quick and safe, on fresh packs."""
    rng = np.random.default_rng(secrets.randbits(31))
    requests = iter([many_pieces(rng) for _ in range(46)])
    yield at_most(
        "`judge`, 20 in series, 60 pieces of evidence, 95th percentile",
        milliseconds(lambda: judge(next(requests)), 40, 5),
        0.95,
        150,
    )
    seed = secrets.randbits(31)
    found = study(COUNT, seed)
    yield from summed(found, seed)
    confusion([f["next"] for f in found])


def summed(found: list[dict[str, dict[str, Any]]], seed: int) -> Iterator[Figure]:
    mine, order, prior = ([f[how] for f in found] for how in ("next", "order", "priors"))
    share = lambda runs, key: float(np.mean([r[key] for r in runs]))  # noqa: E731
    top1, top3, ece = share(mine, "top1"), share(mine, "top3"), calibration_error(mine)
    saved = 1 - share(mine, "minutes") / share(order, "minutes")
    forbidden = sum(r["unsafe"] for r in mine)
    yield Figure(
        f"judge: leading cause right, {len(mine)} packs (seed {seed})",
        f"{top1:.1%}; fixed order {share(order, 'top1'):.1%}, priors alone {share(prior, 'top1'):.1%}",
        "at least 90 %",
        top1 >= 0.9,
    )
    yield Figure(
        "judge: a true cause among the first three",
        f"{top3:.1%}; both of two in {share([r for r in mine if len(r['truth']) == 2], 'all3'):.0%}; the right repair first in {share(mine, 'repair'):.1%}",
        "at least 98 %",
        top3 >= 0.98,
    )
    yield Figure("judge: expected calibration error", f"{ece:.3f}", "at most 0.05", ece <= 0.05)
    yield Figure(
        "judge: minutes to 90 % or enough",
        f"{share(mine, 'minutes'):.1f} in {share(mine, 'tests'):.1f} tests; fixed order {share(order, 'minutes'):.1f} in {share(order, 'tests'):.1f}: {saved:.0%} fewer; waiting {share(mine, 'hours'):.1f} h against {share(order, 'hours'):.1f} h",
        "at least 30 % fewer",
        saved >= 0.3,
    )
    yield Figure("judge: unsafe tests offered", str(forbidden), "none", forbidden == 0)


def confusion(runs: list[dict[str, Any]]) -> None:
    """Writes docs/judge-confusion.md: what was taken for what."""
    single = [r for r in runs if len(r["truth"]) == 1]
    names = list(MET)
    table = Counter((r["truth"][0], r["top"]) for r in single)
    lines = [
        "# What the judgement takes for what",
        "",
        f"Written by `make bench`: {len(single)} packs with one thing wrong, made apart from the judgement (`bench/judge_packs.py`).",
        "",
        "| true cause | packs | right | taken for |",
        "|---|---|---|---|",
    ]
    for name in names:
        total = sum(table[name, other] for other in names)
        if total:
            others = sorted(((table[name, o], o) for o in names if o != name and table[name, o]), reverse=True)[:4]
            said = ", ".join(f"{o.replace('_', ' ')} {n}" for n, o in others)
            lines.append(f"| {name.replace('_', ' ')} | {total} | {table[name, name] / total:.0%} | {said} |")
    lines += ["", "## Where it is weakest, and why", "", WEAK]
    (ROOT / "docs" / "judge-confusion.md").write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    import sys

    seed = int(sys.argv[2]) if len(sys.argv) > 2 else secrets.randbits(31)
    runs = study(int(sys.argv[1]), seed)
    for figure in summed(runs, seed):
        print(figure.holds, figure.what, figure.measured)
    by: Counter[tuple[str, ...]] = Counter()
    wrong: Counter[tuple[tuple[str, ...], str, bool]] = Counter()
    for f in runs:
        by[f["next"]["truth"]] += 1
        if not f["next"]["top1"]:
            wrong[f["next"]["truth"], f["next"]["top"], f["next"]["enough"]] += 1
    for (truth, top, certain), n in wrong.most_common(40):
        print(n, "of", by[truth], truth, "->", top, "sure" if certain else "")
