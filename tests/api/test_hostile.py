"""Every hostile file and reply is refused in a line, leaves nothing behind, and keeps nobody from the rest."""

import copy
import json
import secrets
import socket
import threading
from typing import Any

import pytest
from attack.files import files
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.api.intake import Unfit, check_document
from saldatura.formats import job_file
from saldatura.instruments.rack import Watched
from saldatura.shop.address import Address
from tests.api.conftest import Api
from tests.hostile import JOBS, REPLIES
from tests.searching import examples


@pytest.fixture
def document(api: Api) -> dict[str, Any]:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.6, 3.9])
    return api.get(f"/api/jobs/{job}/export")


def counted(api: Api) -> tuple[int, int]:
    db = api.client.app.state.bench.db.read()  # type: ignore[attr-defined]
    return tuple(
        db.execute(
            "SELECT (SELECT count(*) FROM job), (SELECT count(*) FROM fact) + (SELECT count(*) FROM reading)"
        ).fetchone()
    )


@pytest.mark.parametrize("name", JOBS)
def test_a_hostile_job_file_is_refused_in_a_line_and_leaves_nothing(
    api: Api, document: dict[str, Any], name: str
) -> None:
    held = copy.deepcopy(document)
    held["job"] |= {"uid": "hostile-" + "x" * 8, "facts": JOBS[name](held["job"]["facts"])}
    try:
        held["sha256"] = job_file._digest(held["job"])
    except job_file.JobFileError:
        held["sha256"] = "0" * 64
    before = counted(api)
    for _ in range(2):
        answer = api.client.post(
            "/api/jobs/import", content=json.dumps(held).encode(), headers={"content-type": "application/json"}
        )
        assert 400 <= answer.status_code < 500, answer.text[:300]
        lines = answer.json()["errors"]
        assert len(lines) == 1, lines
        assert "\n" not in lines[0]["message"]
        # The second time it is refused for the same reason, and not because something of it is here already.
        assert "already" not in lines[0]["message"]
    assert counted(api) == before
    document["job"]["uid"] = "the-honest-one"
    document["sha256"] = job_file._digest(document["job"])
    assert api.post("/api/jobs/import", document)[0] == 201


@pytest.mark.long
def test_files_changed_at_random_are_refused_in_a_line_or_shown_whole(api: Api, document: dict[str, Any]) -> None:
    jobs = [job["id"] for job in api.get("/api/jobs")["jobs"]]
    answered, wrong = files(api.client, jobs, 60, secrets.randbits(31))
    assert not wrong
    assert answered.total() == 60
    assert answered[201] > 0
    assert answered[422] > 0


@pytest.mark.parametrize("name", REPLIES)
def test_a_hostile_reply_is_no_reading(name: str) -> None:
    listening = socket.create_server(("127.0.0.1", 0))

    def talk() -> None:
        peer, _ = listening.accept()
        peer.recv(1000)
        peer.sendall(REPLIES[name])
        # The line stays open, as if more were to come.
        done.wait()

    done = threading.Event()
    threading.Thread(target=talk, daemon=True).start()
    watched = Watched.at("meter", "m", Address(host="127.0.0.1", port=listening.getsockname()[1]), None)
    watched.poll()
    done.set()
    assert watched.live is None
    assert watched.link.state in ("rubbish", "slow", "silent")
    assert watched.link.says.isprintable()
    watched.link.close()
    listening.close()


@pytest.mark.parametrize(
    ("body", "status"),
    [
        (b"[" * 900 + b"]" * 900, 422),
        (b'{"a":' * 900 + b"1" + b"}" * 900, 422),
        (b'{"a": [' + b"[]," * 2_000_000 + b"1]}", 413),
        (b'{"a": "' + b"\\ud800" * 10 + b'"}', 422),
        (b"\xff\xfe", 422),
        ('{"a": 1}'.encode("utf-16"), 422),
        (b'{"a": "\xed\xa0\xbd"}', 422),
        (b"", 422),
        (b"{", 422),
    ],
    ids=["nested lists", "nested objects", "six million signs of structure", "surrogates", "no UTF-8", "UTF-16", "a raw half", "nothing", "cut off"],
)  # fmt: skip
def test_a_body_of_no_job_is_a_line(api: Api, body: bytes, status: int) -> None:
    answer = api.client.post("/api/jobs/import", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == status, answer.text[:200]
    assert answer.json()["errors"]


@settings(max_examples=examples(300), deadline=None)
@given(st.lists(st.sampled_from([r"\ud83d", r"\uDE00", r"\uDBff", r"\u0041", r"\\", r"\n", r"\"", "u", "[", "]", "ü"])))
def test_half_a_character_is_refused_before_anything_reads_it_and_a_whole_one_is_not(parts: list[str]) -> None:
    document = f'{{"text": "{"".join(parts)}"}}'.encode()
    try:
        json.loads(document)["text"].encode()
        whole = True
    except UnicodeEncodeError:
        whole = False
    if whole:
        check_document(document)
    else:
        with pytest.raises(Unfit) as refused:
            check_document(document)
        assert refused.value.wrong.code == "not_utf8"


def test_only_pages_of_ours_act_and_every_answer_carries_its_guard(api: Api, caplog: pytest.LogCaptureFixture) -> None:
    from fastapi.testclient import TestClient

    from saldatura.api.app import create_app

    caplog.set_level("INFO", logger="saldatura")
    app = create_app(api.client.app.state.bench, token="t" * 48)  # type: ignore[attr-defined]
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        asked = {"kind": "thermistor", "ohm": 5000.0}
        page = {"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}
        meter = {"percent": 0.5, "digits": 2, "resolution_v": 0.001}
        assert client.post("/api/meter", json=meter, headers=page).status_code == 403
        assert client.post("/api/meter", json=meter, headers={**page, "x-saldatura-page": "t" * 47}).status_code == 403
        assert client.post("/api/meter", json=meter, headers={**page, "x-saldatura-page": "t" * 48}).status_code == 200
        # A program that is no browser, and what changes nothing, need none.
        assert client.post("/api/meter", json=meter).status_code == 200
        assert client.post("/api/compute/sensor", json=asked, headers=page).status_code == 200
        for origin in ("http://[", "null", "http://127.0.0.1:1", "http://elsewhere.example"):
            assert client.post("/api/meter", json=meter, headers={"origin": origin}).status_code == 403
        answer = client.get("/api/jobs/1%0a12:00:00 POST /api/forged 200")
        assert answer.headers["cross-origin-opener-policy"] == "same-origin"
        assert answer.headers["cross-origin-resource-policy"] == "same-origin"
        app.state.bench.db.facts = None
        failed = client.get("/api/jobs/1")
        assert failed.status_code == 500
        assert failed.headers["content-security-policy"].startswith("default-src 'self'")
        assert failed.json()["errors"][0]["field"] == "program"
    lines = [r.getMessage() for r in caplog.records if r.name == "saldatura" and r.levelname == "INFO"]
    assert all("\n" not in line for line in lines)
    assert any(line.startswith("GET /api/jobs/1 500") for line in lines)
