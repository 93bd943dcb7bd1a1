"""Everything that can be wrong with a formula before it is reckoned, said at the entry where it is."""

from collections.abc import Iterator
from typing import Literal

from sapolin.core.blend import portions, share_sum_percent
from sapolin.core.catalogue import Catalogue
from sapolin.core.formula import Formula, PercentBlend
from sapolin.core.limits import LIMITS, SUM_TOLERANCE_PERCENT
from sapolin.core.lye import koh_need_g, naoh_to_weigh_g
from sapolin.core.problems import Problem, Severity
from sapolin.core.qualities import purposes
from sapolin.core.water import water_g

__all__ = ["State", "problems_of", "state_of"]

State = Literal["empty", "incomplete", "impossible", "unsafe", "complete"]
"""Whether a formula is safe to make: complete; unsafe (reckoned, lye-heavy); or not reckoned and why."""


def _problem(code: str, severity: Severity, field: str, message: str, remedy: str) -> Problem:
    return Problem(code=code, severity=severity, field=field, message=message, remedy=remedy)


def _within(limit_id: str, value: float | None, field: str) -> Iterator[Problem]:
    limit = LIMITS[limit_id]
    if value is None:
        yield _problem("missing", "incomplete", field, f"{limit.name} is not entered yet.", f"Enter {limit.span}.")
    elif not limit.holds(value):
        remedy = f"Enter {limit.span}."
        if limit_id == "naoh_purity_percent" and LIMITS[limit_id].holds(value * 100):
            remedy = f"Did you mean {value * 100:g} %? {remedy}"
        unit = f" {limit.unit}" if limit.unit else ""
        yield _problem(
            "out_of_range", "impossible", field,
            f"{limit.name} {value:,.10g}{unit} is outside {limit.span}: {limit.reason}.", remedy,
        )  # fmt: skip


def _lines(formula: Formula, catalogue: Catalogue) -> Iterator[Problem]:
    blend = formula.blend
    if not blend.lines:
        yield _problem("no_oils", "incomplete", "blend.lines", "There are no oils in the blend yet.", "Add an oil.")
    for i, line in enumerate(blend.lines):
        if line.oil not in catalogue:
            yield _problem(
                "unknown_oil", "impossible", f"blend.lines[{i}].oil",
                f"The catalogue has no oil “{line.oil}”.", "Choose an oil from the catalogue, or remove this line.",
            )  # fmt: skip
    if isinstance(blend, PercentBlend):
        for i, percent_line in enumerate(blend.lines):
            yield from _within("share_percent", percent_line.share_percent, f"blend.lines[{i}].share_percent")
        yield from _within("total_oils_g", blend.total_oils_g, "blend.total_oils_g")
    else:
        for i, weight_line in enumerate(blend.lines):
            yield from _within("weight_g", weight_line.weight_g, f"blend.lines[{i}].weight_g")


def _sum(formula: Formula) -> Iterator[Problem]:
    """Only asked when every amount is entered and possible by itself."""
    blend = formula.blend
    if not isinstance(blend, PercentBlend):
        total_g = sum(line.weight_g or 0.0 for line in blend.lines)
        yield from _within("total_oils_g", total_g, "blend.lines")
        return
    total = share_sum_percent(blend)
    gap = total - 100
    if abs(gap) > SUM_TOLERANCE_PERCENT + 1e-9:
        side = "over" if gap > 0 else "short"
        yield _problem(
            "sum_not_100", "incomplete", "blend.lines",
            f"The shares sum to {total:.10g} %, {abs(gap):.4g} {side}.",
            "Scale the oils that are not held to 100 %, or let one oil take up the difference.",
        )  # fmt: skip


def _water(formula: Formula, catalogue: Catalogue) -> Iterator[Problem]:
    """Only asked when the lye can be reckoned."""
    value = formula.water.value
    if value is None:
        yield _problem(
            "missing", "incomplete", "water.value",
            "Water is not entered yet.", "Enter it in any of the three ways.",
        )  # fmt: skip
        return
    if value <= 0 or (formula.water.by == "lye_concentration_percent" and value >= 100):
        yield _problem(
            "out_of_range", "impossible", "water.value",
            f"Water cannot be {value:g} here: it must leave both lye and water in the solution.",
            "Enter a lye concentration of 25 to 40 %, a water : lye ratio of 1.5 to 3, or 25 to 38 % of oils.",
        )  # fmt: skip
        return
    superfat, purity = formula.superfat_percent, formula.lye.naoh_purity_percent
    if superfat is None or purity is None:
        return
    parts = portions(formula.blend, catalogue)
    oils_g = sum(part.weight_g for part in parts)
    lye_g = naoh_to_weigh_g(koh_need_g(parts), superfat, purity)
    weight_g = water_g(formula.water.by, value, lye_g=lye_g, oils_g=oils_g)
    limit = LIMITS["water_to_lye"]
    if weight_g < lye_g * limit.minimum * (1 - 1e-9):
        yield _problem(
            "water_below_floor", "impossible", "water.value",
            f"{weight_g:,.1f} g of water cannot dissolve {lye_g:,.1f} g of lye, which takes its own weight at least.",
            f"Raise the water to {lye_g:,.1f} g or more: lye concentration at most 50 %, water : lye at least 1, "
            f"or {100 * lye_g / oils_g:.1f} % of oils.",
        )  # fmt: skip
    elif weight_g > lye_g * limit.maximum:
        yield _problem(
            "out_of_range", "impossible", "water.value",
            f"{weight_g:,.1f} g of water is more than {limit.maximum:g} times the lye: {limit.reason}.",
            "Usual are 1.5 to 3 times the lye.",
        )  # fmt: skip


def _unsafe(formula: Formula) -> Iterator[Problem]:
    superfat = formula.superfat_percent
    if superfat is not None and LIMITS["superfat_percent"].holds(superfat) and superfat < 0:
        yield _problem(
            "lye_heavy", "unsafe", "superfat_percent",
            f"Lye-heavy: {-superfat:g} % more lye than the oils can take. This bar would burn skin.",
            "Raise the superfat to 0 or more; 5 % is usual for skin.",
        )  # fmt: skip


def problems_of(formula: Formula, catalogue: Catalogue) -> tuple[Problem, ...]:
    """Everything to say about `formula`, each at its entry. Later questions wait until earlier ones are settled."""
    found = [*_lines(formula, catalogue)]
    if not found:
        found = [*_sum(formula)]
    blend_is_settled = not found
    found += _within("superfat_percent", formula.superfat_percent, "superfat_percent")
    found += _within("naoh_purity_percent", formula.lye.naoh_purity_percent, "lye.naoh_purity_percent")
    if formula.purpose not in purposes():
        found.append(
            _problem(
                "unknown_purpose", "impossible", "purpose",
                f"There is no purpose “{formula.purpose}”.", f"Choose one of: {', '.join(purposes())}.",
            )
        )  # fmt: skip
    if blend_is_settled and not found:
        found += _water(formula, catalogue)
    found += _unsafe(formula)
    return tuple(found)


def state_of(formula: Formula, problems: tuple[Problem, ...]) -> State:
    """The state that `problems` leave `formula` in, the worst first."""
    if not formula.blend.lines:
        return "empty"
    severities = {problem.severity for problem in problems}
    states: tuple[Literal["impossible", "incomplete", "unsafe"], ...] = ("impossible", "incomplete", "unsafe")
    return next((state for state in states if state in severities), "complete")
