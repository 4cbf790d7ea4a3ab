"""A virtual pack: a simulated pack on a clock of its own, with what is hooked up to it and where the probes are."""

import math
from dataclasses import replace
from typing import Any

import numpy as np

from saldatura.battery.errors import Impossible
from saldatura.battery.pack import (
    Clip,
    Drive,
    GroupChargers,
    Log,
    Rest,
    group_volts,
    operate,
)
from saldatura.battery.pack.operate import SHORTEST_S
from saldatura.instruments.kinds import module_of
from saldatura.instruments.virtual_probed import Probed
from saldatura.instruments.virtual_saved import board_dump, lasts
from saldatura.ledger.clock import PackClock
from saldatura.shop.instrument import ClipPlace, Output, Sample, Saved, Source, SourceKind

SLOWEST, FASTEST = 1.0, 600.0
# A gap in being asked, a sleeping laptop for one, is no time for the pack while something drives it.
LEAST_GAP_S, LONGEST_GAP_S = 0.02, 5.0
LOOKS_EVERY_S = 10.0
SAMPLE_EVERY_S = 10.0
MOST_SAMPLES = 4096


class VirtualPack(Probed):
    """Safe to use from several threads. `wall` gives seconds that only ever grow."""

    def part(self, parted: bool) -> None:
        """Take its strings apart, or let them touch."""
        with self.lock:
            if self.rig.model.parted != parted:
                self.settle()
                self.rig = replace(self.rig, model=replace(self.rig.model, parted=parted))
                if not self.running:
                    self._let_go()

    # --- its clock

    @property
    def clock(self) -> PackClock:
        """The pack's own time and how fast it goes."""
        return PackClock(clock_s=self.clock_s, speed=self.speed, paused=self.paused)

    def set_clock(self, speed: float, paused: bool) -> None:
        """Change speed or pause; nothing else changes. Raises Impossible for a speed out of range."""
        if not (math.isfinite(speed) and SLOWEST <= speed <= FASTEST):
            raise Impossible("speed", "speed_out_of_range", f"must be between {SLOWEST:g} and {FASTEST:g} times")
        with self.lock:
            self.settle()
            self.speed, self.paused = speed, paused

    def settle(self) -> None:
        """Let the pack live through what has passed since it was last looked at."""
        with self.lock:
            now = self.wall()
            gap = now - self._seen_at
            if gap < LEAST_GAP_S and not self.paused:
                return
            self._seen_at = now
            if self.paused:
                return
            if self.running:
                gap = min(gap, LONGEST_GAP_S)
            self.pass_time(gap * self.speed)

    def pass_time(self, seconds: float) -> None:
        """Live through simulated seconds, with what is hooked up."""
        with self.lock:
            left = seconds
            while left >= SHORTEST_S:
                piece = min(left, LOOKS_EVERY_S, self._until_stop()) if self.running else left
                left -= self._live(piece)

    def _until_stop(self) -> float:
        """Seconds until what drives it stops by itself."""
        source = self.source
        if source is None or not source.on or source.stop_after_s is None:
            return LOOKS_EVERY_S
        return max(source.stop_after_s - source.seconds, SHORTEST_S)

    # --- what is hooked up

    @property
    def source(self) -> Source | None:
        """The settings of what is hooked up."""
        return None if self.hooked is None else self.sources[self.hooked]

    @property
    def running(self) -> bool:
        """Whether something drives the pack."""
        return self.sourced or any(output.on for output in self.outputs.values())

    @property
    def sourced(self) -> bool:
        """Whether what sits on its terminals or its harness drives it."""
        return self.hooked is not None and self.sources[self.hooked].on

    def clip(self, channel: str, place: ClipPlace) -> None:
        """Put a channel's clips somewhere; its output is switched off first. Raises Impossible for a group that is not there."""
        if place.group is not None and place.group > self.pack.series:
            raise Impossible(
                "group", "no_such_group", f"group {place.group} does not exist: {self.pack.series} in series"
            )
        self.set_output(channel, on=False)
        self.set_output(channel, group=place.group, turned=place.turned)

    def set_output(self, channel: str, **changes: Any) -> None:
        """Change a channel's settings or switch it. Raises Impossible where its clips are not on a group the right way round."""
        with self.lock:
            self.settle()
            old = self.outputs.get(channel, Output())
            new = Output.model_validate({**old.model_dump(), **changes})
            if new.on and not old.on:
                if new.group is None or new.turned:
                    raise Impossible("clips", "clips_not_on_group", "the clips are not on a group the right way round")
                if any(o.on and o.group == new.group for name, o in self.outputs.items() if name != channel):
                    raise Impossible("clips", "clips_taken", "another channel is on this group")
                new = new.model_copy(update={"doing": "held", "tripped": False, "ah": 0.0, "seconds": 0.0})
            elif old.on and not new.on:
                new = new.model_copy(update={"doing": "off" if old.doing == "held" else old.doing})
            self.outputs[channel] = new
            if not self.running:
                self._let_go()

    def output_volts(self, channel: str) -> float:
        """What a channel's clips read."""
        with self.lock:
            output = self.outputs.get(channel, Output())
            if output.group is None:
                return 0.0
            volts = float(self.rig.group_v[output.group - 1])
            return -volts if output.turned else volts

    def output_amps(self, channel: str) -> float:
        """What flows out of a channel."""
        with self.lock:
            output = self.outputs.get(channel, Output())
            return float(self.rig.clip_a[output.group - 1]) if output.on and output.group is not None else 0.0

    def hook(self, kind: SourceKind | None) -> None:
        """Connect a driving instrument; what was connected is switched off first."""
        with self.lock:
            self.settle()
            if self.hooked is not None and self.hooked != kind:
                self.set_source(self.hooked, on=False)
            self.hooked = kind

    def set_source(self, kind: SourceKind, **changes: Any) -> None:
        """Change an instrument's settings. Raises Impossible for a group that the pack does not have."""
        with self.lock:
            self.settle()
            old = self.sources[kind]
            new = Source.model_validate({**old.model_dump(), **changes})
            if new.group > self.pack.series:
                raise Impossible(
                    "group", "no_such_group", f"group {new.group} does not exist: {self.pack.series} in series"
                )
            if new.on != old.on:
                fresh: dict[str, Any] = (
                    {"ah": 0.0, "wh": 0.0, "seconds": 0.0, "ended_v": [], "ended_c": None} if new.on else {}
                )
                new = new.model_copy(update={"doing": "held" if new.on else "off", **fresh})
            self.sources[kind] = new
            if not self.running:
                self._let_go()

    def drive(self) -> Drive:
        """What the instruments hooked up do to the pack now: the channels on its groups, or what is on its terminals."""
        clips = [
            Clip(group=o.group, volts=max(o.volts, 1e-3), amps=max(o.amps, 1e-4), cutoff_a=o.cutoff_a)
            for o in self.outputs.values()
            if o.on and o.group is not None
        ]
        if clips:
            return GroupChargers(clips=clips)
        source = self.source
        if self.hooked is None or source is None or not source.on:
            return Rest()
        found: Drive = module_of(self.hooked).drive(source)
        return found

    @property
    def source_volts(self) -> float:
        """Voltage where the hooked instrument is connected: across its group, or at the terminals."""
        if self.hooked == "cell_charger":
            return float(self.rig.group_v[self.sources["cell_charger"].group - 1])
        return self.rig.terminal_v

    # --- what is measured

    # --- keeping

    def save(self) -> Saved:
        """Everything as it stands."""
        with self.lock:
            state, board, gauge = self.rig.state, self.rig.board, self.rig.gauge
            return Saved(
                clock_s=self.clock_s,
                speed=self.speed,
                paused=self.paused,
                cells=[a.tolist() for a in (state.soc, state.v_fast, state.v_slow, state.celsius)],
                amps=self.rig.amps,
                group_v=self.rig.group_v.tolist(),
                board=None if board is None else board_dump(board),
                gauge_as=None if gauge is None else (gauge.counted_as, gauge.learned_as),
                hooked=self.hooked,
                sources=dict(self.sources),
                outputs=dict(self.outputs),
            )

    def take_samples(self) -> list[Sample]:
        """The log's entries since it was last asked for them."""
        with self.lock:
            taken, self.samples = self.samples, []
            return taken

    def _live(self, seconds: float) -> float:
        kind, source = self.hooked, self.source
        taper = (
            source.cutoff_a if source is not None and source.on and kind in ("cell_charger", "harness_charger") else 0.0
        )
        logs: list[Log] = []
        began = self.rig.state.time_s
        self.rig, ended = operate(self.rig, self.drive(), seconds, taper, self.spec.ambient_c, logs)
        lived = self.rig.state.time_s - began if ended == "taper" else seconds
        self.clock_s += lived
        self._count_outputs(lived)
        if kind is not None and source is not None and source.on:
            self._count(kind, source, logs, lived, ended)
        return lived if lived > 0 else seconds

    def _count(self, kind: SourceKind, source: Source, logs: list[Log], lived: float, ended: str) -> None:
        charge = sum(float(abs(log.amps).mean()) * lasts(log) for log in logs if len(log.amps))
        volts = self.source_volts
        now_a = self.rig.amps
        doing = "cut" if ended == "board" else "held"
        on = True
        if ended == "taper":
            doing, on = "done", False
        if source.stop_after_s is not None and source.seconds + lived >= source.stop_after_s - 1e-6:
            doing, on = "done", False
        lowest, warmest = float(self.rig.group_v.min()), float(self.rig.state.celsius.max())
        low = source.group_low_v is not None and lowest <= source.group_low_v
        warm = source.hottest_c is not None and warmest >= source.hottest_c
        if kind == "load" and (low or warm):
            doing, on = "done" if low else "cut", False
        if kind == "capacity_tester" and (volts <= source.low_v or ended == "board"):
            doing, on = "done" if ended != "board" else "cut", False
        counted = {
            "ah": source.ah + charge / 3600,
            "wh": source.wh + charge * volts / 3600,
            "seconds": source.seconds + lived,
            "doing": doing,
            "on": on,
            **({} if on else {"ended_v": [round(float(v), 4) for v in self.rig.group_v], "ended_c": round(warmest, 1)}),
        }
        self.sources[kind] = source.model_copy(update=counted)
        last = self.samples[-1].clock_s if self.samples else -math.inf
        if not on or self.clock_s - last >= SAMPLE_EVERY_S:
            celsius = float(self.rig.state.celsius.max())
            self.samples = [*self.samples[-MOST_SAMPLES:], Sample(self.clock_s, volts, now_a, celsius)]
        if not on:
            self._let_go()

    def _count_outputs(self, lived: float) -> None:
        """What each channel did meanwhile: its charge, and whether it is done, or its protection opened."""
        for name, output in self.outputs.items():
            if not output.on or output.group is None:
                continue
            amps, volts = float(self.rig.clip_a[output.group - 1]), float(self.rig.group_v[output.group - 1])
            tripped = volts > output.over_v
            done = output.cutoff_a > 0 and amps <= output.cutoff_a
            self.outputs[name] = output.model_copy(
                update={
                    "ah": output.ah + amps * lived / 3600,
                    "seconds": output.seconds + lived,
                    "doing": "cut" if tripped else "done" if done else "held",
                    "on": not (tripped or done),
                    "tripped": tripped,
                }
            )
        if not self.running:
            self._let_go()

    def _let_go(self) -> None:
        """Nothing flows any more: the groups show their own voltage."""
        group_v = group_volts(self.rig.model, self.rig.state)
        self.rig = replace(self.rig, amps=0.0, group_v=group_v, clip_a=np.zeros(self.pack.series))
