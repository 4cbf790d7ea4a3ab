"""Every sentence there is, rendered with figures at the edges where sentences turn, holds to how the product speaks."""

import importlib
import inspect
import pkgutil
import random
import re
from collections.abc import Callable, Iterator, Mapping, Sequence, Set
from datetime import UTC, datetime
from pathlib import Path
from statistics import StatisticsError
from types import ModuleType
from typing import Any

import saldatura
from saldatura.battery.words import GLOSSARY
from tests.battery.test_sentences import FINE, WRONG

NUMBERS = (0.0, 1.0, 2.0, 0.5, -0.02, 0.996, 1.004, 3.7, 12.0, 61.5, 250.0)
COUNTS = (1, 2, 3, 5, 12)
NAMES = ("A3", "K-17")
DRAWN: dict[str, Callable[[random.Random], Any]] = {
    "float": lambda r: r.choice(NUMBERS),
    "int": lambda r: r.choice(COUNTS),
    "str": lambda r: r.choice(NAMES),
    "bool": lambda r: r.random() < 0.5,
    "datetime": lambda r: datetime(2026, r.randint(1, 12), r.randint(1, 28), 9, 5, tzinfo=UTC),
}
# How we do not speak. The plumb line is a figure's, and is explained where that is first seen.
UNSPOKEN = {
    "a percent without its space": r"\d%",
    "a unit without its space": r"\d(?:V|A|Ah|mAh|W|Wh|Ω|mΩ|mV|mm|°C)\b",
    "more digits than a meter has": r"\d\.\d{7,}",
    "a hyphen for a minus": r"(?<![\w.–])-\d+(?:\.\d| ?(?:V|A|Ah|mAh|mV|mΩ|Ω|W|°C|K|mm|min|h|s|%)\b)",
    "a plural in brackets": r"\w\((?:s|es|ies)\)",
    "an exclamation": r"!(?!=)",
    "two spaces or a space before a stop": r"\S {2,}\S| [,;:](?: |$)| \.(?: |$)|\.\.(?: |$)",
    "a figure of speech": r"\b(?:plumb|bobs?|hangs?|hang together|end of the matter|of the belief|on the rail|put by|bears \d|weighed|reckon(?:s|ed)? with)\b",
    "what only the code knows": r"\b(?:None|True|False|nan|inf|\w+_\w+\(|<\w+\.\w+)\b",
}

AGREE = {name: form for name, form in WRONG.items() if name != "a hyphen for a minus"}
AGREE["one of many"] += r"(?<!and 1 are)"
FORMS = AGREE | UNSPOKEN


def homes_of_words() -> Iterator[ModuleType]:
    for found in pkgutil.walk_packages(saldatura.__path__, "saldatura."):
        if "words" in found.name.split("."):
            yield importlib.import_module(found.name)


def values(kind: str, rng: random.Random) -> Any:
    """A value of an annotation such as `list[int] | None`; KeyError where that is none of numbers and names."""
    kind = kind.removesuffix(" | None")
    many = re.fullmatch(r"(?:list|Sequence|tuple|set|Set)\[(\w+)(?:, \.\.\.)?\]", kind)
    if many:
        drawn = sorted({DRAWN[many[1]](rng) for _ in range(rng.randint(1, 4))})
        return set(drawn) if kind.lower().startswith("set") else drawn
    pairs = re.fullmatch(r"(?:dict|Mapping)\[(\w+), (\w+)\]", kind)
    if pairs:
        return {DRAWN[pairs[1]](rng): DRAWN[pairs[2]](rng) for _ in range(2)}
    return DRAWN[kind](rng)


def texts(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, Mapping):
        for part in value.values():
            yield from texts(part)
    elif isinstance(value, Sequence | Set):
        for part in value:
            yield from texts(part)


def rendered(rng: random.Random) -> Iterator[tuple[str, str]]:
    """Every text of every home of words, with the name of what said it."""
    for home in homes_of_words():
        for name, value in vars(home).items():
            where = f"{home.__name__}.{name}"
            if inspect.isfunction(value) and value.__module__ == home.__name__ and not name.startswith("_"):
                for _ in range(12):
                    try:
                        given = {
                            n: values(str(p.annotation), rng) for n, p in inspect.signature(value).parameters.items()
                        }
                    except KeyError:
                        break
                    try:
                        said = value(**given)
                    except (ArithmeticError, IndexError, KeyError, StopIteration, StatisticsError):
                        continue
                    yield from ((where, text) for text in texts(list(said) if inspect.isgenerator(said) else said))
            elif not name.startswith("_") and not inspect.ismodule(value) and not inspect.isfunction(value):
                yield from ((where, text) for text in texts(value))


def test_every_sentence_keeps_to_how_we_speak() -> None:
    rng = random.Random()
    wrong: dict[str, str] = {}
    spoken = set()
    for where, text in rendered(rng):
        spoken.add(where)
        for name, form in FORMS.items():
            found = re.search(form, FINE.sub("", text) if name in AGREE else text)
            if found and " " in text:
                wrong.setdefault(f"{where}: {name}", f"“{found[0]}” in “{text}”")
    assert not wrong, "\n".join(f"{k}\n   {v}" for k, v in wrong.items())
    assert len(spoken) > 800, "the homes of words moved: nothing was rendered"


def test_pages_keep_to_how_we_speak() -> None:
    # The figure draws a plumb line with bobs, and explains them.
    pages = [p for p in Path("web/src").rglob("*.vue") if p.name not in ("StackFigure.vue", "GroupBob.vue")]
    assert len(pages) > 80
    for page in pages:
        template = re.sub(r"(?s)<script.*?</script>|<style.*?</style>|\{\{.*?\}\}", "", page.read_text())
        attributes = re.findall(r' (?:title|label|aria-label|placeholder)="([^"]*)"', template)
        for text in [*re.findall(r">([^<]+)<", re.sub(r'"[^"]*"', "", template)), *attributes]:
            for name in ("a figure of speech", "an exclamation", "a percent without its space", "a plural in brackets"):
                found = re.search(UNSPOKEN[name], text)
                assert not found, f"{page}: {name}, “{found and found[0]}” in “{text.strip()}”"


def test_every_explained_word_has_its_explanation() -> None:
    used = {key for p in Path("web/src").rglob("*.vue") for key in re.findall(r'<TermWord of="(\w+)"', p.read_text())}
    assert used == set(GLOSSARY)
