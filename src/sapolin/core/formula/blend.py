"""Blends: the oils and their amounts, however they were entered, and the edits that keep a blend whole."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from sapolin.core.formula.document import AmountBasis, Blend, OilLine
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.text import number, percent

__all__ = [
    "OilShare", "balanced", "by_oil", "converted", "entered_shares", "oil_shares", "one_line_each", "share_sum_percent",
]  # fmt: skip

MOST_READABLE = 1e9
"""No share and no weight in g comes near this."""


class OilShare(NamedTuple):
    """One oil with its amount said both ways."""

    oil: Oil
    share_percent: float
    weight_g: float


def by_oil(amounts: Iterable[tuple[str, float]]) -> dict[str, float]:
    """Amounts of oils by their id, in the order in which they come first: an oil may stand on several lines of a blend, as when
    a part of it goes in at trace.

    >>> by_oil([("olive", 40.0), ("coconut", 25.0), ("olive", 5.0)])
    {'olive': 45.0, 'coconut': 25.0}
    """
    found: dict[str, float] = {}
    for oil, amount in amounts:
        found[oil] = found.get(oil, 0.0) + amount
    return found


def one_line_each(blend: Blend, oils: Catalogue) -> Iterator[Diagnostic]:
    """What stands in the way of trying other shares of each oil: an oil on several lines has no share that could be tried."""
    seen: set[str] = set()
    for i, line in enumerate(blend.lines):
        if line.oil in seen:
            name = oils[line.oil].name if line.oil in oils else line.oil
            yield stopping("oil_on_two_lines", f"blend.lines[{i}].oil", name=name)
        seen.add(line.oil)


def share_sum_percent(blend: Blend) -> float:
    """Sum of the shares entered so far, %; what is entered by weight is not among them.

    >>> share_sum_percent(Blend(total_oils_g=500.0, lines=(OilLine(oil="olive", value=70.0),)))
    70.0
    """
    return sum(line.value or 0.0 for line in blend.lines if line.by == "percent_of_oils")


def _weights_g(blend: Blend) -> list[float]:
    """The weight of every line, g.

    Shares within the sum tolerance of 100 are scaled to 100 exactly, so that the masses balance. Where some oils are entered
    by weight and some by share, the weights fill what the shares leave of 100 %.
    """
    weighed_g = sum(line.value or 0.0 for line in blend.lines if line.by == "weight_g")
    shares = share_sum_percent(blend)
    if weighed_g > 0:
        total_g, whole = (weighed_g / (1 - shares / 100), 100.0) if shares > 0 else (weighed_g, 100.0)
    else:
        total_g, whole = blend.total_oils_g or 0.0, shares
    return [
        (line.value or 0.0) if line.by == "weight_g" else total_g * (line.value or 0.0) / whole if whole else 0.0
        for line in blend.lines
    ]


def oil_shares(blend: Blend, oils: Catalogue) -> tuple[OilShare, ...]:
    """The oils of a complete `blend`, in its order; shares sum to 100 and weights to the total."""
    weights = _weights_g(blend)
    total_g = sum(weights)
    return tuple(
        OilShare(oils[line.oil], 100 * grams / total_g, grams) for line, grams in zip(blend.lines, weights, strict=True)
    )


def entered_shares(blend: Blend, oils: Catalogue) -> tuple[OilShare, ...]:
    """What can be shown of any `blend`, finished or not: known oils with an amount, as shares of what is entered.

    Their weights are those of the amounts entered, of no meaning while the blend is led by shares. Where weights are entered
    beside shares, the weights together are what the shares leave of 100 %.
    """
    weighed_g = sum(max(line.value or 0.0, 0.0) for line in blend.lines if line.by == "weight_g")
    shares = share_sum_percent(blend)
    percent_per_g = max(100 - shares, 0.0) / weighed_g if shares > 0 and weighed_g > 0 else 1.0
    known = [
        (oils[line.oil], line.value * (percent_per_g if line.by == "weight_g" else 1.0))
        for line in blend.lines
        if line.oil in oils and line.value is not None
    ]
    known = [(oil, amount) for oil, amount in known if amount > 0]
    entered = sum(amount for _, amount in known)
    return tuple(OilShare(oil, amount / entered * 100, amount) for oil, amount in known)


def converted(blend: Blend, to: AmountBasis) -> Blend:
    """The same oils, every amount entered `to` the other way. Entries still empty stay empty; nothing is scaled.

    From shares to weights, a share s of a total T becomes s*T/100 whatever the shares sum to; back, a weight w becomes 100*w
    over the sum. Raises FormulaError when shares have no total to turn into weights with.
    """
    if all(line.by == to for line in blend.lines) and blend.by == to:
        return blend
    wrong = tuple(_beyond_reading(blend))
    if wrong:
        raise FormulaError(wrong)
    if to == "weight_g":
        return Blend(total_oils_g=None, lines=tuple(_by_weight(line, blend) for line in blend.lines))
    weights = _weights_g(blend)
    entered_g = sum(weights)
    return Blend(
        total_oils_g=entered_g or None,
        lines=tuple(
            line.model_copy(
                update={
                    "by": to,
                    "value": None if line.value is None or not entered_g else 100 * grams / entered_g,
                }
            )
            for line, grams in zip(blend.lines, weights, strict=True)
        ),
    )


def _by_weight(line: OilLine, blend: Blend) -> OilLine:
    if line.by == "weight_g":
        return line
    weighed_g = sum(one.value or 0.0 for one in blend.lines if one.by == "weight_g")
    total_g = weighed_g / (1 - share_sum_percent(blend) / 100) if weighed_g > 0 else blend.total_oils_g
    if total_g is None:
        raise FormulaError([stopping("total_missing", "blend.total_oils_g", is_open=True)])
    return line.model_copy(
        update={"by": "weight_g", "value": None if line.value is None else line.value * total_g / 100}
    )


def _beyond_reading(blend: Blend) -> Iterator[Diagnostic]:
    """Amounts that no share or weight can be made of. What is merely out of its limits is converted, and said elsewhere."""
    given = [(f"blend.lines[{i}].value", line.value) for i, line in enumerate(blend.lines)]
    given.append(("blend.total_oils_g", blend.total_oils_g))
    for field, amount in given:
        if amount is not None and not 0 <= amount <= MOST_READABLE:
            yield stopping("not_shareable", field, amount=number(amount))


def balanced(blend: Blend, onto: int | None = None) -> Blend:
    """Shares brought to a sum of 100.

    With `onto` (position of a line) that oil alone takes up the difference; without, every share that is not locked is scaled
    alike. Empty entries count as 0. Shares are rounded to 0.01, the last rounding falling on the largest that moved.

    Raises FormulaError when the oils that may move cannot take up the difference, or when weights lead.
    """
    if blend.by != "percent_of_oils":
        raise FormulaError([stopping("no_sum_to_reach", "blend.lines")])
    shares = [line.value or 0.0 for line in blend.lines]
    movable = [i for i, line in enumerate(blend.lines) if not line.locked and shares[i] > 0] if onto is None else [onto]
    if any(not 0 <= position < len(shares) for position in movable):
        raise FormulaError([stopping("no_such_line", "blend.lines")])
    fixed = sum(share for i, share in enumerate(shares) if i not in movable)
    room = 100 - fixed
    movable_sum = sum(shares[i] for i in movable)
    if room < 0 or not movable or (onto is None and movable_sum <= 0):
        code = "locked_beyond_100" if movable else "nothing_to_balance"
        raise FormulaError([stopping(code, "blend.lines", sum=percent(fixed))])
    for i in movable:
        shares[i] = round(room if onto is not None else shares[i] * room / movable_sum, 2)
    largest = max(movable, key=lambda i: shares[i])
    shares[largest] = round(shares[largest] + 100 - sum(shares), 6)
    lines = tuple(line.model_copy(update={"value": share}) for line, share in zip(blend.lines, shares, strict=True))
    return blend.model_copy(update={"lines": lines})
