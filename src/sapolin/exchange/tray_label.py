"""Labels for trays, as PDF: one small label, or an A4 sheet that stands on a shelf. Each opens its batch by a QR code."""

from datetime import datetime
from io import BytesIO
from typing import Any, Literal

from sapolin.core.quantities.model import Model
from sapolin.exchange.batch_sheet import code_square
from sapolin.exchange.lettering import paragraph

__all__ = ["LabelSize", "TrayLabel", "tray_label_pdf"]

LabelSize = Literal["label", "a4"]
SIZES_MM: dict[LabelSize, tuple[float, float]] = {"label": (89.0, 41.0), "a4": (210.0, 297.0)}
"""Width and height. The small one is a common address label."""


class TrayLabel(Model):
    """What a label says."""

    code: str
    """Of the batch."""
    name: str
    tray: str
    """Code of the tray; empty for a label without one."""
    bars: int
    made: str | None
    cut: str | None
    ready_from: str | None
    """An estimate."""
    address: str
    """Where the QR code leads."""


def _day(at: str | None) -> str:
    return "–" if at is None else f"{datetime.fromisoformat(at):%d %b %Y}".lstrip("0")


def tray_label_pdf(label: TrayLabel, size: LabelSize) -> bytes:
    """The label on a page of its own size; a long name takes more lines, and is set smaller when they do not fit."""
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import KeepInFrame, SimpleDocTemplate, Spacer, Table

    width_mm, height_mm = SIZES_MM[size]
    scale = 1.0 if size == "label" else 2.2
    margin = 3.0 if size == "label" else 20.0
    page = (width_mm * mm, height_mm * mm)
    big = ParagraphStyle("code", fontName="Helvetica-Bold", fontSize=20 * scale, leading=22 * scale)
    bold = ParagraphStyle("name", fontName="Helvetica-Bold", fontSize=10 * scale, leading=11.5 * scale)
    plain = ParagraphStyle("line", fontName="Helvetica", fontSize=8.5 * scale, leading=10.5 * scale)
    square_mm = 28.0 * scale
    lines: list[Any] = [
        paragraph(f"{label.code}   {label.tray}".strip(), big),
        paragraph(label.name, bold),
        Spacer(1, 1.2 * mm * scale),
        paragraph(f"made {_day(label.made)} · cut {_day(label.cut)}", plain),
        paragraph(f"{label.bars} bars · ready about {_day(label.ready_from)}", plain),
    ]
    room = width_mm - 2 * margin - square_mm - 2 - 2 * FRAME_PADDING / mm
    # A long name is set smaller rather than cut off.
    said = KeepInFrame(room * mm, (height_mm - 2 * margin) * mm - 2 * FRAME_PADDING - 1, lines, mode="shrink")
    table = Table([[said, code_square(label.address, square_mm * mm)]], colWidths=[room * mm, (square_mm + 2) * mm])
    table.setStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), *((side, (0, 0), (-1, -1), 0) for side in _PADDING)])
    out = BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=page, leftMargin=margin * mm, rightMargin=margin * mm, topMargin=margin * mm, bottomMargin=margin * mm,
        title=f"Tray label {label.code}", author="Sapolin",
    )  # fmt: skip
    document.build([table])
    return out.getvalue()


FRAME_PADDING = 6.0
"""What ReportLab leaves free inside the margins of a page, points."""
_PADDING = ("LEFTPADDING", "RIGHTPADDING", "TOPPADDING", "BOTTOMPADDING")
