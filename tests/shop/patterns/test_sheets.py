"""Sheets of pack models: what differs, what a hand takes over, where a revision stands in its line, what shops counted together."""

import math
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from saldatura.battery.judge import tables
from saldatura.battery.judge.types import JudgedPack
from saldatura.battery.quantities import Pack
from saldatura.job.assessment.known_of_model import thermistor_of
from saldatura.job.facts import JobFacts
from saldatura.job.facts.intake import IntakeFact
from saldatura.job.facts.pattern import PatternTaken
from saldatura.shop.patterns.diff import accepted, changes
from saldatura.shop.patterns.experience import CauseCount, Experience, counts, joined, minutes_of
from saldatura.shop.patterns.lineage import Ancestor, digest_of, relation
from saldatura.shop.patterns.offers import Asked, known_by, offers
from saldatura.shop.patterns.sheet import (
    SECTIONS,
    CodeSeen,
    ContactSeen,
    Cure,
    FaultTold,
    NormalSeen,
    PatternSheet,
    QuirkSeen,
    SheetStep,
)

PACK = Pack(chemistry="nmc", series=5, rated_ah=2.5)
letters = st.sampled_from("abcdef")
steps = st.lists(letters, unique=True, max_size=5).flatmap(
    lambda names: st.tuples(
        *(st.builds(SheetStep, does=st.just(n), tool=st.sampled_from(["", "T8"]), confirmed=st.integers(0, 2)) for n in names)
    ).map(list)
)  # fmt: skip
codes = st.lists(
    st.builds(CodeSeen, shows=letters, means=st.sampled_from(["cell", "temperature"])),
    max_size=4,
    unique_by=lambda c: c.shows,
)
sheets = st.builds(
    PatternSheet, title=st.sampled_from(["Pump", "Lamp"]), pack=st.just(PACK), opening=steps, codes=codes,
    has_board=st.sampled_from([None, True, False]), outside_taps=st.sampled_from([[], [0, 5]]),
)  # fmt: skip


@given(ours=sheets, theirs=sheets, data=st.data())
def test_lines_taken_over_are_theirs_and_the_others_stay(
    ours: PatternSheet, theirs: PatternSheet, data: st.DataObject
) -> None:
    lines = [change.line for change in changes(ours, theirs)]
    assert len(set(lines)) == len(lines)
    assert accepted(ours, theirs, lines) == theirs
    assert accepted(ours, theirs, []) == ours
    some = data.draw(st.sets(st.sampled_from(lines))) if lines else set()
    got = accepted(ours, theirs, some)
    # What was not taken still differs, and nothing else but an order that those lines disturb.
    left = {change.line for change in changes(got, theirs) if change.what != "moved"}
    assert left == {c.line for c in changes(ours, theirs) if c.what != "moved" and c.line not in some}
    for section in SECTIONS:
        held = [one.key for one in getattr(got, section)]
        assert len(set(held)) == len(held)
    assert (digest_of(got) == digest_of(theirs)) == (got == theirs)


def test_a_revision_is_newer_older_the_same_or_another_branch_by_what_came_before_it() -> None:
    a, b, c = "a" * 32, "b" * 32, "c" * 32
    first = [Ancestor(revision=1, digest=a)]
    assert relation(a, [], b, first) == "newer"
    assert relation(b, first, a, []) == "older"
    assert relation(b, first, b, []) == "same"
    assert relation(b, first, c, first) == "fork"


lines = st.builds(
    Experience, shop=st.sampled_from([f"{n}" * 36 for n in "123"]), jobs=st.integers(0, 9),
    causes=st.lists(st.builds(CauseCount, cause=st.sampled_from(["imbalance", "worn"]), seen=st.integers(0, 5)), max_size=1),
)  # fmt: skip


@given(held=st.lists(lines, max_size=4), told=st.lists(lines, max_size=4))
def test_what_shops_counted_is_never_counted_twice_and_never_for_us(
    held: list[Experience], told: list[Experience]
) -> None:
    own = "1" * 36
    both = joined(held, told, own)
    most: dict[str, int] = {}
    for line in (*held, *told):
        if line.shop != own:
            most[line.shop] = max(most.get(line.shop, 0), line.jobs)
    assert {line.shop: line.jobs for line in both} == most
    assert joined(both, told, own) == both


def test_what_is_only_told_stands_for_ten_packs_at_the_most_and_jobs_for_themselves() -> None:
    told = [FaultTold(cause="imbalance", seen=300), FaultTold(cause="worn", seen=100)]
    assert counts(told, []) == {"imbalance": pytest.approx(7.5), "worn": pytest.approx(2.5)}
    assert counts([FaultTold(cause="worn", seen=3)], []) == {"worn": 3}
    jobs = Experience(shop="2" * 36, jobs=40, causes=[CauseCount(cause="worn", seen=40)])
    assert counts(told, [jobs]) == {"imbalance": pytest.approx(7.5), "worn": pytest.approx(42.5)}


