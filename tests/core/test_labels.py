"""What is in a bar on the last day of sale, worked by hand from molar masses; net weight by two rules; words on labels."""

import json
import re
from importlib.resources import files
from statistics import NormalDist

import pytest
from hypothesis import given, settings

from core.strategies import laden_formulas, weight_formula
from sapolin.core.batch.additions import PortionWeights, ScentWeight
from sapolin.core.cure.drying import BarAsCut, BarWeight, Weighing, bar_weight
from sapolin.core.formula.check import examine
from sapolin.core.formula.composition import Composition
from sapolin.core.labels.claims import InTheBar, check_claims, in_the_bar
from sapolin.core.labels.design import LANGUAGES, LabelDesign, SheetLayout, design_problems, shaped, usual_sheet
from sapolin.core.labels.ingredients import allergens_of, bar_on_day, diluted_on_day, ingredient_lines, ingredient_text
from sapolin.core.labels.net_weight import letter_height_mm, net_weight, net_words, tolerated_error_g
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import scents
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import Grams, plain

NOTHING = InTheBar(*[()] * 9)


def composition(formula):
    return Composition.of_formula(formula, examine(formula, catalogue()).oils)


def olive(**changes):
    # SAP 190: 95 g KOH for 500 g, 1.693236 mol; 95 % of it 1.608574 mol, 64.33814 g of pure NaOH.
    water = {"by": "water_to_lye", "value": 150 / 64.33814}
    return composition(weight_formula({"olive-refined": 500.0}, purity=100.0, water=water, **changes))


def scent(id_, grams):
    return ScentWeight(
        scent=id_, name=id_, weight_g=grams, ml=grams, percent_of_oils=1.0, percent_of_product=1.0, limit_percent=None
    )


def names(bar, style="soap", language="en", region="europe"):
    return {line.name: line for line in ingredient_lines(bar, style, language, region, bar.total_g)}


