"""What one client may ask for: echoes, pictures, other sites' requests, a full disk, services that are no instruments."""

import errno
import io
import json
import os
import socket
import threading
from typing import Any

import pytest
from PIL import Image

from tests.api.conftest import Api, only_line
from tests.conftest import picture
from tests.refusing import refusal_of

JSON = {"content-type": "application/json"}


@pytest.mark.parametrize(
    ("body", "most"),
    [
        ("{" + ",".join(f'"f{n}":1' for n in range(200_000)) + "}", 413),
        ("{" + ",".join(f'"f{n}":1' for n in range(9_000)) + "}", 422),
        (json.dumps({"intake": {"x" * 3_000_000: 1}}), 422),
        ('{"cells":[' + ",".join('{"a":1,"b":2}' for _ in range(50_000)) + '],"series":3,"parallel":1}', 422),
    ],
    ids=["fields", "fewer fields", "a long name", "wrong entries"],
)
def test_an_answer_to_what_is_wrong_is_short(api: Api, body: str, most: int) -> None:
    for path in ("/api/jobs", "/api/compute/match"):
        answer = api.client.post(path, content=body, headers=JSON)
        assert answer.status_code == most
        assert len(answer.content) < 12_000
        assert len(answer.json()["errors"]) <= 21


@pytest.mark.parametrize("site", ["cross-site", "same-site"])
def test_no_other_site_s_page_is_given_data(api: Api, site: str) -> None:
    job = api.take_in()
    for path in ("/api/jobs", f"/api/jobs/{job}", f"/api/jobs/{job}/sheet.pdf", f"/api/jobs/{job}/export"):
        assert api.client.get(path, headers={"sec-fetch-site": site}).status_code == 403
        assert api.client.get(path, headers={"sec-fetch-site": "same-origin"}).status_code == 200


@pytest.mark.parametrize("lossless", [True, False])
def test_a_picture_is_measured_before_it_is_unpacked(api: Api, lossless: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    out = io.BytesIO()
    Image.new("RGB", (9_000, 9_000), "white").save(out, "WEBP", lossless=lossless, quality=1, method=0)
    opened: list[Any] = []
    plain = Image.open

    def watched(*given: Any, **more: Any) -> Image.Image:
        opened.append(given)
        return plain(*given, **more)

    monkeypatch.setattr(Image, "open", watched)
    answer = api.client.post(f"/api/jobs/{api.take_in()}/photos", content=out.getvalue())
    assert (answer.status_code, only_line(answer.json())[0]) == (422, "photo")
    assert opened == []


def test_a_photo_on_a_full_disk_is_a_line_and_leaves_nothing(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    job = api.take_in()

    def full(_handle: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    answer = api.client.post(f"/api/jobs/{job}/photos", content=picture())
    assert (answer.status_code, refusal_of(answer.json())) == (503, ("disk", "disk_full"))
    monkeypatch.undo()
    folder = api.client.app.state.bench.db.photos.folder  # type: ignore[attr-defined]
    assert list(folder.iterdir()) == []
    assert api.client.post(f"/api/jobs/{job}/photos", content=picture()).status_code == 201


def test_a_job_with_all_of_its_photos_goes_out_and_in(api: Api, elsewhere: Api) -> None:
    job = api.take_in()
    noise = io.BytesIO()
    for n in range(3):
        noise = io.BytesIO()
        Image.effect_noise((1500, 1100), 90 + n).convert("RGB").save(noise, "JPEG", quality=92)
        api.photo(job, noise.getvalue())
    document = api.client.get(f"/api/jobs/{job}/export").content
    assert len(document) > 1_200_000
    answer = elsewhere.client.post("/api/jobs/import", content=document, headers=JSON)
    assert answer.status_code == 201, answer.text
    number = answer.json()["facts"]["id"]
    again = elsewhere.get(f"/api/jobs/{number}/export")
    assert again["photos"] == json.loads(document)["photos"]
    # One that was changed on its way is refused, however it came in.
    told = json.loads(document)
    sha256 = next(iter(told["photos"]))
    told["photos"][sha256] = told["photos"][sha256][:-8] + "AAAAAAA="
    refused = elsewhere.client.post(
        "/api/jobs/import", content=json.dumps({**told, "job": {**told["job"]}}), headers=JSON
    )
    assert refused.status_code in (409, 422)


def test_a_cell_may_be_called_with_a_slash(api: Api) -> None:
    api.post("/api/cells/types", {"name": "Colle", "chemistry": "nmc", "rated_ah": 2.0})
    assert api.post("/api/cells", {"type": "Colle", "name": "a/b", "count": 1})[0] == 201
    assert api.client.get("/api/cells/of/a%2Fb").json()["cell"]["name"] == "a/b"
    assert api.client.post("/api/cells/of/a%2Fb/tests", json={"capacity_ah": 1.9}).status_code == 201


def test_another_service_s_banner_is_nobody_s_to_read(api: Api) -> None:
    listener = socket.create_server(("127.0.0.1", 0))

    def greet() -> None:
        while True:
            try:
                peer, _ = listener.accept()
                peer.sendall(b"SSH-2.0-secret_banner_7.4\r\n")
                peer.recv(100)
                peer.sendall(b"Protocol mismatch secret.\n")
            except OSError:
                return

    threading.Thread(target=greet, daemon=True).start()
    address = {"host": "127.0.0.1", "port": listener.getsockname()[1]}
    api.post("/api/instruments", {"kind": "supply", "name": "s", "address": address, "drives": True})
    seen = ""
    for _ in range(40):
        seen += api.client.get("/api/instruments").text
        threading.Event().wait(0.05)
    assert "secret" not in seen
    listener.close()
