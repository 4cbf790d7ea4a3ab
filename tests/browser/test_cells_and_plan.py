"""From a tester's file to the quote: cells brought in, graded, matched for a pack, an option taken, the page to print."""

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S
from tests.api.conftest import SAFE

KIND = {
    "name": "Travers 2000",
    "size": "18650",
    "chemistry": "nmc",
    "rated_ah": 2.0,
    "discharge_a": 15,
    "ohm": 0.024,
    "price": 4.2,
}


@pytest.fixture
def waits(demo: str) -> int:
    """A pack of six groups of two whose second group lies under the floor, judged and at Plan."""
    pack = {"chemistry": "nmc", "series": 6, "parallel": 2, "rated_ah": 4.0, "load_a": 6}
    intake = {"customer": "Row team Z", "pack_name": "Pruning saw", "pack": pack, "age_years": 4, "kind": "garden"}
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json={"intake": intake, "safety": SAFE}).json()[
        "facts"
    ]["id"]
    for group, volts in enumerate((3.71, 0.6, 3.70, 3.71, 3.70, 3.71), start=1):
        body = {"point": {"kind": "group", "group": group}, "volts": volts, "key": f"saw-{job}-{group}"}
        httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/readings", json=body).raise_for_status()
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/stage", json={"stage": "plan"}).raise_for_status()
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/cells/types", json=KIND).raise_for_status()
    return int(job)


