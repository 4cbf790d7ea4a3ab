"""From an empty shop: one job, what it taught, and a second pack of the same model that begins from it."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_walk import Shop, heading, press


@pytest.fixture
def shop(tmp_path: Path) -> Iterator[Shop]:
    found = Shop(tmp_path / "shop.sqlite3")
    found.start()
    yield found
    found.kill()


class Hand:
    """What the hand does, counted: a field typed into, a button or a key pressed."""

    def __init__(self, page: Page) -> None:
        self.page, self.acts = page, 0

    def types(self, label: str, text: str) -> None:
        self.acts += 1
        self.page.get_by_label(label, exact=True).fill(text)

    def presses(self, name: str | re.Pattern[str], role: str = "button") -> None:
        self.acts += 1
        self.page.get_by_role(role, name=name).first.click()  # type: ignore[arg-type]


def first_job(page: Page, shop: Shop) -> None:
    """A pruner of which nothing is known, from the counter to its signature."""
    page.goto(f"{shop.address}/take-in")
    hand = Hand(page)
    hand.types("Customer", "Zebulon Quark")
    hand.types("Which pack", "Cordless pruner")
    page.get_by_text("lithium-ion, NMC").click()
    hand.types("In series", "5")
    hand.types("Rated, Ah", "2.5")
    page.get_by_label("Taps that can be touched without opening", exact=False).fill("0, 5")
    hand.presses(re.compile("none of the six"))
    hand.presses("Take it in")
    heading(page, "Tap 1 against tap 0")
    page.keyboard.type("3.9 7.8 11.7 15.6 19.5 19.5")
    press(page, "Enter")
    heading(page, "Every point is read")
    # What the lamps showed, and a word on how it opens.
    press(page, "n")
    page.get_by_role("button", name="temperature", exact=True).click()
    page.get_by_label("In words").fill("long, short, long")
    press(page, "Enter")
    expect(page.get_by_label("In words")).to_be_hidden()


def test_a_second_pack_of_a_model_begins_from_what_the_first_one_taught(page: Page, shop: Shop) -> None:
    first_job(page, shop)
    page.goto(f"{shop.address}/jobs/1/hand-over")
    lesson = page.get_by_role("region", name="What this pack taught")
    expect(lesson).to_contain_text("Nothing is kept of this model yet")
    expect(lesson).to_contain_text("long, short, long")
    lesson.get_by_label("Title of the pattern, free of makes").fill("Cordless pruner, grey")
    lesson.get_by_label("Who takes it over").fill("Ilka")
    lesson.get_by_role("button", name="Begin a pattern with it").click()
    expect(lesson).to_contain_text("Cordless pruner, grey")
    lesson.get_by_role("link", name="Cordless pruner, grey").click()
    heading(page, "Cordless pruner, grey")
    expect(page.get_by_text("Zebulon")).to_have_count(0)

    # Worked on by hand: a step with its caution; a reload loses nothing of it.
    press(page, "e")
    page.get_by_role("button", name="add a step").first.click()
    page.get_by_label("What is done").fill("Four corner screws")
    page.get_by_label("Tool and bit").fill("star bit 8")
    page.get_by_label("What can hurt or break here, such as what not to cut").fill("No lever at the contacts")
    page.locator("form.line-form").get_by_role("button", name="Add a step").click()
    page.reload()
    expect(page.get_by_text("No lever at the contacts")).to_be_visible()
    page.get_by_label("Who changed it").fill("Ilka")
    page.get_by_role("button", name="Sign the change").click()
    expect(page.get_by_role("button", name="Sign the change")).to_have_count(0)
    expect(page.get_by_text("2.5 Ah, revision 2")).to_be_visible()

    # The next one of the model: offered as it is typed, and six acts from there to its first reading.
    page.goto(f"{shop.address}/take-in")
    hand = Hand(page)
    hand.types("Which pack", "prun")
    hand.presses(re.compile("^Cordless pruner, grey"))
    expect(page.get_by_label("In series")).to_have_value("5")
    hand.types("Customer", "Press house")
    hand.presses(re.compile("none of the six"))
    hand.presses("Take it in")
    # What can be read without opening comes first.
    heading(page, "Pack terminals")
    page.keyboard.type("19.4")
    press(page, "Enter")
    hand.acts += 1
    expect(page.locator("dd").filter(has_text="19.40").first).to_be_visible()
    assert hand.acts <= 6
    heading(page, "Tap 5 against tap 0")
    page.keyboard.type("19.4")
    press(page, "Enter")
    # Then it is opened, step by step, and the taps follow.
    steps = page.get_by_role("region", name="Opening it")
    expect(steps).to_contain_text("Caution. No lever at the contacts")
    page.get_by_role("heading", level=1).click()
    press(page, "o")
    expect(steps).to_contain_text("Every step is ticked off")
    heading(page, "Tap 1 against tap 0")
    # Its lamp's code is at hand by its own words.
    page.get_by_role("heading", level=1).click()
    press(page, "n")
    expect(page.get_by_role("button", name="long, short, long")).to_be_visible()
    assert shop.get("/api/jobs/2")["assessment"]["pattern"]["opened"] == ["Four corner screws"]
