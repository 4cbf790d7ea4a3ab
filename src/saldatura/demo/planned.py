"""The demo's plans and blocks: the drawer, the shop's prices, what three packs cost and want, and three blocks at different steps."""

from datetime import datetime, timedelta

from saldatura.battery.join.map_types import PlacedCell
from saldatura.battery.join.parts import PackPart
from saldatura.battery.join.weld_types import Outcome
from saldatura.battery.plan.types import Need, Prices
from saldatura.demo.drawer import fill
from saldatura.demo.teller import Teller
from saldatura.job.assessment.block import block_of
from saldatura.job.facts import NewAccepted, NewNeed
from saldatura.job.facts.block import NewPolarity, NewTick
from saldatura.records.bench import Bench
from saldatura.shop.block import Box, Method, NewBlock, SensorSpot, Strip
from saldatura.shop.card import ShopCard
from saldatura.shop.coupons import NewCoupon, Recipe
from saldatura.shop.prices import ShopPrices


def planned(tell: Teller, now: datetime) -> None:
    """The drawer, the shop's prices, what three packs cost and want, and donor cells put by for one of them."""
    clock_at = [now]
    bench = Bench(tell.bench.db, now=lambda: clock_at[0])
    fill(bench, clock_at, now)
    clock_at[0] = now - timedelta(days=5)
    bench.add_to_shop(
        ShopCard(name="Growers' repair bench", address="Upper press house, Terrace lane 4", contact="bench@growers.example",
                 terms="What is answered for is mended or replaced here at no charge. Not after a fall, water, or another charger.")
    )  # fmt: skip
    bench.add_to_shop(ShopPrices(labour_h=36.0, small_parts=2.5))
    by_name = {bench.facts(job).intake.pack_name: job for job in tell.packs}
    clock_at[0] = now - timedelta(minutes=55)
    readings = {
        "Frost-fan remote battery": NewNeed(need=Need(load_a=1.5), prices=Prices(cell=5.5, original=78.0), cell_size="26650"),
        "Grape-press torque driver": NewNeed(
            need=Need(load_a=9.0, peak_a=20.0), prices=Prices.model_validate({"cell": 3.6, "original": 96.0, "copy": 41.0}),
            copy_lacks=["temperature_sensor"], cell_size="sub-C",
        ),
        "Fermentation-room light": NewNeed(
            need=Need(load_a=2.5, wanted_ah=5.0), prices=Prices.model_validate({"cell": 4.2, "original": 168.0, "copy": 74.0, "board": 19.0}),
            copy_lacks=["fuse"], cell_size="18650",
        ),
    }  # fmt: skip
    for name, said in readings.items():
        bench.record(by_name[name], said)
    driver = by_name["Grape-press torque driver"]
    bench.record(driver, NewAccepted(repair="donor_cells", groups=[3, 8], price=44.0, by="Ilka"))
    bench.cells.set_aside(bench.facts(driver), {3: ["M-04"], 8: ["M-11"]}, "Ilka")
    _joining(tell, bench, clock_at, now, driver, by_name["Vine shears backpack B"], by_name["Frost-fan remote battery"])


THIN, THICK, TUBE = (
    Recipe(welder="pedal welder", strip="nickel 8 × 0.15, 1 layer", on="18650"),
    Recipe(welder="pedal welder", strip="nickel 8 × 0.2, 1 layer", on="sub-C"),
    Recipe(welder="pedal welder", strip="nickel 8 × 0.15, 1 layer", on="26650"),
)
COUPONS: dict[Recipe, tuple[tuple[float, Outcome, float | None], ...]] = {
    TUBE: ((15.0, "good", 28.0), (10.0, "weak", 12.0), (19.0, "good", 31.0)),
    THICK: ((14.0, "weak", 15.0), (22.0, "good", 34.0), (34.0, "burnt", None), (20.0, "good", 33.0), (26.0, "good", 36.0)),
    THIN: (
        (9.0, "weak", 11.0), (17.0, "good", 31.0), (30.0, "burnt", None), (13.0, "good", 29.0), (22.0, "good", 33.0),
        (26.0, "burnt", None), (11.0, "weak", 16.0), (16.0, "good", 30.0),
    ),
}  # fmt: skip


