"""Blends: from shares or weights to the oils that go into the pot, and the edits that keep a blend whole.

These functions expect a blend that :mod:`sapolin.core.formula.check` has passed, unless they say otherwise.
"""

from collections.abc import Iterator, Sequence
from typing import Any, Literal

from sapolin.core.formula.document import Blend, Line, PercentBlend, PercentLine, WeightBlend, WeightLine
from sapolin.core.materials.catalogue import Catalogue, MixtureComponent, Oil
from sapolin.core.quantities.diagnostics import FormulaError, Problem

__all__ = ["Component", "balanced", "components_of", "converted", "mix", "pure_oils", "share_sum_percent", "sketch"]


MOST_READABLE = 1e9
"""No share and no weight in g comes near this."""


class Component:
    """One oil as it goes into the pot."""

    __slots__ = ("oil", "share_percent", "weight_g")

    def __init__(self, oil: Oil, share_percent: float, weight_g: float) -> None:
        self.oil = oil
        self.share_percent = share_percent
        self.weight_g = weight_g


def share_sum_percent(blend: PercentBlend) -> float:
    """Sum of the shares entered so far, %."""
    return sum(line.share_percent or 0.0 for line in blend.lines)


def _amounts(blend: Blend) -> list[float]:
    if isinstance(blend, PercentBlend):
        return [line.share_percent or 0.0 for line in blend.lines]
    return [line.weight_g or 0.0 for line in blend.lines]


def components_of(blend: Blend, catalogue: Catalogue) -> tuple[Component, ...]:
    """The oils of a complete `blend`, in its order; shares sum to 100 and weights to the total.

    Shares within the sum tolerance of 100 are scaled to 100 exactly, so that the masses balance.
    """
    amounts = _amounts(blend)
    entered = sum(amounts)
    total_g = (blend.total_oils_g or 0.0) if isinstance(blend, PercentBlend) else entered
    return tuple(
        Component(catalogue[line.oil], 100 * amount / entered, total_g * amount / entered)
        for line, amount in zip(blend.lines, amounts, strict=True)
    )


def pure_oils(components: Sequence[Component], catalogue: Catalogue) -> tuple[Component, ...]:
    """`parts` with every mixture taken apart into the oils it is made of; the same oil from several comes together.

    Fillers are left out, so the shares of a blend with a soap grade oil may sum to less than 100.
    """
    weights: dict[str, float] = {}
    total_g = sum(component.weight_g for component in components)
    for component in components:
        for piece in component.oil.components or (MixtureComponent(oil=component.oil.id, share_percent=100.0),):
            weights[piece.oil] = weights.get(piece.oil, 0.0) + component.weight_g * piece.share_percent / 100
    return tuple(Component(catalogue[oil], 100 * weight / total_g, weight) for oil, weight in weights.items())


def sketch(blend: Blend, catalogue: Catalogue) -> tuple[Component, ...]:
    """What can be drawn of any `blend`, finished or not: known oils with an amount, as shares of what is entered."""
    known = [
        (catalogue[line.oil], amount)
        for line, amount in zip(blend.lines, _amounts(blend), strict=True)
        if line.oil in catalogue and amount > 0
    ]
    entered = sum(amount for _, amount in known)
    return tuple(Component(oil, 100 * amount / entered, amount) for oil, amount in known)


def mix(components: Sequence[Component], quantity: Sequence[float]) -> float:
    """Share-weighted mean of one `quantity` per part, in the unit of the quantity."""
    return sum(component.share_percent * value for component, value in zip(components, quantity, strict=True)) / 100


