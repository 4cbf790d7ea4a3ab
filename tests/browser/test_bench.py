"""What the bench asks of the screens: two windows, hazards, bad input, access, fit, and the page's own manners."""

import json
import re
import urllib.request
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from running import PATIENT_S, running, started
from tests.browser.conftest import settled
from tests.browser.hands import HAND_MS

ROOT = Path(__file__).parents[2]
AXE = (ROOT / "web/node_modules/axe-core/axe.min.js").read_text()
VIEWS = [
    "/",
    "/take-in",
    "/bench",
    "/instruments",
    "/jobs/9/instruments",
    "/jobs/10/leads",
    "/jobs/5/measures",
    "/jobs/2/take-in",
    "/jobs/7/probe",
    "/jobs/4/probe",
    "/jobs/4/probe?view=photo",
    "/jobs/4/probe?view=string",
    "/jobs/5/measures?of=resistance",
    "/jobs/5/measures?of=path",
    "/jobs/5/measures?of=sensor",
    "/jobs/5/measures?of=wiggle",
    "/jobs/5/measures?of=capacity",
    "/jobs/3/judge",
    "/jobs/5/judge",
    "/jobs/5/level",
    "/jobs/6/prove",
    "/jobs/1/hand-over",
]
SIZES = [(390, 844), (820, 1180), (1024, 768), (1280, 800), (1920, 1080)]


def barriers(page: Page, view: str, **asked: Any) -> list[str]:
    """What of a view keeps somebody from using it, as the checker says."""
    result = page.evaluate("asked => axe.run({resultTypes: ['violations'], ...asked})", asked)
    return [
        f"{view}: {v['id']}: {v['nodes'][0]['html'][:120]}"
        for v in result["violations"]
        if v["impact"] in ("serious", "critical")
    ]


WIDE = """() => [document.documentElement, ...document.querySelectorAll('main, aside, section.pack, footer, header')]
    .filter(el => el.scrollWidth > el.clientWidth + 1).map(el => `${el.tagName}.${el.className} ${el.scrollWidth}>${el.clientWidth}`)"""
# What a finger is to hit in the work pane; a label is as good as what it is for.
SMALL = """() => [...document.querySelectorAll('main :is(a, button, input, textarea, [role=radio], [role=switch])')]
    .filter(el => !el.closest('svg') && el.checkVisibility({opacityProperty: true, visibilityProperty: true}))
    .map(el => [el, (el.closest('label, .el-input, .el-select, .el-radio-button, .el-textarea, .entry') ?? el)])
    .map(([el, of]) => [el, of.getBoundingClientRect()])
    .filter(([, r]) => r.width && r.height && (r.width < 43.5 || r.height < 43.5))
    .map(([el, r]) => `${el.tagName} ${el.textContent.trim()} ${Math.round(r.width)}x${Math.round(r.height)}`)"""


