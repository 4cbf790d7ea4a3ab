"""The quote: two or three options on one page, with the odds in plain words, for the customer to choose from."""

from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Any

from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Spacer, Table, TableStyle

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.plan.types import Repair
from saldatura.formats.lettering import lettered, own_face
from saldatura.formats.money import priced
from saldatura.formats.paper import Paragraph, built, head_of
from saldatura.formats.sheet import INK, MUTED, dates
from saldatura.job.assessment import JobPlan
from saldatura.job.facts import JobFacts
from saldatura.shop.card import ShopCard

KEPT_OFF = (
    "The prices are for work and parts as planned; what is found on opening may change them, and you are asked first."
)


# What goes into the pack is told by name; what is only used up in the work is not.
QUOTED = ("cell", "board", "board_part", "donor", "pack_part")


def render(
    facts: JobFacts,
    plan: JobPlan,
    repairs: Sequence[str],
    card: ShopCard,
    zone: str | None = None,
    ready: Mapping[str, str] = MappingProxyType({}),
) -> bytes:
    """The quote as PDF bytes. `ready`: by option, when it will be ready if the customer answers today. Raises Impossible for an option that is ruled out or has no price."""
    options = [_option(plan, name) for name in dict.fromkeys(repairs)]
    face = own_face()
    body = ParagraphStyle("body", fontName=face.regular, fontSize=10.5, leading=14, textColor=INK)
    styles = {
        "body": body,
        "muted": ParagraphStyle("muted", parent=body, textColor=MUTED, fontSize=9, leading=12),
        "h1": ParagraphStyle("h1", parent=body, fontName=face.bold, fontSize=20, leading=25),
        "h2": ParagraphStyle("h2", parent=body, fontName=face.bold, fontSize=14, leading=18),
        "price": ParagraphStyle("price", parent=body, fontName=face.bold, fontSize=17, leading=20, alignment=TA_RIGHT),
    }
    intake = facts.intake
    build = f"{intake.pack.label}, {WINDOWS[intake.pack.chemistry].name}, {intake.pack.whole_ah:g} Ah"
    story: list[Any] = [
        *head_of(card, styles["muted"]),
        Paragraph(lettered(f"What can be done with {intake.pack_name}", bold=True), styles["h1"]),
        Paragraph(
            lettered(f"For {intake.customer}. Job {facts.id:04d}, {build}. {dates(zone)(plan.at)}."), styles["muted"]
        ),
        Spacer(1, 5 * mm),
    ]
    for n, option in enumerate(options, start=1):
        story.append(KeepTogether(_shown(n, option, plan, card.currency, styles, ready.get(option.option, ""))))
    story += [
        Spacer(1, 3 * mm),
        Paragraph(lettered(KEPT_OFF), styles["muted"]),
        Paragraph(lettered("Years and runs are forecasts and shown as ranges. Old cells go to cell collection; ask for them back before the work begins."), styles["muted"]),
        Spacer(1, 9 * mm),
        Paragraph(lettered("I choose option ____    Date ____________    Name ______________________________"), styles["body"]),
    ]  # fmt: skip
    return built(story, f"Quote, job {facts.id:04d}", (20, 18, 16))


def _option(plan: JobPlan, name: str) -> Repair:
    option = next((r for r in plan.plan.repairs if r.option == name), None)
    if option is None:
        raise Impossible(
            "repairs", "no_such_option", f"the plan has no option {name}; choose among those that it shows"
        )
    if option.ruled_out is not None:
        raise Impossible("repairs", "ruled_out", f"{name.replace('_', ' ')} is ruled out: {option.ruled_out}")
    if option.outlay is None:
        raise Impossible("repairs", "no_price", f"{name.replace('_', ' ')} has no price yet: {'; '.join(option.needs)}")
    return option


def _shown(
    number: int, repair: Repair, plan: JobPlan, currency: str, styles: dict[str, ParagraphStyle], ready: str = ""
) -> list[Any]:
    head = Table(
        [[Paragraph(lettered(f"{number}. {repair.says}", bold=True), styles["h2"]), Paragraph(lettered(priced(repair.outlay or 0.0, currency), bold=True), styles["price"])]],
        colWidths=[130 * mm, 40 * mm],
    )  # fmt: skip
    head.setStyle(
        TableStyle(
            [
                ("LINEABOVE", (0, 0), (-1, 0), 0.8, INK),
                ("LEFTPADDING", (0, 0), (-1, -1), 0),
                ("RIGHTPADDING", (0, 0), (-1, -1), 0),
            ]
        )
    )
    lines = (
        [f"{repair.odds[0].upper()}{repair.odds[1:]}."]
        if repair.repair != "retire"
        else ["The pack is taken down safely and goes to cell collection."]
    )
    if repair.usable_ah > 0:
        lines.append(
            f"A run gives about {repair.usable_ah:.2g} Ah now, and about {repair.usable_in_two_years_ah:.2g} Ah in two years."
        )
    if repair.years_high > 0.05:
        lines.append(f"{span_words(repair.years_low, repair.years_high)} of service.")
    if ready:
        lines.append(f"{ready} if you answer today.")
    elif repair.wait_h >= 1:
        lines.append(f"Ready after about {wait_words(repair.wait_h)}.")
    parts = [f"{item.count} × {item.name}" for item in repair.order if item.code in QUOTED]
    if parts:
        lines.append(f"With {', '.join(parts)}.")
    lines.append(repair.risk)
    rows = [head, *(Paragraph(lettered(line), styles["body"]) for line in lines), Spacer(1, 6 * mm)]
    if plan.plan.best_option == repair.option:
        rows.insert(1, Paragraph(lettered("The cheapest for each year of service."), styles["muted"]))
    return rows


def span_words(low: float, high: float) -> str:
    """A range of years as it is said."""
    if high < 1:
        return f"About {max(round(low * 12), 1)} to {max(round(high * 12), 1)} months"
    return f"About {low:.2g} to {high:.2g} years"


def wait_words(hours: float) -> str:
    """A wait as it is said."""
    return f"{round(hours)} hours" if hours < 30 else f"{round(hours / 24)} days"
