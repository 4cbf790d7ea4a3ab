"""The repairs that keep the cells, or leave the pack altogether; those that change cells are in cells.py."""

from collections.abc import Iterator, Sequence

from saldatura.battery.charge.forecast import charge_all
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.running import USEFUL
from saldatura.battery.plan import tables
from saldatura.battery.plan.ageing import Aged
from saldatura.battery.plan.case import OF_BOARD, Known, PlanCase
from saldatura.battery.plan.draft import Draft, Part, aged_as_is, as_is, delivery, small_parts
from saldatura.battery.plan.strings import Group
from saldatura.battery.plan.words import options as words
from saldatura.battery.plan.words.options import LACKS_WORDS
from saldatura.battery.quantities import groups_words

# Less belief than this in what a repair mends, and it is not offered.
SPEAKS = 0.03
HOURS_A_YEAR = 8766.0


def kept(case: PlanCase) -> Iterator[Draft]:
    """Every repair that keeps the cells as they are."""
    c = case.chance_of
    yield _keeping(
        case, Draft("clean_connector", words.CLEAN_SENSOR_PLUG, [("open", 1), ("clean", 1), ("close", 1)]),
        c("sensor_circuit"), words.TEMPERATURE_SENSORS_CIRCUIT, words.CHEAPEST_TO_TRY,
    )  # fmt: skip
    yield _keeping(
        case, Draft("mend_wire", "Mend the wire", [("open", 1), ("wire", 1), ("close", 1), ("prove", 0.5)], small_parts(case)),
        c("open_sense_wire", "swapped_sense_wires", "shorted_sense_wires", "main_lead")
        + sum(x.probability for x in case.request.causes if x.cause == "sensor_circuit" and x.at.mode != "intermittent"),
        "a wire", words.ONE_WIRE_AT_TIME,
    )  # fmt: skip
    yield _keeping(
        case, Draft("mend_joint", "Mend the joint", [("open", 1), ("joint", 1), ("close", 1), ("prove", 0.5)], small_parts(case)),
        c("bad_joint", "main_lead"), words.JOINT_OR_LEAD, words.HEAT_NEAR_CELL_WELD,
    )  # fmt: skip
    yield _level(case)
    yield from _board(case)


def _keeping(case: PlanCase, draft: Draft, belief: float, what: str, risk: str) -> Draft:
    """A repair that leaves the string as it is."""
    draft.groups, draft.aged, draft.risk = as_is(case), aged_as_is(case), risk
    draft.chance = case.chance(draft.repair)
    if belief < SPEAKS:
        draft.ruled_out = words.next_to_nothing_speaks(what, belief)
    elif case.lost:
        draft.ruled_out = case.lost
    else:
        draft.because.append(words.belief_is(belief, what))
    return draft


def _level(case: PlanCase) -> Draft:
    low = [g for g in case.groups if _lags(case, g.soc)]
    belief = case.chance_of("imbalance", "run_flat", "leaking_group")
    draft = Draft("level", "Level the groups", [("open", 1), ("level", max(len(low), 1)), ("close", 1), ("prove", 1)])
    draft.at = tuple(g.number for g in low)
    draft.groups, draft.aged, draft.chance = as_is(case, level=True), aged_as_is(case), case.chance("level")
    draft.risk = words.CHARGING_SINGLE_GROUPS
    draft.wait_h = tables.market("rest_h") + _charge_hours(case, low)
    if case.lost or case.unfit:
        draft.ruled_out = case.lost or case.unfit
    elif belief < SPEAKS and not low:
        draft.ruled_out = words.GROUPS_HANG_TOGETHER_THERE
    now, levelled = case.given(as_is(case)).usable_ah, case.given(draft.groups).usable_ah
    draft.because.append(words.brings_charge_of_run(now, levelled, case.load_a))
    if (again := _drifts_again(case)) is not None:
        years = draft.lasts(case)
        draft.years = (min(again[0], years[0]), min(again[1], years[1]))
        draft.because.append(again[2])
    return draft


def _lags(case: PlanCase, soc: float) -> bool:
    return max(g.soc for g in case.groups) - soc > case.policy.proof_soc


def _charge_hours(case: PlanCase, low: Sequence[Known]) -> float:
    """Hours at the charger, one group after another, by the forecast of the charge itself."""
    if not low:
        return 0.0
    if not case.lithium:
        return 16.0
    requests = [
        ChargeRequest(
            chemistry=case.pack.chemistry, capacity_ah=max(g.capacity_ah, 0.001), resistance_ohm=g.resistance_ohm, start_soc=max(g.soc, 0.0),
            current_a=max(case.policy.charge_c * g.capacity_ah, 0.01),
        )
        for g in low
    ]  # fmt: skip
    return sum(f.duration_s for f in charge_all(requests, case.policy)) / 3600


