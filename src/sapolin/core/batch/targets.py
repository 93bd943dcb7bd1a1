"""What is weighed for a batch: every item with its target and how far off it may be. Weights in g."""

from typing import Literal

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template

__all__ = ["LYE_NAMES", "Role", "WeighTarget", "is_within", "weigh_targets"]

Role = Literal["oil", "lye", "water", "liquid", "additive", "scent", "colour", "cup"]
LYE_NAMES = {"naoh": "NaOH", "koh": "KOH"}


class WeighTarget(Model):
    """Something to weigh."""

    item: str
    """`oil:0`, `lye:naoh`, `water`, `liquid:0`, `additive:0`, `scent:0`, `colour:0:0`, or a cup set aside: `cup:0`."""
    name: str
    role: Role
    target_g: float
    tolerance_g: float
    """Off by no more than this, nothing is said."""
    decimals: int
    most_at_once_g: float | None = None
    """What the scale takes at once, beside a container, g: above it the weighing goes in loads. Null: there is no limit."""


def is_within(off_g: float, tolerance_g: float) -> bool:
    """Whether a weight that is `off_g` from its target, either way, is near enough to it: the dust of binary does not count.

    >>> is_within(0.4 - 0.3, 0.1)
    True
    """
    return abs(off_g) <= tolerance_g + 1e-9


def _tolerance_g(role: Role, grams: float, step_g: float) -> float:
    if role == "lye":
        return max(grams * coefficient("tolerance.lye_percent") / 100, step_g)
    names: dict[Role, str] = {
        "oil": "tolerance.oil_percent",
        "water": "tolerance.water_percent",
        "liquid": "tolerance.water_percent",
    }
    return max(grams * coefficient(names.get(role, "tolerance.small_percent")) / 100, 2 * step_g)


def weigh_targets(planned: PlannedBatch) -> tuple[WeighTarget, ...]:
    """Everything to weigh: oils first, hardest fat first, lye last. What there is nothing of is not weighed."""
    result, weights = planned.result, planned.result.weights
    step = planned.formula.scale_step_g

    def target(item: str, name: str, role: Role, grams: float, decimals: int) -> WeighTarget:
        tolerance = _tolerance_g(role, grams, step or 10.0**-decimals)
        most = planned.most_at_once_g
        return WeighTarget(
            item=item, name=name, role=role, target_g=grams, tolerance_g=tolerance, decimals=decimals,
            most_at_once_g=most if most is not None and grams > most else None,
        )  # fmt: skip

    def without_cups(item: str, grams: float, decimals: int) -> float:
        return round(grams - sum(cup.weight_g for cup in planned.cups if cup.source == item), decimals)

    oils = sorted(enumerate(result.oils), key=lambda pair: (not pair[1].hard, pair[0]))
    found = [
        target(
            f"oil:{i}",
            oil.name,
            "oil",
            without_cups(f"oil:{i}", weights.oils[i], weights.decimals),
            weights.decimals,
        )
        for i, oil in oils
    ]
    found += [
        target(f"liquid:{i}", liquid.name, "liquid", weights.liquids[i], weights.decimals)
        for i, liquid in enumerate(result.liquids)
    ]
    water_g = without_cups("water", weights.water, weights.decimals)
    if water_g > 0:
        found.append(target("water", template("steps.water"), "water", water_g, weights.decimals))
    found += [
        target(f"additive:{i}", additive.name, "additive", weights.additives[i], weights.lye_decimals)
        for i, additive in enumerate(result.additives)
    ]
    found += [
        target(f"scent:{i}", scent.name, "scent", round(scent.weight_g, weights.lye_decimals), weights.lye_decimals)
        for i, scent in enumerate(planned.scents)
    ]
    found += [
        target(f"colour:{i}:{j}", f"{colour.name} for {portion.name}", "colour", round(colour.weight_g, 2), 2)
        for i, portion in enumerate(planned.portions)
        for j, colour in enumerate(portion.colours)
    ]
    found += [target(cup.item, cup.name, "cup", cup.weight_g, weights.decimals) for cup in planned.cups]
    for kind, dry, solution in (
        ("naoh", weights.naoh, weights.naoh_solution), ("koh", weights.koh, weights.koh_solution)
    ):  # fmt: skip
        grams = dry if result.lye.master is None else (solution or 0.0)
        if grams > 0:
            name = LYE_NAMES[kind] if result.lye.master is None else template(f"steps.master_{kind}")
            found.append(target(f"lye:{kind}", name, "lye", grams, weights.lye_decimals))
    return tuple(one for one in found if one.target_g > 0)
