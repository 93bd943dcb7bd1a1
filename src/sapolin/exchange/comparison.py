"""A comparison of formulas as a table, and the table as CSV and PDF."""

import csv
import io
from collections.abc import Sequence

from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.blend import by_oil
from sapolin.core.formula.cost import OilCost
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import digits, plain
from sapolin.exchange.lettering import paragraph
from sapolin.exchange.text import safe_cell

__all__ = ["Column", "Row", "comparison_csv", "comparison_pdf", "comparison_rows"]

MOST_COLUMNS = 6


class Column(Model):
    """One formula in a comparison."""

    label: str
    result: FormulaResult
    diagnostics: tuple[Diagnostic, ...]
    cost: OilCost


class Row(Model):
    """One line of a comparison."""

    group: str
    name: str
    unit: str
    values: tuple[float | str | None, ...]
    """One per column, in its order; null where there is none."""
    differs: Truth


def _row(group: str, name: str, unit: str, values: Sequence[float | str | None], decimals: int = 1) -> Row:
    rounded = tuple(round(value, decimals) if isinstance(value, float) else value for value in values)
    return Row(group=group, name=name, unit=unit, values=rounded, differs=len(set(rounded)) > 1)


def comparison_rows(columns: Sequence[Column]) -> tuple[Row, ...]:
    """Shares, lye and water, qualities, indices and what to expect, side by side."""
    results = [column.result for column in columns]
    rows = []
    names = {oil.oil: oil.name for result in results for oil in result.oils}
    blends = [by_oil((one.oil, one.share_percent) for one in result.oils) for result in results]
    for oil, name in names.items():
        rows.append(_row("Blend", name, "%", [blend.get(oil) for blend in blends], 2))
    rows += [
        _row("Lye and water", "Oils", "g", [result.total_oils_g for result in results]),
        _row("Lye and water", "NaOH", "g", [result.lye.naoh_g for result in results], 2),
        _row("Lye and water", "KOH", "g", [result.lye.koh_g for result in results], 2),
        _row("Lye and water", "Plain water", "g", [result.water.plain_water_g for result in results]),
        _row(
            "Lye and water",
            "Lye concentration",
            "%",
            [result.water.lye_concentration_percent for result in results],
        ),
        _row("Lye and water", "Superfat in all", "%", [result.lye.superfat_total_percent for result in results], 2),
        _row("Lye and water", "Superfat, low end", "%", [f.lye.superfat_interval.low_percent for f in results]),
    ]
    for i, quality in enumerate(qualities().values()):
        rows.append(_row("Qualities", quality.name, "points", [result.qualities[i].points for result in results]))
    rows += [
        _row("Indices", "Iodine value", "", [result.indices.iodine_value for result in results]),
        _row("Indices", "INS", "", [result.indices.ins for result in results]),
        _row("Indices", "SAP of the blend", "mg KOH/g", [result.indices.sap_koh_mg_per_g for result in results]),
    ]
    bars = [result.bar for result in results]
    rows += [
        _row("To expect", "Unmould from", "h", [None if bar is None else bar.unmould_hours_low for bar in bars], 0),
        _row("To expect", "Usable from", "weeks", [None if bar is None else bar.usable_weeks for bar in bars]),
        _row("To expect", "At its best", "weeks", [None if bar is None else bar.best_weeks for bar in bars], 0),
        _row("To expect", "Firm at best", "points", [None if bar is None else bar.firmness_at_best for bar in bars], 0),
        _row("To expect", "Shelf life", "months", [None if bar is None else bar.shelf_months for bar in bars], 0),
        _row("To expect", "Trace", "", [None if bar is None else bar.trace for bar in bars]),
    ]
    rows.append(_row("Cost", "Oils, per kg", "", [column.cost.per_kg for column in columns], 2))
    flags = ["; ".join(plain(one.message) for one in column.diagnostics) or "nothing" for column in columns]
    rows.append(_row("Advice", "Worth knowing", "", flags))
    return tuple(row for row in rows if any(value not in (None, 0.0) for value in row.values))


def comparison_csv(columns: Sequence[Column]) -> str:
    """The comparison as CSV, comma separated, decimal points, one line a quantity."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["group", "quantity", "unit", *(safe_cell(column.label) for column in columns), "differs"])
    for row in comparison_rows(columns):
        values = [
            "" if value is None else safe_cell(value) if isinstance(value, str) else value for value in row.values
        ]
        writer.writerow([row.group, safe_cell(row.name), row.unit, *values, "yes" if row.differs else ""])
    return out.getvalue()


def comparison_pdf(columns: Sequence[Column]) -> bytes:
    """The comparison as a PDF, A4 on its side; what differs stands first and in bold."""
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

    small = ParagraphStyle("small", fontName="Helvetica", fontSize=8, leading=10)
    bold = ParagraphStyle("bold", parent=small, fontName="Helvetica-Bold")
    right = ParagraphStyle("right", parent=small, alignment=2)
    head = ParagraphStyle("head", parent=bold, alignment=2)
    title = ParagraphStyle("title", parent=bold, fontSize=15, leading=19)

    def cell(value: float | str | None) -> Paragraph:
        if isinstance(value, float):
            return paragraph(digits(value), right)
        return paragraph(value or "", small)

    rows = sorted(comparison_rows(columns), key=lambda row: not row.differs)
    data = [[Paragraph("Quantity", bold), *(paragraph(column.label, head) for column in columns)]]
    for row in rows:
        name = f"{row.name}, {row.unit}" if row.unit else row.name
        data.append([paragraph(name, bold if row.differs else small), *(cell(value) for value in row.values)])
    width = 267 * mm
    table = Table(data, colWidths=[52 * mm, *[(width - 52 * mm) / len(columns)] * len(columns)], repeatRows=1)
    table.setStyle(
        TableStyle([
            ("LINEBELOW", (0, 0), (-1, 0), 1, colors.black),
            ("LINEBELOW", (0, 1), (-1, -1), 0.3, colors.lightgrey),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("TOPPADDING", (0, 0), (-1, -1), 2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
        ])
    )  # fmt: skip
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=landscape(A4), leftMargin=15 * mm, rightMargin=15 * mm, topMargin=14 * mm, bottomMargin=14 * mm,
        title="Comparison of formulas", author="Sapolin",
    )  # fmt: skip
    note = "Qualities, times and shelf life are estimates. What differs stands first, in bold."
    document.build([Paragraph("Comparison of formulas", title), Paragraph(note, small), Spacer(1, 4 * mm), table])
    return out.getvalue()
