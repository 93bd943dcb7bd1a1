# ruff: noqa: E501
"""Questions of every kind put to the optimiser, and what is answered, for the texts that these tests hold it to."""

from collections.abc import Iterator
from typing import Any

from core.batches import GUEST, MILK
from core.strategies import weight_formula
from golden.plans import diagnostic_lines
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.best_move import best_move
from sapolin.core.optimise.solve import SolveQuestion, Target, answer_solve
from sapolin.core.optimise.solve.question import starting_question, targets_of_purpose
from sapolin.core.optimise.swap import Outgoing, SwapQuestion, answer_swap, levers_of
from sapolin.core.optimise.trades import best_trades
from sapolin.core.optimise.trial_set import trial_set
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain

__all__ = [
    "MOVES",
    "SOLVES",
    "SWAPS",
    "advice_lines",
    "lever_lines",
    "move_lines",
    "question_lines",
    "solve_lines",
    "swap_lines",
]

PRICES = {
    "olive-refined": 6.0, "coconut": 3.0, "palm": 2.4, "castor": 5.0, "lard": 2.2, "tallow-beef": 2.0, "shea": 9.0,
    "rice-bran": 4.1, "sunflower-high-oleic": 3.4, "cocoa": 12.5, "babassu": 7.5, "palm-kernel": 2.8,
}  # fmt: skip
OWN_BLEND = {
    "id": "own-soap-mix", "name": "Soap mix", "content": {"kind": "recipe", "filler_percent": 2.0, "components": [
        {"oil": "olive-refined", "share_percent": 60.0}, {"oil": "coconut", "share_percent": 38.0},
    ]},
}  # fmt: skip
PRESSED_HERE = {
    "id": "own-pressed-here", "name": "Pressed here", "palm_derived": "no", "vegan": "yes",
    "content": {"kind": "profile", "solid_at_20_c": False, "acids_percent": {
        "C16:0": 12.0, "C18:0": 3.0, "C18:1": 62.0, "C18:2": 22.0, "C18:3": 1.0,
    }},
}  # fmt: skip


def percent_formula(shares: dict[str, float], total_g: float = 1000.0, **changes: Any) -> Formula:
    """A formula of these shares; oils after `late` go in at trace."""
    lines = [{"oil": oil, "by": "percent_of_oils", "value": share} for oil, share in shares.items()]
    return weight_formula({}, **({"blend": {"total_oils_g": total_g, "lines": lines}} | changes))


BASTILE = {"olive-refined": 72.0, "coconut": 18.0, "castor": 10.0}
KITCHEN = {"lard": 45.0, "olive-refined": 30.0, "coconut": 20.0, "castor": 5.0}
NUTTY = {"almond-sweet": 30.0, "coconut": 28.0, "palm": 28.0, "cocoa": 8.0, "castor": 6.0}
LATE = {"lines": [
    {"oil": "tallow-beef", "by": "weight_g", "value": 450.0}, {"oil": "coconut", "by": "weight_g", "value": 250.0},
    {"oil": "olive-refined", "by": "weight_g", "value": 240.0, "locked": True},
    {"oil": "shea", "by": "weight_g", "value": 60.0, "added": "at_trace"},
]}  # fmt: skip

