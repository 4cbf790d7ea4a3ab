"""The sheet on paper, read back: every sign that a name or a figure is written with, and times in the zone asked for."""

import io
import unicodedata

import pytest
from pypdf import PdfReader

from saldatura.battery.measures.kinds.acir import AcirMeasure
from saldatura.formats import sheet
from saldatura.job.facts import NewWork
from saldatura.records.bench import Bench
from tests.conftest import SAFE, intake
from tests.refusing import refuses

NAMES = ("Łukasz & Zoë <Šimić>", "Οινοποιείο Λήμνου", "Виноградник Ключ", "葡萄园合作社", "포도밭", "ぶどう園")


@pytest.mark.parametrize("name", NAMES)
def test_no_sign_of_a_name_or_a_unit_is_lost(bench: Bench, name: str) -> None:
    taken = intake().model_copy(update={"customer": name, "pack_name": name})
    job = bench.take_in(taken, SAFE).facts.id
    bench.add(job, AcirMeasure(group=1, ohm=0.0142))
    work = {"did": "cleaned", "place": {"kind": "part", "part": "sensor plug"}, "by": name, "note": "2 µF ≥ 10 kΩ"}
    bench.add(job, NewWork.model_validate(work))
    pages = PdfReader(io.BytesIO(sheet.render(bench.view(job)))).pages
    # One sign may be read back as its twin: the micro sign as the Greek letter.
    words = unicodedata.normalize("NFKC", "".join("".join(page.extract_text() for page in pages).split()))
    # In the heading, beside Customer, and at the work.
    assert words.count("".join(name.split())) >= 3
    assert "14.2mΩ" in words
    assert unicodedata.normalize("NFKC", "2µF≥10kΩ") in words


def test_times_are_told_in_the_zone_asked_for_and_name_it(bench: Bench) -> None:
    job = bench.take_in(intake(), SAFE).facts.id

    def told(zone: str) -> str:
        return PdfReader(io.BytesIO(sheet.render(bench.view(job), zone))).pages[0].extract_text()

    # 08:00 in Greenwich on the 2nd of March; Honolulu keeps ten hours behind it, without summer time.
    assert "2026-03-02 08:00 UTC" in told("UTC")
    assert "2026-03-01 22:00 HST" in told("Pacific/Honolulu")
    with refuses("no_such_zone"):
        told("Nowhere/Here")


def test_half_a_watt_hour_is_rounded_as_the_screen_rounds_it(bench: Bench) -> None:
    # 10 x 3.65 V x 5 Ah = 182.5 Wh.
    job = bench.take_in(intake(series=10, chemistry="li_oxide", rated_ah=5.0), SAFE).facts.id
    assert "183 Wh" in PdfReader(io.BytesIO(sheet.render(bench.view(job)))).pages[0].extract_text()
