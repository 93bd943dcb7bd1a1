"""Quantities that are sums over the oils of a blend, beside the qualities: what each oil gives, and what the rest adds.

An optimiser takes its rows from here, and the values shown are sums of the same terms, so a solved blend is what its result
says. Each quantity is declared once in :data:`LINEAR_QUANTITIES`.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from sapolin.core.bar.adjustments import Adjustment, Conditions, effect_on
from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.terms import Term, term
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS, iodine_value_of
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import number, template

__all__ = ["LINEAR_QUANTITIES", "TRACE_TERMS", "LinearQuantity", "saturated_percent_of", "trace_of_oil", "trace_terms"]


def _warmer(now: Conditions) -> float:
    """How much warmer the batter is than usual, °C; not decided, it is as usual."""
    asked = now.batter_temperature_c
    return 0.0 if asked is None else asked - coefficient("trace.reference_temperature_c")


class TraceTerm(NamedTuple):
    """One thing that hurries or slows trace: an amount times a coefficient."""

    id: str
    """Names the coefficient, points per unit of the amount, and the label, both under `trace`."""
    unit: str
    acids: tuple[str, ...] = ()
    """Acids whose percent is counted."""
    of_conditions: Callable[[Conditions], float] | None = None
    counts_free_acids: bool = False
    """The share of free fatty acids in the oils is counted, %."""

    @property
    def coefficient(self) -> str:
        """Id of its coefficient."""
        return f"trace.{self.id}"

    def amount_of(self, acids: Mapping[str, float], free_acid_percent: float, conditions: Conditions) -> float:
        """What is counted of a whole blend, in the term's unit."""
        if self.of_conditions is not None:
            return self.of_conditions(conditions)
        return free_acid_percent if self.counts_free_acids else sum(acids[acid] for acid in self.acids)

    def amount_in(self, oil: Oil) -> float:
        """What is counted of a pure oil, in the term's unit."""
        if self.counts_free_acids:
            return 100.0 if oil.kind == "free_acid" else 0.0
        return sum(oil.profile[ACID_INDEX[acid]] for acid in self.acids)


TRACE_TERMS: tuple[TraceTerm, ...] = (
    TraceTerm("long_saturated", "%", ("C16:0", "C18:0", "C20:0", "C22:0")),
    TraceTerm("short_saturated", "%", ("C12:0", "C14:0")),
    TraceTerm("ricinoleic", "%", ("C18:1-OH",)),
    TraceTerm("oleic", "%", ("C18:1",)),
    TraceTerm(
        "lye_concentration", "points",
        of_conditions=lambda now: now.lye_concentration_percent - coefficient("trace.reference_lye_concentration"),
    ),
    TraceTerm("free_acid", "%", counts_free_acids=True),
    TraceTerm("lactate", "%", of_conditions=lambda now: now.lactate_percent),
    TraceTerm("temperature", "°C", of_conditions=_warmer),
)  # fmt: skip
"""What makes the pace of trace, beside its base."""


def trace_terms(acids: Mapping[str, float], free_acid_percent: float, conditions: Conditions) -> tuple[Term, ...]:
    """Terms of the pace of trace, points; `acids` maps acid ids to percent of all fatty acids."""
    terms = [term("trace_base", coefficient("trace.base"), "trace.base")]
    for rule in TRACE_TERMS:
        amount, rate = rule.amount_of(acids, free_acid_percent, conditions), coefficient(rule.coefficient)
        if amount != 0:
            params = {"amount": number(amount, 1, rule.unit), "rate": number(rate)}
            named = template(f"terms.trace.{rule.id}")
            terms.append(Term(amount * rate, "trace", params, (rule.coefficient,), named=named))
    return tuple(terms)


def trace_of_oil(oil: Oil) -> float:
    """What a pure oil adds to the pace of trace, points.

    >>> from sapolin.core.materials.catalogue import catalogue
    >>> castor, coconut, olive = (trace_of_oil(catalogue()[oil]) for oil in ("castor", "coconut", "olive-refined"))
    >>> castor > coconut > 0 > olive
    True
    """
    return sum(
        coefficient(rule.coefficient) * rule.amount_in(oil) for rule in TRACE_TERMS if rule.of_conditions is None
    )  # fmt: skip


def _trace_of_the_rest(conditions: Conditions, _: Sequence[Adjustment]) -> float:
    return coefficient("trace.base") + sum(
        coefficient(rule.coefficient) * rule.of_conditions(conditions)
        for rule in TRACE_TERMS
        if rule.of_conditions is not None
    )


def _firmness_of_oil(oil: Oil) -> float:
    glassy = coefficient("firmness.ricinoleic") * oil.profile[ACID_INDEX["C18:1-OH"]]
    return coefficient("firmness.young_fraction") * (qualities()["hardness"].points(oil.profile) + glassy)


def _firmness_of_the_rest(_: Conditions, adjustments: Sequence[Adjustment]) -> float:
    lasting = coefficient("firmness.young_fraction") * effect_on(adjustments, "hardness")
    return lasting + effect_on(adjustments, "firmness_at_unmould")


def saturated_percent_of(oil: Oil) -> float:
    """Saturated acids of a pure oil, % of all its fatty acids.

    >>> from sapolin.core.materials.catalogue import catalogue
    >>> saturated_percent_of(catalogue()["coconut"]) > 90
    True
    """
    return sum(share for share, acid in zip(oil.profile, ACIDS, strict=True) if acid.double_bonds == 0)


class LinearQuantity(NamedTuple):
    """A quantity that every oil gives in proportion to its share."""

    id: str
    axis_minimum: float
    axis_maximum: float
    """Ends of the scale it is drawn on."""
    of_oil: Callable[[Oil], float]
    """What a pure oil shows, in the unit of the quantity."""
    of_the_rest: Callable[[Conditions, Sequence[Adjustment]], float] = lambda _conditions, _adjustments: 0.0
    """What superfat, water and additives add, whatever the oils are."""

    @property
    def name(self) -> str:
        """What it is called."""
        return template(f"features.{self.id}")


LINEAR_QUANTITIES: dict[str, LinearQuantity] = {
    quantity.id: quantity
    for quantity in (
        LinearQuantity("iodine_value", 0, 140, lambda oil: iodine_value_of(oil.profile)),
        LinearQuantity("saturated_percent", 0, 100, saturated_percent_of),
        LinearQuantity("trace_points", 0, 80, trace_of_oil, _trace_of_the_rest),
        LinearQuantity("firmness_at_unmould", 0, 80, _firmness_of_oil, _firmness_of_the_rest),
    )
}
"""By id, in the order they are offered as targets."""
