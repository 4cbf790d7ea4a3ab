"""Record that the cells of a group were replaced."""

from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, ReplacedFact, ReplacedGroup
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import group_exists, not_charging, work
from saldatura.job.moment import Moment
from saldatura.job.recording import fitted_group
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def replaced(facts: JobFacts, new: ReplacedGroup) -> None:
    """Cells of a group that is there, and that no charger is on."""
    work(facts)
    group_exists(facts, new.group)
    not_charging(facts)


def record_replaced(facts: JobFacts, new: ReplacedGroup, moment: Moment) -> list[Fact]:
    """A group's cells as put in."""
    put = fitted_group(facts, new.group, new.cells, new.origin, moment)
    named = [cell.cell for cell in put.cells if cell.cell]
    return [ReplacedFact(**{**dict(new), "cells": named}, fitted=put.cells, **moment.stamp)]


KIND = Kind(
    "replaced",
    ReplacedFact,
    ReplacedGroup,
    gate=lambda facts, new, _m: replaced(facts, new),
    make=record_replaced,
    fits=lambda facts, fact, _b: gates.group_exists(facts, fact.group),
    against=taking_back.unrested,
    path="replaced",
    summary="Record that the cells of a group were replaced.",
)
