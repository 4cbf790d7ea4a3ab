"""The power path: every fault found by following the probes it asks for, in few touches."""

import math
from typing import Any

import pytest

from saldatura.battery.string import words as string_words
from saldatura.battery.string.path import TEMPLATES, PathRequest, power_path
from tests.saying import says

STRING_V = 18.2


def ask(chain: list[dict]):
    return power_path(PathRequest.model_validate({"string_v": STRING_V, "chain": chain}))


@pytest.mark.parametrize("template", sorted(TEMPLATES))
def test_following_the_probes_finds_each_failing_part(template: Any) -> None:
    parts = [p.model_dump() for p in TEMPLATES[template]]
    for failing in range(len(parts)):
        chain = [dict(p) for p in parts]
        touches = 0
        while (found := ask(chain)).next_node is not None:
            at = next(i for i, p in enumerate(chain) if p["node"] == found.next_node)
            chain[at]["volts"] = STRING_V if at < failing else 0.3
            touches += 1
            assert touches <= len(parts)
        assert [s.part for s in found.suspects] == [parts[failing]["part"]]
        assert parts[failing]["part"] in found.says
        # Halving needs about log2(n) touches, one more for the weights, one to see that there is a fault.
        assert touches <= math.ceil(math.log2(len(parts))) + 2


def test_a_sound_path_says_so_and_a_contradiction_asks_again() -> None:
    chain = [p.model_dump() for p in TEMPLATES["high_side"]]
    sound = ask([{**p, "volts": STRING_V} for p in chain])
    assert sound.suspects == []
    assert sound.next_node is None
    assert says(string_words.VOLTAGE_IS_THERE_ALL, sound.says)
    odd = [dict(p) for p in chain]
    odd[1]["volts"], odd[3]["volts"] = 0.0, STRING_V
    assert says(string_words.lacks_voltage_that_further, ask(odd).says)


def test_how_often_parts_fail_and_how_hard_they_are_to_reach_choose_the_next_probe() -> None:
    def chain(minutes: float) -> list[dict]:
        return [
            {"node": "a", "part": "p", "fails": 5},
            {"node": "b", "part": "q", "fails": 5, "minutes": minutes},
            {"node": "c", "part": "r", "fails": 5, "minutes": minutes},
            {"node": "d", "part": "s", "fails": 5, "volts": 0.0},
        ]

    assert ask(chain(1.0)).next_node == "b"
    assert ask(chain(60.0)).next_node == "a"
    shares = [s.probability for s in ask(chain(1.0)).suspects]
    assert sum(shares) == pytest.approx(1, abs=0.01)