SWAPS: dict[str, tuple[Formula, dict[str, float], dict[str, Any]]] = {
    # What is to be swapped with what is to stay of it, and how.
    "part of the lard, vegan": (percent_formula(KITCHEN), {"lard": 15.0}, {"free_of": ("animal",), "prices": PRICES}),
    "all of the lard goes": (percent_formula(KITCHEN, free_of=("animal", "palm")), {"lard": 0.0}, {"reason": "vegan"}),
    "dear butter": (
        percent_formula(NUTTY), {"cocoa": 0.0},
        {"reason": "price", "prices": PRICES, "school": "role", "at_hand": ("tallow-beef", "shea")},
    ),
    "nuts go": (
        percent_formula(NUTTY), {"almond-sweet": 0.0},
        {"reason": "allergy", "free_of": ("tree nuts",), "into_target_ranges": False, "most_replacements": 1},
    ),
    "late shea": (weight_formula({}, blend=LATE), {"shea": 0.0}, {"reason": "out_of_stock", "step_percent": 0.5}),
    "tallow, others within four": (
        weight_formula({}, blend=LATE), {"tallow-beef": 0.0}, {"others": "within", "within_points": 4.0},
    ),
    "palm, others free": (weight_formula(GUEST), {"palm": 0.0}, {"others": "free", "free_of": ("palm", "animal")}),
    "palm and coconut, three new": (
        weight_formula(GUEST), {"palm": 0.0, "coconut": 12.0},
        {"most_replacements": 3, "step_percent": 2.0, "pool": ("babassu", "lard", "tallow-beef", "cocoa", "shea", "coconut")},
    ),
    "coconut by lye need": (percent_formula(BASTILE), {"coconut": 0.0}, {"school": "equal_sap"}),
    "olive of a bastile": (percent_formula(BASTILE), {"olive-refined": 0.0}, {"with_specialties": True, "school": "profile"}),
    "castor, nothing else does it": (percent_formula(BASTILE), {"castor": 0.0}, {"forbidden": ("olive-virgin",)}),
    "a mixture of one's own": (
        percent_formula({"own-soap-mix": 55.0, "palm": 40.0, "castor": 5.0}, materials=[OWN_BLEND]), {"palm": 0.0}, {},
    ),
    "half a percent stays, others within three": (
        percent_formula({"olive-refined": 44.5, "coconut": 25.0, "palm": 30.0, "castor": 0.5}), {"palm": 0.0}, {"others": "within", "within_points": 3.0, "step_percent": 2.0, "free_of": ("palm",)},
    ),
    "one other oil moves, by halves": (
        percent_formula({"olive-refined": 44.5, "coconut": 25.0, "palm": 30.0, "castor": 0.5}), {"palm": 20.0}, {"others": "one_moves", "step_percent": 0.5, "pool": ("lard", "tallow-beef", "cocoa")},
    ),
    "a trace of wax goes": (
        percent_formula({"olive-refined": 49.2, "coconut": 25.0, "palm": 25.0, "beeswax": 0.8}), {"beeswax": 0.0}, {"most_replacements": 1},
    ),
    "milk fat stays": (
        weight_formula(GUEST, liquids=[MILK], purpose="dry-skin"), {"palm": 0.0}, {"others": "one_moves", "free_of": ("palm",)},
    ),
}  # fmt: skip


def swap_lines(formula: Formula, going: dict[str, float], changes: dict[str, Any]) -> Iterator[str]:
    outgoing = tuple(Outgoing(oil=oil, keep_percent=keep) for oil, keep in going.items())
    answer = answer_swap(SwapQuestion(formula=formula, outgoing=outgoing, **changes))
    yield f"{plain(answer.words)} {plain(answer.why_first)} {answer.outgoing_percent:.3f} % {answer.outgoing_g:.2f} g"
    yield f"of {answer.allowed} oils, {answer.compared} compared, proven {answer.proven}"
    for job in answer.jobs:
        yield f"job {job.quality}: {job.points:.4f} of {job.of_points:.4f}"
    for candidate in answer.candidates:
        incoming = [f"{one.name} {one.share_percent:g}" for one in (*candidate.incoming, *candidate.moved)]
        yield f"{', '.join(incoming)}: {candidate.match_percent:.3f} %, distance {candidate.distance:.4f}"
        cost = candidate.cost
        if cost.per_kg is not None:
            yield f"    {cost.per_kg:.4f} a kg, {answer.cost_before.per_kg or 0:.4f} before"
        for term in candidate.terms[:4]:
            yield f"    {term.name} {term.change:.4f} {term.term_percent:.3f} %"
        blend = candidate.formula.blend
        lines = ", ".join(
            f"{line.oil} {line.value:g}{'' if line.added == 'start' else ' late'}" for line in blend.lines
        )
        yield f"    {blend.total_oils_g:g} g: {lines}"
        yield from (f"    {plain(line)}" for line in candidate.words)
    for refused in answer.refused:
        yield f"refused {refused.names} {refused.match_percent:.3f} {[one.code for one in refused.diagnostics]}"
    if answer.equal_sap is not None:
        yield f"{plain(answer.equal_sap.words)} {answer.equal_sap.sap_difference_koh_mg_per_g:.3f}"
    for lever in (
        levers_of(answer.candidates[0].formula, answer.before, answer.candidates[0].result) if answer.candidates else ()
    ):
        yield f"lever {lever.id}: {lever.label}. {lever.reason}"


