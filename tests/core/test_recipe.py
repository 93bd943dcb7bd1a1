"""Recipes as people write them down: read by their amounts and names, and never guessed."""

import pytest

from core.strategies import codes_of
from sapolin.core.formula.recipe import RecipeOil, formula_of_recipe, read_recipe
from sapolin.core.materials.catalogue import catalogue

OZ, LB = 28.349523125, 453.59237

# What is written, and what it says: oil (None while the maker has to choose) and amount, g or %.
RECIPES = {
    "Coconut oil 300 g\nPalm oil 300 g\nCastor oil 50 g": [("coconut", 300), ("palm", 300), ("castor", 50)],
    "12 oz coconut, 2 lb lard": [("coconut", 12 * OZ), ("lard", 2 * LB)],
    "300g coconut oil; 200g lard; 25g castor": [("coconut", 300), ("lard", 200), ("castor", 25)],
    "- 1 lb 3 oz beef tallow\n- 8 oz coconut": [("tallow-beef", LB + 3 * OZ), ("coconut", 8 * OZ)],
    "• Shea butter: 50 g\n• Cocoa butter: 60 g": [("shea", 50), ("cocoa", 60)],
    "coconut 25%\nlard 70%\ncastor 5%": [("coconut", "25%"), ("lard", "70%"), ("castor", "5%")],
    "25 % coconut, 70 % lard, 5 % castor": [("coconut", "25%"), ("lard", "70%"), ("castor", "5%")],
    "1/2 lb palm kernel oil": [("palm-kernel", 0.5 * LB)],
    "1 1/2 lb lard": [("lard", 1.5 * LB)],
    "1½ lb lard": [("lard", 1.5 * LB)],
    "½ kg canola": [("canola", 500)],
    "1,5 kg soybean oil": [("soybean", 1500)],
    "1,250 g lard": [("lard", 1250)],
    "1 250 g lard": [("lard", 1250)],
    "1'250 g lard": [("lard", 1250)],
    "1.234,5 g lard": [("lard", 1234.5)],
    "1.250 kg lard": [("lard", 1250)],
    "28.219 oz lard": [("lard", 28.219 * OZ)],
    "33.333 % lard, 66,667 % coconut": [("lard", "33.333%"), ("coconut", "66.667%")],
    "0.75kg Sesame oil": [("sesame", 750)],
    "Sweet almond oil (100 grams)": [("almond-sweet", 100)],
    "avocado oil – 80 g": [("avocado", 80)],
    "grapeseed oil = 40 g": [("grapeseed", 40)],
    "Hemp seed oil 60 gr": [("hemp", 60)],
    "hemp oil 60 g": [("hemp", 60)],
    "60 grammes of castor oil": [("castor", 60)],
    "2 pounds of lard and 1 pound of coconut oil": [("lard", 2 * LB), ("coconut", LB)],
    "lard 500 g + coconut 200 g": [("lard", 500), ("coconut", 200)],
    "MANGO BUTTER 45 G": [("mango", 45)],
    "jojoba 10 g": [("jojoba", 10)],
    "beeswax 8 g": [("beeswax", 8)],
    "groundnut oil 90 g": [("peanut", 90)],
    "maize oil 70 g": [("corn", 70)],
    "linseed oil 20 g": [("flax", 20)],
    "karite 30 g": [("shea", 30)],
    "filbert oil 35 g": [("hazelnut", 35)],
    "Apricot kernel oil, 75 g": [("apricot-kernel", 75)],
    "10 ounces babassu": [("babassu", 10 * OZ)],
    "cotton seed oil 44 g": [(None, 44)],
    "olive oil 400 g": [(None, 400)],
    "olive 40 %, coconut 30 %, shea 30 %": [(None, "40%"), ("coconut", "30%"), ("shea", "30%")],
    "cocnut oil 300 g": [(None, 300)],
    "tallow 500 g": [(None, 500)],
    "soy wax 30 g": [(None, 30)],
    "sunflower 100 g": [("sunflower", 100)],
    "high oleic sunflower oil 100 g": [("sunflower-high-oleic", 100)],
    "extra virgin olive oil 400 g": [("olive-virgin", 400)],
    "pomace olive oil 300 g": [("olive-pomace", 300)],
    "rice bran oil 150g\nneem oil 20g": [("rice-bran", 150), ("neem", 20)],
    "duck fat 200 g": [("duck-fat", 200)],
    "kokum butter 3.5 oz": [("kokum", 3.5 * OZ)],
    "stearic acid, plant 15 g": [("stearic-acid", 15)],
    "12 oz (340 g) coconut oil": [("coconut", 12 * OZ)],
    "454 g / 16 oz lard": [("lard", 454)],
    "1 lb 4 oz (567 g) lard": [("lard", LB + 4 * OZ)],
    "1.5 lb (24 oz) (680 g) lard": [("lard", 1.5 * LB)],
    "1 lb (16 oz) lard 30%": [("lard", LB)],
    "My bar\n\ncoconut 100 g\n\nlard 300 g\n": [("coconut", 100), ("lard", 300)],
}


@pytest.mark.parametrize("text", RECIPES)
def test_amounts_and_names(text):
    read = [line for line in read_recipe(text, catalogue()).lines if line.kind == "oil"]
    expected = RECIPES[text]
    assert [line.oil for line in read] == [oil for oil, _ in expected]
    for line, (_, amount) in zip(read, expected, strict=True):
        if isinstance(amount, str):
            assert (line.unit, line.amount) == ("percent", float(amount.removesuffix("%")))
        else:
            assert line.unit == "g"
            assert line.amount == pytest.approx(amount, abs=1e-3)


