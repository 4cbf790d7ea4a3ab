"""The `registers` computation: what a pack's own chip says, and what of it contradicts itself, a meter, the label, or the pack's age."""

from collections.abc import Iterator

from saldatura.battery.cell.soc import soc_from_rest
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits import smart as limits
from saldatura.battery.reconcile import Reconciled, ReconcileRequest, reconcile
from saldatura.battery.smart import words as said
from saldatura.battery.smart.decode import Decoded
from saldatura.battery.smart.table import CELLS
from saldatura.battery.smart.types import Contradiction, RegistersRequest, RegistersSay

# How far the chip's own measure of a cell at rest may be from the truth, V.
CHIP_SIGMA_V = 0.015
# A request that runs as it is.
EXAMPLE = {
    "words": {"0x09": 11_843, "0x0a": 65_036, "0x0d": 95, "0x0f": 300, "0x10": 3600, "0x1a": 0x31},
    "blocks": {"0x22": "4c494f4e"},
}


def registers(request: RegistersRequest) -> RegistersSay:
    """What the words of a smart pack say. Never fails on words that mean nothing: they are listed."""
    decoded = Decoded(request)
    say = RegistersSay(**decoded.fields, raw=decoded.raw, unreadable=decoded.unreadable)
    found = [
        *decoded.contradictions,
        *_among_themselves(say, request),
        *_against_charge(say, request),
        *_against_meter(say, request),
        *_against_label_and_age(say, request),
        *_against_what_it_does(say, request),
    ]
    return say.model_copy(update={"contradictions": found})


def _among_themselves(say: RegistersSay, request: RegistersRequest) -> Iterator[Contradiction]:
    cells = [v for v in say.cells_v if v is not None]
    missing = _missing_cells(say, request)
    if cells and missing is not None and say.voltage_v is not None:
        off, within = sum(cells) - say.voltage_v, max(limits.CELLS_SUM_V, limits.CELLS_SUM_SHARE * say.voltage_v)
        # What the cells that were not read may hold explains what the others lack.
        if off > within or off < -within - missing * limits.MOST_GROUP_V:
            yield Contradiction(kind="cells_do_not_add_up", because=said.cells_add_up_to(off))
    unit = "Ah" if say.full_ah is not None or say.remaining_ah is not None else "Wh"
    remaining = say.remaining_ah if unit == "Ah" else say.remaining_wh
    full = say.full_ah if unit == "Ah" else say.full_wh
    design = say.design_ah if unit == "Ah" else say.design_wh
    doubt = limits.SOC_SHARE + (min(say.max_error or 0.0, limits.SOC_SHARE))
    if remaining is not None and full is not None:
        if full > 0 and say.relative_soc is not None and abs(say.relative_soc - remaining / full) > doubt:
            because = said.says_full_and(say.relative_soc, remaining, full, unit)
            yield Contradiction(kind="charge_against_capacities", because=because)
        if remaining > limits.REMAINING_OVER_FULL * full:
            yield Contradiction(kind="remaining_over_full", because=said.more_left_than_fits(remaining, full, unit))
    absolute = say.absolute_soc if remaining is not None and design else None
    if absolute is not None and abs(absolute - remaining / design) > doubt:  # type: ignore[operator]
        because = said.says_absolute_and(absolute, remaining, design, unit)  # type: ignore[arg-type]
        yield Contradiction(kind="absolute_against_design", because=because)
    if full is not None and design and full > limits.FULL_OVER_DESIGN * design:
        yield Contradiction(kind="full_far_over_design", because=said.full_far_over(full, design, unit))
    yield from _flags(say)


def _flags(say: RegistersSay) -> Iterator[Contradiction]:
    if say.relative_soc is not None:
        if "fully_charged" in say.status and say.relative_soc < limits.FULL_SHARE:
            yield Contradiction(kind="flags_against_charge", because=said.flagged_full_at(say.relative_soc))
        if "fully_discharged" in say.status and say.relative_soc > limits.EMPTY_SHARE:
            yield Contradiction(kind="flags_against_charge", because=said.flagged_empty_at(say.relative_soc))
        if "terminate_discharge" in say.alarms and say.relative_soc > limits.STOPPED_SHARE:
            yield Contradiction(kind="stopped_though_charged", because=said.stopped_though_charged(say.relative_soc))
    if say.current_a is not None and say.error is not None:
        if "discharging" in say.status and say.current_a > limits.FLOWS_A:
            yield Contradiction(kind="flags_against_current", because=said.flagged_discharging_with(say.current_a))
        if "discharging" not in say.status and say.current_a < -limits.FLOWS_A:
            yield Contradiction(kind="flags_against_current", because=said.not_flagged_discharging(say.current_a))


