"""The desk that explanations are laid out on: a calculation with what they need at hand."""

from collections.abc import Callable

from sapolin.core.bar.calculation import Calculation
from sapolin.core.formula.composition import OilComponent
from sapolin.core.materials.catalogue import Source, sources
from sapolin.core.quantities.model import Model

__all__ = [
    "BY_DEFINITION",
    "BY_PROFILE",
    "BY_RULE_OF_THUMB",
    "BY_SAP",
    "LYE_AS_WEIGHED",
    "Desk",
    "Explanation",
    "Term",
    "signed_sum",
]  # fmt: skip


class Term(Model):
    """One line of a explanation."""

    label: str
    expression: str
    """The numbers that went in, such as `340.0 g × 190 / 1000`."""
    value: float


class Explanation(Model):
    """How a quantity came about."""

    quantity: str
    name: str
    value: float
    unit: str
    rule: str
    """The formula in words and signs."""
    substituted: str
    """The same with this formula's numbers."""
    terms: tuple[Term, ...]
    """The parts, in the order of the blend; empty when the rule has none."""
    terms_unit: str
    assumes: tuple[str, ...]
    """What has to be true for the quantity to be."""
    certainty: str
    """How sure it is."""
    sources: tuple[Source, ...]


BY_DEFINITION = "Exact arithmetic on what you entered."
BY_PROFILE = (
    "An estimate: typical fatty acids from the catalogue. Your own lot may lie anywhere in the ranges listed there."
)
BY_SAP = (
    "As sure as the SAP values: listed typical values, while natural oils vary by a few percent either way "
    "(coconut 248 to 265, for example). The superfat is there to cover it."
)
BY_RULE_OF_THUMB = (
    "A rule of thumb: makers’ experience put into numbers. Trust your own bars before it, and note where they differ."
)
LYE_AS_WEIGHED = "Lye counts as weighed, its impurities included."


class Desk:
    """A calculation with what its explanations need at hand."""

    def __init__(self, calculation: Calculation) -> None:
        self.calculation = calculation
        self.formula, self.composition = calculation.formula, calculation.composition
        self.result, self.bar = calculation.result, calculation.bar

    def per_oil(
        self, expression: Callable[[OilComponent], str], value: Callable[[OilComponent], float]
    ) -> tuple[Term, ...]:
        """One term an oil of the blend, in its order."""
        return tuple(
            Term(label=one.oil.name, expression=expression(one), value=value(one)) for one in self.composition.oils
        )

    def explanation(
        self,
        quantity: str,
        name: str,
        value: float,
        unit: str,
        rule: str,
        substituted: str,
        *,
        terms: tuple[Term, ...] = (),
        terms_unit: str = "",
        assumes: tuple[str, ...] = (),
        certainty: str = BY_DEFINITION,
        cites: tuple[str, ...] = (),
    ) -> Explanation:
        """The explanation of `quantity`: its rule in words, the same with its numbers, what each term gives and what it rests
        on. Where it rests on the oils, their sources are cited too.
        """
        from_oils = {source for component in self.composition.oils for source in component.oil.sources}
        cited = (*cites, *(sorted(from_oils) if certainty in (BY_PROFILE, BY_SAP) else ()))
        return Explanation(
            quantity=quantity,
            name=name,
            value=value,
            unit=unit,
            rule=rule,
            substituted=substituted,
            terms=terms,
            terms_unit=terms_unit,
            assumes=assumes,
            certainty=certainty,
            sources=tuple(sources()[key] for key in dict.fromkeys(cited)),
        )


def signed_sum(values: list[float], decimals: int = 2) -> str:
    """`values` written as a sum, minus signs and all.

    >>> signed_sum([1.5, -0.25])
    '1.50 − 0.25'
    """
    text = " ".join(("− " if value < 0 else "+ ") + f"{abs(value):,.{decimals}f}" for value in values)
    return text.removeprefix("+ ") if values else "0"
