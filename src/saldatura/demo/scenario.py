"""The jobs of the demo, done through the same acts as at the bench, with the clock set back to when they happened."""

from datetime import datetime, timedelta

from saldatura.battery.measures.evidence import Blink
from saldatura.battery.measures.kinds.sensor import SensorMeasure
from saldatura.battery.measures.sensor import SensorRequest
from saldatura.battery.pack import CellFault, SensorFault, WireFault
from saldatura.battery.pack.sensors import Thermistor, sensor_ohm
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.places import NodePlace, TapPlace
from saldatura.battery.quantities import Pack
from saldatura.demo import proved
from saldatura.demo.forgotten import forgotten
from saldatura.demo.opened import NOTHING_FOUND, eleven_years_old, of_the_shop, two_dead_one_bulged
from saldatura.demo.past import the_past
from saldatura.demo.patterns import the_patterns
from saldatura.demo.picture import scrubber as picture_of_scrubber
from saldatura.demo.planned import planned
from saldatura.demo.promised import promised
from saldatura.demo.shortened import shortened
from saldatura.demo.side_by_side import side_by_side
from saldatura.demo.silent_chip import silent_chip
from saldatura.demo.teller import METER, SEED, Teller
from saldatura.demo.torn import torn
from saldatura.job.facts import Intake, NewNote, Safety
from saldatura.job.facts.photo import NewPin
from saldatura.job.run import points_of
from saldatura.records import clock
from saldatura.records.database import Database
from saldatura.shop.block import Box, NewBlock, SensorSpot
from saldatura.shop.facts import ShopChannel

SHEARS = Pack(chemistry="li_oxide", series=12, parallel=2, rated_ah=5.0, load_a=12.0)
FROST_FAN = Pack(chemistry="lfp", series=4, parallel=1, rated_ah=3.2, load_a=1.5)
MUST_PUMP = Pack(chemistry="li_oxide", series=13, parallel=4, rated_ah=12.0, load_a=20.0)
DRONE = Pack(chemistry="lipo_hv", series=6, parallel=1, rated_ah=4.4, load_a=22.0)
PRINTER = Pack(chemistry="lipo", series=3, parallel=1, rated_ah=2.2, load_a=2.0)
SCRUBBER = Pack(chemistry="li_oxide", series=5, parallel=2, rated_ah=4.0, load_a=8.0)

# What the shop charges single groups with.
CHANNELS = (
    ShopChannel(name="grey supply", max_a=3.0, min_a=0.02, isolated=False, stops=False),
    ShopChannel(name="small charger", max_a=1.0, min_a=0.05),
    ShopChannel(name="travel charger", max_a=0.5, min_a=0.02),
    ShopChannel(name="10 W resistor", kind="bleed", ohm=4.7, watts=10.0),
    ShopChannel(name="twin supply, left", max_a=2.5, min_a=0.01, stops=False),
    ShopChannel(name="twin supply, right", max_a=2.5, min_a=0.01, stops=False),
)


def build(db: Database, now: datetime | None = None, past: bool = True) -> None:
    """Fill an empty data file with the demo's jobs, ending at `now`; without the `past` only with those on the bench."""
    now = now or clock.now()
    tell = Teller(db, now - timedelta(days=60))
    tell.bench.add_to_shop(METER)
    for channel in CHANNELS:
        tell.bench.add_to_shop(channel)
    proved.handed_over(tell, _shears("E", "VS-0118"), now)
    _quarantined(tell, now - timedelta(days=2, hours=5))
    _flat_all_winter(tell, now - timedelta(hours=21))
    _does_not_add_up(tell, now - timedelta(hours=3))
    _charging(tell, now - timedelta(hours=2, minutes=20), now)
    _resting(tell, now - timedelta(hours=8), now)
    _being_probed(tell, now - timedelta(minutes=26))
    _just_taken_in(tell, now - timedelta(minutes=9))
    _ready_to_probe(tell, now)
    forgotten(tell, now - timedelta(hours=4))
    _another_charger(tell, now - timedelta(hours=1, minutes=10))
    silent_chip(tell, now - timedelta(minutes=90))
    two_dead_one_bulged(tell, now - timedelta(hours=5))
    eleven_years_old(tell, now - timedelta(hours=6))
    proved.came_back(tell, _shears("E", "VS-0118"), now)
    proved.in_full(tell, _shears("A", "VS-0131"), now)
    proved.fails_its_step(tell, _scrubber_of_the_yard(), now)
    of_the_shop(tell, now - timedelta(days=5))
    planned(tell, now)
    shortened(tell, now)
    torn(tell, now)
    side_by_side(tell, now)
    if past:
        the_patterns(tell, the_past(tell, now), now)
        promised(tell, now)
    tell.begin(now)
    tell.keep()


