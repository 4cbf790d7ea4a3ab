"""The repairs that change cells: new groups, donor cells, new cells throughout, a block of a sister pack, one group fewer."""

from collections.abc import Iterator

from saldatura.battery.limits.charging import CHARGER_OVER_V
from saldatura.battery.limits.joining import DONOR_SHARE
from saldatura.battery.limits.plausible import OTHER_SIZE
from saldatura.battery.match.usable import alike
from saldatura.battery.plan import tables
from saldatura.battery.plan.ageing import Aged
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.plan.draft import Draft, Part, aged_as_is, as_is, delivery, next_weakest, small_parts
from saldatura.battery.plan.options import SPEAKS
from saldatura.battery.plan.strings import Group
from saldatura.battery.plan.types import Offer, Variant
from saldatura.battery.plan.words import cells as words
from saldatura.battery.quantities import groups_words
from saldatura.battery.wording import counted


def changed(case: PlanCase) -> Iterator[Draft]:
    """Every repair that changes cells."""
    yield _replace(case)
    yield _donor(case)
    yield _recell(case)
    yield _drop(case)
    yield _transplant(case)


def _offers(case: PlanCase, new: bool, needed: int) -> list[Offer]:
    """Cells that could go in, those at hand first."""
    found = [
        o for o in case.request.offers
        if o.new is new and o.cells >= needed and (o.chemistry is None or alike(o.chemistry, case.pack.chemistry))
    ]  # fmt: skip
    return sorted(found, key=lambda o: (not o.fits, not o.here, o.price or 0.0))


def _group_of(case: PlanCase, offer: Offer | None) -> Group:
    """A group built of an offer's cells; of usual new ones of the old size where there is no offer."""
    p = case.pack.parallel
    ah = case.pack.rated_ah if offer is None else offer.capacity_ah * p
    usual = case.new_ohm(ah)
    return Group(ah, usual if offer is None or offer.resistance_ohm is None else offer.resistance_ohm / p)


def _bought(case: PlanCase, offer: Offer | None, count: int) -> tuple[list[Part], str | None, bool]:
    if offer is None:
        return [Part("new cell", case.request.prices.cell, count)], None, False
    price = offer.price if offer.price is not None else case.request.prices.cell if offer.new else 0.0
    return [Part(f"cell {offer.name}", price, count)], offer.name, offer.here


def _rebuild_steps(case: PlanCase, groups: int) -> list[tuple[str, float]]:
    cells = groups * case.pack.parallel
    return [
        ("open", 1),
        ("cut_group", groups),
        ("cut_cell", cells),
        ("weld_group", groups),
        ("weld_cell", cells),
        ("close", 1),
        ("prove", 1),
    ]


def _no_group(case: PlanCase) -> str | None:
    go = case.to_go
    if not go:
        return words.NO_SINGLE_GROUP
    if len(go) * 2 > case.pack.series and case.pack.series > 1:
        return words.would_have_to_go(go, case.pack.series)
    return None


def _put_in(case: PlanCase, draft: Draft, offer: Offer | None, age: float) -> None:
    """New or donor cells in the groups that are to go, and what then limits."""
    go, new = case.to_go, _group_of(case, offer)
    count = len(go) * case.pack.parallel
    parts, draft.cells_from, here = _bought(case, offer, count)
    draft.at, draft.cells_needed, draft.parts = go, count, [*parts, *small_parts(case)]
    draft.groups, draft.beside = as_is(case, go, new, level=True), ["level"]
    draft.aged = aged_as_is(case, go, Aged(new.capacity_ah, max(case.pack.rated_ah, new.capacity_ah), age))
    draft.chance = case.chance(draft.repair, go)
    draft.wait_h = delivery(here) + tables.market("rest_h")
    draft.needs.append(f"{counted(count, 'cell')}{f', {offer.name}' if offer else ''}")
    draft.needs.append(words.NEW_CELLS_BROUGHT)
    if (weakest := next_weakest(case, go)) is not None:
        limited = weakest.capacity_ah < new.capacity_ah
        draft.because.append(
            words.cells_hold_group_group(
                offer, new.capacity_ah, weakest.number, weakest.capacity_ah, weakest.measured, limited
            )
        )
    if offer is not None and offer.max_a is not None:
        draft.most_a = offer.max_a * case.pack.parallel * case.pack.strings


