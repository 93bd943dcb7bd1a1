"""The batch as it was really weighed: its formula, its true superfat and its qualities beside the plan."""

from collections.abc import Mapping, Sequence

from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.formula.document import AdditiveLine, Formula, Koh, LiquidLine, Water, WeightBlend, WeightLine
from sapolin.core.formula.lye import CausticCheckError, hydroxide_mol
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.fatty_acids import KOH_G_PER_MOL
from sapolin.core.materials.ingredients import additives, liquids, lye_consumers
from sapolin.core.materials.own import with_materials
from sapolin.core.production.record import RunState
from sapolin.core.quantities.diagnostics import FormulaError, Problem
from sapolin.core.quantities.model import Model

__all__ = ["ActualBatch", "actual_batch", "expected_g", "formula_as_weighed", "weights_g", "with_cups"]


class ActualBatch(Model):
    """The batch as weighed, what is not weighed yet at its target."""

    formula: Formula | None
    """Null when no such formula can be calculated."""
    result: FormulaResult | None
    superfat_percent: float
    """As a formula states it: of the oils that meet the lye, what was added back for acids set aside. Below 0 there is more
    lye than they can take."""
    shares_percent: tuple[float, ...]
    planned_shares_percent: tuple[float, ...]
    problems: tuple[Problem, ...]
    """Why it cannot be calculated."""


def with_cups(planned: PlannedBatch, weights: Mapping[str, float]) -> dict[str, float]:
    """Weights by item with what is set aside in cups back where it was taken from: in the end all of it is in the pot."""
    whole = dict(weights)
    for cup in planned.cups:
        if cup.source != "glycerin":
            whole[cup.source] = whole.get(cup.source, 0.0) + whole.get(cup.item, 0.0)
    return whole


def weights_g(targets: Mapping[str, float], captured: Mapping[str, float]) -> dict[str, float]:
    """What is in the pot, or will be: weights as captured, targets for the rest."""
    return {item: captured.get(item, target) for item, target in targets.items()}


def expected_g(state: RunState) -> dict[str, float]:
    """What the pot will hold if the work goes on: what is still short of its target, and not accepted so, is topped up."""
    standing = {
        item: grams
        for item, grams in state.captured_g.items()
        if item in state.settled or grams > state.targets_g.get(item, 0.0)
    }
    return weights_g(state.targets_g, standing)


def formula_as_weighed(planned: PlannedBatch, weights: Mapping[str, float], base: Catalogue | None = None) -> Formula:
    """The formula that `weights` (g by item) amount to; its superfat follows from the lye that is really there.

    Lye that the first oils cannot take goes on to those added later, so then all of them meet it.
    """
    formula = planned.formula
    weights = with_cups(planned, weights)
    oils = with_materials(catalogue() if base is None else base, formula.materials)
    lines = tuple(
        WeightLine(oil=line.oil, locked=line.locked, added=line.added, weight_g=weights[f"oil:{i}"])
        for i, line in enumerate(formula.blend.lines)
    )
    lye_concentration = (formula.lye.master_percent or 100.0) / 100
    naoh_g, koh_g = weights.get("lye:naoh", 0.0) * lye_concentration, weights.get("lye:koh", 0.0) * lye_concentration
    koh = formula.lye.koh
    naoh_pure = naoh_g * (formula.lye.naoh_purity_percent or 0.0) / 100
    koh_pure = koh_g * ((koh.purity_percent or 0.0) if koh else 0.0) / 100

    liquid_lines = tuple(
        LiquidLine(
            liquid=line.liquid, use=line.use, by="weight_g", value=weights[f"liquid:{i}"], compensated=line.compensated
        )
        for i, line in enumerate(formula.liquids)
    )
    additive_lines = tuple(
        AdditiveLine(
            additive=line.additive, by="weight_g", value=weights[f"additive:{i}"], compensated=line.compensated
        )
        for i, line in enumerate(formula.additives)
    )
    added_back_mol = sum(_consumed_mol(line) for line in additive_lines if line.compensated)
    added_back_mol += sum(_consumed_mol(line) for line in liquid_lines if line.compensated)

    def superfat_of(meeting: Sequence[WeightLine]) -> float:
        mg_koh = sum((line.weight_g or 0.0) * oils[line.oil].sap_koh_mg_per_g.typical for line in meeting)
        needs_mol = mg_koh / 1000 / KOH_G_PER_MOL
        return 100 * (1 - (hydroxide_mol(naoh_pure, koh_pure) - added_back_mol) / needs_mol)

    superfat = superfat_of([line for line in lines if line.added == "start"])
    if superfat < 0:
        lines = tuple(line.model_copy(update={"added": "start"}) for line in lines)
        superfat = superfat_of(lines)
    lye_g = naoh_g + koh_g
    water_g = weights.get("water", 0.0) + sum(
        line.value * liquids()[line.liquid].water_percent / 100 for line in liquid_lines if line.value
    )
    water_g += (weights.get("lye:naoh", 0.0) + weights.get("lye:koh", 0.0)) * (1 - lye_concentration)
    return formula.model_copy(
        update={
            "blend": WeightBlend(by="weight", lines=lines),
            "lye": formula.lye.model_copy(update={
                "koh": None if koh is None else Koh(
                    by="lye_weight_percent", value=100 * koh_g / lye_g, purity_percent=koh.purity_percent
                )
            }),
            "superfat_percent": superfat,
            "water": Water(by="water_to_lye", value=water_g / lye_g),
            "liquids": liquid_lines,
            "additives": additive_lines,
        }
    )  # fmt: skip


def _consumed_mol(line: AdditiveLine | LiquidLine) -> float:
    """Hydroxide that an additive or liquid takes, mol."""
    of = additives()[line.additive] if isinstance(line, AdditiveLine) else liquids()[line.liquid]
    if not of.consumer:
        return 0.0
    return (line.value or 0.0) * of.consumer_percent / 100 * lye_consumers()[of.consumer].hydroxide_mol_per_g


def actual_batch(planned: PlannedBatch, weights: Mapping[str, float], base: Catalogue | None = None) -> ActualBatch:
    """What `weights` (g by item) make.

    A pot with more lye than its oils can take is calculated all the same, so that its danger shows as a quantity.
    """
    formula = formula_as_weighed(planned, weights, base)
    assert formula.superfat_percent is not None
    result: FormulaResult | None = None
    problems: tuple[Problem, ...] = ()
    try:
        result = calculate(formula, base, as_weighed=True)
    except FormulaError as error:
        problems = error.problems
    except CausticCheckError:
        problems = (
            Problem(
                code="no_soap_needs_it", severity="impossible", field="lye",
                message=f"{weights.get('lye:naoh', 0.0) + weights.get('lye:koh', 0.0):,.1f} g of lye is more than any oils "
                "of that weight could take.",
                remedy="Take it out, or set the entry aside if it was misread.",
            ),
        )  # fmt: skip
    whole = with_cups(planned, weights)
    total = sum(whole[f"oil:{i}"] for i in range(len(formula.blend.lines)))
    return ActualBatch(
        formula=formula if result is not None else None,
        result=result,
        superfat_percent=formula.superfat_percent,
        shares_percent=tuple(100 * whole[f"oil:{i}"] / total for i in range(len(formula.blend.lines))),
        planned_shares_percent=tuple(oil.share_percent for oil in planned.result.oils),
        problems=problems,
    )
