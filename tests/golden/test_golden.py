"""Answers that must stay: 500 formulas and 100 batches, seeded once, with what the first edition of Sapolin made of them.

The file holds documents of version 1 beside the quantities calculated from them then, so that it holds the readers of
version 1 to their word too. Lye, superfat and weights agree to 1e-9 of their size.
"""

import gzip
import json
from functools import cache
from pathlib import Path
from typing import Any

import pytest

from sapolin.core.bar.calculation import calculate
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.formula.document import Formula
from sapolin.core.formula.version_1 import formula_from_version_1, plan_from_version_1
from sapolin.core.materials.catalogue import Catalogue, Oil, catalogue
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.optimise.solve import SolveQuestion, Target, answer_solve
from sapolin.core.production.actual import actual_batch
from sapolin.core.quantities.coefficients import coefficient_values
from sapolin.core.quantities.tables import tables_as

FILE = Path(__file__).parent / "golden.json.gz"
ESTIMATED_OTHERWISE = ("interval", "expected", "peak")
"""How sure the superfat is: listed values are the estimate since, and spread by a third of half their range. What to expect of
a bar, at fixed ages and never against itself; the peak of the lye, with tables of its own for strong lye and for KOH."""
AS_THEN = {"batter.oil_expansion": 0.0, "batter.solution_expansion": 0.0}
"""Batter was not warm then."""
DENSITIES_THEN = {"stearic-acid": 0.94, "palmitic-acid": 0.94, "lauric-acid": 0.94, "myristic-acid": 0.94, "beeswax": 0.96,
                  "candelilla": 0.98, "carnauba": 0.99, "rice-bran-wax": 0.97, "lanolin": 0.94}  # fmt: skip
"""g/mL: of the solid fat, not of the melt that is poured."""

EXPLAINED = {
    # 2032.5 g were entered: a tie of rounding, which went by the noise of a division that is not made any more.
    "seed 64.weights[0]: 2032.0 is now 2033.0",
    "seed 64.weights[1]: 114.0 is now 113.0",
}
"""Every difference there is, with its reason."""
SOY_WAX_MELTS = {"seed 10008.window[0]: 54.0 is now 70.0", "seed 10008.window[1]: 59.5 is now 75.5"}
"""Fully hydrogenated soy melts at 68 °C; 52 °C is what its softer cousin melts at, which has a row of its own since."""


@cache
def golden() -> Any:
    return json.loads(gzip.decompress(FILE.read_bytes()))


def results_of(result: Any) -> dict[str, Any]:
    """The result of a calculated formula, by names that outlast any renaming."""
    lye, bar = result.lye, result.bar
    return {
        "lye": [lye.naoh_g, lye.koh_g, lye.naoh_pure_g, lye.koh_pure_g, lye.koh_share_percent, lye.koh_weight_percent],
        "superfat": [lye.superfat_total_percent, lye.superfat_as_weighed_percent],
        "water": [result.water.water_g, result.water.plain_water_g, result.water.lye_concentration_percent],
        "batter": [result.batter_g, result.total_oils_g],
        "oils": [oil.weight_g for oil in result.oils],
        "others": [item.weight_g for item in (*result.liquids, *result.additives)],
        "qualities": [value for one in result.qualities for value in (one.points, one.low, one.high)],
        "indices": [result.indices.iodine_value, result.indices.ins, result.indices.saturated_percent],
        "expected": None if bar is None else [
            bar.firmness_at_unmould, bar.firmness_after_cure, bar.firmness_at_best, bar.unmould_hours_low,
            bar.unmould_hours_high, bar.usable_weeks, bar.best_weeks, bar.shelf_months, bar.trace_points,
        ],
        "weights": [
            *result.weights.oils, result.weights.naoh, result.weights.koh, result.weights.water,
            *result.weights.liquids, *result.weights.additives, result.weights.batter,
        ],
    }  # fmt: skip


def batch_results(planned: Any) -> dict[str, Any]:
    """The result of a planned batch."""
    return results_of(planned.result) | {
        "volume": [planned.volume.total_ml, planned.volume.density_g_per_ml, planned.volume.cured_fraction],
        "size": [planned.size.oils_g, planned.size.batter_g, planned.size.over_ml, planned.size.short_ml],
        "moulds": [
            value for fill in planned.moulds
            for value in (fill.batter_g, fill.height_mm, *(v for cut in fill.cuts for v in (cut.bars, cut.wet_g, cut.cured_g)))
        ],
        "peak": [planned.lye_peak.low_c, planned.lye_peak.high_c],
        "window": [planned.window.low_c, planned.window.high_c],
        "ounces": [*planned.ounces.oils, planned.ounces.naoh, planned.ounces.water],
        "targets": {target.item: [target.target_g, target.tolerance_g] for target in weigh_targets(planned)},
    }  # fmt: skip


def actual_results(made: Any) -> dict[str, Any]:
    """The result of a weighed batch."""
    result = made.result
    return {
        "superfat": made.superfat_percent,
        "shares": list(made.shares_percent),
        "result": None if result is None else {
            name: value for name, value in results_of(result).items() if name not in ("weights",)
        },
    }  # fmt: skip