def asked(formula: Formula, *targets: Target, **changes: Any) -> SolveQuestion:
    """A question about these targets, or about those of the purpose."""
    of_purpose = targets_of_purpose(changes.get("purpose") or formula.purpose)
    return SolveQuestion(formula=formula, targets=targets or of_purpose, **changes)


def empty(purpose: str, **changes: Any) -> Formula:
    return percent_formula({}, purpose=purpose, **changes)


SOLVES: dict[str, SolveQuestion] = {
    "dry skin from nothing": asked(empty("dry-skin")),
    "face, no palm, no nuts": asked(empty("face"), free_of=("palm", "tree nuts"), most_oils=4),
    "workshop hands, cheapest": asked(empty("workshop-hands"), prefer="cheaper", prices=PRICES),
    "cleaning block": asked(empty("cleaning-block")),
    "salt bar": asked(empty("salt-bar")),
    "high olive, fewest": asked(empty("high-olive"), prefer="fewer"),
    "liquid": asked(empty("liquid-soap", lye={"naoh_purity_percent": 99.0, "koh": {
        "by": "saponification_percent", "value": 100.0, "purity_percent": 90.0,
    }})),
    "near to the kitchen bar": asked(percent_formula(KITCHEN), prefer="closer"),
    "its own ranges": starting_question(percent_formula(KITCHEN, target_ranges=[
        {"quality": "hardness", "minimum": 38.0, "maximum": 46.0}, {"quality": "cleansing", "minimum": 10.0, "maximum": 15.0},
    ])),
    "keeps longest": asked(weight_formula(GUEST), prefer="longer_shelf", free_of=("palm",), step_percent=2.0),
    "price is a target": asked(
        weight_formula(GUEST), Target(feature="price_per_kg", maximum=3.6), Target(feature="hardness", minimum=36.0, weight=2.0),
        Target(feature="acid:C18:1", minimum=35.0, maximum=45.0, required=True), prices=PRICES,
    ),
    "a pool with limits": asked(
        weight_formula(GUEST), pool=("olive-refined", "coconut", "lard", "shea", "castor", "tallow-beef", "sunflower-high-oleic"),
        limits=({"oil": "shea", "minimum_percent": 5.0}, {"oil": "castor", "maximum_percent": 4.0}),
        groups=({"group": "animal", "maximum_percent": 25.0}, {"group": "soft", "minimum_percent": 40.0, "maximum_percent": 55.0}),
        least_share_percent=4.0,
    ),
    "what the shelf has": asked(
        weight_formula(GUEST), available_g={"olive-refined": 300.0, "coconut": 180.0}, at_hand=("lard", "olive-refined"),
        never=("palm",), purpose="everyday-body",
    ),
    "whatever lots arrive": asked(
        weight_formula(GUEST), Target(feature="hardness", minimum=36.0, maximum=50.0), Target(feature="cleansing", maximum=20.0),
        Target(feature="iodine_value", maximum=65.0), holds_whatever_arrives=True, most_oils=4,
    ),
    "no blend": asked(
        weight_formula(GUEST), Target(feature="cleansing", minimum=30.0), pool=("coconut", "palm-kernel", "babassu"),
    ),
    "one alone cannot be met": asked(weight_formula(GUEST), Target(feature="acid:C18:2", minimum=95.0, required=True)),
    "too few oils": asked(
        weight_formula(GUEST), Target(feature="hardness", minimum=40.0, maximum=42.0), Target(feature="open_lather", minimum=18.0, maximum=20.0),
        Target(feature="dense_lather", minimum=28.0, maximum=29.0), most_oils=2, step_percent=5.0,
    ),
    "good sense lifted": asked(
        weight_formula(GUEST), Target(feature="cleansing", minimum=45.0), Target(feature="conditioning", maximum=20.0),
        lifted=("usual_shares", "rarities"), with_specialties=True,
    ),
    "an oil pressed here": asked(
        percent_formula({"own-pressed-here": 60.0, "coconut": 25.0, "palm": 15.0}, materials=[PRESSED_HERE]),
        limits=({"oil": "own-pressed-here", "minimum_percent": 30.0},), free_of=("palm",),
    ),
    "a late oil stays late": asked(weight_formula({}, blend=LATE), prefer="closer", free_of=("palm",)),
    "late oils alone meet no lye": asked(
        weight_formula({}, blend={"lines": [line | {"added": "at_trace"} for line in LATE["lines"]]}), pool=("tallow-beef", "coconut", "olive-refined"),
    ),
    "nothing cheaper": asked(
        weight_formula({"coconut": 900.0, "olive-refined": 100.0}, purpose="cleaning-block"), pool=("coconut", "olive-refined"), prices={"coconut": 3.0, "olive-refined": 3.0},
    ),
    "milk brings fat": asked(weight_formula(GUEST, liquids=[MILK | {"value": 100.0}]), Target(feature="hardness", minimum=38.0), Target(feature="acid:C14:0", maximum=8.0), Target(feature="cleansing", maximum=19.0)),
    "purity not entered": asked(weight_formula(GUEST, lye={"naoh_purity_percent": None}), purpose="shaving"),
}  # fmt: skip


