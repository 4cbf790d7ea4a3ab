"""The pack as it becomes, worked out again from an exported job alone: one plain loop over what was recorded, no rule of the program's."""

from typing import Any

FLOOR_V = 1.5
ORIGINS = {"new": "new", "used": "used", "donor": "donor"}


def slow_now(exported: dict[str, Any]) -> dict[str, Any]:
    """What `now` must say of groups, cells, volts and what was left out. Readings are of single groups, each re-read by superseding."""
    facts = exported["job"]["facts"]
    gone = {f["body"]["fact"] for f in facts if f["kind"] == "taken_back"}
    facts = [f for f in facts if f["id"] not in gone]
    came = [f for f in facts if f["kind"] == "intake"][-1]["body"]["pack"]
    groups = [_seat(k, came["parallel"]) for k in range(1, came["series"] + 1)]
    left: list[dict[str, Any]] = []
    board = "own"
    charges: dict[int, Any] = {}
    for fact in facts:
        body = fact["body"]
        match fact["kind"]:
            case "reading":
                if body["point"]["kind"] == "group" and body["volts"] is not None:
                    group = groups[body["point"]["group"] - 1]
                    group["volts"], group["from"] = body["volts"], _purpose(facts, body["set_id"])
                    if body["volts"] < FLOOR_V:
                        group["condemned"] = group["condemned"] or "under_floor"
            case "note":
                for seen in body["evidence"]:
                    for number in seen["at"]["groups"]:
                        groups[number - 1]["condemned"] = {"leak": "leaking"}.get(seen["what"], seen["what"])
            case "charge":
                # The seat itself, so that its end finds it whatever it is called by then.
                charges[fact["id"]] = groups[body["group"] - 1]
            case "charge_end":
                charges[body["charge"]]["volts"], charges[body["charge"]]["from"] = body["volts"], "charge"
            case "replaced":
                _put(groups, body["group"], body["fitted"])
            case "cells_in":
                for put in body["fitted"]:
                    _put(groups, put["group"], put["cells"])
            case "measure":
                for group in groups:
                    group["volts"] = group["from"] = None
            case "harvested":
                for number in body["groups"]:
                    groups[number - 1] |= {"cells": [], "volts": None, "from": None, "condemned": None}
            case "left_out":
                out = groups.pop(body["group"] - 1)
                where = "drawer" if not out["cells"] else body["where"]
                left.append({"was": out["was"], "because": out["condemned"] or body["because"], "where": where})
            case "board":
                board = body["make"]
    return {"series": len(groups), "groups": groups, "left_out": left, "board": board}


def _seat(number: int, parallel: int) -> dict[str, Any]:
    return {"was": number, "volts": None, "from": None, "condemned": None, "cells": ["original"] * parallel}


def _put(groups: list[dict[str, Any]], number: int, cells: list[dict[str, Any]]) -> None:
    groups[number - 1] |= {
        "volts": None,
        "from": None,
        "condemned": None,
        "cells": [ORIGINS[c["origin"]] for c in cells],
    }


def _purpose(facts: list[dict[str, Any]], set_id: int) -> str:
    return next(f["body"]["purpose"] for f in facts if f["id"] == set_id)
