"""Labels drawn to scale: nothing runs out of its label, nothing is cut off, and the page holds what was drawn."""

import re
import zlib

import pytest

from sapolin.core.labels.design import LabelDesign, SheetLayout, shaped
from sapolin.exchange.label_drawing import LabelTexts, draw_label
from sapolin.exchange.label_sheet import label_sheet_pdf, ruler_sheet_pdf

SMALL = (
    "Ingredients: Sodium Olivate, Sodium Palmate, Sodium Cocoate, Aqua, Glycerin, Sodium Castorate, Olea Europaea Fruit Oil.",
    "For washing only. Keep out of eyes; rinse with water.",
    "Juniper Ridge · Upper Valley 3",
)


def texts(**changes):
    said = {
        "name": "Hut guest bar", "product": "soap", "claim": "", "net": "92 g", "net_g": 92.0, "small": SMALL, "code": "B-101",
        "price": "", "about": ("12 bars", "made 1 May 2026"), "qr": "",
    }  # fmt: skip
    return LabelTexts.model_validate(said | changes)


def codes(drawing):
    return [one.code for one in drawing.problems]


@pytest.mark.parametrize("shape", ["wrap", "box", "round", "tray", "shelf"])
@pytest.mark.parametrize("qr", ["", "http://127.0.0.1:8719/batches/b/cure"])
def test_everything_stays_on_the_label(shape, qr):
    drawing = draw_label(shaped(LabelDesign(), shape), texts(qr=qr))
    assert not {"label_does_not_fit", "label_name_does_not_fit"} & set(codes(drawing))
    middle = drawing.width_mm / 2
    for one in drawing.texts:
        left = one.x_mm - (one.width_mm / 2 if one.is_centred else 0)
        corners = [(x, y) for x in (left, left + one.width_mm) for y in (one.y_mm - 0.72 * one.size_mm, one.y_mm)]
        for x, y in corners:
            if drawing.is_round:
                assert (x - middle) ** 2 + (y - middle) ** 2 <= middle**2
            else:
                assert 0 <= x <= drawing.width_mm
                assert 0 <= y <= drawing.height_mm


def test_lines_do_not_run_into_one_another():
    drawing = draw_label(LabelDesign(), texts(claim="A mild bar for every day, made in the valley."))
    for one in drawing.texts:
        for other in drawing.texts:
            beside = one.x_mm + one.width_mm < other.x_mm or other.x_mm + other.width_mm < one.x_mm
            if one is not other and not beside and one.y_mm <= other.y_mm:
                assert other.y_mm - one.y_mm >= 0.7 * other.size_mm, (one.text, other.text)


def test_what_does_not_fit_is_said_and_not_cut():
    drawing = draw_label(shaped(LabelDesign(), "round"), texts(small=SMALL * 6))
    assert "label_does_not_fit" in codes(drawing)
    words = " ".join(one.text for one in drawing.texts)
    assert words.count("Castorate") == 6
    long_name = draw_label(
        LabelDesign(width_mm=40.0, height_mm=20.0), texts(name="Donaudampfschifffahrtsgesellschaftsseifenstückchen")
    )
    assert "label_name_does_not_fit" in codes(long_name)


def test_letters_too_small_for_the_law_are_said():
    small = draw_label(LabelDesign(width_mm=90.0, height_mm=22.0), texts())
    assert "label_letters_small" in codes(small)
    assert small.smallest_mm < 1.2
    usual = draw_label(LabelDesign(), texts())
    assert codes(usual) == []
    assert usual.net_digit_mm is not None
    assert usual.net_digit_mm >= 3


def test_other_letters_are_set_in_a_font_that_has_them():
    drawing = draw_label(LabelDesign(), texts(name="Мыло для рук", claim="Łódź"))
    assert b"DejaVuSansCondensed" in label_sheet_pdf(drawing, LabelDesign().sheet, 1, "x")


def pages(pdf):
    return len(re.findall(rb"/Type /Page\b", pdf))


def shown(pdf):
    """Text strings of all pages, in order."""
    found = []
    for stream in re.findall(rb"stream\r?\n(.*?)endstream", pdf, re.DOTALL):
        from base64 import a85decode

        content = zlib.decompress(a85decode(stream.strip().removesuffix(b"~>")))
        found += re.findall(rb"\((.*?)\) Tj", content)
    return found


def test_sheets_begin_at_the_first_free_place():
    drawing = draw_label(LabelDesign(), texts())
    sheet = SheetLayout(columns=1, rows=7, top_mm=8.0, gap_y_mm=2.0, first=6)
    printed = label_sheet_pdf(drawing, sheet, 10, "Labels")
    assert pages(printed) == 3  # two places, then seven, then one
    assert shown(printed).count(b"Hut guest bar") == 10


def test_the_test_print_has_one_label_and_every_place():
    drawing = draw_label(LabelDesign(), texts())
    sheet = SheetLayout(columns=1, rows=7, top_mm=8.0, gap_y_mm=2.0, first=2)
    printed = ruler_sheet_pdf(drawing, sheet, "Test", "100 mm")
    words = shown(printed)
    assert pages(printed) == 1
    assert words.count(b"Hut guest bar") == 1
    assert {b"1", b"3", b"7", b"100 mm"} <= set(words)