def converted(blend: Blend, to: Literal["percent", "weight"]) -> Blend:
    """The same oils led by shares or by weights. Entries still empty stay empty; nothing is scaled.

    From percent to weight, a share s of a total T becomes s*T/100 whatever the shares sum to; back, a weight w
    becomes 100*w over the sum. Raises FormulaError when shares have no total to turn into weights with.
    """
    if blend.by == to:
        return blend
    wrong = tuple(_beyond_reading(blend))
    if wrong:
        raise FormulaError(wrong)
    if isinstance(blend, PercentBlend):
        total_g = blend.total_oils_g
        if total_g is None:
            raise FormulaError([_no_total()])
        return WeightBlend(
            by="weight",
            lines=tuple(
                WeightLine(
                    **_but_its_amount(line),
                    weight_g=None if line.share_percent is None else line.share_percent * total_g / 100,
                )
                for line in blend.lines
            ),
        )
    entered_g = sum(_amounts(blend))
    return PercentBlend(
        by="percent",
        total_oils_g=entered_g or None,
        lines=tuple(
            PercentLine(
                **_but_its_amount(line),
                share_percent=None if line.weight_g is None or not entered_g else 100 * line.weight_g / entered_g,
            )
            for line in blend.lines
        ),
    )


def _beyond_reading(blend: Blend) -> Iterator[Problem]:
    """Amounts that no share or weight can be made of. What is merely out of its limits is converted, and said elsewhere."""
    entry = "share_percent" if isinstance(blend, PercentBlend) else "weight_g"
    given = [(f"blend.lines[{i}].{entry}", amount) for i, amount in enumerate(_amounts(blend))]
    if isinstance(blend, PercentBlend):
        given.append(("blend.total_oils_g", blend.total_oils_g or 0.0))
    for field, amount in given:
        if not 0 <= amount <= MOST_READABLE:
            yield Problem(
                code="out_of_range", severity="impossible", field=field,
                message=f"{amount:,.6g} is no amount that can be shared out.", remedy="Correct it first.",
            )  # fmt: skip


def _but_its_amount(line: Line) -> dict[str, Any]:
    """Everything else that a line says: which oil, whether it is held, when it goes in."""
    return line.model_dump(exclude={"share_percent", "weight_g"})


def balanced(blend: PercentBlend, onto: int | None = None) -> PercentBlend:
    """Shares brought to a sum of 100.

    With `onto` (position of a line) that oil alone takes up the difference; without, every share that is not held
    is scaled alike. Empty entries count as 0. Shares are rounded to 0.01, the last rounding falling on the largest
    that moved.

    Raises FormulaError when the oils that may move cannot take up the difference.
    """
    shares = _amounts(blend)
    movable = [i for i, line in enumerate(blend.lines) if not line.locked and shares[i] > 0] if onto is None else [onto]
    if any(not 0 <= position < len(shares) for position in movable):
        raise FormulaError([_cannot_balance("There is no such line in the blend.", "Choose one of its oils.")])
    fixed = sum(share for i, share in enumerate(shares) if i not in movable)
    room = 100 - fixed
    movable_sum = sum(shares[i] for i in movable)
    if room < 0 or not movable or (onto is None and movable_sum <= 0):
        raise FormulaError([
            _cannot_balance(
                f"The shares that stay put already sum to {fixed:g} %." if movable else "Every share is held or empty.",
                "Let go of a held oil, or lower one by hand.",
            )
        ])  # fmt: skip
    for i in movable:
        shares[i] = round(room if onto is not None else shares[i] * room / movable_sum, 2)
    largest = max(movable, key=lambda i: shares[i])
    shares[largest] = round(shares[largest] + 100 - sum(shares), 6)
    return blend.model_copy(
        update={
            "lines": tuple(
                line.model_copy(update={"share_percent": share})
                for line, share in zip(blend.lines, shares, strict=True)
            )
        }
    )


def _no_total() -> Problem:
    return Problem(
        code="total_missing",
        severity="incomplete",
        field="blend.total_oils_g",
        message="Shares become weights only with a weight of oils to share out.",
        remedy="Enter the weight of all oils together.",
    )


def _cannot_balance(message: str, remedy: str) -> Problem:
    return Problem(code="cannot_balance", severity="impossible", field="blend.lines", message=message, remedy=remedy)
