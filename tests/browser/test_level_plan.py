"""Level over the shop's channels on screen: the plan, the clips read, two groups on at once, ended, and what is left planned anew."""

import re
from collections.abc import Iterator

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S
from tests.api.conftest import job_body, look_by_look
from tests.browser.hands import held_back


@pytest.fixture
def job(demo: str) -> Iterator[int]:
    body = job_body(series=3)
    body["intake"]["pack_name"] = "Pack to level"
    found = int(httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=body).json()["facts"]["id"])
    for k, v in enumerate((3.60, 3.90, 3.65), start=1):
        reading = {
            "point": {"kind": "group", "group": k},
            "volts": v,
            "key": f"level-plan-{found}-{k}",
            "purpose": "probe",
        }
        httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{found}/readings", json=reading).raise_for_status()
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{found}/stage", json={"stage": "level"}).raise_for_status()
    yield found
    # Its channels are free again for whoever comes next.
    for run in httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{found}").json()["facts"]["charges"]:
        end = {"outcome": "stopped", "volts": 3.7}
        httpx.post(
            timeout=PATIENT_S, url=f"{demo}/api/jobs/{found}/charges/{run['id']}/end", params={"sure": True}, json=end
        ).raise_for_status()


def test_planned_clipped_and_planned_anew(page: Page, demo: str, job: int) -> None:
    page.goto(f"{demo}/jobs/{job}/level")
    expect(page.get_by_role("heading", name="Level, over the shop's channels")).to_be_visible()
    # Without the resistor the two low ones are raised to the third.
    page.get_by_label("Channels at hand").get_by_role("button", name="10 W resistor").click()
    bars = page.get_by_role("group", name="The plan in time").get_by_role("button")
    expect(bars).to_have_count(2)

    # The clips of another group, and clips turned round, switch nothing on; the number stays to be read again.
    first = page.get_by_role("heading", level=2, name=re.compile(r"^Group \d on"))
    group = int(re.search(r"Group (\d)", first.inner_text())[1])  # type: ignore[index]
    rest = {1: "3.60", 3: "3.65"}[group]
    field = page.get_by_label(f"clips on group {group} read, V")
    for typed, says in (("3.90", "as group 2 does"), (f"-{rest}", "wrong way round")):
        field.fill(typed)
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text(says)
    expect(page.get_by_role("heading", name=re.compile("is on"))).to_have_count(0)
    field.fill(rest)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=re.compile(f"Group {group} is on"))).to_be_visible()

    # The other one beside it, on what is free and may be.
    other = 4 - group
    expect(page.get_by_text(f"Group {group}: It is on")).to_be_visible()
    expect(page.get_by_role("heading", level=2, name=re.compile(f"^Group {other} on"))).to_be_visible()
    page.get_by_label(f"clips on group {other} read, V").fill({1: "3.60", 3: "3.65"}[other])
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=re.compile(r"Groups 1 and 3|Groups 3 and 1"))).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name=re.compile(r"Groups 1 and 3|Groups 3 and 1"))).to_be_visible()
    # Both wait, for every window.
    waits = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/waiting").json()["waiting"]
    assert {w["group"] for w in waits if w["job_id"] == job} == {1, 3}

    # To full, by hours that somebody is there, side by side with other ways.
    page.get_by_text("full", exact=True).click()
    page.get_by_text("Other ways, side by side").click()
    expect(page.get_by_role("row").filter(has_text="as asked")).to_be_visible()
    expect(page.get_by_role("row").filter(has_text="at storage instead")).to_be_visible()
    # A voltage that is none says so in one line, and a channel left out is not planned over.
    page.get_by_text("a voltage").click()
    page.get_by_label("At rest, V").fill("4.9")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="above full")).to_be_visible()


@pytest.fixture
def low(demo: str) -> int:
    """A virtual pack of four: one low, and one low that holds half of what its label says."""
    with httpx.Client(base_url=demo, timeout=PATIENT_S) as client:
        body = job_body(series=4)
        body["intake"]["pack_name"] = "Pack to drive"
        found = int(client.post("/api/jobs", json=body).json()["facts"]["id"])
        faults = [{"on": "cell", "kind": "low_capacity", "group": 1, "cell": c, "size": 0.5} for c in (1, 2)]
        client.post(
            f"/api/jobs/{found}/virtual", json={"soc": [0.65, 0.9, 0.7, 0.9], "seed": 11, "faults": faults}
        ).raise_for_status()
        client.post(f"/api/jobs/{found}/virtual/clock", json={"speed": 1, "paused": True})
        for k in range(1, 5):
            client.post(
                f"/api/jobs/{found}/virtual/clips", json={"channel": "small charger", "group": k}
            ).raise_for_status()
            seen = client.get(f"/api/jobs/{found}/outputs").json()
            volts = next(o["live"]["volts"] for o in seen if o["channel"] == "small charger")
            reading = {"point": {"kind": "group", "group": k}, "volts": round(volts, 3), "key": f"drive-{found}-{k}"}
            client.post(f"/api/jobs/{found}/readings", json=reading).raise_for_status()
        client.post(f"/api/jobs/{found}/virtual/clips", json={"channel": "small charger", "group": None})
        client.post(f"/api/jobs/{found}/stage", json={"stage": "level"}).raise_for_status()
    return found


