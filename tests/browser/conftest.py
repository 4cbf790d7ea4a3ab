"""A running Saldatura and a headless Chromium for the browser tests."""

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from running import PATIENT_S, chromium, running

# What is waited for comes on a busy machine too, only later.
expect.set_options(timeout=PATIENT_S * 1000)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/browser" in str(item.path):
            item.add_marker(pytest.mark.browser)


# What a page asks of the program, counted: it is at rest when nothing is asked and nothing was for a moment.
ASKING = """(() => {
    if (window.asking) return
    const real = window.fetch
    window.asking = { now: 0, last: performance.now() }
    window.fetch = async (...asked) => {
        window.asking.now += 1
        try { return await real(...asked) } finally { window.asking.now -= 1; window.asking.last = performance.now() }
    }
})()"""
AT_REST = "() => window.asking && window.asking.now === 0 && performance.now() - window.asking.last > 150 && !!document.querySelector('main, h1, h2')"


# What a page may keep for the next one.
KEPT_BY_A_PAGE = "local_storage,indexeddb,cache_storage,service_workers,file_systems,shared_storage"


def settled(page: Page, address: str) -> None:
    """A page with all that it asks for at first."""
    page.add_init_script(ASKING)
    page.goto(address)
    page.wait_for_function(AT_REST)


def patient(make: Callable[..., Any]) -> Callable[..., Any]:
    """What makes a page, or a window, that waits as long for what is asked of it."""

    def made(**how: Any) -> Any:
        found = make(**how)
        found.set_default_timeout(PATIENT_S * 1000)
        return found

    return made


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with chromium() as found:
        for name in ("new_page", "new_context"):
            setattr(found, name, patient(getattr(found, name)))
        yield found


@pytest.fixture(scope="session")
def demo() -> Iterator[str]:
    with running("demo") as address:
        yield address


@pytest.fixture(scope="session")
def bench_window(browser: Browser) -> Iterator[BrowserContext]:
    """One profile for one page after another: what never changes is fetched and compiled once."""
    made = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB")
    yield made
    made.close()


@pytest.fixture
def page(bench_window: BrowserContext) -> Iterator[Page]:
    """A page that nobody has used, on a profile that keeps nothing of the page before but what the program says never changes."""
    made = bench_window.new_page()
    seen: set[str] = set()
    made.on("framenavigated", lambda frame: seen.add("/".join(frame.url.split("/")[:3])))
    yield made
    # On a page of its own: the one that was used may be closed, or have fallen over.
    tools = bench_window.new_cdp_session(bench_window.new_page())
    for origin in seen:
        tools.send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": KEPT_BY_A_PAGE})
    for left in bench_window.pages:
        left.close()
    bench_window.clear_cookies()
