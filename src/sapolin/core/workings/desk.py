"""The desk that workings are laid out on: a reckoned formula with what they need at hand."""

from collections.abc import Callable
from functools import cached_property

from sapolin.core.blend import unmixed
from sapolin.core.catalogue import Catalogue, Source, sources
from sapolin.core.check import examine
from sapolin.core.effects import AtWork, at_work
from sapolin.core.figures import OilFigures, Reckoning
from sapolin.core.formula import Formula
from sapolin.core.materials import with_materials
from sapolin.core.model import Model
from sapolin.core.reckoning import reckon

__all__ = ["BY_DEFINITION", "BY_PROFILE", "BY_RULE_OF_THUMB", "BY_SAP", "LYE_AS_WEIGHED", "Desk", "Term", "Working",
           "signed_sum"]  # fmt: skip


class Term(Model):
    """One line of a working."""

    label: str
    expression: str
    """The numbers that went in, such as `340.0 g × 190 / 1000`."""
    value: float


class Working(Model):
    """How a figure came about."""

    figure: str
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
    """What has to be true for the figure to be."""
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
    """A reckoned formula with what its workings need at hand."""

    def __init__(self, formula: Formula, oils: Catalogue) -> None:
        self.formula = formula
        self.reckoning: Reckoning = reckon(formula, oils)
        self.oils = with_materials(oils, formula.materials)
        self._catalogue = oils

    @cached_property
    def work(self) -> AtWork:
        """What acts beside the fatty acids, as the figures were calculated with it."""
        pot = examine(self.formula, self._catalogue).pot
        assert pot is not None
        return at_work(pot, self.formula.process, self.reckoning.lye.superfat_total_percent)

    @property
    def free_acid_percent(self) -> float:
        """Free fatty acids, % of the oils, as the figures were calculated with them."""
        parts = unmixed(examine(self.formula, self._catalogue).parts, self.oils)
        return sum(part.share_percent for part in parts if part.oil.kind == "free_acid")

    def per_oil(
        self, expression: Callable[[OilFigures], str], value: Callable[[OilFigures], float]
    ) -> tuple[Term, ...]:
        return tuple(Term(label=oil.name, expression=expression(oil), value=value(oil)) for oil in self.reckoning.oils)

    def working(
        self,
        figure: str,
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
    ) -> Working:
        from_oils = {source for oil in self.reckoning.oils for source in self.oils[oil.oil].sources}
        cited = (*cites, *(sorted(from_oils) if certainty in (BY_PROFILE, BY_SAP) else ()))
        return Working(
            figure=figure,
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
