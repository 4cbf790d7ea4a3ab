"""Job files with something in them changed at random, their checksum right: refused in a line, or taken and shown whole."""

import copy
import json
import random
import uuid
from collections import Counter
from collections.abc import Iterator
from typing import Any

from fastapi.testclient import TestClient

from saldatura.formats.job_file import _digest

Facts = list[dict[str, Any]]

ODD: list[Any] = [
    None, True, False, 0, 1, -1, 2, 40, 200, 1e18, -1e18, 1e-12, 0.0001, 1e308, 5e-324, -0.0, 2**63, 3.7,
    "", " ", "x" * 2000, "<b>x</b>", "\u0000", "nan", "nmc", "nimh", "F-1", [], {}, [[]], [None],
    "9999-12-31T23:59:59Z", "0001-01-01T00:00:00Z", "2026-11-22T00:00:00", {"kind": "group", "group": 40},
]  # fmt: skip


def _paths(of: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    inner = of.items() if isinstance(of, dict) else enumerate(of) if isinstance(of, list) else ()
    for key, value in inner:
        yield (*at, key)
        yield from _paths(value, (*at, key))


def _changed(facts: Facts, rng: random.Random) -> Facts:
    facts = copy.deepcopy(facts)
    for _ in range(rng.choice([1, 1, 1, 2, 3])):
        *way, last = rng.choice(list(_paths(facts)))
        inner: Any = facts
        for key in way:
            inner = inner[key]
        one, other = rng.randrange(len(facts)), rng.randrange(len(facts))
        match rng.choice(["value", "value", "value", "gone", "scaled", "order", "numbers", "twice"]):
            case "value":
                inner[last] = copy.deepcopy(rng.choice(ODD))
            case "gone" if isinstance(inner, dict):
                del inner[last]
            case "scaled" if isinstance(inner[last], int | float):
                inner[last] *= rng.choice([10, 0.1, 1000, 1e-3, -1, 0.99])
            case "order":
                facts[one], facts[other] = facts[other], facts[one]
            case "numbers" if isinstance(facts[one], dict) and isinstance(facts[other], dict):
                facts[one]["id"], facts[other]["id"] = facts[other].get("id"), facts[one].get("id")
            case "twice":
                facts.insert(other, copy.deepcopy(facts[one]))
        if not facts:
            break
    return facts


def files(client: TestClient, jobs: list[int], count: int, seed: int) -> tuple[Counter[int], list[str]]:
    """So many files made from the jobs that are there: how they were answered, and what was found wrong."""
    rng = random.Random(seed)
    routes = client.get("/api/openapi.json").json()["paths"]
    shown = [p for p, of in routes.items() if "get" in of and p.count("{") == 1 and "{job_id}" in p]
    lists = [p for p, of in routes.items() if "get" in of and "{" not in p]
    documents = [client.get(f"/api/jobs/{job}/export").json() for job in jobs]
    answered, wrong = Counter[int](), dict[str, str]()

    def bring(document: dict[str, Any]) -> Any:
        return client.post(
            "/api/jobs/import", content=json.dumps(document), headers={"content-type": "application/json"}
        )

    def look(path: str, number: int, job: int) -> None:
        told = client.get(path.replace("{job_id}", str(job)))
        if told.status_code >= 500:
            wrong.setdefault(path, f"after file {number} of seed {seed}: {path}: {told.text[:300]}")

    for number in range(count):
        document = copy.deepcopy(rng.choice(documents))
        document["job"] |= {
            "uid": str(uuid.UUID(int=rng.getrandbits(128))),
            "facts": _changed(document["job"]["facts"], rng),
        }
        document["sha256"] = _digest(document["job"])
        answer = bring(document)
        answered[answer.status_code] += 1
        if answer.status_code >= 500:
            wrong.setdefault("import", f"file {number} of seed {seed}: {answer.status_code} {answer.text[:300]}")
        elif answer.status_code >= 400 and bring(document).text != answer.text:
            wrong.setdefault(
                "again", f"file {number} of seed {seed}: refused another way the second time: {answer.text[:300]}"
            )
        elif answer.status_code == 201:
            job = answer.json()["facts"]["id"]
            # The lists of all jobs grow with each file: a look at them now and then, and after the last.
            for path in [*shown, *(lists if number % 50 == 0 else [])]:
                look(path, number, job)
    for path in lists:
        look(path, count, 0)
    return answered, list(wrong.values())
