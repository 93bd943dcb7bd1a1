"""Trial sets: one base, one change each, so that what differs in the bars has one cause."""

from collections.abc import Iterator

from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.blend import converted
from sapolin.core.formula.document import AdditiveLine, Blend, Formula, Water
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.own import with_materials
from sapolin.core.optimise.trades import best_trades
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model

__all__ = ["TEST_BATCH_OILS_G", "Trial", "trial_set"]

TEST_BATCH_OILS_G = 500.0
"""A usual test batch (craft rule of thumb)."""
SHARE_POINTS = 5.0


class Trial(Model):
    """The base with one change, at the size of a test batch."""

    id: str
    change: str
    """What is different, in words."""
    shows: str
    """What the bars should show."""
    formula: Formula
    result: FormulaResult


def trial_set(formula: Formula, base: Catalogue | None = None) -> tuple[Trial, ...]:
    """The base itself and single changes worth trying, each calculated. Raises FormulaError when the base cannot be."""
    calculate(formula, base)
    trials = []
    for trial_id, change, shows, changed in _changes(formula, base):
        named = changed.model_copy(
            update={
                "name": f"{formula.name[:80]}, trial: {change}"[:120],
                "notes": f"Trial of “{formula.name}”: {change}. {shows}",
                "blend": _at_test_size(changed),
            }
        )
        try:
            result = calculate(named, base)
        except FormulaError:
            continue
        trials.append(Trial(id=trial_id, change=change, shows=shows, formula=named, result=result))
    return tuple(trials)


def _at_test_size(formula: Formula) -> Blend:
    return converted(formula.blend, "percent_of_oils").model_copy(update={"total_oils_g": TEST_BATCH_OILS_G})


def _changes(formula: Formula, base: Catalogue | None) -> Iterator[tuple[str, str, str, Formula]]:
    yield "base", "as it is", "The bar that all others are compared with.", formula
    superfat = formula.superfat_percent or 0.0
    for step, shows in ((-2.0, "Firmer, more lather, less mild."), (3.0, "Milder, softer, less lather.")):
        if superfat + step >= 1:
            changed = formula.model_copy(update={"superfat_percent": superfat + step})
            yield f"superfat{step:+g}", f"superfat {superfat + step:g} %", shows, changed
    concentration = calculate(formula, base).water.lye_concentration_percent
    for step, shows in (
        (4.0, "Quicker trace, firm sooner, less ash."),
        (-4.0, "Time for swirls, a softer start, more ash."),
    ):
        wanted = round(concentration + step)
        if 22 <= wanted <= 42:
            water = Water(by="lye_concentration_percent", value=float(wanted))
            yield (
                f"water{step:+g}",
                f"lye concentration {wanted} %",
                shows,
                formula.model_copy(update={"water": water}),
            )
    for additive, rate, change, shows in (
        ("sodium-lactate-60", 2.0, "sodium lactate 2 %", "Firmer at unmoulding."),
        ("sugar", 1.5, "sugar 1.5 %", "More open lather; it heats."),
    ):
        if not any(line.additive == additive for line in formula.additives):
            line = AdditiveLine(additive=additive, by="percent_of_oils", value=rate)
            yield additive, change, shows, formula.model_copy(update={"additives": (*formula.additives, line)})
    if formula.process.method == "cold":
        for gel in ("encouraged", "prevented"):
            if formula.process.gel != gel:
                process = formula.process.model_copy(update={"gel": gel})
                shows = "Firmer sooner, even colour." if gel == "encouraged" else "Paler, softer for longer."
                yield f"gel-{gel}", f"gel {gel}", shows, formula.model_copy(update={"process": process})
    yield from _traded(formula, base)


def _traded(formula: Formula, base: Catalogue | None) -> Iterator[tuple[str, str, str, Formula]]:
    """The trades that bring the target ranges nearest, as trials."""
    blend = converted(formula.blend, "percent_of_oils")
    oils = with_materials(catalogue() if base is None else base, formula.materials)
    for trade in best_trades(formula, SHARE_POINTS, base)[:2]:
        moved = {trade.give: -trade.points, trade.take: trade.points}
        lines = tuple(
            line.model_copy(update={"value": round((line.value or 0.0) + moved.get(line.oil, 0.0), 6)})
            for line in blend.lines
        )
        changed = formula.model_copy(update={"blend": blend.model_copy(update={"lines": lines})})
        change = f"{trade.points:g} points of {oils[trade.take].name.lower()} for {oils[trade.give].name.lower()}"
        yield (
            f"trade-{trade.give}-{trade.take}",
            change,
            "Brings the quality scales nearer to their target ranges.",
            changed,
        )
