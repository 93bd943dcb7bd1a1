"""A solve question as numbers: everything aimed at is a share-weighted sum over oils, plus what surrounds the blend adds."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.adjustments import Adjustment, Conditions
from sapolin.core.bar.linear import LINEAR_QUANTITIES
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.composition import OilComponent
from sapolin.core.formula.cost import price_of
from sapolin.core.formula.purposes import Purpose, purposes
from sapolin.core.formula.usual import most_share_percent, usual_of
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX
from sapolin.core.materials.usual_shares import Familiarity, class_of, familiarity_of, share_classes
from sapolin.core.optimise.solve.question import ShareLimit, SolveQuestion, allowed_oils, in_group, target_features
from sapolin.core.optimise.solve.sense import (
    RARITIES,
    USUAL_SHARES,
    Row,
    class_row,
    rule_rows,
    share_rows,
    want_rows,
)
from sapolin.core.optimise.solve.spread import deviations
from sapolin.core.quantities.model import given

__all__ = ["BlendModel", "Surroundings", "blend_model", "feature_of", "without_likings"]

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Surroundings:
    """What surrounds the blend: superfat, water, additives and the fat of liquids, which add to some quantities whatever the
    oils are."""

    conditions: Conditions
    adjustments: tuple[Adjustment, ...]
    liquid_fats: tuple[OilComponent, ...] = ()
    """Fat of the liquids; shares are of all fats."""

    def adds_to(self, feature: str) -> float:
        """What they add to `feature`, in its unit."""
        if feature == "price_per_kg":
            return 0.0
        quantity = LINEAR_QUANTITIES.get(feature)
        of_fats = sum(one.share_percent * feature_of(one.oil, feature, {}) for one in self.liquid_fats) / 100
        return of_fats + (0.0 if quantity is None else quantity.of_the_rest(self.conditions, self.adjustments))

    def oils_fraction(self, feature: str) -> float:
        """How much of `feature` is that of the oils: the fat of liquids takes its share of the fatty acids."""
        return 1.0 if feature == "price_per_kg" else 1 - sum(one.share_percent for one in self.liquid_fats) / 100


def feature_of(oil: Oil, feature: str, prices: Mapping[str, float]) -> float:
    """What a pure oil shows in `feature`, without what surrounds it."""
    if feature in qualities():
        return qualities()[feature].points(oil.profile)
    if feature.startswith("acid:"):
        return oil.profile[ACID_INDEX[feature.removeprefix("acid:")]]
    if feature == "price_per_kg":
        return given(price_of(oil, prices))
    return LINEAR_QUANTITIES[feature].of_oil(oil)


@dataclass(frozen=True)
class BlendModel:
    """The numbers of a question. Shares are in percent; rows are per percent of share."""

    oils: tuple[Oil, ...]
    features: Floats
    """Shape (targets, oils)."""
    low: Floats
    high: Floats
    """Ends of each target, less what surrounds the blend adds; infinite where open."""
    weights: Floats
    """Penalty per point outside; infinite for a required target."""
    rows: Floats
    """Shape (rows, oils): what limits a blend whatever is aimed at, by the maker's own groups and by good sense."""
    row_low: Floats
    row_high: Floats
    row_names: tuple[str, ...]
    hinges: Floats
    """Shape (hinges, oils): sums that are liked to reach `hinge_low`; each unit they fall short costs `hinge_cost`."""
    hinge_low: Floats
    hinge_cost: Floats
    least: Floats
    """Least share of each oil when it is used."""
    most: Floats
    wanted: NDArray[np.bool_]
    """Must be in the blend."""
    preference: Floats
    """Cost per percent of share."""
    use_cost: Floats
    """Cost of using an oil at all."""
    rare: NDArray[np.bool_]
    """Oils that a workshop seldom has and would have to buy: one of them at most in a blend."""
    most_oils: int
    step: float

    def miss(self, shares: Floats) -> float:
        """Weighted points outside the target ranges; infinite when a required target is missed."""
        values = self.features @ shares
        outside = np.maximum(np.maximum(self.low - values, values - self.high), 0.0)
        outside[outside <= 1e-7] = 0.0
        return float(np.multiply(outside, self.weights, out=np.zeros_like(outside), where=outside > 0).sum())

    def cost(self, shares: Floats) -> float:
        """What is minimised: the miss first; then, far below it, room to the ends of the ranges and what is preferred."""
        short = np.maximum(self.hinge_low - self.hinges @ shares, 0.0)
        used = float(self.use_cost[shares > 1e-7].sum())
        return self.miss(shares) + float(self.hinge_cost @ short) + float(self.preference @ shares) + used

    def keeps_rows(self, shares: Floats) -> bool:
        """Whether every limit holds."""
        sums = self.rows @ shares
        return bool(np.all(sums >= self.row_low - 1e-7) and np.all(sums <= self.row_high + 1e-7))


