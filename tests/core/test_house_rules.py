"""The core stays a core: no web, no SQL, no I/O, no clock; imports run one way."""

import ast
import re
from pathlib import Path

import pytest

import saldatura

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
