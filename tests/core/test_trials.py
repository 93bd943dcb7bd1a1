"""Changes in words, trial sets of single changes, and comparisons as files."""

import csv
import io

import pytest

from core.strategies import weight_formula
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.blend import oil_shares
from sapolin.core.formula.changes import changes_between
from sapolin.core.formula.cost import oil_cost
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.trial_set import trial_set
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.core.trials.trial import as_test_batch
from sapolin.demo import world
from sapolin.exchange.comparison import Column, comparison_csv, comparison_pdf, comparison_rows

GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}


PRICES = {"olive-refined": 6.0, "coconut": 5.0, "palm": 3.0, "shea": 9.0, "castor": 8.0, "lard": 4.0}
TENTH_KOH = {"by": "saponification_percent", "value": 10.0, "purity_percent": 90.0}


def told_changes(before: Formula, after: Formula) -> tuple[str, ...]:
    return tuple(plain(change) for change in changes_between(before, after))


class TestChanges:
    def test_nothing_changed(self):
        assert changes_between(weight_formula(GUEST), weight_formula(GUEST)) == ()

    def test_the_demo_history_reads_well(self):
        second, third = world.formula("hut-guest-bar.2"), world.formula("hut-guest-bar.3")
        changes = told_changes(second, third)
        assert "Shea butter in at 5 %" in changes
        assert any(change.startswith("Coconut ") and "→" in change for change in changes)

    @pytest.mark.parametrize(
        ("changed", "said"),
        [
            ({"superfat_percent": 7.0}, "superfat 5 % → 7 %"),
            ({"water": {"by": "percent_of_oils", "value": 33.0}}, "water 33 % of oils"),
            ({"lye": {"naoh_purity_percent": 97.0}}, "NaOH purity 99 % → 97 %"),
            (
                {"lye": {"naoh_purity_percent": 99.0, "koh": TENTH_KOH}},
                "KOH 10 % of the saponification",
            ),
            (
                {"additives": [{"additive": "citric-acid", "by": "percent_of_oils", "value": 1.0, "compensated": True}]},
                "Citric acid, anhydrous in: 1 % of oils, lye added back",
            ),
            (
                {"liquids": [{"liquid": "goat-milk", "use": "at_trace", "by": "percent_of_water", "value": 30.0}]},
                "Goat milk in: 30 % of the water, at trace",
            ),
            ({"purpose": "face"}, "made for face"),
            ({"purpose": "liquid-soap"}, "made for liquid and soft soap"),
            ({"free_of": ["palm"]}, "without palm"),
            ({"process": {"gel": "prevented"}}, "cold process, gel prevented"),
        ],
    )  # fmt: skip
    def test_each_kind_of_change(self, changed, said):
        assert said in told_changes(weight_formula(GUEST), weight_formula(GUEST, **changed))

    def test_what_was_in_beside_the_oils_goes_out_or_is_told_at_its_new_amount(self):
        def beside(milk: float | None, sugar: float | None) -> Formula:
            use = {"liquid": "goat-milk", "use": "at_trace", "by": "percent_of_water"}
            liquids = [] if milk is None else [{**use, "value": milk}]
            rate = {"additive": "sugar", "by": "percent_of_oils"}
            return weight_formula(GUEST, liquids=liquids, additives=[] if sugar is None else [{**rate, "value": sugar}])

        assert told_changes(beside(30.0, 1.0), beside(None, None)) == ("Goat milk out", "Sugar out")
        milk, sugar = told_changes(beside(30.0, 1.0), beside(20.0, 1.5))
        assert milk.startswith("Goat milk")
        assert "20 % of the water" in milk
        assert "1.5 % of oils" in sugar

    def test_an_oil_in_and_one_out(self):
        other = {**GUEST, "lard": GUEST["palm"]}
        del other["palm"]
        changes = told_changes(weight_formula(GUEST), weight_formula(other))
        assert changes == ("Lard in at 30 %", "Palm out, from 30 %")

    def test_an_own_material_is_called_by_its_name_unless_it_is_not_sound(self):
        def told(sap: float) -> tuple[str, ...]:
            content = {"kind": "sap", "sap_koh_mg_per_g": sap, "solid_at_20_c": True}
            own = {"id": "own-hut", "name": "Hut fat", "content": content}
            other = {**GUEST, "own-hut": GUEST["palm"]}
            del other["palm"]
            return told_changes(weight_formula(GUEST), weight_formula(other, materials=[own]))

        assert told(195.0) == ("Hut fat in at 30 %", "Palm out, from 30 %")
        assert told(1950.0) == ("own-hut in at 30 %", "Palm out, from 30 %")

    def test_the_weight_of_the_batch_is_told_in_the_unit_of_the_maker(self):
        double = {oil: 2 * grams for oil, grams in GUEST.items()}
        (change,) = changes_between(weight_formula(GUEST), weight_formula(double))
        assert plain(change) == "oils 1\u00a0000 g → 2\u00a0000 g"
        assert plain(change, "lb") == "oils 2.205 lb → 4.409 lb"


