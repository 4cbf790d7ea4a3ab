"""That something is refused, by the code of what is wrong: sentences may be said in any language."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

import pytest
from pydantic import ValidationError

from saldatura.battery.errors import Impossible, Misfit, Refused, Unfitting, field_lines


def code_of(answer: Mapping[str, Any]) -> str:
    """The code of the only line of what the API refused."""
    assert len(answer["errors"]) == 1, answer
    return str(answer["errors"][0]["code"])


def refusal_of(answer: Mapping[str, Any]) -> tuple[str, str]:
    """Field and code of the only line of what the API refused."""
    return str(answer["errors"][0]["field"]), code_of(answer)


def code_of_error(error: BaseException) -> str:
    """The code of what was raised; of a model, that of the first of its fields that are wrong."""
    if isinstance(error, ValidationError):
        return field_lines(error.errors())[0].code
    assert isinstance(error, Impossible | Refused | Misfit | Unfitting)
    return error.code


@contextmanager
def refuses(code: str) -> Iterator[pytest.ExceptionInfo[Exception]]:
    """What is done inside is refused for that, be it by a rule, a gate or a field's own bounds."""
    with pytest.raises((Impossible, Refused, ValidationError, Unfitting)) as caught:
        yield caught
    assert code_of_error(caught.value) == code
