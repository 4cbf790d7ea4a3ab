"""Runs under an electronic load that the program drives: switched on behind their gates, minded by a thread each, off on any doubt."""

import logging
import math
import threading
from typing import Annotated

from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.minding import (
    LEADS_OVER,
    METER_S,
)
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.prove.run_types import RunTime
from saldatura.battery.quantities import GroupNumber, PositiveAmps, Value
from saldatura.instruments.hub import words
from saldatura.instruments.hub.minded import Minded
from saldatura.instruments.hub.outputs import Outputs
from saldatura.instruments.hub.shop import ShopInstruments
from saldatura.instruments.hub.switchboard import Switchboard
from saldatura.instruments.link import LinkError
from saldatura.instruments.load import LoadInput
from saldatura.instruments.rack import Watched
from saldatura.job.assessment import JobView
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.waiting import Driving
from saldatura.job.gates import common as gates
from saldatura.job.minding.load import Ended, RunCount, RunLimits, Seen, run_ends
from saldatura.ledger.fact import FactId
from saldatura.records.bench import Bench
from saldatura.records.switched import Switch
from saldatura.shop.instrument import Live

log = logging.getLogger("saldatura")


class NewLoadRun(Value):
    """A run on a load of the shop at so many amps; with a meter of the shop clipped to the group that should end it."""

    instrument: FactId
    amps: PositiveAmps
    meter: FactId | None = None
    group: GroupNumber | None = None


class LoadRunNow(Value):
    """A run as it stands, beside its forecast; `running` until the load has said that it is off. `says`: why it stopped."""

    instrument: str
    amps: float
    seconds: float
    ah: Annotated[float, Field(ge=0)]
    wh: Annotated[float, Field(ge=0)]
    volts: float | None
    drawn_a: float | None
    group: int | None
    group_v: float | None
    celsius: float | None
    hole_s: float
    low_v: float
    forecast: RunTime
    running: bool
    says: str


class LoadRun(Minded[LoadInput, Ended]):
    """One run: read, counted and minded by a thread of its own."""

    def __init__(
        self, bench: Bench, job_id: int, new: NewLoadRun, watched: Watched, meter: Watched | None, forecast: RunTime, low_v: float,
        warmth: Outputs, board: Switchboard,
    ) -> None:  # fmt: skip
        switch = Switch(address=watched.link.address, name=watched.name, drives="load", job_id=job_id)
        super().__init__(LoadInput(watched.asked), switch, board, True, f"load-{job_id}")
        self.bench, self.job_id, self.new, self.name = bench, job_id, new, watched.name
        self.meter, self.forecast, self.beside = meter, forecast, warmth
        pack = bench.facts(job_id).intake.pack
        window = WINDOWS[pack.chemistry]
        self.limits = RunLimits(
            amps=new.amps, low_v=low_v, end_v=window.tool_end_v, most_v=pack.in_string * window.full_v * LEADS_OVER,
            longest_s=forecast.duration_high_s, group=new.group if meter is not None else None,
        )  # fmt: skip
        self.count = RunCount()
        self.volts: float | None = None
        self.drawn: float | None = None
        self.recorded = False

    def now(self) -> LoadRunNow:
        """The run as it stands."""
        count = self.count
        return LoadRunNow(
            instrument=self.name, amps=self.new.amps, seconds=count.seconds, ah=count.ah, wh=count.wh, volts=self.volts, drawn_a=self.drawn,
            group=self.limits.group, group_v=self.group_v(), celsius=None if math.isnan(count.hottest) else count.hottest,
            hole_s=count.hole_s, low_v=self.limits.low_v, forecast=self.forecast, running=not self.off,
            says=self.stopped.says if self.stopped else "",
        )  # fmt: skip

    def lost(self, says: str) -> Ended:
        """Its own limit holds."""
        return Ended(
            "lost",
            f"{self.name} is not to be relied on ({says}): pull its leads. Its own limit of {self.limits.low_v:.2f} V holds.",
        )

    def failed(self) -> Ended:
        """A load is not left on for a failure of ours."""
        return Ended("hand", "The program failed at this run and switched it off.")

    def silent(self) -> None:
        """What it showed is not what is there now."""
        self.volts = self.drawn = None

    def look(self, live: Live) -> Ended | None:
        """Count what it shows, and judge it."""
        warm = self.beside.warmth(self.job_id)
        seen = Seen(
            passed=self.answered(), volts=live.volts or 0.0, amps=live.amps or 0.0, warm=warm, off=live.doing == "off", group_v=self.group_v()
        )  # fmt: skip
        self.volts, self.drawn = seen.volts, seen.amps
        self.count.add(seen)
        return run_ends(self.limits, self.count, seen, self.unguarded(warm))

    def group_v(self) -> float | None:
        """What the meter on the group shows; None where there is none, or where it has told nothing for a while."""
        watched = self.meter
        if watched is None or watched.live is None or watched.age_s is None or watched.age_s > METER_S:
            return None
        return None if watched.live.volts is None else abs(watched.live.volts)

    def keep(self, first: bool, by: str) -> None:
        """Keep the run once its load is off; one whose end nobody saw is kept as none. Never raises."""
        ended, count = self.stopped, self.count
        if ended is None or not self.off or self.recorded:
            return
        self.recorded = True
        if ended.by == "lost" or not count.is_test or count.mean_a <= 0:
            return
        try:
            self.bench.add(
                self.job_id,
                LoadRunMeasure(
                    on="load", amps=count.mean_a, seconds=max(round(count.seconds, 1), 0.1), ended_by=ended.by,
                    hottest_c=None if math.isnan(count.hottest) else round(count.hottest, 1),
                    group=self.new.group if ended.by == "group" else None, ah=round(count.ah, 4) or None, wh=round(count.wh, 3) or None,
                ),
            )  # fmt: skip
        except Exception:  # a full disk must not end the minding of a load
            log.exception("the load run of job %d could not be recorded", self.job_id)


