"""The desk that explanations are laid out on: a calculation with what they need at hand."""

from collections.abc import Callable, Sequence
from typing import Literal

from sapolin.core.bar.calculation import Calculation
from sapolin.core.formula.composition import OilComponent
from sapolin.core.materials.catalogue import Source, sources
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Quantity, Text, joined, number, template, text

__all__ = ["Certainty", "Desk", "Explanation", "Term", "lye_as_weighed", "signed_sum"]


class Term(Model):
    """One line of an explanation."""

    label: str
    expression: Text
    """The numbers that went in, such as `340.0 g × 190 / 1000`."""
    value: float
    """In the unit of the terms."""


class Explanation(Model):
    """How a quantity came about."""

    quantity: str
    name: str
    value: float
    unit: str
    """`g` is a weight, which is shown in the unit of the maker."""
    rule: Text
    """The formula in words and signs."""
    substituted: Text
    """The same with this formula's numbers."""
    terms: tuple[Term, ...]
    """The parts, in the order of the blend; empty when the rule has none."""
    terms_unit: str
    """As `unit`."""
    terms_of: str = ""
    """What the terms are weights of, where it is not what is explained."""
    assumes: tuple[Text, ...]
    """What has to be true for the quantity to be."""
    certainty: str
    """How sure it is."""
    sources: tuple[Source, ...]


Certainty = Literal["definition", "profile", "sap", "rule_of_thumb", "interval"]
"""How sure a quantity is, by its name under `explanation.certainty`."""


def lye_as_weighed() -> Text:
    """What a concentration of lye rests on."""
    return text("explanation.lye_as_weighed")


class Desk:
    """A calculation with what its explanations need at hand."""

    def __init__(self, calculation: Calculation) -> None:
        self.calculation = calculation
        self.formula, self.composition = calculation.formula, calculation.composition
        self.result, self.bar = calculation.result, calculation.bar

    def per_oil(
        self, expression: Callable[[OilComponent], Text], value: Callable[[OilComponent], float]
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
        rule: Text,
        substituted: Text,
        *,
        terms: tuple[Term, ...] = (),
        terms_unit: str = "",
        terms_of: str = "",
        assumes: tuple[Text, ...] = (),
        certainty: Certainty = "definition",
        cites: tuple[str, ...] = (),
    ) -> Explanation:
        """The explanation of `quantity`: its rule in words, the same with its numbers, what each term gives and what it rests
        on. Where it rests on the oils, their sources are cited too.
        """
        from_oils = {source for component in self.composition.oils for source in component.oil.sources}
        cited = (*cites, *(sorted(from_oils) if certainty in ("profile", "sap") else ()))
        return Explanation(
            quantity=quantity,
            name=name,
            value=value,
            unit=unit,
            rule=rule,
            substituted=substituted,
            terms=terms,
            terms_unit=terms_unit,
            terms_of=terms_of,
            assumes=assumes,
            certainty=template(f"explanation.certainty.{certainty}"),
            sources=tuple(sources()[key] for key in dict.fromkeys(cited)),
        )


def signed_sum(values: Sequence[float], decimals: int = 2) -> Text:
    """`values` written as a sum, minus signs and all.

    >>> signed_sum([1.5, -0.25])[1]
    ' − '
    """
    segments: list[str | Quantity] = []
    for value in values:
        sign = "− " if value < 0 else "+ "
        segments += [f" {sign}" if segments else sign.removeprefix("+ "), number(abs(value), decimals)]
    return joined(segments, "") if values else ("0",)
