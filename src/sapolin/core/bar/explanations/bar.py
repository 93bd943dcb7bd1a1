"""Explanations of what to expect of a bar: rules of thumb with this formula's numbers in them.

Each is laid out from the declaration of the expectation, so that it cannot say anything else than the value does.
"""

from collections.abc import Callable, Sequence

from sapolin.core.bar.expectations import EXPECTATIONS, Expectation
from sapolin.core.bar.explanations.desk import BY_RULE_OF_THUMB, Desk, Explanation, Term, signed_sum
from sapolin.core.bar.terms import Term as RuleTerm
from sapolin.core.quantities.coefficients import coefficient, coefficients

__all__ = ["BAR_QUANTITIES"]


def _named(terms: Sequence[RuleTerm], bounds: Sequence[str]) -> tuple[str, ...]:
    """The coefficients that went in, as assumptions, each once."""
    keys = dict.fromkeys((*(key for term in terms for key in term.coefficients), *bounds))
    entries = (coefficients()[key] for key in keys)
    return tuple(f"{entry.meaning} Here {coefficient(entry.id):g} {entry.unit}." for entry in entries)


def _bounded(expectation: Expectation, value: float, unbounded: float) -> str:
    """What a bound made of the terms, if one took hold."""
    if abs(value - unbounded) < 1e-9:
        return ""
    side = "never less than" if value > unbounded else "never more than"
    return f" = {unbounded:,.1f} {expectation.unit}; {side} {value:g}".replace("-", "−")


def _expectation(desk: Desk, expectation: Expectation) -> Explanation:
    expected = expectation.of(desk.bar)
    terms, is_sum = expected.terms, expectation.combine == "sum"
    if is_sum:
        rule, numbers = "sum of the terms below", signed_sum([term.value for term in terms], 1)
    else:
        rule = " × ".join(f"{term.label.lower()}: {term.expression}" for term in terms)
        numbers = " × ".join(f"{term.value:.3g}" for term in terms)
    bounds = [bound for bound in (expectation.least, expectation.most) if isinstance(bound, str)]
    return desk.explanation(
        expectation.id, expectation.name, expected.value, expectation.unit, rule,
        numbers + _bounded(expectation, expected.value, expected.unbounded),
        terms=tuple(Term(label=term.label, expression=term.expression, value=term.value) for term in terms if is_sum),
        terms_unit=expectation.unit, assumes=(*expectation.notes(desk.bar), *_named(terms, bounds)),
        certainty=BY_RULE_OF_THUMB, cites=("craft",),
    )  # fmt: skip


BAR_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {
    name: lambda desk, expectation=expectation: _expectation(desk, expectation)  # type: ignore[misc]
    for name, expectation in EXPECTATIONS.items()
}
"""Explanations by quantity id."""
