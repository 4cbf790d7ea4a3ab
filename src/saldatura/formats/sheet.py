"""The sheet that goes back with the pack, as PDF: what came, what was done, what holds now."""

import math
from collections.abc import Callable, Iterable, Sequence
from datetime import date as Day
from datetime import datetime, tzinfo
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Spacer, Table, TableStyle

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.formats.lettering import lettered, own_face, strong
from saldatura.formats.paper import Paragraph, built
from saldatura.formats.stack_drawing import stack_drawing
from saldatura.job.assessment import Assessment, JobView
from saldatura.job.assessment.proving import ProofPlan
from saldatura.job.words import SYMPTOMS, WISHES

INK, MUTED, RULE = HexColor("#1D242B"), HexColor("#59646C"), HexColor("#D6D0C3")


def zone_of(name: str | None) -> tzinfo | None:
    if name is None:
        return None
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError) as error:
        raise Impossible(
            "zone", "no_such_zone", f"there is no time zone {name}; give an IANA name such as Europe/Rome"
        ) from error


def render(view: JobView, zone: str | None = None, plan: ProofPlan | None = None, fitted: Sequence[str] = ()) -> bytes:
    """The sheet of a job as PDF bytes; a signed job's from its frozen results, an unsigned one's marked as a draft.

    `plan`: the tests it was to be proved by. `fitted`: what was put in, and where. `zone`: the IANA name of the time zone its times are told in; the machine's own where left out. Raises Impossible.
    """
    face = own_face()
    regular, bold = face.regular, face.bold
    date = dates(zone)
    facts = view.facts
    results = view.assessment
    body = ParagraphStyle("body", fontName=regular, fontSize=9.5, leading=12.5, textColor=INK)
    styles = {
        "body": body,
        "right": ParagraphStyle("right", parent=body, alignment=TA_RIGHT),
        "muted": ParagraphStyle("muted", parent=body, textColor=MUTED, fontSize=8.5, leading=11),
        "h1": ParagraphStyle("h1", parent=body, fontName=bold, fontSize=19, leading=23),
        "h2": ParagraphStyle("h2", parent=body, fontName=bold, fontSize=11.5, leading=15, spaceBefore=9, spaceAfter=3),
    }
    story: list[Any] = [
        *_head(view, styles, date),
        *_held(results, styles, date),
        *_figures(view, results, styles, date),
    ]
    story += _along(results, styles, date)
    story += _done(results, styles, date)
    if fitted:
        story.append(Paragraph("Put in, and where", styles["h2"]))
        story += [Paragraph(lettered(f"{line}."), styles["body"]) for line in fitted]
    story += _measured(results, styles, date)
    story += [*_proof(results, plan, styles), *_signed(view, styles, date)]
    return built(story, f"Job {facts.id:04d}, {facts.intake.pack_name}", (18, 15, 14), _margin(view))


Styles = dict[str, ParagraphStyle]
Dates = Callable[[datetime], str]


def dates(zone: str | None) -> Dates:
    """How times are told in a zone. Raises Impossible for none there is."""
    where = zone_of(zone)
    return lambda at: at.astimezone(where).strftime("%Y-%m-%d %H:%M %Z")


def day_of(day: Day) -> str:
    """A day as a letter has it: “8 October 2026”."""
    return f"{day.day} {day:%B %Y}"


def _head(view: JobView, styles: Styles, date: Dates) -> Iterable[Any]:
    facts = view.facts
    intake, pack = facts.intake, facts.intake.pack
    hazard = view.assessment.hazard
    energy = f", {math.floor(hazard.energy_wh + 0.5)} Wh" if hazard else ""
    yield Paragraph(lettered(intake.pack_name, bold=True), styles["h1"])
    if view.assessment.simulated:
        yield Paragraph(strong("A simulated pack: nothing here was measured on a real one."), styles["body"])
    build = f"{pack.label}, {WINDOWS[pack.chemistry].name}, {pack.whole_ah:g} Ah{energy}"
    build += f". It came as {view.now.came}" if view.now.came is not None else ""
    saw = ", ".join(SYMPTOMS[s] for s in intake.symptoms) or "nothing said"
    saw += f"; asks: {', '.join(WISHES[w][0] for w in intake.wishes)}" if intake.wishes else ""
    whose = ", ".join(part for part in (intake.customer, intake.contact) if part)
    rows = [
        ("Job", f"{facts.id:04d}", "Customer", whose),
        ("Taken in", date(facts.opened_at), "Serial or tag", intake.serial or "none"),
        ("Build", build, "Customer saw", saw + (f". “{intake.note}”" if intake.note else "")),
    ]
    cells = [
        [Paragraph(lettered(cell), styles["muted" if i % 2 == 0 else "body"]) for i, cell in enumerate(row)]
        for row in rows
    ]
    table = Table(cells, colWidths=[19 * mm, 64 * mm, 25 * mm, 61 * mm], hAlign="LEFT")
    table.setStyle(_ruled())
    yield Spacer(1, 3 * mm)
    yield table


