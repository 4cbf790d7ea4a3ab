"""What goes with a pack besides its sheet: the certificate for the customer, the label on the pack, the note for the collection."""

import io
from collections.abc import Iterable
from typing import Any

import segno
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Spacer, Table, TableStyle

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.formats.labels import INK, Grid
from saldatura.formats.lettering import lettered, own_face
from saldatura.formats.paper import Paragraph, built, head_of
from saldatura.formats.sheet import MUTED, RULE, dates
from saldatura.job.assessment.handing import Handed
from saldatura.job.facts import JobFacts
from saldatura.shop.card import ShopCard

HAZARD = HexColor("#A3142E")
# A tape narrower than this carries no code that scans.
LEAST_TAPE_MM = 12.0
# Smaller letters are not read at a bench.
LEAST_POINTS = 3.5
# A shop that has not said who it is.
NO_CARD = ShopCard()


def _styles() -> dict[str, ParagraphStyle]:
    face = own_face()
    body = ParagraphStyle("body", fontName=face.regular, fontSize=10, leading=13.5, textColor=INK)
    return {
        "body": body,
        "muted": ParagraphStyle("muted", parent=body, textColor=MUTED, fontSize=9, leading=12),
        "h1": ParagraphStyle("h1", parent=body, fontName=face.bold, fontSize=20, leading=25),
        "h2": ParagraphStyle("h2", parent=body, fontName=face.bold, fontSize=12, leading=15, spaceBefore=7, spaceAfter=2),
        "warn": ParagraphStyle("warn", parent=body, fontName=face.bold, fontSize=12, leading=16, spaceBefore=6, spaceAfter=2, borderColor=HAZARD, borderWidth=1.2, borderPadding=4),
        "big": ParagraphStyle("big", parent=body, fontName=face.bold, fontSize=13, leading=17),
    }  # fmt: skip


def waste_note(facts: JobFacts, handed: Handed, zone: str | None, card: ShopCard = NO_CARD) -> bytes:
    """What the collection gets: cells out, their kind and state, as PDF. Raises Impossible where none stayed here."""
    if not handed.out:
        raise Impossible(
            "cells", "nothing_to_collect", "no cells of this pack stayed here; nothing goes to the collection"
        )
    styles, date = _styles(), dates(zone)
    signed = facts.sign_off
    rows = [
        [
            Paragraph(lettered(t, bold=True), styles["body"])
            for t in ("from", "cells", "kind", "state", "terminals taped")
        ]
    ]
    for cells_out in handed.out:
        where = f"group {cells_out.group}" if cells_out.group else "the whole pack"
        rows.append(
            [
                Paragraph(lettered(t), styles["body"])
                for t in (where, str(cells_out.cells), cells_out.kind, cells_out.state, "[   ]")
            ]
        )
    table = Table(rows, colWidths=[30 * mm, 16 * mm, 48 * mm, 46 * mm, 30 * mm], hAlign="LEFT")
    table.setStyle(TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.5, RULE), ("LEFTPADDING", (0, 0), (-1, -1), 0)]))
    went = signed.went if signed is not None and signed.went else ""
    story: list[Any] = [
        *head_of(card, styles["muted"]),
        Paragraph(lettered("Cells for the collection", bold=True), styles["h1"]),
        Paragraph(lettered(f"From job {facts.id:04d}, {facts.intake.pack_name}. {date(signed.at) if signed else 'Not signed yet'}."), styles["muted"]),
        Spacer(1, 5 * mm),
        table,
        Spacer(1, 5 * mm),
        Paragraph(lettered(f"Given to: {went or '______________________________'}    on ____________"), styles["body"]),
        *_part("Until then", [
            "Every terminal taped; cells apart from each other, in a box that does not conduct, with sand or vermiculite where one is damaged.",
            "Outside or on stone, away from anything that burns; what is hot, swollen or leaking is not moved indoors.",
            "How cells are packed, marked and carried is ruled by local law and by the carrier; a damaged lithium cell is a case of its own. Ask before it travels.",
        ], styles),
    ]  # fmt: skip
    return _built(story, f"Waste note, job {facts.id:04d}")


def label(facts: JobFacts, handed: Handed, origin: str, width_mm: float, height_mm: float, zone: str | None) -> bytes:
    """A label for the pack on a tape, as PDF: what it is and holds, and a code that opens its job. Raises Impossible."""
    _scans("height_mm", f"a tape of {width_mm:g} by {height_mm:g} mm", width_mm, height_mm)
    return _labelled(
        facts, handed, origin, (0, 0, width_mm * mm, height_mm * mm), (width_mm * mm, height_mm * mm), zone
    )


