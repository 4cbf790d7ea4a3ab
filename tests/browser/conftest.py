"""A running Saldatura and a headless Chromium for the browser tests."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from running import chromium, running

# What is waited for comes on a busy machine too, only later.
expect.set_options(timeout=20_000)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    mine = [item for item in items if "tests/browser" in str(item.path)]
    for item in mine:
        item.add_marker(pytest.mark.browser)
    # One of a browser after some of the others, where a module ends: together they would want more than there is, and apart they fill what
    # the others leave.
    others = [item for item in items if "tests/browser" not in str(item.path)]
    if not mine or not others:
        return
    each, left, mixed = len(others) / len(mine), list(mine), list[pytest.Item]()
    for n, item in enumerate(others):
        if n and item.path != others[n - 1].path:
            due = len(mine) - round((len(others) - n) / each)
            while len(mine) - len(left) < due:
                mixed.append(left.pop(0))
        mixed.append(item)
    items[:] = [*mixed, *left]


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
