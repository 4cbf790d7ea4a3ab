"""A pack of the demo built of two strings side by side: a press gauge whose second string has a group that lags."""

from datetime import datetime, timedelta

from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.demo.teller import SEED, Teller
from saldatura.job.facts import Intake, Safety
from saldatura.shop.block import Method, NewBlock

GAUGE = Pack(chemistry="li_oxide", series=8, parallel=1, strings=2, rated_ah=2.6, load_a=1.2)
SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


def side_by_side(tell: Teller, now: datetime) -> None:
    """From the counter to its readings, each string by its own taps."""
    tell.begin(now - timedelta(minutes=95))
    intake = Intake(
        customer="Pressure test van", pack_name="Press gauge, wall unit", serial="PG-118", pack=GAUGE, kind="appliance", age_years=4,
        symptoms=["short_run", "full_at_once"], note="Two rows of four cells, each with a balance plug of its own; tied at both ends only.",
    )  # fmt: skip
    socs = tell.level_socs(8, 0.58)
    socs[5] = 0.31
    tell.take_in(intake, SAFE, PackSpec(soc=socs, with_board=False, seed=SEED + 83))
    tell.later(minutes=12)
    tell.read_all(GAUGE, "taps")
    tell.add(NewBlock(arrangement="grid", diameter_mm=18.4, method=Method(by="weld"), work="groups", work_groups=[6]))
    tell.go_to("judge")
    tell.go(now)
