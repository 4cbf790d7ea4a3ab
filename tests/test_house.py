"""What the house promises: rules and computation know no web, no SQL, no file and no clock; imports run down only."""

import ast
import importlib
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

import saldatura
from saldatura.battery.limits.limit import Limit
from saldatura.job.registry import KINDS
from saldatura.ledger.kind import Kind

ROOT = Path(saldatura.__file__).parent
# The floors of the house, from the lowest: what stands on one may ask those below it, and none above.
FLOORS = ("battery", "ledger", "shop", "job", "formats", "records", "instruments", "api", "demo")
# These compute and know no web, no SQL, no file, no clock.
PURE = ("battery", "ledger", "shop", "job")
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


@pytest.mark.parametrize("floor", FLOORS)
def test_imports_run_down_only(floor: str) -> None:
    below = set(FLOORS[: FLOORS.index(floor) + 1])
    for path in (ROOT / floor).rglob("*.py"):
        for name in imports(path):
            inner = re.match(r"saldatura\.(\w+)", name)
            if inner and inner.group(1) != "__version__":
                assert inner.group(1) in below, f"{path.name} imports {name}"
            if floor in PURE:
                assert name.split(".")[0] not in OUTSIDE, f"{path.name} imports {name}"


def test_what_is_on_record_is_read_by_those_who_know_every_kind_of_fact() -> None:
    """The ledger's own registry knows a kind only once its module was loaded; `job.registry` loads them all."""
    for floor in FLOORS[FLOORS.index("job") + 1 :]:
        for path in (ROOT / floor).rglob("*.py"):
            assert "saldatura.ledger.registry" not in imports(path), path.name


def test_every_package_is_a_floor_of_the_house() -> None:
    assert {path.parent.name for path in ROOT.glob("*/__init__.py")} == set(FLOORS)


@pytest.mark.parametrize("floor", PURE)
def test_what_computes_asks_no_clock_and_opens_no_file_but_its_own_data(floor: str) -> None:
    for path in (ROOT / floor).rglob("*.py"):
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


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind.subject == "job"], ids=lambda kind: kind.name)
def test_every_value_of_a_fact_has_bounds_for_it_comes_in_with_files_too(kind: Kind) -> None:
    schema = kind.fact.model_json_schema()
    # Numbers of facts are held against the facts that are there, and a sum is of one length.
    known = {f".{name}" for name in ("id", *kind.refs)} | {".sha256"}
    assert set(_unbounded(schema, schema.get("$defs", {}), "")) - known == set()


# Numbers that a model is made of (what is likely, how far something spreads, how finely it is searched) are no limits: nothing is
# allowed, refused or called by them alone. They stand where the model is.
MODELS = (
    "reconcile",
    "judge",
    "pack",
    "cell",
    "charge",
    "join/weld.py",
    "level/anneal.py",
    "logs/columns.py",
    "level/schedule.py",
    "string/leads.py",
    "string/lead_types.py",
)
UNIT = re.compile(r"_(V|C|K|A|OHM|W|S|H|MM|AH|DAYS|SHARE)$")


def _held_against(path: Path) -> Iterator[str]:
    """Numbers of its own that a module holds something against: constants with a unit in their name, and bare ones."""
    tree = ast.parse(path.read_text())
    own = {
        name.id
        for node in tree.body
        if isinstance(node, ast.Assign | ast.AnnAssign)
        for target in (node.targets if isinstance(node, ast.Assign) else [node.target])
        for name in ast.walk(target)
        if isinstance(name, ast.Name)
    }
    for compared in (node for node in ast.walk(tree) if isinstance(node, ast.Compare)):
        for node in ast.walk(compared):
            if isinstance(node, ast.Name) and node.id in own and UNIT.search(node.id):
                yield f"{path.name}:{node.lineno} {node.id}"
            # A half and a double are how a middle is told, a thousandth how a computer rounds.
            bare = node.value if isinstance(node, ast.Constant) and isinstance(node.value, float) else 0.0
            if abs(bare) > 1e-3 and bare not in (0.5, 1.0, 2.0) and abs(bare - 1) > 2e-2:
                yield f"{path.name}:{compared.lineno} {bare}"


def test_a_limit_has_one_home_with_unit_reason_and_source() -> None:
    places = [*(ROOT / "battery").rglob("*.py"), *(ROOT / "job").rglob("*.py"), *(ROOT / "shop").rglob("*.py")]
    places += (ROOT / "instruments" / "hub").rglob("*.py")
    models = tuple(str(ROOT / "battery" / name) for name in (*MODELS, "limits"))
    strays = [stray for path in places if not str(path).startswith(models) for stray in _held_against(path)]
    assert strays == []
    homes = {name: importlib.import_module(f"saldatura.battery.limits.{name}") for name in LIMITS}
    held = {f"{home}.{name}": value for home, of in homes.items() for name, value in vars(of).items() if name.isupper()}
    assert len(held) > 100
    for name, value in held.items():
        assert isinstance(value, Limit), name
        assert value.unit, name
        assert value.source, name
        assert value.why.endswith("."), name


