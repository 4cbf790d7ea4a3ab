"""Forms that are sent whole: what another window told is not written back, and what is typed is not lost, however slow the answer is."""

from collections.abc import Iterator

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S, running
from tests.api.conftest import SAFE, until
from tests.api.test_patterns import SHEET
from tests.browser.hands import held_back


@pytest.fixture(scope="module")
def own(tmp_path_factory: pytest.TempPathFactory) -> Iterator[httpx.Client]:
    with (
        running("serve", data=tmp_path_factory.mktemp("own") / "data.sqlite3") as address,
        httpx.Client(base_url=address, timeout=PATIENT_S) as client,
    ):
        yield client


def changed(own: httpx.Client, **limits: float) -> None:
    body = {"policy": {**own.get("/api/policy").json()["policy"], **limits}, "by": "Bero", "reason": "elsewhere"}
    own.post("/api/policy", json=body).raise_for_status()


def test_limits_of_the_shop(page: Page, own: httpx.Client) -> None:
    page.goto(f"{own.base_url}/policy")
    highest, charge, fall = (page.get_by_label(n) for n in ("Highest pack voltage", "Usual charging", "Fall in a day"))
    expect(highest).to_have_value("60")
    expect(charge).to_have_value("0.5")
    highest.fill("50")
    page.get_by_label("Changed by").fill("Ilka")
    page.get_by_label("Why").fill("no tools above")
    # Another window's limit is shown beside what is typed, and not written back with it.
    changed(own, charge_c=0.4)
    expect(charge).to_have_value("0.4")
    let_go = held_back(page, "**/api/policy?*")
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    fall.fill("0.03")
    let_go()
    expect(page.get_by_role("status")).to_contain_text("Changed from now on")
    expect(fall).to_have_value("0.03")
    expect(page.get_by_role("heading", name="1 changed")).to_be_visible()
    told = own.get("/api/policy").json()
    assert [told["policy"][k] for k in ("pack_limit_v", "charge_c", "hold_fall_v")] == [50, 0.4, 0.02]
    assert len(told["history"]) == 2
    # Changed before it could be shown: asked about once, and then kept.
    page.reload()
    page.get_by_label("Highest pack voltage").fill("45")
    page.get_by_label("Changed by").fill("Ilka")
    page.get_by_label("Why").fill("no tools above")
    let_go = held_back(page, "**/api/policy?*")
    page.keyboard.press("Enter")
    changed(own, charge_c=0.3)
    let_go()
    expect(page.get_by_role("alert")).to_contain_text("another window")
    expect(page.get_by_label("Usual charging")).to_have_value("0.3")
    page.get_by_role("button", name="Change the limits").click()
    expect(page.get_by_role("status")).to_contain_text("Changed from now on")
    policy = own.get("/api/policy").json()["policy"]
    assert [policy["pack_limit_v"], policy["charge_c"]] == [45, 0.3]


def test_need_and_prices_of_a_pack(page: Page, own: httpx.Client) -> None:
    pack = {"chemistry": "nmc", "series": 3, "parallel": 1, "rated_ah": 2.0}
    body = {"intake": {"customer": "Row team Q", "pack_name": "Lamp", "pack": pack}, "safety": SAFE}
    job = own.post("/api/jobs", json=body).raise_for_status().json()["facts"]["id"]
    for group in (1, 2, 3):
        read = {"point": {"kind": "group", "group": group}, "volts": 3.7, "key": f"need-{job}-{group}"}
        own.post(f"/api/jobs/{job}/readings", json=read).raise_for_status()
    own.post(f"/api/jobs/{job}/stage", json={"stage": "plan"}).raise_for_status()

    def prices() -> list[float]:
        told = own.get(f"/api/jobs/{job}/plan").json()["prices"]
        return [told["cell"], told["copy"]]

    page.goto(f"{own.base_url}/jobs/{job}/plan")
    cell, copy = page.get_by_label("New cell, EUR"), page.get_by_label("A copy, EUR")
    cell.press_sequentially("4")
    # Told in another window while it is typed here: refused once, shown beside what is typed, and kept when it is sent again.
    told = own.get(f"/api/jobs/{job}/plan").json()["entered"]
    told["prices"]["copy"] = 31
    own.post(f"/api/jobs/{job}/need", json=told).raise_for_status()
    cell.press("Tab")
    expect(page.get_by_role("alert").filter(has_text="another window")).to_be_visible()
    expect(copy).to_have_value("31")
    expect(cell).to_have_value("4")
    page.get_by_role("button", name="send mine again").click()
    until(lambda: prices() == [4, 31])
    expect(page.get_by_role("alert").filter(has_text="another window")).to_have_count(0)
    # What is typed while it is kept is kept after it.
    let_go = held_back(page, "**/need?*")
    cell.fill("5")
    cell.press("Tab")
    copy.fill("33")
    copy.press("Tab")
    let_go()
    until(lambda: prices() == [5, 33])
    expect(copy).to_have_value("33")


