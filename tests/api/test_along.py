"""What is said, seen and tried along the way: kept in order, of this pack, without contradiction, and on the sheet."""

import io

import pytest
from pypdf import PdfReader

from tests.api.conftest import SAFE, Api, only_line
from tests.refusing import code_of

CLEANED = {"kind": "action", "did": "cleaned_connector", "at": {"sensor": 1}, "result": "comes_back"}


def test_what_was_said_and_tried_stands_in_the_order_in_which_it_happened(api: Api) -> None:
    job = api.take_in()
    note = {
        "evidence": [{"kind": "charger", "says": "fault_blink"}, {"kind": "blink", "means": "temperature"}],
        "text": "since the frost",
    }
    assert api.post(f"/api/jobs/{job}/notes", note)[0] == 201
    api.post(f"/api/jobs/{job}/tries", {"evidence": CLEANED})
    api.post(
        f"/api/jobs/{job}/work",
        {"did": "replaced_part", "place": {"kind": "part", "part": "sensor plug"}, "by": "Ilka"},
    )
    swap = {"kind": "swap", "put": "board", "reference": {"same_revision": False}, "result": "fault_stays"}
    view = api.post(f"/api/jobs/{job}/tries", {"evidence": swap})[1]
    said = [(line["kind"], line["says"]) for line in view["assessment"]["along"]]
    assert said == [
        ("note", "charger blinks a fault; blinks: temperature; “since the frost”"),
        ("try", "cleaned connector (sensor 1), and then it goes and comes back"),
        ("work", "Part replaced: sensor plug. By Ilka."),
        ("try", "reference board in, and then the fault stays"),
    ]
    pdf = PdfReader(io.BytesIO(api.client.get(f"/api/jobs/{job}/sheet.pdf").content))
    assert "and then it goes and comes back" in " ".join(" ".join(p.extract_text() for p in pdf.pages).split())
    document = api.client.get(f"/api/jobs/{job}/export").json()
    assert [f["kind"] for f in document["job"]["facts"]][-4:] == ["note", "try", "work", "try"]


@pytest.mark.parametrize(
    ("path", "body", "field", "code"),
    [
        ("notes", {}, "body", "nothing_noted"),
        ("notes", {"evidence": [{"kind": "seen", "what": "bulged", "at": {"groups": [9]}}]}, "group", "no_such_group"),
        ("notes", {"evidence": [{"kind": "tool", "does": "normal"}, {"kind": "tool", "does": "dead"}]}, "evidence", "normal_and_not"),
        ("notes", {"evidence": [{"kind": "registers"}]}, "evidence.0.registers", "give_one"),
        ("tries", {"evidence": {**CLEANED, "at": {"taps": [7]}}}, "taps", "no_such_tap"),
    ],
)  # fmt: skip
def test_what_cannot_be_so_is_one_line_and_nothing_is_kept(
    api: Api, path: str, body: dict, field: str, code: str
) -> None:
    job = api.take_in()
    status, answer = api.post(f"/api/jobs/{job}/{path}", body)
    assert status == 422
    assert code_of(answer) == code
    assert only_line(answer)[0].startswith(field)
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["along"] == []


def test_what_is_seen_is_noted_in_quarantine_too_and_nothing_is_tried_there(api: Api) -> None:
    job = api.take_in(safety={**SAFE, "swollen": True})
    assert api.post(f"/api/jobs/{job}/notes", {"evidence": [{"kind": "seen", "what": "swollen"}]})[0] == 201
    assert only_line(api.post(f"/api/jobs/{job}/tries", {"evidence": CLEANED})[1])[0] == "quarantine"
