"""How the rule book is asked: a calculation in, diagnostics out. The rules themselves are in the rule book."""

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from typing import NamedTuple

from sapolin.core.bar.calculation import Calculation
from sapolin.core.bar.result import QualityResult
from sapolin.core.formula.composition import OilComponent
from sapolin.core.quantities.diagnostics import SEVERITIES, Diagnostic

__all__ = ["Condition", "Facts", "Rule", "advice_on", "gravest_first"]


class Facts:
    """A calculation, with what rules often ask of it at hand."""

    def __init__(self, calculation: Calculation) -> None:
        self.calculation = calculation
        self.formula, self.composition = calculation.formula, calculation.composition
        self.conditions, self.result = calculation.conditions, calculation.result
        self.purpose = calculation.purpose
        self.acids = calculation.bar.acids
        """Percent by acid id."""
        self.makes_bar = self.result.bar is not None

    @cached_property
    def qualities(self) -> dict[str, QualityResult]:
        """Results by quality id."""
        return {quality.quality: quality for quality in self.result.qualities}

    def points(self, quality: str) -> float:
        """Points of a quality."""
        return self.qualities[quality].points

    def share_percent(self, condition: Callable[[OilComponent], bool]) -> float:
        """Share of the single oils that meet `condition`, % of the oils."""
        return sum(component.share_percent for component in self.composition.pure_oils if condition(component))


Condition = Callable[[Facts], Iterator[Diagnostic]]


class Rule(NamedTuple):
    """One rule: its id is the code of what it finds, or the beginning of it."""

    id: str
    condition: Condition


def gravest_first(found: Sequence[Diagnostic]) -> tuple[Diagnostic, ...]:
    """Problems before warnings before notes; among equals in the order they were found."""
    return tuple(sorted(found, key=lambda one: SEVERITIES.index(one.severity)))


def advice_on(calculation: Calculation, rules: Sequence[Rule]) -> tuple[Diagnostic, ...]:
    """Everything that `rules` find, the gravest first."""
    facts = Facts(calculation)
    return gravest_first([found for rule in rules for found in rule.condition(facts)])