class Loads:
    """Every run under a load that the program drives, one a job at the most."""

    def __init__(self, bench: Bench, shop: ShopInstruments, outputs: Outputs, board: Switchboard) -> None:
        self.bench, self.shop, self.outputs, self.board = bench, shop, outputs, board
        self._runs: dict[int, LoadRun] = {}

    def start(self, job_id: int, new: NewLoadRun) -> LoadRunNow:
        """Switch a load on at the pack: gate, off, set, read back, on, gate again. Raises Refused, Impossible; nothing is on then."""
        load, meter = self._load(new.instrument), self._meter_of(new)
        places = {watched.link.address for watched in (load, meter) if watched is not None}
        with self.board.alone(job_id, *places):
            self._gate(job_id, new)
            if self.bench.facts(job_id).simulated:
                raise Refused("instrument", "simulated_pack", words.SIMULATED_PACK)
            self.board.free(job_id, load.asked, "load")
            guarded = next((r for r in self._runs.values() if not r.off and r.new.meter == new.meter is not None), None)
            if guarded is not None:
                raise Refused("meter", "meter_guards", words.meter_guards(guarded.job_id))
            if meter is not None:
                self._sees(meter)
            forecast = self.bench.proof_run(job_id, new.amps)
            if forecast is None:
                raise Refused("groups", "lasts_unknown", words.LASTS_UNKNOWN)
            low_v = round(forecast.curve.pack_v[-1], 2)
            run = LoadRun(self.bench, job_id, new, load, meter, forecast, low_v, self.outputs, self.board)
            self._switch_on(run)
            run.start()
            return run.now()

    def _gate(self, job_id: int, new: NewLoadRun) -> None:
        facts = self.bench.facts(job_id)
        gates.work(facts)
        gates.not_condemned(lost_of(facts, self.bench.policy()))
        gates.load_run(facts, new.amps)
        gates.group_exists(facts, new.group)

    def off(self, job_id: int) -> JobView:
        """Switch a job's load off. Raises Refused where it does not say that it is off."""
        run = self._runs.get(job_id)
        if run is not None and not run.off:
            run.stop(Ended("hand", "Switched off here."))
        else:
            self.board.again(job_id)
        for left in self.board.not_off(job_id):
            if left.charge_id is None:
                raise Refused("instrument", "left_on", left.says)
        return self.bench.view(job_id)

    def now(self, job_id: int) -> LoadRunNow | None:
        """A job's run as it stands, or the last one since the program began."""
        run = self._runs.get(job_id)
        return None if run is None else run.now()

    def idle(self, instrument: int) -> None:
        """A load that is on, and the meter that guards its run, stay what they are until it is off. Raises Refused."""
        run = next(
            (r for r in self._runs.values() if not r.off and instrument in (r.new.instrument, r.new.meter)), None
        )
        if run is not None:
            raise Refused("load", "in_load_run", words.in_load_run(run.job_id))

    def driving(self) -> list[Driving]:
        """Loads that are on: nobody has to wait for one, but it must not be forgotten."""
        return [
            Driving(
                job_id=run.job_id, pack_name=self.bench.facts(run.job_id).intake.pack_name, what=run.name, amps=run.new.amps,
                stops_in_s=max(run.forecast.duration_s - run.count.seconds, 0.0),
            )
            for run in list(self._runs.values())
            if not run.off
        ]  # fmt: skip

    def let_go(self, job_id: int) -> None:
        """Switch off what is on a job's pack, as when it is quarantined."""
        run = self._runs.get(job_id)
        if run is not None and not run.off:
            run.stop(Ended("hand", "Off, as the job asks."))

    def wake(self) -> None:
        """No load goes on over an end of the program: whatever may be switched is told to be off."""
        for fact in self.bench.shop().instruments:
            watched = self.shop.watched(fact.id)
            if fact.kind == "load" and fact.drives and watched is not None:
                threading.Thread(target=_told_off, args=(watched,), name=f"load-off-{fact.id}", daemon=True).start()

    def close(self) -> None:
        """The program ends: every load is switched off."""
        for run in list(self._runs.values()):
            if run.stopped is None:
                run.stop(Ended("hand", "The program was ended and switched it off."))
            run.leave()

    def _switch_on(self, run: LoadRun) -> None:
        try:
            wrong = run.device.prepare(run.new.amps, run.limits.low_v)
            if wrong:
                raise Refused(
                    "instrument",
                    "settings_not_taken",
                    words.settings_not_taken(run.name, wrong) + "; run it by hand, and stay by it",
                )
            self._on_this_pack(run, run.device.read().volts or 0.0)
        except LinkError as error:
            raise Refused("instrument", "no_answer", words.no_answer(run.name, error.says)) from error
        self.board.on(run.switch, run.device.link, True)
        self._runs[run.job_id] = run
        try:
            complaint = run.device.on()
            held = run.device.read().doing == "held"
            # Whatever came between, a sign-off or a quarantine, wins.
            self._gate(run.job_id, run.new)
            if complaint or not held:
                raise Refused("instrument", "not_switched_on", words.not_switched_on(run.name, complaint))
            if run.stopped is not None:
                raise Refused("instrument", "switched_off_meanwhile", words.SWITCHED_OFF_MEANWHILE)
        except LinkError as error:
            # The word to switch on may have arrived, and its answer not.
            run.stop(Ended("lost", f"{run.name} was not switched on ({error.says})."))
            raise Refused("instrument", "no_answer_while_on", words.no_answer_while_on(run.name, error.says)) from error
        except BaseException:
            run.stop(Ended("lost", f"{run.name} was switched off again."))
            raise
        self.board.settled(run.device.link)

    def _on_this_pack(self, run: LoadRun, volts: float) -> None:
        """What the leads read while nothing flows is this pack the right way round, and the meter reads one group of it. Raises Refused."""
        pack = self.bench.facts(run.job_id).intake.pack
        window = WINDOWS[pack.chemistry]
        least, most = window.tool_end_v, window.full_v * LEADS_OVER
        if not pack.in_string * least <= volts <= pack.in_string * most:
            raise Refused(
                "leads",
                "leads_elsewhere",
                words.leads_elsewhere(run.name, volts, pack.in_string * least, pack.in_string * most),
            )
        group_v = run.group_v()
        if run.meter is not None and (group_v is None or not least < group_v <= most):
            raise Refused("meter", "meter_elsewhere", words.meter_elsewhere(run.new.group, group_v))

    def _load(self, number: int) -> Watched:
        fact = next((i for i in self.bench.shop().instruments if i.id == number), None)
        watched = self.shop.watched(number)
        if fact is None or watched is None or fact.kind != "load":
            raise Impossible(
                "instrument",
                "no_such_instrument",
                f"there is no electronic load {number}; Instruments lists those there are",
            )
        if not fact.drives:
            raise Refused(
                "instrument", "read_only", f"{fact.name} is read, not switched; Instruments lets it be switched"
            )
        return watched

    def _meter_of(self, new: NewLoadRun) -> Watched | None:
        if new.meter is None:
            return None
        fact = next((i for i in self.bench.shop().instruments if i.id == new.meter), None)
        watched = self.shop.watched(new.meter)
        if fact is None or watched is None or fact.kind != "meter":
            raise Impossible(
                "meter", "no_such_instrument", f"there is no multimeter {new.meter}; Instruments lists those there are"
            )
        if new.group is None:
            raise Impossible("group", "say_which_group", words.SAY_WHICH_GROUP)
        if not watched.trusted:
            raise Refused("meter", "meter_not_taught", f"{fact.name} {words.NOT_TAUGHT}")
        return watched

    def _sees(self, meter: Watched) -> None:
        """The meter tells what is there now. Raises Refused."""
        # Two questions: what came of the first and lies there at the second is no answer to it.
        for _ in range(2):
            meter.poll()
        if meter.live is None:
            raise Refused("meter", "meter_not_live", words.meter_not_live(meter.name, meter.link.says))


def _told_off(watched: Watched) -> None:
    try:
        LoadInput(watched.asked).off()
    except LinkError as error:
        log.warning("%s could not be told to be off: %s", watched.name, error.says)
