"""A label drawn to scale: every line of text at its place in mm, in letters as large as fit.

The screen and the printed page are both drawn from this, so what is seen is what is printed. Nothing is ever cut off: text
that does not fit at the smallest letters is reported with how much room it lacks.
"""

from collections.abc import Callable, Sequence
from math import sqrt
from typing import NamedTuple

from sapolin.core.labels.design import LabelDesign
from sapolin.core.labels.net_weight import letter_height_mm
from sapolin.core.quantities.diagnostics import Diagnostic, diagnostic
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import number
from sapolin.exchange.lettering import font_for, text_width
from sapolin.exchange.qr_code import qr_rows

__all__ = ["DrawnLine", "DrawnText", "LabelDrawing", "LabelTexts", "draw_label"]

X_HEIGHT = 0.523
"""Of the letters that labels are set in, as a fraction of their size."""
DIGIT_HEIGHT = 0.703
LEADING = 1.2
PADDING_MM = 3.0
END_MM = 5.0
"""Left free at the ends of a wrap: printers seldom reach the edge of a page."""
BODY_MM = (3.0, 1.55)
"""Largest and smallest size of the small print, mm."""
NAME_MM = (9.0, 2.4)
STEP_MM = 0.05
LEAST_X_HEIGHT_MM = 1.2
"""Food rules ask for so much (EU 1169/2011); soap is often measured by it."""
QR_MM = 24.0


class LabelTexts(Model):
    """What stands on a label, put into words."""

    name: str
    product: str
    """What it is, such as `soap · Seife`."""
    claim: str
    net: str
    """Net weight as printed; empty when there is none."""
    net_g: float
    small: tuple[str, ...]
    """Paragraphs of the small print, in their order."""
    code: str
    price: str
    about: tuple[str, ...]
    """On a tray label: bars and dates."""
    qr: str
    """What the QR code holds; empty prints none."""


class DrawnText(Model):
    """One line of text."""

    x_mm: float
    """Where it begins, or its middle."""
    y_mm: float
    """Of its base line, from the top."""
    size_mm: float
    width_mm: float
    text: str
    is_bold: Truth
    is_centred: Truth


class DrawnLine(Model):
    """A fold: a guide on the screen and the test print, ticks at the edge on the real one."""

    x_mm: float
    y1_mm: float
    y2_mm: float


class DrawnSquares(Model):
    """A QR code."""

    x_mm: float
    y_mm: float
    side_mm: float
    rows: tuple[str, ...]
    """One string a row, `1` for a dark square."""


class LabelDrawing(Model):
    """A label, to scale."""

    width_mm: float
    height_mm: float
    bleed_mm: float
    is_round: Truth
    texts: tuple[DrawnText, ...]
    folds: tuple[DrawnLine, ...]
    qr: DrawnSquares | None
    smallest_mm: float
    """Height of an x in the smallest letters."""
    net_digit_mm: float | None
    problems: tuple[Diagnostic, ...]


class _Box(NamedTuple):
    x: float
    y: float
    width: float
    height: float


class _Flow(NamedTuple):
    texts: tuple[DrawnText, ...]
    end_mm: float


_Room = Callable[[float, float], tuple[float, float]]
"""Left edge and width of the room between two heights, mm."""


def _width(text: str, size_mm: float, *, bold: bool) -> float:
    return text_width(text, font_for(text, bold=bold), size_mm)


def _flow(
    paragraphs: Sequence[str], size: float, top: float, room: _Room, *, bold: bool = False, centred: bool = False
) -> _Flow | None:
    """Paragraphs set from `top` down in the room there is; null when a word is wider than it."""
    drawn: list[DrawnText] = []
    y = top
    for paragraph in paragraphs:
        words = paragraph.split()
        while words:
            left, width = room(y, y + size * LEADING)
            line = ""
            while words and (not line or _width(f"{line} {words[0]}", size, bold=bold) <= width):
                line = f"{line} {words.pop(0)}".strip()
            wide = _width(line, size, bold=bold)
            if wide > width + 1e-6:
                return None
            drawn.append(
                DrawnText(
                    x_mm=left + width / 2 if centred else left, y_mm=y + size * 0.95, size_mm=size, width_mm=wide, text=line,
                    is_bold=bold, is_centred=centred,
                )
            )  # fmt: skip
            y += size * LEADING
        y += size * 0.35
    return _Flow(tuple(drawn), y - size * 0.35 if paragraphs else y)


def _sizes(limits: tuple[float, float]) -> list[float]:
    largest, smallest = limits
    count = round((largest - smallest) / STEP_MM)
    return [largest - i * STEP_MM for i in range(count + 1)]