class TestTrialSet:
    def test_an_oil_at_trace_stays_there_in_every_trial(self):
        base = weight_formula(GUEST)
        lines = tuple(
            line.model_copy(update={"added": "at_trace" if line.oil == "olive-refined" else "start"})
            for line in base.blend.lines
        )
        late = base.model_copy(update={"blend": base.blend.model_copy(update={"lines": lines})})
        for trial in trial_set(late):
            assert {line.oil: line.added for line in trial.formula.blend.lines}["olive-refined"] == "at_trace"

    @pytest.mark.parametrize(
        ("percent", "found"),
        [(25.0, {"water+4"}), (26.0, {"water+4", "water-4"}), (38.0, {"water+4", "water-4"}), (39.0, {"water-4"})],
    )
    def test_lye_is_tried_from_22_to_42_percent(self, percent, found):
        base = weight_formula(GUEST, water={"by": "lye_concentration_percent", "value": percent})
        assert {trial.id for trial in trial_set(base)} & {"water+4", "water-4"} == found

    def test_a_change_that_cannot_be_leaves_the_others(self):
        # A master lye of 33 % brings 2.03 times the lye in water, so there may not be four points less of it.
        lye = {"naoh_purity_percent": 99.0, "master_percent": 33.0}
        found = {
            trial.id for trial in trial_set(weight_formula(GUEST, lye=lye, water={"by": "water_to_lye", "value": 2.2}))
        }
        every = {trial.id for trial in trial_set(weight_formula(GUEST))}
        assert every - found == {"water+4"}

    def test_every_trial_differs_from_the_base_in_one_thing(self):
        base = weight_formula(GUEST)
        trials = trial_set(base)
        assert trials[0].id == "base"
        assert len(trials) >= 6
        small = trials[0].formula
        for trial in trials[1:]:
            changes = told_changes(small, trial.formula)
            kinds = {change.split()[0] for change in changes if not change.startswith("named")}
            allowed = 2 if trial.id.startswith("trade") else 1
            assert len(kinds) == allowed, trial.change
            assert trial.result.total_oils_g == pytest.approx(500)
            assert trial.result == calculate(trial.formula)


@pytest.mark.parametrize(
    ("shares", "named"), [({"hemp": 5.0}, "Hemp seed"), ({"palm": 5.0, "unheard-of": 5.0}, "unheard-of"),
                          ({"hemp": 5.0, "lard": 5.0}, "Hemp seed")],
)  # fmt: skip
def test_an_oil_that_is_not_in_the_blend_is_named(shares, named):
    with pytest.raises(FormulaError) as refused:
        as_test_batch(weight_formula(GUEST), shares, "other")
    assert [(one.code, one.params["oil"]) for one in refused.value.problems] == [("oil_not_in_blend", named)]


def test_a_test_batch_keeps_the_tags_of_its_formula_and_is_a_trial_once():
    formula = weight_formula(GUEST, tags=["mild", "trial", "gifts"])
    assert as_test_batch(formula, {"palm": 30.0}, "as it is").tags == ("mild", "gifts", "trial")


class TestComparison:
    def columns(self) -> list[Column]:
        lard = {**GUEST, "lard": 300.0, "palm": 0.0}
        del lard["palm"]
        formulas: list[tuple[str, Formula]] = [("=palm", weight_formula(GUEST)), ("lard", weight_formula(lard))]
        return [
            Column(
                label=label,
                result=calculate(formula),
                diagnostics=report(formula).diagnostics,
                cost=oil_cost(oil_shares(formula.blend, catalogue()), PRICES),
            )
            for label, formula in formulas
        ]

    def test_rows_say_what_differs(self):
        rows = {row.name: row for row in comparison_rows(self.columns())}
        assert rows["Palm"].values == (30.0, None)
        assert rows["Palm"].differs
        assert not rows["Coconut"].differs
        assert rows["NaOH"].values[0] == pytest.approx(calculate(weight_formula(GUEST)).lye.naoh_g, abs=0.006)
        assert "KOH" not in rows
        # .34 x 6 + .30 x 3 + .26 x 5 + .05 x 9 + .05 x 8 = 5.09; lard at 4 for palm at 3: 5.39
        assert rows["Oils, per kg"].values == (5.09, 5.39)

    def test_csv_reads_back_and_is_no_formula_to_a_spreadsheet(self):
        read = list(csv.DictReader(io.StringIO(comparison_csv(self.columns()))))
        hardness = next(row for row in read if row["quantity"] == "Hardness")
        assert float(hardness["'=palm"]) == pytest.approx(43.1, abs=0.05)
        assert hardness["differs"] == "yes"

    def test_the_pdf_is_one(self):
        content = comparison_pdf(self.columns())
        assert content.startswith(b"%PDF-")
        assert len(content) > 3000