def test_from_a_testers_file_to_the_quote(page: Page, demo: str, waits: int) -> None:
    page.goto(f"{demo}/cells")
    expect(page.get_by_role("button", name="Bring tests in")).to_be_visible()
    page.keyboard.press("b")
    rows = [f"T-{k};{1880 - 30 * k};{29 + k / 10:.1f};3,70{k}" for k in range(1, 7)]
    text = (
        "Cell;Capacity / mAh;Internal resistance / mohm;OCV / V\n"
        + "\n".join(rows).replace(".", ",")
        + "\nT-9;none;30;3,7\n"
    )
    page.locator("input[type=file]").set_input_files(
        {"name": "bay.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )
    expect(page.get_by_text("7 rows, one row a cell, decimal comma")).to_be_visible()
    page.get_by_label("Enter them as cells of").press("Enter")
    page.get_by_role("option", name="Travers 2000").click()
    page.get_by_role("button", name="Record the good rows").click()
    expect(page.get_by_text("6 tests kept.")).to_be_visible()
    expect(page.get_by_text("“none” is not a number")).to_be_visible()

    # Graded at once, each with its reason; a mark for each, and a cell opened by its name as a scanner types it.
    page.get_by_role("button", name="Travers 2000", exact=True).click()
    expect(page.get_by_role("img", name="6 cells by capacity and resistance")).to_be_visible()
    row = page.get_by_role("row").filter(has_text="T-1")
    expect(row).to_contain_text(re.compile(r"first it holds 9\d % of its rating"))
    page.get_by_label("Scan a label").fill(f"{demo}/cells/T-6")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="T-6")).to_be_visible()
    page.get_by_role("button", name="a dent").click()
    page.get_by_role("button", name="Record the test").click()
    expect(page.locator(".grade")).to_have_text("not for packs")

    # At the pack: what things cost is typed once, and the repairs are weighed as it is.
    page.goto(f"{demo}/jobs/{waits}/plan")
    page.get_by_label("Hour at the bench").fill("36")
    page.get_by_role("textbox", name="New original").fill("110,5")
    page.get_by_label("Cells’ size").fill("18650")
    page.keyboard.press("Tab")
    best = page.locator(".row.best")
    expect(best).to_contain_text("Donor cells in group 2")
    expect(page.get_by_text("Ruled out, and why")).to_be_visible()
    # What was kept stands as it was typed: a field rewritten while a hand is in it loses what was selected there.
    expect(page.get_by_text("keeping", exact=True)).to_have_count(0)
    expect(page.get_by_role("textbox", name="New original")).to_have_value("110,5")
    page.get_by_role("textbox", name="New original").fill("0,5")
    # While it is typed the order changes; nothing is recorded before the field is left.
    expect(best).to_contain_text("A new original")
    page.get_by_role("textbox", name="New original").fill("110,5")
    page.keyboard.press("Tab")
    expect(best).to_contain_text("Donor cells in group 2")

    # Matched at one key, put by, taken, and on paper.
    best.get_by_role("button").first.click()
    page.get_by_role("group", name="Aim").get_by_role("button", name="the most").click()
    page.keyboard.press("c")
    expect(page.locator(".group")).to_contain_text(re.compile(r"Group 2: \d\.\d\d Ah"))
    names = page.locator(".group .mono").inner_text().split(", ")
    assert len(names) == 2
    expect(page.get_by_role("textbox", name="New original")).to_have_value("110,5")
    page.get_by_label("Put aside by").fill("Ilka")
    page.get_by_role("button", name="Put them aside for this job").click()
    expect(page.get_by_role("link", name=names[0], exact=True)).to_be_visible()
    quote = page.get_by_role("link", name=re.compile("Quote to print")).get_attribute("href")
    assert quote is not None
    assert httpx.get(timeout=PATIENT_S, url=demo + quote).content.startswith(b"%PDF")
    page.get_by_role("button", name="The customer takes this").click()
    page.get_by_label("Agreed with").fill("Ilka")
    page.get_by_role("button", name="Record the choice").click()
    expect(page.get_by_role("heading", name="Taken: Donor cells in group 2")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="Taken: Donor cells in group 2")).to_be_visible()

    # The cells go in by their names, and the drawer knows where they are.
    page.goto(f"{demo}/jobs/{waits}/level")
    # The plan over the channels comes above it: a hand waits until the page stands.
    expect(page.get_by_text("Nothing to do over these channels.")).to_be_visible()
    page.get_by_role("button", name="group 2 has new cells").click()
    expect(page.get_by_text(f"Put aside for group 2: {', '.join(sorted(names))}")).to_be_visible()
    page.get_by_label("By", exact=True).fill("Ilka")
    page.get_by_role("button", name="Record: the cells are in").click()
    expect(page.get_by_role("button", name=re.compile("group 2 .(used cells|cells from a donor)."))).to_be_visible()
    assert (
        httpx.get(timeout=PATIENT_S, url=f"{demo}/api/cells/of/{names[0]}").json()["cell"]["where"]
        == f"built into group 2 of job {waits:04d}"
    )


def test_a_box_drawn_in_the_figure_picks_and_a_slip_scraps_nothing(page: Page, demo: str) -> None:
    page.goto(f"{demo}/cells")
    figure = page.locator("figure.plot > svg")
    expect(figure).to_be_visible()
    expect(page.get_by_text(re.compile(r"\d+ more lack"))).to_be_visible()
    frame = figure.bounding_box()
    assert frame is not None
    page.mouse.move(frame["x"] + 100, frame["y"] + 20)
    page.mouse.down()
    page.mouse.move(frame["x"] + frame["width"] / 2, frame["y"] + frame["height"] * 0.7, steps=4)
    page.mouse.up()
    expect(page.get_by_text("in the box you drew")).to_be_visible()
    page.keyboard.press("p")
    picked = page.get_by_role("heading", name=re.compile(r"\d+ picked"))
    expect(picked).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("Labels for"))).to_be_visible()
    # Scrapping asks for a second, other press, and Escape lets go of everything.
    page.get_by_role("button", name="Scrap them").click()
    expect(page.get_by_role("button", name=re.compile("for good"))).to_be_visible()
    page.get_by_role("button", name="Cancel").click()
    page.locator("h2").first.click()
    page.keyboard.press("Escape")
    expect(picked).to_have_count(0)
    expect(page.get_by_text("Draw a box to pick by it")).to_be_visible()
