"""Judge on screen: from a symptom to the confirmed cause, a test at a time, by keys."""

import re

import httpx
from playwright.sync_api import Page, expect

from running import PATIENT_S
from tests.api.conftest import job_body

SENSOR = "The temperature sensor circuit makes poor contact"


def test_from_a_symptom_to_the_confirmed_cause(page: Page, demo: str) -> None:
    body = job_body(series=4)
    body["intake"] |= {"kind": "power_tool", "age_years": 2, "symptoms": ["cuts_out"], "pack_name": "Pump to judge"}
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=body).json()["facts"]["id"]
    for group in range(1, 5):
        reading = {"point": {"kind": "group", "group": group}, "volts": 3.9, "key": f"judge-{job}-{group}"}
        httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/readings", json=reading).raise_for_status()
    page.goto(f"{demo}/jobs/{job}/judge")
    expect(page.get_by_role("heading", name="Not settled yet")).to_be_visible()

    # What was seen, at one key: the code as the shop's table has it.
    page.keyboard.press("n")
    page.get_by_role("button", name="four red, fast").click()
    page.get_by_role("button", name="Record the note").click()
    expect(page.get_by_role("listitem").filter(has_text=SENSOR).first).to_be_visible()
    # What was typed is there again after Escape; what was recorded is taken back, and done again, at a key each.
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("n")
    page.get_by_label("In words").fill("smells of varnish")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("n")
    expect(page.get_by_label("In words")).to_have_value("smells of varnish")
    page.get_by_role("button", name="Record the note").click()
    notes = page.locator(".along li")
    expect(notes).to_have_count(2)
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("u")
    expect(notes).to_have_count(1)
    page.wait_for_timeout(600)  # a key that bounces does nothing twice
    page.keyboard.press("a")
    expect(notes).to_have_count(2)
    page.wait_for_timeout(600)
    page.keyboard.press("u")
    expect(notes).to_have_count(1)
    expect(page.locator(".causes button").first).to_contain_text(SENSOR)

    # The test that tells most leads into its own form, and back.
    card = page.locator(".card", has_text="watch the blink")
    digit = card.locator("kbd").inner_text()
    page.keyboard.press(digit)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Move plugs and leads and watch the blink")
    dialog.get_by_role("group", name="Moving it changes").get_by_role("button", name="the blink").click()
    dialog.get_by_role("button", name="Record the note").click()
    expect(page.get_by_role("heading", name=SENSOR)).to_be_visible()
    expect(page.locator(".for")).to_contain_text("moving it changes the blink", ignore_case=True)

    # One that is measured leads to its place, with a line that says what for and the way back.
    page.get_by_role("button", name=re.compile("Read the temperature sensor")).or_(
        page.get_by_role("button", name=re.compile("Clean the sensor connector"))
    ).first.wait_for()
    page.get_by_role("button", name=re.compile("Clean the sensor connector")).click()
    expect(dialog.get_by_role("button", name="cleaned a connector")).to_have_attribute("aria-pressed", "true")
    dialog.get_by_role("button", name="the fault goes").click()
    dialog.get_by_role("button", name="Record the try").click()
    expect(page.get_by_text("no test left would change it")).to_be_visible()
    expect(page.locator(".along li")).to_have_count(3)

    page.goto(f"{demo}/jobs/{job}/hand-over")
    # The cause at one key, the minutes at another.
    cause = page.get_by_role("group", name="What it was").get_by_role(
        "button", name=re.compile("temperature sensor circuit")
    )
    expect(cause).to_have_attribute("aria-pressed", "false")
    page.get_by_role("heading", level=1).focus()
    page.keyboard.press("1")
    expect(cause).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("m")
    expect(page.get_by_label("Minutes at the bench")).to_be_focused()
    page.keyboard.type("25")
    page.get_by_label("Who signs").fill("Ilka")
    page.get_by_label("Why it goes back without a pass").fill("the pump waits")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Signed by Ilka")).to_be_visible()
    assert httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["facts"]["sign_off"]["minutes"] == 25
    judged = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/judgement").json()
    assert judged["ruling"]["cause"] == "sensor_circuit"
    assert judged["ruling"]["confirmed"]


def test_a_test_that_is_measured_leads_to_its_place_and_back_and_a_technician_may_differ(page: Page, demo: str) -> None:
    job = 13
    page.goto(f"{demo}/jobs/{job}/judge")
    expect(page.get_by_role("heading", name="The board's own supply has failed")).to_be_visible()
    page.get_by_role("button", name=re.compile("Follow the voltage along")).click()
    expect(page.locator(".errand")).to_contain_text("Follow the voltage along the power path")
    expect(page.get_by_label("The string has, V")).to_be_visible()
    page.get_by_role("link", name="Back to Judge").click()
    expect(page.get_by_role("heading", name="The board's own supply has failed")).to_be_visible()
    page.get_by_role("button", name="Name another cause").click()
    form = page.locator("form.ruling")
    form.get_by_label("By").fill("Ilka")
    form.get_by_role("button", name="Record the cause").click()
    # Without a reason it is refused in one line, and nothing typed is lost.
    expect(form.locator(".error")).to_contain_text("say in a word or two")
    form.get_by_label("Why").fill("seen it before on this kind")
    form.get_by_role("button", name="Record the cause").click()
    expect(page.locator(".ruled")).to_contain_text("Overruled by Ilka: seen it before on this kind")
    # The scrubber's wire is not settled before the tabs: its first card says so.
    page.goto(f"{demo}/jobs/4/judge")
    expect(page.get_by_role("heading", name="A sense wire is open: tap 3")).to_be_visible()
    expect(page.locator(".card").first).to_contain_text("groups 3 and 4")
    # A pack that was mended and proved is argued as it came, with the way to how it stands.
    page.goto(f"{demo}/jobs/17/judge")
    expect(page.get_by_role("heading", name="Groups have drifted apart: group 4")).to_be_visible()
    expect(page.get_by_text("As it came.")).to_be_visible()
    expect(page.locator(".card")).to_have_count(0)
    page.get_by_role("button", name="Show how it is now").click()
    expect(page).to_have_url(f"{demo}/jobs/17/prove")
