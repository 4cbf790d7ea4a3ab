"""A morning with three packs at sixty times the speed, led by Today: what it says is done next is done, and it moves on by itself."""

from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from running import PATIENT_S, running

SAFE = {"swollen": False, "leaking": False, "hot": False, "wet": False, "crushed": False, "smell": False}
SPEED = 60


@pytest.fixture
def own(tmp_path: Path) -> Iterator[str]:
    with running("serve", data=tmp_path / "data.sqlite3") as address:
        yield address


def taken_in(client: httpx.Client, name: str, socs: list[float]) -> int:
    pack = {"chemistry": "nmc", "series": 3, "parallel": 1, "rated_ah": 2.0}
    body = {"intake": {"customer": "Row team Q", "pack_name": name, "pack": pack}, "safety": SAFE}
    job = client.post("/api/jobs", json=body).raise_for_status().json()["facts"]["id"]
    client.post(f"/api/jobs/{job}/virtual", json={"soc": socs}).raise_for_status()
    client.post(f"/api/jobs/{job}/virtual/clock", json={"speed": SPEED}).raise_for_status()
    return int(job)


def all_day(client: httpx.Client) -> None:
    opens = [{"day": d, "from_min": 0, "to_min": 1440} for d in range(7)]
    client.post("/api/hours", json={"opens": opens, "people": 1, "promise_days": 7}).raise_for_status()


def read_live(page: Page, client: httpx.Client, job: int) -> None:
    """Where Today led: the run by the stand-in meter, hands-free."""
    expect(page).to_have_url(f"{client.base_url}/jobs/{job}/probe".replace("//jobs", "/jobs"))
    page.locator(".entry input").wait_for()
    page.locator("button", has_text="live").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Every point is read", timeout=60_000)


@pytest.mark.long
def test_a_morning_with_three_packs(page: Page, own: str) -> None:
    with httpx.Client(base_url=own, timeout=PATIENT_S) as client:
        all_day(client)
        lamp = taken_in(client, "Lamp", [0.8, 0.8, 0.8])
        pump = taken_in(client, "Pump", [0.8, 0.4, 0.8])
        drill = taken_in(client, "Drill", [0.8, 0.8, 0.8])
        soon = (datetime.now().astimezone() + timedelta(hours=2)).isoformat()
        client.post(f"/api/jobs/{pump}/promises", json={"ready": soon, "by": "Ilka"}).raise_for_status()
        page.goto(own)
        now = page.get_by_role("region", name="Now")
        # What was promised first comes first, though it came second.
        expect(now).to_contain_text("Pump")
        expect(now).to_contain_text("Read groups 1, 2 and 3")
        page.keyboard.press("g")
        read_live(page, client, pump)
        page.keyboard.press("Alt+0")
        expect(now).to_contain_text("Judge it")
        expect(now).to_contain_text("Pump")
        # The customer takes levelling: Today goes on to the charge.
        taken = {"repair": "level", "groups": [2], "price": 20, "by": "Ilka", "note": "as it is asked for"}
        client.post(f"/api/jobs/{pump}/accepted", json=taken).raise_for_status()
        expect(now).to_contain_text("Put group 2 on charge")
        page.keyboard.press("g")
        page.get_by_role("button", name="Start group 2").click()
        expect(page.get_by_role("heading", name="Group 2 is on the charger")).to_be_visible()
        page.keyboard.press("Alt+0")
        alone = page.get_by_role("region", name="By itself")
        expect(alone).to_contain_text("Pump")
        expect(alone).to_contain_text("group 2 charges")
        # The hands are free for another pack meanwhile.
        expect(now).not_to_contain_text("Pump")
        # Away: nothing is asked of anybody, and what runs is told.
        page.keyboard.press("a")
        page.keyboard.type("soon")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("type a time such as 14:00")
        page.get_by_label("Away till").fill("40 min")
        page.keyboard.press("Enter")
        expect(now).to_contain_text("Nobody is here until")
        page.reload()
        expect(now).to_contain_text("Nobody is here until")
        page.get_by_role("button", name="I am back").click()
        expect(now).not_to_contain_text("Nobody is here")
        # The rest of the charge in a moment: over, it is what is done first, and one line rings.
        client.post(f"/api/jobs/{pump}/virtual/clock", json={"speed": 600}).raise_for_status()
        expect(now).to_contain_text("Pump", timeout=240_000)
        expect(now).to_contain_text("group 2")
        strip = page.get_by_role("region", name="Alarms")
        expect(strip).to_contain_text("Pump, group 2")
        assert strip.bounding_box()["height"] <= 50  # type: ignore[index]
        page.keyboard.press("g")
        expect(page).to_have_url(f"{own}/jobs/{pump}/level")
        charge = client.get(f"/api/jobs/{pump}").json()["facts"]["charges"][-1]
        assert charge["group"] == 2
        ended = {"outcome": "finished", "volts": round(charge["expected_low_v"], 3)}
        client.post(f"/api/jobs/{pump}/charges/{charge['id']}/end", json=ended).raise_for_status()
        # A question to the customer stops a pack, and its answer frees it.
        client.post(f"/api/jobs/{lamp}/asked", json={"what": "asked"}).raise_for_status()
        page.keyboard.press("Alt+0")
        stuck = page.get_by_role("region", name="Stuck")
        expect(stuck).to_contain_text("Lamp")
        stuck.get_by_role("button", name="Record the answer").click()
        expect(stuck).to_have_count(0)
        expect(page.get_by_role("region", name="Next").or_(now).first).to_be_visible()
        # A second window, and one that is narrow, say the same.
        told = now.inner_text()
        page.set_viewport_size({"width": 390, "height": 844})
        page.reload()
        expect(now).to_contain_text(told.split("\n")[1])
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        assert drill


