"""The certificate: one page that a customer reads in half a minute. Every detail is on the job's sheet."""

import io
from collections.abc import Sequence
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import Image, Spacer, Table, TableStyle

from saldatura.battery.cell.windows import WINDOWS
from saldatura.formats.labels import INK
from saldatura.formats.lettering import Lettered, lettered, own_face
from saldatura.formats.paper import Paragraph, built
from saldatura.formats.papers import HAZARD, NO_CARD
from saldatura.formats.sheet import MUTED, RULE, dates, day_of, zone_of
from saldatura.formats.stack_drawing import stack_drawing
from saldatura.job.assessment.handing import Handed
from saldatura.job.assessment.sets import Assessed
from saldatura.job.facts import JobFacts
from saldatura.shop.card import ShopCard

PETROL = HexColor("#0E5A66")
# A customer reads so many lines of what was done; the sheet has all.
MOST_DONE = 3
LEFT_MM, RIGHT_MM = 96, 74


def _styles() -> dict[str, ParagraphStyle]:
    face = own_face()
    body = ParagraphStyle("body", fontName=face.regular, fontSize=11, leading=15, textColor=INK, spaceAfter=3)
    return {
        "body": body,
        "muted": ParagraphStyle("muted", parent=body, textColor=MUTED, fontSize=9.5, leading=12.5),
        "shop": ParagraphStyle("shop", parent=body, fontName=face.bold, fontSize=12, leading=15, spaceAfter=0),
        "right": ParagraphStyle("right", parent=body, textColor=MUTED, fontSize=9.5, leading=12.5, alignment=2),
        "h1": ParagraphStyle("h1", parent=body, fontName=face.bold, fontSize=22, leading=27, spaceBefore=8),
        "h2": ParagraphStyle("h2", parent=body, fontName=face.bold, fontSize=11, leading=14, textColor=PETROL, spaceBefore=9, spaceAfter=2),
        "warn": ParagraphStyle("warn", parent=body, fontName=face.bold, fontSize=12, leading=16, spaceBefore=6, spaceAfter=4, borderColor=HAZARD, borderWidth=1.2, borderPadding=4),
        "big": ParagraphStyle("big", parent=body, fontName=face.bold, fontSize=14, leading=18),
    }  # fmt: skip


def certificate(
    facts: JobFacts,
    handed: Handed,
    zone: str | None,
    pictures: Sequence[bytes] = (),
    card: ShopCard = NO_CARD,
    goes: Assessed | None = None,
) -> bytes:
    """One page for the customer, as PDF; a draft until it is signed. `pictures`: JPEG files of the work; `goes`: the readings as it goes.
    Raises Impossible for a time zone there is none of.
    """
    styles, date, where = _styles(), dates(zone), zone_of(zone)
    signed = facts.sign_off
    day = day_of(signed.at.astimezone(where)) if signed is not None else "draft: not signed"
    head = Table(
        [[_shop(card, styles), Paragraph(lettered(f"Job {facts.id:04d}, {day}"), styles["right"])]],
        colWidths=[LEFT_MM * mm, RIGHT_MM * mm], hAlign="LEFT",
    )  # fmt: skip
    head.setStyle(_plain([("LINEBELOW", (0, 0), (-1, -1), 1.2, INK), ("BOTTOMPADDING", (0, 0), (-1, -1), 4)]))
    done = [*handed.done[:MOST_DONE], *([f"And {len(handed.done) - MOST_DONE} more, on the sheet."] if len(handed.done) > MOST_DONE else [])]  # fmt: skip
    what = [
        *_part("What was wrong", [_sentence(handed.wrong)], styles),
        *_part("What was done", [_sentence(line) for line in done], styles),
        *([Paragraph(lettered(f"Put in: {'; '.join(handed.fitted)}."), styles["muted"])] if handed.fitted else []),
        *_part("What it gives now", handed.can, styles),
        *_part(
            "Tested and passed",
            [_sentence("; ".join(handed.proved))] if handed.proved else ["Nothing was tested."],
            styles,
        ),
    ]
    right: list[Any] = []
    if goes is not None and goes.verdict.groups:
        face, window = own_face(), WINDOWS[facts.intake.pack.chemistry]
        right = [
            *_part("Its groups as it goes back, V", [], styles),
            stack_drawing(goes.verdict.groups, goes.verdict.plumb_v, window, RIGHT_MM * mm, face.regular, face.bold),
        ]
    both = Table([[what, right]], colWidths=[LEFT_MM * mm, RIGHT_MM * mm], hAlign="LEFT")
    both.setStyle(_plain([("RIGHTPADDING", (0, 0), (0, 0), 5 * mm)]))
    story: list[Any] = [
        head,
        Paragraph(lettered(facts.intake.pack_name, bold=True), styles["h1"]),
        Paragraph(lettered(f"For {facts.intake.customer}. {_build(facts)}."), styles["muted"]),
        *(Paragraph(lettered(line, bold=True), styles["warn"]) for line in handed.warns),
        both,
        *_pictures(pictures),
        *_part("How to treat it", handed.treat, styles),
        Spacer(1, 3 * mm),
        *_answered(handed, card, styles),
        Paragraph(lettered(_signed(facts, date)), styles["body"]),
        *([Paragraph(lettered(f"Did not pass: {_listed(handed.failed)}.", bold=True), styles["body"])] if handed.failed else []),
        *([Paragraph(lettered(f"Not tested: {_listed(left)}."), styles["muted"])] if (left := handed.untested or handed.not_proved) else []),
        Paragraph(lettered("Local codes and the data sheets of the cells and the device come before anything on this page."), styles["muted"]),
    ]  # fmt: skip
    return built(story, f"Certificate, job {facts.id:04d}", (20, 17, 14))


