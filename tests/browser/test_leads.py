"""A sheared balance lead, by keyboard: every loose lead measured, put in order, and joined with a slip put right."""

import httpx
from playwright.sync_api import Browser, Page, expect

from running import PATIENT_S
from tests.api.conftest import job_body

DRONE = 10
GROUP_V = 3.88


def test_leads_are_put_in_order_and_joined_one_at_a_time(browser: Browser, demo: str) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
    page.goto(f"{demo}/jobs/{DRONE}/leads")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_have_text("Which lead is the reference?")

    def say(text: str) -> None:
        page.keyboard.type(text)
        page.keyboard.press("Enter")

    say("black")
    taps = {"black": 0, "yellow": 2, "1": 3, "white": 1, "blue": 5, "2": 4, "red": 6}
    for n, (name, tap) in enumerate(list(taps.items())[1:]):
        expect(heading).to_have_text(f"Lead {n + 2} of 7")
        if n == 0:
            say("yellow")  # no volts: one line says so, and what was typed stays
            expect(page.get_by_role("alert")).to_contain_text("has no volts")
            expect(page.locator(".entry input")).to_have_value("yellow")
            page.keyboard.type(" ")
            say(f"{tap * GROUP_V:.2f}".replace(".", ","))
        else:
            say(f"{tap * GROUP_V:.2f}" if name.isdigit() else f"{name} {tap * GROUP_V:.2f}")
    order = sorted(taps, key=lambda name: taps[name])
    page.get_by_role(
        "img", name=f"from the wire side: {', '.join(f'pin {k} {n}' for k, n in enumerate(order))}"
    ).wait_for()
    for tap, name in enumerate(order):
        expect(heading).to_have_text(f"Join {name} to pin {tap}")
        if tap == 3:
            say(f"{5 * GROUP_V:.2f}")
            expect(heading).to_have_text("Pin 3 is not right")
            expect(page.get_by_role("alert")).to_contain_text("lead blue sits on this pin")
        say(f"{tap * GROUP_V:.2f}")
    expect(heading).to_have_text("Every lead is on its pin")
    joined = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{DRONE}").json()["facts"]["joined"]
    assert [(j["tap"], j["lead"]) for j in joined] == [(k, n) for k, n in enumerate(order) for _ in range(1 + (k == 3))]
    page.close()


def test_a_bundle_is_measured_and_joined_by_the_stand_in_meter_with_no_number_typed(page: Page, demo: str) -> None:
    taps = {"tape 3": 0, "pink": 2, "striped": 1, "bare end": 3}
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=job_body()).json()["facts"]["id"]
    httpx.post(
        timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/virtual", json={"soc": [0.6], "seed": 9, "loose": taps}
    ).raise_for_status()
    page.goto(f"{demo}/jobs/{job}/leads")
    page.get_by_role("button", name="use a live meter").click()
    heading = page.get_by_role("heading", level=1)
    page.get_by_role("button", name="tape 3").click()
    # The reference is named once its own reading is taken; the next lead is touched after that, as a hand would.
    expect(heading).to_have_text("Lead 2 of 4")
    page.get_by_role("button", name="pink").click()
    expect(heading).to_have_text("Join tape 3 to pin 0")
    page.locator(".entry input").press("Enter")
    expect(heading).to_have_text("Every lead is on its pin")
    joined = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["facts"]["joined"]
    assert {j["lead"]: j["tap"] for j in joined} == taps
