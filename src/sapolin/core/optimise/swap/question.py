"""What a maker asks when an oil has to go, and what cannot be asked."""

from collections.abc import Iterator
from functools import cache
from typing import Annotated, Literal, get_args

from pydantic import Field

from sapolin.core.formula.blend import one_line_each
from sapolin.core.formula.document import Formula, FreeOf
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.own import with_sound_materials
from sapolin.core.materials.usual_shares import variants
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth
from sapolin.core.quantities.text import percent
from sapolin.data import read_json

__all__ = ["Outgoing", "Reason", "School", "SwapQuestion", "allowed_oils", "check_question", "first_question",
           "is_free_of", "must_be_free_of", "ruled_out", "specialties"]  # fmt: skip

School = Literal["profile_and_role", "profile", "role", "equal_sap"]
Reason = Literal["principle", "allergy", "vegan", "out_of_stock", "price", "trace", "shelf_life"]


class Outgoing(Model):
    """An oil that goes, or is cut down."""

    oil: EntryId
    keep_percent: Annotated[FiniteNumber, Field(ge=0, le=100)] = 0.0
    """Share that may stay, % of the blend."""


class SwapQuestion(Model):
    """A swap to find."""

    formula: Formula
    outgoing: Annotated[tuple[Outgoing, ...], Field(min_length=1, max_length=10)]
    reason: Reason = "principle"
    school: School = "profile_and_role"
    into_target_ranges: Truth = True
    """Qualities outside their target range are drawn to its nearest edge; otherwise everything is to stay as it was."""
    others: Literal["locked", "one_moves", "within", "free"] = "locked"
    """Whether the oils that stay may move with the swap: one of them, or all, by at most `within_points`; or freely.
    Locked lines never do."""
    within_points: Annotated[FiniteNumber, Field(ge=0, le=40)] = 6.0
    most_replacements: Annotated[int, Field(ge=1, le=3)] = 2
    """New oils at most; two when one other oil may move."""
    free_of: tuple[FreeOf, ...] = ()
    """What the replacements must do without, beside what the formula itself names."""
    pool: tuple[EntryId, ...] | None = None
    """Ids of the oils to choose from; null is the whole catalogue."""
    forbidden: tuple[EntryId, ...] = ()
    at_hand: tuple[EntryId, ...] = ()
    """Ids of oils that are on the shelf or liked: of those that come as near they go first."""
    with_specialties: Truth = False
    """Also oils that are dear, hard to get, smell or stain; a `pool` that names them takes them anyway."""
    prices: dict[str, FiniteNumber] = Field(default={})
    """Price per kg by oil id, for the cost of each candidate; the server fills in those it keeps."""
    step_percent: Annotated[FiniteNumber, Field(ge=0.5, le=5)] = 1.0
    """Shares are rounded to this, and the rounded blend is the one compared."""


@cache
def specialties() -> dict[str, str]:
    """Oils that a workshop rarely stocks, with the reason, by id."""
    reasons: dict[str, str] = read_json("specialties")
    return reasons


def is_free_of(oil: Oil, word: str) -> bool:
    """Whether `oil` is surely free of `word`; "may be" is not."""
    if word == "palm":
        return oil.palm_derived == "no"
    if word == "animal":
        return oil.vegan == "yes"
    return word not in oil.allergen_groups


def ruled_out(oil: Oil, reason: Reason) -> tuple[FreeOf, ...]:
    """What the replacements of `oil` must be free of by the `reason` for which it goes.

    No palm stearin for palm that goes on principle, no other nut where one goes for an allergy, nothing from animals
    when the bar is to be vegan.
    """

    def is_meant(word: FreeOf) -> bool:
        if reason == "vegan":
            return word == "animal"
        if reason == "principle":
            return (word == "palm" and oil.palm_derived == "yes") or (word == "animal" and oil.vegan == "no")
        return reason == "allergy" and word in oil.allergen_groups

    return tuple(word for word in get_args(FreeOf) if is_meant(word))


