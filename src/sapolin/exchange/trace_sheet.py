"""Where a lot went, on one page: for the day something has to be called back."""

from datetime import date, datetime
from io import BytesIO
from typing import Any

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import digits
from sapolin.exchange.lettering import paragraph

__all__ = ["TraceRow", "TraceSheet", "trace_pdf"]


class TraceRow(Model):
    """A batch that took from the lot."""

    batch: str
    name: str
    grams: float
    taken: str
    bars: int | None
    """Null while they were not counted."""
    here: int
    gone: tuple[tuple[int, str, str], ...]
    """Bars, where to, when."""
    ends: str
    """What became of it where it has no bars; empty for bars."""


class TraceSheet(Model):
    """What the page says."""

    code: str
    name: str
    supplier: str
    supplier_code: str
    arrived: date
    amount_g: float
    in_hand_g: float
    missing_g: float
    explained_percent: float
    bars: int
    bars_known: int
    uncut: tuple[str, ...]
    ends_at: tuple[str, ...]
    rows: tuple[TraceRow, ...]
    printed: date


def _day(at: str) -> str:
    return f"{datetime.fromisoformat(at):%d %b %Y}".lstrip("0") if at else ""


def bars_of(row: TraceRow) -> str:
    """How many bars a batch has: none of a paste, and not known before it is cut."""
    if row.ends:
        return "-"
    return "not cut" if row.bars is None else str(row.bars)


def trace_pdf(sheet: TraceSheet) -> bytes:
    """The page, A4; more pages only when the batches need them, each with the head of the table."""
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import SimpleDocTemplate, Spacer, Table

    head = ParagraphStyle("head", fontName="Helvetica-Bold", fontSize=18, leading=22)
    bold = ParagraphStyle("bold", fontName="Helvetica-Bold", fontSize=9, leading=11)
    plain = ParagraphStyle("plain", fontName="Helvetica", fontSize=9, leading=11.5)
    facts = [
        f"{sheet.name}: {digits(sheet.amount_g, 0)} g came in on {sheet.arrived:%d %b %Y}",
        " · ".join(
            one for one in (sheet.supplier, f"their lot {sheet.supplier_code}" if sheet.supplier_code else "") if one
        ),
        f"In hand: {digits(sheet.in_hand_g, 1)} g. Found missing or too much by counting: {digits(sheet.missing_g, 1)} g; "
        f"{sheet.explained_percent:.1f} % of it is accounted for up to the batches below.",
        f"Bars: {sheet.bars_known} of {sheet.bars} are known: here, or gone to a place that is named.",
    ]
    if sheet.ends_at:
        facts.append(
            f"The trace ends at {', '.join(sheet.ends_at)}: where these went is not recorded. Ask whoever has them."
        )
    if sheet.uncut:
        facts.append(f"Not counted yet: the bars of {', '.join(sheet.uncut)}.")
    content: list[Any] = [paragraph(f"Where lot {sheet.code} went", head), Spacer(1, 3 * mm)]
    content += [paragraph(one, plain) for one in facts if one]
    content.append(Spacer(1, 5 * mm))
    rows: list[list[Any]] = [
        [paragraph(one, bold) for one in ("Batch", "Taken", "g", "Bars", "Here", "Gone", "Told, initials")]
    ]
    for row in sheet.rows:
        gone = [paragraph(f"{bars} {to}, {_day(at)}", plain) for bars, to, at in row.gone] or [paragraph("-", plain)]
        rows.append([
            [paragraph(row.batch, bold), paragraph(row.name, plain)], paragraph(_day(row.taken), plain),
            paragraph(digits(row.grams, 1), plain), paragraph(bars_of(row), plain),
            paragraph("-" if row.ends else str(row.here), plain), [paragraph(row.ends, plain)] if row.ends else gone, "",
        ])  # fmt: skip
    if not sheet.rows:
        content.append(paragraph("It went into no batch yet.", plain))
    else:
        table = Table(rows, colWidths=[43 * mm, 23 * mm, 17 * mm, 15 * mm, 12 * mm, 46 * mm, 24 * mm], repeatRows=1)
        table.setStyle([
            ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, -1), 0.4, colors.grey),
            ("LEFTPADDING", (0, 0), (-1, -1), 2), ("RIGHTPADDING", (0, 0), (-1, -1), 3),
        ])  # fmt: skip
        content.append(table)
    content += [Spacer(1, 6 * mm), paragraph(f"Printed on {sheet.printed:%d %b %Y} from the ledger.", plain)]
    out = BytesIO()
    SimpleDocTemplate(
        out, pagesize=A4, leftMargin=15 * mm, rightMargin=15 * mm, topMargin=15 * mm, bottomMargin=15 * mm,
        title=f"Where lot {sheet.code} went", author="Sapolin",
    ).build(content)  # fmt: skip
    return out.getvalue()
