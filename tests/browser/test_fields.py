"""Every field of every page takes what is typed and holds it, or says why not: found by walking the pages, from one link to the next."""

import re
from collections import Counter
from pathlib import Path

from playwright.sync_api import Browser, Locator, Page, expect

from running import running

# A date is picked, a file chosen, a choice made: what is typed goes into the rest.
TYPED = "input:not([type=date]):not([type=time]):not([type=file]):not([type=checkbox]):not([type=radio]):not([readonly]):not([role=combobox]), textarea"
NUMBER = re.compile(r"/\d+(?=/|$)")


def pattern(address: str) -> str:
    return NUMBER.sub("/N", address)


def settled(page: Page, address: str) -> None:
    page.goto(address)
    expect(page.locator("main").first).to_be_visible()
    page.wait_for_load_state("networkidle")
    # What lies folded is looked into, too.
    page.evaluate("document.querySelectorAll('details').forEach(d => { d.open = true })")


def links(page: Page) -> list[str]:
    found = page.evaluate("[...document.querySelectorAll('a[href^=\"/\"]')].map(a => a.getAttribute('href'))")
    return [str(link) for link in found if not str(link).startswith(("/api", "/assets"))]


def name_of(field: Locator) -> str:
    return str(
        field.evaluate("el => el.getAttribute('aria-label') || el.labels?.[0]?.textContent || el.placeholder || el.id")
    )


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
            todo += [link for link in links(page) if link not in met]
            fields = page.locator(TYPED)
            for n in range(fields.count()):
                field = fields.nth(n)
                if not (field.is_visible() and field.is_enabled()):
                    continue
                name = name_of(field)
                field.focus()
                field.press("Control+a")
                field.press_sequentially("7")
                page.wait_for_timeout(30)
                held = field.input_value() if fields.count() > n else "gone"
                typed += 1
                if held != "7":
                    lost.append(f"{view}: {name}: “{held}”")
        page.close()
    assert lost == [], lost
    # As many pages and fields as the product has at least: a walk that went astray finds fewer.
    assert len(visited) > 20
    assert typed > 80
