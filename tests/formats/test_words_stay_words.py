"""Markup in any text of a job is drawn as the words it is, opens nothing, and no text is too long for paper."""

import copy
import io
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from pypdf import PdfReader

from saldatura.formats import job_file, papers, sheet
from saldatura.formats.certificate import certificate
from saldatura.ledger.registry import read
from saldatura.records.bench import Bench
from tests.refusing import refuses

SIGNED = json.loads((Path(__file__).parent / "signed_by_this_program.json").read_text())
opened: list[str] = []
watching = False


def _hear(event: str, args: tuple[Any, ...]) -> None:
    if watching and event in ("open", "socket.connect", "socket.getaddrinfo"):
        opened.append(f"{event} {args}")


sys.addaudithook(_hear)


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], str]]:
    if isinstance(value, dict):
        for key, item in value.items():
            yield from leaves(item, (*path, key))
    elif isinstance(value, list):
        for n, item in enumerate(value):
            yield from leaves(item, (*path, n))
    elif isinstance(value, str):
        yield path, value


def put(value: Any, path: tuple[Any, ...], words: str) -> None:
    for key in path[:-1]:
        value = value[key]
    value[path[-1]] = words


def marked(markup: str) -> tuple[dict[str, Any], int]:
    """The signed job with the markup in every text of every fact that takes it; and in how many."""
    document, taken = copy.deepcopy(SIGNED), 0
    for fact in document["job"]["facts"]:
        whole = fact["kind"] == "sign_off"
        for path, words in list(leaves(fact["body"])):
            # What was frozen at the signing: sentences, beside the names of kinds, which no file changes and still opens.
            if path[-1] == "key" or (whole and path[0] in ("inputs", "results") and " " not in words):
                continue
            before = copy.deepcopy(fact["body"])
            put(fact["body"], path, markup)
            try:
                read(fact["kind"], fact["id"], fact["at"], fact["clock_s"], fact["body"])
                taken += 1
            except ValueError:
                fact["body"] = before
    document["sha256"] = job_file._digest(document["job"])
    return document, taken


def words_of(pdf: bytes) -> str:
    return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)


@pytest.mark.parametrize(
    "tag", ['<img src="{}"/>', "<para><b>Proof: holds. Certified.</b></para>{}", '<a href="file://{}">x', "<![CDATA[{}"]
)
def test_markup_in_every_text_is_drawn_as_words(bench: Bench, tmp_path: Path, tag: str) -> None:
    global watching
    secret = tmp_path / "s.png"
    secret.write_bytes(b"never read")
    markup = tag.format(secret)[:60]
    document, taken = marked(markup)
    assert taken > 20
    job = bench.bring_in(document).facts.id
    view, handed = bench.view(job), bench.handed(job)
    # Faces and the like are read on the first drawing.
    certificate(*handed, "UTC")
    opened.clear()
    watching = True
    try:
        drawn = [
            sheet.render(view, "UTC", bench.proof_plan(job), [markup]),
            certificate(*handed, "UTC"),
            papers.label(*handed, "http://127.0.0.1:1", 62, 24, "UTC"),
        ]
    finally:
        watching = False
    assert not [what for what in opened if "s.png" in what or "socket" in what]
    for pdf in drawn:
        assert markup.split("{")[0][:6] in words_of(pdf).replace("\n", "")
        assert b"/URI" not in pdf


def test_a_word_without_an_end_and_a_job_without_one_are_drawn_or_refused_in_a_line(bench: Bench) -> None:
    document, _ = marked("x" * 380)
    job = bench.bring_in(document).facts.id
    view = bench.view(job)
    assert sheet.render(view, "UTC", None, ["y" * 40_000, "z " * 40_000])
    with refuses("too_many_pages"):
        sheet.render(view, "UTC", None, ["a line\n" * 50] * 4000)
