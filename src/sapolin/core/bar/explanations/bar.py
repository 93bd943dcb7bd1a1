"""Explanations of what to expect of a bar: rules of thumb with this formula's numbers in them.

Each is laid out from the declaration of the expectation, so that it cannot say anything else than the value does.
"""

from collections.abc import Callable, Sequence

from sapolin.core.bar.expectations import EXPECTATIONS, Expectation
from sapolin.core.bar.explanations.desk import Desk, Explanation, Term, signed_sum
from sapolin.core.bar.terms import Term as RuleTerm
from sapolin.core.quantities.coefficients import coefficient, coefficients
from sapolin.core.quantities.text import Text, joined, number, significant, text

__all__ = ["BAR_QUANTITIES"]


def _named(terms: Sequence[RuleTerm], bounds: Sequence[str]) -> tuple[Text, ...]:
    """The coefficients that went in, as assumptions, each once."""
    keys = dict.fromkeys((*(key for term in terms for key in term.coefficients), *bounds))
    entries = (coefficients()[key] for key in keys)
    return tuple(
        text("explanation.coefficient", meaning=entry.meaning, value=number(coefficient(entry.id), unit=entry.unit))
        for entry in entries
    )


def _bounded(expectation: Expectation, numbers: Text, value: float, unbounded: float) -> Text:
    """The numbers, and what a bound made of them if one took hold."""
    if abs(value - unbounded) < 1e-9:
        return numbers
    side = "less" if value > unbounded else "more"
    held = number(unbounded, 1, expectation.unit)
    return text(f"explanation.never_{side}", numbers=numbers, unbounded=held, value=number(value))


def _expectation(desk: Desk, expectation: Expectation) -> Explanation:
    expected = expectation.of(desk.bar)
    terms, is_sum = expected.terms, expectation.combine == "sum"
    if is_sum:
        rule, numbers = text("explanation.sum_of_terms"), signed_sum([term.value for term in terms], 1)
    else:
        factors = (
            text("explanation.factor", label=term.label.lower(), expression=term.expression) for term in terms
        )  # fmt: skip
        rule, numbers = joined(factors, " × "), joined((significant(term.value, 3) for term in terms), " × ")
    bounds = [bound for bound in (expectation.least, expectation.most) if isinstance(bound, str)]
    return desk.explanation(
        expectation.id, expectation.name, expected.value, expectation.unit, rule,
        _bounded(expectation, numbers, expected.value, expected.unbounded),
        terms=tuple(Term(label=term.label, expression=term.expression, value=term.value) for term in terms if is_sum),
        terms_unit=expectation.unit, assumes=(*expectation.notes(), *_named(terms, bounds)),
        certainty="rule_of_thumb", cites=("craft",),
    )  # fmt: skip


BAR_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {
    name: lambda desk, expectation=expectation: _expectation(desk, expectation)  # type: ignore[misc]
    for name, expectation in EXPECTATIONS.items()
}
"""Explanations by quantity id."""
