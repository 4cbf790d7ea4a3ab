"""Prove on screen: the plan, a load run on the stand-in at ×600 that fails, back to Judge, mended, run again, handed over, four papers."""

import io
import re

import httpx
import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from running import PATIENT_S
from tests.api.conftest import job_body


def virtual(client: httpx.Client, job: int, faults: list[dict[str, object]]) -> None:
    client.post(f"/api/jobs/{job}/virtual", json={"soc": [0.97] * 4, "seed": 12, "faults": faults}).raise_for_status()
    client.post(f"/api/jobs/{job}/virtual/clock", json={"speed": 1, "paused": True}).raise_for_status()


@pytest.fixture
def job(demo: str) -> int:
    with httpx.Client(base_url=demo, timeout=PATIENT_S) as client:
        body = job_body(4, load_a=6.0)
        body["intake"] |= {"pack_name": "Pack to prove", "serial": "PP-1"}
        found = int(client.post("/api/jobs", json=body).json()["facts"]["id"])
        weak: list[dict[str, object]] = [
            {"on": "cell", "kind": "low_capacity", "group": 2, "cell": c, "size": 0.6} for c in (1, 2)
        ]
        for k in range(1, 5):
            reading = {"point": {"kind": "group", "group": k}, "volts": 4.15, "key": f"prove-{found}-{k}"}
            client.post(f"/api/jobs/{found}/readings", json=reading).raise_for_status()
        client.post(f"/api/jobs/{found}/replaced", json={"group": 2, "by": "Ilka"}).raise_for_status()
        # What was put in is weak itself.
        virtual(client, found, weak)
        client.post(f"/api/jobs/{found}/stage", json={"stage": "prove"}).raise_for_status()
    return found


def run_once(page: Page, demo: str, job: int) -> None:
    test = page.get_by_role("article", name="Load run")
    test.get_by_role("button", name=re.compile("^Record the result")).click()
    expect(test.get_by_text("Never unattended")).to_be_visible()
    test.get_by_role("button", name=re.compile("^Switch the stand-in load on")).click()
    expect(test.get_by_role("button", name="Switch the load off")).to_be_visible()
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/virtual/clock", json={"speed": 600, "paused": False})
    # It stops by itself, and what it counted stands in the fields.
    expect(test.get_by_role("button", name=re.compile("^Switch the stand-in load on"))).to_be_visible(timeout=60_000)
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/virtual/clock", json={"speed": 1, "paused": True})
    expect(test.get_by_label("Lasted, min")).not_to_have_value("")
    test.get_by_role("button", name="Record the result").click()


def test_a_weak_group_fails_its_run_is_mended_and_goes_back_with_its_papers(page: Page, demo: str, job: int) -> None:
    page.goto(f"{demo}/jobs/{job}/prove")
    page.get_by_role("button", name="every test that is due").click()
    expect(page.get_by_role("heading", name=re.compile("tests are open"))).to_be_visible()
    expect(page.get_by_text(re.compile("dead short at the terminals"))).to_be_visible()
    run_once(page, demo, job)
    test = page.get_by_role("article", name="Load run")
    expect(test.get_by_text(re.compile("Group 2 was empty"))).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("It fails: load run"))).to_be_visible()
    # A load beyond what the pack is for is one line at its field, and what was typed stays.
    test.get_by_role("button", name="Record it again").click()
    test.get_by_label("Current, A").fill("40")
    test.get_by_label("Lasted, min").fill("12")
    test.get_by_role("button", name="Record the result").click()
    expect(test.get_by_text(re.compile("beyond what this pack is for"))).to_be_visible()
    expect(test.get_by_label("Lasted, min")).to_have_value("12")
    test.get_by_role("link", name="Back to Judge").click()
    expect(page).to_have_url(re.compile(f"/jobs/{job}/judge"))

    with httpx.Client(base_url=demo, timeout=PATIENT_S) as client:
        client.post(
            f"/api/jobs/{job}/replaced", json={"group": 2, "by": "Ilka", "note": "graded cells"}
        ).raise_for_status()
        virtual(client, job, [])
    page.goto(f"{demo}/jobs/{job}/prove?of=tests")
    expect(page.get_by_role("article", name="Load run").get_by_text("Not run yet.")).to_be_visible()
    run_once(page, demo, job)
    expect(page.get_by_role("article", name="Load run").get_by_text("It carried its load as forecast.")).to_be_visible()

    page.goto(f"{demo}/jobs/{job}/hand-over")
    page.get_by_label("Who signs").fill("Ilka")
    page.get_by_label("Why it goes back without a pass").fill("customer waits")
    page.get_by_role("button", name="Sign off").click()
    expect(page.get_by_role("heading", name="Signed as a simulation")).to_be_visible()
    says = {
        "Print the sheet": "Load run holds", "Certificate for the customer": "Under load it ran", "Label for the pack": "Pack to prove", "Note for the collection": "group 2",
    }  # fmt: skip
    for link, words in says.items():
        href = page.get_by_role("link", name=link).get_attribute("href")
        pdf = httpx.get(timeout=PATIENT_S, url=f"{demo}{href}").content
        text = " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf)).pages).split())
        assert words in text, (link, text[:300])
