"""What was sought and what came of it, in plain words."""

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.calculation import Calculation
from sapolin.core.bar.qualities import qualities
from sapolin.core.optimise.solve.model import BlendModel
from sapolin.core.optimise.solve.question import SolveQuestion
from sapolin.core.optimise.solve.sense import sense_name
from sapolin.core.quantities.text import listed

__all__ = ["objective_of", "why_of"]

Floats = NDArray[np.float64]

_PREFERENCES = {
    "none": "the oils that most workshops have",
    "closer": "as few points changed of the present blend as can be",
    "cheaper": "the lowest price",
    "longer_shelf": "the slowest to turn rancid",
    "fewer": "the fewest oils",
}
GIVES_MUCH = 0.25
"""From this part of a quality on, it is what an oil is there for."""
AT_ITS_LIMIT = 0.51


def objective_of(question: SolveQuestion) -> str:
    """What is sought, in one sentence."""
    room = "in range even if every lot is off" if question.holds_whatever_arrives else "in range"
    first = f"First every target {room}"
    return f"{first}, then room to the ends of the ranges for the lots that vary, then {_PREFERENCES[question.prefer]}."


def why_of(calculation: Calculation, model: BlendModel, shares: Floats) -> tuple[str, ...]:
    """What each oil does in a blend, the largest share first, and which limits bound."""
    said = []
    components = calculation.composition.oils
    order = sorted(range(len(components)), key=lambda i: -components[i].share_percent)
    for i in order:
        gives = []
        for result in calculation.result.qualities:
            if result.points > 0 and result.contributions[i] / result.points >= GIVES_MUCH:
                name = qualities()[result.quality].name.lower()
                gives.append(
                    (
                        result.contributions[i] / result.points,
                        f"{result.contributions[i]:.0f} of {result.points:.0f} {name}",
                    )
                )
        top = [words for _, words in sorted(gives, reverse=True)[:3]]
        component = components[i]
        does = listed(top) if top else component.oil.jobs.split(";")[0]
        said.append(f"{component.oil.name} {component.share_percent:.3g} %: {does}.")
    bound = [
        sense_name(name)
        for name, row, most in zip(model.row_names, model.rows, model.row_high, strict=True)
        if not name.startswith("group:") and row.any() and most > 0 and most - float(row @ shares) < AT_ITS_LIMIT
    ]
    if bound:
        said.append(f"At its limit: {listed(bound)}.")
    return tuple(said)
