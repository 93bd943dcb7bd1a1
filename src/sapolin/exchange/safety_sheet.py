"""The safety sheet for the wall: one page, first aid large, with the numbers to call."""

from collections.abc import Sequence
from io import BytesIO
from typing import Any

from sapolin.core.guide import SafetySection
from sapolin.core.quantities.text import template
from sapolin.exchange.lettering import paragraph

__all__ = ["safety_sheet_pdf"]


def safety_sheet_pdf(sections: Sequence[SafetySection], emergency: str, poison: str, page: str = "a4") -> bytes:
    """The page as PDF, A4 or Letter. Numbers that are not entered leave a line to write them on."""
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4, LETTER
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import KeepTogether, SimpleDocTemplate, Spacer, Table

    head = ParagraphStyle("head", fontName="Helvetica-Bold", fontSize=22, leading=26)
    title = ParagraphStyle("title", fontName="Helvetica-Bold", fontSize=12, leading=15, spaceBefore=5)
    plain = ParagraphStyle("plain", fontName="Helvetica", fontSize=10, leading=13)
    large = ParagraphStyle("large", fontName="Helvetica-Bold", fontSize=13, leading=17)
    blank = "________________"
    calls = [[
        paragraph(f"{template('guide.safety_calls.emergency')}: {emergency or blank}", large),
        paragraph(f"{template('guide.safety_calls.poison')}: {poison or blank}", large),
    ]]  # fmt: skip
    boxed = Table(calls, colWidths=["50%", "50%"], style=[("BOX", (0, 0), (-1, -1), 1.5, colors.black),
                                                          ("TOPPADDING", (0, 0), (-1, -1), 6),
                                                          ("BOTTOMPADDING", (0, 0), (-1, -1), 8)])  # fmt: skip
    content: list[Any] = [paragraph(template("guide.safety_calls.title"), head), Spacer(1, 4 * mm), boxed]
    for section in sections:
        lines = [paragraph(section.title, title), *(paragraph(f"• {point}", plain) for point in section.points)]
        content.append(KeepTogether(lines))
    content += [Spacer(1, 4 * mm), paragraph(template("guide.safety_calls.local"), plain)]
    written = BytesIO()
    SimpleDocTemplate(
        written, pagesize=A4 if page == "a4" else LETTER, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=14 * mm,
        bottomMargin=14 * mm, title=template("guide.safety_calls.title"),
    ).build(content)  # fmt: skip
    return written.getvalue()