# In two halves, for two hands.
@pytest.mark.long
@pytest.mark.parametrize("views", [VIEWS[::2], VIEWS[1::2]], ids=["every other", "the others"])
def test_no_view_has_a_serious_barrier_by_day_or_night_nor_is_cut_off_or_too_small_to_hit(
    browser: Browser, demo: str, views: list[str]
) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, color_scheme="light")
    page = context.new_page()
    found: list[str] = []
    page.on("console", lambda m: found.append(f"{page.url}: {m.text}") if m.type == "error" else None)
    for view in views:
        page.emulate_media(color_scheme="light")
        page.set_viewport_size({"width": 1280, "height": 800})
        settled(page, demo + view)
        page.evaluate(AXE)
        assert not page.evaluate("document.documentElement.classList.contains('dark')")
        found += barriers(page, view)
        # By night only the colours are others.
        page.emulate_media(color_scheme="dark")
        expect(page.locator("html")).to_have_class(re.compile("dark"))
        page.evaluate("() => Promise.all(document.getAnimations().map(a => a.finished.catch(() => null)))")
        found += barriers(page, f"{view} by night", runOnly=["color-contrast"])
        for width, height in SIZES:
            page.set_viewport_size({"width": width, "height": height})
            # Two frames: what watches its own size has drawn itself anew.
            page.evaluate("() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
            found += [f"{view} at {width}: {one}" for one in [*page.evaluate(WIDE), *page.evaluate(SMALL)]]
            assert page.evaluate("document.documentElement.scrollHeight <= window.innerHeight"), (view, width)
    context.close()
    assert found == []


def test_two_windows_on_one_job_see_each_other(browser: Browser, tmp_path: Path) -> None:
    with running("demo", "--data", str(tmp_path / "demo.sqlite3")) as own:
        one, two = browser.new_page(), browser.new_page()
        for page in (one, two):
            settled(page, f"{own}/jobs/7/probe")
            expect(page.get_by_role("heading", level=1)).to_have_text("Tap 9 against tap 0")
        # The second window is still typing for the same tap when the first one's reading arrives.
        two.locator(".entry input").fill("36.33")
        one.locator(".entry input").fill("36.32")
        one.keyboard.press("Enter")
        expect(two.locator(".run")).to_contain_text("36.32")
        expect(two.get_by_role("heading", level=1)).to_have_text("Tap 9 against tap 0")
        expect(two.locator(".entry input")).to_have_value("36.33")
        two.keyboard.press("Enter")
        # Neither replaced the other: both stand, and both count.
        expect(one.locator(".run")).to_contain_text("36.33")
        for page in (one, two):
            expect(page.locator(".run")).to_contain_text("36.32")
            expect(page.locator(".run s")).to_have_count(1)  # only the slip that the demo itself corrected
            expect(page.get_by_role("heading", level=1)).to_have_text("Tap 10 against tap 0")
        for page in (one, two):
            page.close()


def test_bad_input_says_what_and_loses_nothing(browser: Browser, demo: str) -> None:
    page = browser.new_page()
    settled(page, f"{demo}/take-in")
    page.get_by_label("Customer", exact=True).fill("Row team Q")
    page.get_by_label("In series").fill("15")
    page.get_by_label("Rated, Ah").fill("lots")
    page.get_by_text("4.20 V lithium-ion").click()
    for question in page.locator(".question").all():
        question.press("n", delay=HAND_MS)
    page.get_by_role("button", name="Take it in").click()
    alerts = page.locator(".row .error")
    expect(alerts).to_have_text(
        ["Which pack: must not be empty", "Rated, Ah: type a number such as 4 (4 Ah and 4000 mAh are understood)"]
    )
    page.reload()
    expect(page.get_by_label("Customer", exact=True)).to_have_value("Row team Q")
    page.get_by_label("Which pack").fill("Test")
    page.get_by_label("Rated, Ah").fill("5")
    expect(page.locator(".hazard")).to_contain_text("above the 60 V DC")
    page.get_by_role("button", name="Take it in").click()
    expect(page.locator(".row .error")).to_contain_text("In series: 15 in series reach 63.0 V")
    page.close()


def test_a_swollen_pack_goes_to_quarantine_and_comes_back_only_by_release(browser: Browser, tmp_path: Path) -> None:
    with running("demo", "--data", str(tmp_path / "demo.sqlite3")) as own:
        page = browser.new_page()
        settled(page, f"{own}/jobs/2/take-in")
        expect(page.get_by_role("heading", level=1)).to_have_text("In quarantine")
        page.get_by_role("button", name="Record the release").click()
        expect(page.get_by_role("alert").first).to_contain_text("Who releases: must not be empty")
        page.get_by_label("Who releases").fill("Ilka")
        page.get_by_label("Why it is safe now").fill("the rest is sound")
        page.get_by_role("button", name="Record the release").click()
        expect(page.get_by_role("alert").first).to_contain_text("say what became of the damaged cells")
        page.get_by_label("What became of the damaged cells").fill("swollen cells cut out and boxed")
        page.get_by_role("button", name="Record the release").click()
        page.get_by_role("button", name="Go on to Probe").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Tap 1 against tap 0")
        page.close()


def test_shortcuts_are_listed_and_a_row_tells_how_it_was_obtained(browser: Browser, demo: str) -> None:
    page = browser.new_page()
    settled(page, f"{demo}/jobs/7/probe")
    page.locator(".row.low .touch").focus()
    expect(page.locator(".story")).to_contain_text("from tap 6")
    page.keyboard.press("Enter")  # reads that group again
    expect(page.get_by_role("heading", level=1)).to_have_text("Group 7")
    expect(page.locator(".entry input")).to_be_focused()
    page.keyboard.press("p")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("this point cannot be reached")
    page.close()


def test_the_first_script_is_small(demo: str, browser: Browser) -> None:
    import gzip

    page = browser.new_page()
    scripts: list[bytes] = []
    page.on("response", lambda r: scripts.append(r.body()) if r.url.endswith(".js") else None)
    settled(page, demo)
    page.close()
    assert sum(len(gzip.compress(s)) for s in scripts) < 300_000


def test_the_demo_on_its_own_file_goes_on_with_what_is_there(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite3"
    jobs = []
    for said in ("", "jobs already; the demo goes on with what is there"):
        process, address, told = started("demo", "--data", str(file))
        with urllib.request.urlopen(f"{address}/api/jobs") as answer:
            jobs.append(json.load(answer)["jobs"])
        process.terminate()
        process.wait(timeout=PATIENT_S)
        assert said in told
    assert [job["id"] for job in jobs[0]] == [job["id"] for job in jobs[1]]