DRIVER_PARTS = [
    PackPart(part="shrink", where="around the block", use="new", price=1.2), PackPart(part="top_piece", where="on the stem"),
    PackPart(part="springs", where="in the top piece"), PackPart(part="riser", where="under the block"), PackPart(part="glue", use="new", price=0.6),
]  # fmt: skip


def _joining(
    tell: Teller, bench: Bench, clock_at: list[datetime], now: datetime, driver: int, shears: int, fan: int
) -> None:
    """Three blocks at different steps: a rebuild with a cell in the stem half read, a group of two among twelve that still charges,
    a single group put in and left to cure.
    """
    for recipe, coupons in COUPONS.items():
        for setting, outcome, pull in coupons:
            bench.add_to_shop(
                NewCoupon(recipe=recipe, setting=setting, lowest=2.0, highest=40.0, outcome=outcome, pull_n=pull)
            )
    pitch, top = 23.4, ("positive", "negative")
    order = [(0, 0), (1, 0), (2, 0), (2, 1), (1, 1), (0, 1), (0, 2), (1, 2), (2, 2)]
    cells = [
        PlacedCell(cell=f"d{k}", group=k, x_mm=round(x * pitch, 2), y_mm=round(y * pitch, 2), top=top[(k + 1) % 2])
        for k, (x, y) in enumerate(order, start=1)
    ]
    # The tenth stands in the stem of the handle, on the ninth: its minus on the other's plus.
    cells.append(
        PlacedCell(cell="d10", group=10, x_mm=round(2 * pitch, 2), y_mm=round(2 * pitch, 2), top="positive", layer=2)
    )
    bench.record(
        driver,
        NewBlock(
            cells=cells, diameter_mm=22.5, pitch_mm=pitch, strip=Strip(width_mm=8.0, thickness_mm=0.2), work="rebuild", method=Method(recipe=THICK),
            sensors=[SensorSpot(sensor="thermistor", between=["d5", "d8"])], parts=DRIVER_PARTS, case=Box(length_mm=112, width_mm=76, height_mm=96),
        ),
    )  # fmt: skip
    _worked(bench, driver, 11)
    for cell in cells[:6]:
        bench.record(driver, NewPolarity(cell=cell.cell, volts=1.31 if cell.top == "positive" else -1.31))
    wide = Strip(width_mm=10.0, thickness_mm=0.2, layers=2)
    bench.record(shears, NewBlock(columns=12, strip=wide, work="groups", work_groups=[7], method=Method(recipe=THIN)))
    clock_at[0] = now - timedelta(minutes=9)
    bench.record(
        fan,
        NewBlock(
            arrangement="line", diameter_mm=26.5, strip=Strip(width_mm=8.0, thickness_mm=0.15), work="groups", work_groups=[3], method=Method(recipe=TUBE),
        ),
    )  # fmt: skip
    [new] = [c for c in block_of(bench.facts(fan), bench.policy()).map.cells if c.group == 3]
    # The new cell is in its place before it is read there.
    _worked(bench, fan, 0, to=f"cell_in:{new.cell}")
    tell.renew(fan, clock_at[0], {3: 0.5})
    bench.record(fan, NewPolarity(cell=new.cell, volts=3.29 if new.top == "positive" else -3.29))
    # Everything but the lead and the plug: what fixes the new cell cures.
    _worked(bench, fan, 0, to="fix")


def _worked(bench: Bench, job: int, steps: int, to: str | None = None) -> None:
    """So many steps of the job's first list done, or up to one and with it, each with the reading that it asks for."""
    while True:
        work = block_of(bench.facts(job), bench.policy()).lists[0]
        step = next(s for s in work.steps if not s.done)
        volts = None if step.asks is None else round(step.asks.expected_v, 2)
        bench.record(job, NewTick(list=work.name, step=step.key, volts=volts, by="Ilka", early=True))
        steps -= 1
        if steps == 0 or step.key == to:
            return
