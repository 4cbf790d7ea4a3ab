"""Packs of the demo that were opened: dead cells, an old pack, one of the shop."""

from datetime import datetime

from saldatura.battery.measures.evidence import At, Seen
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.pack import CellFault
from saldatura.battery.pack.faults import Fault
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.demo.teller import SEED, Teller
from saldatura.job.facts import Intake, NewNote, Safety
from saldatura.shop.reference import NewBlink, NewReference, ReferenceCheck


def of_the_shop(tell: Teller, start: datetime) -> None:
    """Reference parts, and what the lamps of the growers' packs mean."""
    tell.begin(start)
    for shows, means in (
        ("four red, fast", "temperature"),
        ("two red, slow", "cell"),
        ("red and green in turn", "communication"),
    ):
        tell.bench.add_to_shop(NewBlink(shows=shows, means=means))
    tell.bench.add_to_shop(NewReference(what="board", name="Pump board, bench", revision="C"))
    tell.bench.add_to_shop(NewReference(what="charger", name="Shears charger, bench"))
    tell.later(hours=1)
    board = tell.bench.shop().references[0].id
    tell.bench.add_to_shop(ReferenceCheck(reference=board, by="a pump pack that runs"))


def two_dead_one_bulged(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="Press house",
        pack_name="Grape-press torque driver",
        serial="TD-004",
        kind="power_tool",
        age_years=5,
        pack=TORQUE,
        symptoms=["dies_under_load", "short_run"],
        note="Turns for a minute, then hums.",
    )
    dead: list[Fault] = [CellFault(kind="run_flat", group=group, size=volts) for group, volts in ((3, 0.04), (8, 0.11))]
    holds = {group: float(tell.rng.normal(0.88, 0.012)) for group in range(1, 11) if group not in (3, 8)}
    dead += [CellFault(kind="low_capacity", group=group, size=left) for group, left in holds.items()]
    spec = PackSpec(soc=tell.level_socs(10, 0.62, 0.02), faults=dead, with_board=False, seed=SEED + 65)
    tell.take_in(intake, NOTHING_FOUND, spec)
    tell.later(minutes=9)
    tell.rested_set("probe", hours=30)
    tell.read_all(TORQUE, "groups")
    tell.later(minutes=3)
    tell.add(NewNote(evidence=[Seen(what="bulged", at=At(groups=[8]))], text="the can of cell 8 stands proud"))
    for group in (1, 5, 10):
        ah = holds[group] * TORQUE.rated_ah
        kept = CapacityMeasure(
            source="bay tester",
            group=group,
            ah=round(ah, 2),
            wh=round(ah * 1.2, 2),
            seconds=round(ah / 1.3 * 3600),
            mean_a=1.3,
            end_v=1.0,
        )
        tell.add(kept)
    tell.go_to("judge")
    tell.later(minutes=6)
    tell.go_to("plan")


def eleven_years_old(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="Fermentation cellar",
        pack_name="Fermentation-room light",
        serial="FL-002",
        kind="light",
        age_years=11,
        pack=ROOM_LIGHT,
        symptoms=["short_run"],
        note="Burnt all night when it was new; now it is dark by ten.",
    )
    worn: list[Fault] = []
    for group in range(1, 8):
        for cell in range(1, 4):
            left, more = float(tell.rng.normal(0.46, 0.015)), float(tell.rng.normal(2.4, 0.08))
            worn.append(CellFault(kind="low_capacity", group=group, cell=cell, size=left))
            worn.append(CellFault(kind="high_resistance", group=group, cell=cell, size=more))
    tell.take_in(intake, NOTHING_FOUND, PackSpec(soc=tell.level_socs(7, 0.97, 0.004), faults=worn, seed=SEED + 66))
    tell.later(minutes=7)
    tell.rested_set("probe", hours=12)
    tell.read_all(ROOM_LIGHT, "groups")
    tell.later(hours=2)
    # As the tester counted it: what its weakest group holds.
    counted = min(sum(f.size for f in worn if f.kind == "low_capacity" and f.group == g) / 3 for g in range(1, 8)) * 7.5
    tell.add(
        CapacityMeasure(
            source="bay tester",
            ah=round(counted, 2),
            wh=round(counted * 24.6, 1),
            seconds=round(counted / 2.5 * 3600),
            mean_a=2.5,
            end_v=21.0,
        )
    )
    tell.later(minutes=5)
    tell.go_to("judge")
    tell.later(minutes=8)
    tell.go_to("plan")


NOTHING_FOUND = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


TORQUE = Pack(chemistry="nimh", series=10, parallel=1, rated_ah=2.6, load_a=9.0)


ROOM_LIGHT = Pack(chemistry="li_oxide", series=7, parallel=3, rated_ah=7.5, load_a=2.5)
