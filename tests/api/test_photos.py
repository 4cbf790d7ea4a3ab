"""Photos and pins: kept without what was in the file beside the picture, in exports, refused in one line."""

import io
import struct
import zlib
from pathlib import Path

import pytest
from PIL import Image

from saldatura.formats import job_file
from saldatura.job.facts.photo import MOST_PHOTOS
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.api.conftest import Api, client_of, only_line
from tests.conftest import picture
from tests.refusing import code_of


def send(api: Api, job: int, data: bytes, **query: str) -> tuple[int, dict]:
    answer = api.client.post(f"/api/jobs/{job}/photos", content=data, params=query)
    return answer.status_code, answer.json()


def test_a_photo_is_kept_upright_and_small_with_nothing_but_its_pixels(api: Api) -> None:
    job = api.take_in()
    exif = Image.Exif()
    exif[0x0112] = 6  # taken with the camera turned to the right
    exif[0x010F] = "Some maker"
    exif.get_ifd(0x8825)[1] = "N"
    status, view = send(api, job, picture(4000, 1000, exif=exif, comment=b"Row team Z's kitchen"), caption="Board")
    assert status == 201
    [kept] = [p["photo"] for p in view["assessment"]["photos"]]
    assert (kept["width"], kept["height"], kept["caption"]) == (600, 2400, "Board")
    answer = api.client.get(f"/api/jobs/{job}/photos/{kept['id']}")
    assert answer.headers["content-type"] == "image/jpeg"
    assert "immutable" in answer.headers["cache-control"]
    again = Image.open(io.BytesIO(answer.content))
    assert not again.getexif()
    assert "comment" not in again.info
    # The left half of what the camera saw, red, is at the top once it is turned upright.
    red, _, blue = again.convert("RGB").getpixel((300, 600))
    assert red > 150 > blue
    other = api.take_in()
    assert api.client.get(f"/api/jobs/{other}/photos/{kept['id']}").status_code == 422


def png_that_claims(width: int, height: int) -> bytes:
    """A PNG of a few bytes whose header claims a size."""
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    chunks = [(b"IHDR", header), (b"IDAT", zlib.compress(b"\0")), (b"IEND", b"")]
    body = b"".join(
        struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data)) for kind, data in chunks
    )
    return b"\x89PNG\r\n\x1a\n" + body


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"Dear customer, this is a text.", "is not a JPEG, PNG or WebP picture"),
        (b"", "is not a JPEG, PNG or WebP picture"),
        (picture(800, 600)[:4000], "cut off or damaged"),
        (png_that_claims(9000, 9000), "50 million pixels"),
        (png_that_claims(60_000, 60_000), "50 million pixels"),
    ],
)
def test_what_is_no_photo_gets_one_line_and_leaves_nothing(api: Api, data: bytes, says: str) -> None:
    job = api.take_in()
    status, body = send(api, job, data)
    assert status == 422
    field, message = only_line(body)
    assert field == "photo"
    assert says in message
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["photos"] == []


def test_a_huge_file_is_refused_before_it_is_read(api: Api) -> None:
    job = api.take_in()
    answer = api.client.post(f"/api/jobs/{job}/photos", content=b"x", headers={"content-length": str(200 * 2**20)})
    assert answer.status_code == 413
    assert code_of(answer.json()) == "body_too_large"
    streamed = api.client.post(f"/api/jobs/{job}/photos", content=iter([b"x"]))
    assert streamed.status_code == 411


def test_pins_are_put_moved_and_taken_off_and_travel_with_the_job(api: Api, tmp_path: Path) -> None:
    job = api.take_in()
    photo = send(api, job, picture())[1]["assessment"]["photos"][0]["photo"]["id"]
    tap, node = {"kind": "tap", "tap": 3}, {"kind": "node", "node": "after the fuse"}
    for place, at in ((tap, (0.2, 0.3)), (node, (0.5, 0.5)), (tap, (0.25, 0.3)), (node, (None, None))):
        status, view = api.post(f"/api/jobs/{job}/pins", {"photo": photo, "place": place, "x": at[0], "y": at[1]})
        assert status == 201
    assert view["assessment"]["photos"][0]["pins"] == [{"place": tap, "x": 0.25, "y": 0.3}]
    for body, field in (
        ({"photo": photo, "place": {"kind": "tap", "tap": 4}, "x": 0.1, "y": 0.1}, "place"),
        ({"photo": photo + 1, "place": tap, "x": 0.1, "y": 0.1}, "photo"),
        ({"photo": photo, "place": tap, "x": 0.1}, "body"),
        ({"photo": photo, "place": tap, "x": 1.5, "y": 0.1}, "x"),
    ):
        status, refused = api.post(f"/api/jobs/{job}/pins", body)
        assert (status, only_line(refused)[0]) == (422, field)

    document = api.client.get(f"/api/jobs/{job}/export").json()
    with client_of(Bench(Database(tmp_path / "other.sqlite3"))) as there:
        [sha] = document["photos"]
        changed = {**document, "photos": {sha: document["photos"][sha][:-8] + "AAAAAAA="}}
        refused = there.post("/api/jobs/import", json=changed)
        assert only_line(refused.json())[0] == "file"
        back = there.post("/api/jobs/import", json=document).json()
        assert [p["pins"] for p in back["assessment"]["photos"]] == [[{"place": tap, "x": 0.25, "y": 0.3}]]


def test_a_job_holds_so_many_photos_and_a_quarantined_one_none(api: Api) -> None:
    job = api.take_in()
    for _ in range(MOST_PHOTOS):
        assert send(api, job, picture(8, 8))[0] == 201
    assert send(api, job, picture(8, 8))[0] == 409
    hot = api.take_in(safety={**dict.fromkeys(("swollen", "leaking", "wet", "crushed", "smell"), False), "hot": True})
    assert only_line(send(api, hot, picture(8, 8))[1])[0] == "quarantine"


def test_a_photo_that_is_gone_or_changed_is_named_and_all_else_goes_out(api: Api, elsewhere: Api) -> None:
    job = api.take_in()
    for width in (640, 700, 760):
        api.photo(job, picture(width, 480))
    photos = [p["photo"]["sha256"] for p in api.get(f"/api/jobs/{job}")["assessment"]["photos"]]
    files = api.client.app.state.bench.db.photos  # type: ignore[attr-defined]
    files.path(photos[0]).unlink()
    files.path(photos[1]).write_bytes(picture(900, 500))
    document = api.get(f"/api/jobs/{job}/export")
    assert sorted(document["missing"]) == sorted(photos[:2])
    assert list(document["photos"]) == [photos[2]]
    status, view = elsewhere.post("/api/jobs/import", document)
    assert status == 201, view
    ids = [p["photo"]["id"] for p in view["assessment"]["photos"]]
    shown = [elsewhere.client.get(f"/api/jobs/{view['facts']['id']}/photos/{number}").status_code for number in ids]
    assert sorted(shown) == [200, 422, 422]
    # A file that says less is missing than is missing does not come in.
    document |= {"missing": photos[:1]}
    document["job"]["uid"] = "another-name"
    document["sha256"] = job_file._digest(document["job"])
    assert only_line(elsewhere.post("/api/jobs/import", document)[1])[0] == "file"
