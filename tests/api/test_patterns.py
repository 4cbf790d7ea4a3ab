"""Patterns over HTTP: from shop to shop, into jobs and out of them, and what stands against a file that means no good."""

import copy
import json
import subprocess
import sys
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest
from typer.testing import CliRunner, Result

from saldatura import cli
from saldatura.formats.checksum import checksum
from saldatura.formats.pattern_file import schema
from saldatura.records import patterns as records
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.patterns.lineage import digest_of
from saldatura.shop.patterns.sheet import PatternSheet
from tests.api.conftest import Api, only_line
from tests.conftest import picture

SHEET: dict[str, Any] = {
    "title": "Sampling pump",
    "tags": ["pump"],
    "pack": {"chemistry": "nmc", "series": 3, "parallel": 2, "rated_ah": 4.0},
    "outside_taps": [0, 3],
    "contacts": [{"contact": "T", "touches": "sensor", "ohm": 10000.0}],
    "opening": [{"does": "Four screws", "tool": "T8", "photo": "opened"}, {"does": "Lift the lid"}],
    "codes": [{"shows": "three short", "means": "cell"}],
    "normals": [{"reads": "sensor_ohm", "value": 9800.0, "at_c": 25.0}],
    "quirks": [{"says": "feeds itself from group 1", "feeds_board": [1]}],
    "faults": [{"cause": "imbalance", "seen": 4, "cures": [{"repair": "level", "times": 4}], "minutes": 30.0}],
}


def sheet_of(api: Api, **more: Any) -> dict[str, Any]:
    photo = api.client.post("/api/patterns/photos", content=picture()).json()
    seen = {"photo": "opened", **photo, "points": [{"place": {"kind": "tap", "tap": 1}, "x": 0.5, "y": 0.25}]}
    return {**copy.deepcopy(SHEET), "photos": [seen], **more}


def begun(api: Api, **more: Any) -> int:
    status, made = api.post("/api/patterns", {"sheet": sheet_of(api, **more), "by": "Ilka", "why": "first of it"})
    assert status == 201, made
    return int(made["id"])


def exported(api: Api, number: int) -> dict[str, Any]:
    found: dict[str, Any] = api.get(f"/api/patterns/{number}/export")
    return found


def timeless(document: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in document.items() if key != "exported_at"}


def changed(api: Api, number: int, **more: Any) -> dict[str, Any]:
    held = api.get(f"/api/patterns/{number}")
    body = {"sheet": {**held["sheet"], **more}, "by": "Bero", "why": "something more"}
    status, made = api.post(f"/api/patterns/{number}?seen={held['last_id']}", body)
    assert status == 200, made
    return dict(made)


def test_from_shop_to_shop_it_is_the_same_but_for_the_time(api: Api, elsewhere: Api) -> None:
    number = begun(api)
    file = exported(api, number)
    jsonschema_rs.validator_for(schema()).validate(file)
    # Looked at, nothing is recorded; taken twice, it is there once.
    assert elsewhere.post("/api/patterns/import?look=true", file)[1]["relation"] == "new"
    assert elsewhere.get("/api/patterns")["total"] == 0
    for relation, recorded in (("new", True), ("same", False)):
        answer = elsewhere.post("/api/patterns/import?by=Bero", file)[1]
        assert (answer["relation"], answer["recorded"]) == (relation, recorded)
    assert timeless(exported(elsewhere, 1)) == timeless(file)
    sha = file["pattern"]["sheet"]["photos"][0]["sha256"]
    photos = [shop.client.get(f"/api/patterns/photos/{sha}") for shop in (api, elsewhere)]
    assert photos[0].content == photos[1].content
    assert photos[0].status_code == 200
    # It goes on there, and comes back as what follows from ours.
    changed(elsewhere, 1, quirks=[])
    back = exported(elsewhere, 1)
    answer = api.post("/api/patterns/import?by=Ilka", back)[1]
    assert (answer["relation"], answer["id"], answer["recorded"]) == ("newer", number, True)
    assert timeless(exported(api, number)) == timeless(back)
    assert api.post("/api/patterns/import", file)[1]["relation"] == "older"
    assert api.get(f"/api/patterns/{number}")["sheet"]["quirks"] == []