def test_hours_of_the_week(page: Page, own: httpx.Client) -> None:
    page.goto(f"{own.base_url}/hours")
    expect(page.get_by_label("Monday")).to_have_value("8:00–12:00, 13:00–17:00")
    page.get_by_label("Tuesday").fill("9-12")
    hours = own.get("/api/day").json()["hours"]
    own.post("/api/hours", json={**hours, "people": 3}).raise_for_status()
    expect(page.get_by_label("Pairs of hands")).to_have_value("3")
    page.reload()
    let_go = held_back(page, "**/api/hours")
    page.get_by_role("button", name="Record the hours").click()
    page.get_by_label("Saturday").fill("9-11")
    let_go()
    expect(page.get_by_role("status")).to_contain_text("Recorded")
    expect(page.get_by_label("Tuesday")).to_have_value("9:00–12:00")
    expect(page.get_by_label("Saturday")).to_have_value("9-11")
    now = own.get("/api/day").json()["hours"]
    assert now["people"] == 3
    assert [(o["day"], o["from_min"]) for o in now["opens"] if o["day"] in (1, 5)] == [(1, 540)]


def test_the_shops_card(page: Page, own: httpx.Client) -> None:
    page.goto(f"{own.base_url}/bench")
    address, contact = (page.get_by_label(name, exact=True) for name in ("Address", "Telephone, e-mail"))
    hour = page.get_by_label("Hour at the bench")
    expect(address).to_have_value("")
    address.fill("Quay 7")
    own.post("/api/card", json={**own.get("/api/card").json(), "name": "Two benches"}).raise_for_status()
    own.post("/api/prices", json={**own.get("/api/prices").json(), "labour_h": 52}).raise_for_status()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Two benches")
    expect(hour).to_have_value("52")
    let_go = held_back(page, "**/api/card")
    page.get_by_role("button", name="Save the shop’s card").click()
    contact.fill("on the door")
    let_go()
    expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
    expect(contact).to_have_value("on the door")
    card = own.get("/api/card").json()
    assert [card[k] for k in ("name", "address", "contact")] == ["Two benches", "Quay 7", ""]
    assert own.get("/api/prices").json()["labour_h"] == 52


def test_the_meter(page: Page, own: httpx.Client) -> None:
    def told(*ranges: tuple[float, float, float, float]) -> None:
        rows = [dict(zip(("to_v", "percent", "digits", "resolution_v"), r, strict=True)) for r in ranges]
        body = {**own.get("/api/meter").json(), "ranges": rows}
        own.post("/api/meter", json=body).raise_for_status()

    told((6, 0.5, 2, 0.001), (60, 0.8, 3, 0.01))
    page.goto(f"{own.base_url}/bench")
    percent, digits = (page.get_by_label(f"range 1, {what}") for what in ("percent", "digits"))
    expect(percent).to_have_value("0.5")
    # What another window saved is shown, where nothing is typed.
    told((6, 0.4, 2, 0.001), (60, 0.7, 3, 0.01))
    expect(percent).to_have_value("0.4")
    percent.fill("0.3")
    let_go = held_back(page, "**/api/meter")
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    digits.fill("4")
    let_go()
    expect(page.get_by_role("status").filter(has_text="Saved for sets")).to_be_visible()
    expect(digits).to_have_value("4")
    # What is typed stays, whatever another window saves, until it is saved itself.
    told((600, 1, 1, 0.1))
    page.get_by_role("button", name="Save the meter").click()
    until(lambda: own.get("/api/meter").json()["ranges"][0]["digits"] == 4)
    now = own.get("/api/meter").json()
    assert [(r["to_v"], r["percent"], r["digits"]) for r in now["ranges"]] == [(6, 0.3, 4), (60, 0.7, 3)]
    assert (now["percent"], now["digits"]) == (0.3, 4)
    # What is wrong names its field, and the others keep what was typed.
    percent.fill("")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("range 1, percent: must be a number")
    expect(percent).to_have_attribute("aria-invalid", "true")
    expect(digits).to_have_value("4")


def test_a_pattern_that_is_worked_on_while_it_is_signed(page: Page, own: httpx.Client) -> None:
    new = {"sheet": {**SHEET, "opening": []}, "by": "Ilka", "why": "first of it"}
    number = own.post("/api/patterns", json=new).raise_for_status().json()["id"]
    page.goto(f"{own.base_url}/patterns/{number}")
    page.get_by_role("button", name="work on it").click()
    page.get_by_label("Found by, with commas between").fill("grey, two screws")
    page.get_by_label("Who changed it").fill("Ilka")
    let_go = held_back(page, f"**/api/patterns/{number}?*")
    page.get_by_role("button", name="Sign the change").click()
    page.get_by_label("Title, free of makes").fill("Typed meanwhile")
    let_go()
    until(lambda: own.get(f"/api/patterns/{number}").json()["sheet"]["tags"] == ["grey", "two screws"])
    expect(page.get_by_label("Title, free of makes")).to_have_value("Typed meanwhile")
    page.get_by_role("button", name="Sign the change").click()
    expect(page.get_by_role("heading", name="Typed meanwhile")).to_be_visible()
    sheet = own.get(f"/api/patterns/{number}").json()["sheet"]
    assert (sheet["title"], sheet["tags"]) == ("Typed meanwhile", ["grey", "two screws"])
