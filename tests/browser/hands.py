"""What hands do at the pages of any repair: a list worked through, a pack proved and signed, its papers printed, an answer awaited."""

import io
import re
import time
from collections.abc import Callable
from datetime import UTC, datetime

import httpx
from playwright.sync_api import Page, Route, expect
from pypdf import PdfReader

from running import PATIENT_S

# Key codes as Windows counts them, which the browser wants beside the name.
CODES = {"Enter": 13, "n": 78, "u": 85, "y": 89}
BOUNCES_S = 0.03
# The same key twice takes a hand so long.
HAND_MS = 100
ASKS = "Enter once more keeps it"


def bounced(page: Page, key: str = "Enter") -> None:
    """A key that strikes twice within 30 ms by its own clock, however late a busy machine comes to the second one."""
    page.wait_for_timeout(HAND_MS)
    keyboard = page.context.new_cdp_session(page)
    first = time.time() - BOUNCES_S
    for struck in (first, first + BOUNCES_S):
        named = {"key": key, "code": key if len(key) > 1 else f"Key{key.upper()}", "windowsVirtualKeyCode": CODES[key]}
        text = "\r" if key == "Enter" else key
        keyboard.send("Input.dispatchKeyEvent", {"type": "keyDown", "text": text, "timestamp": struck, **named})
        keyboard.send("Input.dispatchKeyEvent", {"type": "keyUp", "timestamp": struck, **named})
    keyboard.detach()


def once_more(page: Page) -> None:
    """A hand that has read the question: it is on the screen, and a moment has gone by."""
    expect(page.get_by_text(ASKS)).to_be_visible()
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
    page.wait_for_timeout(300)
    page.keyboard.press("Enter")


def work_through(page: Page, bench: httpx.Client, job: int, until: str | None = None, case: bool = False) -> None:
    """Each step of the list as the page offers it: read where it asks for a reading, else ticked; `case`: what closes the case as well."""
    while True:
        lists = bench.get(f"/api/jobs/{job}/block").json()["lists"]
        work = next((w for w in lists if w["next"] is not None and (case or w["name"] != "case")), None)
        if work is None:
            return
        step = next(s for s in work["steps"] if s["key"] == work["next"])
        here = page.locator("li.next")
        expect(here.locator("span.what")).to_contain_text(step["action"])
        # What cures or cools is told by the list; the page shows it a moment later where the machine is busy.
        until_ = [datetime.fromisoformat(s["until"]) for w in lists for s in w["steps"] if s.get("until")]
        if any(moment > datetime.now(UTC) for moment in until_):
            page.get_by_label("it has already, go on").check()
        if step["asks"]:
            page.get_by_label(f"{step['joint']} reads, V").fill(f"{step['asks']['expected_v']:.2f}")
            page.keyboard.press("Enter")
        else:
            here.get_by_role("button", name=re.compile("^Step done")).click()
        expect(page.locator("li.next span.what", has_text=step["action"])).to_have_count(0)
        if step["key"] == until:
            return


def proved(page: Page, group_v: float, series: int) -> None:
    """The proving readings, typed one after another as the page asks for them: taps, groups, the terminals."""
    page.get_by_role("button", name="A night ago or more").click()
    heading = page.locator("section h1").first
    for _ in range(series + 1):
        expect(page.locator(".entry input")).to_be_visible()
        asked = heading.inner_text()
        number = int((re.search(r"\d+", asked) or ["1"])[0])
        value = group_v * (series if asked.startswith("Pack") else number if asked.startswith("Tap") else 1)
        page.locator(".entry input").press_sequentially(f"{value:.2f}")
        page.keyboard.press("Enter")
        expect(heading).not_to_have_text(asked)


def printed(page: Page, demo: str, link: str) -> str:
    href = page.get_by_role("link", name=link).get_attribute("href")
    pdf = httpx.get(timeout=PATIENT_S, url=f"{demo}{href}").content
    return " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf)).pages).split())


def signed(page: Page, because: str = "") -> None:
    """Sign the job off by the page; `because`: why without a pass, which is asked of no pack that passed."""
    page.get_by_label("Who signs").fill("Ilka")
    reason = page.get_by_label("Why it goes back without a pass")
    if because:
        reason.fill(because)
    else:
        expect(reason).to_have_count(0)
    page.get_by_role("button", name="Sign off").click()
    expect(page.get_by_role("heading", name="Signed and handed over")).to_be_visible()


def held_back(page: Page, address: str) -> Callable[[], None]:
    """What is posted to an address waits until what is given back is called."""
    waiting: list[Route] = []
    page.route(address, lambda route: waiting.append(route) if route.request.method == "POST" else route.continue_())

    def let_go() -> None:
        asked = time.monotonic()
        while not waiting:
            assert time.monotonic() < asked + PATIENT_S, "nothing was posted"
            page.wait_for_timeout(20)
        for route in waiting:
            route.continue_()
        page.unroute(address)

    return let_go
