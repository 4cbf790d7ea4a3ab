"""Every field of every page takes what is typed and holds it, or says why not: found by walking the pages, from one link to the next."""

import re
from collections import Counter
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from running import running
from tests.browser.conftest import settled

# A date is picked, a file chosen, a choice made: what is typed goes into the rest.
TYPED = "input:not([type=date]):not([type=time]):not([type=file]):not([type=checkbox]):not([type=radio]):not([readonly]):not([role=combobox]), textarea"
NUMBER = re.compile(r"/\d+(?=/|$)")


def pattern(address: str) -> str:
    return NUMBER.sub("/N", address)


# What lies folded is looked into, too.
FIELDS = """typed => {
    document.querySelectorAll('details').forEach(d => { d.open = true })
    return [...document.querySelectorAll(typed)].filter(f => f.checkVisibility({visibilityProperty: true}) && !f.disabled)
}"""
NAME = "f => f.getAttribute('aria-label') || f.labels?.[0]?.textContent || f.placeholder || f.id"
# Two frames after the key what is shown is what is held; a field that left the page holds nothing.
HELD = """f => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(
    () => done(f.isConnected ? f.value : 'gone'))))"""


def links(page: Page) -> list[str]:
    found = page.evaluate("[...document.querySelectorAll('a[href^=\"/\"]')].map(a => a.getAttribute('href'))")
    return [str(link) for link in found if not str(link).startswith(("/api", "/assets"))]


@pytest.mark.long
def test_every_field_of_every_page_takes_what_is_typed(browser: Browser, tmp_path: Path) -> None:
    with running("demo", "--data", str(tmp_path / "demo.sqlite3")) as own:
        page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
        todo, met, visited, typed, lost = ["/"], set[str](), Counter[str](), 0, list[str]()
        while todo:
            view = todo.pop(0)
            if view in met or pattern(view) in visited:
                continue
            met.add(view)
            visited[pattern(view)] += 1
            settled(page, own + view)
            fields = [f.as_element() for f in page.evaluate_handle(FIELDS, TYPED).get_properties().values()]
            todo += [link for link in links(page) if link not in met]
            for field in fields:
                assert field is not None
                if not field.evaluate("f => f.isConnected && (f.focus(), f.select(), true)"):
                    continue
                page.keyboard.type("7")
                typed += 1
                if (held := field.evaluate(HELD)) != "7":
                    lost.append(f"{view}: {field.evaluate(NAME)}: “{held}”")
        page.close()
    assert lost == [], lost
    # As many pages and fields as the product has at least: a walk that went astray finds fewer.
    assert len(visited) > 20
    assert typed > 80
