"""The demo's proofs: a pack proved in full, one that fails its load step and goes back, one that was handed over and has come back."""

from datetime import datetime, timedelta

from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.joint import JointMeasure
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.measures.kinds.wiggle import WiggleMeasure
from saldatura.battery.pack import CellFault, ContactFault, JointFault
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.demo.teller import SEED, Teller
from saldatura.job.facts import Intake, NewSet, NewSignOff, Safety
from saldatura.job.facts.ruling import NewRuling
from saldatura.job.facts.wait import NewWait
from saldatura.job.facts.work import NewWork, TerminalsPlace

NOTHING_FOUND = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
# Where the tool ends a group, and how warm a cell may grow in a run.
END_V, HOTTEST_C = 3.0, 60.0


LOW = 4


def handed_over(tell: Teller, intake: Intake, now: datetime) -> None:
    """Levelled and handed over seven weeks ago."""
    tell.begin(now - timedelta(days=49))
    socs = tell.level_socs(intake.pack.series, 0.88)
    socs[LOW - 1] = 0.52
    tell.take_in(intake, NOTHING_FOUND, PackSpec(soc=socs, seed=SEED + 80))
    tell.later(minutes=6)
    tell.rested_set("probe", hours=14)
    tell.read_all(intake.pack, "taps")
    tell.go_to("judge")
    tell.go_to("level")
    tell.charge(LOW, 2.5)
    tell.go_to("prove")
    tell.later(hours=15)
    tell.rested_set("prove", hours=15, last_a=2.5)
    tell.read_all(intake.pack, "groups", "prove")
    tell.go_to("hand_over")
    tell.add(NewRuling(cause="imbalance", groups=[LOW], confirmed=True, by="Ilka"))
    tell.add(NewSignOff(by="Ilka", minutes=35))


def came_back(tell: Teller, intake: Intake, now: datetime) -> None:
    """Here again, the same group low: nobody had watched whether it leaks."""
    tell.begin(now - timedelta(days=1, hours=4))
    socs = tell.level_socs(intake.pack.series, 0.80)
    socs[LOW - 1] = 0.61
    leaks = CellFault(kind="soft_short", group=LOW, size=180.0)
    again = intake.model_copy(update={"note": "Was here in winter; ran well for a month, then shorter every week."})
    tell.take_in(again, NOTHING_FOUND, PackSpec(soc=socs, faults=[leaks], seed=SEED + 81))
    tell.later(minutes=8)
    tell.rested_set("probe", hours=20)
    tell.read_all(intake.pack, "taps")
    tell.go_to("judge")
    tell.go(now)


def in_full(tell: Teller, intake: Intake, now: datetime) -> None:
    """A levelled pack with every test that is due, and a week's watch that runs."""
    start = now - timedelta(days=6, hours=3)
    tell.begin(start)
    socs = tell.level_socs(intake.pack.series, 0.90)
    socs[LOW - 1] = 0.46
    tell.take_in(intake, NOTHING_FOUND, PackSpec(soc=socs, seed=SEED))
    tell.later(minutes=6)
    tell.rested_set("probe", hours=14)
    tell.read_all(intake.pack, "taps")
    tell.go_to("judge")
    tell.later(minutes=4)
    tell.go_to("level")
    tell.charge(LOW, 2.5)
    tell.go_to("prove")
    _charged_whole(tell, intake.pack)
    tell.later(hours=15)
    tell.rested_set("prove", hours=15, last_a=2.5)
    tell.read_all(intake.pack, "groups", "prove")
    _under_load(tell, intake.pack)
    _run(tell, intake.pack)
    tell.later(hours=1)
    _charged_whole(tell, intake.pack)
    tell.later(hours=12)
    tell.add(NewWait(kind="self_discharge", days=7))
    tell.rested_set("prove", hours=12, last_a=2.5)
    tell.read_all(intake.pack, "groups", "prove")
    tell.later(hours=26)
    tell.rested_set("prove", hours=38, last_a=2.5)
    tell.read_all(intake.pack, "groups", "prove")
    tell.go(now)


