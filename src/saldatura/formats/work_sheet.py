"""The work list and the wiring table of a block on paper, to lie beside the hands."""

from typing import Any

from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Spacer, Table, TableStyle

from saldatura.formats.lettering import lettered, own_face
from saldatura.formats.paper import Paragraph, built
from saldatura.formats.sheet import INK, MUTED, RULE
from saldatura.job.assessment.block import Block
from saldatura.job.assessment.block_work import ListedStep, WorkList
from saldatura.job.assessment.wired import WiredConnector
from saldatura.job.facts import JobFacts


def render(facts: JobFacts, block: Block) -> bytes:
    """Taking down, building up, and each pin with the volts to expect, as PDF bytes."""
    face = own_face()
    body = ParagraphStyle("body", fontName=face.regular, fontSize=9.5, leading=12.5, textColor=INK)
    muted = ParagraphStyle("muted", parent=body, textColor=MUTED, fontSize=8.5)
    head = ParagraphStyle("head", parent=body, fontName=face.bold, fontSize=13, leading=17, spaceBefore=8)
    name = facts.intake.pack_name
    story: list[Any] = [Paragraph(lettered(f"Joining, job {facts.id:04d}, {name}", bold=True), head)]
    if block.stop:
        story.append(Paragraph(lettered(block.stop), body))
    for work in block.lists:
        story += [
            Paragraph(work.title, head),
            Paragraph(f"No more than {work.peak_v:.1f} V lies bare after any step.", muted),
            _steps(work, body),
        ]
    for connector in block.wiring.connectors:
        story += [Paragraph(lettered(f"Connector: {connector.name}", bold=True), head), _pins(connector, body)]
    story.append(Spacer(1, 4 * mm))
    story.append(Paragraph("Bare strip is live: nothing metal on hands or wrists, one wire at a time.", muted))
    return built(story, f"Joining, job {facts.id:04d}", (18, 14, 14))


def _steps(work: WorkList, body: ParagraphStyle) -> Table:
    rows = [
        [
            Paragraph("done" if s.done else "\u25a1", body),
            Paragraph(lettered(s.action), body),
            Paragraph(f"{s.exposed_v:.1f} V", body),
            Paragraph(lettered(_beside(s)), body),
        ]
        for s in work.steps
    ]
    return _ruled(Table(rows, colWidths=[12 * mm, 48 * mm, 20 * mm, 94 * mm]))


def _beside(step: ListedStep) -> str:
    """What is covered and read with a step, in a line."""
    said = [f"cover {', '.join(step.insulate)}"] if step.insulate else []
    if step.asks is not None:
        read = "________" if step.volts is None else f"{step.volts:.2f}"
        said.append(f"read {read} V ({step.asks.what}; {step.asks.expected_v:.2f} V belongs)")
    if step.wait is not None:
        said.append(f"{step.wait.kind} {step.wait.minutes:g} min")
    return "; ".join(said)


def _pins(connector: WiredConnector, body: ParagraphStyle) -> Table:
    rows = [
        [
            Paragraph(f"pin {w.pin}", body),
            Paragraph(lettered(w.wire), body),
            Paragraph(lettered(w.says), body),
            Paragraph("" if w.expected_v is None else f"{w.expected_v:.2f} V \u00b1 {w.within_v * 1000:.0f} mV", body),
            Paragraph(
                "" if w.expected_v is None else f"read {'________' if w.read_v is None else f'{w.read_v:.2f}'} V", body
            ),
        ]
        for w in connector.rows
    ]
    return _ruled(Table(rows, colWidths=[16 * mm, 28 * mm, 50 * mm, 40 * mm, 40 * mm]))


def _ruled(table: Table) -> Table:
    table.setStyle(
        TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
                ("LEFTPADDING", (0, 0), (-1, -1), 0),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
            ]
        )
    )
    return table
