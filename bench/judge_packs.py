"""Packs with faults for the judgement's benchmark, and how they answer at the bench.

Written from the work, apart from the judgement: shares none of its tables. What can be measured comes from the bench model; what
charger, tool and lamps do, and what is seen, from a script of its own.
"""

from dataclasses import dataclass, field

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack.build import PackModel, build
from saldatura.battery.pack.faults import CellFault, ContactFault, Fault, JointFault, WireFault
from saldatura.battery.pack.model import PackState, group_volts
from saldatura.battery.quantities import Pack

KINDS = ("power_tool", "drone", "laptop", "appliance", "garden", "light")
# How often each fault is met, packs in a thousand: by a count of one's own, not the judgement's.
MET = {
    "sound": 50, "imbalance": 170, "weak_group": 110, "dead_group": 70, "reversed_group": 15, "run_flat": 70, "worn": 130,
    "leaking_group": 30, "open_sense_wire": 55, "swapped_sense_wires": 10, "shorted_sense_wires": 8, "bad_joint": 45,
    "main_lead": 45, "sensor_circuit": 60, "board_latched": 25, "board_failed": 35, "board_switch": 25, "board_fuse": 20,
    "board_supply": 12, "board_misfit": 10, "gauge_lost": 12, "charger_fault": 28, "tool_fault": 28,
}  # fmt: skip
GROUPS = ("imbalance", "weak_group", "dead_group", "reversed_group", "run_flat", "leaking_group", "bad_joint", "worn")
WIRES = ("open_sense_wire", "swapped_sense_wires", "shorted_sense_wires")
BOARD = ("board_latched", "board_failed", "board_switch", "board_fuse", "board_supply", "board_misfit")
# Minutes at the bench by a technician's own watch; hours of waiting are counted apart.
MINUTES = {
    "ask_charger": 1.0, "ask_tool": 1.0, "look_at_lamps": 0.5, "ask_history": 1.0, "look_outside": 0.7, "look_inside": 2.0,
    "terminal_v": 0.4, "group_v": 2.0, "group_v_after_rest": 3.0, "cell_direct_v": 1.5, "resistance": 6.0, "acir": 3.0,
    "capacity": 8.0, "rest_fall": 6.0, "sensor_ohm": 1.0, "moving_blink": 1.0, "moving_output": 1.2, "moving_sensor": 1.5,
    "moving_group_v": 2.0, "path_v": 3.0, "rail_v": 2.0, "gate_v": 2.0, "registers": 2.5, "clean_connector": 4.0, "reseat": 3.0,
    "resolder": 10.0, "charge_group": 8.0, "swap_charger": 2.0, "swap_tool": 2.0, "swap_pack": 2.0, "swap_harness": 9.0,
    "swap_board": 20.0,
}  # fmt: skip
OPENING = 6.0
WAITS_H = {"capacity": 4.0, "rest_fall": 24.0, "charge_group": 2.0, "group_v_after_rest": 1.0}
INSIDE = ("look_inside", "group_v", "cell_direct_v", "acir", "resistance", "rest_fall", "path_v", "rail_v", "gate_v", "clean_connector", "reseat", "resolder", "charge_group", "swap_harness", "swap_board", "moving_group_v")  # fmt: skip
WRONG, MISSED = 0.03, 0.02


