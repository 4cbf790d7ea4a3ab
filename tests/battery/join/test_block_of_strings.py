"""Blocks of strings side by side: their map, what may be laid, and the order in which they are parted and joined."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.join import PackMap, PackMapRequest, pack_map
from saldatura.battery.join.lists import work_lists
from saldatura.battery.join.pack_map import mirrored
from saldatura.battery.join.steps import BuildCase, Steps, WorkKind
from tests.refusing import refuses
from tests.searching import examples


def mapped(**body: Any) -> PackMap:
    return pack_map(PackMapRequest.model_validate(body))


def heights(made: PackMap) -> dict[tuple[str, str], int]:
    """How many groups up each pole lies, walked from pack minus over strips and cells and nothing else."""
    top = {c.cell: c.top for c in made.cells}
    on: dict[tuple[str, str], int] = {}
    for n, link in enumerate(made.links):
        for face in link.faces:
            for cell in face.cells:
                on[cell, "plus" if top[cell] == ("positive" if face.side == "top" else "negative") else "minus"] = n
    found, grew = {0: 0}, True
    while grew:
        grew = False
        for cell in top:
            low, high = on[cell, "minus"], on[cell, "plus"]
            assert low != high, f"{cell} is shorted"
            for a, b, step in ((low, high, 1), (high, low, -1)):
                if a in found and b not in found:
                    found[b], grew = found[a] + step, True
    return {pole: found[n] for pole, n in on.items()}


@settings(deadline=None, max_examples=examples(60))
@given(st.integers(1, 7), st.integers(2, 4), st.integers(1, 3), st.sampled_from(["grid", "hex", "line"]), st.data())
def test_every_string_climbs_from_minus_to_plus_one_group_at_a_time(
    each: int, strings: int, parallel: int, arrangement: str, data: st.DataObject
) -> None:
    cross = data.draw(st.lists(st.integers(1, each - 1), unique=True)) if each > 1 else []
    made = mapped(series=each * strings, strings=strings, parallel=parallel, arrangement=arrangement, cross=cross)
    at = heights(made)
    for c in made.cells:
        own = (c.group - 1) % each
        assert (at[c.cell, "minus"], at[c.cell, "plus"]) == (own, own + 1)
    # Ends are shared, inner taps are not, but where a cross link ties them.
    strips = {n: {made.cells[int(cell[1:]) - 1].group for cell in link.cells} for n, link in enumerate(made.links)}
    assert len(made.links) == 2 + (each - 1) * strings - len(cross) * (strings - 1)
    for groups in strips.values():
        of = {(g - 1) // each for g in groups}
        assert len(of) in (1, strings)
    assert mirrored(mirrored(made.cells)) == made.cells
    assert len({(c.x_mm, c.y_mm) for c in made.cells}) == len(made.cells)


def test_a_strip_from_string_to_string_is_a_cross_link_and_wants_to_be_told() -> None:
    base = {"series": 8, "strings": 2, "parallel": 1}
    made = mapped(**base)
    laid = [{"side": link.side, "cells": link.cells} for link in made.links if len(link.cells) > 1]
    assert mapped(**base, strips=laid).links == made.links
    tied = [*laid, {"side": "top", "cells": ["c1", "c5"]}]
    with refuses("cross_link_not_entered"):
        mapped(**base, strips=tied)
    with refuses("strip_shorts"):
        mapped(**base, strips=[{"side": "bottom", "cells": ["c1", "c4"]}])
    for tap, strings in ((4, 2), (1, 1)):
        with refuses("no_such_cross_link"):
            mapped(series=8, strings=strings, cross=[tap])


def lists(work: WorkKind, volts: list[float], groups: list[int], strings: int = 2) -> list[Steps]:
    made = mapped(series=len(volts), strings=strings)
    cells: dict[int, list[str]] = {}
    for c in made.cells:
        cells.setdefault(c.group, []).append(c.cell)
    sides = {link.tap: link.side for link in made.links}
    return work_lists(
        BuildCase(volts=volts, cells=cells, sides=sides, work=work, groups=groups, strings=strings, full_v=4.2)
    )


@settings(deadline=None, max_examples=examples(40))
@given(
    st.integers(1, 5),
    st.integers(2, 3),
    st.sampled_from(["rebuild", "groups", "apart_for_good"]),
    st.data(),
)
def test_strings_are_parted_before_the_first_cut_and_joined_after_the_last_weld(
    each: int, strings: int, work: WorkKind, data: st.DataObject
) -> None:
    volts = data.draw(st.lists(st.floats(3.0, 4.1), min_size=each * strings, max_size=each * strings))
    groups = sorted(data.draw(st.sets(st.integers(1, each * strings), min_size=1, max_size=4)))
    most = max(sum(volts[k : k + each]) for k in range(0, len(volts), each))
    steps = [s for found in lists(work, volts, groups, strings) for s in found.steps if found.name != "case"]
    parted = [n for n, s in enumerate(steps) if s.key == "tie_cut"]
    joined = [n for n, s in enumerate(steps) if s.strings == "joined"]
    cuts = [n for n, s in enumerate(steps) if s.strip and s.do == "cut" and n not in parted]
    welds = [n for n, s in enumerate(steps) if s.strip and s.do in ("weld", "solder")]
    assert len(parted) == 1
    assert all(n > parted[0] for n in cuts)
    if work == "apart_for_good":
        assert not joined
    else:
        assert len(joined) == 1
        ask = steps[joined[0]].asks
        assert ask is not None
        assert (ask.expected_v, ask.within_v) == (0.0, 0.05)
        assert all(parted[0] < n < joined[0] for n in welds)
    for found in lists(work, volts, groups, strings):
        assert len({s.key for s in found.steps}) == len(found.steps), found.name
    # No string holds more than its own groups do, and no tap is named that is not there.
    assert all(s.exposed_v <= max(most, each * max(volts)) + 1e-3 for s in steps)
    assert all(0 <= tap <= len(volts) for s in steps for tap in s.taps)
    asked = {s.taps[0]: s.asks.expected_v for s in steps if s.asks is not None and s.key.startswith("wire_on:")}
    for tap, expected in asked.items():
        low = (tap - 1) // each * each
        assert expected == pytest.approx(sum(volts[low:tap]), abs=2e-3)


def test_a_group_of_a_string_is_never_left_out() -> None:
    with refuses("shorter_string"):
        lists("drop_group", [3.8] * 8, [3])
