"""The sheet of a batch in its three forms tells the same weights, and text stays text in each."""

import csv
import io
import re

import pytest
from reportlab import rl_config

from core.batches import MILK, plan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.sheet import Sheet, sheet_of
from sapolin.core.quantities.text import THOUSANDS
from sapolin.exchange.batch_sheet import sheet_csv, sheet_markdown, sheet_pdf

A4_PT, LETTER_PT = (595, 842), (612, 792)


def sheet(formula: dict | None = None, next_time: tuple[str, ...] = (), **changes) -> Sheet:
    batch = plan(formula, **changes)
    return sheet_of(batch, plan_batch(batch), "B-207", next_time)


@pytest.fixture
def open_pages(monkeypatch):
    """Pages whose text can be read without unpacking them."""
    monkeypatch.setattr(rl_config, "pageCompression", 0)


def printed(content: bytes) -> str:
    """What a PDF with open pages prints, string by string."""
    shown = re.findall(rb"\(((?:[^()\\]|\\.)*)\) Tj", content)
    text = " ".join(component.decode("latin-1") for component in shown)
    text = re.sub(r"\\(\d{3})", lambda octal: chr(int(octal.group(1), 8)), text)
    return re.sub(r"\\([()\\])", r"\1", text)


def page_sizes(content: bytes) -> list[tuple[int, int]]:
    boxes = re.findall(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", content)
    return [(round(float(width)), round(float(height))) for width, height in boxes]


def weights(one: Sheet) -> list[tuple[str, str]]:
    return [(row.name, row.g) for section in one.sections for row in section.rows]


class TestCsv:
    def rows(self, one: Sheet) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO(sheet_csv(one))))

    def test_every_weight_stands_in_a_line_of_its_own(self):
        one = sheet({"liquids": [MILK]})
        read = [(row["name"], row["weight_g"]) for row in self.rows(one)]
        for name, grams in weights(one):
            assert (name, grams.replace(THOUSANDS, "")) in read

    def test_numbers_are_bare_even_above_a_thousand(self):
        rows = self.rows(sheet(size={"by": "oils_g", "value": 4200.0}))
        total = next(row for row in rows if row["name"] == "Oils together")
        assert float(total["weight_g"]) == pytest.approx(4200)
        assert float(total["weight_oz"]) == pytest.approx(4200 / 28.349523125, abs=0.06)

    def test_ounces_are_the_same_weight(self):
        for row in self.rows(sheet()):
            assert float(row["weight_oz"]) * 28.349523125 == pytest.approx(float(row["weight_g"]), abs=0.2)

    @pytest.mark.parametrize("name", ["=HYPERLINK(1)", "+2", "-3", "@sum"])
    def test_a_name_is_no_formula_to_a_spreadsheet(self, name):
        portions = [
            {"name": name, "share_percent": 100,
             "colours": [{"colorant": "ultramarine-blue", "by": "tsp_per_500_g", "value": 1.0}]}
        ]  # fmt: skip
        rows = self.rows(sheet(portions=portions))
        named = [row["name"] for row in rows if row["section"] == "Colours"]
        assert named
        assert all(cell.startswith(f"'{name}") for cell in named)


class TestMarkdown:
    def test_it_holds_every_weight_and_every_step_in_order(self):
        one = sheet({"liquids": [MILK]})
        text = sheet_markdown(one)
        for name, grams in weights(one):
            assert f"| {name} | {grams} |" in text
        places = [text.index(f"{i}. **{step.title}**") for i, step in enumerate(one.steps, 1)]
        assert places == sorted(places)
        for line in (*one.safety, *one.first_aid):
            assert f"- {line}" in text

    def test_what_a_maker_wrote_cannot_break_the_table(self):
        text = sheet_markdown(sheet({"name": "Bar | of *stars* <b>", "notes": "# not a heading"}))
        assert r"# Bar \| of \*stars\* \<b\>" in text
        assert r"- \# not a heading" in text

    def test_notes_for_next_time_come_back(self):
        text = sheet_markdown(sheet(next_time=("Less blue.",)))
        assert text.index("Lessons from last time") < text.index("- Less blue.") < text.index("## Oils")

    def test_fahrenheit_all_the_way_and_differences_too(self):
        text = sheet_markdown(sheet(), "F")
        assert "°C" not in text
        assert "°F" in text

    def test_without_anything_to_say_there_is_no_empty_heading(self):
        text = sheet_markdown(sheet({"notes": ""}))
        assert "## Notes" not in text
        assert not re.search(r"^## .*\n+## ", text, re.M)


