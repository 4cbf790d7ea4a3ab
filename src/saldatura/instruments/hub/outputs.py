"""The outputs that the program drives: switched on behind their gates, minded, and off when the job, the shop or the program ends."""

import logging
import math

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.minding import SHOWS_V
from saldatura.instruments.hub import words
from saldatura.instruments.hub.channels import Channels, ChargeNow, Found, OutputNow
from saldatura.instruments.hub.driven import Driven
from saldatura.instruments.link import LinkError
from saldatura.job.assessment import JobView
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.level_planning import begun_on
from saldatura.job.assessment.waiting import Ringing
from saldatura.job.facts import ChargeRun, JobFacts, NewCharge
from saldatura.job.facts.charge import Setting
from saldatura.job.gates import charge as charge_gates
from saldatura.job.gates import common as gates
from saldatura.job.minding.charge import ChargeWatch, Stop, setting_of
from saldatura.records import charge_log, jobs
from saldatura.records.charge_log import Rows
from saldatura.shop.instrument import ClipPlace

log = logging.getLogger("saldatura")


class Outputs(Channels):
    """Every charge that the program drives, over all jobs."""

    # --- acts

    def clip(self, job_id: int, channel: str, place: ClipPlace) -> None:
        """Put a stand-in channel's clips on a group of the virtual pack. Raises Refused while it charges, Impossible."""
        rack = self.racks.must(job_id)
        facts = self.bench.facts(job_id)
        gates.not_signed(facts)
        busy = next((run for run in facts.charges if run.end is None and run.channel == channel), None)
        if busy is not None and self._running(busy.id):
            raise Refused("charging", "group_on_channel", words.group_on_channel(channel, busy.group))
        if place.group is not None and place.group > facts.intake.pack.series:
            raise Impossible(
                "group", "no_such_group", f"group {place.group} does not exist: {facts.intake.pack.series} in series"
            )
        self._channel(channel)
        rack.output(channel, False)
        rack.virtual.clip(channel, place)
        self.racks.save_one(job_id)

    def start(self, job_id: int, new: NewCharge) -> JobView:
        """Switch a channel on at a group: off, gate, set, read back, record, on. Raises Refused, Impossible; nothing is on then."""
        found = self._output(self.bench.facts(job_id), new)
        # One at a time: two presses at once must not set one output for each other.
        with self.board.alone(job_id, found.output.link.address):
            return self._start(job_id, new, found)

    def _start(self, job_id: int, new: NewCharge, found: Found) -> JobView:
        facts = self.bench.facts(job_id)
        shop = self.bench.shop()
        # Before the output is touched: a second press must not switch off what the first one began.
        charge_gates.may_begin(facts, new, shop.policy, shop.channels, self.bench.channels_elsewhere)
        self.board.free(job_id, found.output.link, "output")
        if found.stand_in and self.racks.must(job_id).virtual.sourced:
            raise Refused("charging", "driven_by_instrument", words.DRIVEN_BY_INSTRUMENT)
        try:
            found.output.off()
            idle = found.output.read()
        except LinkError as error:
            raise Refused("instrument", "no_answer", words.no_answer(found.name, error.says)) from error
        shown = idle.volts if idle.volts is not None and abs(idle.volts) >= SHOWS_V else None
        if found.stand_in and new.clip_v is None:
            # What a stand-in's clips read needs no second meter.
            new = new.model_copy(update={"clip_v": idle.volts or 0.0})
        self._gate(facts, new)
        if shown is not None:
            # The output sees its clips itself: that counts as well as what was typed.
            self._gate(facts, new.model_copy(update={"clip_v": shown}))
        channel = self._channel(new.channel or "")
        meant = setting_of(begun_on(facts, new, channel, self.bench.now(), None, self.bench.policy()))
        self._prepare(found, meant)
        view = self.bench.add(job_id, new)
        run = next(run for run in reversed(self.bench.facts(job_id).charges) if run.group == new.group)
        driven = self._drive(job_id, run, found)
        self._switch_on(found, run, meant, driven)
        driven.start()
        self.racks.save_one(job_id)
        return view

    def off(self, job_id: int, charge_id: int) -> JobView:
        """Switch a driven charge off. Raises Refused where its output does not say that it is off, Impossible."""
        driven = self._driven.get(charge_id)
        if not self.board.not_off(job_id, charge_id):
            charge_gates.driven(self.bench.facts(job_id), charge_id)
            run = self._charge(job_id, charge_id)
            if driven is None and (run.stopped is None or not run.stopped.off):
                driven = self._drive(
                    job_id, run, self._of_channel(self.bench.facts(job_id), self._channel(run.channel))
                )
            if driven is not None and not driven.off:
                driven.stop(Stop(why="by_hand", says="Switched off here."))
        else:
            self.board.again(job_id, charge_id)
        for left in self.board.not_off(job_id, charge_id):
            raise Refused("instrument", "left_on", left.says)
        return self.bench.view(job_id)

    def _drive(self, job_id: int, run: ChargeRun, found: Found) -> Driven:
        driven = Driven(self.bench, job_id, run, found.output, found.name, self, self.board, not found.stand_in)
        with self._lock:
            self._driven[run.id] = driven
        return driven

    def let_go(self, job_id: int, but_running: bool = False) -> None:
        """Switch off what the program drives on a job; with `but_running`, only what the record has on no charge any more."""
        with self._lock:
            held = [d for d in self._driven.values() if d.job_id == job_id]
        runs = {run.id for run in self.bench.facts(job_id).charges if run.end is None}
        for driven in held:
            if not driven.off and not (but_running and driven.run.id in runs):
                driven.stop(Stop(why="by_hand", says="Off, as the job asks."))
            if driven.off and driven.run.id not in runs:
                with self._lock:
                    self._driven.pop(driven.run.id, None)

    # --- what is seen

    def now(self, job_id: int) -> list[ChargeNow]:
        """The driven charges of a job as they stand."""
        with self._lock:
            held = [d for d in self._driven.values() if d.job_id == job_id]
        return [
            ChargeNow(
                charge=d.run.id, group=d.run.group, channel=d.run.channel, setting=setting_of(d.run), live=d.live,
                celsius=None if not d.rows or math.isnan(d.rows[-1][3]) else d.rows[-1][3], watch=d.watch,
                ringing=[alarm.says for alarm, _ in d.ringing()], off=d.off, ah=round(d.ah, 4),
            )
            for d in held
        ]  # fmt: skip

    def fits(self) -> dict[int, ChargeWatch]:
        """What each driven charge's log says, by the number of the charge."""
        with self._lock:
            return {d.run.id: d.watch for d in self._driven.values() if d.stopped is None}

    def ringing(self) -> list[Ringing]:
        """What rings over all jobs."""
        with self._lock:
            held = list(self._driven.values())
        return [
            Ringing(
                job_id=d.job_id, pack_name=self.bench.facts(d.job_id).intake.pack_name, group=d.run.group, charge_id=d.run.id,
                kind=alarm.kind, says=alarm.says, at=since,
            )
            for d in held
            for alarm, since in d.ringing()
        ]  # fmt: skip

    def outputs(self, job_id: int) -> list[OutputNow]:
        """The channels that may be switched on a job, idle ones with what their clips read."""
        facts = self.bench.facts(job_id)
        rack = self.racks.rack_of(job_id)
        found = []
        for channel in self.bench.shop().channels:
            if channel.kind != "single":
                continue
            place, live, cannot = None, None, None
            try:
                output = self._of_channel(facts, channel)
                if rack is not None:
                    held = rack.virtual.outputs.get(channel.name)
                    place = ClipPlace(group=held.group, turned=held.turned) if held else ClipPlace()
                live = output.output.read() if output.watched is None else output.watched.live
            except Refused as error:
                cannot = error.message
            except LinkError as error:
                cannot = f"it does not answer ({error.says})"
            found.append(OutputNow(channel=channel.name, stand_in=rack is not None, place=place, live=live, cannot=cannot))  # fmt: skip
        return found

    def log_of(self, job_id: int, charge_id: int) -> Rows:
        """Everything logged of a charge: seconds, volts, amps, °C. Raises NoSuchJob, Impossible."""
        self._charge(job_id, charge_id)
        driven = self._driven.get(charge_id)
        if driven is not None:
            return driven.so_far()
        return charge_log.logged_rows(self.bench.db.read(), charge_id)

    def bring_log(self, job_id: int, charge_id: int, rows: Rows) -> None:
        """Keep a log that was measured elsewhere, in place of one brought in before. Raises Refused, Impossible, NoSuchJob."""
        gates.not_signed(self.bench.facts(job_id))
        if self._charge(job_id, charge_id).driven:
            raise Refused("log", "log_kept_here", words.LOG_KEPT_HERE)
        with self.bench.db.write() as db:
            charge_log.bring(db, charge_id, rows)
        self.bench.tell(job_id, self.bench.facts(job_id).last_id)

    def _charge(self, job_id: int, charge_id: int) -> ChargeRun:
        run = next((run for run in self.bench.facts(job_id).charges if run.id == charge_id), None)
        if run is None:
            raise Impossible("charge", "no_such_charge", f"this job has no charge {charge_id}")
        return run

    # --- coming and going

    def again(self, job_id: int) -> None:
        """Find the outputs of a job anew, as when its virtual pack was built anew."""
        facts = self.bench.facts(job_id)
        with self._lock:
            held = [d for d in self._driven.values() if d.job_id == job_id]
        for driven in held:
            driven.leave()
            with self._lock:
                self._driven.pop(driven.run.id, None)
            run = next((r for r in facts.charges if r.id == driven.run.id and r.end is None), None)
            if run is not None:
                self._take_up(job_id, facts, run, away=False)

    def end(self, job_id: int, charge_id: int) -> None:
        """Switch a charge off before its end is recorded. Raises Refused once where its output does not say that it is off."""
        driven = self._driven.get(charge_id)
        if driven is None or driven.job_id != job_id or driven.off:
            return
        told_before = driven.stopped is not None
        if not driven.stop(Stop(why="by_hand", says="Ended here.")) and not told_before:
            raise Refused("instrument", "not_said_off", words.not_said_off(driven.run.channel))  # fmt: skip

    def ended(self, charge_id: int) -> None:
        """A charge has ended: what says that it is off is minded no more."""
        driven = self._driven.get(charge_id)
        if driven is not None and driven.off:
            with self._lock:
                self._driven.pop(charge_id, None)
            driven.leave()

    def wake(self) -> None:
        """Take up again what was driven when the program ended: an output that holds its settings goes on, any other is off."""
        for job_id in jobs.driven(self.bench.db.read()):
            try:
                facts = self.bench.facts(job_id)
                for run in facts.charges:
                    if self.goes_on(facts, run):
                        self._take_up(job_id, facts, run)
            except Exception:  # one job's trouble is not the bench's
                log.exception("what drives job %d could not be taken up", job_id)

    @staticmethod
    def goes_on(facts: JobFacts, run: ChargeRun) -> bool:
        """Whether a driven charge may go on after the program came back: nothing wanted it off, and nothing holds its pack."""
        return (
            run.end is None and run.driven and run.stopped is None and not facts.quarantine and facts.sign_off is None
        )

    def close(self) -> None:
        """The program ends: real outputs are switched off, stand-ins stand still until it is back."""
        with self._lock:
            held, self._driven = list(self._driven.values()), {}
        for driven in held:
            if self.racks.rack_of(driven.job_id) is None and driven.stopped is None:
                driven.stop(Stop(why="ended", says="The program was ended and switched it off."))
            driven.leave()

    # --- inside

    def _running(self, charge_id: int) -> bool:
        driven = self._driven.get(charge_id)
        return driven is not None and not driven.off

    def _take_up(self, job_id: int, facts: JobFacts, run: ChargeRun, away: bool = True) -> None:
        found = self._of_channel(facts, self._channel(run.channel))
        driven = self._drive(job_id, run, found)
        self.board.taken_up(driven.switch, found.output.link, driven.kept)
        if away and driven.kept and WINDOWS[facts.intake.pack.chemistry].family != "lithium":
            driven.stop(Stop(why="clock", says="The program was away: how long it was charged is not known. Feel the pack, and say how much it still needs."))  # fmt: skip
            return
        try:
            live, wrong = found.output.read(), found.output.holds(setting_of(run))
        except LinkError:
            # Out of reach: what it is set to is read before anything it shows is believed.
            driven.doubted = True
            driven.start()
            return
        if live.doing != "held":
            driven.stop(Stop(why="ended", says="It was off when the program came back."))
        elif wrong:
            driven.stop(Stop(why="ended", says=f"When the program came back {wrong}: switched off."))
        driven.start()

    def _prepare(self, found: Found, meant: Setting) -> None:
        try:
            wrong = found.output.prepare(meant)
        except LinkError as error:
            raise Refused("instrument", "no_answer", words.no_answer(found.name, error.says)) from error
        if wrong:
            raise Refused("instrument", "settings_not_taken", words.settings_not_taken(found.name, wrong))

    def _switch_on(self, found: Found, run: ChargeRun, meant: Setting, driven: Driven) -> None:
        try:
            # What is recorded is what was set: the forecast of a moment later may differ by a digit.
            wrong = found.output.holds(setting_of(run)) if setting_of(run) != meant else ""
            if wrong:
                self._prepare(found, setting_of(run))
            self.board.on(driven.switch, found.output.link, driven.kept)
            complaint = found.output.on()
            if complaint or found.output.read().doing != "held":
                raise Refused("instrument", "not_switched_on", words.not_switched_on(found.name, complaint))
        except (LinkError, Refused) as error:
            said = error.says if isinstance(error, LinkError) else error.message
            driven.stop(Stop(why="lost", says=f"It was not switched on: {said}."))
            raise Refused("instrument", "not_switched_on", words.end_what_was_begun(said)) from error
        except BaseException:
            # A full disk: it was not told to go on.
            driven.stop(Stop(why="lost", says="It was not switched on."))
            raise
        try:
            # Whatever came between, a sign-off or a quarantine, wins.
            self._still(driven)
        except (Refused, Impossible) as error:
            driven.stop(Stop(why="by_hand", says=f"Switched off again: {error.message}."))
            raise
        self.board.settled(found.output.link)

    def _still(self, driven: Driven) -> None:
        facts = self.bench.facts(driven.job_id)
        gates.work(facts)
        run = next((run for run in facts.charges if run.id == driven.run.id), None)
        if run is None or run.end is not None or driven.stopped is not None:
            raise Refused("charging", "charge_ended", words.charge_ended(driven.run.group))
        gates.not_condemned({k: v for k, v in lost_of(facts, self.bench.policy()).items() if k == driven.run.group})

    def _gate(self, facts: JobFacts, new: NewCharge) -> None:
        shop = self.bench.shop()
        charge_gates.charge(facts, new, shop.policy, shop.channels, self.bench.channels_elsewhere)
