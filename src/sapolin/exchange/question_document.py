"""Questions as open documents, and their answers: what to pour, or what could take the place of an oil.

Their schemas are published in ``docs/question.schema.json`` and ``docs/swap-question.schema.json``. No purity of the lye is
needed to ask, and no answer holds a weight of lye: that is calculated once the maker's own tub is known.
"""

import json
from difflib import get_close_matches
from typing import Annotated, Any, Literal, get_args

from pydantic import Field, ValidationError

from sapolin.core.formula.document import FREE_OF_TOGETHER, Formula, FreeOf
from sapolin.core.formula.purposes import purposes
from sapolin.core.formula.starting import formula_for
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.solve import GroupLimit, ShareLimit, SolveAnswer, SolveQuestion, Target
from sapolin.core.optimise.solve.question import targets_of_purpose, with_any_purity
from sapolin.core.optimise.swap import Outgoing, SwapAnswer, SwapQuestion
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, malformed, stopping
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth
from sapolin.core.quantities.text import listed, number, plain
from sapolin.exchange.formula_document import FORMAT as FORMULA_FORMAT
from sapolin.exchange.formula_document import read_document

__all__ = [
    "FORMAT", "FORMAT_VERSION", "QuestionDocument", "SwapQuestionDocument", "question_schemas", "read_question",
    "read_swap_question", "solve_answer_document", "swap_answer_document",
]  # fmt: skip

FORMAT = "sapolin-question"
FORMAT_VERSION = 1
ANSWER_FORMAT = "sapolin-answer"
MAX_BYTES = 1_000_000

Choice = Literal["vegan", "gluten", "nuts"]
Grams = Annotated[FiniteNumber, Field(ge=0, le=1_000_000)]
Wanted = Annotated[tuple[FreeOf | Choice, ...], Field(max_length=20)]


class QuestionDocument(Model):
    """A blend to find."""

    format: Literal["sapolin-question"]
    format_version: Literal[1]
    purpose: str = Field(default="everyday-body", max_length=80)
    """Id of the purpose: its target ranges, superfat and kind of lye, unless others are given."""
    free_of: Wanted = ()
    """What the soap must do without; `vegan`, `gluten` and `nuts` cover several."""
    shelf: Annotated[tuple[EntryId, ...], Field(max_length=200)] | None = None
    """Ids of the oils to choose from; null is whatever workshops usually have."""
    stock_g: Annotated[dict[EntryId, Grams], Field(max_length=200)] = Field(default={})
    """What is left of an oil, g, for a batch of `total_oils_g`."""
    total_oils_g: Annotated[FiniteNumber, Field(ge=10, le=500_000)] = 1000.0
    """All oils of the batch, g."""
    most_oils: Annotated[int, Field(ge=1, le=9)] = 5
    targets: Annotated[tuple[Target, ...], Field(max_length=24)] | None = None
    """What it should be; null takes the target ranges of the purpose."""
    limits: Annotated[tuple[ShareLimit, ...], Field(max_length=40)] = ()
    groups: Annotated[tuple[GroupLimit, ...], Field(max_length=10)] = ()
    prefer: Literal["none", "closer", "cheaper", "longer_shelf", "fewer"] = "none"
    prices: Annotated[dict[EntryId, Grams], Field(max_length=200)] = Field(default={})
    """Price per kg by oil id."""
    formula: dict[str, Any] | None = None
    """A formula document that surrounds the blend; its purpose and superfat go before those above."""
    superfat_percent: Annotated[FiniteNumber, Field(ge=-5, le=40)] | None = None
    lifted: Annotated[tuple[str, ...], Field(max_length=40)] = ()
    """Limits of good sense to lift, such as `usual_shares`, `share:lauric` or `brittle`."""
    holds_whatever_arrives: Truth = False
    with_specialties: Truth = False
    least_share_percent: Annotated[FiniteNumber, Field(ge=0, le=100)] = 3.0
    step_percent: Annotated[FiniteNumber, Field(ge=0.5, le=5)] = 1.0


