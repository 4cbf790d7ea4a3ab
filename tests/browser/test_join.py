"""Join on screen: the map turned over, strips compared, a coupon logged, a polarity run with one wrong cell, the list, the wiring."""

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S
from tests.api.conftest import job_body
from tests.browser.hands import HAND_MS


@pytest.fixture
def job(demo: str) -> int:
    body = job_body(series=2)
    body["intake"]["pack_name"] = "Block to join"
    found = int(httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=body).json()["facts"]["id"])
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{found}/stage", json={"stage": "join"}).raise_for_status()
    return found


def test_from_the_map_to_the_wiring(page: Page, demo: str, job: int) -> None:
    page.goto(f"{demo}/jobs/{job}/join")
    expect(page.get_by_role("img", name="The block, upper side up")).to_be_visible()
    above = page.get_by_role("button", name=re.compile("c1, group 1, positive up")).bounding_box()
    # Turned over at one key: the other poles up, left and right exchanged.
    page.keyboard.press("f", delay=HAND_MS)
    expect(page.get_by_role("img", name="The block, lower side up")).to_be_visible()
    below = page.get_by_role("button", name=re.compile("c1, group 1, negative up")).bounding_box()
    assert above is not None
    assert below is not None
    assert below["x"] > above["x"] + 20
    assert abs(below["y"] - above["y"]) < 2
    page.keyboard.press("f")

    # Every cell read in its place: the third stands wrong, is shown, and stops the welding.
    cells = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/block").json()["map"]["cells"]
    for n, cell in enumerate(cells):
        expect(page.get_by_text(f"{cell['cell']}, red on the pole that lies up")).to_be_visible()
        plus = (cell["top"] == "positive") != (n == 2)
        page.get_by_label(f"{cell['cell']} reads, V").fill("3,7" if plus else "-3,7")
        page.keyboard.press("Enter")
    expect(page.locator(".stop")).to_contain_text("Cell c3 stands the wrong way round")
    expect(page.locator(".cell.wrong")).to_have_count(1)
    page.get_by_role("button", name=re.compile("^c3, group")).click()
    page.get_by_label("c3 reads, V").fill("-3.7" if cells[2]["top"] == "negative" else "3.7")
    page.keyboard.press("Enter")
    expect(page.locator(".stop")).to_have_count(0)

    # Strips side by side, and another choice taken; a measured length tells its metal.
    page.get_by_role("link", name="Strips").click()
    page.get_by_role("button", name="use it: nickel, 2 layers", exact=True).click()
    expect(page.get_by_role("row").filter(has_text="as entered")).to_contain_text("nickel, 2 layers")
    page.get_by_text("Is it nickel?").click()
    page.get_by_label("Four wires read, mΩ").fill("12.5")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="plated steel, not nickel")).to_be_visible()

    # A coupon of a new recipe, and this block is welded by it.
    page.get_by_role("link", name="Weld lab").click()
    page.get_by_text("Another welder, strip or cell").click()
    page.get_by_label("Welder").fill("bench welder")
    page.get_by_label("Strip", exact=True).fill("nickel 0.15")
    page.get_by_label("On", exact=True).fill("dead 18650")
    page.get_by_label("Coupon at").fill("9")
    page.get_by_role("button", name="weak, it peels").click()
    expect(page.get_by_text("1 coupon so far")).to_be_visible()
    page.get_by_role("button", name="Weld this block so").click()
    expect(page.get_by_text("Welded with bench welder")).to_be_visible()

    # Build up: no weld while the last coupon was weak; then by key, in order, and still so after a reload.
    page.get_by_role("link", name="Work list").click()
    # What is not taken down is not built up.
    page.get_by_role("button", name="Build up").click()
    page.get_by_role("button", name=re.compile("^Step done")).click()
    expect(page.get_by_role("alert")).to_contain_text("“Take down” is not done")
    page.get_by_role("button", name="Take down").click()
    for done in range(1, 8):
        page.keyboard.press("d")
        expect(page.get_by_text(f"{done} of 7 done")).to_be_visible()
        if done < 7:
            expect(page.get_by_role("button", name=re.compile("^Step done"))).to_be_enabled()
    page.get_by_role("button", name="Build up").click()
    for done in (1, 2):
        expect(page.get_by_role("button", name=re.compile("^Step done"))).to_be_enabled()
        page.keyboard.press("d")
        expect(page.get_by_text(f"{done} of 11 done")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Step done")).click()
    expect(page.get_by_role("alert")).to_contain_text("the last coupon of nickel 0.15 with bench welder was weak")
    page.get_by_role("link", name="Weld lab").click()
    page.get_by_label("Coupon at").fill("14")
    page.get_by_role("button", name="good, a button tears out").click()
    expect(page.get_by_text("2 coupons")).to_be_visible()
    page.get_by_role("link", name="Work list").click()
    page.get_by_role("button", name="Build up").click()
    expect(page.get_by_role("button", name=re.compile("^Step done"))).to_be_enabled()
    page.keyboard.press("d")
    expect(page.get_by_text("3 of 11 done")).to_be_visible()
    page.keyboard.press("d")
    expect(page.get_by_text("4 of 11 done")).to_be_visible()
    # The last weld cools, on the rail as well; who knows that it has goes on.
    expect(page.get_by_label("Waiting").get_by_text("cools")).to_be_visible()
    page.reload()
    page.get_by_role("button", name="Build up").click()
    expect(page.get_by_text("4 of 11 done")).to_be_visible()
    page.get_by_label("it has already, go on").check()
    page.keyboard.press("d")
    expect(page.get_by_text("5 of 11 done")).to_be_visible()
    # The plus lead is read: turned round it stops, on record; right, it goes on.
    field = page.get_by_label("main lead + reads, V")
    field.fill("-7.4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("wrong way round")
    field.fill("7.4")
    page.keyboard.press("Enter")
    expect(page.get_by_text("6 of 11 done")).to_be_visible()

    # Wiring, pin by pin.
    page.get_by_role("link", name="Wiring", exact=True).click()
    for pin, read in ((0, "0"), (1, "3.7"), (2, "3.7")):
        page.get_by_label(f"pin {pin} reads, V").fill(read)
        page.keyboard.press("Enter")
        expect(
            page.get_by_role("row").filter(
                has_text="group 2" if pin == 2 else "pack minus" if pin == 0 else "plus of group 1"
            )
        ).to_contain_text("✗" if pin == 2 else "✓")
    expect(page.get_by_role("alert")).to_contain_text("that is tap 1")


def test_the_drawing_is_true_to_a_tenth_of_a_millimetre(page: Page, demo: str, job: int) -> None:
    block = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/block").json()
    px = 96 / 25.4
    for side, cells in (("top", block["map"]["cells"]), ("bottom", block["below"])):
        page.set_content(httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/block.svg?side={side}").text)
        boxes = page.evaluate(
            "() => [...document.querySelectorAll('circle')].map((c) => { const b = c.getBoundingClientRect();"
            " return [c.dataset.cell, b.x + b.width / 2, b.y + b.height / 2, c.r.baseVal.value * c.getScreenCTM().a] })"
        )
        at = {name: (x / px, y / px, r / px) for name, x, y, r in boxes}
        first = cells[0]
        for c in cells:
            x, y, r = at[c["cell"]]
            x0, y0, _ = at[first["cell"]]
            assert abs((x - x0) - (c["x_mm"] - first["x_mm"])) < 0.1
            assert abs((y - y0) - (c["y_mm"] - first["y_mm"])) < 0.1
            assert abs(2 * r - block["entered"]["diameter_mm"]) < 0.1
        bar = page.evaluate(
            "() => { const l = document.querySelector('#scale-bar'), m = l.getScreenCTM(); return (l.x2.baseVal.value - l.x1.baseVal.value) * m.a }"
        )
        assert abs(bar / px - 50) < 0.1
