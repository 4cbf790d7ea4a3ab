"""A pack of the demo with a torn tab: a drone's pouch whose aluminium tab came off in a landing, to be replaced or left out."""

from datetime import datetime, timedelta

from saldatura.battery.measures.evidence import At, History, Seen
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.plan.types import Need, Prices
from saldatura.battery.quantities import Pack
from saldatura.demo.teller import SEED, Teller
from saldatura.job.facts import Intake, NewNeed, NewNote, Safety
from saldatura.shop.block import Method, NewBlock, Strip

SPARE = Pack(chemistry="lipo_hv", series=6, parallel=1, rated_ah=4.4, load_a=22.0)
SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


def torn(tell: Teller, now: datetime) -> None:
    """From the counter to its plan: the groups read on their tabs, the torn one seen."""
    tell.begin(now - timedelta(minutes=75))
    intake = Intake(
        customer="Vineyard survey", pack_name="Canopy survey drone, spare", serial="CD-304", pack=SPARE, kind="drone", age_years=2,
        symptoms=["was_dropped", "cuts_out"], note="Cut out in the air and came down in a row of vines.",
    )  # fmt: skip
    spec = PackSpec(soc=tell.level_socs(6, 0.52), with_board=False, seed=SEED + 71)
    tell.take_in(intake, SAFE, spec)
    tell.read_all(SPARE, "groups")
    tell.later(minutes=6)
    tell.add(
        NewNote(
            evidence=[Seen(what="torn_tab", at=At(groups=[4])), History(what="dropped")],
            text="the aluminium tab of the fourth pouch is off at the weld; its plated one holds",
        )
    )
    tell.later(minutes=5)
    tell.add(
        NewNeed(
            need=Need(load_a=22.0, peak_a=60.0, charger_adjustable=True),
            prices=Prices(cell=17.0, original=149.0),
            cell_size="pouch",
        )
    )
    tell.add(
        NewBlock(
            arrangement="stack", diameter_mm=8.5, strip=Strip(material="copper", width_mm=8.0, thickness_mm=0.2),
            method=Method(by="solder", tabs="plated", iron_w=100, big_tip=True), work="groups", work_groups=[4],
        )
    )  # fmt: skip
    tell.go_to("plan")
    tell.go(now)