class SwapQuestionDocument(Model):
    """An oil to take out of a formula."""

    format: Literal["sapolin-question"]
    format_version: Literal[1]
    formula: dict[str, Any]
    """A formula document."""
    outgoing: Annotated[tuple[Outgoing | EntryId, ...], Field(min_length=1, max_length=10)]
    """What goes, by id, or with the share that may stay."""
    reason: Literal["principle", "allergy", "vegan", "out_of_stock", "price", "trace", "shelf_life"] = "principle"
    school: Literal["profile_and_role", "profile", "role", "equal_sap"] = "profile_and_role"
    free_of: Wanted = ()
    shelf: Annotated[tuple[EntryId, ...], Field(max_length=200)] | None = None
    most_replacements: Annotated[int, Field(ge=1, le=3)] = 2
    others: Literal["locked", "one_moves", "within", "free"] = "locked"
    into_target_ranges: Truth = True
    with_specialties: Truth = False
    prices: Annotated[dict[EntryId, Grams], Field(max_length=200)] = Field(default={})


def question_schemas() -> dict[str, dict[str, Any]]:
    """The published JSON Schemas, by file name."""
    draft = {"$schema": "https://json-schema.org/draft/2020-12/schema"}
    return {
        "question.schema.json": {**draft, "$id": "urn:sapolin:question:1", **QuestionDocument.model_json_schema()},
        "swap-question.schema.json": {
            **draft, "$id": "urn:sapolin:swap-question:1", **SwapQuestionDocument.model_json_schema()
        },
    }  # fmt: skip


def _checked_size(content: bytes) -> bytes:
    if len(content) > MAX_BYTES:
        raise FormulaError([stopping("document_too_large", "", most=number(MAX_BYTES))])
    return content


def _known_oils(named: dict[str, str]) -> list[Diagnostic]:
    """Oils that the catalogue does not have, each with the nearest that it does. `named` maps a path to an id."""
    oils = catalogue()
    return [
        stopping(
            "unknown_oil_nearest" if (near := get_close_matches(oil, oils, 3)) else "unknown_oil", path,
            oil=oil, nearest=listed(near),
        )
        for path, oil in named.items()
        if oil not in oils
    ]  # fmt: skip


def _words(free_of: tuple[str, ...]) -> tuple[FreeOf, ...]:
    covered = {one for word in free_of for one in FREE_OF_TOGETHER.get(word, (word,))}
    known: tuple[FreeOf, ...] = get_args(FreeOf)
    return tuple(word for word in known if word in covered)


def _formula(content: dict[str, Any], *, own_version: int = 2) -> Formula:
    return read_document(json.dumps({"format": FORMULA_FORMAT, "format_version": own_version} | content).encode())


def read_question(content: bytes) -> SolveQuestion:
    """The question in a document. Raises FormulaError, naming each entry at fault."""
    try:
        asked = QuestionDocument.model_validate_json(_checked_size(content))
    except ValidationError as error:
        raise FormulaError(malformed(error)) from error
    named = {f"shelf[{i}]": oil for i, oil in enumerate(asked.shelf or ())}
    named |= {f"limits[{i}].oil": limit.oil for i, limit in enumerate(asked.limits)}
    named |= {f"stock_g.{oil}": oil for oil in asked.stock_g} | {f"prices.{oil}": oil for oil in asked.prices}
    problems = _known_oils(named)
    if asked.formula is None and asked.purpose not in purposes():
        problems.append(stopping("unknown_purpose", "purpose", purpose=asked.purpose, known=", ".join(purposes())))
    if problems:
        raise FormulaError(problems)
    formula = formula_for(purposes()[asked.purpose]) if asked.formula is None else _formula(asked.formula)
    if asked.superfat_percent is not None:
        formula = formula.model_copy(update={"superfat_percent": asked.superfat_percent})
    if asked.formula is None:
        blend = formula.blend.model_copy(update={"total_oils_g": asked.total_oils_g})
        formula = formula.model_copy(update={"blend": blend})
    targets = targets_of_purpose(formula.purpose) if asked.targets is None else asked.targets
    return SolveQuestion(
        formula=formula,
        targets=targets,
        pool=asked.shelf,
        free_of=_words(asked.free_of),
        available_g=asked.stock_g,
        at_hand=tuple(asked.stock_g),
        most_oils=asked.most_oils,
        limits=asked.limits,
        groups=asked.groups,
        prefer=asked.prefer,
        prices=asked.prices,
        lifted=asked.lifted,
        holds_whatever_arrives=asked.holds_whatever_arrives,
        with_specialties=asked.with_specialties,
        least_share_percent=asked.least_share_percent,
        step_percent=asked.step_percent,
    )