def _replace(case: PlanCase) -> Draft:
    draft = Draft(
        "replace_groups",
        words.new_cells(case.to_go, case),
        _rebuild_steps(case, max(len(case.to_go), 1)),
    )
    count = max(len(case.to_go), 1) * case.pack.parallel
    _put_in(case, draft, next((o for o in _offers(case, True, count) if o.fits), None), 0.0)
    draft.risk = words.NEW_GROUP_DRIFTS
    draft.ruled_out = _no_group(case)
    return draft


def _donor(case: PlanCase) -> Draft:
    go = case.to_go
    count = max(len(go), 1) * case.pack.parallel
    draft = Draft(
        "donor_cells",
        words.donor_cells(go),
        [*_rebuild_steps(case, max(len(go), 1)), ("test_cell", count)],
    )
    weakest = next_weakest(case, go)
    least = DONOR_SHARE * (weakest.capacity_ah if weakest else case.least_ah)
    offers = [*(o for o in _offers(case, False, count) if o.fits), *_twin(case, count)]
    good = [o for o in offers if o.capacity_ah * case.pack.parallel >= least]
    _put_in(case, draft, good[0] if good else offers[0] if offers else None, case.age)
    draft.risk = words.CELLS_WITH_PAST_EVERY
    if (why := _no_group(case)) is not None:
        draft.ruled_out = why
    elif not offers:
        draft.ruled_out = words.no_donor_cells(count)
    elif not good:
        draft.ruled_out = words.donor_cells_at_hand(offers[0].capacity_ah, least, case.pack.parallel)
    return draft


def _twin(case: PlanCase, count: int) -> list[Offer]:
    """The cells of a sister pack that is at hand, as an offer."""
    donor, pack = case.request.donor, case.pack
    cells = pack.series * pack.parallel
    if donor is None or cells < count:
        return []
    ah = (donor.capacity_ah or pack.whole_ah * tables.market("twin_share")) / pack.strings / pack.parallel
    return [Offer(name=donor.name, cells=cells, capacity_ah=ah, price=donor.price / count, new=False)]


def _recell(case: PlanCase) -> Draft:
    pack = case.pack
    cells = pack.series * pack.parallel
    offers = _offers(case, True, cells)
    like = next((o for o in offers if o.fits), None)
    if like is None and case.request.prices.cell is None:
        like = next((o for o in _offers(case, False, cells) if o.fits), None)
    draft = Draft("recell", "New cells throughout", _rebuild_steps(case, pack.series))
    new = _group_of(case, like)
    parts, draft.cells_from, here = _bought(case, like, cells)
    draft.parts, draft.cells_needed = [*parts, *small_parts(case)], cells
    draft.groups, draft.aged = [new] * pack.series, [Aged(new.capacity_ah, new.capacity_ah, 0.0)] * pack.series
    draft.chance, draft.wait_h = case.chance("recell"), delivery(here) + tables.market("rest_h")
    draft.most_a = None if like is None or like.max_a is None else like.max_a * pack.parallel * pack.strings
    draft.needs = [
        words.one_kind(cells, like),
        words.MAP_OF_OLD_BLOCK,
    ]
    draft.because.append(words.every_group_holds_board(new.capacity_ah))
    draft.risk = words.LONGEST_WORK_WITH_BARE
    # A whole pack of the drawer's used cells, where there are as many of one kind.
    used = [o for o in _offers(case, False, cells) if o.fits and o is not like]
    draft.variants = [_variant(case, o, cells) for o in [*(o for o in offers if o is not like), *used]][:6]
    believed = case.chance_of(
        "worn", "weak_group", "dead_group", "reversed_group", "leaking_group", "imbalance", "run_flat", "bad_joint"
    )
    if believed < SPEAKS and not case.to_go and next_weakest(case, ()).capacity_ah >= case.least_ah:  # type: ignore[union-attr]
        draft.ruled_out = words.next_to_nothing_speaks(believed)
    return draft