@dataclass
class Patient:
    """A pack on the bench with what is wrong with it."""

    pack: Pack
    kind: str
    age: float
    has_board: bool
    truth: tuple[str, ...]
    rng: np.random.Generator
    model: PackModel = field(init=False)
    state: PackState = field(init=False)
    touched: dict[str, list[int]] = field(default_factory=dict)
    wires: tuple[WireFault, ...] = ()
    sensor: str = "fine"
    lead: str = "fine"
    gain: float = 0.0
    digits: int = 2

    def __post_init__(self) -> None:
        rng, pack = self.rng, self.pack
        window = WINDOWS[pack.chemistry]
        self.gain = float(rng.normal(0, 0.003))
        self.digits = int(rng.choice([2, 3], p=[0.65, 0.35]))
        socs = np.full(pack.series, float(rng.uniform(0.25, 0.97))) + rng.normal(0, 0.01, pack.series)
        faults: list[Fault] = []
        cells = range(1, pack.parallel + 1)
        any_group = int(rng.integers(1, pack.series + 1))
        for cause in self.truth:
            some = [any_group]
            if cause == "imbalance":
                some = sorted({int(g) for g in rng.integers(1, pack.series + 1, 1 + int(rng.random() < 0.35))})
                for g in some:
                    socs[g - 1] -= float(rng.uniform(0.08, 0.75))
            elif cause == "weak_group":
                left = float(rng.uniform(0.25, 0.7))
                socs[any_group - 1] = 1 - (1 - socs[any_group - 1]) / left
                for c in cells:
                    faults.append(CellFault(kind="low_capacity", group=any_group, cell=c, size=left))
                    faults.append(
                        CellFault(kind="high_resistance", group=any_group, cell=c, size=float(rng.uniform(1.2, 2.6)))
                    )
            elif cause == "worn":
                some = []
                left, more = float(rng.uniform(0.3, 0.62)), float(rng.uniform(1.7, 3.6))
                for g in range(1, pack.series + 1):
                    for c in cells:
                        faults.append(
                            CellFault(kind="low_capacity", group=g, cell=c, size=left * float(rng.uniform(0.94, 1.06)))
                        )
                        faults.append(
                            CellFault(kind="high_resistance", group=g, cell=c, size=more * float(rng.uniform(0.9, 1.1)))
                        )
            elif cause == "leaking_group":
                ohm = window.nominal_v / (pack.rated_ah * float(np.exp(rng.uniform(np.log(0.0003), np.log(0.02)))))
                faults.append(CellFault(kind="soft_short", group=any_group, size=ohm))
                socs[any_group - 1] -= float(rng.uniform(0.04, 0.6))
            elif cause == "bad_joint":
                ohm = 0.08 / pack.rated_ah * float(np.exp(rng.uniform(np.log(1.0), np.log(12.0))))
                faults += [JointFault(kind="weld", group=any_group, cell=c, ohm=ohm * pack.parallel) for c in cells]
            elif cause in ("dead_group", "reversed_group", "run_flat"):
                some = self._gone(cause, any_group, faults)
            elif cause in WIRES:
                some = []
                self._wire(cause)
            elif cause == "sensor_circuit":
                self.sensor = str(rng.choice(["dirty", "open", "shorted"], p=[0.58, 0.32, 0.10]))
            elif cause == "main_lead":
                self.lead = str(rng.choice(["open", "loose", "poor"], p=[0.4, 0.42, 0.18]))
                if self.lead == "poor":
                    faults.append(
                        ContactFault(
                            kind="main_contact", ohm=0.3 * window.nominal_v * pack.series / (pack.load_a or 5.0)
                        )
                    )
            if cause in GROUPS and some:
                self.touched[cause] = some
        # Half come in with the tool just stopped, half after a charge.
        if set(self.truth) & {"imbalance", "weak_group", "leaking_group"}:
            # One current passes all groups: a small one moves further, and the first at its end stops it.
            moves = np.ones(pack.series)
            for g in self.touched.get("weak_group", []):
                moves[g - 1] = 1 / next(
                    f.size for f in faults if isinstance(f, CellFault) and f.kind == "low_capacity" and f.group == g
                )
            down, up = float(((socs - 0.03) / moves).min()), float(((0.985 - socs) / moves).min())
            socs += moves * (-down if rng.random() < 0.45 else up)
        socs = np.clip(socs, -0.01, 1.0)
        count = len(window.curves)
        self.model = build(pack, socs.tolist(), faults, int(rng.integers(0, count)))
        self.state = PackState.at_rest(self.model, 22.0)

    def _gone(self, cause: str, group: int, faults: list[Fault]) -> list[int]:
        rng, window = self.rng, WINDOWS[self.pack.chemistry]
        if cause == "run_flat":
            floor = window.rest_floor_v or 0.6
            some = [g for g in range(1, self.pack.series + 1) if rng.random() < 0.9] or [group]
            about = float(rng.uniform(floor + 0.1, (window.charge_normally_from_v or 1.0) - 0.05))
            near = [max(about + float(rng.normal(0, 0.05)), 0.05) for _ in some]
            faults += [CellFault(kind="run_flat", group=g, size=v) for g, v in zip(some, near, strict=True)]
            return some
        some = sorted({group, *([int(rng.integers(1, self.pack.series + 1))] if rng.random() < 0.25 else [])})
        for g in some:
            if cause == "dead_group":
                size = float(
                    rng.uniform(0.001, 0.9 * (window.rest_floor_v or 0.5))
                    if rng.random() < 0.5
                    else rng.uniform(0.001, 0.15)
                )
                faults.append(CellFault(kind="run_flat", group=g, size=size))
            else:
                faults.append(CellFault(kind="reversed", group=g, size=float(rng.uniform(0.06, 0.6))))
        return some

    def _wire(self, cause: str) -> None:
        rng, s = self.rng, self.pack.series
        tap = int(rng.integers(0, s + 1))
        if cause == "open_sense_wire":
            leak = [float(np.exp(rng.uniform(np.log(1e6), np.log(60e6)))) for _ in range(2)]
            new = WireFault(kind="open", tap=tap, to_lower_ohm=leak[0], to_upper_ohm=leak[1])
        else:
            low = int(rng.integers(0, s))
            ohm = float(rng.uniform(0.001, 0.02))
            new = WireFault(
                kind="swapped" if cause.startswith("swapped") else "shorted", tap=low, other=low + 1, ohm=ohm
            )
        self.wires = (*self.wires, new)

    # --- what the meter shows

    def shown(self, volts: float) -> float:
        return round(volts * (1 + self.gain) + float(self.rng.normal(0, 0.002)), self.digits)

    @property
    def volts(self) -> np.ndarray:
        return group_volts(self.model, self.state)

    def has(self, *causes: str) -> bool:
        return bool(set(self.truth) & set(causes))

    @property
    def locked(self) -> bool:
        """Whether its board has cut off for a group that is too low."""
        return self.has_board and float(self.volts.min()) < WINDOWS[self.pack.chemistry].hard_end_v * 0.97

    def lost_at(self) -> str | None:
        """The node behind which nothing arrives."""
        if self.has("board_fuse"):
            return "fuse"
        if self.has("main_lead") and self.lead == "open":
            return "contact" if self.rng.random() < 0.5 else "terminal"
        if self.locked or self.has("board_latched", "board_supply"):
            return "discharge_switch"
        if self.has("board_switch", "board_failed") and self._seeded(0.6):
            return "discharge_switch"
        if self.wires and self.has_board and self._seeded(0.45):
            return "discharge_switch"
        if self.sensor in ("open", "shorted") and self.has_board and self._seeded(0.3):
            return "discharge_switch"
        return None

    def _seeded(self, p: float) -> bool:
        """The same answer whenever asked of this pack."""
        return bool(np.random.default_rng(int(abs(self.gain) * 1e9) + int(p * 1000)).random() < p)

    def node_v(self, node: str) -> float:
        order = ["string", "fuse", "charge_switch", "discharge_switch", "contact", "terminal"]
        string = float(self.volts.sum())
        lost = self.lost_at()
        if lost is not None and order.index(node) >= order.index(lost):
            return self.shown(abs(string) * float(self.rng.choice([0.0, 0.03, 0.12])))
        return self.shown(string)