def fails_its_step(tell: Teller, intake: Intake, now: datetime) -> None:
    """A cracked main lead soldered anew, and a weld beside it that only a load shows: proved, failed, and back in Judge."""
    weld, lead = JointFault(kind="weld", group=3, cell=1, ohm=0.3), ContactFault(kind="main_contact", ohm=0.12)
    tell.begin(now - timedelta(hours=7))
    socs = tell.level_socs(intake.pack.series, 0.82)
    tell.take_in(intake, NOTHING_FOUND, PackSpec(soc=socs, faults=[weld, lead], seed=SEED + 83))
    tell.later(minutes=9)
    tell.rested_set("probe", hours=16)
    tell.read_all(intake.pack, "taps")
    tell.go_to("judge")
    tell.later(minutes=20)
    # The lead is whole from here on.
    tell.again(PackSpec(soc=socs, faults=[weld], seed=SEED + 83))
    tell.add(
        NewWork(
            did="resoldered", place=TerminalsPlace(), by="Ilka", minutes=12, note="the red lead was cracked at its tab"
        )
    )
    tell.go_to("prove")
    tell.add(WiggleMeasure(part="red lead", seconds=12, dropouts_s=[]))
    tell.add(JointMeasure(what="red lead at its tab", ohm=0.0006, before_ohm=0.12))
    tell.rested_set("prove", hours=16)
    tell.read_all(intake.pack, "groups", "prove")
    _under_load(tell, intake.pack)
    tell.go_to("judge")
    tell.go(now)


def _under_load(tell: Teller, pack: Pack) -> None:
    """A load step: every group read while the device's current flows."""
    amps = pack.load_a or pack.rated_ah
    virtual = tell.packs[tell.job][0]
    virtual.hook("load")
    virtual.set_source("load", on=True, amps=amps)
    tell.later(seconds=10)
    tell.add(NewSet(purpose="load", condition="load", current_a=amps))
    tell.read_all(pack, "groups", "load")
    virtual.hook(None)
    tell.later(minutes=2)


def _run(tell: Teller, pack: Pack) -> None:
    """The charged pack under the device's load, until a group is at its end."""
    amps = pack.load_a or pack.rated_ah
    virtual = tell.packs[tell.job][0]
    virtual.hook("load")
    virtual.set_source("load", on=True, amps=amps, group_low_v=END_V, hottest_c=HOTTEST_C)
    while virtual.running:
        tell.later(seconds=20)
    source = virtual.sources["load"]
    virtual.hook(None)
    first = min(range(pack.series), key=lambda k: source.ended_v[k])
    tell.add(
        LoadRunMeasure(
            on="stand_in", amps=amps, seconds=source.seconds, ended_by="group", group=first + 1, ah=round(source.ah, 3), wh=round(source.wh, 1),
            hottest_c=source.ended_c, group_v=source.ended_v,
        )
    )  # fmt: skip
    tell.add(
        CapacityMeasure(
            source="stand-in load", ah=round(source.ah, 3), wh=round(source.wh, 1), seconds=source.seconds, mean_a=amps, end_v=round(sum(source.ended_v), 2)
        )
    )  # fmt: skip


def _charged_whole(tell: Teller, pack: Pack) -> None:
    """The pack on a charger for the whole string, watched to its end, and every group read then."""
    virtual = tell.packs[tell.job][0]
    volts = 4.2 * pack.series
    virtual.hook("supply")
    virtual.set_source("supply", on=True, volts=volts, amps=2.5)
    tell.later(minutes=5)
    while virtual.running and virtual.rig.amps > 0.1:
        tell.later(minutes=2)
    ended = [round(float(v), 3) for v in virtual.rig.group_v]
    virtual.hook(None)
    tell.add(FullChargeMeasure(accepts=True, ended_itself=True, group_v=ended))