def _variant(case: PlanCase, offer: Offer, cells: int) -> Variant:
    """The same with other cells: stronger or larger, and what charger and gauge then think."""
    new = _group_of(case, offer)
    got = case.given([new] * case.pack.series)
    most = (
        got.current_a
        if offer.max_a is None
        else min(got.current_a, offer.max_a * case.pack.parallel * case.pack.strings)
    )
    old = case.pack.rated_ah
    price = offer.price if offer.price is not None else case.request.prices.cell
    change = new.capacity_ah / old - 1
    said = [words.run_at(got.usable_ah, case.load_a)]
    if abs(change) > OTHER_SIZE:
        said.append(words.charger_takes_and_gauge(change, case.pack.whole_ah))
    if most < case.load_a:
        said.append(words.last_less_than(most, case.load_a))
    return Variant(
        name=offer.name,
        cost=None if price is None else round(price * cells, 2),
        usable_ah=round(got.usable_ah, 4),
        current_a=round(most, 3),
        says="; ".join(said) + ".",
        ruled_out=None if offer.fits else words.THESE_CELLS,
    )


def _drop(case: PlanCase) -> Draft:
    """One group fewer: the device's cut-off and the charger's end decide, not the wish."""
    pack, need, window, go = case.pack, case.request.need, case.window, case.to_go
    left = [g for g in case.groups if g.number not in go]
    draft = Draft(
        "drop_group",
        f"Leave {groups_words(go).lower() if go else 'a group'} out",
        [
            ("open", 1),
            ("cut_group", max(len(go), 1)),
            ("joint", 2),
            ("wire", max(len(go), 1)),
            ("close", 1),
            ("prove", 1),
        ],
    )
    draft.at, draft.chance, draft.parts = go, case.chance("drop_group", go), small_parts(case)
    draft.risk = words.CONNECTOR_IS_RE_PINNED
    if not go or not left:
        draft.ruled_out = words.NO_SINGLE_GROUP if not go else words.NO_GROUP_WOULD
        draft.groups, draft.aged = as_is(case), aged_as_is(case)
        return draft
    if pack.strings > 1:
        draft.ruled_out = words.SHORTER_STRING
        draft.groups, draft.aged = as_is(case), aged_as_is(case)
        return draft
    draft.groups = [Group(g.capacity_ah, g.resistance_ohm) for g in left]
    draft.aged = [case.aged(g) for g in left]
    end = need.charger_v if need.charger_v is not None else pack.series * window.full_v
    entered = need.cutoff_v if need.cutoff_v is not None else case.request.device_cutoff_v
    # Whoever sets a charger by count mostly has a device that takes several; what it cuts off at is then asked for.
    counts = len(left) if case.request.set_by_count else pack.series
    cutoff = entered if entered is not None else counts * window.tool_end_v
    draft.cutoff_v = cutoff
    draft.because.append(words.device_cuts_off(cutoff, len(left)))
    draft.needs = [words.charger_set(len(left))]
    if entered is None:
        draft.needs.append(words.WHERE_DEVICE_CUTS_OFF)
    each = end / len(left)
    if case.lithium and each > window.full_v + CHARGER_OVER_V and not case.request.set_by_count:
        draft.ruled_out = words.charger_goes(end, each, len(left), window.full_v)
        return draft
    whole = case.given([Group(g.capacity_ah, g.resistance_ohm) for g in left], 1e-3).usable_ah
    got = case.given(draft.groups, cutoff).usable_ah
    if got < 0.5 * whole:
        draft.ruled_out = words.device_cuts_off_at_group(cutoff, len(left), got, whole)
    return draft


def _transplant(case: PlanCase) -> Draft:
    donor, pack = case.request.donor, case.pack
    draft = Draft("transplant", words.BLOCK_OF_SISTER_PACK, [("open", 2), ("block", 1), ("close", 1), ("prove", 1)])
    draft.chance = case.chance("transplant")
    if donor is None:
        draft.groups, draft.aged = as_is(case), aged_as_is(case)
        draft.ruled_out = words.NO_SISTER_PACK
        return draft
    ah = (donor.capacity_ah or pack.whole_ah * tables.market("twin_share")) / pack.strings
    age = donor.age_years if donor.age_years is not None else case.age
    draft.groups = [Group(ah, donor.resistance_ohm or case.new_ohm(ah))] * pack.series
    draft.aged = [Aged(ah, pack.rated_ah, age)] * pack.series
    draft.parts, draft.wait_h = [Part(donor.name, donor.price, 1, "donor"), *small_parts(case)], tables.market("rest_h")
    draft.needs = [words.same_build(donor.name), words.GROUPS_READ_ONE]
    draft.because.append(words.block_holds(ah * pack.strings, donor.capacity_ah))
    draft.risk = words.BLOCK_IS_MOVED_WHOLE
    return draft
