"""The photo pane: a picture taken in, taps pinned by keyboard, the next point pulsing, a tap read from its pin."""

import re
from pathlib import Path

import httpx
from playwright.sync_api import Page, expect

from running import PATIENT_S
from tests.api.conftest import job_body
from tests.conftest import picture


def test_taps_are_pinned_on_a_photo_and_the_next_point_pulses_there(page: Page, demo: str, tmp_path: Path) -> None:
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=job_body()).json()["facts"]["id"]
    page.goto(f"{demo}/jobs/{job}/probe?view=photo")
    page.get_by_label("What it shows").fill("Pump, opened")
    chooser = page.locator("input[type=file]")
    chooser.set_input_files({"name": "note.jpg", "mimeType": "image/jpeg", "buffer": b"Two sacks of sulphur, please"})
    expect(page.get_by_role("alert")).to_contain_text("note.jpg is not a JPEG, PNG or WebP picture")
    huge = tmp_path / "huge.jpg"
    huge.write_bytes(bytes(25 * 2**20))
    chooser.set_input_files(huge)
    expect(page.get_by_role("alert")).to_contain_text("huge.jpg has 25 MiB; 24 are taken")
    expect(page.get_by_label("What it shows")).to_have_value("Pump, opened")
    chooser.set_input_files({"name": "pump.jpg", "mimeType": "image/jpeg", "buffer": picture(1200, 800)})
    plate = page.get_by_role("group", name=re.compile("Pump, opened: arrow keys move the cross, Enter pins tap 0"))
    plate.press("ArrowLeft")
    page.keyboard.press("Enter")
    expect(page.get_by_role("group", name=re.compile("Enter pins tap 1"))).to_be_visible()
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="done with pins").click()

    pins = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["assessment"]["photos"][0]["pins"]
    # From the middle: one step of 2 % to the left, then five to the right.
    assert [(p["place"]["tap"], round(p["x"], 3), p["y"]) for p in pins] == [(0, 0.48, 0.5), (1, 0.58, 0.5)]
    expect(page.locator(".pin.lit")).to_have_count(2)
    page.keyboard.press("p")
    page.get_by_role("button", name="read tap 1", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap 1 against tap 0")
    page.keyboard.type("4.02\n")
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap 2 against tap 0")
    expect(page.locator(".pin.lit")).to_have_count(1)
    expect(page.get_by_text("No pin yet for tap 2")).to_be_visible()