def test_there_are_at_least_forty():
    assert len(RECIPES) >= 40


@pytest.mark.parametrize(
    ("name", "among"),
    [
        ("olive oil", {"olive-virgin", "olive-refined", "olive-pomace"}), ("cocnut oil", {"coconut"}),
        ("tallow", {"tallow-beef", "tallow-mutton"}), ("soy wax", {"soy-wax", "soy-wax-soft"}), ("shae buter", {"shea"}),
        ("caster oil", {"castor"}), ("cotton seed oil", {"cottonseed"}),
    ],
)  # fmt: skip
def test_what_is_not_one_oil_alone_is_suggested_and_not_chosen(name, among):
    line = read_recipe(f"{name} 100 g", catalogue()).lines[0]
    assert line.oil is None
    assert among <= {one.oil for one in line.suggestions}


@pytest.mark.parametrize(
    ("written", "superfat"),
    [("SF 6", 6.0), ("superfat: 5", 5.0), ("lye discount 7,5", 7.5), ("5% superfat", 5.0), ("superfat 5 to 8", None),
     ("superfat as usual", None)],
)  # fmt: skip
def test_a_superfat_that_is_written_counts_with_and_without_its_sign(written, superfat):
    assert read_recipe(f"lard 500 g\n{written}", catalogue()).superfat_percent == superfat


def test_lye_water_and_superfat_are_told_apart():
    read = read_recipe("lard 500 g\nlye 68 g\nNaOH 70 g\ndistilled water 150 g\nsuperfat 6 %", catalogue())
    assert [line.kind for line in read.lines] == ["oil", "lye", "lye", "water", "superfat"]
    assert read.superfat_percent == 6.0


@pytest.mark.parametrize("text", ["lavender essential", "mix well and pour", "coconut", "unobtainium 30 g", "30 g"])
def test_what_cannot_be_read_stays_as_it_was_written(text):
    line = read_recipe(text, catalogue()).lines[0]
    assert (line.kind, line.text) == ("unread", text)


@pytest.mark.parametrize("text", ["", "   \n\n", "1/0 lb lard", ", , ,", "%%%", "9" * 400 + " g lard"])
def test_odd_input_is_no_error(text):
    read_recipe(text, catalogue())


def test_a_formula_of_it_lacks_its_purity_alone():
    oils = [RecipeOil(oil="lard", amount=500.0, unit="g"), RecipeOil(oil="coconut", amount=200.0, unit="g"),
            RecipeOil(oil="lard", amount=100.0, unit="g")]  # fmt: skip
    formula = formula_of_recipe("From paper", oils, 6.0)
    assert [(line.oil, line.value) for line in formula.blend.lines] == [("lard", 600.0), ("coconut", 200.0)]
    assert formula.superfat_percent == 6.0
    assert codes_of(formula) == ["missing"]


@pytest.mark.parametrize(
    ("written", "why"),
    [("1.250 g lard", "ambiguous"), ("milk 200 g", "no_fat"), ("vegetable oil 20 %", "no_fat"), ("tea tree oil 15 g", "no_fat"),
     ("2 tsp clay", "no_amount"), ("palm 300", "no_amount"), ("30 g", "no_name")],
)  # fmt: skip
def test_what_holds_an_amount_and_is_not_read_waits_for_its_maker(written, why):
    (line,) = read_recipe(written, catalogue()).lines
    assert (line.kind, line.why, line.holds_an_amount, line.oil) == ("unread", why, True, None)


def test_a_butter_is_not_taken_for_the_oil_of_its_name():
    (line,) = read_recipe("avocado butter 100 g", catalogue()).lines
    assert (line.oil, [one.oil for one in line.suggestions]) == (None, ["avocado"])


def test_what_the_paper_says_of_its_lye_is_kept():
    lines = read_recipe("lard 500 g\nKOH 90 % 120 g\nNaOH 20 g", catalogue()).lines
    assert [line.lye for line in lines] == [None, "koh", "naoh"]
    oils = [RecipeOil(oil="lard", amount=500.0, unit="g")]
    formula = formula_of_recipe("Paste", oils, None, is_koh=True, notes="KOH 90 % 120 g")
    assert formula.lye.koh is not None
    assert (formula.lye.koh.value, formula.lye.koh.purity_percent, formula.notes) == (100.0, None, "KOH 90 % 120 g")
    assert codes_of(formula) == ["missing"]


def test_shares_stay_shares():
    formula = formula_of_recipe("Shares", [RecipeOil(oil="lard", amount=75.0, unit="percent"),
                                           RecipeOil(oil="coconut", amount=25.0, unit="percent")], None)  # fmt: skip
    assert [line.by for line in formula.blend.lines] == ["percent_of_oils"] * 2
    assert formula.blend.total_oils_g == 1000.0
    assert formula.superfat_percent == 5.0


def test_two_weights_of_a_line_that_contradict_each_other_are_not_read():
    (line,) = read_recipe("12 oz (300 g) coconut oil 30%", catalogue()).lines
    assert (line.kind, line.amount, line.unit) == ("unread", None, None)


def test_what_stands_after_the_last_line_that_is_read_is_not_lost():
    lines = read_recipe("\n".join(["lard 10 g"] * 60 + ["coconut 20 g"]), catalogue()).lines
    assert [line.kind for line in lines] == ["oil"] * 60 + ["unread"]
    assert lines[-1].text == "coconut 20 g"
