"""A solve question as numbers: everything aimed at is a share-weighted sum over oils, plus what surrounds the blend adds."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.adjustments import Adjustment, Conditions
from sapolin.core.bar.linear import LINEAR_QUANTITIES
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.cost import price_of
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX
from sapolin.core.optimise.solve.question import SolveQuestion, allowed_oils, in_group
from sapolin.core.optimise.swap.question import most_share_percent

__all__ = ["BlendModel", "Surroundings", "blend_model", "feature_of"]

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Surroundings:
    """What surrounds the blend: superfat, water and additives, which add to some quantities whatever the oils are."""

    conditions: Conditions
    adjustments: tuple[Adjustment, ...]

    def adds_to(self, feature: str) -> float:
        """What they add to `feature`, in its unit."""
        quantity = LINEAR_QUANTITIES.get(feature)
        return 0.0 if quantity is None else quantity.of_the_rest(self.conditions, self.adjustments)


def feature_of(oil: Oil, feature: str, prices: Mapping[str, float]) -> float:
    """What a pure oil shows in `feature`, without what surrounds it."""
    if feature in qualities():
        return qualities()[feature].points(oil.profile)
    if feature.startswith("acid:"):
        return oil.profile[ACID_INDEX[feature.removeprefix("acid:")]]
    if feature == "price_per_kg":
        return price_of(oil, prices) or 0.0
    return LINEAR_QUANTITIES[feature].of_oil(oil)


@dataclass(frozen=True)
class BlendModel:
    """The numbers of a question. Shares are in percent; rows of `features` and `groups` are per percent of share."""

    oils: tuple[Oil, ...]
    features: Floats
    """Shape (targets, oils)."""
    low: Floats
    high: Floats
    """TargetRange of each target, less what surrounds the blend adds; infinite where open."""
    weights: Floats
    """Penalty per point outside; infinite for a required target."""
    groups: Floats
    """Shape (groups, oils), ones where an oil counts."""
    group_low: Floats
    group_high: Floats
    least: Floats
    """Least share of each oil when it is used."""
    most: Floats
    wanted: NDArray[np.bool_]
    """Must be in the blend."""
    preference: Floats
    """Cost per percent among equals."""
    most_oils: int
    step: float

    def penalty(self, shares: Floats) -> float:
        """Weighted points outside the target ranges; infinite when a required target is missed."""
        values = self.features @ shares
        outside = np.maximum(np.maximum(self.low - values, values - self.high), 0.0)
        outside[outside <= 1e-7] = 0.0
        with np.errstate(invalid="ignore"):
            costs = np.where(outside > 0, outside * self.weights, 0.0)
        return float(costs.sum())

    def keeps_groups(self, shares: Floats) -> bool:
        """Whether every group limit holds."""
        together = self.groups @ shares
        return bool(np.all(together >= self.group_low - 1e-7) and np.all(together <= self.group_high + 1e-7))


def _preference(question: SolveQuestion, oils: tuple[Oil, ...], present: dict[str, float]) -> Floats:
    """Cost per percent of share. `closer`: what the present blend does not have, or has less of, costs."""
    if question.prefer == "longer_shelf":
        return np.array([qualities()["oxidation_load"].points(oil.profile) for oil in oils]) / 100
    if question.prefer == "cheaper":
        per_kg = np.array([price_of(oil, question.prices) or 0.0 for oil in oils])
        return per_kg / max(float(per_kg.max(initial=0.0)), 1e-9)
    if question.prefer == "closer":
        return np.array([1.0 - present.get(oil.id, 0.0) / 100 for oil in oils])
    return np.zeros(len(oils))


def blend_model(
    question: SolveQuestion, oils: Catalogue, around: Surroundings, present: dict[str, float], total_g: float
) -> BlendModel:
    """The model of a question that has been checked; `present` are the shares of the formula's own blend, %, and
    `total_g` the weight of its oils."""
    chosen = allowed_oils(question, oils)
    limits = {limit.oil: limit for limit in question.limits}
    targets = question.targets
    added = np.array([around.adds_to(target.feature) for target in targets])
    low = np.array([-np.inf if target.minimum is None else target.minimum for target in targets]) - added
    high = np.array([np.inf if target.maximum is None else target.maximum for target in targets]) - added
    least = np.full(len(chosen), question.least_share_percent)
    most = np.array([most_share_percent(oil) for oil in chosen])
    wanted = np.zeros(len(chosen), dtype=bool)
    for j, oil in enumerate(chosen):
        limit = limits.get(oil.id)
        if limit is not None:
            least[j] = max(limit.minimum_percent, question.step_percent) if limit.minimum_percent > 0 else least[j]
            most[j] = limit.maximum_percent
            wanted[j] = limit.minimum_percent > 0
        if oil.id in question.available_g:
            most[j] = min(most[j], max(100 * question.available_g[oil.id] / total_g, 0.0))
        least[j] = min(least[j], most[j])
    return BlendModel(
        oils=chosen,
        features=np.array([[feature_of(oil, target.feature, question.prices) for oil in chosen] for target in targets])
        / 100,
        low=low,
        high=high,
        weights=np.array([np.inf if target.required else target.weight for target in targets]),
        groups=np.array([[1.0 if in_group(oil, group.group) else 0.0 for oil in chosen] for group in question.groups])
        if question.groups
        else np.zeros((0, len(chosen))),
        group_low=np.array([group.minimum_percent for group in question.groups]),
        group_high=np.array([group.maximum_percent for group in question.groups]),
        least=least,
        most=most,
        wanted=wanted,
        preference=_preference(question, chosen, present),
        most_oils=question.most_oils,
        step=question.step_percent,
    )
