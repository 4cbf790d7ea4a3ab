"""Join on screen: the map turned over, strips compared, a coupon logged, a polarity run with one wrong cell, the list, the wiring."""

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from tests.api.conftest import job_body


@pytest.fixture
def job(demo: str) -> int:
    body = job_body(series=2)
    body["intake"]["pack_name"] = "Block to join"
    found = int(httpx.post(f"{demo}/api/jobs", json=body).json()["facts"]["id"])
    httpx.post(f"{demo}/api/jobs/{found}/stage", json={"stage": "join"}).raise_for_status()
    return found


def test_from_the_map_to_the_wiring(page: Page, demo: str, job: int) -> None:
    page.goto(f"{demo}/jobs/{job}/join")
    expect(page.get_by_role("img", name="The block, upper side up")).to_be_visible()
    above = page.get_by_role("button", name=re.compile("c1, group 1, positive up")).bounding_box()
    # Turned over at one key: the other poles up, left and right exchanged.
    page.keyboard.press("f")
    expect(page.get_by_role("img", name="The block, lower side up")).to_be_visible()
    below = page.get_by_role("button", name=re.compile("c1, group 1, negative up")).bounding_box()
    assert above is not None
    assert below is not None
    assert below["x"] > above["x"] + 20
    assert abs(below["y"] - above["y"]) < 2
    page.keyboard.press("f")

    # Every cell read in its place: the third stands wrong, is shown, and stops the welding.
    cells = httpx.get(f"{demo}/api/jobs/{job}/block").json()["map"]["cells"]
    for n, cell in enumerate(cells):
        expect(page.get_by_text(f"{cell['cell']}, red on the upper pole")).to_be_visible()
        plus = (cell["top"] == "positive") != (n == 2)
        page.get_by_label(f"{cell['cell']} reads, V").fill("3,7" if plus else "-3,7")
        page.keyboard.press("Enter")
    expect(page.locator(".stop")).to_contain_text("Cell c3 stands the wrong way round")
    expect(page.locator(".cell.wrong")).to_have_count(1)
    page.get_by_role("link", name="Build up").click()
    page.get_by_role("button", name=re.compile("^Done")).click()
    expect(page.get_by_role("alert")).to_contain_text("Nothing is welded before it is right")
    page.get_by_role("link", name="Map", exact=True).click()
    page.get_by_role("button", name=re.compile("^c3, group")).click()
    page.get_by_label("c3 reads, V").fill("-3.7" if cells[2]["top"] == "negative" else "3.7")
    page.keyboard.press("Enter")
    expect(page.locator(".stop")).to_have_count(0)

    # Strips side by side, and another choice kept.
    page.get_by_role("link", name="Strips").click()
    expect(page.get_by_role("row").filter(has_text="plated steel, 1 layer")).to_be_visible()
    page.get_by_role("link", name="Map", exact=True).click()
    page.get_by_role("button", name="2 layers").click()
    page.get_by_role("link", name="Strips").click()
    expect(page.get_by_role("row").filter(has_text="as told")).to_contain_text("nickel, 2 layers")

    # A coupon of a new recipe.
    page.get_by_role("link", name="Weld lab").click()
    page.get_by_label("Welder").fill("pedal welder")
    page.get_by_label("Strip").fill("nickel 0.15")
    page.get_by_label("On", exact=True).fill("dead 18650")
    page.get_by_label("Coupon at").fill("9")
    page.get_by_role("button", name="weak, it peels").click()
    expect(page.get_by_role("img", name="Coupons by setting")).to_be_visible()
    expect(page.get_by_text("1 coupon so far")).to_be_visible()

    # Ticked off by key in its order, and still so after a reload.
    page.get_by_role("link", name="Build up").click()
    expect(page.get_by_role("button", name=re.compile("^Done"))).to_be_enabled()
    page.keyboard.press("d")
    expect(page.locator("li.done")).to_have_count(1)
    page.reload()
    expect(page.locator("li.done")).to_have_count(1)
    page.get_by_role("link", name="Wiring", exact=True).click()
    expect(page.get_by_role("row").filter(has_text="plus of group 2")).to_be_visible()
