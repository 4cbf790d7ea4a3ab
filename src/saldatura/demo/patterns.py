"""The patterns of the demo: eight sheets with drawn photos, three of them begun by jobs of the shop's past and worked on since."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from saldatura.battery.places import NodePlace, TapPlace
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Pack
from saldatura.demo.drawn import Look, opened, outside
from saldatura.demo.teller import Teller
from saldatura.formats.photo import read_photo
from saldatura.job.facts.pattern import TakePattern
from saldatura.records import jobs
from saldatura.shop.patterns.facts import NewPattern
from saldatura.shop.patterns.sheet import (
    BoardSeen,
    CellSeen,
    CodeSeen,
    ContactSeen,
    Cure,
    FaultTold,
    NormalSeen,
    PackLabel,
    PartSeen,
    PatternSheet,
    PhotoPoint,
    PhotoSeen,
    PinSeen,
    PlugSeen,
    QuirkSeen,
    SheetStep,
)

LICENCE = "Free to use and to hand on, with this line"
FROM = "Written at the cooperative's bench from its own packs"
WIRES = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
PRUNER_LOOK = Look("#3d5a45", 4, ("B+", "T", "D", "B-"), 5, 1)
PUMP_LOOK = Look("#2f4a5c", 6, ("plus", "minus", "sense"), 4, 1)
LIGHT_LOOK = Look("#77663b", 4, ("plus", "minus"), 3, 2)
SHEARS_LOOK = Look("#553d2f", 8, ("B+", "B-", "C+", "T1", "T2"), 12, 2)
SCRUBBER_LOOK = Look("#38444a", 5, ("plus", "minus", "T", "C"), 5, 2)
DRIVER_LOOK = Look("#5b3430", 2, ("plus", "minus", "T"), 10, 1)
DRONE_LOOK = Look("#2b2d33", 4, ("plus", "minus"), 6, 1, pouch=True)

SHEARS = Pack(chemistry="li_oxide", series=12, parallel=2, rated_ah=5.0, load_a=12.0)
SCRUBBER = Pack(chemistry="li_oxide", series=5, parallel=2, rated_ah=4.0, load_a=8.0)
DRIVER = Pack(chemistry="nimh", series=10, parallel=1, rated_ah=2.6, load_a=15.0)
DRONE = Pack(chemistry="lipo_hv", series=6, parallel=1, rated_ah=4.4, load_a=22.0)


def the_patterns(tell: Teller, learned: Mapping[str, int], now: datetime) -> None:
    """The five that were written by hand, and what was added to the three that jobs began."""
    tell.begin(now - timedelta(days=300))
    for name, look, more in (
        ("Cordless pruner", PRUNER_LOOK, _pruner()),
        ("Sampling pump", PUMP_LOOK, _pump()),
        ("Row light", LIGHT_LOOK, _light()),
    ):
        if name not in learned:
            continue
        tell.later(days=9)
        sheet = tell.bench.patterns.current(learned[name]).sheet
        fields = {
            **{field: [*getattr(sheet, field), *lines] for field, lines in more.items() if isinstance(lines, list)}
        }
        fields |= {field: value for field, value in more.items() if not isinstance(value, list)}
        worked = sheet.model_copy(
            update={**fields, "photos": [*sheet.photos, *_photos(tell, look)], "licence": LICENCE}
        )
        new = NewPattern(sheet=PatternSheet(**dict(worked)), by="Bero", why="steps and codes, while one lay open")
        tell.bench.patterns.revise(learned[name], new)
    tell.begin(now - timedelta(days=120))
    written = {}
    for sheet in (_shears(tell), *_scrubbers(tell), _driver(tell), _drone(tell)):
        tell.later(days=6)
        new = NewPattern(sheet=sheet, by="Ilka", why="written down from what we know of it")
        written[sheet.title] = tell.bench.patterns.create(new)
    tell.begin(now)
    # Packs on the bench that are of one of them.
    for row in jobs.listed(tell.bench.db.read(), None, "", 60, False):
        title = next(
            (name for name in ("Vine shears backpack", "Hand scrubber, yard") if row["pack_name"].startswith(name)),
            None,
        )
        if title is not None and row["standing"] in ("probe", "judge", "level"):
            model = "Hand scrubber, board A" if title.endswith("yard") else title
            tell.bench.record(row["id"], TakePattern(pattern=written[model]))


def _photos(tell: Teller, look: Look) -> list[PhotoSeen]:
    case, contacts = outside(look)
    block, taps = opened(look)
    found = []
    for name, png, points in (
        ("case, contacts up", case, [PhotoPoint(place=NodePlace(node=n), x=x, y=y) for n, (x, y) in contacts.items()]),
        ("opened", block, [PhotoPoint(place=TapPlace(tap=k), x=x, y=y) for k, (x, y) in taps.items()]),
    ):
        photo = read_photo(png)
        kept = tell.bench.db.photos.keep(photo.jpeg)
        found.append(PhotoSeen(photo=name, sha256=kept, width=photo.width, height=photo.height, points=points))
    return found


def _plug(name: str, series: int, **more: Any) -> PlugSeen:
    pins = [PinSeen(pin=k + 1, wire=WIRES[k % len(WIRES)], tap=k) for k in range(series + 1)]
    return PlugSeen(plug=name, pins=pins, **more)


def _fault(cause: Any, seen: int, cure: RepairName, minutes: float) -> FaultTold:
    return FaultTold(cause=cause, seen=seen, cures=[Cure(repair=cure, times=seen)], minutes=minutes)


def _pruner() -> dict[str, Any]:
    return {
        "label": PackLabel(lines="18 V lithium-ion, 45 Wh", volts=18.0, ah=2.5),
        "tags": ["hand tool", "sliding pack"],
        "outside_taps": [0, 5],
        "contacts": [
            ContactSeen(contact="B+", touches="plus"), ContactSeen(contact="B-", touches="minus"),
            ContactSeen(contact="T", touches="sensor", ohm=10_000.0), ContactSeen(contact="D", touches="data"),
        ],
        "opening": [
            SheetStep(does="Four corner screws", tool="star bit 8", photo="case, contacts up"),
            SheetStep(does="Lift the lid at the contact end", tool="flat plastic lever", caution="The lid holds two clips beside the contacts; levered from the far end they break."),
            SheetStep(does="Draw the block out by its frame", caution="The sensor is glued between cells 2 and 3 and its wires are short.", photo="opened"),
        ],
        "closing": [SheetStep(does="Sensor back between cells 2 and 3, with a dab of neutral silicone"), SheetStep(does="Screws crosswise, by hand")],
        "codes": [
            CodeSeen(shows="three short", means="cell", says="a group under its limit"),
            CodeSeen(shows="long, short, long", means="temperature", says="sensor open or too warm"),
        ],
        "plugs": [_plug("white, six pins", 5)],
        "normals": [NormalSeen(reads="sensor_ohm", value=11_100.0, low=9_500.0, high=12_800.0, at_c=22.0), NormalSeen(reads="cut_off_v", value=14.0)],
        "parts": [PartSeen(part="foam strip between cells and lid", says="3 mm, 20 by 90 mm")],
    }  # fmt: skip


def _pump() -> dict[str, Any]:
    return {
        "label": PackLabel(lines="14.4 V 3.0 Ah", volts=14.4, ah=3.0),
        "tags": ["pump", "round case"],
        "contacts": [ContactSeen(contact="plus", touches="plus"), ContactSeen(contact="minus", touches="minus"), ContactSeen(contact="sense", touches="sensor")],
        "opening": [
            SheetStep(does="Peel the label back at its seam: two of the six screws are under it", tool="cross bit 1"),
            SheetStep(does="Unscrew all six and part the halves", caution="The seal is reused; do not cut it."),
        ],
        "quirks": [QuirkSeen(says="Its board draws its own supply from groups 1 and 2, so they stand a little lower after a winter.", feeds_board=[1, 2])],
        "parts": [PartSeen(part="round seal", says="62 by 2.5 mm")],
    }  # fmt: skip


def _light() -> dict[str, Any]:
    return {
        "label": PackLabel(lines="9.6 V 6 Ah", volts=9.6, ah=6.0),
        "tags": ["light", "row post"],
        "contacts": [ContactSeen(contact="plus", touches="plus"), ContactSeen(contact="minus", touches="minus")],
        "opening": [SheetStep(does="Slide the end cap off towards the plug", caution="No lever: the cells lie directly under the cap.")],
        "codes": [CodeSeen(by="beep", shows="two beeps at switching on", means="cell", says="low")],
    }  # fmt: skip


def _shears(tell: Teller) -> PatternSheet:
    return PatternSheet(
        title="Vine shears backpack", tags=["shears", "backpack"], pack=SHEARS, kind="garden", has_board=True, has_sensor=True,
        label=PackLabel(lines="43.2 V 10 Ah", volts=43.2, ah=5.0), outside_taps=[0, 12], photos=_photos(tell, SHEARS_LOOK),
        contacts=[
            ContactSeen(contact="B+", touches="plus"), ContactSeen(contact="B-", touches="minus"), ContactSeen(contact="C+", says="charge only, behind a diode"),
            ContactSeen(contact="T1", touches="sensor", ohm=10_000.0), ContactSeen(contact="T2", touches="sensor", ohm=10_000.0),
        ],
        opening=[
            SheetStep(does="Strap plate off, eight screws", tool="star bit 20"),
            SheetStep(does="Cut the sealing bead with a warm blade along the seam", caution="No deeper than 3 mm: sense wires 6 to 9 run behind it."),
            SheetStep(does="Fold the lid to the left", photo="opened"),
        ],
        plugs=[_plug("long white, thirteen pins", 12)],
        boards=[
            BoardSeen(board="main board", revision="2", told_by="green, relay at the edge", has=["over_charge", "over_discharge", "over_current", "temperature", "balancing"], swaps_with=["3"]),
            BoardSeen(board="main board", revision="3", told_by="black, no relay", has=["over_charge", "over_discharge", "over_current", "short_circuit", "temperature", "balancing"], swaps_with=["2"]),
        ],
        codes=[CodeSeen(shows="first lamp alone, fast", means="cell", says="groups apart", revision="2"), CodeSeen(shows="all lamps, slow", means="temperature", says="a sensor")],
        normals=[NormalSeen(reads="charger_end_v", value=50.2, low=49.8, high=50.5), NormalSeen(reads="cut_off_v", value=36.0), NormalSeen(reads="idle_ma", value=1.2)],
        faults=[_fault("imbalance", 6, "level", 35.0), _fault("open_sense_wire", 2, "mend_wire", 50.0), _fault("sensor_circuit", 1, "clean_connector", 20.0)],
        cells=[CellSeen(cell="21700, 5 Ah class", size="21700")], provenance=FROM, licence=LICENCE,
    )  # fmt: skip


def _scrubbers(tell: Teller) -> list[PatternSheet]:
    photos = _photos(tell, SCRUBBER_LOOK)
    first = PatternSheet(
        title="Hand scrubber, board A", tags=["scrubber", "bottle washer"], pack=SCRUBBER, kind="appliance", has_board=True, has_sensor=True,
        label=PackLabel(lines="18 V 4.0 Ah", volts=18.0, ah=4.0), outside_taps=[0, 5], photos=photos,
        contacts=[
            ContactSeen(contact="plus", touches="plus"), ContactSeen(contact="minus", touches="minus"),
            ContactSeen(contact="T", touches="sensor", ohm=10_000.0), ContactSeen(contact="C", says="charge, 0 V until its charger wakes it"),
        ],
        opening=[
            SheetStep(does="Rubber ring off, five screws under it", tool="cross bit 2", photo="case, contacts up"),
            SheetStep(does="Draw the block out with its tray", caution="Water stands in the tray: tip it out before anything is touched.", photo="opened"),
        ],
        plugs=[_plug("six pins, keyed", 5)],
        boards=[BoardSeen(board="board A", revision="A", told_by="sense wires soldered", has=["over_charge", "over_discharge", "over_current", "temperature"])],
        codes=[CodeSeen(shows="red and green in turn", means="cell", says="a group cannot be read")],
        normals=[NormalSeen(reads="sensor_ohm", value=10_900.0, at_c=23.0), NormalSeen(reads="cut_off_v", value=13.8)],
        faults=[_fault("open_sense_wire", 5, "mend_wire", 40.0), _fault("sensor_circuit", 2, "clean_connector", 15.0)],
        parts=[PartSeen(part="rubber ring")], provenance=FROM, licence=LICENCE,
    )  # fmt: skip
    second = first.model_copy(update={
        "title": "Hand scrubber, board B",
        "boards": [BoardSeen(board="board B", revision="B", told_by="sense wires on a plug; blue lamp", has=["over_charge", "over_discharge", "over_current", "short_circuit", "temperature", "balancing"], swaps_with=["A"])],
        "codes": [CodeSeen(shows="blue, two short", means="cell", says="groups apart"), CodeSeen(shows="blue, steady", means="temperature", says="sensor")],
        "faults": [_fault("sensor_circuit", 3, "clean_connector", 15.0), _fault("imbalance", 2, "level", 30.0)],
    })  # fmt: skip
    return [first, PatternSheet(**dict(second))]


def _driver(tell: Teller) -> PatternSheet:
    return PatternSheet(
        title="Grape-press torque driver", tags=["driver", "stem pack"], pack=DRIVER, kind="power_tool", has_board=False, has_balance_wires=False, has_sensor=True,
        label=PackLabel(lines="12 V 2.6 Ah", volts=12.0, ah=2.6), outside_taps=[0, 10], photos=_photos(tell, DRIVER_LOOK),
        contacts=[ContactSeen(contact="plus", touches="plus"), ContactSeen(contact="minus", touches="minus"), ContactSeen(contact="T", touches="sensor")],
        opening=[
            SheetStep(does="Two screws in the foot", tool="star bit 10"),
            SheetStep(does="Draw the cells out downward; one sits in the stem", caution="The stem's cell stands upside down: mark its plus before it is out."),
        ],
        faults=[_fault("dead_group", 7, "donor_cells", 70.0), _fault("reversed_group", 3, "replace_groups", 60.0)],
        cells=[CellSeen(cell="sub-C, 2.6 Ah, with tags", size="sub-C")], parts=[PartSeen(part="card ring", count=10)], provenance=FROM, licence=LICENCE,
    )  # fmt: skip


def _drone(tell: Teller) -> PatternSheet:
    return PatternSheet(
        title="Canopy survey drone", tags=["drone", "pouch"], pack=DRONE, kind="drone", has_board=False, has_sensor=False,
        label=PackLabel(lines="22.8 V 4.4 Ah", volts=22.8, ah=4.4), outside_taps=list(range(7)), photos=_photos(tell, DRONE_LOOK),
        contacts=[ContactSeen(contact="plus", touches="plus"), ContactSeen(contact="minus", touches="minus")],
        opening=[SheetStep(does="Slit the sleeve along the flat side", tool="blunt scissors", caution="A pouch that is nicked burns. Blunt points, and never over a tab.", photo="opened")],
        plugs=[_plug("balance plug, seven pins", 6)],
        faults=[_fault("open_sense_wire", 4, "mend_wire", 45.0), _fault("bad_joint", 2, "mend_joint", 60.0)],
        quirks=[QuirkSeen(says="Its aluminium tabs take no solder: they are pressed or welded.")], provenance=FROM, licence=LICENCE,
    )  # fmt: skip
