"""How a pack of the judgement's benchmark answers each test, as evidence by the names of the contract."""

from typing import Any

import numpy as np

from bench.judge_packs import BOARD, MISSED, WRONG, Patient
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack.drive import ConstantCurrent, Rest
from saldatura.battery.pack.model import advance, group_volts
from saldatura.battery.pack.sense import read_between
from saldatura.battery.pack.sensors import Thermistor

Answer = list[dict[str, Any]]
CHARGER = ("refuses", "full_at_once", "stops_early", "fault_blink", "never_ends", "no_reaction", "normal")
TOOL = ("dead", "cuts_out_under_load", "short_run", "gauge_jumps", "normal")


def answer(p: Patient, test: str, groups: list[int]) -> Answer:
    """What the bench finds; nothing where an answer could not be had."""
    if p.rng.random() < MISSED:
        return []
    return _ANSWERS[test](p, groups)


def _wrong(p: Patient, right: str, others: tuple[str, ...]) -> str:
    return str(p.rng.choice(others)) if p.rng.random() < WRONG else right


def _one(p: Patient, **chances: float) -> str:
    keys = list(chances)
    weight = np.array([chances[k] for k in keys])
    return str(p.rng.choice(keys, p=weight / weight.sum()))


def alarm(p: Patient) -> str | None:
    """What its board complains of, if it does."""
    if not p.has_board or p.lost_at() == "fuse" or p.has("board_supply"):
        return None
    if p.sensor in ("open", "shorted") or (p.sensor == "dirty" and p.rng.random() < 0.7):
        return "temperature"
    if p.has("dead_group", "reversed_group") and p.rng.random() < 0.6:
        return "cell"
    if p.wires and p.rng.random() < 0.75:
        return "cell"
    if p.has("imbalance", "weak_group") and p.volts.max() - p.volts.min() > 0.4 and p.rng.random() < 0.3:
        return "cell"
    if p.has("board_misfit", "board_failed") and p.rng.random() < 0.35:
        return "communication"
    if p.has("board_latched") and p.rng.random() < 0.3:
        return "cell"
    return None


def charger(p: Patient) -> str:
    window = WINDOWS[p.pack.chemistry]
    if p.has("charger_fault"):
        return _one(p, no_reaction=4, refuses=2, fault_blink=2, never_ends=1.5)
    if alarm(p):
        return _one(p, fault_blink=5, refuses=3.5, no_reaction=0.8)
    if p.lost_at() in ("fuse", "contact", "terminal") or p.has("board_supply"):
        return _one(p, no_reaction=6, refuses=1.5, fault_blink=1)
    if p.has("board_latched", "board_switch", "board_failed"):
        return _one(p, no_reaction=4, refuses=3, fault_blink=2, normal=0.7)
    if p.locked or p.volts.min() < window.charge_normally_from_v - 0.02:
        return _one(p, no_reaction=5, refuses=3, fault_blink=1.5)
    if (
        window.family == "lithium"
        and p.volts.max() > window.full_v - 0.06
        and p.has("imbalance", "weak_group", "leaking_group")
    ):
        return _one(p, full_at_once=6, stops_early=3, normal=0.5)
    if p.has("worn"):
        return _one(p, normal=5, stops_early=3, full_at_once=1.5)
    if p.has("leaking_group"):
        return _one(p, never_ends=3, normal=5, stops_early=1.5)
    if p.has("imbalance", "weak_group"):
        return _one(p, stops_early=4, full_at_once=3, normal=2)
    if p.lead == "loose":
        return _one(p, normal=4, no_reaction=3, stops_early=2)
    if p.has("board_misfit"):
        return _one(p, refuses=4, fault_blink=3, normal=3)
    return "normal"