def _largest(
    paragraphs: Sequence[str], limits: tuple[float, float], top: float, bottom: float, room: _Room, *, bold: bool = False,
    centred: bool = False,
) -> tuple[_Flow, float, float]:  # fmt: skip
    """The largest letters that fit between `top` and `bottom`; at the smallest, with the height that is missing."""
    sizes = _sizes(limits)
    low, high = 0, len(sizes) - 1

    def flowed(i: int) -> _Flow | None:
        flow = _flow(paragraphs, sizes[i], top, room, bold=bold, centred=centred)
        return flow if flow is not None and flow.end_mm <= bottom + 1e-6 else None

    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if flowed(middle) is not None else (middle + 1, high)
    flow = flowed(low)
    if flow is not None:
        return flow, sizes[low], 0.0
    smallest = _flow(paragraphs, sizes[-1], top, room, bold=bold, centred=centred)
    if smallest is None:
        return _Flow((), top), sizes[-1], bottom - top
    return smallest, sizes[-1], smallest.end_mm - bottom


def draw_label(design: LabelDesign, texts: LabelTexts) -> LabelDrawing:
    """Lay a label out. What does not fit is among its `problems`."""
    draw = {"wrap": _wrap, "box": _box, "round": _round, "tray": _tray, "shelf": _box}[design.shape]
    laid = draw(design, texts)
    problems = list(laid.problems)
    small = min((one.size_mm for one in laid.texts), default=LEAST_X_HEIGHT_MM / X_HEIGHT) * X_HEIGHT
    is_sold = design.shape in ("wrap", "box", "round")
    if is_sold and small < LEAST_X_HEIGHT_MM - 0.005:
        problems.append(diagnostic("label_letters_small", "warning", "width_mm", height=number(small, 2, "mm")))
    digits = next((one.size_mm * DIGIT_HEIGHT for one in laid.texts if texts.net and one.text == texts.net), None)
    least = letter_height_mm(texts.net_g)
    if is_sold and digits is not None and digits < least - 0.005:
        problems.append(
            diagnostic(
                "label_net_small", "warning", "width_mm", height=number(digits, 1, "mm"), net=number(texts.net_g, 0, "g"),
                least=number(least, 0, "mm"),
            )
        )  # fmt: skip
    return LabelDrawing(
        width_mm=design.width_mm, height_mm=design.width_mm if design.shape == "round" else design.height_mm,
        bleed_mm=design.bleed_mm, is_round=design.shape == "round", texts=laid.texts, folds=laid.folds, qr=laid.qr,
        smallest_mm=small, net_digit_mm=digits, problems=tuple(problems),
    )  # fmt: skip


class _Laid(NamedTuple):
    texts: tuple[DrawnText, ...]
    folds: tuple[DrawnLine, ...]
    qr: DrawnSquares | None
    problems: tuple[Diagnostic, ...]


def _in(box: _Box) -> _Room:
    return lambda _top, _bottom: (box.x, box.width)


def _squares(text: str, x: float, y: float, side: float) -> DrawnSquares:
    return DrawnSquares(x_mm=x, y_mm=y, side_mm=side, rows=qr_rows(text))


def _front(texts: LabelTexts, box: _Box, *, centred: bool = False) -> tuple[list[DrawnText], list[Diagnostic]]:
    """Name, what it is, a sentence of one's own, and the net weight at the foot."""
    problems: list[Diagnostic] = []
    net_mm = letter_height_mm(texts.net_g) / DIGIT_HEIGHT * 1.05 if texts.net else 0.0
    bottom = box.y + box.height
    drawn: list[DrawnText] = []
    if texts.net:
        width = _width(texts.net, net_mm, bold=True)
        size = net_mm * min(1.0, box.width / width) if width else net_mm
        x = box.x + box.width / 2 if centred else box.x
        drawn.append(DrawnText(x_mm=x, y_mm=bottom - 0.2 * size, size_mm=size, width_mm=_width(texts.net, size, bold=True),
                               text=texts.net, is_bold=True, is_centred=centred))  # fmt: skip
        bottom -= 1.35 * size
    if texts.price:
        size = max(net_mm, 5.0)
        width = _width(texts.price, size, bold=True)
        drawn.append(DrawnText(x_mm=box.x + box.width - width, y_mm=box.y + box.height - 0.2 * size, size_mm=size,
                               width_mm=width, text=texts.price, is_bold=True, is_centred=False))  # fmt: skip
    under = [one for one in (texts.product, texts.claim) if one]
    name_bottom = box.y + (bottom - box.y) * (0.58 if under else 1.0)
    name, _, missing = _largest([texts.name], NAME_MM, box.y, name_bottom, _in(box), bold=True, centred=centred)
    if missing > 0:
        problems.append(diagnostic("label_name_does_not_fit", "problem", "name", stops="making"))
    drawn += name.texts
    if under:
        below, _, missing = _largest(under, (3.2, BODY_MM[1]), name.end_mm + 0.6, bottom, _in(box), centred=centred)
        drawn += below.texts
        if missing > 0:
            problems.append(_does_not_fit(missing, "claim"))
    return drawn, problems