class TestWhatIsInIt:
    def test_an_olive_bar_by_hand(self):
        # Soap 475 + 64.338 - glycerol; glycerol 1.608574 / 3 x 92.094 = 49.380; free oil 25; water 150, nothing dried.
        lines = names(bar_on_day(olive(), (), (), 1.0))
        assert {name: round(line.grams, 2) for name, line in lines.items()} == {
            "sodium olivate": 489.96, "water": 150.0, "glycerin": 49.38, "olive oil": 25.0,
        }  # fmt: skip

    @pytest.mark.parametrize(("oil", "off_g"), [("olive-refined", 49.38), ("stearic-acid", 31.72)])
    def test_the_sentence_of_a_soap_adds_up_to_its_weight(self, oil, off_g):
        # Stearic acid, acid value 208: 104 g KOH for 500 g, 1.853647 mol; 95 % of it gives 1.760965 mol of water, 31.72 g.
        bar = bar_on_day(composition(weight_formula({oil: 500.0}, purity=100.0)), (), (), 1.0)
        [soap] = [part for part in bar.parts if part.kind == "soap_na"]
        of_oil_g, of_lye_g, comes_off_g = (said.g for said in soap.why if isinstance(said, Grams))
        assert comes_off_g == pytest.approx(off_g, abs=0.01)
        assert of_oil_g + of_lye_g - comes_off_g == pytest.approx(soap.grams)

    def test_what_dries_off_is_water_and_nothing_else(self):
        # 714.338 g poured, 90 % left: 71.434 g of the 150 are gone.
        lines = names(bar_on_day(olive(), (), (), 0.9))
        assert lines["water"].grams == pytest.approx(150 - 71.4338, abs=1e-3)
        assert lines["sodium olivate"].grams == pytest.approx(489.958, abs=1e-3)
        assert lines["sodium olivate"].percent == pytest.approx(100 * 489.958 / 642.904, abs=1e-3)

    def test_more_loss_than_water_is_not_hidden(self):
        assert bar_on_day(olive(), (), (), 0.7).water_g == pytest.approx(150 - 0.3 * 714.338, abs=1e-2)

    def test_as_poured_names_oils_water_and_lye(self):
        lines = names(bar_on_day(olive(), (), (), 0.9), "poured")
        assert list(lines) == ["olive oil", "water", "sodium hydroxide"]
        assert lines["sodium hydroxide"].percent == pytest.approx(100 * 64.338 / 714.338, abs=1e-3)

    def test_the_water_of_a_master_lye_is_water(self):
        # Half of it is water, 64.34 g, and 85.66 g are added: 150 g as ever.
        lines = names(
            bar_on_day(olive(lye={"naoh_purity_percent": 100.0, "master_percent": 50.0}), (), (), 1.0), "poured"
        )
        assert {name: round(line.grams, 2) for name, line in lines.items()} == {
            "olive oil": 500.0, "water": 150.0, "sodium hydroxide": 64.34,
        }  # fmt: skip

    def test_citric_acid_becomes_citrate_and_water(self):
        # 10 g / 192.12 g/mol = 0.0520508 mol take three times as much lye; trisodium citrate 258.07 g/mol (rounded): 13.43 g;
        # water formed 3 x 0.0520508 x 18.015 = 2.813 g on top of what is put in.
        acid = [{"additive": "citric-acid", "by": "weight_g", "value": 10.0, "compensated": True}]
        made = olive(additives=acid)
        lines = names(bar_on_day(made, (), (), 1.0))
        assert "citric acid" not in lines
        assert lines["sodium citrate"].grams == pytest.approx(13.43, abs=0.01)
        assert lines["water"].grams == pytest.approx(made.plain_water_g + 2.813, abs=1e-2)
        assert lines["olive oil"].grams == pytest.approx(25.0, abs=1e-3)

    def test_milk_is_named_for_what_is_not_water(self):
        milk = [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "weight_g", "value": 100.0}]
        lines = names(bar_on_day(olive(liquids=milk), (), (), 1.0))
        # 13 g of it are not water; its 4.1 g of fat gain some lye and lose glycerol as they turn to soap.
        assert 12.5 < lines["goat milk"].grams < 13.5

    def test_two_lyes_make_two_soaps(self):
        lye = {
            "naoh_purity_percent": 100.0,
            "koh": {"by": "saponification_percent", "value": 25, "purity_percent": 100},
        }
        made = composition(weight_formula({"olive-refined": 500.0}, lye=lye))
        lines = names(bar_on_day(made, (), (), 1.0), "inci")
        # 1.608574 mol, a quarter with potassium: 0.4021435 x 56.1056 = 22.563 g on 118.75 - 12.345 g of olive residue.
        assert lines["Potassium Olivate"].grams == pytest.approx(118.75 + 22.5625 - 12.345, abs=1e-2)
        assert lines["Sodium Olivate"].grams == pytest.approx(356.25 + 48.2536 - 37.035, abs=1e-2)

    @given(laden_formulas())
    @settings(max_examples=60, deadline=None)
    def test_nothing_is_lost_and_nothing_counted_twice(self, formula):
        seen = examine(formula, catalogue())
        if any(problem.stops_calculation for problem in seen.problems):
            return
        made = Composition.of_formula(formula, seen.oils)
        if made.lye_mol <= made.consumed_mol:
            return
        bar = bar_on_day(made, (scent("lavender", 12.0),), (), 1.0)
        assert bar.total_g == pytest.approx(made.total_g + 12.0, rel=1e-9)
        assert sum(part.grams for part in bar.parts) == pytest.approx(bar.total_g, rel=1e-9)
        assert sum(part.grams for part in bar.poured) == pytest.approx(bar.total_g, rel=1e-9)