def tool(p: Patient) -> str:
    """Run under its load on the bench model."""
    window = WINDOWS[p.pack.chemistry]
    if p.has("tool_fault"):
        return _one(p, dead=6, cuts_out_under_load=4)
    if p.lost_at() is not None:
        return "dead"
    if p.has("gauge_lost"):
        return _one(p, gauge_jumps=7, normal=2, short_run=1)
    if p.lead in ("loose", "poor"):
        return _one(p, cuts_out_under_load=7, dead=2)
    if p.sensor == "dirty":
        return _one(p, cuts_out_under_load=6, normal=3, dead=1)
    load = p.pack.load_a or p.pack.rated_ah
    full = p.state
    _, log = advance(p.model, full, ConstantCurrent(amps=-load), 1800, 1.0, 22.0, low_v=window.tool_end_v)
    ran = len(log.time_s)
    string_end = window.tool_end_v * p.pack.series
    if not p.has_board:
        low = np.flatnonzero(log.volts < string_end)
        ran = int(low[0]) if len(low) else ran
    could = p.pack.rated_ah * 3600 / load * 0.5
    if ran < 15:
        return _one(p, cuts_out_under_load=6, dead=3, short_run=1)
    if p.has("bad_joint") and p.rng.random() < 0.3:
        return "cuts_out_under_load"
    if ran < min(could, 900):
        return _one(p, short_run=7, cuts_out_under_load=3)
    if p.has("board_misfit") and p.rng.random() < 0.3:
        return "cuts_out_under_load"
    return "normal"


def _ask_charger(p: Patient, _g: list[int]) -> Answer:
    return [{"kind": "charger", "says": _wrong(p, charger(p), CHARGER)}]


def _ask_tool(p: Patient, _g: list[int]) -> Answer:
    return [{"kind": "tool", "does": _wrong(p, tool(p), TOOL)}]


def _lamps(p: Patient, _g: list[int]) -> Answer:
    said = alarm(p)
    if said is None:
        return []
    said = _wrong(p, "unknown" if p.rng.random() < 0.12 else said, ("temperature", "cell", "communication"))
    return [{"kind": "blink", "means": said}]


def _history(p: Patient, _g: list[int]) -> Answer:
    told = {
        "run_flat": ("stored_flat", "stored_long"), "dead_group": ("stored_flat", "stored_long", "heavy_use"), "worn": ("heavy_use",),
        "imbalance": ("stored_long",), "leaking_group": ("stored_long",), "open_sense_wire": ("dropped", "wet"),
        "bad_joint": ("dropped", "heavy_use"), "main_lead": ("dropped",), "board_failed": ("wet",), "board_misfit": ("opened_before",),
        "swapped_sense_wires": ("opened_before",), "shorted_sense_wires": ("opened_before", "dropped"), "weak_group": ("heavy_use",),
        "sensor_circuit": ("wet", "dropped", "opened_before"), "board_switch": ("heavy_use",),
    }  # fmt: skip
    for cause in p.truth:
        if cause in told and p.rng.random() < 0.45:
            return [{"kind": "history", "what": str(p.rng.choice(told[cause]))}]
    if p.rng.random() < 0.25:
        return [
            {
                "kind": "history",
                "what": str(p.rng.choice(["stored_long", "dropped", "wet", "heavy_use", "stored_flat"])),
            }
        ]
    return []