def test_minutes_are_those_of_repairs_that_a_cause_always_had() -> None:
    level = CauseCount(cause="imbalance", seen=3, cures=[Cure(repair="level", times=3)], timed=3, minutes=30)
    either = CauseCount(
        cause="worn",
        seen=2,
        cures=[Cure(repair="recell", times=1), Cure(repair="retire", times=1)],
        timed=2,
        minutes=90,
    )
    told = [FaultTold(cause="imbalance", seen=9, cures=[Cure(repair="level", times=9)], minutes=70)]
    found = minutes_of(told, [Experience(shop="2" * 36, jobs=5, causes=[level, either])])
    assert dict(found) == {"level": (4, pytest.approx((3 * 30 + 70) / 4))}


@given(seen=st.integers(1, 200))
def test_a_model_s_own_packs_shift_a_chance_as_a_beta_prior_does(seen: int) -> None:
    pack = JudgedPack(**dict(PACK))
    names = [row.name for row in tables.causes()]
    at = [i for i, name in enumerate(names) if name == "imbalance"]
    general = tables.priors(pack, {})
    with_it = tables.priors(pack, {}, {"imbalance": float(seen)})
    p = float(general[at].sum())
    # Beta(a, b) of MODEL_JOBS packs with mean p, after as many more of which every one had it.
    wanted = (1 - tables.MODEL_SHARE) * p + tables.MODEL_SHARE * (tables.MODEL_JOBS * p + seen) / (
        tables.MODEL_JOBS + seen
    )
    assert float(with_it[at].sum()) == pytest.approx(wanted)
    assert float(with_it.sum()) == pytest.approx(1)
    others = [i for i in range(len(names)) if i not in at]
    assert np.all(with_it[others] >= (1 - tables.MODEL_SHARE) * general[others] - 1e-12)
    assert tables.priors(pack, {}, {}).tolist() == general.tolist()


@pytest.mark.parametrize(
    ("field", "more"),
    [
        ("outside_taps", {"outside_taps": [0, 6]}),
        ("contacts", {"contacts": [ContactSeen(contact="T", touches="tap", tap=6)]}),
        ("opening", {"opening": [SheetStep(does="lift", photo="nowhere")]}),
        ("codes", {"codes": [CodeSeen(shows="Red"), CodeSeen(shows="red")]}),
        ("quirks", {"quirks": [QuirkSeen(says="odd", feeds_board=[6])]}),
    ],
)
def test_a_sheet_that_does_not_hang_together_is_refused_at_its_field(field: str, more: dict) -> None:
    with pytest.raises(ValidationError) as refused:
        PatternSheet(title="Pump", pack=PACK, **more)
    error = refused.value.errors()[0]["ctx"]["error"]
    assert error.field == field


def test_patterns_are_offered_by_a_word_as_it_is_typed_and_by_what_the_label_says() -> None:
    pump = known_by(
        1, "Sampling pump", "sampling pump round", Pack(chemistry="nmc", series=4, rated_ah=3.0), 14.4, 3.0, 3, 2
    )
    light = known_by(2, "Row light", "row light", Pack(chemistry="lfp", series=3, rated_ah=6.0), None, None, 2, 9)
    both = [pump, light]
    assert [o.id for o in offers(Asked(text="sam"), both)] == [1]
    # 9.6 V are three iron phosphate groups: by the cells, where nobody wrote the label down.
    assert [o.id for o in offers(Asked(volts=9.6, ah=6.0), both)] == [2]
    assert offers(Asked(), both) == []
    assert [o.id for o in offers(Asked(text="pump", volts=14.8, ah=3.1, contacts=3), both)] == [1]
    assert offers(Asked(volts=48.0), both) == []


def of_pattern(normals: list[NormalSeen]) -> JobFacts:
    at = datetime(2026, 3, 2, tzinfo=UTC)
    told = IntakeFact(customer="Yard", pack_name="P", pack=PACK, id=1, at=at)
    sheet = PatternSheet(title="P", pack=PACK, normals=normals)
    return JobFacts(id=1, uid="u").with_facts([told, PatternTaken(uid="1" * 36, revision=1, sheet=sheet, id=2, at=at)])


def test_a_thermistor_is_known_by_what_healthy_ones_read() -> None:
    def ohm(celsius: float, r25: float = 9800.0, b: float = 3650.0) -> float:
        return r25 * math.exp(b * (1 / (celsius + 273.15) - 1 / 298.15))

    two = [NormalSeen(reads="sensor_ohm", value=ohm(c), at_c=c) for c in (5.0, 35.0)]
    found = thermistor_of(of_pattern(two))
    assert found is not None
    assert (found.r25_ohm, found.b_k) == (pytest.approx(9800, rel=1e-6), pytest.approx(3650, rel=1e-6))
    one = thermistor_of(of_pattern(two[:1]))
    assert one is not None
    assert one.ohm(5.0) == pytest.approx(ohm(5.0), rel=1e-6)
