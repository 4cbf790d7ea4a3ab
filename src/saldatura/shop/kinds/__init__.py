"""Kinds of fact of the shop, a module each: what is sent, its gate, what it makes, and what stands against taking it back."""

from importlib import import_module
from pkgutil import iter_modules

from saldatura.ledger.kind import Kind

KINDS: tuple[Kind, ...] = tuple(import_module(f"{__name__}.{module.name}").KIND for module in iter_modules(__path__))