def _look(p: Patient, inside: bool) -> Answer:
    window = WINDOWS[p.pack.chemistry]
    soft = p.pack.chemistry in ("lipo", "lipo_hv")
    shows: list[tuple[str, str, float]] = [
        ("dead_group", "swollen" if soft else "bulged", 0.2), ("reversed_group", "leak", 0.2), ("leaking_group", "swollen" if soft else "corrosion", 0.12),
        ("open_sense_wire", "broken_wire", 0.5), ("bad_joint", "loose_joint", 0.45), ("bad_joint", "heat_marks", 0.25), ("main_lead", "broken_wire", 0.25),
        ("main_lead", "heat_marks", 0.25), ("board_failed", "burnt_part", 0.3), ("board_failed", "corrosion", 0.25), ("board_switch", "burnt_part", 0.3),
        ("board_fuse", "burnt_part", 0.12), ("board_misfit", "missing_part", 0.25), ("board_misfit", "opened_before", 0.6),
        ("swapped_sense_wires", "opened_before", 0.6), ("worn", "swollen" if soft else "nothing", 0.1),
    ]  # fmt: skip
    if p.sensor == "dirty":
        shows.append(("sensor_circuit", "corrosion", 0.3))
    if p.sensor == "open":
        shows += [("sensor_circuit", "broken_wire", 0.3), ("sensor_circuit", "missing_part", 0.2)]
    outside = ("swollen", "leak", "opened_before", "heat_marks")
    found = []
    for cause, what, chance in shows:
        if (
            p.has(cause)
            and p.rng.random() < chance
            and what != "nothing"
            and (inside or (what in outside and p.rng.random() < 0.5))
        ):
            at = (
                {"groups": p.touched[cause][:1]}
                if cause in p.touched and what in ("bulged", "leak", "swollen", "loose_joint") and inside
                else {}
            )
            found.append({"kind": "seen", "what": what, "at": at})
    if p.rng.random() < WRONG:
        found.append(
            {"kind": "seen", "what": str(p.rng.choice(["corrosion", "heat_marks", "opened_before", "loose_joint"]))}
        )
    del window
    return found or [{"kind": "seen", "what": "nothing"}] if inside else found


def _terminals(p: Patient, _g: list[int]) -> Answer:
    return [{"kind": "terminal_v", "volts": p.node_v("terminal"), "rested_h": 3}]


def _groups(p: Patient, groups: list[int]) -> Answer:
    volts = p.volts
    found: Answer = []
    for g in groups:
        read = p.shown(read_between(volts, g - 1, g, p.wires))
        if p.rng.random() < 0.004:
            read = round(read + float(p.rng.choice([-1.0, 1.0, 0.5])), p.digits)
        found.append({"kind": "group_v", "group": g, "volts": read, "rested_h": 3})
    return found


def _tabs(p: Patient, groups: list[int]) -> Answer:
    return [
        {"kind": "cell_direct_v", "group": g, "volts": p.shown(float(p.volts[g - 1])), "rested_h": 3} for g in groups
    ]


def _step(p: Patient, _g: list[int]) -> Answer:
    amps = min(p.pack.load_a or p.pack.rated_ah, 2 * p.pack.rated_ah)
    rest = p.volts
    _, short = advance(p.model, p.state, ConstantCurrent(amps=-amps), 0.5, 0.05, 22.0)
    _, long = advance(p.model, p.state, ConstantCurrent(amps=-amps), 10.0, 0.1, 22.0)
    found: Answer = []
    for g in range(1, p.pack.series + 1):
        for seconds, log in ((0.5, short), (10.0, long)):
            sag = float(rest[g - 1] - log.group_v[-1][g - 1]) + float(p.rng.normal(0, 0.003))
            found.append({"kind": "resistance", "group": g, "ohm": max(round(sag / amps, 5), 1e-5), "after_s": seconds})
    return found


def _acir(p: Patient, _g: list[int]) -> Answer:
    ohm = 1 / (1 / p.model.ohmic_ohm).sum(axis=1)
    shown = ohm * float(p.rng.uniform(0.75, 1.0))
    return [
        {"kind": "acir", "group": g + 1, "ohm": round(float(o * np.exp(p.rng.normal(0, 0.05))), 5)}
        for g, o in enumerate(shown)
    ]


def _capacity(p: Patient, _g: list[int]) -> Answer:
    q = p.model.capacity_as.sum(axis=1) / 3600
    soc = p.state.soc.mean(axis=1)
    ah = float(((1 - soc) * q).min() + (np.maximum(soc, 0) * q).min()) * 0.97
    return [{"kind": "capacity", "ah": round(max(ah, 0.0) * float(np.exp(p.rng.normal(0, 0.02))), 3)}]