class TestTheList:
    def test_runs_by_weight_with_colours_last(self):
        portion = PortionWeights.model_validate({
            "name": "all", "share_percent": 100, "batter_g": 700, "batter_ml": 700, "hue_degrees": None,
            "colours": [{"colorant": "oxide-red", "name": "Red", "weight_g": 30, "tsp": 1, "disperse_in": "glycerin",
                         "disperse_g": 5}],
        })  # fmt: skip
        bar = bar_on_day(olive(), (scent("spruce-needle", 6.0),), (portion,), 0.9)
        lines = ingredient_lines(bar, "inci", "en", "europe", 100.0)
        assert [line.name for line in lines][:3] == ["Sodium Olivate", "Aqua", "Glycerin"]
        assert [line.name for line in lines][-1] == "CI 77491"
        assert sum(line.grams for line in lines) == pytest.approx(100)
        # The glycerin that wets the colour joins the one that forms.
        assert {line.name: line.percent for line in lines}["Glycerin"] == pytest.approx(
            100 * 54.380 / (0.9 * (714.338 + 41)), abs=1e-3
        )

    def test_each_place_has_its_way_of_writing(self):
        bar = bar_on_day(olive(), (scent("vanilla-type", 6.0),), (), 0.9)
        assert {"Aqua", "Parfum", "Olea Europaea Fruit Oil"} <= set(names(bar, "inci"))
        american = names(bar, "inci", region="north_america")
        assert {"Water", "Fragrance", "Olea Europaea (Olive) Fruit Oil"} <= set(american)

    @pytest.mark.parametrize(
        ("language", "oil", "water"),
        [("de", "Olivenöl", "Wasser"), ("fr", "huile d’olive", "eau"), ("es", "aceite de oliva", "agua")],
    )
    def test_in_other_languages(self, language, oil, water):
        assert {oil, water} <= set(names(bar_on_day(olive(), (), (), 0.9), "poured", language))

    def test_every_oil_has_a_name_in_every_language(self):
        known = json.loads(files("sapolin.data").joinpath("label_names.json").read_text(encoding="utf-8"))
        assert set(known["oils"]) == set(catalogue())
        for group, entries in known.items():
            if group != "about":
                assert all(set(LANGUAGES) <= set(entry) and all(entry.values()) for entry in entries.values()), group

    def test_kinds_of_one_oil_share_a_line(self):
        two = composition(weight_formula({"olive-refined": 300.0, "olive-virgin": 200.0}))
        assert list(names(bar_on_day(two, (), (), 0.9), "poured")).count("olive oil") == 1


SHEETS = {"lavender": {"linalool": 30.0, "limonene": 0.5}, "spruce-needle": {"limonene": 25.0}}


class TestAllergens:
    def told(self, sheets, lavender=7.0, spruce=0.2):
        bar = bar_on_day(olive(), (scent("lavender", lavender), scent("spruce-needle", spruce)), (), 0.9)
        declarable = {id_: (scents()[id_].name, scents()[id_].declarable) for id_ in ("lavender", "spruce-needle")}
        return bar, {one.name: one for one in allergens_of(bar, sheets, declarable)}

    def test_shares_add_up_over_scents(self):
        bar, found = self.told(SHEETS)
        # limonene: 7 x 0.5 % + 0.2 x 25 % = 0.085 g of the bars
        assert found["limonene"].percent == pytest.approx(100 * 0.085 / bar.total_g)
        assert found["limonene"].scents == ("Lavender", "Spruce needle")

    @pytest.mark.parametrize(("grams", "named"), [(0.1, False), (0.5, True)])
    def test_named_from_a_hundredth_of_a_per_cent(self, grams, named):
        _, found = self.told({"lavender": {"linalool": 15.0}, "spruce-needle": {}}, lavender=grams)
        assert found["linalool"].is_named is named

    def test_without_a_sheet_all_it_may_hold_is_named(self):
        _, found = self.told({"spruce-needle": SHEETS["spruce-needle"]})
        assert found["linalool"].percent is None
        assert all(found[name].is_named for name in scents()["lavender"].declarable)

    def test_named_after_the_rest_and_once(self):
        bar, found = self.told(SHEETS)
        lines = ingredient_lines(bar, "inci", "en", "europe", 100.0)
        words = ingredient_text(lines, tuple(found.values()), "inci")
        assert words.endswith("Limonene.")
        assert words.count("Linalool") == 1