def _plain(more: list[Any]) -> TableStyle:
    return TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0), ("RIGHTPADDING", (0, 0), (-1, -1), 0), *more])  # fmt: skip


def _shop(card: ShopCard, styles: dict[str, ParagraphStyle]) -> list[Any]:
    lines = [line for line in (card.address, card.contact) if line]
    name = [Paragraph(lettered(card.name, bold=True), styles["shop"])] if card.name else []
    return [*name, *(Paragraph(lettered(line), styles["muted"]) for line in lines)]


def _build(facts: JobFacts) -> str:
    pack, came = facts.intake.pack, facts.as_told.pack
    by = "by its cells" if facts.structure.rated_ah is not None else "by its label"
    build = f"{WINDOWS[pack.chemistry].name}, {pack.label}, {pack.whole_ah:g} Ah {by}"
    build += f" (it came as {came.label})" if came.series != pack.series else ""
    build += f", serial {facts.intake.serial}" if facts.intake.serial else ""
    return build[:1].upper() + build[1:]


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:].rstrip(".") + "."


def _listed(names: Sequence[str]) -> str:
    return ", ".join(name[:1].lower() + name[1:] for name in names)


def _answered(handed: Handed, card: ShopCard, styles: dict[str, ParagraphStyle]) -> list[Any]:
    if not handed.terms:
        return []
    lines: list[Any] = [
        Paragraph(lettered(f"Answered for until {day_of(t.until)}: {t.months:.0f} months on {t.what}.", bold=True), styles["big"])
        for t in handed.terms
    ]  # fmt: skip
    lines += [Paragraph(lettered(card.terms), styles["muted"])] if card.terms else []
    box = Table([[lines]], colWidths=[(LEFT_MM + RIGHT_MM) * mm], hAlign="LEFT")
    box.setStyle(TableStyle([("BOX", (0, 0), (-1, -1), 0.8, RULE), ("TOPPADDING", (0, 0), (-1, -1), 6), ("BOTTOMPADDING", (0, 0), (-1, -1), 6)]))  # fmt: skip
    return [box, Spacer(1, 3 * mm)]


def _signed(facts: JobFacts, date: Any) -> str:
    signed = facts.sign_off
    if signed is None:
        when = "Draft: not signed"
    elif facts.brought_in is not None and signed.id <= facts.theirs:
        when = f"Signed by {signed.by} in another shop, {date(signed.at)}; its file was brought in here {date(facts.brought_in)}, and nobody here answers for it"
    else:
        when = f"Signed by {signed.by}, {date(signed.at)}"
    return f"{when}{', of a simulated pack' if facts.simulated else ''}."


def _part(title: str, lines: Sequence[str | Lettered], styles: dict[str, ParagraphStyle]) -> list[Any]:
    return [
        Paragraph(lettered(title, bold=True), styles["h2"]),
        *(Paragraph(lettered(line), styles["body"]) for line in lines),
    ]


def _pictures(pictures: Sequence[bytes]) -> list[Any]:
    """Photos side by side, small enough for all else to stay on the page."""
    if not pictures:
        return []
    shown = []
    for jpeg in pictures:
        wide, high = ImageReader(io.BytesIO(jpeg)).getSize()
        scale = min(78 * mm / wide, 44 * mm / high)
        shown.append(Image(io.BytesIO(jpeg), wide * scale, high * scale))
    return [Spacer(1, 2 * mm), Table([shown], hAlign="LEFT", style=TableStyle([("LEFTPADDING", (0, 0), (-1, -1), 0)]))]
