"""A simulated pack under the probes: what is between them in truth."""

import math
import threading
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from saldatura.battery.errors import Impossible
from saldatura.battery.pack import Gauge, PackState, Thermistor, read_between, sensor_ohm, wires_now
from saldatura.battery.pack.spec import PackSpec, rig_of
from saldatura.battery.quantities import Pack
from saldatura.battery.reconcile.words import taps_of_two_strings
from saldatura.instruments.virtual_saved import board_load, usual
from saldatura.shop.instrument import SOURCE_KINDS, Output, Probes, Sample, Saved, Source, SourceKind


class Probed:
    """The pack, its clock and the probes on it."""

    def __init__(
        self, pack: Pack, spec: PackSpec, saved: Saved | None = None, wall: Callable[[], float] = time.monotonic
    ) -> None:
        self.pack, self.spec, self.wall = pack, spec, wall
        self.lock = threading.RLock()
        self.rng = np.random.default_rng(spec.seed)
        self.thermistor = Thermistor()
        self.clock_s, self.speed, self.paused = 0.0, 1.0, False
        self.hooked: SourceKind | None = None
        self.sources: dict[SourceKind, Source] = {kind: usual(pack, kind) for kind in SOURCE_KINDS}
        self.outputs: dict[str, Output] = {}
        self.probes, self.placed_at = Probes(), wall()
        self.moved_until = -math.inf
        self.samples: list[Sample] = []
        self.rig = rig_of(pack, spec)
        # Of the pack's chip: how often it was asked, and words that stay as they were first.
        self.chip_answers, self.chip_frozen = 0, dict[int, int]()
        if saved is not None:
            self._restore(saved)
        self._seen_at = wall()

    def place(self, probes: Probes) -> None:
        """Move the meter's probes. Raises Impossible for taps that do not exist or one tap against itself."""
        if probes.at == "taps":
            for tap in (probes.black, probes.red):
                if tap > self.pack.series:
                    raise Impossible("probes", "no_such_tap", f"tap {tap} does not exist: taps 0 to {self.pack.series}")
            low, high = sorted((probes.black, probes.red))
            if self.pack.lowest_tap(high) > low:
                raise Impossible("probes", "two_strings", taps_of_two_strings(low, high))
            if probes.black == probes.red:
                raise Impossible(
                    "probes", "tap_to_itself", f"tap {probes.red} against itself reads nothing; name two different taps"
                )
        if probes.at == "leads":
            for field in ("black_lead", "red_lead"):
                if getattr(probes, field) not in self.spec.loose:
                    raise Impossible(
                        field, "no_such_lead", f"the pack has no loose lead of that name: {self._hanging()}"
                    )
        with self.lock:
            if probes != self.probes:
                self.probes, self.placed_at = probes, self.wall()

    def _hanging(self) -> str:
        return ", ".join(sorted(self.spec.loose)) or "none does"

    def move_part(self, seconds: float) -> None:
        """Somebody moves leads and connectors for a while."""
        self.moved_until = self.wall() + seconds

    @property
    def moved(self) -> bool:
        """Whether somebody moves the part now."""
        return self.wall() < self.moved_until

    def true_volts(self) -> float:
        """What a perfect 10 MΩ meter sees at the probes."""
        with self.lock:
            probes = self.probes
            if probes.at == "terminals":
                return self.rig.terminal_v
            if probes.at not in ("taps", "leads"):
                return 0.0
            black, red = probes.black, probes.red
            if probes.at == "leads":
                black, red = self.spec.loose[probes.black_lead], self.spec.loose[probes.red_lead]
            if black == red:
                return 0.0
            wires = wires_now(self.rig.model.wires, self.moved, self.rng)
            return read_between(self.rig.group_v, black, red, wires)

    def true_ohm(self) -> float:
        """What a perfect ohmmeter sees at the probes: a sensor's resistance, else nothing it can measure."""
        with self.lock:
            if self.probes.at != "sensor":
                return math.inf
            celsius = float(self.rig.state.celsius.mean())
            faults = self.rig.model.faults
            return sensor_ohm(self.thermistor, self.probes.sensor, celsius, faults, self.moved, self.rng)

    def _restore(self, saved: Saved) -> None:
        arrays = [np.asarray(a, dtype=np.float64) for a in saved.cells]
        if [a.shape for a in arrays] != [self.rig.model.capacity_as.shape] * 4:
            raise Impossible(
                "virtual", "another_pack", "the saved state is of another pack; give the job a new virtual pack"
            )
        board = None if saved.board is None else board_load(saved.board)
        gauge = None if saved.gauge_as is None else Gauge(*saved.gauge_as)
        state = PackState(arrays[0], arrays[1], arrays[2], arrays[3], time_s=saved.clock_s)
        self.rig = replace(
            self.rig, state=state, board=board, gauge=gauge, amps=saved.amps, group_v=np.asarray(saved.group_v)
        )
        self.clock_s, self.speed, self.paused = saved.clock_s, saved.speed, saved.paused
        self.hooked = saved.hooked
        self.sources.update(saved.sources)
        self.outputs.update(saved.outputs)
