"""Two whole repairs by the pages alone, from the counter to the printed papers, typed as people type: with units, with a comma, with slips."""

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S
from saldatura.job.assessment.words import equipped as equipped_words
from saldatura.job.assessment.words import handing as handing_words
from tests.browser.hands import ASKS, HAND_MS, once_more, printed, proved, signed, work_through
from tests.saying import says


@pytest.fixture
def bench(demo: str) -> httpx.Client:
    return httpx.Client(base_url=demo, timeout=PATIENT_S)


def into(page: Page, label: str, *typed: str) -> None:
    """Type into a field, with what was typed wrong first, and leave it."""
    field = page.get_by_label(label, exact=True)
    for words in typed:
        field.fill("")
        field.press_sequentially(words)
    field.press("Tab")
    expect(field).to_have_value(typed[-1])


def take_in(page: Page, demo: str, name: str, chemistry: str, label: str, **more: str) -> int:
    """Over the counter: every field typed, every question answered by its key."""
    page.goto(f"{demo}/take-in")
    into(page, "Customer", "Row teem", "Row team Q")
    into(page, "Which pack", name)
    into(page, "Serial or tag", f"{name[:2].upper()}-77")
    page.get_by_text(chemistry, exact=True).click()
    field = page.get_by_label("Volts and capacity on its label")
    field.press_sequentially(label)
    field.press("Tab")
    for what, typed in more.items():
        into(
            page,
            {"series": "In series", "rated": "Rated, Ah", "load": "Load, A, if known", "age": "Age, years"}[what],
            typed,
        )
    page.get_by_label("Is the case or a cell swollen?").focus()
    page.keyboard.type("nnnnnn", delay=HAND_MS)
    page.get_by_role("button", name="Take it in").click()
    page.wait_for_url("**/probe")
    return int(page.url.split("/")[-2])


def read_groups(page: Page, *typed: str) -> None:
    """Group by group as announced, then the terminals; what is asked about is confirmed."""
    page.locator(".entry input").wait_for()
    page.keyboard.press("p")
    for k, volts in enumerate(typed, start=1):
        last = k == len(typed)
        heading, asked = page.get_by_role("heading", level=1), page.get_by_text(ASKS)
        point = "Pack terminals" if last else f"Group {k}"
        expect(heading).to_have_text(point)
        page.locator(".entry input").press_sequentially(volts)
        page.keyboard.press("Enter")
        expect(asked.or_(heading.filter(has_not_text=point))).to_be_visible()
        if asked.count():
            once_more(page)
        expect(heading).not_to_have_text(point)


def choose(page: Page, demo: str, job: int, option: str, **priced: str) -> None:
    page.goto(f"{demo}/jobs/{job}/plan")
    page.get_by_text("more fields").click()
    for what, typed in priced.items():
        into(page, {"hour": "Hour at the bench, EUR", "cell": "New cell, EUR", "original": "New original, EUR", "cutoff": "Device cuts off at, V", "charger": "Charger goes to, V", "load": "Load that lasts, A"}[what], typed)  # fmt: skip
    if "charger" in priced:
        page.get_by_role("button", name="charger can be set to another count").click()
    page.get_by_role("button", name=re.compile(option)).first.click()
    page.get_by_role("button", name="The customer takes this").click()
    page.get_by_label("Price agreed").fill("45 €")
    page.get_by_label(re.compile("^(Why it is done|Note)$")).fill("agreed on the telephone")
    page.get_by_label("Agreed with").fill("Marta Kofler")
    page.get_by_role("button", name="Record the choice").click()
    page.get_by_role("button", name=re.compile("Open its work list in Join")).click()


def solder(page: Page, demo: str, job: int, diameter: str, iron: str, tabs: str | None = None) -> None:
    page.goto(f"{demo}/jobs/{job}/join")
    field = page.get_by_label("Diameter, mm")
    field.fill(diameter)
    field.press("Tab")
    page.get_by_role("link", name="Weld lab").click()
    page.get_by_role("button", name="soldered").click()
    if tabs:
        page.get_by_role("button", name=tabs).click()
    page.get_by_label("Iron, W").fill(iron)
    page.get_by_label("Iron, W").press("Tab")
    page.get_by_role("link", name="Work list").click()


