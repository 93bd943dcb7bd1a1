"""The sheet of a batch as PDF, Markdown and CSV."""

import csv
import io
from typing import Any, Literal

from sapolin.core.batch.sheet import Sheet, SheetRow
from sapolin.exchange.lettering import paragraph
from sapolin.exchange.text import safe_cell

__all__ = ["PaperSize", "sheet_csv", "sheet_markdown", "sheet_pdf"]

PaperSize = Literal["a4", "letter"]


def sheet_csv(sheet: Sheet) -> str:
    """One line a weight: section, name, grams, ounces, note."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["section", "name", "weight_g", "weight_oz", "note"])
    for section in sheet.sections:
        for row in (*section.rows, *((section.total,) if section.total else ())):
            cells = (section.title or "Batch", row.name, row.g.replace(",", ""), row.oz.replace(",", ""), row.note)
            writer.writerow([safe_cell(cell) for cell in cells])
    return out.getvalue()


def sheet_markdown(sheet: Sheet) -> str:
    """The whole sheet as text."""

    def text(words: str) -> str:
        return "".join(f"\\{letter}" if letter in "\\`*_{}[]<>#|" else letter for letter in words)

    lines = [f"# {text(sheet.title)}", "", f"Batch {sheet.code}. {text(sheet.formula)}.", ""]
    for section in sheet.sections:
        if section.title:
            lines += [f"## {section.title}", ""]
        lines += ["| | g | oz | |", "|---|--:|--:|---|"]
        for row in section.rows:
            lines.append(f"| {text(row.name)} | {row.g} | {row.oz} | {text(row.note)} |")
        if section.total:
            total = section.total
            lines.append(f"| **{text(total.name)}** | **{total.g}** | **{total.oz}** | |")
        lines.append("")
    lines += [*(f"- {text(fact.name)}: {text(fact.value)}" for fact in sheet.facts), ""]
    lines += [*(f"- {text(mould)}" for mould in sheet.moulds), ""] if sheet.moulds else []
    if sheet.findings:
        lines += ["## Before you begin", "", *(f"- {text(f.headline)} {text(f.remedy)}" for f in sheet.findings), ""]
    lines += ["## Order of work", ""]
    lines += [f"{i}. **{text(step.title)}** {text(step.text)}" for i, step in enumerate(sheet.steps, 1)]
    lines += ["", "## Safety", "", *(f"- {text(words)}" for words in (*sheet.safety, *sheet.first_aid)), ""]
    lines += ["## Notes", "", *(f"- {text(note)}" for note in sheet.notes), ""] if sheet.notes else []
    return "\n".join(lines)


def sheet_pdf(sheet: Sheet, paper: PaperSize = "a4") -> bytes:
    """One or two pages: weights with room for what was really weighed on the first, the order of work on the second."""
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4, LETTER
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import KeepTogether, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

    size = A4 if paper == "a4" else LETTER
    margin = 14 * mm
    width = size[0] - 2 * margin
    caustic = colors.HexColor("#a8321f")
    small = ParagraphStyle("small", fontName="Helvetica", fontSize=8.5, leading=10.6)
    tiny = ParagraphStyle("tiny", parent=small, fontSize=7.5, leading=9.4, textColor=colors.HexColor("#444444"))
    bold = ParagraphStyle("bold", parent=small, fontName="Helvetica-Bold")
    right = ParagraphStyle("right", parent=small, fontName="Courier-Bold", fontSize=10.5, leading=12, alignment=2)
    light = ParagraphStyle("light", parent=right, fontName="Courier", fontSize=9, leading=12)
    head = ParagraphStyle("head", parent=bold, fontSize=10.5, leading=13, spaceBefore=5, spaceAfter=1)
    title = ParagraphStyle("title", parent=bold, fontSize=18, leading=22)
    warning = ParagraphStyle("warning", parent=bold, textColor=caustic)

    def words(text: str, style: ParagraphStyle = small) -> Paragraph:
        return paragraph(text, style)

    columns = [width * part for part in (0.34, 0.12, 0.10, 0.18, 0.13, 0.13)]

    def weights() -> Any:
        data: list[list[Any]] = [[words(name, bold) for name in ("", "g", "oz", "", "weighed, g", "lot")]]
        data[0][1:3] = [Paragraph("g", ParagraphStyle("r", parent=bold, alignment=2)),
                        Paragraph("oz", ParagraphStyle("r", parent=bold, alignment=2))]  # fmt: skip
        style: list[Any] = [
            ("LINEBELOW", (0, 0), (-1, 0), 0.8, colors.black),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("TOPPADDING", (0, 0), (-1, -1), 1.6),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2.2),
        ]

        def line(row: SheetRow, *, total: bool = False) -> None:
            at = len(data)
            name = words(row.name, warning if row.caustic else bold if total else small)
            data.append([name, words(row.g, right), words(row.oz, light), words(row.note, tiny), "", ""])
            if not total:
                style.append(("BOX", (4, at), (4, at), 0.5, colors.grey))
                if row.lot:
                    style.append(("BOX", (5, at), (5, at), 0.5, colors.grey))
            else:
                style.append(("LINEABOVE", (0, at), (2, at), 0.8, colors.black))
            if row.caustic:
                style.append(("LINEBEFORE", (0, at), (0, at), 3, caustic))

        for section in sheet.sections:
            if section.title:
                style.append(("SPAN", (0, len(data)), (-1, len(data))))
                data.append([words(section.title, head), *[""] * 5])
            for row in section.rows:
                line(row)
            if section.total:
                line(section.total, total=True)
        table = Table(data, colWidths=columns, repeatRows=1)
        table.setStyle(TableStyle(style))
        return table

    facts = Table(
        [[words(fact.name, bold), words(fact.value)] for fact in sheet.facts], colWidths=[width * 0.2, width * 0.8]
    )
    tight = TableStyle([("TOPPADDING", (0, 0), (-1, -1), 0.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 1)])
    facts.setStyle(tight)
    heading = Table(
        [[[words(sheet.title, title), words(f"{sheet.formula}. Batch {sheet.code}. Made on ______________ by ______________")],
          _code_square(f"sapolin:batch:{sheet.code}", 20 * mm)]],
        colWidths=[width - 22 * mm, 22 * mm],
    )  # fmt: skip
    heading.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (1, 0), (1, 0), 0)]))
    story: list[Any] = [heading, *(words(line, warning) for line in sheet.safety), weights(), Spacer(1, 3 * mm), facts]
    story += [words(mould) for mould in sheet.moulds]
    if sheet.findings:
        notable = [finding for finding in sheet.findings if finding.level != "note"] or list(sheet.findings)
        story += [words("Before you begin", head), *(words(f"- {f.headline} {f.remedy}") for f in notable[:8])]
    story.append(PageBreak())
    story.append(words(f"{sheet.title}, batch {sheet.code}: order of work", head))
    steps = Table(
        [
            ["", words(f"{i}. {step.title}", warning if step.caustic else bold), words(step.text)]
            for i, step in enumerate(_without_single_weighings(sheet), 1)
        ],
        colWidths=[6 * mm, width * 0.26, width * 0.74 - 6 * mm],
    )
    rows = len(_without_single_weighings(sheet))
    steps.setStyle(
        TableStyle([
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("TOPPADDING", (0, 0), (-1, -1), 1.5),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
            *[("BOX", (0, i), (0, i), 0.6, colors.black) for i in range(rows)],
            ("LINEBELOW", (1, 0), (-1, -1), 0.25, colors.lightgrey),
        ])
    )  # fmt: skip
    story.append(steps)
    degrees = f"°{sheet.temperature_unit}"
    record = Table(
        [[words(name, bold), ""] for name in (
            f"Lye peak, {degrees} / time", f"Oils and lye when they met, {degrees}", "Emulsion, light, medium: minutes",
            "Poured at / height, mm", "Over or short, mL", "Gel seen at", "Unmoulded, cut", "Next time",
        )],
        colWidths=[width * 0.32, width * 0.68], rowHeights=[7 * mm] * 7 + [12 * mm],
    )  # fmt: skip
    record.setStyle(TableStyle([("GRID", (0, 0), (-1, -1), 0.4, colors.grey), ("VALIGN", (0, 0), (-1, -1), "MIDDLE")]))
    story.append(KeepTogether([words("What happened", head), record]))
    first_aid = [words("Lye on skin or in eyes", ParagraphStyle("w", parent=warning, fontSize=10)),
                 *(words(line) for line in sheet.first_aid)]  # fmt: skip
    story.append(KeepTogether([Spacer(1, 2 * mm), *first_aid]))
    if sheet.notes:
        story += [words("Notes", head), *(words(note) for note in sheet.notes)]
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=size, leftMargin=margin, rightMargin=margin, topMargin=11 * mm, bottomMargin=10 * mm,
        title=f"{sheet.title}, batch {sheet.code}", author="Sapolin",
    )  # fmt: skip
    document.build(story)
    return out.getvalue()


def _without_single_weighings(sheet: Sheet) -> list[Any]:
    """The order of work with all weighings but that of lye in one line: their weights stand on the first page."""
    kept: list[Any] = []
    for step in sheet.steps:
        plain_weighing = step.weigh is not None and step.weigh.role != "lye"
        if plain_weighing and any(other.id == "weigh-all" for other in kept):
            continue
        if plain_weighing:
            step = step.model_copy(
                update={
                    "id": "weigh-all",
                    "title": "Weigh everything but the lye",
                    "text": "As listed, each written down.",
                }
            )
        kept.append(step)
    return kept


def _code_square(text: str, side: float) -> Any:
    from reportlab.graphics.barcode.qr import QrCodeWidget
    from reportlab.graphics.shapes import Drawing

    widget = QrCodeWidget(text)
    x0, y0, x1, y1 = widget.getBounds()
    drawing = Drawing(side, side, transform=[side / (x1 - x0), 0, 0, side / (y1 - y0), 0, 0])
    drawing.add(widget)
    return drawing