def _shears(team: str, serial: str, note: str = "") -> Intake:
    return Intake(
        customer=f"Row team {team}",
        pack_name=f"Vine shears backpack {team}",
        serial=serial,
        pack=SHEARS,
        kind="garden",
        age_years=3,
        symptoms=["full_at_once", "dies_under_load"],
        note=note,
    )


def _scrubber_of_the_yard() -> Intake:
    return Intake(
        customer="Yard", pack_name="Hand scrubber, yard", serial="HS-0416", pack=SCRUBBER, kind="appliance", age_years=3,
        symptoms=["dies_under_load"], note="Full, and stops as soon as the brush bites.",
    )  # fmt: skip


def _drifted(tell: Teller, low: dict[int, float]) -> PackSpec:
    socs = tell.level_socs(SHEARS.series, 0.90)
    for group, soc in low.items():
        socs[group - 1] = soc
    return PackSpec(soc=socs, seed=SEED + len(tell.packs))


def _quarantined(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="Cellar, upper house",
        pack_name="Hand scrubber, cellar",
        serial="HS-0412",
        pack=SCRUBBER,
        symptoms=["dead", "was_dropped"],
        note="Fell from the pallet stacker; the case bulges at the foot.",
    )
    tell.bench.take_in(intake, Safety(swollen=True, leaking=False, hot=False, wet=False, crushed=True, smell=False))


def _flat_all_winter(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="East terrace",
        pack_name="Frost-fan remote battery",
        serial="FF-077",
        kind="garden",
        age_years=5,
        pack=FROST_FAN,
        symptoms=["charger_refuses", "stood_unused"],
        note="Left switched on in the shed since the last harvest.",
    )
    flat = CellFault(kind="run_flat", group=3, size=0.62)
    # Its board is in the fan, so its terminals are the string itself.
    spec = PackSpec(soc=tell.level_socs(4, 0.06, 0.006), faults=[flat], with_board=False, seed=SEED + 50)
    tell.take_in(intake, NOTHING_FOUND, spec)
    tell.later(minutes=10)
    tell.rested_set("probe", hours=200)
    tell.read_all(FROST_FAN, "groups")
    tell.go_to("judge")


def _does_not_add_up(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="Bottling line 2",
        pack_name="Bottle-washer hand scrubber",
        serial="HS-0409",
        pack=SCRUBBER,
        symptoms=["charger_refuses", "got_wet"],
        note="Runs as it should, but the charger blinks and will not start.",
        kind="appliance",
        age_years=3,
    )
    broken = WireFault(kind="open", tap=3, to_lower_ohm=2.2e6, to_upper_ohm=6.8e6)
    spec = PackSpec(soc=tell.level_socs(5, 0.72), faults=[broken], curve=1, seed=SEED + 51)
    job = tell.take_in(intake, NOTHING_FOUND, spec)
    _photographed(tell, job)
    tell.later(minutes=12)
    tell.rested_set("probe", hours=20)
    tell.read_all(SCRUBBER, "groups")


def _photographed(tell: Teller, job: int) -> None:
    picture, taps, nodes = picture_of_scrubber()
    photo = tell.bench.add_photo(job, picture, "Opened, board side").facts.last_id
    for tap, (x, y) in taps.items():
        tell.add(NewPin(photo=photo, place=TapPlace(tap=tap), x=x, y=y))
    for node, (x, y) in nodes.items():
        tell.add(NewPin(photo=photo, place=NodePlace(node=node), x=x, y=y))


def _charging(tell: Teller, start: datetime, now: datetime) -> None:
    tell.begin(start)
    spec = _drifted(tell, {7: 0.31, 11: 0.55})
    tell.take_in(_shears("B", "VS-0147", "Cut out twice on the first morning."), NOTHING_FOUND, spec)
    tell.later(minutes=8)
    tell.rested_set("probe", hours=11)
    for point in points_of(SHEARS, "taps"):
        slip = point.kind == "tap" and point.tap == 6
        reading = tell.read(point, slip_v=1.8 if slip else 0.0)
        if slip:
            tell.correct(point, reading)
    tell.go_to("judge")
    tell.later(minutes=5)
    tell.go_to("level")
    tell.go(now - timedelta(minutes=58))
    rest_v = tell.matched_at()
    tell.start_driven(7, "twin supply, left", rest_v)
    tell.go(now - timedelta(minutes=47))
    tell.start_driven(11, "twin supply, right", rest_v)
    tell.go(now)