def solve_lines(question: SolveQuestion) -> Iterator[str]:
    answer = answer_solve(question)
    yield f"{answer.objective} {answer.slack} of {answer.allowed} oils, {answer.nodes} steps, {answer.status}"
    if answer.conflict is not None:
        conflict = answer.conflict
        yield f"conflict {conflict.words} {conflict.targets} {conflict.lift_names}"
        for give in conflict.gives:
            yield f"    {give.target} by {give.points:.4f}: {give.minimum} to {give.maximum}"
    for one in answer.solutions[:2]:
        blend = ", ".join(
            f"{line.oil} {line.value:g}{'' if line.added == 'start' else ' late'}" for line in one.formula.blend.lines
        )
        yield f"{one.formula.blend.total_oils_g:g} g: {blend}"
        yield f"    {one.status} miss {one.miss:.4f}, no less than {one.bound:.4f}, chance {one.chance_in_range_percent:.2f} %"
        yield f"    met {one.is_met}, lye known {one.lye_is_known}, changed {one.changed_percent}, a kg {one.cost.per_kg}"
        for target in one.targets:
            stands = f"{target.value:.4f} ± {target.deviation:.4f}: {target.chance_in_range_percent:.3f} %"
            yield f"    {target.name} {stands}, {target.outside_by:.4f} out"
        yield from (f"    {line}" for line in one.why)


MOVES: dict[str, tuple[Formula, dict[str, Any]]] = {
    "one oil": (percent_formula({"olive-refined": 100.0}), {}),
    "half of a blend": (percent_formula({"coconut": 40.0, "lard": 10.0}), {}),
    "guest": (weight_formula(GUEST), {}),
    "kitchen, no animals": (percent_formula(KITCHEN, free_of=("animal", "palm"), purpose="dry-skin"), {}),
    "coconut locked": (percent_formula({"coconut": 60.0, "olive-refined": 40.0}, blend={"total_oils_g": 900.0, "lines": [
        {"oil": "coconut", "value": 60.0, "locked": True}, {"oil": "olive-refined", "value": 40.0},
    ]}), {}),
    "two ways of entering": (weight_formula({}, blend={"lines": [
        {"oil": "tallow-beef", "by": "weight_g", "value": 350.0}, {"oil": "coconut", "by": "percent_of_oils", "value": 45.0},
    ]}), {}),
    "what one has": (percent_formula({"coconut": 45.0, "sunflower": 55.0}), {"at_hand": ("babassu", "kokum"), "never": ("palm", "lard")}),
    "salt bar": (percent_formula({"coconut": 60.0, "olive-refined": 40.0}, purpose="salt-bar"), {}),
    "shaving": (percent_formula({"olive-refined": 60.0, "coconut": 40.0}, purpose="shaving"), {}),
}  # fmt: skip