def _fall(p: Patient, _g: list[int]) -> Answer:
    later, _ = advance(p.model, p.state, Rest(), 86400, 60.0, 22.0)
    drop = (p.volts - group_volts(p.model, later)) * 1000
    # One group has no siblings beside it: its own fall is told, and the room's warmth is in it.
    drop = drop - np.median(drop) if len(drop) > 1 else drop + p.rng.normal(0, 2, 1)
    return [
        {"kind": "rest_fall", "group": g + 1, "mv": round(float(d + p.rng.normal(0, 2)), 1), "hours": 24}
        for g, d in enumerate(drop)
    ]


def _sensor(p: Patient, _g: list[int]) -> Answer:
    kind = Thermistor(r25_ohm=float(p.rng.choice([10_000, 10_000, 100_000])), b_k=float(p.rng.choice([3435, 3950])))
    ohm = kind.ohm(22 + float(p.rng.normal(0, 1)))
    if p.sensor == "open":
        ohm = 1e9
    elif p.sensor == "shorted":
        ohm = 2.0
    elif p.sensor == "dirty":
        ohm = 1e9 if p.rng.random() < 0.15 else ohm + float(np.exp(p.rng.uniform(np.log(30), np.log(20_000))))
    return [{"kind": "sensor_ohm", "ohm": round(ohm, 1), "ambient_c": 22}]


def _moving(what: str):
    def make(p: Patient, _g: list[int]) -> Answer:
        chance = 0.01
        if p.sensor == "dirty":
            chance = {"blink": 0.75, "sensor": 0.8, "output": 0.35, "group_v": 0.01}[what]
        if p.lead == "loose":
            chance = max(chance, {"output": 0.85}.get(what, 0.01))
        if p.has("bad_joint"):
            chance = max(chance, {"output": 0.25, "group_v": 0.08}.get(what, 0.01))
        if p.has("open_sense_wire"):
            chance = max(chance, {"group_v": 0.3, "blink": 0.15}.get(what, 0.01))
        return [{"kind": "moving_changes", "what": what, "changes": bool(p.rng.random() < chance)}]

    return make


def _path(p: Patient, _g: list[int]) -> Answer:
    lost = p.lost_at()
    order = ["string", "fuse", "charge_switch", "discharge_switch", "contact", "terminal"]
    string = float(p.volts.sum())
    return [
        {
            "kind": "path_v",
            "node": n,
            "volts": p.shown(string if lost is None or order.index(n) < order.index(lost) else string * 0.02),
        }
        for n in order
    ]


def _rail(p: Patient, _g: list[int]) -> Answer:
    low = p.has("board_supply") or float(p.volts.sum()) < 2.5 or (p.has("board_failed") and p.rng.random() < 0.35)
    return [{"kind": "rail_v", "rail": "board_supply", "volts": round(float(p.rng.uniform(0, 0.5) if low else 3.3), 2)}]


def _gate(p: Patient, _g: list[int]) -> Answer:
    # A switch that burnt open is told to close as before; a driver that died, a latch or a lock leaves its gate at its source.
    chance = 0.95 if p.has("board_switch") else 0.2 if p.has("board_failed") else 0.02
    volts = float(p.rng.uniform(4.5, 11.5)) if p.rng.random() < chance else float(p.rng.uniform(0, 0.3))
    return [{"kind": "rail_v", "rail": "gate", "volts": round(volts, 1)}]


def _registers(p: Patient, _g: list[int]) -> Answer:
    held = p.lost_at() == "discharge_switch" and not p.has("board_switch", "board_supply")
    fed = float(p.volts.sum()) > WINDOWS[p.pack.chemistry].hard_end_v * p.pack.series * 0.8
    return [{
        "kind": "registers", "permanent_failure": p.has("board_latched") and p.rng.random() < 0.85,
        "charge_switch": not (held or alarm(p) is not None), "discharge_switch": not held,
        "answers_unpowered": bool(fed and not p.has("board_supply") and not (p.has("board_failed") and p.rng.random() < 0.4)),
        "soh": round(float(p.rng.uniform(0.3, 0.6) if p.has("worn") else p.rng.uniform(0.65, 0.99)), 2),
    }]  # fmt: skip