def _resting(tell: Teller, start: datetime, now: datetime) -> None:
    tell.begin(start)
    spec = _drifted(tell, {2: 0.72})
    tell.take_in(_shears("D", "VS-0150"), NOTHING_FOUND, spec)
    tell.later(minutes=5)
    tell.rested_set("probe", hours=9)
    tell.read_all(SHEARS, "taps")
    tell.go_to("judge")
    tell.go_to("level")
    tell.charge(2, 2.5)
    tell.go_to("prove")
    tell.go(now - timedelta(minutes=6))
    tell.rested_set("prove", hours=0, last_a=2.5)
    tell.go(now)


def _being_probed(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    spec = _drifted(tell, {7: 0.26, 11: 0.5})
    tell.take_in(_shears("C", "VS-0149", "Third season; never levelled."), NOTHING_FOUND, spec)
    tell.later(minutes=12)
    tell.rested_set("probe", hours=16)
    for point in points_of(SHEARS, "taps")[:8]:
        slip = point.kind == "tap" and point.tap == 5
        reading = tell.read(point, slip_v=0.9 if slip else 0.0)
        if slip:
            tell.correct(point, reading)


def _just_taken_in(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="West terrace",
        pack_name="Frost-fan remote battery, west",
        serial="FF-081",
        kind="garden",
        age_years=5,
        pack=FROST_FAN,
        symptoms=["short_run"],
        note="",
    )
    tell.take_in(intake, None, PackSpec(soc=tell.level_socs(4, 0.62, 0.01), with_board=False, seed=SEED + 52))


def _ready_to_probe(tell: Teller, now: datetime) -> None:
    tell.begin(now - timedelta(minutes=50))
    pump = Intake(
        customer="Press house",
        pack_name="Must pump",
        serial="MP-0021",
        pack=MUST_PUMP,
        symptoms=["cuts_out"],
        note="Stops at random, most of all when the pump shakes; runs again at once.",
        kind="appliance",
        age_years=4,
    )
    dirty = SensorFault(kind="dirty", sensor=1, ohm=1800.0)
    tell.take_in(pump, NOTHING_FOUND, PackSpec(soc=tell.level_socs(13, 0.78), faults=[dirty], seed=SEED + 60))
    tell.later(minutes=3)
    tell.add(NewNote(evidence=[Blink(means="temperature")], text="four red, fast; only now and then"))
    tell.later(minutes=9)
    tell.rested_set("probe", hours=18)
    tell.read_all(MUST_PUMP, "taps")
    tell.later(minutes=2)
    # The dirt adds little while it lies still, so the sensor reads nearly right.
    ohm = sensor_ohm(Thermistor(), 1, 22.0, (dirty,), moved=False, rng=tell.rng)
    tell.add(SensorMeasure(sensor=SensorRequest(ohm=round(ohm, -1), ambient_c=22.0)))
    # Its cells stand on a board: how high the joints are over it decides whether the case closes.
    tell.add(
        NewBlock(
            columns=13, board=Box(length_mm=264, width_mm=82, height_mm=6), joint_mm=1.8, case=Box(length_mm=290, width_mm=92, height_mm=82),
            sensors=[SensorSpot(sensor="thermistor", between=["c1", "c2"])],
        )
    )  # fmt: skip
    tell.go_to("judge")
    tell.go(now)
    tell.begin(now - timedelta(minutes=40))
    drone = Intake(
        customer="Vineyard survey",
        pack_name="Canopy survey drone",
        serial="CD-303",
        kind="drone",
        age_years=2,
        pack=DRONE,
        symptoms=["charger_refuses", "was_dropped"],
        note="Balance lead torn off in a landing; the plug lies in the box.",
    )
    leads = {"grey": 0, "brown": 1, "red": 2, "white": 3, "black": 4, "blue": 5, "yellow": 6}
    spec = PackSpec(soc=tell.level_socs(6, 0.55), with_board=False, seed=SEED + 61, loose=leads)
    tell.take_in(drone, NOTHING_FOUND, spec)
    tell.go(now)


def _another_charger(tell: Teller, start: datetime) -> None:
    tell.begin(start)
    intake = Intake(
        customer="Dispatch",
        pack_name="Label printer",
        serial="LP-006",
        kind="appliance",
        age_years=2,
        pack=PRINTER,
        symptoms=["cuts_out"],
        note="Was charged on the drone's charger for a week, because its own was lost.",
    )
    spec = PackSpec(soc=[0.93, 1.09, 0.935], with_board=False, seed=SEED + 63)
    tell.take_in(intake, NOTHING_FOUND, spec)
    tell.later(minutes=9)
    tell.rested_set("probe", hours=3)
    tell.read_all(PRINTER, "groups")
    tell.go_to("judge")