def move_lines() -> Iterator[str]:
    """The one move that is offered beside a blend."""
    for name, (formula, changes) in MOVES.items():
        move = best_move(formula, catalogue(), **changes)
        if move is None:
            yield f"== {name}: none"
            continue
        yield f"== {name}: {move.percent:g} % from {move.give_name} to {move.take_name}, new {move.is_new}, {move.nearer_by:.4f} nearer"
        yield from (f"    {one.name} {one.points:.4f}, in range {one.in_range}" for one in move.reached)
        yield f"    {', '.join(f'{line.oil} {line.value:g} {line.by}' for line in move.blend.lines)}"


SOFTER = {
    "a little": {"olive-refined": 390.0, "palm": 250.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0},
    "much": {"olive-refined": 700.0, "palm": 150.0, "coconut": 100.0, "castor": 50.0}, "harder": {"palm": 500.0, "coconut": 450.0, "castor": 50.0},
}  # fmt: skip
AROUND: tuple[dict[str, Any], ...] = (
    {}, {"superfat": 1.0}, {"superfat": 2.0}, {"superfat": 2.9}, {"superfat": 3.0}, {"superfat": 4.0}, {"water": {"by": "lye_concentration_percent", "value": 38.0}},
    {"water": {"by": "lye_concentration_percent", "value": 38.1}}, {"water": {"by": "lye_concentration_percent", "value": 30.4}}, {"process": {"gel": "encouraged"}}, {"process": {"gel": "prevented"}},
    {"process": {"method": "hot"}}, {"process": {"cure_weeks": 9}}, {"additives": [{"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 1.0}]},
    {"additives": [{"additive": "sugar", "by": "percent_of_oils", "value": 1.0}]}, {"liquids": [MILK]},
)  # fmt: skip


def lever_lines() -> Iterator[str]:
    """What else could make up for a softer bar, with everything that may stand around it."""
    for around in AROUND:
        before = calculate(weight_formula(GUEST, **around))
        for name, weights in SOFTER.items():
            formula = weight_formula(weights, **around)
            yield f"== {name}, {around}"
            for lever in levers_of(formula, before, calculate(formula)):
                yield f"{lever.id}: {lever.label}. {lever.reason}"


HARD = Target(feature="hardness", minimum=36.0)
BAD_SOLVES: dict[str, dict[str, Any]] = {
    "unknown target": {"targets": (Target(feature="shine", minimum=1.0),)}, "open target": {"targets": (Target(feature="hardness"),)},
    "reversed target": {"targets": (Target(feature="hardness", minimum=40.0, maximum=39.9),)}, "target of one value": {"targets": (Target(feature="hardness", minimum=40.0, maximum=40.0),), "most_oils": 4},
    "reversed limit": {"limits": ({"oil": "coconut", "minimum_percent": 30.0, "maximum_percent": 29.0},)},
    "limits at 100": {"limits": ({"oil": "coconut", "minimum_percent": 30.0}, {"oil": "lard", "minimum_percent": 70.0})},
    "limits at 100, rare oils too": {"with_specialties": True, "limits": ({"oil": "coconut", "minimum_percent": 30.0}, {"oil": "neem", "minimum_percent": 35.0}, {"oil": "borage", "minimum_percent": 35.0})},
    "limits over 100": {"limits": ({"oil": "coconut", "minimum_percent": 31.0}, {"oil": "lard", "minimum_percent": 70.0})},
    "wanted and forbidden": {"limits": ({"oil": "palm", "minimum_percent": 10.0},), "free_of": ("palm",)}, "forbidden but at 0": {"limits": ({"oil": "palm", "minimum_percent": 0.0},), "free_of": ("palm",)},
    "as many wanted as oils": {"most_oils": 2, "limits": ({"oil": "coconut", "minimum_percent": 20.0}, {"oil": "lard", "minimum_percent": 40.0})},
    "more wanted than oils": {"most_oils": 1, "limits": ({"oil": "coconut", "minimum_percent": 20.0}, {"oil": "lard", "minimum_percent": 40.0})},
    "least share of half": {"most_oils": 2, "least_share_percent": 50.0}, "least share over half": {"most_oils": 2, "least_share_percent": 51.0}, "one oil of all": {"most_oils": 1, "least_share_percent": 60.0},
    "nothing allowed": {"pool": ("palm",), "free_of": ("palm",)}, "nothing priced": {"prefer": "cheaper"}, "an empty pool": {"pool": ()},
    "palm as a group": {"groups": ({"group": "palm", "minimum_percent": 20.0, "maximum_percent": 30.0},)}, "reversed group": {"groups": ({"group": "animal", "minimum_percent": 40.0, "maximum_percent": 20.0},)},
    "wax as a group": {"groups": ({"group": "waxes", "minimum_percent": 2.0},), "with_specialties": True}, "butters as a group": {"groups": ({"group": "butters", "minimum_percent": 15.0, "maximum_percent": 20.0},)},
    "hard oils": {"groups": ({"group": "hard", "maximum_percent": 45.0},)},
}  # fmt: skip
BAD_SWAPS: dict[str, tuple[dict[str, float], dict[str, Any]]] = {
    "not in the blend": ({"hemp": 0.0}, {}), "unknown": ({"unheard-of": 0.0}, {}), "all of it stays": ({"palm": 30.0}, {}), "nearly all stays": ({"palm": 29.9}, {}), "more than there is stays": ({"palm": 40.0}, {}),
    "nothing allowed": ({"palm": 0.0}, {"pool": ("palm-olein",), "free_of": ("palm",)}), "only what is there": ({"palm": 0.0}, {"pool": ("coconut", "castor")}), "everything goes": (dict.fromkeys(GUEST, 0.0), {}),
}  # fmt: skip


def question_lines() -> Iterator[str]:
    """Questions at the edge of what can be asked, and beyond it."""
    guest = weight_formula(GUEST)
    for name, changes in BAD_SOLVES.items():
        try:
            answer = answer_solve(SolveQuestion.model_validate({"formula": guest, "targets": (HARD,)} | changes))
        except FormulaError as refused:
            yield from (f"solve, {name}: {line}" for line in diagnostic_lines(refused.problems))
            continue
        said = "no conflict" if answer.conflict is None else answer.conflict.words
        blends = [
            ", ".join(f"{line.oil} {line.value:g}" for line in one.formula.blend.lines) for one in answer.solutions[:1]
        ]
        yield f"solve, {name}: {said} {blends}"
    for name, (going, changes) in BAD_SWAPS.items():
        outgoing = tuple(Outgoing(oil=oil, keep_percent=keep) for oil, keep in going.items())
        try:
            answered = answer_swap(SwapQuestion(formula=guest, outgoing=outgoing, **changes))
        except FormulaError as refused:
            yield from (f"swap, {name}: {line}" for line in diagnostic_lines(refused.problems))
            continue
        offered = [
            ", ".join(f"{one.name} {one.share_percent:g}" for one in candidate.incoming)
            for candidate in answered.candidates
        ]
        yield f"swap, {name}: {plain(answered.words)} {offered[:2]}"


def advice_lines(guest: Formula) -> Iterator[str]:
    """What is offered around one bar: swaps, trades, trials and blends for two purposes."""
    for changes in ({"free_of": ("palm", "animal")}, {"others": "one_moves"}, {"school": "role", "reason": "price"}):
        yield f"== swap palm {changes}"
        yield from swap_lines(guest, {"palm": 0.0}, changes)
    for trade in best_trades(guest):
        yield f"trade {trade.model_dump(exclude={'formula', 'result'})}"
    for one in trial_set(guest):
        yield f"trial {one.model_dump(include={'id', 'change', 'shows'})}"
    for purpose in ("everyday-body", "shaving"):
        question = SolveQuestion(
            formula=guest.model_copy(update={"purpose": purpose}), targets=targets_of_purpose(purpose),
            free_of=("palm",), prices={"olive-refined": 6.0, "coconut": 3.0, "tallow-beef": 2.0, "castor": 5.0, "lard": 2.2},
        )  # fmt: skip
        yield f"== solve {purpose}"
        yield from solve_lines(question)
    harsh = (
        Target(feature="hardness", minimum=60, maximum=62, required=True),
        Target(feature="conditioning", minimum=55),
    )
    yield "== solve conflict"
    yield from solve_lines(SolveQuestion(formula=guest, targets=harsh))