def test_the_day_is_promised_at_the_counter_and_kept_on_record(page: Page, own: str, browser: Browser) -> None:
    with httpx.Client(base_url=own, timeout=PATIENT_S) as client:
        all_day(client)
        job = taken_in(client, "Lamp", [0.8, 0.8, 0.8])
        page.goto(f"{own}/take-in")
        expect(page.get_by_role("region", name="Promise")).to_contain_text("in 10")
        page.goto(f"{own}/jobs/{job}/take-in")
        promise = page.get_by_role("region", name="Promise")
        promise.get_by_role("button", name="Promise it").click()
        promise.get_by_label("Promised by").fill("Ilka")
        promise.get_by_role("button", name="Record the promise").click()
        expect(promise).to_contain_text("Promised:")
        kept = client.get(f"/api/jobs/{job}/promise").json()
        assert datetime.fromisoformat(kept["promised"]) == datetime.fromisoformat(kept["ready"])
        # Another day by hand, in a second window.
        second = browser.new_page(locale="en-GB")
        second.goto(f"{own}/jobs/{job}/plan")
        other = second.get_by_role("region", name="Promise")
        other.get_by_role("button", name="Promise another day").click()
        day = (datetime.now() + timedelta(days=3)).replace(hour=15, minute=0)
        other.get_by_label("Another day").fill(day.strftime("%Y-%m-%dT%H:%M"))
        other.get_by_label("Promised by").fill("Bero")
        other.get_by_role("button", name="Record the promise").click()
        expect(other).to_contain_text("15:00")
        expect(promise).to_contain_text("15:00")
        second.close()


def test_hours_are_typed_as_people_type_them(page: Page, own: str) -> None:
    with httpx.Client(base_url=own, timeout=PATIENT_S) as client:
        page.goto(f"{own}/hours")
        monday = page.get_by_label("Monday")
        expect(monday).to_have_value("8:00–12:00, 13:00–17:00")
        monday.fill("7.30-12, 1300 to 18")
        page.get_by_label("Saturday").fill("9-8")
        expect(page.get_by_role("alert")).to_contain_text("ends before it begins")
        expect(page.get_by_role("button", name="Record the hours")).to_be_disabled()
        page.get_by_label("Saturday").fill("9-12")
        page.get_by_label("Pairs of hands").fill("2")
        page.get_by_role("button", name="Record the hours").click()
        expect(page.get_by_role("status")).to_contain_text("Recorded")
        hours = client.get("/api/day").json()["hours"]
        assert [(o["from_min"], o["to_min"]) for o in hours["opens"] if o["day"] == 0] == [(450, 720), (780, 1080)]
        assert [(o["from_min"], o["to_min"]) for o in hours["opens"] if o["day"] == 5] == [(540, 720)]
        assert hours["people"] == 2
        page.reload()
        expect(monday).to_have_value("7:30–12:00, 13:00–18:00")
