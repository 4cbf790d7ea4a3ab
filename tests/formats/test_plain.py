"""Words in files that other programs read: no formula, no code of a format, nothing that cannot be seen."""

import csv
import io
import zipfile

import pytest

from saldatura.battery.join.net_types import NetCell, Segment, TakeOff
from saldatura.formats import netlist
from saldatura.formats.plain import cell, read_cell, shown
from saldatura.formats.table import read_table
from saldatura.formats.type_table import read_types, write_types
from saldatura.shop.cells.types import CellType
from tests.api.conftest import Api, job_body

BAD = ["=1+1", "+41 22", "-cmd", "@here", "\tx", "\rx"]
UNSEEN = "a\u202eb\x1b[31mc\u2066d\x00e"


@pytest.mark.parametrize("text", BAD)
def test_what_a_spreadsheet_would_compute_is_marked_as_text_and_read_back(text: str) -> None:
    told = str(cell(text))
    assert told.startswith("'")
    # A tab or a line's end is shown as what it is, and read back so.
    assert read_cell(told.replace("‹U+0009›", "\t").replace("‹U+000D›", "\r")) == text
    assert cell(-3.2) == -3.2
    assert cell("plain name") == "plain name"


def test_a_catalogue_goes_out_and_in_with_names_that_look_like_formulas() -> None:
    kinds = [
        CellType(name=name, chemistry="nmc", rated_ah=2.0) for name in ("=SUM(A1)", "-cell", "+best", "@home", "plain")
    ]
    found, bad = read_types(read_table(write_types(kinds)))
    assert bad == []
    assert [of.name for of in found] == [of.name for of in kinds]


def test_what_cannot_be_seen_is_shown_as_what_it_is() -> None:
    told = shown(UNSEEN)
    assert "\u202e" not in told
    assert "\x1b" not in told
    assert "‹U+202E›" in told
    assert shown("Žofie Łącka, 12 Ω") == "Žofie Łącka, 12 Ω"
    text = netlist.write(
        [NetCell(cell="a\n.end", volts=3.7, resistance_ohm=0.02)],
        [
            Segment.model_validate({"segment": "s", "from": "a\n.end+", "to": "n1", "material": "nickel", "width_mm": 8, "thickness_mm": 0.15, "length_mm": 20}),
            Segment.model_validate({"segment": "t", "from": "a\n.end-", "to": "n0", "material": "nickel", "width_mm": 8, "thickness_mm": 0.15, "length_mm": 20}),
        ],
        0.0003, TakeOff(positive="n1", negative="n0"), 1.0, "pack\r\n.include /etc/passwd",
    )  # fmt: skip
    assert [line for line in text.splitlines() if line.startswith(".")] == [".op", ".end"]


def test_the_shop_s_tables_hold_no_formula(api: Api) -> None:
    body = job_body()
    api.post(
        "/api/jobs",
        {**body, "intake": {**body["intake"], "customer": "=HYPERLINK(1)", "pack_name": UNSEEN.replace("\x00", "")}},
    )
    with zipfile.ZipFile(io.BytesIO(api.client.get("/api/shop/export.zip").content)) as archive:
        rows = list(csv.DictReader(io.StringIO(archive.read("jobs.csv").decode())))
    assert rows[0]["customer"] == "'=HYPERLINK(1)"
    assert "\u202e" not in rows[0]["pack_name"]
    document = api.client.get("/api/jobs/1/export")
    assert "\u202e" not in document.text
    assert document.json()["job"]["facts"][0]["body"]["pack_name"] == UNSEEN.replace("\x00", "")
