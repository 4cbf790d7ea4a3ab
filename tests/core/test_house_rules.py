"""The core stays a core: no web, no SQL, no I/O, no clock; imports run one way."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

import saldatura
from saldatura.core.door import KINDS, Kind

ROOT = Path(saldatura.__file__).parent
ALLOWED = {
    "core": {"core"},
    "records": {"core", "records"},
    "formats": {"core", "formats"},
    "instruments": {"core", "instruments"},
    "api": {"core", "records", "formats", "instruments", "api", "bench", "hall"},
}
OUTSIDE = {
    "fastapi",
    "starlette",
    "sqlite3",
    "uvicorn",
    "httpx",
    "requests",
    "socket",
    "subprocess",
    "time",
    "os",
    "io",
    "pathlib",
    "logging",
    "random",
}


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
            found |= {f"{node.module}.{alias.name}" for alias in node.names if node.module == "saldatura"}
    return found


@pytest.mark.parametrize("package", sorted(ALLOWED))
def test_imports_run_one_way(package: str) -> None:
    for path in (ROOT / package).rglob("*.py"):
        for name in imports(path):
            inner = re.match(r"saldatura\.(\w+)", name)
            if inner and inner.group(1) != "__version__":
                assert inner.group(1) in ALLOWED[package], f"{path.name} imports {name}"
            if package == "core":
                assert name.split(".")[0] not in OUTSIDE, f"{path.name} imports {name}"


def test_core_asks_no_clock_and_opens_no_file_but_its_own_data() -> None:
    for path in (ROOT / "core").rglob("*.py"):
        calls = {ast.unparse(n.func) for n in ast.walk(ast.parse(path.read_text())) if isinstance(n, ast.Call)}
        assert not {c for c in calls if c in {"open", "print"} or c.endswith((".now", ".today"))}, path.name


def _unbounded(schema: dict[str, Any], models: dict[str, Any], at: str) -> Iterator[str]:
    """Paths of a model's numbers, texts and lists that may be as large as anybody likes."""
    if "$ref" in schema:
        name = schema["$ref"].rsplit("/", 1)[-1]
        if f"<{name}>" not in at:
            yield from _unbounded(models[name], models, f"{at}<{name}>")
        return
    inner = [*schema.get("anyOf", []), *schema.get("oneOf", []), *schema.get("prefixItems", [])]
    inner += [schema[of] for of in ("items", "additionalProperties") if isinstance(schema.get(of), dict)]
    for of in inner:
        yield from _unbounded(of, models, at)
    for name, of in schema.get("properties", {}).items():
        yield from _unbounded(of, models, f"{at}.{name}")
    if "enum" in schema or "const" in schema:
        return
    bounds = {
        "number": ({"minimum", "exclusiveMinimum"}, {"maximum", "exclusiveMaximum"}),
        "integer": ({"minimum", "exclusiveMinimum"}, {"maximum", "exclusiveMaximum"}),
        "string": ({"maxLength", "format"},),
        "array": ({"maxItems"},),
    }
    if not all(wanted & schema.keys() for wanted in bounds.get(schema.get("type", ""), ())):
        yield at


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind.of == "job"], ids=lambda kind: kind.name)
def test_every_value_of_a_fact_has_bounds_for_it_comes_in_with_files_too(kind: Kind) -> None:
    schema = kind.fact.model_json_schema()
    # Numbers of facts are held against the facts that are there, and a sum is of one length.
    known = {f".{name}" for name in ("id", *kind.refs)} | {".sha256"}
    assert set(_unbounded(schema, schema.get("$defs", {}), "")) - known == set()
