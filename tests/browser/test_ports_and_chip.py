"""A hand meter on a lead from its port to a reading taken by itself; the chip of the cellar tablet from silence to Judge; a log of odd columns."""

from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S, running

TABLET = "Cellar tablet"


@pytest.fixture(scope="module")
def demo() -> Iterator[str]:
    # One of its own: these tests plug instruments in that others would read.
    with running("demo") as address:
        yield address


def job_of(demo: str, name: str) -> int:
    return next(
        j["id"] for j in httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs").json()["jobs"] if j["pack_name"] == name
    )


def turn(demo: str, **knob: object) -> None:
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/ports/practice/meter", json=knob).raise_for_status()


@pytest.mark.long
def test_a_hand_meter_is_found_taught_and_its_settled_values_are_taken(page: Page, demo: str) -> None:
    page.goto(f"{demo}/instruments")
    page.get_by_role("button", name="Plug in two practice ports").click()
    port = page.locator("li", has_text="Practice hand meter")
    port.get_by_role("button", name="Find out what speaks there").click()
    form = page.locator("form.found")
    expect(form.locator("pre")).to_contain_text("4.112 V DC")
    form.get_by_role("button", name="Enter what speaks there").click()
    expect(page.get_by_role("alert")).to_be_visible()
    form.get_by_label("Called").fill("Hand meter")
    form.get_by_role("button", name="Enter what speaks there").click()
    expect(page.get_by_label("Hand meter (practice) shows")).to_contain_text("4.112")
    page.get_by_role("link", name="Teach it").click()
    # What it does not show is not understood, and stands there to be corrected.
    page.get_by_label("The display shows").fill("3.5 V")
    page.get_by_role("button", name="Compare with the line").click()
    expect(page.get_by_text("and the display shows 3.5 V")).to_be_visible()
    page.get_by_label("The display shows").fill("4,112")
    page.get_by_role("button", name="Compare with the line").click()
    expect(page.get_by_text("is 4.112 V: understood")).to_be_visible()
    page.get_by_role("button", name="Press HOLD").click()
    page.get_by_role("button", name="HOLD is pressed now").click()
    expect(page.get_by_text("is kept as this meter's word")).to_be_visible()
    expect(page.locator("tbody tr").first).to_contain_text("held: not taken")
    page.get_by_role("button", name="HOLD is pressed: release it").click()
    turn(demo, knob="ohm", at_leads=None)
    page.get_by_role("button", name="It shows overload now").click()
    expect(page.locator("li.done")).to_have_count(3)
    expect(page.get_by_text("Understood: a settled voltage is taken by itself")).to_be_visible()

    pack = {"chemistry": "nmc", "series": 2, "parallel": 1, "rated_ah": 2.5}
    safe = dict.fromkeys(("swollen", "leaking", "hot", "wet", "crushed", "smell"), False)
    intake = {"customer": "Row team Z", "pack_name": "Lamp", "pack": pack}
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json={"intake": intake, "safety": safe}).json()[
        "facts"
    ]["id"]

    def taken() -> list[float]:
        return [
            r["volts"] for r in httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["facts"]["readings"]
        ]

    turn(demo, knob="volts", at_leads=None)
    page.goto(f"{demo}/jobs/{job}/probe")
    page.locator(".entry input").wait_for()
    page.locator("button", has_text="live").click()
    expect(page.get_by_label("live meter")).to_be_visible()
    # On ohms, and held, nothing is taken, however steady it stands.
    turn(demo, knob="ohm", at_leads=3700.0)
    page.wait_for_timeout(3000)
    turn(demo, knob="volts", at_leads=3.777)
    turn(demo, knob="volts", at_leads=3.777, hold=True)
    page.wait_for_timeout(2500)
    assert taken() == []
    turn(demo, knob="volts", at_leads=None)
    page.wait_for_timeout(1200)
    turn(demo, knob="volts", at_leads=3.812)
    expect(page.locator(".entry")).to_be_visible()
    page.wait_for_function("() => document.body.innerText.includes('3.812')")
    for _ in range(100):
        if taken():
            break
        page.wait_for_timeout(200)
    assert taken() == [3.812]
    # What a practice meter read says so on record.
    [reading] = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["facts"]["readings"]
    assert reading["source"] == "Hand meter (practice)"
    page.close()