MARGIN_COST = 0.05
"""Of a target whose value lies on the very end of its range, one usual spread of a blend from where no lot would miss it."""
MARGIN_COST_WHEN_CLOSER = 0.002
"""The same where the distance from the present blend is what counts."""
SHORT_OF_CHANGE_COST = 0.01
"""Of a point changed, where it should be closer to the present blend."""
PREFERENCE_COST = {"none": 0.0, "fewer": 0.0, "closer": 0.0, "cheaper": 0.001, "longer_shelf": 0.001}
"""Of a percent of the oil that is worst by the preference."""
UNFAMILIAR_COST: dict[Familiarity, float] = {"everyday": 0.0, "known": 0.0003, "rare": 0.0012}
"""Of a percent of an oil, by how seldom workshops have it."""
BEYOND_USUAL_COST = 0.001
"""Of a percent of a class of oils beyond what is usual of it."""
HABIT_COST = 0.002
"""Of a percent that is missing of what makers like a little of."""
OIL_COST = 0.004
"""Of one more oil: it has to earn its place."""
RARE_COST = 0.5
"""Of an oil that would have to be bought for this bar: it comes in where it saves half a point of what is missed, never for a
little more room."""
HABIT_COST_BESIDE = 0.0002
"""The same where price or the present blend counts."""
AXIS_PART = 0.02
"""Room to the end of a range where no spread is known, of the length of its scale."""
LOTS_IN_A_BLEND = 4
"""A usual number of oils: the spread of a blend is that of an oil by the root of this."""
MARGINS = ((1.0, 0.25, 1.0), (2.0, 0.4, 0.5))
"""Liked rooms to an end: so many usual spreads, at most so much of the range (a narrow one keeps a middle), and how much of the
cost it has."""


def _margins(question: SolveQuestion, model: BlendModel) -> tuple[list[Floats], list[float], list[float]]:
    """Liked distances from the ends of the ranges: one usual spread of a blend, as far as the range has room."""
    rows: list[Floats] = []
    lows: list[float] = []
    costs: list[float] = []
    cost = MARGIN_COST_WHEN_CLOSER if question.prefer == "closer" else MARGIN_COST
    spreads = deviations(model.oils, [target.feature for target in question.targets])
    scales = {feature.id: feature.axis_maximum - feature.axis_minimum for feature in target_features()}
    for target, row, low, high, spread in zip(
        question.targets, model.features, model.low, model.high, spreads, strict=True
    ):
        width = high - low if np.isfinite(high - low) else np.inf
        # The oils that vary most in it are those that bring it.
        most_varied = np.sort(spread)[-LOTS_IN_A_BLEND:]
        usual_spread = float(np.sqrt((most_varied**2).mean() / LOTS_IN_A_BLEND)) if len(spread) else 0.0
        if usual_spread <= 0 and target.feature != "price_per_kg":
            usual_spread = AXIS_PART * scales[target.feature]
        for times, fraction, part in MARGINS:
            room = min(times * usual_spread, fraction * width)
            if room <= 1e-6:
                continue
            for sign, end in ((1.0, low), (-1.0, high)):
                # A range from 0 has no lower end to stay away from.
                if np.isfinite(end) and end > 0:
                    rows.append(sign * row)
                    lows.append(sign * end + room)
                    costs.append(part * cost / room)
    return rows, lows, costs


