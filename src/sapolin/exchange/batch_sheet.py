"""The sheet of a batch as PDF, Markdown and CSV."""

import csv
import io
from typing import Any, Literal

from sapolin.core.batch.sheet import Sheet, SheetRow
from sapolin.core.quantities.text import THOUSANDS, Text, plain, template
from sapolin.core.quantities.text import text as message
from sapolin.core.quantities.units import TemperatureUnitId
from sapolin.exchange.lettering import paragraph
from sapolin.exchange.text import safe_cell

__all__ = ["PaperSize", "code_square", "sheet_csv", "sheet_markdown", "sheet_pdf"]

PaperSize = Literal["a4", "letter"]

LEAST_PT = 10.5
"""Nothing on the sheet is smaller."""


def sheet_csv(sheet: Sheet) -> str:
    """One line a weight: section, name, grams, ounces, note, and what was really weighed."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["section", "name", "weight_g", "weight_oz", "note", "weighed_g"])
    for section in sheet.sections:
        for row in (*section.rows, *((section.total,) if section.total else ())):
            numbers = (row.g.replace(THOUSANDS, ""), row.oz.replace(THOUSANDS, ""))
            cells = (section.title or "Batch", row.name, *numbers, row.note, row.weighed_g.replace(THOUSANDS, ""))
            writer.writerow([safe_cell(cell) for cell in cells])
    return out.getvalue()


def sheet_markdown(sheet: Sheet, temperatures: TemperatureUnitId = "C") -> str:
    """The whole sheet as text, temperatures in the maker's unit."""

    def said(words: Text) -> str:
        return text(plain(words, temperatures=temperatures))

    def text(words: str) -> str:
        return "".join(f"\\{letter}" if letter in "\\`*_{}[]<>#|" else letter for letter in words)

    lines = [f"# {text(sheet.title)}", "", f"Batch {sheet.code}. {text(sheet.formula)}.", ""]
    if sheet.forbidden:
        lines += [f"**DO NOT MAKE.** {' '.join(said(one) for one in sheet.forbidden)}", ""]
    lines += (
        ["## Lessons from last time", "", *(f"- {text(lesson)}" for lesson in sheet.lessons), ""]
        if sheet.lessons
        else []
    )
    lines += ["## First", "", *(f"- [ ] {text(check)}" for check in sheet.gear), ""]
    lines += ["## Before the lye", "", *(f"- [ ] {text(check)}" for check in sheet.before_lye), ""]
    lines += ["## Lye on skin or in eyes", "", *(f"- {text(words)}" for words in sheet.first_aid)]
    lines += [
        f"- Emergency: {text(sheet.emergency_number or '____')}. Poison service: {text(sheet.poison_number or '____')}.",
        "",
    ]
    for section in sheet.sections:
        if section.title:
            lines += [f"## {section.title}", ""]
        lines += ["| | g | oz | | weighed, g |", "|---|--:|--:|---|--:|"]
        for row in section.rows:
            lines.append(f"| {text(row.name)} | {row.g} | {row.oz} | {text(row.note)} | {row.weighed_g} |")
        if section.total:
            total = section.total
            lines.append(f"| **{text(total.name)}** | **{total.g}** | **{total.oz}** | | |")
        lines.append("")
    lines += [*(f"- {text(fact.name)}: {said(fact.value)}" for fact in sheet.facts), ""]
    lines += [*(f"- {said(mould)}" for mould in sheet.moulds), ""] if sheet.moulds else []
    if sheet.diagnostics:
        lines += [
            "## Before you begin",
            "",
            *(f"- {said(one.message)} {said(one.remedy)}" for one in sheet.diagnostics),
            "",
        ]
    lines += ["## Order of work", ""]
    lines += [f"{i}. **{text(step.title)}** {said(step.text)}" for i, step in enumerate(sheet.steps, 1)]
    lines += ["", "## Safety", "", *(f"- {text(words)}" for words in sheet.safety), ""]
    if sheet.happened:
        lines += ["## What happened", "", *(f"- {text(fact.name)}: {said(fact.value)}" for fact in sheet.happened), ""]
    lines += ["## Notes", "", *(f"- {text(note)}" for note in sheet.notes), ""] if sheet.notes else []
    return "\n".join(lines)


