"""From Plan to the printed label by the buttons that the pages offer: a group left out, and a pack that gets new cells."""

import io
import re
from datetime import UTC, datetime

import httpx
import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from running import PATIENT_S
from saldatura.job.assessment.words import equipped as equipped_words
from tests.api.conftest import SAFE
from tests.saying import says


@pytest.fixture
def bench(demo: str) -> httpx.Client:
    return httpx.Client(base_url=demo, timeout=PATIENT_S)


def taken_in(bench: httpx.Client, name: str, pack: dict[str, object], volts: list[float]) -> int:
    intake = {"customer": "Row team Z", "pack_name": name, "pack": pack, "age_years": 4, "kind": "appliance"}
    job = int(bench.post("/api/jobs", json={"intake": intake, "safety": SAFE}).json()["facts"]["id"])
    for k, v in enumerate(volts, start=1):
        reading = {"point": {"kind": "group", "group": k}, "volts": v, "key": f"became-{job}-{k}"}
        bench.post(f"/api/jobs/{job}/readings", json=reading).raise_for_status()
    return job


def post(bench: httpx.Client, job: int, path: str, body: dict[str, object]) -> None:
    bench.post(f"/api/jobs/{job}/{path}", json=body).raise_for_status()


def take(page: Page, option: str, why: str) -> None:
    page.get_by_role("button", name=re.compile(option)).first.click()
    page.get_by_role("button", name="The customer takes this").click()
    page.get_by_label(re.compile("Why it is done|Note")).fill(why)
    page.get_by_label("Agreed with").fill("Marta Kofler")
    page.get_by_role("button", name="Record the choice").click()
    page.get_by_role("button", name=re.compile("Open its work list in Join")).click()


def work_through(page: Page, bench: httpx.Client, job: int, until: str | None = None, case: bool = False) -> None:
    """Each step of the list as the page offers it: read where it asks for a reading, else ticked; `case`: what closes the case as well."""
    while True:
        lists = bench.get(f"/api/jobs/{job}/block").json()["lists"]
        work = next((w for w in lists if w["next"] is not None and (case or w["name"] != "case")), None)
        if work is None:
            return
        step = next(s for s in work["steps"] if s["key"] == work["next"])
        here = page.locator("li.next")
        expect(here.locator("span.what")).to_contain_text(step["action"])
        # What cures or cools is told by the list; the page shows it a moment later where the machine is busy.
        until_ = [datetime.fromisoformat(s["until"]) for w in lists for s in w["steps"] if s.get("until")]
        if any(moment > datetime.now(UTC) for moment in until_):
            page.get_by_label("it has already, go on").check()
        if step["asks"]:
            page.get_by_label(f"{step['joint']} reads, V").fill(f"{step['asks']['expected_v']:.2f}")
            page.keyboard.press("Enter")
        else:
            here.get_by_role("button", name=re.compile("^Step done")).click()
        expect(page.locator("li.next span.what", has_text=step["action"])).to_have_count(0)
        if step["key"] == until:
            return


def proved(page: Page, group_v: float, series: int) -> None:
    """The proving readings, typed one after another as the page asks for them: taps, groups, the terminals."""
    page.get_by_role("button", name="A night ago or more").click()
    heading = page.locator("section h1").first
    for _ in range(series + 1):
        expect(page.locator(".entry input")).to_be_visible()
        asked = heading.inner_text()
        number = int((re.search(r"\d+", asked) or ["1"])[0])
        value = group_v * (series if asked.startswith("Pack") else number if asked.startswith("Tap") else 1)
        page.locator(".entry input").press_sequentially(f"{value:.2f}")
        page.keyboard.press("Enter")
        expect(heading).not_to_have_text(asked)


def printed(page: Page, demo: str, link: str) -> str:
    href = page.get_by_role("link", name=link).get_attribute("href")
    pdf = httpx.get(timeout=PATIENT_S, url=f"{demo}{href}").content
    return " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf)).pages).split())


def signed(page: Page, because: str = "") -> None:
    """Sign the job off by the page; `because`: why without a pass, which is asked of no pack that passed."""
    page.get_by_label("Who signs").fill("Ilka")
    reason = page.get_by_label("Why it goes back without a pass")
    if because:
        reason.fill(because)
    else:
        expect(reason).to_have_count(0)
    page.get_by_role("button", name="Sign off").click()
    expect(page.get_by_role("heading", name="Signed and handed over")).to_be_visible()