def _likings(
    question: SolveQuestion, model: BlendModel, purpose: Purpose, present: dict[str, float]
) -> tuple[list[Floats], list[float], list[float]]:
    """What is liked beside the targets: usual shares, habits of the purpose, and what the present blend has."""
    rows, lows, costs = _margins(question, model)
    for one in share_classes().values():
        row = class_row(model.oils, one.id)
        if not row.any():
            continue
        usual = usual_of(one, purpose)
        if "usual_shares" not in question.lifted and usual.usual[1] < usual.most:
            rows.append(-row)
            lows.append(-usual.usual[1])
            costs.append(BEYOND_USUAL_COST)
        if one.id in purpose.habits:
            rows.append(row)
            lows.append(purpose.habits[one.id])
            costs.append(HABIT_COST if question.prefer in ("none", "longer_shelf", "fewer") else HABIT_COST_BESIDE)
    if question.prefer == "closer":
        for oil, share in present.items():
            if share > 0:
                rows.append(np.array([1.0 if one.id == oil else 0.0 for one in model.oils]))
                lows.append(share)
                costs.append(SHORT_OF_CHANGE_COST)
    return rows, lows, costs


WORST_CASE_DEVIATIONS = 1.645
"""Of one lot, to the side that harms: 95 % of lots are better. All at once is the bound for lots that are wrong together."""


def without_likings(model: BlendModel) -> BlendModel:
    """The targets and limits alone."""
    oils = len(model.oils)
    return replace(
        model, hinges=np.zeros((0, oils)), hinge_low=np.zeros(0), hinge_cost=np.zeros(0), preference=np.zeros(oils),
        use_cost=np.zeros(oils),
    )  # fmt: skip


def _robust(question: SolveQuestion, model: BlendModel) -> BlendModel:
    """Each target held by the worst that all lots could do to it at once, which is linear: first all lower ends, then all
    upper ones."""
    worst = WORST_CASE_DEVIATIONS * deviations(model.oils, [target.feature for target in question.targets]) / 100
    open_end = np.full(len(model.low), np.inf)
    return replace(
        model,
        features=np.concatenate([model.features - worst, model.features + worst]),
        low=np.concatenate([model.low, -open_end]),
        high=np.concatenate([open_end, model.high]),
        weights=np.concatenate([model.weights, model.weights]),
    )


def _familiarity(question: SolveQuestion, oils: tuple[Oil, ...]) -> tuple[Familiarity, ...]:
    """How seldom this workshop has each oil: what is there, or named, counts as everyday."""
    if question.pool is not None:
        return tuple("everyday" for _ in oils)
    at_hand = {*question.at_hand, *question.available_g, *(line.oil for line in question.formula.blend.lines)}
    return tuple("everyday" if oil.id in at_hand else familiarity_of(oil) for oil in oils)


def _preference(question: SolveQuestion, oils: tuple[Oil, ...], familiarity: tuple[Familiarity, ...]) -> Floats:
    """Cost per percent of share."""
    unfamiliar = np.array([UNFAMILIAR_COST[one] for one in familiarity])
    scale = PREFERENCE_COST[question.prefer]
    if question.prefer == "longer_shelf":
        load = np.array([qualities()["oxidation_load"].points(oil.profile) for oil in oils])
        return unfamiliar + scale * load / 100
    if question.prefer == "cheaper":
        per_kg = np.array([given(price_of(oil, question.prices)) for oil in oils])
        return unfamiliar + scale * per_kg / max(float(per_kg.max(initial=0.0)), 1e-9)
    return unfamiliar