LIMITS = ("acceptance", "charging", "day", "joining", "measuring", "minding", "pace", "plausible", "resting", "running")


def test_no_module_is_longer_than_a_sitting() -> None:
    assert [str(path) for path in ROOT.rglob("*.py") if len(path.read_text().splitlines()) > 350] == []


def _sentences_compared(path: Path) -> Iterator[str]:
    """Places where code asks what a sentence says."""
    for node in ast.walk(ast.parse(path.read_text())):
        asked: list[ast.expr] = []
        if isinstance(node, ast.Compare):
            asked = [node.left, *node.comparators]
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            asked = node.args if node.func.attr in ("startswith", "endswith", "find", "index", "partition") else []
        for one in asked:
            # Where cells of a group went that was left out is a code of two words.
            if (
                isinstance(one, ast.Constant)
                and isinstance(one.value, str)
                and " " in one.value.strip()
                and one.value != "to waste"
            ):
                yield f"{path.name}:{one.lineno} {one.value}"


def test_codes_decide_and_sentences_tell() -> None:
    places = [path for floor in PURE for path in (ROOT / floor).rglob("*.py")]
    assert [place for path in places for place in _sentences_compared(path)] == []


# What answers say in words, asked for a piece of it.
READ_BY_A_PAGE = re.compile(
    r"\b(says|because|message|headline|notes?|reasons?|doubts?|findings|cautions?)\b.{0,40}"
    r"(\.(includes|match|startsWith|endsWith|indexOf|search)\(['\"/`]|[=!]== *['\"`]\w+ )"
    # What a page says itself is made whole where it is made, and not cut to size afterwards.
    r"|[wW]ords\b(\([^)]*\))?\.(replace|split|match)\("
)


REFUSALS = {
    "Impossible": 1,
    "Refused": 1,
    "Misfit": 1,
    "Doubtful": 1,
    "Unfitting": 0,
    "JobFileError": 0,
    "PhotoError": 0,
    "Unfit": 2,
}


def test_what_is_refused_has_a_code_and_tests_ask_for_it() -> None:
    codes, worded = [], []
    for path in ROOT.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            name = getattr(node.func, "id", getattr(node.func, "attr", "")) if isinstance(node, ast.Call) else ""
            if name in REFUSALS and isinstance(node, ast.Call) and len(node.args) > REFUSALS[name]:
                code = node.args[REFUSALS[name]]
                codes += [code.value] if isinstance(code, ast.Constant) else []
    assert len(codes) > 400
    assert [code for code in codes if not re.fullmatch(r"[a-z][a-z0-9_]+", str(code))] == []
    for path in Path(__file__).parent.rglob("test_*.py"):
        worded += [
            f"{path.name}:{n}"
            for n, line in enumerate(path.read_text().splitlines(), 1)
            if re.search(r"raises\(\(?(Impossible|Refused|ValidationError|ValueError)\b.*match=", line)
        ]
    assert worded == []


def test_no_page_reads_a_sentence() -> None:
    web = ROOT.parent.parent / "web" / "src"
    pages = [path for path in web.rglob("*") if path.suffix in (".ts", ".vue") and path.name != "schema.d.ts"]
    assert len(pages) > 200
    assert [f"{path.name}: {found[0]}" for path in pages for found in READ_BY_A_PAGE.finditer(path.read_text())] == []


def _sentences_in_rules(path: Path) -> Iterator[str]:
    """Sentences that a function says itself; what describes a field, a route or the log is none."""

    def walk(node: ast.AST, inside: bool) -> Iterator[str]:
        match node:
            case ast.Expr(value=ast.Constant()):
                return
            case ast.Call(func=ast.Name(id="Field" | "Limit")) | ast.Call(func=ast.Attribute(value=ast.Name(id="log"))):
                return
            case ast.JoinedStr(values=values):
                text = "".join(str(v.value) for v in values if isinstance(v, ast.Constant))
                if inside and text.count(" ") >= 3:
                    yield f"{path.name}:{node.lineno} {text}"
                return
            case ast.Constant(value=str(text)) if inside and text.count(" ") >= 3:
                yield f"{path.name}:{node.lineno} {text}"
        for child in ast.iter_child_nodes(node):
            yield from walk(child, inside or isinstance(node, ast.FunctionDef))

    yield from walk(ast.parse(path.read_text()), False)


def test_sentences_stand_in_the_words_of_their_package() -> None:
    # A kind says its own words, for it is one module; so does a measure.
    rules = [
        path
        for floor in ("battery", "job", "shop")
        for path in (ROOT / floor).rglob("*.py")
        if not {"words", "kinds"} & set(path.with_suffix("").relative_to(ROOT).parts)
    ]
    assert [said for path in rules for said in _sentences_in_rules(path)] == []
