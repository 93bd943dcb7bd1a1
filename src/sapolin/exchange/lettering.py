"""Text on a PDF page, in letters that are there.

The fonts that every PDF reader has hold Western European letters only. A text with others (Łódź, Σαπούνι, Мыло) is set in a
wider font that ships with Sapolin and is embedded where it is used.
"""

from functools import cache
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from sapolin.exchange.text import plain_signs

if TYPE_CHECKING:
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import Paragraph

__all__ = ["font_for", "paragraph", "text_width"]

_FONTS = Path(__file__).parent / "fonts"
_WIDE, _WIDE_BOLD = "DejaVuSansCondensed", "DejaVuSansCondensed-Bold"


@cache
def _with_wide_fonts() -> None:
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name in (_WIDE, _WIDE_BOLD):
        pdfmetrics.registerFont(TTFont(name, str(_FONTS / f"{name}.ttf")))


def _is_western(text: str) -> bool:
    try:
        text.encode("cp1252")
    except UnicodeEncodeError:
        return False
    return True


def paragraph(text: str, style: "ParagraphStyle") -> "Paragraph":
    """`text` as it is, not as markup, in `style`; in a wider font when the style's own has not all its letters."""
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import Paragraph

    western = plain_signs(text)
    if _is_western(western):
        return Paragraph(escape(western, quote=False), style)
    _with_wide_fonts()
    font = _WIDE_BOLD if "Bold" in style.fontName else _WIDE
    return Paragraph(escape(text, quote=False), ParagraphStyle(f"{style.name}, wide", parent=style, fontName=font))


def font_for(text: str, *, bold: bool = False) -> str:
    """The font that has all letters of a line, made known to the page."""
    if _is_western(text):
        return "Helvetica-Bold" if bold else "Helvetica"
    _with_wide_fonts()
    return _WIDE_BOLD if bold else _WIDE


def text_width(text: str, font: str, size: float) -> float:
    """How wide a line is, in the unit of `size`."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    return float(stringWidth(text, font, size))