def _drifts_again(case: PlanCase) -> tuple[float, float, str] | None:
    """Years until drift matters again, at worst and at best, and why; None where the board levels or nothing tells."""
    if case.request.pack.board_levels:
        return None
    least = min(g.capacity_ah for g in case.groups)
    behind = max(g.soc for g in case.groups) - min(g.soc for g in case.groups)
    # Worth the charger again: half as far apart as it came, and not before it matters.
    again = max(case.policy.matters_fraction, behind / 2) * least
    leaks = [g.leak_ma for g in case.request.groups if g.leak_ma is not None]
    if len(leaks) > 1 and max(leaks) - min(leaks) > 1e-4:
        years = again / ((max(leaks) - min(leaks)) / 1000 * HOURS_A_YEAR)
        return years, 1.5 * years, words.leak_measured_it_wants(_span(years))
    if behind > case.policy.proof_soc and case.age_told and case.age > 0:
        years = case.age * again / (behind * least)
        return (
            years,
            2 * years,
            words.took_to_drift(case.age, _span(years)),
        )
    return None


def _span(years: float) -> str:
    return f"{years:.1f} years" if years >= 1 else f"{max(years * 12, 0.1):.2g} months"


def _board(case: PlanCase) -> Iterator[Draft]:
    belief = case.chance_of(*OF_BOARD, "gauge_lost")
    price = case.request.prices.board
    board = _keeping(
        case, Draft("replace_board", words.ANOTHER_BOARD_OF_SAME, [("open", 1), ("board", 1), ("close", 1), ("prove", 1)], [Part("board", price, 1, "board"), *small_parts(case)]),
        belief, "the board", words.SENSE_WIRES_GO,
    )  # fmt: skip
    board.wait_h = delivery(here=False)
    board.needs = [words.BOARD_OF_SAME_REVISION]
    if case.request.copy_lacks:
        board.because.append(words.copied_board_loses_protection(lacking(case)))
    yield board
    part = _keeping(
        case, Draft("repair_board", "Mend the board", [("open", 1), ("part", 1), ("close", 1), ("prove", 1)], [Part("part", case.request.prices.part or 0.0, 1, "board_part"), *small_parts(case)]),
        case.chance_of("board_switch", "board_fuse", "board_supply", "board_failed"), words.PART_OF_BOARD,
        words.BOARD_MENDED_BY_HAND,
    )  # fmt: skip
    part.needs = [words.PART_OF_SAME_RATING]
    yield part


def lacking(case: PlanCase) -> str:
    return "; ".join(LACKS_WORDS[what] for what in case.request.copy_lacks)


def bought(case: PlanCase) -> Iterator[Draft]:
    """Packs that are bought, and the end of this one."""
    pack, prices = case.pack, case.request.prices
    original = Draft(
        "original", "A new original", [("order", 1), ("dispose", 1)], [Part("original", prices.original, 1, "original")]
    )
    ah, ohm = pack.rated_ah * tables.market("original_share"), case.new_ohm(pack.rated_ah)
    original.groups, original.aged = [Group(ah, ohm)] * pack.series, [Aged(ah, pack.rated_ah, 0.0)] * pack.series
    original.chance, original.wait_h = case.chance("original"), delivery(here=False)
    original.risk = words.STOCK_THAT_STOOD_LONG
    if prices.original is None:
        original.ruled_out = words.NO_PRICE_OF_NEW
    yield original
    copy = Draft(
        "copy", words.COPY_OF_ANOTHER_MAKE, [("order", 1), ("dispose", 1)], [Part("copy", prices.copy_, 1, "copy")]
    )
    share = (tables.market("copy_share_low") + tables.market("copy_share_high")) / 2
    ah = pack.rated_ah * share
    copy.groups = [Group(ah, ohm * pack.rated_ah / ah * tables.market("copy_ohm"))] * pack.series
    copy.aged = [Aged(ah, pack.rated_ah, 0.0)] * pack.series
    copy.years = (tables.market("copy_years_low"), tables.market("copy_years_high"))
    copy.chance, copy.wait_h = case.chance("copy"), delivery(here=False)
    copy.because += [words.WHAT_IT_HOLDS, words.warranty_of(tables.market("copy_warranty_months"))]
    copy.risk = words.CELLS_OF_UNKNOWN_MAKE + (
        words.one_lacks_protection(lacking(case)) if case.request.copy_lacks else words.LOOK_WHETHER_IT_HAS
    )
    if prices.copy_ is None:
        copy.ruled_out = words.NO_PRICE_OF_COPY
    yield copy
    retire = Draft("retire", "Retire it", [("dispose", 1)], [Part("disposal", prices.disposal, 1, "disposal")])
    retire.chance, retire.years = 1.0, (0.0, 0.0)
    sound = [
        g for g in case.groups if not g.unfit and g.capacity_ah >= USEFUL * pack.rated_ah and g.number not in case.to_go
    ]
    keeps = words.may_go_to_drawer(groups_words([g.number for g in sound]).lower()) if sound else words.NO_CELL
    retire.because.append(words.taken_down_from_middle(keeps))
    retire.risk = words.EVERY_BARE_POINT_CARRIES
    yield retire