def test_two_shops_that_went_apart_keep_both_or_take_line_by_line(api: Api, elsewhere: Api) -> None:
    number = begun(api)
    elsewhere.post("/api/patterns/import", exported(api, number))
    codes = [*SHEET["codes"], {"shows": "two long", "means": "temperature"}]
    changed(elsewhere, 1, codes=codes, tags=["pump", "wet"])
    theirs = exported(elsewhere, 1)
    changed(api, number, parts=[{"part": "round seal"}])
    looked = api.post("/api/patterns/import?look=true", theirs)[1]["looked"]
    assert looked["relation"] == "fork"
    assert {line["line"] for line in looked["lines"]} == {"codes/lamp/two long/", "tags", "parts/round seal"}
    # A hand takes one line of it, and its own stays.
    assert api.post("/api/patterns/import?by=Ilka&choice=accept&lines=codes/lamp/two long/", theirs)[1]["recorded"]
    now = api.get(f"/api/patterns/{number}")
    assert [c["shows"] for c in now["sheet"]["codes"]] == ["three short", "two long"]
    assert (now["sheet"]["tags"], now["sheet"]["parts"][0]["part"], now["by"]) == (["pump"], "round seal", "Ilka")
    # Without a choice a fork is kept beside ours, once, and grows there.
    assert [api.post("/api/patterns/import", theirs)[1]["recorded"] for _ in range(2)] == [True, False]
    changed(elsewhere, 1, tags=["pump", "wet", "round"])
    again = api.post("/api/patterns/import", exported(elsewhere, 1))[1]
    assert (again["relation"], again["recorded"]) == ("newer", True)
    assert api.get("/api/patterns")["total"] == 2
    assert api.get(f"/api/patterns/{again['id']}")["sheet"]["tags"] == ["pump", "wet", "round"]
    assert not api.post("/api/patterns/import?choice=skip", theirs)[1]["recorded"]
    only = api.post("/api/patterns/import?choice=accept&lines=nonsense", theirs)
    assert only[0] in (200, 422)


def signed(file: dict[str, Any]) -> dict[str, Any]:
    """With a checksum that is right, so that what it says is looked at."""
    return {**file, "sha256": checksum(file["pattern"])}


def put(path: str, value: Any) -> Callable[[dict[str, Any]], dict[str, Any]]:
    def change(file: dict[str, Any]) -> dict[str, Any]:
        whole = copy.deepcopy(file)
        at: Any = whole
        *most, last = path.split(".")
        for key in most:
            at = at[int(key)] if isinstance(at, list) else at[key]
        at[int(last) if isinstance(at, list) else last] = value
        return signed(whole)

    return change


HOSTILE: dict[str, Callable[[dict[str, Any]], Any]] = {
    "no pattern": lambda f: {**f, "format": "saldatura-job"},
    "of a newer program": lambda f: {**f, "version": 9},
    "changed after": lambda f: {**f, "pattern": {**f["pattern"], "revision": 7}},
    "a field that is none": put("pattern.sheet.customer", "Zebulon"),
    "a tap beyond": put("pattern.sheet.outside_taps", [0, 9]),
    "a photo of another name": lambda f: {**f, "photos": {}},
    "a photo that is none": lambda f: {**f, "photos": dict.fromkeys(f["photos"], "AAAA")},
    "a photo that is no text of bytes": lambda f: {**f, "photos": dict.fromkeys(f["photos"], "%%%")},
    "a million opening steps": put("pattern.sheet.opening", [{"does": f"step {n}"} for n in range(20_000)]),
    "an endless title": put("pattern.sheet.title", "x" * 100_000),
    "no title": put("pattern.sheet.title", "   "),
    "a zero sign": put("pattern.sheet.title", "pump\0"),
    "no cells": put("pattern.sheet.pack.series", 0),
    "a number that is none": put("pattern.sheet.pack.rated_ah", "4.0"),
    "counts below nothing": put("pattern.experience", [{"shop": "1" * 36, "jobs": -4}]),
    "a uid that is a path": put("pattern.uid", "../../../../../../etc/passwd/xxxxxxxx"),
    "a history without end": put("pattern.history", [{"revision": 1, "digest": "a" * 32}] * 1001),
    "a digest of another kind": put("pattern.history", [{"revision": 1, "digest": "DROP TABLE pattern"}]),
    "two lines of one key": put("pattern.sheet.codes", [{"shows": "a"}, {"shows": "A"}]),
    "deep": put("pattern.sheet.label", json.loads("[" * 50 + "]" * 50)),
}


