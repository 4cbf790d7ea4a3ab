"""The cellar tablet of the demo: its chip says it is healthy, answers only while it is fed, and no current reaches the terminals."""

from datetime import date, datetime

from saldatura.battery.measures.evidence import Registers
from saldatura.battery.measures.kinds.registers_read import RegistersMeasure
from saldatura.battery.pack import ContactFault
from saldatura.battery.pack.chip import ChipFault, ChipSpec
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.demo.opened import NOTHING_FOUND
from saldatura.demo.teller import SEED, Teller
from saldatura.instruments import smart_bus
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.facts import Intake, NewNote

TABLET = Pack(chemistry="lipo", series=3, parallel=2, rated_ah=5.0, load_a=2.5)


def silent_chip(tell: Teller, start: datetime) -> None:
    """Taken in, read group by group, its chip read while it was fed, and gone to Judge."""
    tell.begin(start)
    intake = Intake(
        customer="Cellar master", pack_name="Cellar tablet", serial="CT-12", pack=TABLET, symptoms=["dead"], kind="laptop", age_years=3,
        note="Went off one evening at half charge and never came on again.",
    )  # fmt: skip
    chip = ChipSpec(
        cycles=210, made=date(2023, 4, 18), serial=1207, learned=0.94, device="CT-3S", faults=[ChipFault(kind="silent_until_fed")]
    )  # fmt: skip
    spec = PackSpec(soc=tell.level_socs(3, 0.52), faults=[ContactFault(kind="open")], seed=SEED + 64, chip=chip)
    tell.take_in(intake, NOTHING_FOUND, spec)
    tell.later(minutes=8)
    tell.rested_set("probe", hours=30)
    tell.read_all(TABLET, "groups")
    tell.later(minutes=5)
    with smart_bus.opened(smart_bus.SIMULATED, VirtualPack(TABLET, spec), fed=True) as bus:
        came = smart_bus.read_chip(bus)
    tell.add(
        RegistersMeasure(
            words=came.words, blocks=came.blocks, pec=came.pec, by="simulated", fed=True, silent_unfed=True
        )
    )
    registers = Registers(permanent_failure=False, charge_switch=True, discharge_switch=True)
    tell.add(NewNote(evidence=[registers], text="its maker's words: no flag set, both switches on"))
    tell.go_to("judge")
