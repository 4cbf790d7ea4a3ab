"""Render docs/screenshots from the demo data: one picture of each main view at 1280 × 800."""

from pathlib import Path

from running import chromium, running

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
VIEWS = {
    "today": ("/", "light"),
    "take-in": ("/jobs/2/take-in", "light"),
    "probe": ("/jobs/7/probe", "light"),
    "probe-doubt": ("/jobs/4/probe", "light"),
    "judge": ("/jobs/5/judge", "light"),
    "judge-floor": ("/jobs/3/judge", "light"),
    "level": ("/jobs/5/level", "light"),
    "prove": ("/jobs/6/prove", "light"),
    "hand-over": ("/jobs/1/hand-over", "light"),
    "probe-dark": ("/jobs/7/probe", "dark"),
    "bench": ("/bench", "light"),
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
            page.wait_for_timeout(700)  # bobs settle
            page.screenshot(path=FOLDER / f"{name}.png")
            page.close()


main()
