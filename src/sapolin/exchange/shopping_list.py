"""What to buy, on paper and for spreadsheets."""

import csv
from datetime import date
from io import BytesIO, StringIO
from typing import Any

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import digits
from sapolin.exchange.lettering import paragraph
from sapolin.exchange.text import safe_cell

__all__ = ["ShoppingLine", "ShoppingList", "shopping_csv", "shopping_pdf"]


class ShoppingLine(Model):
    """Packs to buy."""

    supplier: str
    article: str
    material: str
    packs: int
    pack: float
    """What one holds."""
    unit: str
    """`g` or `pieces`."""
    needed: float
    cost: float


class ShoppingList(Model):
    """All of it."""

    lines: tuple[ShoppingLine, ...]
    freight: dict[str, float]
    """By supplier."""
    total: float
    not_offered: tuple[str, ...]
    """Materials that no list offers."""
    printed: date


def shopping_csv(shopping: ShoppingList) -> str:
    """One row a line, freight at the end."""
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(["supplier", "article", "material", "packs", "pack", "unit", "needed", "cost"])
    for line in shopping.lines:
        writer.writerow(
            [safe_cell(line.supplier), safe_cell(line.article), safe_cell(line.material), line.packs, f"{line.pack:g}",
             line.unit, f"{line.needed:.1f}", f"{line.cost:.2f}"]
        )  # fmt: skip
    for supplier, freight in shopping.freight.items():
        writer.writerow([safe_cell(supplier), "freight", "", "", "", "", "", f"{freight:.2f}"])
    for name in shopping.not_offered:
        writer.writerow(["", "", safe_cell(name), "", "", "", "", "no offer"])
    return out.getvalue()


def shopping_pdf(shopping: ShoppingList) -> bytes:
    """A page to take along: boxes to tick, supplier by supplier."""
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import SimpleDocTemplate, Spacer, Table

    head = ParagraphStyle("head", fontName="Helvetica-Bold", fontSize=18, leading=22)
    bold = ParagraphStyle("bold", fontName="Helvetica-Bold", fontSize=10.5, leading=14)
    plain = ParagraphStyle("plain", fontName="Helvetica", fontSize=9.5, leading=12)
    right = ParagraphStyle("right", parent=plain, alignment=2)
    content: list[Any] = [
        paragraph("To buy", head),
        paragraph(f"{shopping.printed:%d %b %Y}", plain),
        Spacer(1, 4 * mm),
    ]
    for supplier, freight in shopping.freight.items():
        rows: list[list[Any]] = [["", paragraph(supplier, bold), "", paragraph("cost", right)]]
        goods = 0.0
        for line in shopping.lines:
            if line.supplier == supplier:
                goods += line.cost
                unit = "kg" if line.unit == "g" and line.pack >= 1000 else line.unit
                pack = line.pack / 1000 if unit == "kg" else line.pack
                rows.append([
                    "", [paragraph(line.article, plain), paragraph(f"for {line.material}", plain)],
                    paragraph(f"{line.packs} × {pack:g} {unit}", right), paragraph(digits(line.cost, 2), right),
                ])  # fmt: skip
        rows.append(["", paragraph("freight", plain), "", paragraph(digits(freight, 2), right)])
        rows.append(["", paragraph("together", bold), "", paragraph(digits(goods + freight, 2), right)])
        table = Table(rows, colWidths=[7 * mm, 100 * mm, 38 * mm, 30 * mm])
        boxes = [("BOX", (0, i), (0, i), 0.8, colors.black) for i in range(1, len(rows) - 2)]
        table.setStyle(
            [("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("LINEBELOW", (1, 0), (-1, -1), 0.3, colors.grey), *boxes]
        )
        content += [table, Spacer(1, 5 * mm)]
    content.append(paragraph(f"All together: {digits(shopping.total, 2)}", bold))
    if shopping.not_offered:
        content.append(paragraph(f"On no list: {', '.join(shopping.not_offered)}", plain))
    out = BytesIO()
    SimpleDocTemplate(
        out, pagesize=A4, leftMargin=16 * mm, rightMargin=16 * mm, topMargin=15 * mm, bottomMargin=15 * mm, title="To buy",
        author="Sapolin",
    ).build(content)  # fmt: skip
    return out.getvalue()
