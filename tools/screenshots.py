"""Render docs/screenshots from the demo data: one picture of each main view at 1280 × 800."""

from pathlib import Path

from running import chromium, running

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
VIEWS = {
    "today": ("/", "light"),
    "take-in": ("/take-in", "light"),
    "probe": ("/jobs/7/probe", "light"),
    "judge": ("/jobs/5/judge", "light"),
    "level": ("/jobs/5/level", "light"),
    "prove": ("/jobs/17/prove?of=tests", "light"),
    "hand-over": ("/jobs/9/hand-over", "light"),
    "numbers-dark": ("/numbers", "dark"),
    "cells": ("/cells/K-41", "light"),
    "plan": ("/jobs/14/plan", "light"),
    "policy": ("/policy", "light"),
    "join": ("/jobs/14/join", "light"),
    "patterns": ("/patterns", "light"),
    "pattern": ("/patterns/2", "light"),
    "returns": ("/returns", "light"),
    "instruments": ("/jobs/9/instruments", "light"),
    "leads": ("/jobs/10/leads", "light"),
    "chip": ("/jobs/13/chip", "light"),
    "shop-instruments": ("/instruments", "light"),
}


def main() -> None:
    """Start the demo, visit each view, and keep its picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with running("demo") as address, chromium() as browser:
        for name, (path, scheme) in VIEWS.items():
            page = browser.new_page(
                viewport={"width": 1280, "height": 800},
                color_scheme="dark" if scheme == "dark" else "light",
                locale="en-GB",
            )
            page.goto(address + path)
            page.get_by_role("heading").first.wait_for()
            page.wait_for_load_state("networkidle")
            if name == "probe":
                page.locator(".entry input").press_sequentially("36.3")
            if name == "take-in":
                page.get_by_label("Which pack").fill("prun")
                page.get_by_label("Volts and capacity on its label").fill("18 V")
                page.get_by_text("Seen before").wait_for()
            if name == "hand-over":
                page.get_by_role("region", name="What this pack taught").scroll_into_view_if_needed()
            if name == "instruments":
                page.get_by_role("button", name="read tap 5 against tap 0").press("Enter")
                page.get_by_role("button", name="read tap 9 against tap 0").press("Shift+Enter")
                page.wait_for_timeout(2500)
            if name == "shop-instruments":
                page.get_by_role("button", name="Plug in two practice ports").click()
                port = page.locator("li", has_text="Practice hand meter")
                port.get_by_role("button", name="Find out what speaks there").click()
                page.locator("form.found pre").wait_for()
            if name == "leads":
                page.get_by_role("button", name="use a live meter").click()
                page.get_by_role("button", name="grey").click()
                page.get_by_role("heading", name="Join grey").wait_for()
            if name == "measures-resistance":
                for group, milliohms in enumerate((3.5, 3.4, 7.9, 3.6, 3.5, 3.4), start=1):
                    page.get_by_label("At 1 kHz, mΩ").fill(f"{milliohms}")
                    page.keyboard.press("Enter")
                    page.locator(".kept li").nth(group - 1).wait_for()
            if name == "probe-live":
                page.locator("button", has_text="live").click()
                page.get_by_role("heading", name="Tap 5 against").wait_for()
                page.locator(".entry output", has_text="19.").wait_for()
            page.wait_for_timeout(700)  # bobs settle
            page.screenshot(path=FOLDER / f"{name}.png")
            page.close()


main()
