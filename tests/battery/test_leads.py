"""Loose leads against random packs whose truth is known."""

import random

import numpy as np
import pytest

from saldatura.battery.string import words as string_words
from saldatura.battery.string.lead_types import IdentifiedLeads, LeadsRequest
from saldatura.battery.string.leads import identify_leads
from tests.refusing import refuses
from tests.saying import says

ROUNDS = 60


class Bundle:
    """A pack's taps as loose leads with names in random order, measured against the first tap."""

    def __init__(self, seed: int, reference: int = 0) -> None:
        rng, names = np.random.default_rng(seed), random.Random(seed)
        self.series = int(rng.integers(3, 15))
        self.group_v = rng.normal(float(rng.uniform(3.5, 4.05)), 0.01, self.series)
        if rng.random() < 0.3:
            self.group_v[int(rng.integers(0, self.series))] -= float(rng.uniform(0.1, 0.6))
        taps = np.concatenate(([0.0], np.cumsum(self.group_v)))
        self.volts = {k: round(float(v - taps[reference]) * 1.001, 2) for k, v in enumerate(taps)}
        letters = [f"lead {k}" for k in range(self.series + 3)]
        names.shuffle(letters)
        self.name = dict(enumerate(letters[: self.series + 1]))
        self.spare = letters[-1]

    def identify(self, without: tuple[int, ...] = (), extra: tuple[float, ...] = (), **more: object) -> IdentifiedLeads:
        leads = [{"lead": self.name[k], "volts": v} for k, v in self.volts.items() if k not in without]
        leads += [{"lead": f"{self.spare} {n}", "volts": v} for n, v in enumerate(extra)]
        random.Random(7).shuffle(leads)
        return identify_leads(
            LeadsRequest.model_validate({"chemistry": "nmc", "series": self.series, "leads": leads, **more})
        )


def named(found: IdentifiedLeads) -> set[str]:
    return {f.kind for f in found.findings}


def test_a_whole_bundle_is_put_in_order_with_the_volts_to_expect() -> None:
    for seed in range(ROUNDS):
        bundle = Bundle(seed)
        found = bundle.identify()
        assert [p.lead for p in found.order] == [bundle.name[k] for k in range(bundle.series + 1)]
        assert [p.expected_v for p in found.order] == pytest.approx([bundle.volts[k] for k in range(bundle.series + 1)])
        assert found.findings == []


def test_a_reference_in_the_middle_is_noticed_and_solved() -> None:
    for seed in range(ROUNDS):
        bundle = Bundle(seed, reference=2)
        found = bundle.identify()
        assert [p.lead for p in found.order] == [bundle.name[k] for k in range(bundle.series + 1)]
        assert named(found) == {"reference_not_negative"}
        assert found.order[0].expected_v == 0


def test_a_missing_lead_is_named_by_its_tap() -> None:
    right = 0
    for seed in range(ROUNDS):
        bundle = Bundle(seed)
        tap = seed % (bundle.series - 1) + 1
        found = bundle.identify(without=(tap,), pack_v=sum(bundle.group_v))
        right += [f.tap for f in found.findings if f.kind == "missing_tap"] == [tap] and len(found.findings) == 1
        right_order = {p.tap: p.lead for p in found.order} == {k: n for k, n in bundle.name.items() if k != tap}
        assert right_order
    assert right == ROUNDS


def test_a_missing_top_lead_needs_no_pack_voltage_to_be_noticed() -> None:
    for seed in range(20):
        bundle = Bundle(seed)
        found = bundle.identify(without=(bundle.series,))
        assert [f.tap for f in found.findings if f.kind == "missing_tap"] == [bundle.series]


def test_two_leads_at_one_potential_are_named() -> None:
    for seed in range(ROUNDS):
        bundle = Bundle(seed)
        tap = seed % bundle.series + 1
        found = bundle.identify(extra=(bundle.volts[tap],))
        twins = next(f for f in found.findings if f.kind == "duplicate_potential")
        assert set(twins.leads) == {bundle.name[tap], f"{bundle.spare} 0"}
        assert named(found) == {"duplicate_potential", "too_many_leads"}


