"""Labels on sheets, as PDF: the places of a sheet filled from the first free one, or a test print with a ruler."""

from collections.abc import Iterator
from io import BytesIO
from typing import Any

from sapolin.core.labels.design import PAGES_MM, SheetLayout
from sapolin.exchange.label_drawing import LabelDrawing
from sapolin.exchange.lettering import font_for

__all__ = ["MOST_LABELS", "label_sheet_pdf", "ruler_sheet_pdf"]

MOST_LABELS = 500
"""On one print."""
TICK_MM = 1.5
RULER_MM = 100


def _places(sheet: SheetLayout, width_mm: float, height_mm: float) -> list[tuple[float, float]]:
    """Top left corners of the places of a page, row by row, mm from its top left."""
    return [
        (sheet.left_mm + column * (width_mm + sheet.gap_x_mm), sheet.top_mm + row * (height_mm + sheet.gap_y_mm))
        for row in range(sheet.rows)
        for column in range(sheet.columns)
    ]


def _pages(sheet: SheetLayout, count: int) -> Iterator[list[int]]:
    """Places to fill, page by page."""
    places, taken = sheet.columns * sheet.rows, sheet.first - 1
    while count > 0:
        on_page = min(count, places - taken)
        yield list(range(taken, taken + on_page))
        count -= on_page
        taken = 0


class _Page:
    """A page in mm from its top left."""

    def __init__(self, sheet: SheetLayout, title: str) -> None:
        from reportlab.pdfgen.canvas import Canvas

        self.width_mm, self.height_mm = PAGES_MM[sheet.page]
        self._out = BytesIO()
        self._mm = 72 / 25.4
        self.canvas: Any = Canvas(self._out, pagesize=(self.width_mm * self._mm, self.height_mm * self._mm))
        self.canvas.setTitle(title)
        self.canvas.setAuthor("Sapolin")

    def line(self, x1: float, y1: float, x2: float, y2: float, *, grey: float = 0.0, dashed: bool = False) -> None:
        """A thin line."""
        self.canvas.setLineWidth(0.3)
        self.canvas.setStrokeGray(grey)
        self.canvas.setDash(2, 2) if dashed else self.canvas.setDash()
        self.canvas.line(x1 * self._mm, self._y(y1), x2 * self._mm, self._y(y2))

    def text(
        self, x: float, y: float, size_mm: float, words: str, *, bold: bool = False, centred: bool = False
    ) -> None:
        """A line of text on its base line."""
        self.canvas.setFont(font_for(words, bold=bold), size_mm * self._mm)
        self.canvas.setFillGray(0)
        place = self.canvas.drawCentredString if centred else self.canvas.drawString
        place(x * self._mm, self._y(y), words)

    def square(self, x: float, y: float, side: float) -> None:
        """A dark square; neighbours overlap by a hair, so that no light shows between them."""
        self.canvas.setFillGray(0)
        hair = 0.01
        self.canvas.rect(
            x * self._mm, self._y(y + side + hair), (side + hair) * self._mm, (side + hair) * self._mm, 0, 1
        )

    def outline(self, x: float, y: float, drawing: LabelDrawing) -> None:
        """Where the label is cut."""
        self.canvas.setLineWidth(0.3)
        self.canvas.setStrokeGray(0.55)
        self.canvas.setDash()
        if drawing.is_round:
            radius = drawing.width_mm / 2
            self.canvas.circle((x + radius) * self._mm, self._y(y + radius), radius * self._mm)
        else:
            self.canvas.rect(x * self._mm, self._y(y + drawing.height_mm), drawing.width_mm * self._mm,
                             drawing.height_mm * self._mm)  # fmt: skip

    def next(self) -> None:
        """Begin another page."""
        self.canvas.showPage()

    def content(self) -> bytes:
        """The document."""
        self.canvas.save()
        return self._out.getvalue()

    def _y(self, y: float) -> float:
        return float((self.height_mm - y) * self._mm)


