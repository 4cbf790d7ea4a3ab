"""Whatever is done to a pack in whatever order, the pack as it now is equals a slow fold of the record that shares no rule with it."""

import io
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.measures.evidence import At, Seen
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.quantities import GroupPoint, Pack
from saldatura.formats import papers, sheet
from saldatura.formats.certificate import certificate
from saldatura.job.facts import (
    EndOfCharge,
    Intake,
    NewBoard,
    NewCellsIn,
    NewCharge,
    NewHarvest,
    NewLeftOut,
    NewNote,
    NewReading,
    NewReopening,
    NewSet,
    NewSignOff,
    Purpose,
    Release,
    ReplacedGroup,
    Safety,
)
from saldatura.ledger.fact import TakenBack
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.cells.types import CellType
from tests.conftest import Clock
from tests.job.now.slow_fold import slow_now
from tests.searching import examples

SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
ACTS = ("read", "read", "read", "prove", "fresh", "low", "swollen", "replace", "cells_in", "leave_out", "harvest", "board", "charge", "run", "undo", "undo", "reopen")  # fmt: skip
steps = st.lists(st.tuples(st.sampled_from(ACTS), st.integers(1, 5), st.integers(0, 99)), min_size=3, max_size=22)


class Hands:
    """Random acts on one job; what a gate refuses is refused, and nothing is recorded."""

    def __init__(self, bench: Bench, clock: Clock, series: int) -> None:
        self.bench, self.clock, self.keys = bench, clock, 0
        pack = Pack(chemistry="nmc", series=series, parallel=2, rated_ah=4.0)
        self.job = bench.take_in(Intake(customer="Row team Z", pack_name="Test pack", pack=pack), SAFE).facts.id

    def now(self) -> dict[str, Any]:
        return self.bench.view(self.job).now.model_dump(mode="json", by_alias=True)

    def add(self, new: object) -> bool:
        self.clock.later(minutes=12)
        before = self.now()
        try:
            self.bench.add(self.job, new)
        except (Refused, Impossible):
            assert self.now() == before
            return False
        return True

    def read(self, purpose: Purpose, group: int, volts: float) -> None:
        self.keys += 1
        facts = self.bench.facts(self.job)
        last = facts.last_set(purpose)
        old = [r for r in facts.standing(last.id) if r.point == GroupPoint(group=group)] if last is not None else []
        self.add(NewReading(
            purpose=purpose, point=GroupPoint(group=group), volts=volts, key=f"key-{self.keys:06d}",
            supersedes=old[-1].id if old else None, reason="read again" if old else "",
        ))  # fmt: skip

    def do(self, act: str, group: int, n: int) -> None:
        match act:
            case "read":
                self.read("probe", group, 3.70 + n / 1000)
            case "prove":
                self.read("prove", group, 3.75 + n / 1000)
            case "fresh":
                self.add(NewSet(purpose="probe"))
            case "low":
                self.read("probe", group, 0.6)
            case "swollen":
                if self.add(NewNote(evidence=[Seen(what="swollen", at=At(groups=[group]))])):
                    self.add(Release(by="Ilka", reason="to take it out", cells="in sand, to be taken out"))
            case "replace":
                self.add(ReplacedGroup(group=group, by="Ilka", origin=("new", "used", "donor")[n % 3]))
            case "cells_in":
                self.add(NewCellsIn(groups=sorted({group, 1 + n % 5}), by="Ilka"))
            case "leave_out":
                self.add(NewLeftOut(group=group, because="holds nothing", by="Ilka", agreed_with="the customer", where=("to waste", "kept")[n % 2]))  # fmt: skip
            case "harvest":
                self.add(NewHarvest(groups=[group], type="Colle 2500", name=f"H{self.keys}-{n}-", by="Ilka"))
            case "board":
                self.add(NewBoard(make=("own", "other")[n % 2], by="Ilka"))
            case "charge":
                if self.add(NewCharge(group=group)):
                    run = self.bench.facts(self.job).charging
                    assert run is not None
                    self.clock.later(hours=9)
                    self.add(EndOfCharge(charge=run.id, outcome="stopped", volts=4.1))
            case "run":
                self.add(LoadRunMeasure(on="tool", amps=4.0, seconds=600, ended_by="hand"))
            case "undo":
                self.undo()
            case "reopen":
                if self.add(NewSignOff(by="Ilka", reason="to see it reopened")):
                    self.add(NewReopening(by="Ilka", reason="it came back"))

    def undo(self) -> None:
        undo = self.bench.view(self.job).assessment.undo
        if undo is not None:
            self.add(TakenBack(fact=undo.fact, reason="taken back at once"))