def test_two_channels_driven_to_their_end_one_rings_and_what_they_told_is_kept(page: Page, demo: str, low: int) -> None:
    page.goto(f"{demo}/jobs/{low}/level?over=channels")
    # While the plan in sight still answers the question before, nothing is begun by it.
    on = page.get_by_role("button", name=re.compile("^Switch it on"))
    expect(on).to_be_visible()
    let_go = held_back(page, "**/level-plan")
    page.get_by_text("full", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="Planning over the channels")).to_be_visible()
    expect(on).to_have_count(0)
    let_go()
    expect(on).to_be_visible()
    at_hand = page.get_by_label("Channels at hand")
    for name in ("10 W resistor", "grey supply"):
        at_hand.get_by_role("button", name=name).click()
    # The plan is of what is at hand before anything of it is picked.
    for name in ("10 W resistor", "grey supply"):
        expect(page.get_by_role("group", name="The plan in time").get_by_role("button", name=name)).to_have_count(0)
    started: list[int] = []
    for turn in range(2):
        shown = page.get_by_role("heading", level=2, name=re.compile(r"^Group [13] on")).last
        bars = page.get_by_role("group", name="The plan in time").get_by_role(
            "button", name=re.compile(r"^group [13] on .* from now|^group [13] on")
        )
        wanted = bars.filter(has_not_text=str(started[0])).first if started else bars.first
        wanted.click()
        group = int(re.search(r"Group (\d)", shown.inner_text())[1])  # type: ignore[index]
        if turn == 0:
            # Turned round, nothing goes on and the reason stands there.
            page.get_by_text("Clip it elsewhere, for practice").click()
            page.get_by_role("button", name="turned round").click()
            page.get_by_label("practice group").fill(str(group))
            page.get_by_role("button", name="Clip there").click()
            expect(page.get_by_text(f"on group {group}, the wrong way round")).to_be_visible()
            on.click()
            expect(page.get_by_role("alert").filter(has_text="wrong way round")).to_be_visible()
            assert httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{low}/driven").json() == []
        page.get_by_role("button", name=f"Clip it: minus tap {group - 1}, plus tap {group}").click()
        expect(page.get_by_text(re.compile(rf"Clips of .*: on group {group}$"))).to_be_visible()
        on.click()
        expect(page.get_by_role("region", name=re.compile(f"^Group {group} on"))).to_be_visible()
        started.append(group)
    assert sorted(started) == [1, 3]
    runs = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{low}").json()["facts"]["charges"]
    assert [run["target_v"] for run in runs] == [4.2, 4.2]

    page.reload()
    expect(page.get_by_role("heading", name=re.compile("are on chargers"))).to_be_visible()
    with httpx.Client(base_url=demo, timeout=PATIENT_S) as client:
        look_by_look(client, low)
    expect(page.get_by_text("Its output is off.")).to_have_count(2)
    # What rang rings in this window and in another, until it is seen.
    strip = page.get_by_role("region", name="Alarms")
    rings = strip.get_by_text(re.compile("Pack to drive, group 1: It rises too fast: it holds"))
    expect(rings).to_be_visible()
    page.reload()
    expect(rings).to_be_visible()
    page.get_by_role("button", name=re.compile("Seen: Pack to drive, group 1: It rises too fast")).click()
    expect(rings).to_have_count(0)

    for group in (1, 3):
        card = page.get_by_role("region", name=re.compile(f"^Group {group} on"))
        # What the idle output sees is recorded where nothing is typed.
        expect(card.get_by_label(f"Group {group} reads, V")).to_have_attribute("placeholder", re.compile(r"^4\.\d+$"))
        card.get_by_role("button", name="It has finished").click()
        expect(card).to_have_count(0)
    for group in (1, 3):
        expect(page.get_by_text(f"Group {group}.", exact=True)).to_be_visible()
    view = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{low}").json()
    # Half of the label, as the charge told it.
    held = view["assessment"]["groups"][0]["capacity_ah"]
    assert held["value"] == pytest.approx(2.0, rel=0.15)
    assert "its charge" in held["source"]