def _ruled() -> TableStyle:
    return TableStyle(
        [
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LINEABOVE", (0, 0), (-1, 0), 0.8, INK),
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
            ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("TOPPADDING", (0, 0), (-1, -1), 2.5),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 3.5),
        ]
    )


def _figures(view: JobView, results: Assessment, styles: Styles, date: Dates) -> Iterable[Any]:
    face = own_face()
    window = WINDOWS[view.facts.intake.pack.chemistry]
    came = results.before or results.probe
    # Without a proof, what was read last stands for it where that is another set than the first.
    last = results.probe if results.before else None
    goes = results.prove if results.prove and results.prove.readings else last
    titles, drawings = [], []
    for title, assessed in (("As it came", came), ("As it goes", goes)):
        when = date(assessed.set.at) if assessed else "not read"
        titles.append(Paragraph(f"{title}, {when}{', simulated' if results.simulated else ''}", styles["h2"]))
        groups = assessed.verdict.groups if assessed else []
        plumb = assessed.verdict.plumb_v if assessed else None
        drawings.append(stack_drawing(groups, plumb, window, 82 * mm, face.regular, face.bold) if groups else "")
    table = Table([titles, drawings], colWidths=[85 * mm, 84 * mm], hAlign="LEFT")
    table.setStyle(TableStyle([("LEFTPADDING", (0, 0), (-1, -1), 0), ("VALIGN", (0, 0), (-1, -1), "TOP")]))
    yield table
    if came:
        verdict = came.verdict
        said = [verdict.headline + ".", *verdict.reasons[:4], verdict.charger, verdict.tool, verdict.cost]
        yield Paragraph(lettered(" ".join(s for s in said if s)), styles["body"])


def _done(results: Assessment, styles: Styles, date: Dates) -> Iterable[Any]:
    if not results.compared and not results.done:
        return
    yield Paragraph("What was done", styles["h2"])
    for work in results.done:
        took = f" {work.minutes:g} min." if work.minutes else ""
        found = f" Before it: {work.found[0].lower()}{work.found[1:]}." if work.found else ""
        yield Paragraph(lettered(f"{date(work.at)}: {work.says}{took}{found}"), styles["body"])
    for charge in results.compared:
        yield Paragraph(lettered(f"Group {charge.group} levelled. {charge.says}"), styles["body"])
        if charge.looks:
            yield Paragraph(lettered(f"{'. '.join(charge.looks)}."), styles["muted"])


def _along(results: Assessment, styles: Styles, date: Dates) -> Iterable[Any]:
    others = [line for line in results.along if line.kind != "work"]
    if others:
        yield Paragraph("Said, seen and tried", styles["h2"])
        for line in others:
            yield Paragraph(lettered(f"{date(line.at)}: {line.says}."), styles["body"])


def _held(results: Assessment, styles: Styles, date: Dates) -> Iterable[Any]:
    if not results.held:
        return
    yield Paragraph("Held in quarantine", styles["h2"])
    for held in results.held:
        said = f"{date(held.since)}: {', '.join(held.dangers)}."
        if held.release is None:
            said += " Not released."
        else:
            said += f" Released {date(held.release.at)} by {held.release.by}: {held.release.reason}."
            said += f" The damaged cells: {held.release.cells}." if held.release.cells.strip() else ""
        yield Paragraph(lettered(said), styles["body"])


def _measured(results: Assessment, styles: Styles, date: Dates) -> Iterable[Any]:
    for measure in results.measured_before:
        if measure is results.measured_before[0]:
            yield Paragraph("Measured before the pack was changed, in the numbers of then", styles["h2"])
        yield Paragraph(lettered(f"{date(measure.at)}: {measure.says}"), styles["body"])
    if not results.measures.all:
        return
    yield Paragraph("Measured besides", styles["h2"])
    resistances = results.measures.resistances
    lines = [f"{date(m.at)}: {m.says}" for m in results.measures.all] + (resistances.says if resistances else [])
    for line in lines:
        yield Paragraph(lettered(line), styles["body"])


