"""What a job's pattern tells that replaces what packs usually have; nothing once the pack is of another build than the pattern."""

import math
from collections.abc import Mapping

from pydantic import ValidationError

from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.join.wiring import Connector, PinWire
from saldatura.battery.judge.grid import usual_leak_ma
from saldatura.battery.limits.plausible import RESISTANCE_APART
from saldatura.battery.measures.evidence import BoardFeeds
from saldatura.battery.measures.sensor import USUAL_B_K
from saldatura.battery.pack.sensors import REFERENCE_K, Thermistor
from saldatura.battery.plan.own_record import ShopMinutes
from saldatura.battery.plan.types import RepairName
from saldatura.job.facts import JobFacts
from saldatura.shop.block import NewBlock
from saldatura.shop.patterns.experience import Experience, minutes_of
from saldatura.shop.patterns.sheet import PatternSheet

# Where a thermistor's normal reading has no temperature, a room's, °C.
ROOM_C = 22.0
LEAK_APART = 3.0
# Chargers of one kind end within this share of one another.
END_WITHIN = 0.01


def sheet_of(facts: JobFacts) -> PatternSheet | None:
    """The sheet that the job took over, for as long as the pack is as it was built; None otherwise."""
    taken = facts.pattern
    if taken is None or facts.structure.shifts:
        return None
    sheet_pack, pack = taken.sheet.pack, facts.intake.pack
    return taken.sheet if (sheet_pack.series, sheet_pack.strings) == (pack.series, pack.strings) else None


def _normal(facts: JobFacts, reads: str) -> float | None:
    sheet = sheet_of(facts)
    found = [one.value for one in sheet.normals if one.reads == reads and one.value > 0] if sheet is not None else []
    return found[0] if found else None


def healthy_ohm(facts: JobFacts) -> float | None:
    """10 s resistance of a healthy group, ohm; a figure that no such pack can have is taken for a slip and not used."""
    ohm, pack = _normal(facts, "group_ohm"), facts.intake.pack
    usual = usual_resistance_ohm(pack.chemistry, pack.rated_ah)
    return ohm if ohm is not None and usual / RESISTANCE_APART < ohm < usual * RESISTANCE_APART else None


def quiet_ma(facts: JobFacts) -> float | None:
    """What a healthy group may leak, mA; within a third and three times of what is usual, so that no slip hides a leak."""
    sheet = sheet_of(facts)
    normals = [one for one in sheet.normals if one.reads == "leak_ma" and one.value > 0] if sheet is not None else []
    if not normals:
        return None
    usual = usual_leak_ma(facts.intake.pack.rated_ah)
    return min(max(normals[0].high or 2 * normals[0].value, usual / LEAK_APART), usual * LEAK_APART)


def cut_off_v(facts: JobFacts) -> float | None:
    """Volts of the pack at which its device cuts off, where that lies below where its groups stand for most of a run."""
    volts, pack = _normal(facts, "cut_off_v"), facts.intake.pack
    return volts if volts is not None and volts < WINDOWS[pack.chemistry].nominal_v * pack.in_string else None


def charger_end_v(facts: JobFacts) -> tuple[float, float, float] | None:
    """Volts of the pack at which its own charger ends, and between which healthy ones do; None where no such pack can stand so."""
    sheet, pack = sheet_of(facts), facts.intake.pack
    normals = [one for one in sheet.normals if one.reads == "charger_end_v"] if sheet is not None else []
    window = WINDOWS[pack.chemistry]
    if (
        not normals
        or not window.nominal_v * pack.in_string < normals[0].value <= window.highest_charge_v * pack.in_string
    ):
        return None
    value = normals[0].value
    return value, normals[0].low or value * (1 - END_WITHIN), normals[0].high or value * (1 + END_WITHIN)


def thermistor_of(facts: JobFacts) -> Thermistor | None:
    """The pack's thermistor by what a healthy one reads: from two temperatures its B value too."""
    sheet = sheet_of(facts)
    normals = [n for n in sheet.normals if n.reads == "sensor_ohm" and n.value >= 1] if sheet is not None else []
    if not normals:
        return None
    points = sorted({(ROOM_C if n.at_c is None else n.at_c, n.value) for n in normals})
    (cold, most), (warm, least) = points[0], points[-1]
    b_k = USUAL_B_K
    if warm - cold >= 5 and most > least:
        b_k = math.log(most / least) / (1 / (cold + 273.15) - 1 / (warm + 273.15))
    r25 = points[0][1] / math.exp(b_k * (1 / (cold + 273.15) - 1 / REFERENCE_K))
    try:
        return Thermistor(r25_ohm=r25, b_k=b_k)
    except ValidationError:
        # No thermistor is made so: a slip on the sheet.
        return None


def feeds_of(facts: JobFacts) -> BoardFeeds | None:
    """Groups that feed the board, where the pattern knows; what was found on this pack itself goes before it."""
    sheet = sheet_of(facts)
    feeds = [q.feeds_board for q in sheet.quirks if q.feeds_board] if sheet is not None else []
    found_here = any(isinstance(e, BoardFeeds) for note in facts.notes for e in note.evidence)
    return BoardFeeds(groups=sorted(set(feeds[0]))) if feeds and not found_here else None


def block_of(facts: JobFacts) -> NewBlock | None:
    """How the block is built, as the pattern has it."""
    sheet = sheet_of(facts)
    return sheet.built.block if sheet is not None and sheet.built is not None else None


def connectors_of_model(facts: JobFacts) -> list[Connector]:
    """Its connectors pin by pin, as the pattern has them."""
    sheet = sheet_of(facts)
    return [
        Connector(
            name=plug.plug[:40],
            pins=[
                PinWire(pin=p.pin, wire=p.wire[:30], tap=p.tap, sensor=None if p.tap is not None else p.sensor or None)
                for p in {pin.pin: pin for pin in plug.pins}.values()
            ],
        )
        for plug in (sheet.plugs if sheet is not None else [])
        if plug.pins and plug.carries in ("balance", "sensor")
    ][:4]


def cell_size_of(facts: JobFacts) -> str:
    """Size of the cells that were found in such packs; empty where nobody told."""
    sheet = sheet_of(facts)
    return next((cell.size[:30] for cell in sheet.cells if cell.size), "") if sheet is not None else ""


def minutes_of_model(sheet: PatternSheet, lines: list[Experience]) -> Mapping[RepairName, ShopMinutes]:
    """What each repair took on packs of the model."""
    return {
        repair: ShopMinutes(jobs=jobs, mean_min=min(mean, 10_000))
        for repair, (jobs, mean) in minutes_of(sheet.faults, lines).items()
    }