def test_a_floating_lead_is_named_and_its_tap_is_missing() -> None:
    right = 0
    for seed in range(ROUNDS):
        bundle = Bundle(seed)
        tap = seed % (bundle.series - 1) + 1
        between = bundle.volts[tap] + (1.3 if seed % 2 else -1.1)
        found = bundle.identify(without=(tap,), extra=(between,))
        floats = [f.lead for f in found.findings if f.kind == "floating_lead"]
        right += floats == [f"{bundle.spare} 0"] and named(found) == {"floating_lead", "missing_tap"}
    # One low and its neighbour as much too high could be two odd groups; that both are is the rarer story.
    assert right >= ROUNDS * 0.95


def test_a_lead_that_wanders_is_floating_whatever_it_shows() -> None:
    leads = [{"lead": c, "volts": 3.9 * k} for k, c in enumerate("abcde")]
    leads[2] = {**leads[2], "again_v": [6.1, 5.2]}
    found = identify_leads(LeadsRequest.model_validate({"chemistry": "nmc", "series": 4, "leads": leads}))
    assert [(f.kind, getattr(f, "lead", None)) for f in found.findings if f.kind == "floating_lead"] == [
        ("floating_lead", "c")
    ]
    assert [p.tap for p in found.order] == [0, 1, 3, 4]


def test_a_flat_group_is_an_implausible_gap_and_the_order_holds() -> None:
    volts = [0.0, 3.9, 4.8, 8.7, 12.6]
    leads = [{"lead": c, "volts": v} for c, v in zip("abcde", volts, strict=True)]
    found = identify_leads(
        LeadsRequest.model_validate({"chemistry": "nmc", "series": 4, "leads": leads, "pack_v": 12.6})
    )
    assert [p.lead for p in found.order] == list("abcde")
    gap = next(f for f in found.findings if f.kind == "implausible_gap")
    assert (gap.lower, gap.upper, gap.volts) == ("b", "c", pytest.approx(0.9))


def test_bad_requests_are_one_line_and_the_longest_string_is_laid() -> None:
    with refuses("called_alike"):
        LeadsRequest.model_validate(
            {"chemistry": "nmc", "series": 2, "leads": [{"lead": "a", "volts": 0}, {"lead": "a", "volts": 4}]}
        )
    leads = [{"lead": str(k), "volts": 3.9 * k} for k in range(15)]
    request = LeadsRequest.model_validate({"chemistry": "nmc", "series": 14, "leads": leads})
    assert identify_leads(request).findings == []


def test_a_wrong_terminal_reading_moves_no_lead() -> None:
    for seed in range(ROUNDS):
        bundle = Bundle(seed)
        whole = bundle.volts[bundle.series]
        for wrong in (0.9 * whole, 1.1 * whole, 0.4 * whole):
            found = bundle.identify(pack_v=round(wrong, 2))
            assert [p.lead for p in found.order] == [bundle.name[k] for k in range(bundle.series + 1)]
            assert named(found) == {"pack_differs"}


def test_a_missing_end_may_be_either_and_both_are_said() -> None:
    for seed in range(ROUNDS):
        bundle = Bundle(seed)
        top = next(f for f in bundle.identify(without=(bundle.series,)).findings if f.kind == "missing_tap")
        assert (top.tap, top.or_tap) == (bundle.series, 0)
        assert says(string_words.no_lead_comes, top.because)


def leads(**volts: float) -> IdentifiedLeads:
    asked = [{"lead": name, "volts": v} for name, v in volts.items()]
    return identify_leads(LeadsRequest.model_validate({"chemistry": "nmc", "series": 3, "leads": asked}))


def test_what_volts_cannot_tell_apart_is_said_with_what_tells() -> None:
    dead = next(f for f in leads(a=0.0, b=3.9, c=3.9, d=7.8).findings if f.kind == "duplicate_potential")
    assert says(string_words.read_same_on_one, dead.because)
    assert says(string_words.read_same_on_one, dead.because)
    turned = next(f for f in leads(a=0.0, b=3.9, c=4.2, d=8.1).findings if f.kind == "implausible_gap")
    assert "reversed" in turned.because
    assert says(string_words.group_at_or_reversed, turned.because)