def test_the_tablets_chip_from_silence_to_judge(page: Page, demo: str) -> None:
    job = job_of(demo, TABLET)
    page.goto(f"{demo}/jobs/{job}/chip")
    expect(page.get_by_role("heading", level=1)).to_have_text("The chip has lost its own supply")
    expect(page.get_by_label("State of charge by the chip")).to_have_text("52 %")
    page.get_by_role("button", name="Read the chip").click()
    expect(page.get_by_role("alert")).to_contain_text("nothing answers at address 0x0b")
    page.get_by_role("button", name="Look at the addresses next to").click()
    expect(page.get_by_text("Nothing answers there.")).to_be_visible()
    page.locator("label.fed").click()
    page.get_by_role("button", name="Read the chip").click()
    expect(page.get_by_text("1 more kept")).to_be_visible()
    expect(page.get_by_label("What cannot be true").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("button", name="Watch it under a load").click()
    expect(page.locator(".watch td").first).to_contain_text("11.5")
    page.get_by_role("button", name="Stop watching").click()
    # The gauge of another tool, pasted with its bytes exchanged: seen as that, and turned back by a press.
    page.get_by_text("Registers from a text").click()
    area = page.get_by_label("Registers as printed")
    area.fill("0x08 a60b\n0x09 432e\n0x1a 3100\n0x0d 5f00\n0x3f 0410")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("the bytes of each word exchanged")).to_be_visible()
    expect(page.locator(".text td", has_text="11.843 V")).to_be_visible()
    page.get_by_role("button", name="Read the bytes as written").click()
    expect(page.locator(".text td", has_text="11.843 V")).to_have_count(0)
    area.fill("hello")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("alert")).to_contain_text("holds no register")
    expect(area).to_have_value("hello")
    page.goto(f"{demo}/jobs/{job}/judge")
    expect(
        page.get_by_text("The chip answers only when it is fed from outside")
        .or_(page.get_by_text("answers only"))
        .first
    ).to_be_visible()
    page.close()


def test_a_log_of_odd_columns_is_set_right_once_and_known_from_then_on(page: Page, demo: str, tmp_path: Path) -> None:
    job = job_of(demo, TABLET)
    odd = tmp_path / "odd.csv"
    rows = [f"{k * 60};{12.45 - k * 0.026:.3f};{1250}" for k in range(121)]
    odd.write_text("\n".join(["Tick;Pot;Flow", *rows]).replace(".", ","), encoding="utf-8")
    page.goto(f"{demo}/jobs/{job}/measures?of=capacity")
    page.locator("input[type=file]").first.set_input_files(odd)
    expect(page.get_by_role("alert")).to_contain_text("no column for seconds")
    for column, role in (("Tick", "seconds"), ("Pot", "volts"), ("Flow", "amps")):
        field = page.get_by_role("combobox", name=f"{column} is")
        field.press("Enter")
        # Its own list: that of the field before may still be closing.
        page.locator(f"#{field.get_attribute('aria-controls')}").get_by_role("option", name=role).click()
        expect(page.locator(".column", has_text=column)).to_contain_text(role)
    # 1250 without a unit is no current of a small pack: thousandths, and said. Two hours of 1.25 A are 2.5 Ah.
    expect(page.get_by_text("taken as thousandths")).to_be_visible()
    expect(page.locator("strong.figure").first).to_have_text("2.50 Ah")
    page.reload()
    page.locator("input[type=file]").first.set_input_files(odd)
    expect(page.get_by_text("columns as chosen last time")).to_be_visible()
    page.get_by_role("button", name="Record in the job").click()
    expect(page.locator(".kept")).to_contain_text("2.50 Ah")
    page.close()
