"""Verdicts on strings whose truth is known."""

import numpy as np
import pytest

from saldatura.battery.verdict import Verdict, VerdictRequest, verdict


def judged(volts: list[float], chemistry: str = "nmc", pack_v: float | None = None, **more: object) -> Verdict:
    readings = [{"kind": "tap", "tap": k + 1, "volts": round(float(v), 3)} for k, v in enumerate(np.cumsum(volts))]
    readings.append({"kind": "pack", "volts": round(sum(volts), 3) if pack_v is None else pack_v})
    return verdict(
        VerdictRequest.model_validate(
            {
                "pack": {"chemistry": chemistry, "series": len(volts), "parallel": 2, "rated_ah": 4.0, "load_a": 8.0},
                "meter": {"percent": 0.5, "digits": 2, "resolution_v": 0.001},
                "readings": readings,
                **more,
            }
        )
    )


@pytest.mark.parametrize(
    ("volts", "chemistry", "kind", "states"),
    [
        ([4.05, 4.05, 4.051, 4.049], "nmc", "sound", {}),
        ([4.10, 4.10, 3.42, 4.10, 4.10], "nmc", "imbalanced", {3: "low"}),
        ([3.7, 3.7, 3.7, 4.05], "nmc", "imbalanced", {4: "high"}),
        ([2.9, 2.87, 0.62, 2.91], "lfp", "group_under_floor", {3: "under_floor"}),
        ([3.9, -0.4, 3.9, 3.9], "nmc", "reversed_or_dead_group", {2: "reversed"}),
        ([3.9, 3.9, 0.0, 3.9], "nmc", "reversed_or_dead_group", {3: "dead"}),
        ([3.27, 3.271, 3.27, 3.27], "lfp", "cannot_tell", {}),
        ([1.3] * 10, "nimh", "cannot_tell", {}),
    ],
)
def test_each_state_has_its_verdict(volts: list[float], chemistry: str, kind: str, states: dict[int, str]) -> None:
    found = judged(volts, chemistry)
    assert found.kind == kind
    assert {g.group: g.state for g in found.groups if g.state != "level"} == states
    assert found.reasons


def test_what_the_customer_saw_is_explained_by_the_imbalance() -> None:
    found = judged([4.1, 4.1, 3.42, 4.1], symptoms=["full_at_once", "dies_under_load"])
    assert found.charger is not None
    assert "while group 3 still lacks" in found.charger
    assert found.tool is not None
    assert "on group 3" in found.tool
    assert any("what the customer sees" in r for r in found.reasons)


def test_readings_that_do_not_add_up_condemn_no_group() -> None:
    found = judged([3.9, 3.9, 1.6, 3.9, 3.9], pack_v=19.5)
    assert found.kind == "run_flat"
    assert {g.state for g in found.groups} == {"level", "run_flat"}
    assert any("more than board and meter account for" in said for said in [*found.reasons, *found.more])
    assert [b.group for b in found.barred] == [3]
    assert found.charger is None
    assert found.settles


def test_a_partial_run_says_what_is_seen_and_what_is_next() -> None:
    request = {
        "pack": {"chemistry": "nmc", "series": 5, "rated_ah": 4.0},
        "readings": [{"kind": "tap", "tap": k, "volts": v} for k, v in ((1, 4.1), (2, 8.2), (3, 11.6))],
    }
    found = verdict(VerdictRequest.model_validate(request))
    assert found.kind == "cannot_tell"
    assert "Group 3" in found.headline
    assert found.next_reading is not None
    assert found.next_reading.model_dump() == {"kind": "tap", "tap": 4}
