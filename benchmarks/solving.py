"""Swaps, solves and trades, beside the plain mixed-integer model, in one run."""

import random
import statistics
import time
from collections.abc import Callable

from core.plain_milp import plain_milp
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.solve import SolveQuestion, Target
from sapolin.core.optimise.solve.answer import solve_model
from sapolin.core.optimise.solve.branch import Progress, find_best, value_within
from sapolin.core.optimise.solve.front import front_of
from sapolin.core.optimise.solve.question import targets_of_purpose
from sapolin.core.optimise.swap import Outgoing, SwapQuestion, answer_swap
from sapolin.core.optimise.trades import best_trades

SHELF = (
    "olive-refined", "coconut", "palm", "shea", "castor", "cocoa", "mango", "sunflower-high-oleic", "canola", "lard",
    "tallow-beef", "soy-wax", "rice-bran", "avocado", "almond-sweet", "babassu", "kokum", "grapeseed", "hemp",
    "apricot-kernel",
)  # fmt: skip
MILP_SECONDS = 20.0
"""After this the plain model is stopped."""
OURS_SECONDS = 2.0
"""After this a search ends with a stated gap, as in the application."""
WIDTHS = {
    "hardness": 6,
    "wear_life": 6,
    "cleansing": 4,
    "conditioning": 6,
    "open_lather": 5,
    "dense_lather": 6,
    "oxidation_load": 5,
}


def questions(formula: Formula, count: int, **changes: object) -> list[SolveQuestion]:
    """Eight target ranges each, set around a seeded blend of five everyday oils and moved by up to three points, so that some
    can be met and some cannot."""
    made = []
    for seed in range(count):
        chance = random.Random(seed)
        oils = chance.sample(SHELF, 5)
        cuts = [chance.randint(5, 40) for _ in oils]
        lines = [
            {"oil": oil, "by": "weight_g", "value": 1000.0 * cut / sum(cuts)}
            for oil, cut in zip(oils, cuts, strict=True)
        ]
        content = formula.model_dump(mode="json") | {"blend": {"lines": lines}}
        result = calculate(Formula.model_validate(content))
        middles = {quantity.quality: quantity.points + chance.uniform(-3, 3) for quantity in result.qualities}
        middles["iodine_value"] = result.indices.iodine_value
        target_ranges = [
            Target(
                feature=feature,
                minimum=middle - WIDTHS.get(feature, 8) / 2,
                maximum=middle + WIDTHS.get(feature, 8) / 2,
            )
            for feature, middle in middles.items()
        ]
        made.append(SolveQuestion(formula=formula, targets=tuple(target_ranges), **changes))
    return made


def _timed(act: Callable[[], object]) -> tuple[float, object]:
    start = time.perf_counter()
    result = act()
    return (time.perf_counter() - start) * 1000, result


def _swaps(formula: Formula, *, with_specialties: bool) -> list[float]:
    durations = []
    for oil in ("olive-refined", "palm", "coconut"):
        question = SwapQuestion(
            formula=formula, outgoing=(Outgoing(oil=oil),), most_replacements=3, with_specialties=with_specialties
        )  # fmt: skip
        durations += [_timed(lambda question=question: answer_swap(question))[0] for _ in range(5)]
    return durations


def measure_solving(formula: Formula, report: Callable[[str, float, str, float], None]) -> None:
    """Print medians against the aims, and the ratio to the plain model."""
    swaps = _swaps(formula, with_specialties=False)
    report("swap, up to 3 from the usual catalogue, median", statistics.median(swaps), "ms", 150)
    wide = _swaps(formula, with_specialties=True)
    report(f"swap, up to 3 of all {len(catalogue())} materials, median", statistics.median(wide), "ms", 150)
    for what, count, aim, changes in (
        ("solve, 8 target ranges, 20-oil shelf, at most 6 oils", 12, 60.0, {"pool": SHELF, "most_oils": 6}),
        ("solve, 8 target ranges, usual oils, at most 5 oils", 12, 60.0, {"most_oils": 5}),
        (
            "solve, 8 target ranges, all materials, at most 5 oils",
            8,
            60.0,
            {"with_specialties": True, "most_oils": 5},
        ),
    ):
        ours_ms, plain_ms, first_ms, proven = [], [], [], 0
        for question in questions(formula, count, **changes):
            model = solve_model(question)
            seen: list[float] = []
            start = time.perf_counter()

            def note(progress: Progress, start: float = start, seen: list[float] = seen) -> str:
                if progress.shares is not None and not seen:
                    seen.append((time.perf_counter() - start) * 1000)
                return "on" if time.perf_counter() - start < OURS_SECONDS else "enough"

            spent, best = _timed(lambda model=model, note=note: find_best(model, report=note))
            plain_spent, (value, is_proven) = _timed(lambda model=model: plain_milp(model, MILP_SECONDS))
            ours_ms.append(spent)
            plain_ms.append(plain_spent)
            first_ms.append(seen[0] if seen else spent)
            proven += best.status == "proven"
            if (
                is_proven
                and best.status == "proven"
                and not value_within(model, best.value) - 1e-6 <= value <= best.value + 1e-6
            ):
                print(f"  DIFFERENT VALUES: ours {best.value}, plain model {value}")
        report(f"{what}, median", statistics.median(ours_ms), "ms", aim)
        report("  first blend on hand, median", statistics.median(first_ms), "ms", 50)
        print(f"  proven {proven} of {count}; slowest {max(ours_ms):.0f} ms")
        ratio = statistics.median(plain_ms) / statistics.median(ours_ms)
        print(f"  plain model, median {statistics.median(plain_ms):.0f} ms: {ratio:.1f} times as long (aim 10)")
    _measure_choice(formula, report)
    trades = [_timed(lambda: best_trades(formula))[0] for _ in range(30)]
    report("trades of a seven-oil formula, median", statistics.median(trades), "ms", 20)


def _measure_choice(formula: Formula, report: Callable[[str, float, str, float], None]) -> None:
    """Safe against the lot, and the front along the price."""
    prices = {oil: 2.0 + (i * 7 % 11) for i, oil in enumerate(SHELF)}
    for what, aim, act in (
        ("solve that holds whatever arrives, median", 500.0,
         lambda question: find_best(solve_model(question.model_copy(update={"holds_whatever_arrives": True})))),
        ("front of price against fit, median", 1000.0,
         lambda question: front_of(question.model_copy(update={"prices": prices}), "price_per_kg")),
    ):  # fmt: skip
        asked = SolveQuestion(formula=formula, targets=targets_of_purpose("everyday-body"))
        report(what, statistics.median(_timed(lambda act=act, asked=asked: act(asked))[0] for _ in range(5)), "ms", aim)
