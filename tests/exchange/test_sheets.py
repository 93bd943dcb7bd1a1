"""Tables that other programs wrote: whatever signs, letters and headings; bounded."""

from io import BytesIO
from zipfile import ZIP_DEFLATED, ZipFile

import pytest
from openpyxl import Workbook

from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.exchange.sheets import read_sheet


def workbook(*rows, merged=(), hidden=False):
    book = Workbook()
    for row in rows:
        book.active.append(row)
    for cells in merged:
        book.active.merge_cells(cells)
    if hidden:
        book.active.sheet_state = "hidden"
        book.create_sheet("shown").append(["only", "this"])
    out = BytesIO()
    book.save(out)
    return out.getvalue()


def refused(content):
    with pytest.raises(FormulaError) as error:
        read_sheet("list", content)
    return error.value.problems[0].code


@pytest.mark.parametrize("mark", [",", ";", "\t", "|"])
@pytest.mark.parametrize("letters", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_csv_in_any_signs_and_letters(mark, letters):
    table = read_sheet("l.csv", f"Öl{mark}Preis\nKokosöl{mark}1.5\n".encode(letters))
    assert table.headers == ("Öl", "Preis")
    assert table.rows == ((2, ("Kokosöl", "1.5")),)


def test_decimal_commas_do_not_part_cells():
    table = read_sheet("l.csv", b"name;pack;price\nolive;5 l;33,50\ncastor;1,5 kg;7,90\n")
    assert table.rows[1] == (3, ("castor", "1,5 kg", "7,90"))


def test_a_title_and_a_merged_heading_above_the_columns():
    content = workbook(
        ["Winter list"], [None], ["Goods", None, "Prices", None], ["Name", "Pack", "net", "gross"],
        ["Olive oil", "5 l", 30, 33.5],
        ["Castor oil", "1 kg", 7, 7.9], merged=("A3:B3", "C3:D3"),
    )  # fmt: skip
    table = read_sheet("l.xlsx", content)
    assert table.headers == ("Name", "Pack", "net", "gross")
    assert table.rows[0] == (5, ("Olive oil", "5 l", "30", "33.5"))


def test_columns_without_a_name_or_of_the_same_get_one():
    table = read_sheet("l.csv", b"name,,price,price\nolive,x,1,2\n")
    assert table.headers == ("name", "column 2", "price", "price (2)")


def test_the_first_sheet_that_is_shown():
    with pytest.raises(FormulaError):
        read_sheet("l.xlsx", workbook(["a", "b"], ["1", "2"], hidden=True))


@pytest.mark.parametrize(
    ("content", "code"),
    [
        (b"", "no_table"), (b"one line only", "no_table"), (b"%PDF-1.4\x00\x01\x02 binary", "not_a_table"),
        (b"PK\x03\x04 broken", "not_a_table"), (b"a,b\n" + b"1,2\n" * 20_001, "too_many_rows"),
        (b"x" * 4_000_001, "file_too_large"),
    ],
)  # fmt: skip
def test_what_is_no_table_is_refused(content, code):
    assert refused(content) == code


def test_a_packed_file_may_not_unpack_to_more_than_it_should():
    out = BytesIO()
    with ZipFile(out, "w", ZIP_DEFLATED) as packed:
        packed.writestr("xl/workbook.xml", b"0" * 90_000_000)
    assert refused(out.getvalue()) == "file_too_large"


def test_a_spreadsheet_with_definitions_of_its_own_is_refused():
    book = Workbook()
    book.active.append(["name", "price"])
    book.active.append(["Lard", 4])
    whole = BytesIO()
    book.save(whole)
    out = BytesIO()
    with ZipFile(whole) as old, ZipFile(out, "w") as new:
        for name in old.namelist():
            content = old.read(name)
            if name == "xl/worksheets/sheet1.xml":
                content = b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>' + content.replace(b"Lard", b"&b;")
            new.writestr(name, content)
    with pytest.raises(FormulaError) as refused:
        read_sheet("prices.xlsx", out.getvalue())
    assert [one.code for one in refused.value.problems] == ["not_a_table"]


def test_a_spreadsheet_that_breaks_off_is_refused():
    out = BytesIO()
    with ZipFile(out, "w") as new:
        new.writestr("xl/workbook.xml", "<workbook><sheets>")
        new.writestr("[Content_Types].xml", "<Types")
    with pytest.raises(FormulaError):
        read_sheet("prices.xlsx", out.getvalue())