def _try(did: str):
    def make(p: Patient, _g: list[int]) -> Answer:
        result = "fault_stays"
        if did in ("cleaned_connector", "reseated") and p.sensor == "dirty":
            result = _one(p, fault_goes=5 if did[0] == "c" else 3, comes_back=4, fault_stays=1)
        elif did in ("cleaned_connector", "reseated") and p.lead == "loose":
            result = _one(p, fault_goes=2, comes_back=3, fault_stays=4)
        elif did == "resoldered" and (p.has("bad_joint", "open_sense_wire") or p.lead != "fine" or p.sensor == "open"):
            result = _one(p, fault_goes=6, comes_back=1, fault_stays=3)
        elif did == "charged_group" and p.has("imbalance", "run_flat"):
            result = _one(p, fault_goes=8, comes_back=1, fault_stays=1)
        elif did == "charged_group" and p.has("leaking_group", "weak_group"):
            result = _one(p, fault_goes=1.5, comes_back=6, fault_stays=2.5)
        elif p.rng.random() < 0.04:
            result = "comes_back"
        if len(p.truth) == 2 and result == "fault_goes" and p.rng.random() < 0.6:
            result = "another_fault" if p.rng.random() < 0.4 else "fault_stays"
        return [{"kind": "action", "did": did, "result": result}]

    return make


def _swap(put: str):
    def make(p: Patient, _g: list[int]) -> Answer:
        same = bool(p.rng.random() < 0.75)
        cured = {
            "charger": ("charger_fault",),
            "tool": ("tool_fault",),
            "board": BOARD,
            "harness": ("open_sense_wire", "swapped_sense_wires", "shorted_sense_wires"),
        }
        if put == "pack":
            goes = not p.has("charger_fault", "tool_fault") and not p.has("sound")
        else:
            goes = set(p.truth) <= set(cured[put]) and bool(p.truth)
            if put == "board" and not same and p.rng.random() < 0.4:
                goes = not goes
        result = "fault_goes" if goes else "fault_stays"
        if p.rng.random() < WRONG:
            result = str(p.rng.choice(["fault_goes", "fault_stays", "comes_back"]))
        return [
            {
                "kind": "swap",
                "put": put,
                "reference": {"same_revision": same if put == "board" else True, "proved_days_ago": 20},
                "result": result,
            }
        ]

    return make


def start(p: Patient) -> Answer:
    """What the customer says at the counter: the one thing that brought the pack in."""
    said = (_ask_tool if p.rng.random() < 0.6 else _ask_charger)(p, [])
    return [s for s in said if s.get("says") != "normal" and s.get("does") != "normal"]


_ANSWERS = {
    "ask_charger": _ask_charger, "ask_tool": _ask_tool, "look_at_lamps": _lamps, "ask_history": _history,
    "look_outside": lambda p, _g: _look(p, False), "look_inside": lambda p, _g: _look(p, True), "terminal_v": _terminals,
    "group_v": _groups, "group_v_after_rest": _groups, "cell_direct_v": _tabs, "resistance": _step, "acir": _acir, "capacity": _capacity,
    "rest_fall": _fall, "sensor_ohm": _sensor, "moving_blink": _moving("blink"), "moving_output": _moving("output"),
    "moving_sensor": _moving("sensor"), "moving_group_v": _moving("group_v"), "path_v": _path, "rail_v": _rail, "gate_v": _gate, "registers": _registers,
    "clean_connector": _try("cleaned_connector"), "reseat": _try("reseated"), "resolder": _try("resoldered"), "charge_group": _try("charged_group"),
    "swap_charger": _swap("charger"), "swap_tool": _swap("tool"), "swap_pack": _swap("pack"), "swap_harness": _swap("harness"), "swap_board": _swap("board"),
}  # fmt: skip