def _label(page: _Page, x: float, y: float, drawing: LabelDrawing) -> None:
    for one in drawing.texts:
        page.text(x + one.x_mm, y + one.y_mm, one.size_mm, one.text, bold=one.is_bold, centred=one.is_centred)
    if drawing.qr is not None:
        side = drawing.qr.side_mm / len(drawing.qr.rows)
        for row, squares in enumerate(drawing.qr.rows):
            for column, dark in enumerate(squares):
                if dark == "1":
                    page.square(x + drawing.qr.x_mm + column * side, y + drawing.qr.y_mm + row * side, side)
    for fold in drawing.folds:
        page.line(x + fold.x_mm, y + fold.y1_mm, x + fold.x_mm, y + fold.y1_mm + TICK_MM, grey=0.6)
        page.line(x + fold.x_mm, y + fold.y2_mm - TICK_MM, x + fold.x_mm, y + fold.y2_mm, grey=0.6)


def _cut_marks(page: _Page, x: float, y: float, drawing: LabelDrawing) -> None:
    """Short lines outside the corners, beyond the bleed, to cut by."""
    out, length = max(drawing.bleed_mm, 0.3), TICK_MM
    right, foot = x + drawing.width_mm, y + drawing.height_mm
    for at_x, to_x in ((x, -1), (right, 1)):
        for at_y, to_y in ((y, -1), (foot, 1)):
            page.line(at_x, at_y + to_y * out, at_x, at_y + to_y * (out + length), grey=0.6)
            page.line(at_x + to_x * out, at_y, at_x + to_x * (out + length), at_y, grey=0.6)


def label_sheet_pdf(drawing: LabelDrawing, sheet: SheetLayout, count: int, title: str) -> bytes:
    """`count` labels on as many sheets as they need. The sheet and the label must be possible as they are."""
    page = _Page(sheet, title)
    places = _places(sheet, drawing.width_mm, drawing.height_mm)
    for i, taken in enumerate(_pages(sheet, count)):
        if i:
            page.next()
        for place in taken:
            if drawing.is_round:
                page.outline(*places[place], drawing)
            else:
                _cut_marks(page, *places[place], drawing)
            _label(page, *places[place], drawing)
    return page.content()


def ruler_sheet_pdf(drawing: LabelDrawing, sheet: SheetLayout, title: str, words: str) -> bytes:
    """One sheet on plain paper: the outline of every place, one label, and a ruler to check the scale of the printer by.

    `words` say what to do with it.
    """
    page = _Page(sheet, title)
    places = _places(sheet, drawing.width_mm, drawing.height_mm)
    for number, (x, y) in enumerate(places, start=1):
        page.outline(x, y, drawing)
        for fold in drawing.folds:
            page.line(x + fold.x_mm, y, x + fold.x_mm, y + drawing.height_mm, grey=0.6, dashed=True)
        if number == sheet.first:
            _label(page, x, y, drawing)
        else:
            page.text(x + drawing.width_mm / 2, y + drawing.height_mm / 2, 3.0, str(number), centred=True)
    _ruler(page, words)
    return page.content()


def _ruler(page: _Page, words: str) -> None:
    left, foot = (page.width_mm - RULER_MM) / 2, page.height_mm - 4.5
    page.canvas.setFillGray(1)
    for mm in range(RULER_MM + 1):
        length = 3.0 if mm % 10 == 0 else 2.0 if mm % 5 == 0 else 1.2
        page.line(left + mm, foot, left + mm, foot - length)
    page.line(left, foot, left + RULER_MM, foot)
    page.text(left + RULER_MM / 2, foot + 3.2, 2.6, words, centred=True)
    side, top = 4.5, (page.height_mm - RULER_MM) / 2
    for mm in range(RULER_MM + 1):
        length = 3.0 if mm % 10 == 0 else 2.0 if mm % 5 == 0 else 1.2
        page.line(side, top + mm, side + length, top + mm)
    page.line(side, top, side, top + RULER_MM)
