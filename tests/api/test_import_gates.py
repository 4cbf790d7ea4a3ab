"""Import passes the gates of the API: what an act may not do here, no file has done; and what comes in is another shop's."""

import copy
from collections.abc import Callable
from typing import Any

import pytest

from tests.api.conftest import SAFE, Api, job_body, only_line
from tests.api.test_cells import KIND
from tests.api.test_door import forged, of_kind
from tests.conftest import Clock

# A fact as an act of that address would record it, with what it holds beside what is sent.
BESIDE: dict[str, dict[str, Any]] = {
    "charge": {"cutoff_a": 0.1, "forecast_s": 1, "forecast_low_s": 1, "forecast_high_s": 1, "forecast_ah": 1, "look_again_s": []},
    "sign_off": {"program_version": "1", "inputs": {}, "results": {}},
    "harvested": {"cells": ["z1", "z2"]},
    "wait": {"lasts_s": 60, "low_s": 60, "high_s": 60},
}  # fmt: skip
ADDRESS = {
    "stage": "stage", "release": "release", "left_out": "left-out", "replaced": "replaced", "charge": "charges", "joined": "leads/joined",
    "sign_off": "sign-off", "work": "work", "harvested": "harvested", "note": "notes", "measure": "measures", "wait": "waits", "board": "board",
    "accepted": "accepted", "lead": "leads", "ruling": "rulings", "reopened": "reopened", "archived": "archived",
}  # fmt: skip
ACTS: list[tuple[str, dict[str, Any]]] = [
    ("stage", {"stage": "judge"}),
    ("release", {"by": "Ilka", "reason": "it was the glue", "cells": "group 2 is out"}),
    ("left_out", {"group": 3, "because": "weak", "by": "Nora", "agreed_with": "Row team Z"}),
    ("left_out", {"group": 17, "because": "weak", "by": "Nora", "agreed_with": "Row team Z"}),
    ("replaced", {"group": 2, "cells": [], "by": "Nora"}),
    ("replaced", {"group": 17, "cells": [], "by": "Nora"}),
    ("charge", {"group": 2, "target": "full", "current_a": 1.0}),
    ("charge", {"group": 1, "target": "full", "current_a": 5000.0}),
    ("joined", {"tap": 1, "lead": "red", "volts": 3.9}),
    ("sign_off", {"by": "Ilka"}),
    ("sign_off", {"by": "Ilka", "outcome": "scrap", "reason": "", "went": ""}),
    ("sign_off", {"by": "Ilka", "outcome": "scrap", "reason": "swollen", "went": "to the collection"}),
    ("work", {"place": {"kind": "group", "group": 17}, "did": "resoldered", "by": "Nora"}),
    ("harvested", {"groups": [2], "type": "brown", "name": "z", "by": "Nora"}),
    ("note", {"evidence": [{"kind": "seen", "what": "swollen", "at": {"groups": [17]}}]}),
    ("measure", {"kind": "load_run", "on": "tool", "amps": 900.0, "seconds": 60, "ended_by": "hand"}),
    ("measure", {"kind": "full_charge", "accepts": True, "ended_itself": True, "group_v": [4.2]}),
    ("wait", {"kind": "capacity", "group": 17}),
    ("board", {"make": "other", "lacks": ["fuse"], "by": "Nora"}),
    ("accepted", {"repair": "level", "groups": [], "by": "Row team Z", "note": "all the same"}),
    ("ruling", {"cause": "weak_group", "groups": [17], "by": "Nora", "reason": "by hand"}),
    ("reopened", {"by": "Ilka", "reason": "once more"}),
]  # fmt: skip


def dead(api: Api) -> int:
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [3.9, 0.6, 3.9])
    return job


def charging(api: Api) -> int:
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [3.9, 3.5, 3.9])
    assert api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[0] == 201
    return job


def held(api: Api) -> int:
    job = dead(api)
    api.post(f"/api/jobs/{job}/safety", {**SAFE, "swollen": True})
    return job


def unscreened(api: Api) -> int:
    return int(api.post("/api/jobs", {"intake": job_body()["intake"]})[1]["facts"]["id"])


def signed(api: Api) -> int:
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [3.9, 3.9, 3.9])
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})[0] == 200
    return job


STATES: list[Callable[[Api], int]] = [dead, charging, held, unscreened, signed]