def label_on(facts: JobFacts, handed: Handed, origin: str, grid: Grid, zone: str | None) -> bytes:
    """The same on the first free label of a sheet. Raises Impossible."""
    at = grid.at(grid.begun())
    _scans("rows", f"a label of {at[2] / mm:.0f} by {at[3] / mm:.0f} mm", at[2] / mm, at[3] / mm)
    return _labelled(facts, handed, origin, at, A4, zone)


def _scans(field: str, what: str, width_mm: float, height_mm: float) -> None:
    if height_mm < LEAST_TAPE_MM or width_mm < 1.8 * height_mm:
        raise Impossible(field, "code_does_not_scan", f"{what} holds no code that scans; at least {LEAST_TAPE_MM:g} mm high and nearly twice as wide")  # fmt: skip


def _labelled(
    facts: JobFacts,
    handed: Handed,
    origin: str,
    at: tuple[float, float, float, float],
    page: tuple[float, float],
    zone: str | None,
) -> bytes:
    pack = facts.intake.pack
    out = io.BytesIO()
    x, y, width, height = at
    canvas = Canvas(out, pagesize=page, invariant=1)
    canvas.setTitle(f"Label, job {facts.id:04d}")
    pad = 1.2 * mm
    side = min(height - 2 * pad, width * 0.4)
    matrix = list(segno.make(f"{origin}/jobs/{facts.id}", error="m", micro=False).matrix_iter(border=1))
    dot, top = side / len(matrix), y + height - pad
    canvas.setFillColor(INK)
    for r, line in enumerate(matrix):
        for c, dark in enumerate(line):
            if dark:
                canvas.rect(x + pad + c * dot, top - (r + 1) * dot, dot * 1.02, dot * 1.02, stroke=0, fill=1)
    window = WINDOWS[pack.chemistry]
    ah = handed.capacity_ah or pack.whole_ah
    by = "by its cells" if facts.structure.rated_ah is not None else "by its label"
    holds = f"{ah:.2f} Ah measured" if handed.capacity_ah else f"{ah:g} Ah {by}"
    full_v = pack.in_string * window.highest_charge_v
    only = (
        f"charge to {full_v:.1f} V only" if window.family == "lithium" else f"charger for {pack.in_string} cells only"
    )
    signed = facts.sign_off
    wh = ah * pack.in_string * window.nominal_v
    lines = [
        (facts.intake.pack_name, True, 1.25),
        (f"{window.name} {pack.label}", False, 1.0),
        (f"{pack.in_string * window.nominal_v:.1f} V, {wh:.0f} Wh", True, 1.0),
        (holds, True, 1.0),
        *([(only, True, 1.0)] if facts.structure.shifts else []),
        (f"{dates(zone)(signed.at)[:10] if signed else 'not signed'}, job {facts.id:04d}", False, 0.9),
        *([("simulated", True, 0.9)] if facts.simulated else []),
    ]
    left = x + pad * 2 + side
    _lines(canvas, lines, (left, top, x + width - left - pad, height - 2 * pad))
    canvas.save()
    return out.getvalue()


def _lines(canvas: Canvas, lines: Iterable[tuple[str, bool, float]], at: tuple[float, float, float, float]) -> None:
    """Lines, each bold or not and of its own size, as large as all of them have room for, in whichever script."""
    left, top, room, high = at
    face, size = own_face(), high / 6
    while True:
        drawn = [
            Paragraph(
                lettered(words, bold=bold),
                ParagraphStyle("line", fontName=face.bold if bold else face.regular, fontSize=size * times, leading=size * times * 1.15, textColor=INK),
            )
            for words, bold, times in lines
        ]  # fmt: skip
        heights = [line.wrap(room, high)[1] for line in drawn]
        if sum(heights) <= high or size < LEAST_POINTS:
            break
        size *= 0.94
    for line, tall in zip(drawn, heights, strict=True):
        top -= tall
        line.drawOn(canvas, left, top)


def _part(title: str, lines: Iterable[str], styles: dict[str, ParagraphStyle]) -> list[Any]:
    return [
        Paragraph(lettered(title, bold=True), styles["h2"]),
        *(Paragraph(lettered(line), styles["body"]) for line in lines),
    ]


def _built(story: list[Any], title: str) -> bytes:
    return built(story, title, (20, 17, 14))