class TestNetWeight:
    def bars(self, mean=100.0, bar_spread=0.02, mean_spread=0.0):
        return BarWeight(mean_g=mean, mean_spread=mean_spread, bar_spread=bar_spread, left=0.9, weighings=6)

    def test_minimum_is_kept_by_95_percent_of_the_bars(self):
        net = net_weight(self.bars(), "minimum")
        assert net.at_least_g == pytest.approx(NormalDist(100, 2).inv_cdf(0.05))
        assert net.printed_g == 96

    def test_average_is_the_mean_when_bars_are_alike(self):
        assert net_weight(self.bars(100.4), "average").printed_g == 100

    def test_average_is_less_when_many_are_short(self):
        # Bars of 100 g that differ by 6 g: 2.5 % are under 88.24 g, so 92.74 g would do for the error of 4.5 g; but one in a
        # thousand is under 81.46 g, so 90.46 g for twice the error.
        assert net_weight(self.bars(100, bar_spread=0.06), "average").printed_g == 90
        # By 4 g: 92.16 + 4.5 = 96.66, and 87.64 + 9 = 96.64.
        assert net_weight(self.bars(100, bar_spread=0.04), "average").printed_g == 96

    def test_the_rule_errors(self):
        assert [tolerated_error_g(grams) for grams in (50, 51, 100, 150, 250, 400, 800)] == [
            4.5, 4.5, 4.5, 6.75, 9.0, 12.0, 15.0,
        ]  # fmt: skip

    @pytest.mark.parametrize(
        ("net_g", "error_g"),
        # 9 % up to 50 g, 4.5 g to 100, 4.5 % to 200, 9 g to 300, 3 % to 500, 15 g to a kilogram, 1.5 % above it.
        [(5, 0.45), (50, 4.5), (100, 4.5), (101, 4.545), (200, 9.0), (201, 9.0), (300, 9.0), (301, 9.03), (500, 15.0),
         (501, 15.0), (1000, 15.0), (1001, 15.015), (2000, 30.0)],
    )  # fmt: skip
    def test_where_the_rule_changes(self, net_g, error_g):
        assert tolerated_error_g(net_g) == pytest.approx(error_g)

    @pytest.mark.parametrize(
        ("net_g", "height_mm"), [(50, 2), (50.1, 3), (200, 3), (200.1, 4), (1000, 4), (1000.1, 6), (5000, 6)]
    )
    def test_how_high_its_digits_are(self, net_g, height_mm):
        assert letter_height_mm(net_g) == height_mm

    def test_bars_that_differ_beyond_any_rule_promise_nothing(self):
        assert net_weight(self.bars(100, bar_spread=0.8), "minimum").printed_g == 0
        assert net_weight(self.bars(100, bar_spread=0.8), "average").printed_g == 0

    def test_ounces_never_promise_more(self):
        assert net_words(100, in_ounces=True) == "100 g (3.5 oz)"
        assert net_words(99, in_ounces=True) == "99 g (3.4 oz)"

    def test_weighed_bars_narrow_it(self):
        bar = BarAsCut(sides_mm=(25, 60, 80), wet_g=130, end_fraction=0.88)
        marks = [Weighing(seq=i, mark=str(i), day=day, weight_g=130 * share)
                 for i, (day, share) in enumerate([(0, 1.0), (14, 0.95), (42, 0.905), (80, 0.89)])]  # fmt: skip
        guessed, weighed = bar_weight(bar, (), 200), bar_weight(bar, marks, 200)
        assert weighed.mean_spread < guessed.mean_spread
        assert weighed.mean_g == pytest.approx(130 * 0.885, rel=0.02)
        assert bar_weight(bar, (), 0).left == pytest.approx(1.0)


