"""The batch as it was really weighed: its composition, its superfat and its qualities beside the plan."""

from collections.abc import Mapping

from sapolin.core.bar.calculation import calculation_of_composition
from sapolin.core.bar.result import FormulaResult
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.formula.check import lye_heavy_problems, water_problems
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.verify import lye_is_possible
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.own import with_materials
from sapolin.core.production.state import RunState
from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import weight

__all__ = ["ActualBatch", "actual_batch", "expected_g", "weighed_composition", "weights_g", "with_cups"]


class ActualBatch(Model):
    """The batch as weighed, what is not weighed yet at its target."""

    result: FormulaResult | None
    """Null when no soap needs so much lye, or so much or so little water."""
    superfat_percent: float
    """As a formula states it: of the oils that meet the lye, what was added back for acids set apart. Below 0 there is more
    lye than they can take."""
    shares_percent: tuple[float, ...]
    planned_shares_percent: tuple[float, ...]
    problems: tuple[Diagnostic, ...]
    """What must be put right; or why nothing can be calculated."""


def with_cups(planned: PlannedBatch, weights: Mapping[str, float]) -> dict[str, float]:
    """Weights by item with what is set aside in cups back where it was taken from: in the end all of it is in the batch."""
    whole = dict(weights)
    for cup in planned.cups:
        if cup.source != "glycerin":
            whole[cup.source] += whole[cup.item]
    return whole


def weights_g(targets: Mapping[str, float], captured: Mapping[str, float]) -> dict[str, float]:
    """What is weighed, or will be: weights as captured, targets for the rest."""
    return {item: captured.get(item, target) for item, target in targets.items()}


def expected_g(state: RunState) -> dict[str, float]:
    """What the batch will hold if the work goes on: what is still short of its target, and not accepted so, is topped up."""
    whole = weights_g(state.targets_g, state.captured_g)
    return {
        item: whole[item] if item in state.settled else max(whole[item], target)
        for item, target in state.targets_g.items()
    }


def weighed_composition(
    planned: PlannedBatch, weights: Mapping[str, float], base: Catalogue | None = None
) -> Composition:  # fmt: skip
    """The composition of `weights` (g by item), cups poured back where they came from."""
    formula, whole = planned.formula, with_cups(planned, weights)
    dry_part = (formula.lye.master_percent or 100.0) / 100
    return Composition.of_weights(
        formula,
        with_materials(catalogue() if base is None else base, formula.materials),
        oils_g=[whole.get(f"oil:{i}", 0.0) for i in range(len(formula.blend.lines))],
        naoh_g=whole.get("lye:naoh", 0.0) * dry_part,
        koh_g=whole.get("lye:koh", 0.0) * dry_part,
        water_g=whole.get("water", 0.0),
        liquids_g=[whole.get(f"liquid:{i}", 0.0) for i in range(len(formula.liquids))],
        additives_g=[whole.get(f"additive:{i}", 0.0) for i in range(len(formula.additives))],
    )


def actual_batch(planned: PlannedBatch, weights: Mapping[str, float], base: Catalogue | None = None) -> ActualBatch:
    """What `weights` (g by item) make.

    With more lye than its oils can take it is calculated too, so that its danger shows as a number.
    """
    composition = weighed_composition(planned, weights, base)
    problems: tuple[Diagnostic, ...] = tuple(water_problems(composition))
    if not lye_is_possible(composition):
        problems = (stopping("no_soap_needs_it", "lye", lye=weight(composition.lye_g)),)
    possible = not problems
    if possible:
        problems = lye_heavy_problems(composition, weighed=True)
    return ActualBatch(
        result=calculation_of_composition(composition, planned.formula).result if possible else None,
        superfat_percent=composition.superfat_of_first_oils_percent,
        shares_percent=tuple(component.share_percent for component in composition.oils),
        planned_shares_percent=tuple(oil.share_percent for oil in planned.result.oils),
        problems=problems,
    )
