"""The yardstick: the same question as one plain mixed-integer model, handed to SciPy's milp."""

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

from sapolin.core.optimise.solve.model import BlendModel


def plain_milp(model: BlendModel, seconds: float) -> tuple[float, bool]:
    """Best value found, and whether it is proven. Columns: grid steps of each oil, whether it is in, misses, likings missed."""
    oils, targets, hinges, step = len(model.oils), len(model.low), len(model.hinge_low), model.step
    columns = 2 * oils + 2 * targets + hinges
    required = np.isinf(model.weights)
    weights = np.where(required, 0.0, model.weights)
    costs = np.concatenate([model.preference * step, model.use_cost, weights, weights, model.hinge_cost])
    upper = np.concatenate(
        [
            np.floor(model.most / step + 1e-9), np.ones(oils), *2 * [np.where(required, 0.0, np.inf)],
            np.full(hinges, np.inf),
        ]
    )  # fmt: skip
    lower = np.concatenate([np.zeros(oils), model.wanted.astype(float), np.zeros(2 * targets + hinges)])
    rows, low, high = [], [], []

    def row(values: list[tuple[slice | int, object]], least: float, most: float) -> None:
        line = np.zeros(columns)
        for where, value in values:
            line[where] = value
        rows.append(line)
        low.append(least)
        high.append(most)

    row([(slice(0, oils), step)], 100.0, 100.0)
    row([(slice(oils, 2 * oils), 1.0)], 0, model.most_oils)
    row([(slice(oils, 2 * oils), model.rare.astype(float))], 0, 1)
    for k in range(targets):
        row(
            [(slice(0, oils), model.features[k] * step), (2 * oils + k, 1.0), (2 * oils + targets + k, -1.0)],
            model.low[k],
            model.high[k],
        )
    for j in range(oils):
        row([(j, step), (oils + j, -model.most[j])], -np.inf, 0.0)
        row([(j, step), (oils + j, -model.least[j])], 0.0, np.inf)
    for limit, least, most in zip(model.rows, model.row_low, model.row_high, strict=True):
        row([(slice(0, oils), limit * step)], least, most)
    for h, (liked, least) in enumerate(zip(model.hinges, model.hinge_low, strict=True)):
        row([(slice(0, oils), liked * step), (2 * oils + 2 * targets + h, 1.0)], least, np.inf)
    integrality = np.concatenate([np.ones(2 * oils), np.zeros(2 * targets + hinges)])
    found = milp(
        costs,
        integrality=integrality,
        bounds=Bounds(lower, upper),
        constraints=LinearConstraint(np.array(rows), low, high),
        options={"time_limit": seconds, "mip_rel_gap": 0.0},
    )
    return (float(found.fun) if found.x is not None else np.inf), found.status == 0
