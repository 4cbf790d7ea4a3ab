"""The API and the screens with 5,000 jobs in the data file."""

import itertools
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
from playwright.sync_api import Page

from bench.measure import Figure, at_most, milliseconds
from bench.seed import seed
from running import chromium, running

JOBS = 5000
# Jobs that are probed and judged, and open: every twelfth of the seeded ones.
OPEN = range(62, JOBS, 12)
OF_A_JOB = ["probe", "probe?view=photo", "leads", "measures", "instruments", "judge", "level", "prove", "hand-over"]
VIEWS = ["/", "/take-in", *[f"/jobs/62/{view}" for view in OF_A_JOB]]


def figures() -> Iterator[Figure]:
    """Latency of the API, of an accepted reading on screen, and of every view."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "bench.sqlite3"
        seed(data, JOBS).close()
        with running("serve", data=data) as address:
            with httpx.Client(base_url=address) as client:
                yield from _api(client)
            with chromium() as browser:
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                yield from _reading_drawn(page, address)
                yield from _views(page, address)


def _api(client: httpx.Client) -> Iterator[Figure]:
    keys = itertools.count()

    def read() -> None:
        n = next(keys)
        body = {"point": {"kind": "tap", "tap": n % 12 + 1}, "volts": 4.1 * (n % 12 + 1), "key": f"bench-{n:06d}"}
        client.post(f"/api/jobs/{OPEN[n % 200 + 1]}/readings", json=body).raise_for_status()

    calls = {
        "store a reading": read,
        "see a job": lambda: client.get(f"/api/jobs/{next(keys) % JOBS + 1}").raise_for_status(),
        "list jobs": lambda: client.get("/api/jobs", params={"limit": 60}).raise_for_status(),
        "find a serial": lambda: client.get("/api/jobs", params={"search": "VS-04321"}).raise_for_status(),
        "what waits": lambda: client.get("/api/waiting").raise_for_status(),
        "what to level": lambda: client.get("/api/jobs/62/level", params={"target": "full"}).raise_for_status(),
    }
    for what, call in calls.items():
        yield at_most(f"API, {JOBS} jobs: {what}, 95th percentile", milliseconds(call, 200), 0.95, 50)


# Marks the time of the key, and of the frame that paints the text once it stands in the run table.
_WATCH = """text => { window.drawn = new Promise((done, never) => {
    setTimeout(() => never(new Error('not drawn within 3 s')), 3000)
    const painted = () => requestAnimationFrame(() => setTimeout(() => done(performance.now())))
    const seen = new MutationObserver(() => {
        if (document.querySelector('.run')?.textContent.includes(text)) { seen.disconnect(); painted() } })
    seen.observe(document.body, { subtree: true, childList: true, characterData: true }) })
    window.pressed = null
    addEventListener('keydown', e => { if (e.key === 'Enter') window.pressed ??= performance.now() }, { capture: true }) }"""


def _reading_drawn(page: Page, address: str) -> Iterator[Figure]:
    first, later = list[float](), list[float]()
    for job in OPEN[250:310]:  # untouched by the calls above
        page.goto(f"{address}/jobs/{job}/probe")
        page.locator(".row.level .touch, .row.low .touch").first.wait_for()
        for nth in range(4):
            page.keyboard.press("r")
            page.locator(".entry input").wait_for()
            value = f"4{job % 3 + 6}.{job % 20 * 4 + nth:02d}"
            page.locator(".entry input").fill(value)
            page.evaluate(_WATCH, value)
            page.keyboard.press("Enter")
            (later if nth else first).append(page.evaluate("window.drawn.then(at => at - window.pressed)"))
    what = "A reading, from Enter to stored and drawn"
    yield at_most(f"{what}, first after a page load: 95th percentile", first, 0.95, 100)
    yield at_most(f"{what}, the ones after it: 95th percentile", later, 0.95, 100)


def _views(page: Page, address: str) -> Iterator[Figure]:
    for view in VIEWS:
        taken = []
        for _ in range(5):
            page.goto("about:blank")
            start = time.perf_counter()
            page.goto(address + view, wait_until="domcontentloaded")
            page.get_by_role("heading").first.wait_for()
            taken.append((time.perf_counter() - start) * 1000)
        yield at_most(f"View {view} usable: slowest of five", taken, 0.99, 1000)
