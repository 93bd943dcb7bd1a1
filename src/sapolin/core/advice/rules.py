"""How rules over a calculated batch are asked: facts in, findings out. The rules themselves are in the rule book."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

from sapolin.core.bar.adjustments import Conditions
from sapolin.core.bar.expectations import Expectations
from sapolin.core.bar.qualities import Purpose
from sapolin.core.bar.remarks import SEVERITY_ORDER, QualityResult, Remark
from sapolin.core.bar.uncertainty import SuperfatInterval
from sapolin.core.formula.blend import Component
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula

__all__ = ["Condition", "Facts", "Found", "Rule", "Severity", "remarks_on"]

Severity = Literal["danger", "watch", "note"]
"""danger: can hurt someone. watch: likely to spoil the bar. note: good to know."""


class Facts(NamedTuple):
    """Everything a rule may look at."""

    formula: Formula
    purpose: Purpose
    components: Sequence[Component]
    """The oils as the blend names them."""
    pure_components: Sequence[Component]
    """The same with mixtures taken apart."""
    composition: Composition
    acids: Mapping[str, float]
    """Percent by acid id."""
    qualities: Mapping[str, QualityResult]
    work: Conditions
    superfat: SuperfatInterval
    bar: Expectations | None
    """Null for paste."""

    def points(self, quality: str) -> float:
        """Points of a quality."""
        return self.qualities[quality].points

    def share_percent(self, condition: Callable[[Component], bool]) -> float:
        """Share of the unmixed oils that meet `condition`, % of the oils."""
        return sum(component.share_percent for component in self.pure_components if condition(component))


class Found(NamedTuple):
    """What a rule found: its size in words, and what may differ from the rule's own words."""

    headline: str
    severity: Severity | None = None
    reason: str | None = None
    remedy: str | None = None
    quantity: str | None = None


Condition = Callable[[Facts], Iterator[Found]]


class Rule(NamedTuple):
    """One rule."""

    id: str
    severity: Severity
    reason: str
    remedy: str
    condition: Condition


def remarks_on(facts: Facts, rules: Sequence[Rule]) -> tuple[Remark, ...]:
    """Everything that `rules` find, the gravest first."""
    found = [
        Remark(
            code=rule.id,
            severity=finding.severity or rule.severity,
            quantity=finding.quantity,
            headline=finding.headline,
            reason=rule.reason if finding.reason is None else finding.reason,
            remedy=rule.remedy if finding.remedy is None else finding.remedy,
        )
        for rule in rules
        for finding in rule.condition(facts)
    ]
    return tuple(sorted(found, key=lambda remark: SEVERITY_ORDER.index(remark.severity)))
