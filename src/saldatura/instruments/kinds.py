"""The module of each kind of instrument, by the kind's name: one file a kind, and no list of them here."""

import importlib
from typing import Any

from saldatura.shop.instrument import Kind


def module_of(kind: Kind) -> Any:
    """Its `driver` speaks to an instrument over a link, its `stand_in` answers for one on a virtual pack, and of a kind that
    drives a pack `drive` gives what its settings do to one.
    """
    return importlib.import_module(f"saldatura.instruments.{kind}")
