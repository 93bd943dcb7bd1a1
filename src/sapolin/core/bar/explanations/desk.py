"""The desk that explanations are laid out on: a calculated formula with what they need at hand."""

from collections.abc import Callable
from functools import cached_property

from sapolin.core.bar.adjustments import Conditions, conditions_of
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult, OilResult
from sapolin.core.formula.blend import pure_oils
from sapolin.core.formula.check import examine
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import Catalogue, Source, sources
from sapolin.core.materials.own import with_materials
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
    """A calculated formula with what its explanations need at hand."""

    def __init__(self, formula: Formula, oils: Catalogue) -> None:
        self.formula = formula
        self.result: FormulaResult = calculate(formula, oils)
        self.oils = with_materials(oils, formula.materials)
        self._catalogue = oils

    @cached_property
    def work(self) -> Conditions:
        """What acts beside the fatty acids, as the result were calculated with it."""
        composition = examine(self.formula, self._catalogue).composition
        assert composition is not None
        return conditions_of(composition, self.formula.process, self.result.lye.superfat_total_percent)

    @property
    def free_acid_percent(self) -> float:
        """Free fatty acids, % of the oils, as the result were calculated with them."""
        components = pure_oils(examine(self.formula, self._catalogue).components, self.oils)
        return sum(component.share_percent for component in components if component.oil.kind == "free_acid")

    def per_oil(self, expression: Callable[[OilResult], str], value: Callable[[OilResult], float]) -> tuple[Term, ...]:
        return tuple(Term(label=oil.name, expression=expression(oil), value=value(oil)) for oil in self.result.oils)

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
        from_oils = {source for oil in self.result.oils for source in self.oils[oil.oil].sources}
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
