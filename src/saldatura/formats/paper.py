"""Everything that is printed passes here: words are drawn as words, nothing is opened while drawing, and no paper is without an end."""

import io
import time
from collections.abc import Callable
from typing import Any

from reportlab import rl_config
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Paragraph as Markup
from reportlab.platypus import SimpleDocTemplate
from reportlab.platypus.doctemplate import LayoutError

from saldatura.battery.errors import Impossible
from saldatura.formats.lettering import Lettered, cut, lettered
from saldatura.shop.card import ShopCard

# The library would fetch what markup names; none of ours names anything, and nobody else's is drawn.
rl_config.trustedHosts, rl_config.trustedSchemes = [], []

# A job's sheet has some pages; past this, or this long, nobody reads it and others wait.
MOST_PAGES, MOST_S = 80, 20.0

OnPage = Callable[[Any, Any], None]


class Paragraph(Markup):  # type: ignore[misc]
    """A paragraph of words. Whatever has not been made ready by `lettered` is taken as plain words, whatever it looks like."""

    def __init__(self, words: str | None, style: ParagraphStyle, **more: Any) -> None:
        # Without words it is a part of one that a page's end divides.
        ready = words is None or isinstance(words, Lettered)
        super().__init__(words if ready else lettered(words or ""), style, **more)


def head_of(card: ShopCard, small: ParagraphStyle) -> list[Any]:
    """Who the shop is, above a paper; nothing where it has not said."""
    said = ", ".join(part for part in (card.name, card.address, card.contact) if part)
    return [Paragraph(lettered(said), small)] if said else []


def built(story: list[Any], title: str, margins_mm: tuple[float, float, float], on_page: OnPage | None = None) -> bytes:
    """The story as PDF bytes; margins at the sides, above and below. Raises Impossible for one that has no end."""
    side, above, below = margins_mm
    began, endless = time.monotonic(), False

    def page(canvas: Any, document: Any) -> None:
        nonlocal endless
        if document.page > MOST_PAGES or time.monotonic() - began > MOST_S:
            endless = True
            # The library tells its own errors with the page beside them, and no other's.
            raise LayoutError("endless")
        if on_page is not None:
            on_page(canvas, document)

    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=side * mm, rightMargin=side * mm, topMargin=above * mm, bottomMargin=below * mm,
        title=cut(title), author="Saldatura",
        # The same words are the same bytes, whenever they are printed.
        invariant=1,
    )  # fmt: skip
    try:
        document.build(story, onFirstPage=page, onLaterPages=page)
    except LayoutError as error:
        if endless:
            raise Impossible(
                "sheet", "too_many_pages", f"is longer than {MOST_PAGES} pages; export the job, which holds all of it"
            ) from error
        raise Impossible(
            "sheet", "fits_no_page", "holds a text that fits on no page; export the job, which holds all of it"
        ) from error
    return out.getvalue()