@pytest.mark.parametrize("state", STATES, ids=lambda s: s.__name__)
def test_what_the_api_refuses_no_file_brings_in(api: Api, elsewhere: Api, state: Callable[[Api], int]) -> None:
    """One oracle: the API's own answer to the act that would have recorded the fact. Each job is tried from the same state."""
    refused = 0
    for number, (kind, sent) in enumerate(ACTS):
        job = state(api)
        document = api.get(f"/api/jobs/{job}/export")
        status, answer = api.post(f"/api/jobs/{job}/{ADDRESS[kind]}?sure=true", sent)
        if status in (200, 201):
            # What the API took comes out and in again as it is.
            taken = elsewhere.post("/api/jobs/import", api.get(f"/api/jobs/{job}/export"))
            assert taken[0] == 201, (kind, sent, taken)
            continue
        # A gate refused it, and not a field that is missing.
        assert "missing" not in {line["code"] for line in answer["errors"]}, (kind, sent, answer)
        refused += 1
        body = {"measure": sent} if kind == "measure" else {**sent, **BESIDE.get(kind, {})}
        if kind == "charge":
            body |= {"start_v": 3.0, "target_v": 4.2}

        def add(facts: list[dict[str, Any]], kind: str = kind, body: dict[str, Any] = body) -> None:
            facts.append(
                {"kind": kind, "id": facts[-1]["id"] + 1, "at": facts[-1]["at"], "clock_s": None, "body": body}
            )

        came = elsewhere.post("/api/jobs/import", forged(document, add))
        assert came[0] == 422, (state.__name__, number, kind, sent, answer)
    assert refused > 5
    assert all(job["pack_name"] == "Test pack" for job in elsewhere.get("/api/jobs")["jobs"])


def test_what_charged_there_is_no_charge_here_and_what_was_signed_there_is_said_so(
    api: Api, elsewhere: Api, clock: Clock
) -> None:
    here = elsewhere.post("/api/jobs/import", api.get(f"/api/jobs/{charging(api)}/export"))[1]
    [run] = here["facts"]["charges"]
    assert (run["end"]["outcome"], run["end"]["volts"]) == ("stopped", None)
    assert elsewhere.get("/api/waiting")["waiting"] == []
    assert here["facts"]["brought_in"] is not None
    # The group that was charged there is read before it is charged here.
    status, answer = elsewhere.post(f"/api/jobs/{here['facts']['id']}/charges", {"group": 2, "target": "match"})
    assert (status, only_line(answer)[0]) == (409, "unread"), answer
    came = elsewhere.post("/api/jobs/import", api.get(f"/api/jobs/{signed(api)}/export"))[1]
    assert came["facts"]["signed_elsewhere"]
    # What another shop handed back teaches nothing of how this one's repairs hold.
    assert elsewhere.get("/api/returns")["went"] == 0
    assert api.get("/api/returns")["went"] == 1


def test_a_cell_of_the_file_is_no_cell_of_this_drawer(api: Api, elsewhere: Api) -> None:
    elsewhere.post("/api/cells/types", KIND)
    assert elsewhere.post("/api/cells", {"type": "Colle", "name": "a", "count": 2})[0] == 201
    cells = {c["name"]: c["standing"] for c in elsewhere.get("/api/cells")["cells"]}
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [3.9, 3.9, 3.9])
    document = api.get(f"/api/jobs/{job}/export")

    def put(facts: list[dict[str, Any]]) -> None:
        body = {
            "group": 1,
            "cells": ["a1"],
            "by": "Nora",
            "fitted": [{"cell": "a1", "origin": "new"}, {"cell": "a2", "origin": "new"}],
        }
        facts.append(
            {**copy.deepcopy(of_kind(facts, "stage")), "kind": "replaced", "id": facts[-1]["id"] + 1, "body": body}
        )

    status, came = elsewhere.post("/api/jobs/import", forged(document, put))
    assert status == 201, came
    number = came["facts"]["id"]
    assert {c["name"]: c["standing"] for c in elsewhere.get("/api/cells")["cells"]} == cells
    back = elsewhere.get(f"/api/jobs/{number}/export")["job"]["facts"][-1]["id"]
    elsewhere.post(f"/api/jobs/{number}/taken-back", {"fact": back, "reason": "not ours"})
    assert {c["name"]: c["standing"] for c in elsewhere.get("/api/cells")["cells"]} == cells