def _rows(
    question: SolveQuestion,
    oils: tuple[Oil, ...],
    purpose: Purpose,
    around: Surroundings,
    limits: dict[str, ShareLimit],
) -> list[Row]:
    """The limits of the maker's own groups, and those of good sense that are not lifted."""
    found = [
        Row(
            f"group:{group.group}",
            np.array([1.0 if in_group(oil, group.group) else 0.0 for oil in oils]),
            group.minimum_percent,
            group.maximum_percent,
        )
        for group in question.groups
    ]
    asked: dict[str, float] = {}
    for oil in oils:
        limit = limits.get(oil.id)
        if limit is not None and limit.minimum_percent > 0:
            asked[class_of(oil).id] = asked.get(class_of(oil).id, 0.0) + limit.minimum_percent
    wanted = {target.feature: target.maximum for target in question.targets if target.maximum is not None}
    sense = [
        *(share_rows(oils, purpose, asked) if USUAL_SHARES not in question.lifted else ()),
        *want_rows(oils, purpose),
        *rule_rows(
            oils, purpose, around.conditions, wanted, question.formula.process.batter_temperature_c
        ),
    ]  # fmt: skip
    return found + [row for row in sense if row.name not in question.lifted]


def blend_model(
    question: SolveQuestion, oils: Catalogue, around: Surroundings, present: dict[str, float], total_g: float
) -> BlendModel:
    """The model of a question that has been checked; `present` are the shares of the formula's own blend, %, and
    `total_g` the weight of its oils."""
    chosen = allowed_oils(question, oils)
    purpose = purposes()[question.formula.purpose]
    limits = {limit.oil: limit for limit in question.limits}
    targets = question.targets
    added = np.array([around.adds_to(target.feature) for target in targets])
    low = np.array([-np.inf if target.minimum is None else target.minimum for target in targets]) - added
    high = np.array([np.inf if target.maximum is None else target.maximum for target in targets]) - added
    keeps_usual = USUAL_SHARES not in question.lifted
    least = np.full(len(chosen), question.least_share_percent)
    most = np.full(len(chosen), 100.0)
    wanted = np.zeros(len(chosen), dtype=bool)
    for j, oil in enumerate(chosen):
        one, limit = class_of(oil), limits.get(oil.id)
        if keeps_usual and f"share:{one.id}" not in question.lifted:
            most[j] = most_share_percent(oil, purpose)
        least[j] = min(least[j], max(one.least, question.step_percent))
        if limit is not None:
            least[j] = max(limit.minimum_percent, question.step_percent) if limit.minimum_percent > 0 else least[j]
            # What the maker says of an oil goes before what is usual of it.
            said = limit.maximum_percent < 100
            most[j] = limit.maximum_percent if said else max(most[j], limit.minimum_percent)
            wanted[j] = limit.minimum_percent > 0
        if oil.id in question.available_g:
            most[j] = min(most[j], max(100 * question.available_g[oil.id] / total_g, 0.0))
        least[j] = min(least[j], most[j])
    rows = _rows(question, chosen, purpose, around, limits)
    familiarity = _familiarity(question, chosen)
    rare = np.array([one == "rare" for one in familiarity], dtype=bool) & ~wanted & (RARITIES not in question.lifted)
    features = (
        np.array([
            [around.oils_fraction(target.feature) * feature_of(oil, target.feature, question.prices) for oil in chosen]
            for target in targets
        ])
        / 100
    )  # fmt: skip
    model = BlendModel(
        oils=chosen,
        features=features,
        low=low,
        high=high,
        weights=np.array([np.inf if target.required else target.weight for target in targets]),
        rows=np.array([row.per_percent for row in rows]).reshape(len(rows), len(chosen)),
        row_low=np.array([row.low for row in rows]),
        row_high=np.array([row.high for row in rows]),
        row_names=tuple(row.name for row in rows),
        hinges=np.zeros((0, len(chosen))),
        hinge_low=np.zeros(0),
        hinge_cost=np.zeros(0),
        least=least,
        most=most,
        wanted=wanted,
        preference=_preference(question, chosen, familiarity),
        use_cost=OIL_COST + np.where(rare, RARE_COST, 0.0),
        rare=rare,
        most_oils=question.most_oils,
        step=question.step_percent,
    )
    likings, lows, costs = _likings(question, model, purpose, present)
    if question.holds_whatever_arrives:
        model = _robust(question, model)
    return replace(
        model,
        hinges=np.array(likings).reshape(len(likings), len(chosen)),
        hinge_low=np.array(lows),
        hinge_cost=np.array(costs),
    )
