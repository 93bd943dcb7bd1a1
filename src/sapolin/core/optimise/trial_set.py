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
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import Param, number, plain, text

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
                "name": plain(text("trials.named", name=formula.name[:80], change=change))[:120],
                "notes": plain(text("trials.notes", name=formula.name, change=change, shows=shows)),
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


Change = tuple[str, str, str, Formula]
"""Its id, what is different, what it should show, and the formula with it."""


def _change(id: str, words: str, formula: Formula, **params: Param) -> Change:
    change, shows = (plain(text(f"trials.{words}.{part}", **params)) for part in ("change", "shows"))
    return id, change, shows, formula


def _changes(formula: Formula, base: Catalogue | None) -> Iterator[Change]:
    yield _change("base", "base", formula)
    superfat = given(formula.superfat_percent)
    for step, words in ((-2.0, "superfat_less"), (3.0, "superfat_more")):
        if superfat + step >= 1:
            changed = formula.model_copy(update={"superfat_percent": superfat + step})
            yield _change(f"superfat{step:+g}", words, changed, value=number(superfat + step))
    concentration = calculate(formula, base).water.lye_concentration_percent
    for step, words in ((4.0, "less_water"), (-4.0, "more_water")):
        wanted = round(concentration + step)
        if 22 <= wanted <= 42:
            water = Water(by="lye_concentration_percent", value=float(wanted))
            changed = formula.model_copy(update={"water": water})
            yield _change(f"water{step:+g}", words, changed, value=number(wanted))
    for additive, rate in (("sodium-lactate-60", 2.0), ("sugar", 1.5)):
        if not any(line.additive == additive for line in formula.additives):
            line = AdditiveLine(additive=additive, by="percent_of_oils", value=rate)
            changed = formula.model_copy(update={"additives": (*formula.additives, line)})
            yield _change(additive, additive, changed, value=number(rate))
    if formula.process.method == "cold":
        for gel in ("encouraged", "prevented"):
            if formula.process.gel != gel:
                process = formula.process.model_copy(update={"gel": gel})
                yield _change(f"gel-{gel}", f"gel_{gel}", formula.model_copy(update={"process": process}))
    yield from _traded(formula, base)


def _traded(formula: Formula, base: Catalogue | None) -> Iterator[Change]:
    """The trades that bring the target ranges nearest, as trials."""
    blend = converted(formula.blend, "percent_of_oils")
    oils = with_materials(catalogue() if base is None else base, formula.materials)
    for trade in best_trades(formula, SHARE_POINTS, base)[:2]:
        moved = {trade.give: -trade.points, trade.take: trade.points}
        lines = tuple(
            line.model_copy(update={"value": round(given(line.value) + moved.get(line.oil, 0.0), 6)})
            for line in blend.lines
        )
        yield _change(
            f"trade-{trade.give}-{trade.take}", "trade",
            formula.model_copy(update={"blend": blend.model_copy(update={"lines": lines})}),
            points=number(trade.points), take=oils[trade.take].name.lower(), give=oils[trade.give].name.lower(),
        )  # fmt: skip