def must_be_free_of(question: SwapQuestion, oils: Catalogue) -> tuple[FreeOf, ...]:
    """What the replacements must do without: what the formula names, what the question names, and what its reason rules out, by
    whichever way the question came."""
    by_reason = (
        word
        for one in question.outgoing
        # Where a part of it stays, the bar is not to be without it.
        if one.oil in oils and one.keep_percent == 0
        for word in ruled_out(oils[one.oil], question.reason)
    )
    return tuple(dict.fromkeys((*question.formula.free_of, *question.free_of, *by_reason)))


def first_question(
    formula: Formula, base: Catalogue, named: str | None = None, school: School = "profile_and_role"
) -> SwapQuestion:
    """The question that a maker most likely has about `formula`: on principle, the oil that is `named` goes, or the first that
    is not surely free of what the bar is to do without, or the first of all.

    Raises FormulaError when there is no oil to take out.
    """
    oils = with_sound_materials(base, formula.materials)
    present = [line.oil for line in formula.blend.lines]
    if not present:
        raise FormulaError([stopping("no_oils", "blend.lines", is_open=True)])
    unwanted = (
        oil for oil in present if oil in oils and not all(is_free_of(oils[oil], word) for word in formula.free_of)
    )
    out = named if named is not None and named in present else next(unwanted, present[0])
    free_of = ruled_out(oils[out], "principle") if out in oils else ()
    return SwapQuestion(formula=formula, outgoing=(Outgoing(oil=out),), school=school, free_of=free_of)


def allowed_oils(question: SwapQuestion, oils: Catalogue) -> tuple[Oil, ...]:
    """The oils a swap may choose from, in the order of the catalogue.

    Left out are specialties nobody asked for, what goes, what is forbidden, what is not free of what must be avoided ("may
    be" is not free), mixtures,
    and oils whose fatty acids are unknown.
    """
    going = {outgoing.oil for outgoing in question.outgoing}
    words = must_be_free_of(question, oils)
    chosen = oils.values() if question.pool is None else [oils[oil] for oil in question.pool if oil in oils]
    found = tuple(
        oil
        for oil in chosen
        if (question.with_specialties or question.pool is not None or oil.id not in specialties())
        and oil.id not in going
        and oil.id not in question.forbidden
        and not oil.components
        and oil.known_profile_percent >= 100
        and all(is_free_of(oil, word) for word in words)
    )
    if question.pool is not None:
        return found
    # Its own variants take the place of what is out of stock, or too dear; where it goes on principle they go with it.
    mains = {oil.id for oil in found} | ({*going} if question.reason not in ("out_of_stock", "price") else set())
    return tuple(oil for oil in found if variants().get(oil.id) not in mains)


def _problems(question: SwapQuestion, shares: dict[str, float], oils: Catalogue) -> Iterator[Diagnostic]:
    yield from (one.at(f"formula.{one.path}") for one in one_line_each(question.formula.blend, oils))
    for i, outgoing in enumerate(question.outgoing):
        name = oils[outgoing.oil].name if outgoing.oil in oils else outgoing.oil
        if outgoing.oil not in shares:
            yield stopping("not_in_blend", f"outgoing[{i}].oil", name=name)
        elif outgoing.keep_percent >= shares[outgoing.oil]:
            share = percent(shares[outgoing.oil], 1)
            yield stopping("nothing_goes", f"outgoing[{i}].keep_percent", name=name, share=share)
    if not allowed_oils(question, oils):
        yield stopping("nothing_allowed", "free_of")


def check_question(question: SwapQuestion, shares: dict[str, float], oils: Catalogue) -> None:
    """Raise FormulaError with everything that makes `question` impossible; `shares` are those of the blend, %."""
    found = [*_problems(question, shares, oils)]
    if found:
        raise FormulaError(found)