@pytest.mark.long
def test_a_nickel_pack_gets_new_cells(page: Page, demo: str, bench: httpx.Client) -> None:
    job = take_in(page, demo, "Torque driver N", "nickel-metal hydride", "2S1P 2600 mAh", age="6 years", load="9 A")
    pack = bench.get(f"/api/jobs/{job}").json()["facts"]["intake"]["pack"]
    assert (pack["series"], pack["rated_ah"], pack["load_a"]) == (2, 2.6, 9)
    read_groups(page, "1,28 V", "60mV", "1.34")
    choose(page, demo, job, "New cells throughout", hour="36 €", cell="3,50 €", original="96 EUR")
    told = bench.get(f"/api/jobs/{job}").json()["facts"]
    accepted = bench.get(f"/api/jobs/{job}/export").json()["job"]["facts"]
    assert [f["body"]["price"] for f in accepted if f["kind"] == "accepted"] == [45]
    assert told["id"] == job
    solder(page, demo, job, "SC", "80 W")
    # Its size by name, and no balance wires where it has none: no step of the list speaks of one.
    block = bench.get(f"/api/jobs/{job}/block").json()
    assert block["entered"]["diameter_mm"] == 22.5
    steps = [step["key"].split(":")[0] for work in block["lists"] for step in work["steps"]]
    assert steps
    assert not [code for code in steps if code.startswith(("wire_", "pin", "plug_"))]
    work_through(page, bench, job, until="cells_in:new")
    # The old readings are gone, the new cells are marked, and are read in their places before anything is joined.
    expect(page.locator(".stop")).to_contain_text("2 cells are not read in place yet")
    expect(page.get_by_role("button", name=re.compile("group 2 .new cells., not read"))).to_be_visible()
    expect(page.locator("circle.fresh")).to_have_count(2)
    page.get_by_role("link", name="Map", exact=True).click()
    for cell in bench.get(f"/api/jobs/{job}/block").json()["map"]["cells"]:
        page.get_by_label(f"{cell['cell']} reads, V").fill("1,27 V" if cell["top"] == "positive" else "-1,27 V")
        page.keyboard.press("Enter")
        expect(page.get_by_label(f"{cell['cell']} reads, V")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Go on with the list")).click()
    work_through(page, bench, job)
    page.get_by_role("button", name=re.compile("^Read the new cells of groups 1 and 2")).click()
    for k in (1, 2):
        expect(page.get_by_role("heading", name=f"Group {k}")).to_be_visible()
        page.locator(".entry input").press_sequentially("1270 mV")
        page.keyboard.press("Enter")
    expect(page.get_by_text("2 of 2")).to_be_visible()
    groups = bench.get(f"/api/jobs/{job}").json()["now"]["groups"]
    assert [g["volts"] for g in groups] == [1.27, 1.27]
    # One charge with the case open, a night, a second look; then it is closed.
    page.goto(f"{demo}/jobs/{job}/join?of=work")
    work_through(page, bench, job, case=True)
    assert all(work["next"] is None for work in bench.get(f"/api/jobs/{job}/block").json()["lists"])
    page.goto(f"{demo}/jobs/{job}/hand-over")
    page.get_by_label("Minutes at the bench").fill("1h20")
    signed(page, because="the customer proves it")
    assert bench.get(f"/api/jobs/{job}").json()["facts"]["sign_off"]["minutes"] == 80
    certificate = printed(page, demo, "Certificate for the customer")
    assert "New cells in groups 1 and 2" in certificate
    assert "12 months on the new cells" in certificate
    # Nickel has no lithium rules, and what lithium wants is on none of its papers.
    assert not says(handing_words.before_winter_half_charged, certificate)
    label = printed(page, demo, "Label for the pack")
    assert "2S1P" in label
    # The old cells leave the shop by a note of their own.
    collection = printed(page, demo, "Note for the collection")
    assert collection.count("taken out in repair") == 2


@pytest.mark.long
def test_a_pouch_pack_goes_back_one_group_shorter(page: Page, demo: str, bench: httpx.Client) -> None:
    job = take_in(page, demo, "Field drone P", "4.20 V pouch", "3S 2200mAh", age="3-4 years", load="2 A")
    read_groups(page, "3,86", "3860 mV", "3.70", "11,42 V")
    page.keyboard.press("n")
    page.get_by_role("button", name="swollen").click()
    page.get_by_role("group", name="On which group").get_by_role("button", name="3").click()
    page.get_by_role("button", name="Record the note").click()
    # A swollen pouch holds the pack; it is let go for one thing only.
    page.goto(f"{demo}/jobs/{job}/take-in")
    page.get_by_label("Who releases").fill("Ilka")
    page.get_by_label("Why it is safe now").fill("outside, to cut the third pouch out")
    page.get_by_label("What became of the damaged cells, if any").fill("the third pouch, in sand")
    page.get_by_role("group", name="Groups of the damaged cells").get_by_role("button", name="3").click()
    page.get_by_role("button", name="Record the release").click()
    expect(page.get_by_role("heading", name="In quarantine")).to_have_count(0)
    page.goto(f"{demo}/jobs/{job}/plan")
    expect(page.locator(".condemned")).to_contain_text("swollen")
    choose(
        page,
        demo,
        job,
        "Leave group 3 out",
        hour="36",
        cell="9 €",
        original="92,00",
        cutoff="6 V",
        charger="8,4 V",
        load="2 A",
    )
    solder(page, demo, job, "30 mm", "90W", tabs="plated")
    work_through(page, bench, job)
    expect(page.get_by_text("Group 3 is left out, and its list is done.")).to_be_visible()
    expect(page.get_by_text("Left out: group 3")).to_be_visible()
    expect(page.locator("a.name")).to_contain_text("2S1P, was 3S1P")
    expect(page.get_by_role("button", name=re.compile("^group 3"))).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Prove it")).click()
    proved(page, 3.86, 2)
    page.goto(f"{demo}/jobs/{job}/level")
    expect(page.get_by_text("ends at 12.6 V: that is dangerous")).to_be_visible()
    page.goto(f"{demo}/jobs/{job}/hand-over")
    expect(page.get_by_text("2S1P now")).to_be_visible()
    page.get_by_label("Minutes at the bench").fill("25 min")
    signed(page)
    assert bench.get(f"/api/jobs/{job}").json()["facts"]["sign_off"]["minutes"] == 25
    label = printed(page, demo, "Label for the pack")
    assert "2S1P" in label
    assert "charge to 8.4 V only" in label
    certificate = printed(page, demo, "Certificate for the customer")
    assert says(equipped_words.charge_it_only, certificate)
    assert "it came as 3S1P" in certificate
    assert "swollen" in printed(page, demo, "Note for the collection")
    assert "It came as 3S1P" in printed(page, demo, "Print the sheet")
