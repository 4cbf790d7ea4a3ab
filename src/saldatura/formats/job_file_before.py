"""Job files of versions 1 and 2, which kept each kind of fact in a list of its own, as today's one list in order."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any

# What happened at one moment, in the order of work.
_RANK = ("intake", "safety", "release", "stage", "set", "reading", "lead", "joined", "photo", "pin", "measure", "replaced",
         "charge", "charge_end", "sign_off")  # fmt: skip


def today(job: dict[str, Any]) -> dict[str, Any]:
    """The job with its facts in one list, in the order in which they happened. Raises KeyError, TypeError for another shape."""
    entries = list(_entries(job))
    latest: dict[str, str] = {}
    for place, entry in enumerate(entries):
        # Within a kind the list tells the order; between kinds the latest time so far does.
        kind = entry["kind"]
        latest[kind] = max(latest.get(kind, ""), datetime.fromisoformat(entry["at"]).isoformat(timespec="microseconds"))
        entry["when"] = (latest[kind], _RANK.index(kind), place)
    entries.sort(key=lambda entry: entry["when"])
    numbers = {entry["old"]: number for number, entry in enumerate(entries, start=1) if entry["old"] is not None}
    facts = []
    for number, entry in enumerate(entries, start=1):
        for field, kind in entry["refs"].items():
            if entry["body"][field] is not None:
                entry["body"][field] = numbers[(kind, entry["body"][field])]
        facts.append(
            {"kind": entry["kind"], "id": number, "at": entry["at"], "clock_s": entry["clock_s"], "body": entry["body"]}
        )
    return {"id": job["id"], "uid": job["uid"], "opened_at": job["opened_at"], "facts": facts}


def _entries(job: dict[str, Any]) -> Iterator[dict[str, Any]]:
    for fact in job["intakes"]:
        yield _entry("intake", fact["at"], fact["intake"])
    for fact in job.get("safety", []):
        yield _entry("safety", fact["at"], fact["safety"])
    for fact in job.get("releases", []):
        yield _entry("release", fact["at"], fact["release"])
    for fact in job.get("stages", []):
        yield _entry("stage", fact["at"], {"stage": fact["stage"]})
    for fact in job.get("sets", []):
        yield _entry("set", fact["opened_at"], fact, old="set", drop=("id", "opened_at"))
    for fact in job.get("readings", []):
        body = {**fact, "key": f"imported-{fact['id']}"}
        refs = {"set_id": "set", "supersedes": "reading"}
        yield _entry("reading", fact["at"], body, old="reading", drop=("id", "at"), refs=refs)
    for fact in job.get("leads", []):
        yield _entry("lead", fact["at"], fact, drop=("at",))
    for fact in job.get("joined", []):
        yield _entry("joined", fact["at"], fact, drop=("at",))
    for fact in job.get("photos", []):
        yield _entry("photo", fact["at"], fact, old="photo", drop=("id", "at"))
    for fact in job.get("pins", []):
        yield _entry("pin", fact["at"], fact, drop=("at",), refs={"photo": "photo"})
    for fact in job.get("measures", []):
        measure = fact["measure"]
        if measure["kind"] == "replaced":
            yield _entry("replaced", fact["at"], measure, drop=("kind",))
        else:
            yield _entry("measure", fact["at"], {"measure": measure})
    for fact in job.get("charges", []):
        yield _entry("charge", fact["started_at"], fact, old="charge", drop=("id", "started_at", "end"))
        if (end := fact["end"]) is not None:
            body = {**end["outcome"], "charge": fact["id"]}
            yield _entry("charge_end", end["at"], body, refs={"charge": "charge"}, clock_s=end.get("clock_s"))
    if (signed := job.get("sign_off")) is not None:
        yield _entry("sign_off", signed["at"], signed, drop=("at",))


def _entry(
    kind: str,
    at: str,
    fact: dict[str, Any],
    old: str | None = None,
    drop: tuple[str, ...] = (),
    refs: dict[str, str] | None = None,
    clock_s: float | None = None,
) -> dict[str, Any]:
    body = {key: value for key, value in fact.items() if key not in (*drop, "clock_s")}
    return {
        "kind": kind,
        "at": at,
        "clock_s": fact.get("clock_s") if clock_s is None else clock_s,
        "body": body,
        "old": (old, fact["id"]) if old else None,
        "refs": refs or {},
    }