def same(now: dict[str, Any], slow: dict[str, Any]) -> None:
    assert now["series"] == slow["series"] == len(now["groups"])
    assert now["label"] == f"{slow['series']}S2P"
    assert [g["was"] for g in now["groups"]] == [g["was"] for g in slow["groups"]]
    assert [g["group"] for g in now["groups"]] == list(range(1, slow["series"] + 1))
    assert [[c["origin"] for c in g["cells"]] for g in now["groups"]] == [g["cells"] for g in slow["groups"]]
    assert [g["volts"] for g in now["groups"]] == [pytest.approx(g["volts"], abs=0.002) if g["volts"] is not None else None for g in slow["groups"]]  # fmt: skip
    assert [g["from"] for g in now["groups"]] == [g["from"] for g in slow["groups"]]
    assert [g["condemned"] and g["condemned"]["why"] for g in now["groups"]] == [g["condemned"] for g in slow["groups"]]
    left = [{k: of[k] for k in ("was", "because", "where")} for of in now["left_out"]]
    assert left == slow["left_out"]
    assert now["board"]["make"] == slow["board"]


def printed(bench: Bench, job: int, now: dict[str, Any]) -> None:
    """Every paper, read back from its PDF, speaks of this pack."""
    of, told = bench.handed(job)
    made = {
        "certificate": certificate(of, told, "Europe/Rome"),
        "label": papers.label(of, told, "http://127.0.0.1:8750", 90, 40, "Europe/Rome"),
        "sheet": sheet.render(bench.view(job), "Europe/Rome", bench.proof_plan(job), bench.fitted_in(of)),
    }
    said = {name: " ".join(papers_text(pdf).split()) for name, pdf in made.items()}
    for name, text in said.items():
        assert now["label"] in text, name
    shorter = bool(now["left_out"])
    came = now["series"] + len(now["left_out"])
    assert (f"it came as {came}S2P" in said["certificate"]) == shorter
    assert (f"ends at {came * 4.2:.1f} V: that is dangerous" in said["certificate"]) == shorter
    assert (f"charge to {now['series'] * 4.2:.1f} V only" in said["label"]) == shorter
    fitted = {c["origin"] for g in now["groups"] for c in g["cells"]} - {"original"}
    words = {
        "new": "12 months on the new cells",
        "used": "6 months on the used cells",
        "donor": "6 months on the cells from a donor",
    }
    assert {origin for origin, term in words.items() if term in said["certificate"]} == fitted
    out = [of for of in now["left_out"] if of["where"] == "to waste"]
    if out:
        note = " ".join(papers_text(papers.waste_note(of, told, "Europe/Rome")).split())
        assert all(f"group {gone['was']} 2" in note for gone in out)


def papers_text(pdf: bytes) -> str:
    return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)


@settings(max_examples=examples(12), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(series=st.integers(1, 5), acts=steps)
def test_the_fold_equals_a_slow_one_and_an_undo_gives_back_the_pack_before(
    tmp_path_factory: pytest.TempPathFactory, series: int, acts: list[tuple[str, int, int]]
) -> None:
    folder: Path = tmp_path_factory.mktemp("now")
    clock = Clock()
    bench = Bench(Database(folder / "a.sqlite3"), now=clock)
    bench.cells.enter_types([CellType(name="Colle 2500", chemistry="nmc", rated_ah=2.5)])
    hands = Hands(bench, clock, series)
    for act, group, n in acts:
        before = hands.now()
        last = bench.facts(hands.job).last_id
        hands.do(act, group, n)
        exported = bench.export(hands.job).model_dump(mode="json")
        same(hands.now(), slow_now(exported))
        new = bench.facts(hands.job).since(last)
        if len(new) == 1 and act not in ("undo", "reopen"):
            # Taken back, it is the pack that it was.
            undo = bench.view(hands.job).assessment.undo
            if undo is not None and undo.fact == new[0].id and n % 3 == 0:
                hands.undo()
                assert hands.now() == before
    printed(bench, hands.job, hands.now())
    # Elsewhere it is folded the same way.
    other = Bench(Database(folder / "b.sqlite3"), now=clock)
    there = other.bring_in(bench.export(hands.job).model_dump(mode="json"))
    assert there.now.model_dump(mode="json", by_alias=True) == hands.now()
