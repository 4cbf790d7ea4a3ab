"""Job files and replies that mean no good, each by what it tries; kept, and tried one by one."""

import copy
from collections.abc import Callable
from typing import Any

Facts = list[dict[str, Any]]
Change = Callable[[Facts], Facts]


def put(kind: str, **body: Any) -> Change:
    """The same facts with something else in those of a kind."""

    def change(facts: Facts) -> Facts:
        return [{**f, "body": {**f["body"], **body}} if f["kind"] == kind else f for f in facts]

    return change


def pack(**more: Any) -> Change:
    """Another pack in the intake."""

    def change(facts: Facts) -> Facts:
        whole = {**facts[0]["body"]["pack"], **more}
        return [{**facts[0], "body": {**facts[0]["body"], "pack": whole}}, *facts[1:]]

    return change


def more(kind: str, body: dict[str, Any], count: int = 1, **beside: Any) -> Change:
    """Facts at the end, by default a moment after the last."""

    def change(facts: Facts) -> Facts:
        last = facts[-1]
        added = [
            {"kind": kind, "id": last["id"] + 1 + n, "at": last["at"], "clock_s": None, "body": {**body}, **beside}
            for n in range(count)
        ]
        if kind == "reading":
            for n, fact in enumerate(added):
                fact["body"] = {
                    **READING,
                    "set_id": next(f["id"] for f in facts if f["kind"] == "set"),
                    "key": f"hostile-{n:06d}",
                    **body,
                }
        return [*facts, *added]

    return change


def shifted(facts: Facts) -> Facts:
    """A number that is given twice."""
    return [*facts, {**copy.deepcopy(facts[-1])}]


def before_its_set(facts: Facts) -> Facts:
    """In the order of a bench, and numbered in another, in which the set is not there yet."""
    first = next(f for f in facts if f["kind"] == "reading")
    old, new = first["body"]["set_id"], first["id"]
    swapped = {old: new, new: old}
    return [
        {**f, "id": swapped.get(f["id"], f["id"])}
        | ({"body": {**f["body"], "set_id": new}} if f["body"].get("set_id") == old else {})
        for f in facts
    ]


def ends(facts: Facts) -> Facts:
    """A charge ended that nobody began."""
    return more("charge_end", {"charge": 1, "outcome": "finished", "volts": 3.9, "counted_ah": None, "seconds": None})(
        facts
    )


READING = {"point": {"kind": "group", "group": 1}, "volts": 3.9, "supersedes": None, "reason": "", "source": "typed", "place": "pin", "resolution_v": None}  # fmt: skip
CHARGE = {
    "group": 2, "target": "full", "start_v": 3.6, "target_v": 4.2, "current_a": 1.0, "cutoff_a": 0.1, "forecast_s": 3600.0,
    "forecast_low_s": 3000.0, "forecast_high_s": 4000.0, "forecast_ah": 1.0, "look_again_s": [],
}  # fmt: skip
SIGNED = {
    "by": "Nobody",
    "reason": "because",
    "outcome": "handed_back",
    "went": "",
    "simulated": False,
    "program_version": "9.9",
    "inputs": {},
}

