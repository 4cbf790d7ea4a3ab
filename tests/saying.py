"""Whether something is said, by the name that the sentence has in the product's words: it may be worded otherwise, or in another language."""

import ast
import inspect
import re
import textwrap
from collections.abc import Callable, Iterable
from types import FunctionType

# As much of a sentence as is told from any other by.
LEAST_LETTERS = 12


def _templates(node: ast.AST) -> Iterable[str]:
    """What each `return` of a function says, its values left open, as patterns."""
    for found in ast.walk(node):
        if isinstance(found, ast.Return) and isinstance(found.value, ast.JoinedStr):
            parts = found.value.values
            yield "".join(re.escape(str(p.value)) if isinstance(p, ast.Constant) else ".*?" for p in parts)
        elif isinstance(found, ast.Return) and isinstance(found.value, ast.Constant):
            yield re.escape(str(found.value.value))


def says(sentence: str | Callable[..., str], spoken: str | Iterable[str] | None) -> bool:
    """Whether a sentence of the product's words, with whatever values, is among what is spoken."""
    heard = spoken if isinstance(spoken, str) else "\n".join(spoken or ())
    if isinstance(sentence, str):
        return sentence in heard
    assert isinstance(sentence, FunctionType)
    patterns = list(_templates(ast.parse(textwrap.dedent(inspect.getsource(sentence)))))
    # Of a function that says one of several things its name would not tell which; one that is all values would be heard in everything.
    assert len(patterns) == 1, sentence
    assert len(re.findall("[a-z]", patterns[0])) >= LEAST_LETTERS, sentence
    return re.search(patterns[0], heard, re.DOTALL) is not None
