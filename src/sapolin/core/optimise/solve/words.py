"""What was sought and what came of it, in plain words."""

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.calculation import Calculation
from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import QualityResult
from sapolin.core.optimise.solve.model import BlendModel
from sapolin.core.optimise.solve.question import SolveQuestion
from sapolin.core.optimise.solve.sense import sense_name
from sapolin.core.quantities.text import Param, Text, listed, number, plain, significant, template, text

__all__ = ["objective_of", "said", "why_of"]

Floats = NDArray[np.float64]

GIVES_MUCH = 0.25
"""From this part of a quality on, it is what an oil is there for."""
AT_ITS_LIMIT = 0.51


def objective_of(question: SolveQuestion) -> str:
    """What is sought, in one sentence."""
    code = "objective_whatever_arrives" if question.holds_whatever_arrives else "objective"
    return said(code, preference=template(f"solve_words.prefer.{question.prefer}"))


def said(code: str, **params: Param | Text) -> str:
    """Words of a solve from the catalogue of messages."""
    return plain(text(f"solve_words.{code}", **params))


def why_of(calculation: Calculation, model: BlendModel, shares: Floats) -> tuple[str, ...]:
    """What each oil does in a blend, the largest share first, and which limits bound."""
    told = []
    components = calculation.composition.oils
    order = sorted(range(len(components)), key=lambda i: -components[i].share_percent)
    for i in order:
        gives = []
        for result in calculation.result.qualities:
            if result.points > 0 and result.contributions[i] / result.points >= GIVES_MUCH:
                gives.append((result.contributions[i] / result.points, _gives(result, i)))
        top = [words for _, words in sorted(gives, reverse=True)[:3]]
        component = components[i]
        does = listed(top) if top else component.oil.jobs.split(";")[0]
        told.append(
            said("does", oil=component.oil.name, share=significant(component.share_percent, 3, "%"), jobs=does)
        )  # fmt: skip
    bound = [
        sense_name(name)
        for name, row, most in zip(model.row_names, model.rows, model.row_high, strict=True)
        if not name.startswith("group:") and row.any() and most > 0 and most - float(row @ shares) < AT_ITS_LIMIT
    ]
    if bound:
        told.append(said("at_limit", limits=listed(bound)))
    return tuple(told)


def _gives(result: QualityResult, oil: int) -> str:
    return said(
        "gives",
        points=number(result.contributions[oil], 0),
        of=number(result.points, 0),
        quality=qualities()[result.quality].name.lower(),
    )
