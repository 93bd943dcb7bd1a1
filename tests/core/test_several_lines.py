"""An oil that stands on several lines of a blend, as when a part of it goes in at trace: everywhere it is one oil."""

import pytest

from conftest import formula_json
from core.batches import plan
from sapolin.core.bar.calculation import calculate
from sapolin.core.batch.plan import SizeBy
from sapolin.core.batch.planned import plan_batch
from sapolin.core.formula.blend import oil_shares
from sapolin.core.formula.changes import changes_between
from sapolin.core.formula.cost import oil_cost
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.solve import SolveQuestion, answer_solve
from sapolin.core.optimise.solve.question import targets_of_purpose
from sapolin.core.optimise.swap import Outgoing, SwapQuestion, answer_swap
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.core.trials.trial import level_runs
from sapolin.exchange.comparison import Column, comparison_rows

LINES = (("olive-refined", 40.0, "start"), ("coconut", 25.0, "start"), ("palm", 30.0, "start"))


def of(*lines: tuple[str, float | None, str]) -> Formula:
    blend = {"total_oils_g": 1000.0, "lines": [{"oil": oil, "value": value, "added": at} for oil, value, at in lines]}
    return Formula.model_validate(formula_json(blend=blend))


SPLIT = of(*LINES, ("olive-refined", 5.0, "at_trace"))
WHOLE = of(("olive-refined", 45.0, "start"), *LINES[1:])


def said(before: Formula, after: Formula) -> list[str]:
    return [plain(change) for change in changes_between(before, after)]


def refused(ask) -> list[tuple[str, str]]:
    with pytest.raises(FormulaError) as error:
        ask()
    return [(one.code, one.path) for one in error.value.problems]


def test_it_is_saponified_like_one():
    split, whole = calculate(of(*LINES, ("olive-refined", 5.0, "start"))), calculate(WHOLE)
    assert split.lye.naoh_g == pytest.approx(whole.lye.naoh_g, rel=1e-12)
    assert [one.points for one in split.qualities] == pytest.approx([one.points for one in whole.qualities])


@pytest.mark.parametrize(
    ("before", "after", "changes"),
    [
        (SPLIT, SPLIT, []), (SPLIT, WHOLE, ["Olive, refined goes in with the others"]),
        (WHOLE, SPLIT, ["Olive, refined goes in at trace"]),
        (SPLIT, of(*LINES, ("olive-refined", 8.0, "at_trace")), ["Olive, refined 45 % → 48 %"]),
        (of(*LINES[:2]), of(*LINES[:2], ("olive-refined", None, "start")), ["Olive, refined 40 % → open"]),
    ],
)  # fmt: skip
def test_what_changed_is_told_of_all_of_it(before, after, changes):
    assert said(before, after) == changes


def test_what_is_left_of_it_has_to_do_for_all_its_lines():
    """450 of 1000 g of oils are olive: 225 g of it make half of that."""
    size = SizeBy(by="limiting", available_g={"olive-refined": 225.0, "palm": 300.0})
    planned = plan_batch(plan().model_copy(update={"formula": SPLIT, "size": size}))
    assert planned.result.total_oils_g == pytest.approx(500.0)
    assert planned.size.limiting == catalogue()["olive-refined"].name


def test_side_by_side_it_has_one_row():
    columns = [
        Column(
            label=label, result=calculate(one), diagnostics=(), cost=oil_cost(oil_shares(one.blend, catalogue()), {})
        )
        for label, one in (("split", SPLIT), ("whole", WHOLE))
    ]
    rows = {row.name: row for row in comparison_rows(columns) if row.group == "Blend"}
    assert rows[catalogue()["olive-refined"].name].values == (45.0, 45.0)
    assert not any(row.differs for row in rows.values())


def test_a_blend_near_it_is_as_near_as_to_the_whole():
    pool = tuple(line.oil for line in WHOLE.blend.lines)

    def moved(formula: Formula) -> list[float | None]:
        asked = SolveQuestion(formula=formula, targets=targets_of_purpose("everyday-body"), prefer="closer", pool=pool)
        return [one.changed_percent for one in answer_solve(asked).solutions]

    assert moved(SPLIT) == pytest.approx(moved(WHOLE))


def test_where_each_oil_needs_one_share_it_is_asked_to_stand_on_one_line():
    swap = SwapQuestion(formula=SPLIT, outgoing=(Outgoing(oil="palm"),))
    assert refused(lambda: answer_swap(swap)) == [("oil_on_two_lines", "formula.blend.lines[3].oil")]
    assert refused(lambda: level_runs(SPLIT, "palm", "Palm", (20.0, 30.0))) == [
        ("oil_on_two_lines", "blend.lines[3].oil")
    ]
