"""What holds for every computation alike: described, bounded, exact about numbers, and never an unexplained failure."""

import json
import math
from typing import Any

import pytest
from pydantic import ValidationError
from typer.testing import CliRunner

from saldatura.battery.compute import COMPUTATIONS
from saldatura.battery.errors import Impossible
from saldatura.cli import app


def models(schema: dict[str, Any]) -> list[dict[str, Any]]:
    return [schema, *schema.get("$defs", {}).values()]


def numbers(schema: Any) -> list[dict[str, Any]]:
    """Every number in a property's schema, arrays and alternatives included."""
    if isinstance(schema, list):
        return [n for part in schema for n in numbers(part)]
    if not isinstance(schema, dict):
        return []
    mine = [schema] if schema.get("type") in ("number", "integer") else []
    return mine + [n for key in ("anyOf", "items", "allOf") for n in numbers(schema.get(key))]


@pytest.mark.parametrize("name", sorted(COMPUTATIONS))
def test_every_property_says_what_it_is_and_every_number_asked_for_is_bounded(name: str) -> None:
    schema = COMPUTATIONS[name].schema()
    for side, whole in schema.items():
        for model in models(whole):
            for field, of in model.get("properties", {}).items():
                assert len(of.get("description", "")) > 3, f"{side}: {model.get('title')}.{field}"
                if side == "request":
                    for number in numbers(of):
                        low = number.keys() & {"minimum", "exclusiveMinimum"}
                        high = number.keys() & {"maximum", "exclusiveMaximum"}
                        assert low, f"{model.get('title')}.{field}"
                        assert high, f"{model.get('title')}.{field}"


@pytest.mark.parametrize("name", sorted(COMPUTATIONS))
def test_the_example_runs_as_it_is_printed(name: str) -> None:
    printed = CliRunner().invoke(app, ["compute", name, "--example"])
    ran = CliRunner().invoke(app, ["compute", name], input=printed.stdout)
    assert ran.exit_code == 0, ran.output
    assert json.loads(ran.stdout)


def spots(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Paths to every number of a request."""
    if isinstance(value, dict):
        return [p for k, v in value.items() for p in spots(v, (*path, k))]
    if isinstance(value, list):
        return [p for k, v in enumerate(value[:2]) for p in spots(v, (*path, k))]
    return [path] if isinstance(value, int | float) and not isinstance(value, bool) else []


def put(value: Any, path: tuple[Any, ...], new: Any) -> Any:
    if not path:
        return new
    copy = dict(value) if isinstance(value, dict) else list(value)
    copy[path[0]] = put(value[path[0]], path[1:], new)
    return copy


@pytest.mark.parametrize("name", sorted(COMPUTATIONS))
def test_odd_numbers_are_answered_or_refused_in_one_line(name: str) -> None:
    computation = COMPUTATIONS[name]
    for path in spots(COMPUTATIONS[name].example):
        for odd in (True, "4", math.nan, -math.inf, 1e308, -1e308, 0, -1, 1e-300, 1e9):
            try:
                request = computation.request.model_validate(put(COMPUTATIONS[name].example, path, odd))
                answer = computation.run(request).model_dump_json()
            except (ValidationError, Impossible):
                continue
            assert odd is not True, path
            assert odd != "4", path
            assert "NaN" not in answer, path
            assert "Infinity" not in answer, path


@pytest.mark.parametrize(
    ("name", "path", "value"),
    [
        ("capacity", ("text",), "\n"),
        ("compare", ("then", 0, "sigma_v"), -0.1),
        ("level-need", ("groups", 1, "group"), 1),
        ("identify-leads", ("leads", 0, "lead"), "  "),
        ("identify-leads", ("leads", 1, "volts"), 1.9),
        ("level-need", ("pack", "series"), 20),
        ("verdict", ("pack", "series"), 20),
        ("prove", ("pack", "series"), 20),
        ("identify-leads", ("series",), 20),
    ],
)
def test_what_makes_no_sense_is_refused(name: str, path: tuple[Any, ...], value: Any) -> None:
    computation = COMPUTATIONS[name]
    with pytest.raises((ValidationError, Impossible)):
        computation.run(computation.request.model_validate(put(COMPUTATIONS[name].example, path, value)))