class TestPdf:
    @pytest.mark.parametrize(("paper", "size"), [("a4", A4_PT), ("letter", LETTER_PT)])
    def test_pages_of_the_paper_asked_for(self, paper, size):
        pages = page_sizes(sheet_pdf(sheet({"liquids": [MILK]}), paper))
        assert set(pages) == {size}
        assert 2 <= len(pages) <= 3

    def test_a_laden_batch_takes_a_page_more_at_the_most(self):
        one = sheet(
            {
                "liquids": [MILK],
                "additives": [
                    {"additive": additive, "by": "percent_of_oils", "value": 1.0}
                    for additive in ("sodium-lactate-60", "sugar", "kaolin", "oatmeal")
                ],
            },
            scents=[{"scent": "lavender", "percent_of_oils": 2.0, "limit_percent": 3.0}],
            portions=[
                {"name": name, "share_percent": 50.0,
                 "colours": [{"colorant": colour, "by": "tsp_per_500_g", "value": 1.0}]}
                for name, colour in (("cream", "titanium-white"), ("blue", "ultramarine-blue"))
            ],
        )  # fmt: skip
        assert len(page_sizes(sheet_pdf(one))) <= 4

    def test_it_prints_every_weight_and_the_dangers(self, open_pages):
        one = sheet({"liquids": [MILK]})
        text = printed(sheet_pdf(one))
        for name, grams in weights(one):
            assert name in text
            assert grams in text
        assert "running water for 15 to 20 minutes" in text
        assert "Jug in the ice bath" in text
        assert "Batch B-207" in text

    def test_the_order_of_work_keeps_lye_apart_from_other_weighings(self, open_pages):
        text = printed(sheet_pdf(sheet()))
        assert text.count("Weigh everything but the") == 1
        assert "Weigh NaOH" in text
        assert "Weigh Palm" not in text

    def test_page_one_holds_what_has_to_be_at_hand(self, open_pages):
        content = sheet_pdf(sheet({"liquids": [MILK]}, next_time=("Freeze it harder.",)))
        first = printed(content[: content.index(b"endstream")])
        for words in ("Freeze it harder.", "Goggles are on, not at hand.", "aluminium", "99 % pure", "running water for 15",
                      "Emergency: ____", "Poison service: ____", "Oils together"):  # fmt: skip
            assert words in first, words
        assert first.index("Freeze it harder.") < first.index("Goggles are on") < first.index("Oils together")
        assert first.index("lie ready for the lye") < first.index("Before the lye") < first.index("Goggles are on")

    def test_a_point_to_tick_stands_under_the_heading_that_its_step_names(self, open_pages):
        made = sheet()
        assert not set(made.gear) & set(made.before_lye)
        for check in (*made.gear, *made.before_lye):
            assert f"- [ ] {check}" in sheet_markdown(made)
        text = printed(sheet_pdf(made))
        starts = [re.search(f"Tick each point under \\W?{name}", text).start() for name in ("First", "Before the lye")]
        assert starts[0] < starts[1]

    def test_the_numbers_to_call_are_those_of_the_workshop(self, open_pages):
        numbers = {"emergency_number": "112", "poison_number": "0800 111"}
        assert "Emergency: 112 Poison service: 0800 111" in printed(sheet_pdf(sheet().model_copy(update=numbers)))

    def test_nothing_is_too_small_for_goggles(self, open_pages):
        one = sheet({"liquids": [MILK], "additives": [{"additive": "kaolin", "by": "percent_of_oils", "value": 2.0}]})
        # The size that stands before each string that is shown.
        texts = re.findall(rb"/F\d+ ([\d.]+) Tf(?:(?! Tf).)*?\((?:[^()\\]|\\.)+\) Tj", sheet_pdf(one), re.S)
        assert len(texts) > 50
        assert min(float(size) for size in texts) >= 10.5

    def test_what_must_not_be_made_says_so_across_every_page(self, open_pages):
        heavy = sheet({"superfat_percent": 0.0, "lye": {"naoh_purity_percent": 90.0}})
        assert heavy.forbidden
        content = sheet_pdf(heavy)
        # Once in the heading, and across each page.
        assert printed(content).count("DO NOT MAKE") == 1 + len(page_sizes(content))
        assert "**DO NOT MAKE.**" in sheet_markdown(heavy)
        assert "DO NOT MAKE" not in printed(sheet_pdf(sheet()))

    def test_cups_stand_with_what_they_are_taken_from(self):
        one = sheet({"additives": [{"additive": "kaolin", "by": "percent_of_oils", "value": 2.0}]},
                    size={"by": "oils_g", "value": 1000.0})  # fmt: skip
        (lye,) = [section for section in one.sections if section.title == "Lye and liquids"]
        rows = {row.item: row for row in lye.rows}
        assert rows["cup:0"].g == "40.0"
        # Twice the lye in all.
        assert float(rows["water"].g) + 40 == pytest.approx(2 * float(rows["lye:naoh"].g), abs=0.3)

    def test_the_code_opens_the_batch(self, open_pages):
        content = sheet_pdf(sheet(), "a4", "http://127.0.0.1:8719/batches/abc")
        assert "http://127.0.0.1:8719/batches/abc" in printed(content)
        # Another address is another square.
        assert sheet_pdf(sheet(), "a4", "http://127.0.0.1:8719/batches/abd") != content

    def test_markup_is_printed_as_it_was_typed(self, open_pages):
        text = printed(sheet_pdf(sheet({"name": "Bar <b>& co</b> (1)"})))
        assert "Bar<b>&co</b>(1)" in text.replace(" ", "")

    @pytest.mark.parametrize("name", ["Łódź bar", "Σαπούνι", "Мыло с берёзой"])
    def test_letters_beyond_western_europe_are_embedded_not_lost(self, open_pages, name):
        content = sheet_pdf(sheet({"name": name}))
        assert b"DejaVuSansCondensed" in content
        assert "?" not in printed(content)

    def test_western_letters_need_no_font_of_ours(self, open_pages):
        content = sheet_pdf(sheet({"name": "Savon crème brûlée − “süß”"}))
        assert b"DejaVu" not in content
        assert 'Savon crème brûlée - "süß"' in printed(content)
