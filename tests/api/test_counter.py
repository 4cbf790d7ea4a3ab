"""At the counter: who is known, which pack was here before, and what is said to a wish."""

import io

from pypdf import PdfReader

from tests.api.conftest import Api, job_body


def taken(api: Api, **intake: object) -> int:
    body = job_body()
    status, view = api.post("/api/jobs", {**body, "intake": {**body["intake"], **intake}})
    assert status == 201
    return view["facts"]["id"]


def test_customers_are_found_by_a_part_of_their_name_with_how_they_were_reached_last(api: Api) -> None:
    taken(api, customer="Ödön, press house", contact="0471 1")
    taken(api, customer="Row team A", contact="a@rows.example")
    taken(api, customer="Ödön, press house", contact="0471 2")
    assert api.get("/api/customers?like=ödön") == [{"name": "Ödön, press house", "contact": "0471 2", "jobs": 2}]
    # Who was here last comes first.
    assert [c["name"] for c in api.get("/api/customers")] == ["Ödön, press house", "Row team A"]
    assert api.get("/api/customers?like=nobody") == []


def test_a_pack_that_was_here_says_so_before_it_is_taken_in(api: Api) -> None:
    first = taken(api, serial="VS-0118")
    assert api.get("/api/earlier?serial=vs-0118")[0]["job_id"] == first
    assert api.get("/api/earlier?serial=VS-0119") == []
    assert api.get("/api/earlier?serial=") == []


def test_a_wish_has_an_answer_and_a_file_for_others_tells_no_telephone(api: Api) -> None:
    answers = {w["key"]: w["answer"] for w in api.get("/api/terms")["wishes"]}
    job = taken(api, customer="Row team Z", contact="0471 334455", wishes=["jump_start"], note="Call 0471 334455")
    assert api.get(f"/api/jobs/{job}")["facts"]["intake"]["wishes"] == ["jump_start"]
    assert answers["jump_start"].startswith("Not pack to pack")
    sheet = PdfReader(io.BytesIO(api.client.get(f"/api/jobs/{job}/sheet.pdf").content)).pages[0].extract_text()
    assert "Row team Z, 0471 334455" in " ".join(sheet.split())
    assert "asks: wake it from another pack" in " ".join(sheet.split())
    shared = api.client.get(f"/api/jobs/{job}/export", params={"shared": True})
    assert shared.status_code == 200
    assert "334455" not in shared.text
    assert "334455" in api.client.get(f"/api/jobs/{job}/export").text
    body = job_body()
    status, answer = api.post("/api/jobs", {**body, "intake": {**body["intake"], "wishes": ["magic"]}})
    assert (status, answer["errors"][0]["field"]) == (422, "intake.wishes.0")