def read_swap_question(content: bytes) -> SwapQuestion:
    """The question about a swap in a document. Raises FormulaError, naming each entry at fault."""
    try:
        asked = SwapQuestionDocument.model_validate_json(_checked_size(content))
    except ValidationError as error:
        raise FormulaError(malformed(error)) from error
    outgoing = tuple(one if isinstance(one, Outgoing) else Outgoing(oil=one) for one in asked.outgoing)
    formula = _formula(asked.formula)
    own = {material.id for material in formula.materials}
    named = {f"shelf[{i}]": oil for i, oil in enumerate(asked.shelf or ()) if oil not in own}
    named |= {f"outgoing[{i}]": one.oil for i, one in enumerate(outgoing) if one.oil not in own}
    problems = _known_oils(named)
    if problems:
        raise FormulaError(problems)
    return SwapQuestion(
        formula=with_any_purity(formula), outgoing=outgoing, reason=asked.reason, school=asked.school,
        free_of=_words(asked.free_of), pool=asked.shelf, most_replacements=asked.most_replacements, others=asked.others,
        into_target_ranges=asked.into_target_ranges, with_specialties=asked.with_specialties, prices=asked.prices,
    )  # fmt: skip


def _diagnostics(found: tuple[Diagnostic, ...]) -> list[dict[str, str]]:
    return [{"code": one.code, "severity": one.severity} for one in found]


def _oils(formula: Formula) -> list[dict[str, Any]]:
    return [{"oil": line.oil, "share_percent": line.value} for line in formula.blend.lines]


def _rounded(value: float | None, digits: int = 2) -> float | None:
    return None if value is None else round(value, digits)


def solve_answer_document(question: SolveQuestion, answer: SolveAnswer) -> dict[str, Any]:
    """An answer as JSON: blends, the best first, and why not everything could be had, if so."""
    formula = question.formula
    return {
        "format": ANSWER_FORMAT,
        "format_version": FORMAT_VERSION,
        "objective": answer.objective,
        "blends": [
            {
                "oils": _oils(one.formula),
                "status": one.status,
                "chance_in_range_percent": _rounded(one.chance_in_range_percent, 1),
                "diagnostics": _diagnostics(one.diagnostics),
                "superfat_percent": formula.superfat_percent,
                "koh_percent_of_saponification": _rounded(one.result.lye.koh_share_percent, 2),
                "lye_concentration_percent": _rounded(one.result.water.lye_concentration_percent, 2),
                "misses": [
                    {"target": target.feature, "by": _rounded(target.outside_by)}
                    for target in one.targets
                    if target.outside_by > 0
                ],
                "values": {target.feature: _rounded(target.value) for target in one.targets},
                "price_per_kg": _rounded(one.cost.per_kg),
                "changed_percent": _rounded(one.changed_percent),
                "why": list(one.why),
            }
            for one in answer.solutions
        ],
        "conflict": None if answer.conflict is None else {
            "words": answer.conflict.words, "lift": list(answer.conflict.lift)
        },
    }  # fmt: skip


def swap_answer_document(answer: SwapAnswer) -> dict[str, Any]:
    """The answer to a swap as JSON: candidates, the best first."""
    return {
        "format": ANSWER_FORMAT,
        "format_version": FORMAT_VERSION,
        "outgoing_percent": _rounded(answer.outgoing_percent),
        "outgoing_g": _rounded(answer.outgoing_g, 1),
        "why_first": plain(answer.why_first),
        "candidates": [
            {
                "incoming": [{"oil": one.oil, "share_percent": one.share_percent} for one in candidate.incoming],
                "oils": _oils(candidate.formula),
                "match_percent": _rounded(candidate.match_percent, 1),
                "diagnostics": _diagnostics(candidate.diagnostics),
                "values": {one.quality: _rounded(one.points) for one in candidate.result.qualities},
                "price_per_kg": _rounded(candidate.cost.per_kg),
                "words": [plain(words) for words in candidate.words],
            }
            for candidate in answer.candidates
        ],
        "refused": [
            {
                "names": list(one.names),
                "match_percent": _rounded(one.match_percent, 1),
                "diagnostics": _diagnostics(one.diagnostics),
            }
            for one in answer.refused
        ],
    }