@pytest.mark.parametrize("what", HOSTILE)
def test_a_file_that_means_no_good_gets_one_line_and_leaves_nothing(api: Api, what: str) -> None:
    file = exported(api, begun(api))
    before = [json.dumps(api.get("/api/patterns")), sorted(p.name for p in photos_of(api))]
    status, answer = api.post("/api/patterns/import", HOSTILE[what](file))
    assert status in (413, 422), (what, answer)
    field, message = only_line(answer)
    assert field in ("file", "body"), answer
    assert len(message) <= 400
    assert [json.dumps(api.get("/api/patterns")), sorted(p.name for p in photos_of(api))] == before


def photos_of(api: Api) -> Iterator[Path]:
    bench: Bench = api.client.app.state.bench  # type: ignore[attr-defined]
    return bench.db.photos.folder.glob("*")


def test_on_the_command_line_it_goes_out_comes_in_and_is_looked_at(api: Api, tmp_path: Path) -> None:
    file = tmp_path / "pump.json"
    file.write_text(json.dumps(exported(api, begun(api))), encoding="utf-8")

    env = {"SALDATURA_DATA": str(tmp_path / "there.sqlite3"), "PATH": "/usr/bin:/bin", "HOME": str(tmp_path)}

    def run(*words: str) -> Result:
        return CliRunner(env=env).invoke(cli.app, ["pattern", *words])

    # Once as a shell calls it, then without loading everything anew each time.
    command = [sys.executable, "-m", "saldatura", "pattern", "check", str(file)]
    assert "It is whole" in subprocess.run(command, capture_output=True, text=True, env=env, check=False).stdout
    assert "pattern 1" in run("import", str(file), "--by", "Ilka").stdout
    assert "Nothing new" in run("import", str(file), "--by", "Ilka").stdout
    assert timeless(json.loads(run("export", "1").stdout)) == timeless(json.loads(file.read_text()))
    bad = tmp_path / "bad.json"
    bad.write_text("{")
    for words in (("check", str(bad)), ("import", str(bad), "--by", "Ilka"), ("export", "9")):
        failed = run(*words)
        assert failed.exit_code == 2, words
        assert len(failed.stderr.strip().splitlines()) == 1, failed.stderr


def test_the_schema_that_is_handed_out_is_the_one_that_is_read() -> None:
    kept = Path(__file__).parents[2] / "docs" / "pattern.schema.json"
    assert json.loads(kept.read_text(encoding="utf-8")) == schema()


def test_patterns_are_in_backup_and_archive_and_none_is_lost_with_its_list(
    api: Api, tmp_path: Path, db: Database
) -> None:
    number = begun(api)
    whole = tmp_path / "shop.zip"
    whole.write_bytes(api.client.get("/api/shop/export.zip").content)
    with zipfile.ZipFile(whole) as archive:
        lines = [json.loads(line) for line in archive.read("patterns.jsonl").splitlines()]
        sha = lines[0]["body"]["sheet"]["photos"][0]["sha256"]
        assert f"photos/{sha}.jpg" in archive.namelist()
        assert b"patterns.jsonl,pattern,sheet" in archive.read("dictionary.csv")
    assert lines[0]["body"]["digest"] == digest_of(PatternSheet.model_validate(lines[0]["body"]["sheet"]))
    copy_of = tmp_path / "copy.sqlite3"
    db.backup(copy_of)
    with Database(copy_of).write() as writer:
        writer.execute("DELETE FROM pattern_now")
    there = Bench(Database(copy_of))
    assert there.patterns.current(number).sheet.title == "Sampling pump"
    assert [row["title"] for row in records.listed(there.db.read(), "", False, 9, 0)[0]] == ["Sampling pump"]
    assert there.db.photos.path(sha).exists()