class TestClaims:
    @pytest.mark.parametrize(
        ("language", "words", "found"),
        [
            ("en", "It heals dry skin", "heals dry skin"), ("en", "Kills germs on contact", "Kills germs"),
            ("en", "ANTIBACTERIAL", "ANTIBACTERIAL"), ("en", "for eczema", "eczema"), ("en", "anti-ageing bar", "anti-ageing"),
            ("en", "chemical-free", "chemical-free"), ("en", "with SPF 30", "SPF 30"), ("en", "organic oils", "organic"),
            ("de", "Heilt trockene Haut", "Heilt trockene Haut"), ("de", "entgiftet die Haut", "entgiftet"),
            ("de", "antibakteriell", "antibakteriell"), ("de", "Bio-Seife", "Bio"), ("de", "ohne Chemie", "ohne Chemie"),
            ("fr", "soigne les peaux sèches", "soigne les peaux sèches"), ("fr", "anti-âge", "anti-âge"),
            ("fr", "savon antibactérien", "antibactérien"), ("es", "cura la piel seca", "cura la piel seca"),
            ("es", "jabón antiséptico", "antiséptico"), ("es", "hidratante", "hidratante"),
        ],
    )  # fmt: skip
    def test_found_with_a_reason(self, language, words, found):
        flags = check_claims(words, [language], NOTHING)
        assert [flag.words for flag in flags] == [found]
        assert words[flags[0].start : flags[0].end] == found
        assert plain(flags[0].reason)

    @pytest.mark.parametrize(
        ("language", "words"),
        [
            ("en", "A mild bar that cleans hands well, made in the valley"), ("en", "Bar of the healthy kitchen"),
            ("en", "cured for six weeks on open trays"), ("de", "Milde Seife für jeden Tag"),
            ("fr", "Un savon doux pour tous les jours"), ("es", "Un jabón suave para cada día"),
        ],
    )  # fmt: skip
    def test_washing_is_left_alone(self, language, words):
        assert [flag.words for flag in check_claims(words, [language], NOTHING) if flag.words != "cured"] == []

    def test_palm_free_goes_by_what_is_in_it(self):
        palm = in_the_bar(composition(weight_formula({"olive-refined": 500.0, "palm": 100.0})), (), ())
        plain_bar = in_the_bar(olive(), (), ())
        shea = in_the_bar(composition(weight_formula({"olive-refined": 500.0, "stearic-acid": 20.0})), (), ())
        told = [check_claims("palm-free", ["en"], bar)[0] for bar in (palm, plain_bar, shea)]
        assert [flag.verdict for flag in told][:2] == ["contradicted", "holds"]
        assert "palm" in plain(told[0].reason)
        assert told[2].verdict in ("check", "holds")

    def test_vegan_natural_unscented_and_nut_free(self):
        oils = {"lard": 300.0, "almond-sweet": 200.0, "coconut": 100.0}
        bar = in_the_bar(composition(weight_formula(oils)), ("vanilla-type",), ("mica-gold",))
        flags = check_claims("vegan, natural, unscented, nut-free, milk-free", ["en"], bar)
        assert [flag.verdict for flag in flags] == ["contradicted"] * 4 + ["holds"]
        assert "coconut" not in plain(flags[3].reason)

    def test_the_lists_are_sound(self):
        lists = json.loads(files("sapolin.data").joinpath("claims.json").read_text(encoding="utf-8"))
        assert set(lists) == set(LANGUAGES)
        kinds = {frozenset(entry["kind"] for entry in entries) for entries in lists.values()}
        assert len(kinds) == 1
        for language, entries in lists.items():
            for entry in entries:
                assert re.compile(entry["words"])
                # What is put in its place says no more than washing.
                instead = entry.get("instead", "")
                assert check_claims(instead, [language], NOTHING) == (), instead


