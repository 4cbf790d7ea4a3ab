"""A pack of the demo that became another one: its swollen third group is left out, and it waits for its proof as two in series."""

from datetime import datetime, timedelta

from saldatura.battery.measures.evidence import At, Seen
from saldatura.battery.measures.kinds.wiggle import WiggleMeasure
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.plan.types import Need, Prices
from saldatura.battery.quantities import Pack
from saldatura.demo.teller import Teller
from saldatura.job.assessment.block import block_of
from saldatura.job.facts import Intake, NewAccepted, NewNeed, NewNote, NewRuling, Release, Safety
from saldatura.job.facts.block import NewTick
from saldatura.shop.block import Method, NewBlock

PRINTER = Pack(chemistry="lipo", series=3, parallel=1, rated_ah=2.2, load_a=2.0)
SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


def shortened(tell: Teller, now: datetime) -> None:
    """From the counter to the last step of its list, and the readings of the pack that it became."""
    tell.begin(now - timedelta(hours=27))
    intake = Intake(
        customer="Cold store", pack_name="Label printer, cold store", serial="LP-0233", pack=PRINTER, kind="appliance", age_years=4,
        symptoms=["short_run"], note="Prints a roll and a half, then it is flat.",
    )  # fmt: skip
    tell.take_in(intake, SAFE, PackSpec(soc=[0.62, 0.60, 0.41], seed=7))
    tell.read_all(PRINTER, "taps")
    tell.later(minutes=4)
    tell.add(
        NewNote(
            evidence=[Seen(what="swollen", at=At(groups=[3]))],
            text="the outer pouch stands off the board by two millimetres",
        )
    )
    tell.later(minutes=35)
    tell.add(
        Release(
            by="Ilka",
            reason="cool, stood outdoors; to cut the swollen pouch out",
            cells="the third pouch, in sand until it is cut out",
            groups=[3],
        )
    )
    tell.later(minutes=15)
    tell.add(
        NewNeed(
            need=Need(load_a=2.0, cutoff_v=6.0, charger_v=8.4, charger_adjustable=True),
            prices=Prices(cell=9.0, original=92.0),
        )
    )
    tell.add(
        NewAccepted(
            repair="drop_group",
            groups=[3],
            price=38.0,
            by="Marta of the cold store",
            note="pouch swollen; the printer runs from 6 V, and there is a two-cell charger",
        )
    )
    tell.go_to("join")
    tell.add(
        NewBlock(
            arrangement="stack",
            diameter_mm=6.2,
            method=Method(by="solder", tabs="plated", iron_w=90),
            work="drop_group",
            work_groups=[3],
        )
    )
    while True:
        lists = block_of(tell.bench.facts(tell.job), tell.bench.policy()).lists
        if lists[0].name != "drop_group":
            break
        step = next(s for s in lists[0].steps if not s.done)
        volts = None if step.asks is None else round(step.asks.expected_v, 2)
        tell.later(minutes=3)
        tell.add(NewTick(list=lists[0].name, step=step.key, volts=volts, by="Ilka", early=True))
    tell.again(PackSpec(soc=[0.62, 0.60], seed=7))
    pack = tell.bench.facts(tell.job).intake.pack
    tell.later(minutes=20)
    tell.read_all(pack, "groups")
    tell.add(NewRuling(cause="dead_group", by="Ilka", confirmed=True))
    tell.add(WiggleMeasure(part="bridge and leads", seconds=20.0, dropped=True))
    tell.go_to("prove")
    tell.go(now - timedelta(hours=1))
    tell.rested_set("prove", 12.0)
    tell.read_all(pack, "groups", "prove")
    tell.go(now)
