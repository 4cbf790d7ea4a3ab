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
