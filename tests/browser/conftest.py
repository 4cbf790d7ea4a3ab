"""A running Saldatura and a headless Chromium for the browser tests."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from running import chromium, running

# What is waited for comes on a busy machine too, only later.
expect.set_options(timeout=20_000)


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


def settled(page: Page, address: str) -> None:
    """A page with all that it asks for at first."""
    page.add_init_script(ASKING)
    page.goto(address)
    page.wait_for_function(AT_REST)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with chromium() as found:
        yield found


@pytest.fixture(scope="session")
def demo() -> Iterator[str]:
    with running("demo") as address:
        yield address


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    made = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
    yield made
    made.close()