def differences(was: Any, now: Any, path: str = "") -> list[str]:
    """Where `now` differs from `was` by more than 1e-9 of its size."""
    if isinstance(was, dict):
        compared = was.keys() - {*ESTIMATED_OTHERWISE}
        assert compared == now.keys() - {*ESTIMATED_OTHERWISE}, path
        return [found for key in compared for found in differences(was[key], now[key], f"{path}.{key}")]
    if isinstance(was, list):
        if len(was) != len(now):
            return [f"{path}: {was} is now {now}"]
        return [found for i in range(len(was)) for found in differences(was[i], now[i], f"{path}[{i}]")]
    if isinstance(was, float) or isinstance(now, float):
        agrees = now is not None and was is not None and abs(was - now) <= 1e-9 * max(1.0, abs(was))
        return [] if agrees else [f"{path}: {was} is now {now}"]
    return [] if was == now else [f"{path}: {was} is now {now}"]


SAP_THEN = {"palm-kernel": 245.0, "mango": 189.0, "kokum": 190.0, "moringa": 189.0, "baobab": 194.0, "black-cumin": 193.0,
            "andiroba": 195.0, "babassu": 248.0, "coconut-virgin": 257.0}  # fmt: skip
"""mg KOH/g, which lay more than 1 % above what the composition of the row gives."""


def oil_then(oil: Oil) -> Oil:
    sap = oil.sap_koh_mg_per_g
    return oil.model_copy(update={
        "density_g_per_ml": DENSITIES_THEN.get(oil.id, oil.density_g_per_ml),
        "sap_koh_mg_per_g": sap.model_copy(update={"typical": SAP_THEN.get(oil.id, sap.typical)}),
    })  # fmt: skip


def tables_then() -> dict[str, Any]:
    """What has another value since."""
    oils = Catalogue(tuple(oil_then(oil) for oil in catalogue().values()))
    return {"coefficients": coefficient_values() | AS_THEN, "oils": oils}


def comparable(results: dict[str, Any], formula: Formula) -> dict[str, Any]:
    """The quantities that are meant to be as before: the fat of liquids counts among the fatty acids since, and every acid of
    one double bond among what turns rancid; what is cooked next meets its lye warmer."""
    has_fat = any(liquids()[line.liquid].fat_like for line in formula.liquids)
    left_out = ("qualities", "indices") if has_fat else ()
    if formula.process.method == "hot":
        left_out = (*left_out, "window")
    kept = {name: value for name, value in results.items() if name not in left_out}
    if "qualities" in kept:
        kept["qualities"] = kept["qualities"][:-3]
    return kept


def test_five_hundred_formulas_calculate_as_before() -> None:
    found = []
    for entry in golden()["formulas"]:
        formula = Formula.model_validate(formula_from_version_1(entry["document"]))
        with tables_as(tables_then()):
            result = calculate(formula)
        was, now = (comparable(results, formula) for results in (entry["results"], results_of(result)))
        found += [f"seed {entry['seed']}{difference}" for difference in differences(was, now)]
    assert set(found) == EXPLAINED, found[:20]


def test_a_hundred_batches_plan_and_weigh_as_before() -> None:
    found, compared = [], 0
    for entry in golden()["batches"]:
        plan = BatchPlan.model_validate(plan_from_version_1(entry["plan"]))
        dry = any(additives()[line.additive].role in ("salt", "sugar") for line in plan.formula.additives)
        if dry and plan.size.by == "bars":
            continue  # Salt and sugar hold no water in a cured bar since, so another batter makes so many bars.
        compared += 1
        with tables_as(tables_then()):
            planned = plan_batch(plan)
            made = actual_results(actual_batch(planned, entry["weights"]))
        was, now = (comparable(results, plan.formula) for results in (entry["results"], batch_results(planned)))
        # One bar more and one fewer share what trims, their cuts and the fill of a tube really leave since.
        trimmed = any(use.mould.shape.kind == "cylinder" or (use.cut and use.cut.trim_mm) for use in plan.moulds)
        if dry or trimmed:
            was, now = ({**one, "moulds": []} for one in (was, now))
        if dry:
            was, now = ({**one, "volume": one["volume"][:2]} for one in (was, now))
        found += [f"seed {entry['seed']}{one}" for one in differences(was, now)]
        if made["result"] is not None and entry["actual"]["result"] is not None:
            was, now = (comparable(one["result"], plan.formula) for one in (entry["actual"], made))
            found += [f"seed {entry['seed']} actual.result{one}" for one in differences(was, now)]
        was, now = ({**one, "result": one["result"] is None} for one in (entry["actual"], made))
        found += [f"seed {entry['seed']} actual{one}" for one in differences(was, now)]
    assert set(found) == SOY_WAX_MELTS, found[:20]
    assert compared > 90


def formula() -> Formula:
    """The bar that the questions are about."""
    return Formula.model_validate({
        "name": "Golden",
        "blend": {"total_oils_g": 1000.0, "lines": [
            {"oil": "olive-refined", "value": 35.0}, {"oil": "palm", "value": 30.0}, {"oil": "coconut", "value": 25.0},
            {"oil": "shea", "value": 5.0}, {"oil": "castor", "value": 5.0},
        ]},
        "lye": {"naoh_purity_percent": 99.0}, "superfat_percent": 5.0,
        "water": {"by": "lye_concentration_percent", "value": 33.0},
    })  # fmt: skip


@pytest.mark.parametrize(
    "was", [one for one in golden()["questions"] if "solve" in one], ids=lambda one: str(one["miss"])
)
def test_what_could_be_met_is_met_still(was: dict[str, Any]) -> None:
    """Other blends are chosen since: such as makers pour, and not at the very ends of their ranges."""
    targets = tuple(Target.model_validate(target) for target in was["solve"])
    best = answer_solve(SolveQuestion(formula=formula(), pool=tuple(was["pool"]), targets=targets)).solutions[0]
    assert (best.status, best.miss) == (was["status"], pytest.approx(was["miss"], abs=1e-6))
