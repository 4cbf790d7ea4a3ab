"""A pack of the demo that was forgotten over winter: both its groups are run flat."""

from datetime import datetime

from saldatura.battery.pack.faults import CellFault, Fault
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.demo.teller import SEED, Teller
from saldatura.job.facts import Intake, Safety

LAMP = Pack(chemistry="li_oxide", series=2, parallel=1, rated_ah=2.6, load_a=0.8)
SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


def forgotten(tell: Teller, start: datetime) -> None:
    """From the counter to its judgement, read after a winter's rest."""
    tell.begin(start)
    intake = Intake(
        customer="Grafting shed",
        pack_name="Grafting lamp",
        serial="GL-018",
        kind="light",
        age_years=6,
        pack=LAMP,
        symptoms=["charger_refuses", "stood_unused"],
        note="Found in a drawer; last used in October.",
    )
    flat: list[Fault] = [CellFault(kind="run_flat", group=group, size=volts) for group, volts in ((1, 1.92), (2, 1.87))]
    spec = PackSpec(soc=[0.02, 0.02], faults=flat, with_board=False, seed=SEED + 62)
    tell.take_in(intake, SAFE, spec)
    tell.later(minutes=7)
    tell.rested_set("probe", hours=24 * 90)
    tell.read_all(LAMP, "groups")
    tell.go_to("judge")