def _missing_cells(say: RegistersSay, request: RegistersRequest) -> int | None:
    """How many cells there may be that the chip did not tell; None where it tells four of a pack that has more."""
    read = sum(v is not None for v in say.cells_v)
    if request.series is not None:
        return max(request.series - read, 0) if request.series <= len(CELLS) else None
    if max(say.design_v or 0.0, say.voltage_v or 0.0) > len(CELLS) * limits.MOST_GROUP_V:
        return None
    absent = sum(request.words.get(f"0x{number:02x}") == 0 for number in CELLS)
    return max(len(CELLS) - read - absent, 0)


def _against_charge(say: RegistersSay, request: RegistersRequest) -> Iterator[Contradiction]:
    """The count against the volts, where the chemistry tells and no current flows."""
    cells = [v for v in say.cells_v if v is not None]
    chemistry = request.chemistry
    if chemistry is None or WINDOWS[chemistry].family != "lithium" or say.relative_soc is None or not cells:
        return
    if say.current_a is None or abs(say.current_a) > limits.FLOWS_A:
        return
    # The lowest group is empty first and the highest full first: what the pack can give lies between them.
    low = soc_from_rest(chemistry, min(cells), CHIP_SIGMA_V).soc_low - limits.OCV_SHARE
    high = soc_from_rest(chemistry, max(cells), CHIP_SIGMA_V).soc_high + limits.OCV_SHARE
    if not low <= say.relative_soc <= high:
        shown = max(low + limits.OCV_SHARE, 0.0), min(high - limits.OCV_SHARE, 1.0)
        because = said.charge_against_volts(say.relative_soc, *shown)
        yield Contradiction(kind="charge_against_volts", because=because)


def _against_meter(say: RegistersSay, request: RegistersRequest) -> Iterator[Contradiction]:
    read = _read(request)
    if read is None:
        return
    groups = {g.group: g for g in read.groups if g.determined and g.volts is not None}
    if say.voltage_v is not None and len(groups) == len(read.groups):
        total = sum(g.volts or 0.0 for g in groups.values())
        if abs(total - say.voltage_v) > max(limits.METER_SHARE * total, limits.METER_V):
            yield Contradiction(kind="voltage_against_meter", because=said.voltage_against_meter(say.voltage_v, total))
    for group, chip_v in enumerate(say.cells_v, start=1):
        here = groups.get(group)
        if chip_v is None or here is None or here.volts is None:
            continue
        if abs(here.volts - chip_v) > limits.METER_V + 2 * (here.sigma_v or 0.0):
            because = said.cell_against_meter(group, chip_v, here.volts)
            yield Contradiction(kind="cell_against_meter", because=because, group=group)


def _read(request: RegistersRequest) -> Reconciled | None:
    if not request.readings or request.series is None:
        return None
    return reconcile(
        ReconcileRequest(
            chemistry=request.chemistry or "li_oxide", series=request.series, meter=request.meter, readings=request.readings
        )
    )  # fmt: skip


def _against_label_and_age(say: RegistersSay, request: RegistersRequest) -> Iterator[Contradiction]:
    design = say.design_ah
    if design is None and say.design_wh is not None and say.design_v:
        design = say.design_wh / say.design_v
    if design and request.labelled_ah and abs(design / request.labelled_ah - 1) > limits.LABEL_SHARE:
        yield Contradiction(kind="design_against_label", because=said.design_against_label(design, request.labelled_ah))
    made = say.manufactured
    if made is not None and request.today is not None:
        years = (request.today - made).days / 365.25
        if years < -1 / 12:
            yield Contradiction(kind="date_against_age", because=said.date_to_come(made.year))
        elif request.age_years is not None and abs(years - request.age_years) > limits.DATE_YEARS:
            because = said.date_against_age(made.year, request.age_years)
            yield Contradiction(kind="date_against_age", because=because)
    age = request.age_years
    if say.cycles is not None and age is not None and say.cycles < limits.FEW_CYCLES and age >= limits.OLD_YEARS:
        yield Contradiction(kind="few_cycles_for_age", because=said.few_cycles_for_age(say.cycles, age))


def _against_what_it_does(say: RegistersSay, request: RegistersRequest) -> Iterator[Contradiction]:
    if request.answers_unpowered is False:
        yield Contradiction(kind="answers_only_fed", because=said.ANSWERS_ONLY_FED)
    stopped = {"terminate_discharge", "over_temperature"} & set(say.alarms)
    healthy = say.error == "ok" and not stopped and "fully_discharged" not in say.status
    if request.gives_current is False and healthy:
        yield Contradiction(kind="healthy_but_no_current", because=said.HEALTHY_BUT_NO_CURRENT)