def sheet_pdf(sheet: Sheet, paper: PaperSize = "a4", address: str = "", temperatures: TemperatureUnitId = "C") -> bytes:
    """The sheet to cook from: gear, first aid and weights on the first page, the order of work behind it.

    `address` is where the application shows this batch; it stands in the square code, for a phone's camera.
    """
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4, LETTER
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import KeepTogether, PageBreak, Paragraph, SimpleDocTemplate, Spacer

    size = A4 if paper == "a4" else LETTER
    margin = 13 * mm
    width = size[0] - 2 * margin
    caustic = colors.HexColor("#a8321f")
    # Nothing is smaller than what can be read at arm's length, in goggles.
    normal = ParagraphStyle("plain", fontName="Helvetica", fontSize=LEAST_PT, leading=13)
    grey = ParagraphStyle("grey", parent=normal, textColor=colors.HexColor("#3c423d"))
    bold = ParagraphStyle("bold", parent=normal, fontName="Helvetica-Bold")
    right = ParagraphStyle("right", parent=bold, fontName="Courier-Bold", fontSize=12, leading=14, alignment=2)
    light = ParagraphStyle("light", parent=right, fontName="Courier", fontSize=LEAST_PT, leading=14)
    head = ParagraphStyle("head", parent=bold, fontSize=12.5, leading=15, spaceBefore=5, spaceAfter=2)
    title = ParagraphStyle("title", parent=bold, fontSize=20, leading=24)
    warning = ParagraphStyle("warning", parent=bold, textColor=caustic)
    tick = 5 * mm

    def words(said: Text | str, style: ParagraphStyle = normal) -> Paragraph:
        return paragraph(said if isinstance(said, str) else plain(said, temperatures=temperatures), style)

    def weights() -> Any:
        heads = [words(name, bold) for name in ("", "", "g", "oz", "", "weighed", "lot")]
        heads[2] = Paragraph("g", ParagraphStyle("r", parent=bold, alignment=2))
        heads[3] = Paragraph("oz", ParagraphStyle("r", parent=bold, alignment=2))
        data: list[list[Any]] = [heads]
        style: list[Any] = [
            ("LINEBELOW", (0, 0), (-1, 0), 0.8, colors.black),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("TOPPADDING", (0, 0), (-1, -1), 1.2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 1.8),
            ("LEFTPADDING", (1, 0), (1, -1), 4),
            ("LEFTPADDING", (0, 0), (0, -1), 1),
            ("LEFTPADDING", (2, 0), (3, -1), 2),
            ("RIGHTPADDING", (2, 0), (3, -1), 4),
            ("LEFTPADDING", (5, 0), (5, -1), 2),
            ("RIGHTPADDING", (5, 0), (5, -1), 3),
        ]

        def line(row: SheetRow, *, total: bool = False) -> None:
            at = len(data)
            name = words(row.name, warning if row.caustic else bold if total else normal)
            weighed = words(row.weighed_g, right) if row.weighed_g else ""
            mark = "" if total else _square(tick)
            data.append([mark, name, words(row.g, right), words(row.oz, light), words(row.note, grey), weighed, ""])
            if total:
                style.append(("LINEABOVE", (1, at), (3, at), 0.8, colors.black))
                return
            style.append(("BOX", (5, at), (5, at), 0.5, colors.grey))
            if row.lot:
                style.append(("BOX", (6, at), (6, at), 0.5, colors.grey))
            if row.caustic:
                style.append(("BACKGROUND", (1, at), (4, at), colors.HexColor("#f7e6e1")))

        for section in sheet.sections:
            if section.title:
                style.append(("SPAN", (1, len(data)), (-1, len(data))))
                data.append(["", words(section.title, head), *[""] * 5])
            for row in section.rows:
                line(row)
            if section.total:
                line(section.total, total=True)
        components = (0.31, 0.135, 0.105, 0.19, 0.13)
        rest = width - tick
        widths = [tick, *(rest * component for component in components), rest * (1 - sum(components))]
        return _table(data, widths, *style, repeat=1)

    def checklist() -> Any:
        """In two columns, down the left one first; what comes before the lye has its heading among them."""
        points = [(_square(tick), words(check)) for check in sheet.gear]
        points += [("", words("Before the lye", bold)), *((_square(tick), words(c)) for c in sheet.before_lye)]
        half = (len(points) + 1) // 2
        left, right = points[:half], [*points[half:], ("", "")]
        column = (width - 2 * tick) / 2
        return _table(
            [[*first, *second] for first, second in zip(left, right, strict=False)],
            [tick, column, tick, column], ("VALIGN", (0, 0), (-1, -1), "TOP"), *_padded(1, 2),
            ("LEFTPADDING", (0, 0), (0, -1), 1), ("LEFTPADDING", (2, 0), (2, -1), 1),
        )  # fmt: skip

    def first_aid() -> Any:
        numbers = f"Emergency: {sheet.emergency_number or '________________'}     "
        numbers += f"Poison service: {sheet.poison_number or '________________'}"
        rows = [
            [words("Lye on skin or in eyes", warning)],
            *([words(line)] for line in sheet.first_aid),
            [words(numbers, bold)],
        ]
        return _table(rows, [width], ("BOX", (0, 0), (-1, -1), 1.6, caustic), *_padded(0.6, 1.4))

    named = [[words(fact.name, bold), words(fact.value)] for fact in sheet.facts]
    facts = _table(named, [width * 0.24, width * 0.76], *_padded(0.5, 1))
    made = "Actual weights" if sheet.made else "Made on ______________ by ______________"
    under = [words(sheet.title, title), words(f"{sheet.formula}. Batch {sheet.code}. {made}")]
    code = code_square(address or f"batch {sheet.code}", 19 * mm)
    heading = _table(
        [[under, code]], [width - 21 * mm, 21 * mm], ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 0), ("BOTTOMPADDING", (0, 0), (-1, -1), 0),
    )  # fmt: skip
    story: list[Any] = [heading]
    if sheet.forbidden:
        why = tuple(part for one in sheet.forbidden for part in (" ", *one))
        story.append(words(("DO NOT MAKE.", *why), warning))
    if sheet.lessons:
        story += [words("Lessons from last time", head), *(words(f"- {lesson}") for lesson in sheet.lessons[:6])]
    if not sheet.made:
        story += [words("First", head), checklist()]
    story += [Spacer(1, 1.5 * mm), first_aid(), Spacer(1, 1.5 * mm), weights()]
    story += [PageBreak(), words(f"{sheet.title}, batch {sheet.code}: order of work", head), facts, Spacer(1, 1 * mm)]
    story += [words(mould) for mould in sheet.moulds]
    notable = [one for one in sheet.diagnostics if one.severity != "note"] or list(sheet.diagnostics)
    if notable and not sheet.made:
        story += [
            words("Before you begin", head),
            *(words(("- ", *one.message, " ", *one.remedy)) for one in notable[:8]),
        ]
    story.append(Spacer(1, 2 * mm))
    shown = _without_single_weighings(sheet)
    steps = [
        [_square(tick), words(f"{i}. {step.title}", warning if step.caustic else bold), words(step.text)]
        for i, step in enumerate(shown, 1)
    ]
    story.append(_table(
        steps, [tick, width * 0.27, width * 0.73 - tick], ("VALIGN", (0, 0), (-1, -1), "TOP"), *_padded(1.5, 2.5),
        ("LEFTPADDING", (0, 0), (0, -1), 1), ("LINEBELOW", (1, 0), (-1, -1), 0.25, colors.lightgrey),
    ))  # fmt: skip
    story.append(KeepTogether([words("What happened", head), _happened(sheet, width, words, bold, temperatures)]))
    if sheet.notes:
        story += [words("Notes", head), *(words(note) for note in sheet.notes)]
    if address:
        story.append(words(f"This batch in Sapolin: {address}", grey))

    def across(canvas: Any, _document: Any) -> None:
        """What must not be made says so over every page."""
        if not sheet.forbidden:
            return
        canvas.saveState()
        canvas.setFont("Helvetica-Bold", 74)
        canvas.setStrokeColor(caustic)
        canvas.setLineWidth(1.6)
        canvas.translate(size[0] / 2, size[1] / 2)
        canvas.rotate(52)
        text = canvas.beginText(-canvas.stringWidth("DO NOT MAKE", "Helvetica-Bold", 74) / 2, -20)
        text.setTextRenderMode(1)
        text.textOut("DO NOT MAKE")
        canvas.drawText(text)
        canvas.restoreState()

    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=size, leftMargin=margin, rightMargin=margin, topMargin=10 * mm, bottomMargin=9 * mm,
        title=f"{sheet.title}, batch {sheet.code}", author="Sapolin",
    )  # fmt: skip
    document.build(story, onFirstPage=across, onLaterPages=across)
    return out.getvalue()