def test_a_group_is_left_out_from_plan_to_the_label(page: Page, demo: str, bench: httpx.Client) -> None:
    pack = {"chemistry": "lipo", "series": 3, "parallel": 1, "rated_ah": 2.2, "load_a": 2.0}
    job = taken_in(bench, "Press gauge", pack, [3.86, 3.86, 3.70])
    post(bench, job, "notes", {"evidence": [{"kind": "seen", "what": "swollen", "at": {"groups": [3]}}]})
    post(bench, job, "release", {"by": "Ilka", "reason": "to cut it out", "cells": "the third pouch", "groups": [3]})
    need = {"load_a": 2.0, "cutoff_v": 6.0, "charger_v": 8.4, "charger_adjustable": True}
    post(bench, job, "need", {"need": need, "prices": {"labour_h": 36, "cell": 9, "original": 92}})
    post(
        bench,
        job,
        "block",
        {"arrangement": "line", "diameter_mm": 30, "method": {"by": "solder", "tabs": "plated", "iron_w": 90}},
    )
    post(bench, job, "stage", {"stage": "plan"})
    page.goto(f"{demo}/jobs/{job}/plan")
    expect(page.locator(".condemned")).to_contain_text("swollen")
    take(page, "Leave group 3 out", "a swollen pouch; the gauge runs from 6 V")
    work_through(page, bench, job)
    expect(page.get_by_text("Group 3 is left out, and its list is done.")).to_be_visible()
    expect(page.get_by_text("Left out: group 3")).to_be_visible()
    expect(page.locator("a.name")).to_contain_text("2S1P, was 3S1P")
    expect(page.get_by_role("button", name=re.compile("^group 3"))).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Prove it")).click()
    proved(page, 3.86, 2)
    page.goto(f"{demo}/jobs/{job}/level")
    expect(page.get_by_text("ends at 12.6 V: that is dangerous")).to_be_visible()
    page.goto(f"{demo}/jobs/{job}/hand-over")
    expect(page.get_by_text("2S1P now")).to_be_visible()
    signed(page)
    label = printed(page, demo, "Label for the pack")
    assert "2S1P" in label
    assert "charge to 8.4 V only" in label
    assert says(equipped_words.charge_it_only, printed(page, demo, "Certificate for the customer"))
    assert "swollen" in printed(page, demo, "Note for the collection")
    assert "It came as 3S1P" in printed(page, demo, "Print the sheet")


def test_a_recell_from_plan_to_the_label(page: Page, demo: str, bench: httpx.Client) -> None:
    pack = {"chemistry": "nmc", "series": 2, "parallel": 1, "rated_ah": 2.5, "load_a": 2.0}
    job = taken_in(bench, "Row lamp", pack, [3.60, 0.85])
    post(bench, job, "need", {"prices": {"labour_h": 36, "cell": 4, "original": 60}})
    post(bench, job, "block", {"arrangement": "line", "method": {"by": "solder", "iron_w": 90}})
    post(bench, job, "stage", {"stage": "plan"})
    page.goto(f"{demo}/jobs/{job}/plan")
    take(page, "New cells throughout", "all of an age")
    work_through(page, bench, job, until="cells_in:new")
    # The old readings are gone, the new cells are marked, and are read in their places before anything is joined.
    expect(page.locator(".stop")).to_contain_text("2 cells are not read in place yet")
    expect(page.get_by_role("button", name=re.compile("group 2 .new cells., not read"))).to_be_visible()
    expect(page.locator("circle.fresh")).to_have_count(2)
    page.get_by_role("link", name="Map", exact=True).click()
    for cell in bench.get(f"/api/jobs/{job}/block").json()["map"]["cells"]:
        page.get_by_label(f"{cell['cell']} reads, V").fill("3.58" if cell["top"] == "positive" else "-3.58")
        page.keyboard.press("Enter")
        expect(page.get_by_label(f"{cell['cell']} reads, V")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Go on with the list")).click()
    work_through(page, bench, job)
    page.get_by_role("button", name=re.compile("^Read the new cells of groups 1 and 2")).click()
    for k, value in enumerate(("3.58", "3.58"), start=1):
        expect(page.get_by_role("heading", name=f"Group {k}")).to_be_visible()
        page.locator(".entry input").press_sequentially(value)
        page.keyboard.press("Enter")
    expect(page.get_by_text("2 of 2")).to_be_visible()
    page.goto(f"{demo}/jobs/{job}/hand-over")
    signed(page, because="the customer proves it")
    certificate = printed(page, demo, "Certificate for the customer")
    assert "New cells in groups 1 and 2" in certificate
    assert "12 months on the new cells" in certificate
    assert "2S1P" in printed(page, demo, "Label for the pack")
    assert "was under the floor" in printed(page, demo, "Note for the collection")
