"""A label as its maker designs it: what it says, in which languages, its size in mm and the sheet it is printed on."""

from collections.abc import Iterator
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, diagnostic
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.text import number

__all__ = ["CAUTIONS", "LANGUAGES", "PAGES_MM", "SHAPES", "LabelDesign", "Language", "NetRule", "Region", "Shape",
           "SheetLayout", "Style", "design_problems", "shaped", "usual_sheet"]  # fmt: skip

Language = Literal["en", "de", "fr", "es"]
LANGUAGES: tuple[Language, ...] = ("en", "de", "fr", "es")
Style = Literal["poured", "soap", "inci"]
"""poured: oils, water and lye as they went in. soap: by the names of the soaps. inci: the nomenclature, as soap."""
Region = Literal["europe", "north_america"]
"""Whose way of writing the nomenclature: Aqua and Parfum, or Water and Fragrance."""
Shape = Literal["wrap", "box", "round", "tray", "shelf"]
SHAPES: dict[Shape, tuple[float, float]] = {
    "wrap": (210.0, 38.0), "box": (80.0, 55.0), "round": (60.0, 60.0), "tray": (89.0, 41.0), "shelf": (74.0, 52.0),
}  # fmt: skip
"""Width and height to begin with, mm."""
PAGES_MM: dict[str, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
NetRule = Literal["minimum", "average"]
Caution = Literal["washing", "eyes", "dry", "stop", "children"]
CAUTIONS: tuple[Caution, ...] = ("washing", "eyes", "dry", "stop", "children")

Line = Annotated[str, Field(max_length=160)]
LEAST_MM, MOST_MM = 15.0, 400.0
MOST_ROWS = 40


class SheetLayout(Model):
    """The sheet that labels are printed on; mm."""

    page: Literal["a4", "letter"] = "a4"
    columns: Annotated[int, Field(ge=1, le=MOST_ROWS)] = 1
    rows: Annotated[int, Field(ge=1, le=MOST_ROWS)] = 1
    left_mm: FiniteNumber = 0.0
    top_mm: FiniteNumber = 0.0
    gap_x_mm: FiniteNumber = 0.0
    gap_y_mm: FiniteNumber = 0.0
    first: Annotated[int, Field(ge=1, le=MOST_ROWS * MOST_ROWS)] = 1
    """The first free place of a sheet that was begun, counted row by row from 1."""


class LabelDesign(Model):
    """A label. Texts are as the maker wrote them."""

    shape: Shape = "wrap"
    width_mm: FiniteNumber = SHAPES["wrap"][0]
    height_mm: FiniteNumber = SHAPES["wrap"][1]
    """Of a round one as its width."""
    bleed_mm: FiniteNumber = 2.0
    """Printed beyond the edge, to be cut off."""
    languages: Annotated[tuple[Language, ...], Field(min_length=1, max_length=4)] = ("en",)
    style: Style = "inci"
    region: Region = "europe"
    name: Line = ""
    """Of the bar."""
    claim: Annotated[str, Field(max_length=300)] = ""
    """A sentence of one's own; it is checked."""
    maker: Line = ""
    address: Line = ""
    lot_code: Annotated[str, Field(max_length=40)] = ""
    """Empty prints the code of the batch."""
    net_rule: NetRule = "minimum"
    net_g: FiniteNumber | None = None
    """To print; null goes by the drying curve."""
    in_ounces: Truth = False
    """Ounces beside grams."""
    last_sale: date | None = None
    """The latest day a bar is sold; null is the day of its best before."""
    best_before: date | None = None
    """Null goes by the shelf life, an estimate."""
    cautions: Annotated[tuple[Caution, ...], Field(max_length=len(CAUTIONS))] = ("washing", "eyes", "dry")
    may_contain: Line = ""
    """Traces from tools that are shared, such as tree nuts."""
    recycling: Line = ""
    price: Annotated[str, Field(max_length=20)] = ""
    """On a shelf label."""
    qr: Literal["", "batch", "own"] = ""
    qr_address: Annotated[str, Field(max_length=300)] = ""
    sheet: SheetLayout = SheetLayout(columns=1, rows=7, left_mm=0.0, top_mm=8.0, gap_x_mm=0.0, gap_y_mm=2.0)


def shaped(design: LabelDesign, shape: Shape) -> LabelDesign:
    """`design` in another shape, with the size and sheet that one usually has. Raises FormulaError where its bleed cannot be.

    >>> shaped(LabelDesign(), "round").sheet.columns
    3
    """
    width, height = SHAPES[shape]
    changed = design.model_copy(update={"shape": shape, "width_mm": width, "height_mm": height})
    return changed.model_copy(update={"sheet": usual_sheet(changed, design.sheet.page)})


def usual_sheet(design: LabelDesign, page: Literal["a4", "letter"]) -> SheetLayout:
    """As many labels as a page takes, with room to cut between them, in the middle of the page.

    Raises FormulaError with what is wrong of a label that cannot be drawn.
    """
    if problems := [*_drawing_problems(design)]:
        raise FormulaError(problems)
    page_width, page_height = PAGES_MM[page]
    gap = 2 * design.bleed_mm

    def fitting(room: float, size: float, margin: float) -> tuple[int, float]:
        count = max(1, int((room - 2 * margin + gap + 1e-9) / (size + gap)))
        return count, max((room - count * size - (count - 1) * gap) / 2, 0.0)

    columns, left = fitting(page_width, design.width_mm, 0.0 if design.width_mm > page_width - 12 else 6.0)
    rows, top = fitting(page_height, design.height_mm, 6.0)
    return SheetLayout(
        page=page, columns=columns, rows=rows, left_mm=round(left, 1), top_mm=round(top, 1), gap_x_mm=gap, gap_y_mm=gap
    )


def design_problems(design: LabelDesign) -> Iterator[Diagnostic]:
    """Why a label cannot be drawn or printed as it was entered, and what to look at."""
    yield from _drawing_problems(design)
    if design.net_g is not None and not 0 < design.net_g <= 10_000:
        yield diagnostic("label_net", "problem", "net_g", stops="calculation", net=number(design.net_g, unit="g"))
    if design.qr == "own" and not design.qr_address.strip():
        yield diagnostic("label_qr_empty", "problem", "qr_address", stops="making", is_open=True)
    if design.best_before and design.last_sale and design.last_sale > design.best_before:
        yield diagnostic("label_dates_cross", "problem", "last_sale", stops="making")
    yield from _sheet_problems(design)


def _drawing_problems(design: LabelDesign) -> Iterator[Diagnostic]:
    for field in ("width_mm", "height_mm"):
        size = getattr(design, field)
        if not LEAST_MM <= size <= MOST_MM:
            yield diagnostic(
                "label_size", "problem", field, stops="calculation", size=number(size, unit="mm"),
                least=number(LEAST_MM, unit="mm"), most=number(MOST_MM, unit="mm"),
            )  # fmt: skip
    if not 0 <= design.bleed_mm <= 10:
        yield diagnostic(
            "label_bleed", "problem", "bleed_mm", stops="calculation", bleed=number(design.bleed_mm, unit="mm")
        )


def _sheet_problems(design: LabelDesign) -> Iterator[Diagnostic]:
    sheet = design.sheet
    for field in ("left_mm", "top_mm", "gap_x_mm", "gap_y_mm"):
        if getattr(sheet, field) < 0:
            yield diagnostic("sheet_negative", "problem", f"sheet.{field}", stops="making")
            return
    page_width, page_height = PAGES_MM[sheet.page]
    width = sheet.left_mm + sheet.columns * design.width_mm + (sheet.columns - 1) * sheet.gap_x_mm
    height = sheet.top_mm + sheet.rows * design.height_mm + (sheet.rows - 1) * sheet.gap_y_mm
    for needed, room, field in ((width, page_width, "columns"), (height, page_height, "rows")):
        if needed > room + 0.05:
            yield diagnostic(
                f"sheet_too_many_{field}", "problem", f"sheet.{field}", stops="making", needed=number(needed, 0, "mm"),
                room=number(room, 0, "mm"),
            )  # fmt: skip
    if sheet.first > sheet.columns * sheet.rows:
        yield diagnostic(
            "sheet_first", "problem", "sheet.first", stops="making", places=number(sheet.columns * sheet.rows)
        )