def _happened(sheet: Sheet, width: float, words: Any, bold: Any, temperatures: TemperatureUnitId) -> Any:
    """What happened, or room to write it down."""
    from reportlab.lib import colors
    from reportlab.lib.units import mm

    degrees = f"°{temperatures}"
    if sheet.happened:
        rows = [[words(fact.name, bold), words(fact.value)] for fact in sheet.happened]
        heights = None
    else:
        rows = [[words(name, bold), ""] for name in (
            f"Lye peak, {degrees} / time", f"Oils and lye when they met, {degrees}", "Emulsion, light, medium: minutes",
            "Poured at / height, mm", "Over or short, mL", "Gel seen at", "Unmoulded, cut", "Next time",
        )]  # fmt: skip
        heights = [8 * mm] * 7 + [16 * mm]
    return _table(
        rows, [width * 0.36, width * 0.64], ("GRID", (0, 0), (-1, -1), 0.4, colors.grey),
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"), heights=heights,
    )  # fmt: skip


def _padded(above: float, below: float) -> tuple[tuple[Any, ...], ...]:
    return ("TOPPADDING", (0, 0), (-1, -1), above), ("BOTTOMPADDING", (0, 0), (-1, -1), below)


def _table(
    rows: list[list[Any]],
    widths: list[float],
    *style: tuple[Any, ...],
    heights: list[float] | None = None,
    repeat: int = 0,
) -> Any:
    """A table in which also what is typed into an empty cell would be large enough to read."""
    from reportlab.platypus import Table, TableStyle

    table = Table(rows, colWidths=widths, rowHeights=heights, repeatRows=repeat)
    table.setStyle(TableStyle([("FONTSIZE", (0, 0), (-1, -1), LEAST_PT), *style]))
    return table


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
                    "title": template("sheet.weigh_all"),
                    "text": message("sheet.as_listed"),
                }
            )
        if step.kind == "confirm":
            where = "Before the lye" if step.caustic else "First"
            step = step.model_copy(update={"text": message("sheet.tick_each", where=where)})
        kept.append(step)
    return kept


def _square(side: float) -> Any:
    """A box to tick."""
    from reportlab.graphics.shapes import Drawing, Rect
    from reportlab.lib import colors

    edge = side * 0.72
    drawing = Drawing(edge + 1, edge + 1)
    drawing.add(Rect(0.5, 0.5, edge, edge, strokeColor=colors.black, strokeWidth=0.9, fillColor=colors.white))
    return drawing


def code_square(text: str, side: float) -> Any:
    """A QR code of `text`, `side` points wide."""
    from reportlab.graphics.barcode.qr import QrCodeWidget
    from reportlab.graphics.shapes import Drawing

    widget = QrCodeWidget(text)
    x0, y0, x1, y1 = widget.getBounds()
    drawing = Drawing(side, side, transform=[side / (x1 - x0), 0, 0, side / (y1 - y0), 0, 0])
    drawing.add(widget)
    return drawing