class TestDesign:
    def codes(self, **changes):
        return [one.code for one in design_problems(LabelDesign.model_validate(changes))]

    def test_a_sheet_takes_as_many_as_fit(self):
        box = shaped(LabelDesign(), "box")  # 80 x 55 mm with 4 mm between them
        # 2 x 80 + 4 = 164 of 210; 4 x 55 + 3 x 4 = 232 of 297
        assert (box.sheet.columns, box.sheet.rows, box.sheet.left_mm, box.sheet.top_mm) == (2, 4, 23.0, 32.5)
        assert list(design_problems(box)) == []
        assert usual_sheet(box, "letter").page == "letter"

    def test_a_label_as_large_as_its_page_stands_there_alone(self):
        sheet = usual_sheet(LabelDesign(width_mm=205.0, height_mm=300.0, bleed_mm=0.0), "a4")
        assert (sheet.columns, sheet.rows, sheet.left_mm, sheet.top_mm) == (1, 1, 2.5, 0.0)

    @pytest.mark.parametrize(
        ("changes", "code"),
        [
            ({"width_mm": 3.0}, "label_size"), ({"bleed_mm": -1.0}, "label_bleed"), ({"net_g": 0.0}, "label_net"),
            ({"qr": "own"}, "label_qr_empty"), ({"best_before": "2027-01-01", "last_sale": "2027-02-01"}, "label_dates_cross"),
            ({"sheet": {"columns": 2}}, "sheet_too_many_columns"), ({"sheet": {"rows": 9}}, "sheet_too_many_rows"),
            ({"sheet": {"left_mm": -2.0}}, "sheet_negative"), ({"sheet": {"first": 3}}, "sheet_first"),
        ],
    )  # fmt: skip
    def test_what_cannot_be_printed_is_said(self, changes, code):
        assert code in self.codes(**changes)

    def test_labels_that_are_too_many_for_their_page_say_how_much_they_need(self):
        [beyond] = design_problems(LabelDesign.model_validate({"width_mm": 110.4, "sheet": {"columns": 2}}))
        assert [plain((beyond.params[one],)) for one in ("needed", "room")] == ["221 mm", "210 mm"]

    def test_a_sheet_begun_beyond_its_end_is_told_how_many_places_it_has(self):
        sheet = {"columns": 2, "rows": 3, "first": 7}
        [beyond] = design_problems(LabelDesign.model_validate({"width_mm": 60.0, "height_mm": 40.0, "sheet": sheet}))
        assert (beyond.code, plain((beyond.params["places"],))) == ("sheet_first", "6")

    def test_an_address_that_is_still_to_come_is_open(self):
        [empty] = [one for one in design_problems(LabelDesign(qr="own")) if one.code == "label_qr_empty"]
        assert empty.is_open

    def test_gaps_between_rows_take_room_too(self):
        """A4 is 297 mm high: 5 rows of 55 mm under 5 mm of edge are 280, and 4 gaps of 4.25 mm make 297; of 4.5 mm, 298."""
        sheet = {"columns": 1, "rows": 5, "left_mm": 5.0, "top_mm": 5.0, "gap_x_mm": 0.0}

        def rows_fit(gap_mm: float) -> bool:
            label = {"width_mm": 80.0, "height_mm": 55.0, "sheet": sheet | {"gap_y_mm": gap_mm}}
            return "sheet_too_many_rows" not in self.codes(**label)

        assert rows_fit(4.25)
        assert not rows_fit(4.5)

    @pytest.mark.parametrize(
        ("changes", "field"),
        [
            ({"height_mm": 0.0, "bleed_mm": 0.0}, "height_mm"),
            ({"width_mm": -80.0}, "width_mm"),
            ({"width_mm": 1e300}, "width_mm"),
            ({"height_mm": 30.0, "bleed_mm": -15.0}, "bleed_mm"),
        ],
    )
    def test_no_sheet_for_a_label_that_cannot_be_drawn(self, changes, field):
        with pytest.raises(FormulaError) as refused:
            usual_sheet(LabelDesign(**changes), "a4")
        assert [problem.path for problem in refused.value.problems] == [field]

    def test_six_millimetres_stay_free_at_either_end(self):
        """297 mm less twice 6 take three of 91 mm with 4 mm between them, 281 mm; of 94 mm, 290, they do not."""
        rows = [usual_sheet(LabelDesign(width_mm=80.0, height_mm=high), "a4").rows for high in (91.0, 92.3, 92.4, 94.0)]
        assert rows == [3, 3, 2, 2]

    def test_three_round_labels_stand_beside_each_other_on_letter(self):
        """60 mm with 4 mm between them: (215.9 - 188) / 2 = 13.95 mm at the side, (279.4 - 252) / 2 = 13.7 above."""
        sheet = shaped(LabelDesign(sheet=SheetLayout(page="letter")), "round").sheet
        assert (sheet.columns, sheet.rows, sheet.gap_x_mm, sheet.gap_y_mm) == (3, 4, 4.0, 4.0)
        assert (sheet.left_mm, sheet.top_mm) == (pytest.approx(13.95, abs=0.0501), 13.7)
        assert sheet.left_mm * 10 == pytest.approx(round(sheet.left_mm * 10))

    @pytest.mark.parametrize(
        ("width", "is_one"), [(14.9, False), (15.0, True), (400.0, True), (400.1, False)]
    )  # fmt: skip
    def test_how_large_a_label_may_be(self, width, is_one):
        said = self.codes(width_mm=width, height_mm=20.0)
        assert ("label_size" not in said) is is_one

    def test_a_usual_sheet_is_always_possible(self):
        for shape in ("wrap", "box", "round", "tray", "shelf"):
            for page in ("a4", "letter"):
                design = shaped(LabelDesign(sheet=SheetLayout(page=page)), shape)
                assert list(design_problems(design)) == [], (shape, page)


def test_what_was_put_into_diluted_soap_is_in_the_bottle():
    bottle = diluted_on_day([], {("preservative", "phenoxyethanol-glycol"): 5.0, ("scent", "lavender"): 2.5})
    assert [(part.id, part.grams) for part in bottle.parts] == [("phenoxyethanol-glycol", 5.0), ("lavender", 2.5)]
    assert (bottle.total_g, bottle.poured_g) == (7.5, 7.5)
