"""The order of a job: what is to be bought for the option taken, as a table and on paper."""

from typing import Any

from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Spacer, Table, TableStyle

from saldatura.formats.lettering import lettered, own_face
from saldatura.formats.money import priced
from saldatura.formats.paper import Paragraph, built, head_of
from saldatura.formats.sheet import INK, MUTED, RULE
from saldatura.formats.table import written
from saldatura.job.assessment.ordering import Order, OrderLine
from saldatura.job.facts import JobFacts
from saldatura.shop.card import ShopCard

HEADER = ("what", "wanted", "in the drawer", "came", "missing", "price of one", "price")


def as_csv(order: Order) -> str:
    """The order as a table, with commas and points."""
    return written(HEADER, [_row(line) for line in order.lines])


def _row(line: OrderLine) -> list[object]:
    price = None if line.price is None else round(line.price * line.missing, 2)
    return [line.name, line.count, line.in_drawer, line.came, line.missing, _told(line.price), _told(price)]


def _told(value: float | None) -> str:
    return "" if value is None else f"{value:.2f}"


def as_pdf(facts: JobFacts, order: Order, card: ShopCard) -> bytes:
    """The order on paper: what is missing, to buy by, and what is here, to look for."""
    face = own_face()
    body = ParagraphStyle("body", fontName=face.regular, fontSize=10, leading=13, textColor=INK)
    muted = ParagraphStyle("muted", parent=body, textColor=MUTED, fontSize=9)
    head = ParagraphStyle("head", parent=body, fontName=face.bold, fontSize=18, leading=23)
    rows = [[Paragraph(lettered(t, bold=True), body) for t in ("what", "wanted", "here", "missing", "price of one")]]
    for line in order.lines:
        price = "" if line.price is None else priced(line.price, card.currency)
        said = (line.name, str(line.count), str(line.in_drawer + line.came), str(line.missing), price)
        rows.append([Paragraph(lettered(t, bold=k == 3 and line.missing > 0), body) for k, t in enumerate(said)])
    table = Table(rows, colWidths=[86 * mm, 20 * mm, 18 * mm, 22 * mm, 28 * mm], hAlign="LEFT")
    table.setStyle(TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.5, RULE), ("LEFTPADDING", (0, 0), (-1, -1), 0)]))
    total = "" if order.cost is None else f"What is missing costs {priced(order.cost, card.currency)}."
    story: list[Any] = [
        *head_of(card, muted),
        Paragraph(lettered("To buy", bold=True), head),
        Paragraph(lettered(f"For job {facts.id:04d}, {facts.intake.pack_name}."), muted),
        Spacer(1, 4 * mm),
        table,
        Spacer(1, 4 * mm),
        Paragraph(lettered(order.says), body),
        *([Paragraph(lettered(total), body)] if total else []),
    ]
    return built(story, f"Order, job {facts.id:04d}", (18, 16, 16))