def _proof(results: Assessment, plan: ProofPlan | None, styles: Styles) -> Iterable[Any]:
    yield Paragraph("Proof at rest, and by tests", styles["h2"])
    if results.proof is None:
        yield Paragraph("Not proved at rest.", styles["body"])
        yield from _tests(plan, styles)
        return
    word = {"pass": "holds", "fail": "FAILS", "not_yet": "not yet"}
    rows = [
        [
            Paragraph(lettered(c.label), styles["body"]),
            Paragraph(word[c.result], styles["body"]),
            Paragraph(lettered(c.because), styles["muted"]),
        ]
        for c in results.proof.checks
    ]
    table = Table(rows, colWidths=[46 * mm, 18 * mm, 105 * mm], hAlign="LEFT")
    table.setStyle(_ruled())
    yield table
    if results.proof.not_proved and plan is None:
        yield Paragraph(strong("Not proved: ") + lettered(f"{'; '.join(results.proof.not_proved)}."), styles["body"])
    yield from _tests(plan, styles)


def _tests(plan: ProofPlan | None, styles: Styles) -> Iterable[Any]:
    """Tests that were due or taken, each with its limit and what was measured; and what is not proved."""
    if plan is None:
        return
    word = {"pass": "holds", "fail": "FAILS", "not_yet": "not yet", "not_done": "not done"}
    rows = [
        [
            Paragraph(lettered(t.label), styles["body"]),
            Paragraph(word[t.outcome], styles["body"]),
            Paragraph(lettered(f"Limit: {t.limit}.{f' Measured: {t.measured}.' if t.measured else ''}{f' Forecast: {t.forecast}.' if t.forecast and t.measured else ''}"), styles["muted"]),
        ]
        for t in plan.tests
        if t.name != "spread" and (t.due or t.outcome != "not_done")
    ]  # fmt: skip
    if rows:
        table = Table(rows, colWidths=[46 * mm, 18 * mm, 105 * mm], hAlign="LEFT")
        table.setStyle(_ruled())
        yield table
    yield Paragraph(strong("Not proved: ") + lettered(f"{'; '.join(plan.not_proved)}."), styles["body"])


def _signed(view: JobView, styles: Styles, date: Dates) -> Iterable[Any]:
    signed = view.facts.sign_off
    yield Spacer(1, 4 * mm)
    for part in view.assessment.parts:
        said = f"Part {part.part} was signed by {part.signed_by}{' in another shop' if part.elsewhere else ''}, {date(part.signed_at)}, and opened again by {part.reopened_by}, {date(part.reopened_at)}: {part.reason}"
        yield Paragraph(lettered(said), styles["body"])
    if signed is None:
        yield Paragraph(strong("Draft: not signed."), styles["body"])
    else:
        as_what = "Signed as a simulation" if signed.simulated else "Signed"
        brought = (
            f" Its file was brought in here {date(view.facts.brought_in)}."
            if view.facts.signed_elsewhere and view.facts.brought_in
            else ""
        )
        shop = " in another shop" if view.facts.signed_elsewhere else ""
        yield Paragraph(
            lettered(f"{as_what} by ")
            + strong(signed.by)
            + lettered(f"{shop}, {date(signed.at)}, computed by Saldatura {signed.program_version}.{brought}"),
            styles["body"],
        )
        if signed.outcome == "scrap":
            yield Paragraph(
                strong("Scrapped, not handed back. ") + lettered(f"Because: {signed.reason}."), styles["body"]
            )
            yield Paragraph(f"It went: {signed.went}.", styles["body"])
        elif signed.reason:
            why = "Remark" if signed.passed else "Handed back without a pass because"
            yield Paragraph(f"{why}: {signed.reason}", styles["body"])
    yield Spacer(1, 1.5 * mm)
    yield Paragraph(
        "Local codes, the cell maker's data sheet, and carriage and waste rules go before anything on this sheet.",
        styles["muted"],
    )


def _margin(view: JobView) -> Any:
    regular, bold = own_face().regular, own_face().bold

    def draw(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont(regular, 8)
        canvas.setFillColor(MUTED)
        canvas.drawString(18 * mm, 8 * mm, f"Saldatura · job {view.facts.id:04d} · page {document.page}")
        signed = view.facts.sign_off
        mark = "DRAFT" if signed is None else "SCRAPPED" if signed.outcome == "scrap" else None
        mark = "SIMULATED" if view.assessment.simulated else mark
        if mark is not None:
            canvas.setFont(bold, 64)
            canvas.setFillColor(HexColor("#EFE9DC"))
            canvas.translate(A4[0] / 2, A4[1] / 2)
            canvas.rotate(52)
            canvas.drawCentredString(0, 0, mark)
        canvas.restoreState()

    return draw