JOBS: dict[str, Change] = {
    "174 V in one string": pack(series=40),
    "no groups at all": pack(series=0),
    "a label of 1e308 Ah": pack(rated_ah=1e308),
    "a chemistry of nobody's": pack(chemistry="unobtainium"),
    "released in the year 9999": more(
        "release", {"by": "I", "reason": "because", "cells": ""}, at="9999-01-01T00:00:00Z"
    ),
    "released in the year 1": more("release", {"by": "I", "reason": "because", "cells": ""}, at="0001-01-01T00:00:00Z"),
    "before the first day there is": more("stage", {"stage": "judge"}, at="0001-01-01T00:00:00+14:00"),
    "after the last day there is": more("stage", {"stage": "judge"}, at="9999-12-31T23:59:59-14:00"),
    "a clock of the pack that runs back to nought": more("stage", {"stage": "judge"}, clock_s=-1),
    "released without a danger": more("release", {"by": "I", "reason": "because", "cells": ""}),
    "group 40 of a string of three": more("reading", {"point": {"kind": "group", "group": 40}}),
    "a tap against itself": more("reading", {"point": {"kind": "span", "from_tap": 2, "to_tap": 2}}),
    "a million volts": more("reading", {"volts": 1e6}),
    "a truth for a number": more("reading", {"volts": False}),
    "a reading of a set that is not there": more("reading", {"set_id": 999_999}),
    "a reading that corrects none": more("reading", {"supersedes": 999_999}),
    "one key twice": more("reading", {"key": "always-the-same"}, count=2),
    "a hundred thousand readings": more("reading", {}, count=100_000),
    "two hundred leads": more("lead", {"colour": "red", "volts": 1.0}, count=200),
    "no intake": lambda facts: facts[1:],
    "an intake in the middle": lambda facts: [*facts[1:], facts[0]],
    "nothing": lambda _facts: [],
    "a number given twice": shifted,
    "a reading numbered before its set": before_its_set,
    "a kind of fact of nobody's": more("wish", {"for": "gold"}),
    "a fact of the shop": more("meter", {"percent": 0.5, "digits": 2}),
    "a forecast of 1e18 s": more("charge", {**CHARGE, "forecast_s": 1e18}),
    "a charge of a group that is not there": more("charge", {**CHARGE, "group": 30}),
    "two charges at once": more("charge", CHARGE, count=2),
    "an end of a charge that nobody began": ends,
    "signed over nothing": more("sign_off", {**SIGNED, "results": {}}),
    "signed over a lie": more(
        "sign_off", {**SIGNED, "results": {"proof": {"result": "pass", "headline": "Certified."}}}
    ),
    "work after the signing": lambda facts: more("stage", {"stage": "judge"})(
        more("sign_off", {**SIGNED, "results": {}})(facts)
    ),
    "a lone surrogate": put("intake", customer="a\ud800b"),
    "a null character": put("intake", customer="a\x00b"),
    "a customer of a million letters": put("intake", customer="x" * 1_000_000),
    "a field too many": put("intake", admin=True),
    "a photo that is not in it": more("photo", {"sha256": "0" * 64, "width": 10, "height": 10, "caption": ""}),
    "a photo that is a number": lambda facts: [
        *facts,
        {**facts[-1], "id": facts[-1]["id"] + 1, "kind": "photo", "body": 3.7},
    ],
    "a path for a photo": more("photo", {"sha256": "../../etc/passwd", "width": 10, "height": 10, "caption": ""}),
    "a fact of another shape": lambda facts: [*facts, {"kind": "stage"}],
    "a number for a fact": lambda facts: [*facts, 7],  # type: ignore[list-item]
    "a body that is a list": lambda facts: [*facts, {**facts[-1], "id": facts[-1]["id"] + 1, "body": []}],
    "a number that is a text": lambda facts: [*facts[:-1], {**facts[-1], "id": "1"}],
    "a negative number": lambda facts: [{**facts[0], "id": -5}, *facts[1:]],
}

# What a meter may answer, by what it tries.
REPLIES: dict[str, bytes] = {
    "no end": b"9" * 100_000,
    "an infinity": b"1e999\n",
    "no number": b"NaN\n",
    "nothing": b"\n",
    "two answers": b"4.1;4.2\n",
    "a thousand answers": b"4.1," * 1000 + b"4.1\n",
    "bytes of no text": bytes(range(128, 256)) + b"\n",
    "a null": b"4.1\x00\n",
    "markup": b"<script>alert(1)</script>\n",
    "a terminal's own words": b"\x1b]0;owned\x07\n",
    "numbers of another script": "٤.١\n".encode(),
    "lines before": b"\n\n\n4.1\n",
}
