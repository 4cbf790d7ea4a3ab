"""Live instruments on screen: a run captured hands-free, the pedal, a virtual charge, and an instrument that is dead."""

from collections.abc import Iterator

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S, running
from tests.api.conftest import job_body

PEDAL = "PageDown"
PUMP, SHEARS = 9, 7


@pytest.fixture(scope="module")
def demo() -> Iterator[str]:
    # One of its own: these tests measure and charge packs that others look at.
    with running("demo") as address:
        yield address


def readings(demo: str, job: int) -> list[dict]:
    return httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["facts"]["readings"]


def test_a_run_is_captured_from_the_stand_in_meter_with_no_key_but_the_pedal(page: Page, demo: str) -> None:
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=job_body(series=2)).json()["facts"]["id"]
    spec = {"soc": [0.6, 0.62], "seed": 3}
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/virtual", json=spec).raise_for_status()
    page.goto(f"{demo}/jobs/{job}/probe")
    page.locator(".entry input").wait_for()
    page.locator("button", has_text="live").click()
    page.locator(".entry output .dot, .entry output .ring").first.wait_for()
    # The first point by the pedal as soon as the probe is down, the others as each value settles.
    expect(page.locator(".entry output")).to_contain_text("3.")
    page.keyboard.press(PEDAL)
    expect(page.get_by_role("heading", level=1)).to_have_text("Every point is read")
    taken = readings(demo, job)
    assert [r["point"]["kind"] for r in taken] == ["tap", "tap", "pack"]
    assert {r["source"] for r in taken} == {"stand-in multimeter"}
    # Every tap is a cell above the last, and the terminals are the top tap: the meter states 0.5 % and 2 digits.
    volts = [r["volts"] for r in taken]
    steps = [b - a for a, b in zip([0.0, volts[0]], volts[:2], strict=True)]
    assert all(3.5 < step < 4.2 for step in steps)
    assert volts[2] == pytest.approx(volts[1], abs=0.01)
    page.close()


def test_the_meter_goes_where_the_figure_is_clicked_and_the_clock_as_fast_as_told(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{PUMP}/instruments")
    page.get_by_role("button", name="read tap 3 against tap 0").press("Enter")
    shown = page.get_by_label("stand-in multimeter shows")
    expect(shown).to_contain_text("12.")
    expect(page.get_by_text("tap 3 on 0")).to_be_visible()
    page.get_by_role("button", name="sensor").click()
    expect(shown).to_contain_text("13.")  # 10 kΩ at 22 °C is 11.2 kΩ, and 1.8 kΩ of dirt
    page.get_by_role("button", name="move the leads").click()
    expect(shown).to_contain_text("overflow")
    page.get_by_role("button", name="×600").click()
    expect(page.get_by_text("simulated ×600").first).to_be_visible()
    # A connection that is lost for a moment takes the clock from the page; it comes back with the time as it is then.
    expect(page.locator(".clock .big")).to_be_visible()
    seconds = """() => (document.querySelector('.clock .big')?.textContent ?? '').slice(-8).split(':').map(Number)
        .reduce((sum, n) => sum * 60 + n, 0)"""
    before, began = page.evaluate(seconds), page.evaluate("performance.now()")
    far = page.wait_for_function(
        f"before => {{ const now = ({seconds})(); return now > before + 900 && now }}", arg=before
    )
    passed, took_s = far.json_value() - before, (page.evaluate("performance.now()") - began) / 1000
    # The page's clock moves once a second, so what it shows may be one behind or ahead.
    assert 600 * (took_s - 2) < passed < 600 * (took_s + 2)
    page.get_by_role("button", name="pause").click()
    expect(page.get_by_text("simulated, paused").first).to_be_visible()
    page.close()


def test_two_taps_picked_in_the_figure_are_read_as_a_span_and_the_run_goes_on(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{SHEARS}/probe")
    heading = page.get_by_role("heading", level=1)
    next_point = heading.inner_text()
    page.get_by_role("button", name="read tap 2 against tap 0").press("Enter")
    page.get_by_role("button", name="read tap 5 against tap 0").press("Shift+Enter")
    expect(heading).to_have_text("Tap 5 against tap 2")
    page.locator(".entry input").fill("1226")  # without a point: three groups at about 4.09 V
    page.keyboard.press("Enter")
    expect(heading).to_have_text(next_point)
    taken = readings(demo, SHEARS)[-1]
    assert taken["point"] == {"kind": "span", "from_tap": 2, "to_tap": 5}
    assert taken["volts"] == pytest.approx(12.26)
    page.close()


def test_a_group_charges_on_the_stand_in_and_the_rail_tells_simulated_time(page: Page, demo: str) -> None:
    volts = [4.09, 4.09, 4.09, 4.09, 4.09, 4.09, 3.53, 4.09, 4.09, 4.09, 3.74, 4.09]
    with httpx.Client(base_url=demo, timeout=PATIENT_S) as client:
        client.post(f"/api/jobs/{SHEARS}/sets", json={"purpose": "probe"})
        for k, v in enumerate(volts):
            body = {"point": {"kind": "group", "group": k + 1}, "volts": v, "key": f"live-test-{k}"}
            client.post(f"/api/jobs/{SHEARS}/readings", json=body).raise_for_status()
    page.goto(f"{demo}/jobs/{SHEARS}/level")
    page.get_by_role("button", name="Start group 7").click()
    expect(page.get_by_role("heading", name="Group 7 is on the charger")).to_be_visible()
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{SHEARS}/virtual/clock", json={"speed": 600})
    expect(page.get_by_label("Waiting").get_by_text("simulated ×600")).to_be_visible()
    expect(page.get_by_text("the charger has stopped by itself")).to_be_visible(timeout=30_000)
    counted = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{SHEARS}/live").json()["virtual"]["sources"][
        "cell_charger"
    ]
    assert counted["doing"] == "done"
    page.close()


def test_a_dead_instrument_says_so_within_two_seconds_and_holds_nothing_up(page: Page, demo: str) -> None:
    page.goto(f"{demo}/instruments")
    page.get_by_text("Enter an instrument on the network").click()
    page.get_by_label("Called").fill("Far meter")
    page.get_by_label("Address, in numbers").fill("meter.example")
    page.get_by_role("button", name="Enter the instrument").click()
    expect(page.get_by_role("alert")).to_contain_text("no address in numbers")
    expect(page.get_by_label("Called")).to_have_value("Far meter")
    page.get_by_label("Address, in numbers").fill("127.0.0.1")
    page.get_by_role("textbox", name="Port").fill("1")
    page.get_by_role("button", name="Enter the instrument").click()
    expect(page.get_by_text("not there: nothing listens")).to_be_visible(timeout=2500)
    page.get_by_role("button", name="Take off the list", exact=True).click()
    expect(page.get_by_text("None entered.")).to_be_visible()
    page.close()