def _does_not_fit(missing: float, path: str) -> Diagnostic:
    return diagnostic("label_does_not_fit", "problem", path, stops="making", missing=number(missing, 1, "mm"))


def _small_print(texts: LabelTexts, box: _Box) -> tuple[list[DrawnText], list[Diagnostic]]:
    flow, _, missing = _largest(texts.small, BODY_MM, box.y, box.y + box.height, _in(box))
    return [*flow.texts], [_does_not_fit(missing, "height_mm")] if missing > 0 else []


def _wrap(design: LabelDesign, texts: LabelTexts) -> _Laid:
    """Front, small print and code side by side, with a fold between them."""
    width, height, pad = design.width_mm, design.height_mm, PADDING_MM
    square = min(QR_MM, height - 2 * pad) if texts.qr else 0.0
    last = square + pad + END_MM if square else 0.0
    front = min(max(0.27 * width, 30.0), 0.5 * width)
    texts_, problems = _front(texts, _Box(END_MM, pad, front - END_MM - pad, height - 2 * pad))
    more, faults = _small_print(
        texts, _Box(front + pad, pad, width - front - (last + pad if square else END_MM) - pad, height - 2 * pad)
    )
    folds = [DrawnLine(x_mm=front, y1_mm=0, y2_mm=height)]
    qr = None
    if square:
        folds.append(DrawnLine(x_mm=width - last, y1_mm=0, y2_mm=height))
        qr = _squares(texts.qr, width - last + pad, (height - square) / 2, square)
    return _Laid((*texts_, *more), tuple(folds), qr, (*problems, *faults))


def _box(design: LabelDesign, texts: LabelTexts) -> _Laid:
    """The front above, the small print below it, the code beside the front."""
    width, height, pad = design.width_mm, design.height_mm, PADDING_MM
    part = 0.62 if design.shape == "shelf" else 0.42
    front_height = part * (height - 2 * pad)
    square = min(QR_MM, front_height) if texts.qr else 0.0
    beside = width - 2 * pad - (square + pad if square else 0.0)
    texts_, problems = _front(texts, _Box(pad, pad, beside, front_height))
    top = pad + front_height + 1.5
    more, faults = _small_print(texts, _Box(pad, top, width - 2 * pad, height - pad - top))
    qr = _squares(texts.qr, width - pad - square, pad, square) if square else None
    return _Laid((*texts_, *more), (), qr, (*problems, *faults))


def _round(design: LabelDesign, texts: LabelTexts) -> _Laid:
    """Everything about the middle line, each line as wide as the circle is there."""
    radius = design.width_mm / 2
    inner = radius - PADDING_MM

    def chord(top: float, bottom: float) -> tuple[float, float]:
        far = max(abs(top - radius), abs(bottom - radius))
        # Text that runs out below is still shown, so that it is seen how much there is too much of.
        half = max(sqrt(max(inner**2 - far**2, 0.0)), 0.25 * inner)
        return radius - half, 2 * half

    top = radius - 0.74 * inner
    half = 0.62 * inner
    texts_, problems = _front(texts, _Box(radius - half, top, 2 * half, 0.62 * inner), centred=True)
    start = top + 0.62 * inner + 1.2
    flow, _, missing = _largest(texts.small, BODY_MM, start, radius + 0.94 * inner, chord, centred=True)
    faults = [_does_not_fit(missing, "width_mm")] if missing > 0 else []
    return _Laid((*texts_, *flow.texts), (), None, (*problems, *faults))


def _tray(design: LabelDesign, texts: LabelTexts) -> _Laid:
    """The code of the batch, large; its name, bars and dates; the code to scan."""
    width, height, pad = design.width_mm, design.height_mm, PADDING_MM
    square = min(28.0, height - 2 * pad) if texts.qr else 0.0
    room = _in(_Box(pad, pad, width - 2 * pad - (square + pad if square else 0.0), height - 2 * pad))
    code, _, none_left = _largest([texts.code], (9.0, 3.0), pad, pad + 0.36 * (height - 2 * pad), room, bold=True)
    name, _, no_room = _largest([texts.name], (5.0, 2.2), code.end_mm, pad + 0.66 * (height - 2 * pad), room, bold=True)
    about, _, missing = _largest(texts.about, (3.4, 1.8), name.end_mm + 0.8, height - pad, room)
    over = max(none_left, no_room, missing)
    qr = _squares(texts.qr, width - pad - square, pad, square) if square else None
    problems = (_does_not_fit(over, "height_mm"),) if over > 0 else ()
    return _Laid((*code.texts, *name.texts, *about.texts), (), qr, problems)
