"""What a maker asks of a blend, and what cannot be asked."""

from collections.abc import Iterable, Iterator, Sequence
from functools import cache
from math import ceil, floor
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.bar.linear import LINEAR_QUANTITIES
from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.cost import price_of
from sapolin.core.formula.document import Formula, FreeOf
from sapolin.core.formula.purposes import TargetRange, purposes
from sapolin.core.formula.starting import formula_for
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.materials.usual_shares import variants
from sapolin.core.optimise.swap.question import is_free_of, specialties
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth
from sapolin.core.quantities.text import number, percent, plain, template, text

__all__ = ["GROUPS", "GroupLimit", "ShareLimit", "SolveQuestion", "StartingQuestion", "Target", "TargetFeature",
           "allowed_oils", "check_question", "in_group", "purposes_to_solve", "settled", "starting_question", "target_features",
           "target_problems", "targets_like", "targets_of_purpose", "with_any_purity"]  # fmt: skip

Percent = Annotated[FiniteNumber, Field(ge=0, le=100)]
MAX_TARGETS = 24


class Target(Model):
    """A target range for one thing."""

    feature: str
    """Id of a quality, `acid:C18:1` and the like, `iodine_value`, `saturated_percent`, `trace_points`,
    `firmness_at_unmould` or `price_per_kg`."""
    minimum: FiniteNumber | None = None
    maximum: FiniteNumber | None = None
    required: Truth = False
    """A required target is never missed; a preferred one is missed by as little as can be."""
    weight: Annotated[FiniteNumber, Field(gt=0, le=100)] = 1.0
    """How much a point outside counts, for a preferred target."""


class ShareLimit(Model):
    """What one oil may be."""

    oil: EntryId
    minimum_percent: Percent = 0.0
    """Above 0 the oil has to be in the blend."""
    maximum_percent: Percent = 100.0


Group = Literal["hard", "soft", "butters", "animal", "waxes", "palm"]
GROUPS: tuple[Group, ...] = ("hard", "soft", "butters", "animal", "waxes", "palm")


class GroupLimit(Model):
    """What several oils may be together."""

    group: Group
    minimum_percent: Percent = 0.0
    maximum_percent: Percent = 100.0


class SolveQuestion(Model):
    """A blend to find."""

    formula: Formula
    """What surrounds the blend: purpose, lye, water, additives. Its oils are not kept unless asked. No purity of the lye is
    needed to ask."""
    purpose: Annotated[str, Field(max_length=80)] | None = None
    """Another purpose than the formula's: its superfat, kind of lye and way of making come with it."""
    targets: Annotated[tuple[Target, ...], Field(min_length=1, max_length=MAX_TARGETS)]
    pool: tuple[EntryId, ...] | None = None
    """Ids of the oils to choose from; null is the whole catalogue without specialties."""
    free_of: tuple[FreeOf, ...] = ()
    with_specialties: Truth = False
    limits: Annotated[tuple[ShareLimit, ...], Field(max_length=40)] = ()
    groups: Annotated[tuple[GroupLimit, ...], Field(max_length=10)] = ()
    most_oils: Annotated[int, Field(ge=1, le=9)] = 5
    least_share_percent: Percent = 3.0
    """An oil that is used has at least this share."""
    step_percent: Annotated[FiniteNumber, Field(ge=0.5, le=5)] = 1.0
    """Shares are rounded to this, and the rounded blend is what is optimised."""
    prefer: Literal["none", "closer", "cheaper", "longer_shelf", "fewer"] = "none"
    """Among blends that meet the targets alike: nearest to the formula's own, cheapest, slowest to turn rancid, or of the
    fewest oils."""
    prices: dict[str, FiniteNumber] = Field(default={})
    """Price per kg by oil id; the server fills in those it keeps."""
    available_g: dict[str, FiniteNumber] = Field(default={})
    """What is left of an oil, g, for the batch of the formula: it is not given a larger share than that."""
    lifted: Annotated[tuple[str, ...], Field(max_length=40)] = ()
    """Names of the limits of good sense that the maker lifts: `usual_shares` for all shares, `share:lauric` for one class,
    `want:olive`, `rarities` for more than one oil that a workshop seldom has, or the code of a warning of the rule book such
    as `brittle`."""
    at_hand: tuple[EntryId, ...] = ()
    """Ids of oils that are on the shelf: they are taken before others."""
    never: tuple[EntryId, ...] = ()
    """Ids of oils that the maker never uses."""
    holds_whatever_arrives: Truth = False
    """Keep each target by the natural spread of every lot at once (the linear worst case), not only at typical lots."""
    most_seconds: Annotated[FiniteNumber, Field(gt=0, le=30)] = 2.0
    """After this the best blend so far is the answer, with how far from optimal it may be."""


class StartingQuestion(SolveQuestion):
    """What is asked first of a formula; where it has no target ranges, no target is set yet."""

    targets: Annotated[tuple[Target, ...], Field(max_length=MAX_TARGETS)]


class TargetFeature(Model):
    """Something that a target can be set on."""

    id: str
    name: str
    axis_minimum: float
    axis_maximum: float
    """Ends of the quality scale it is drawn on."""


@cache
def target_features() -> tuple[TargetFeature, ...]:
    """Everything that a target can be set on: qualities, indices, fatty acids."""
    return (
        *(
            TargetFeature(
                id=quality.id, name=quality.name, axis_minimum=quality.axis_minimum, axis_maximum=quality.axis_maximum
            )
            for quality in qualities().values()
        ),
        *(
            TargetFeature(id=one.id, name=one.name, axis_minimum=one.axis_minimum, axis_maximum=one.axis_maximum)
            for one in LINEAR_QUANTITIES.values()
        ),
        TargetFeature(id="price_per_kg", name=template("features.price_per_kg"), axis_minimum=0, axis_maximum=20),
        *(
            TargetFeature(
                id=f"acid:{acid.id}", name=plain(text("features.acid", acid=acid.name)), axis_minimum=0, axis_maximum=80
            )
            for acid in ACIDS
        ),
    )


def targets_like(result: FormulaResult, within_points: float = 3.0) -> tuple[Target, ...]:
    """Target ranges around the qualities of a bar that a maker likes, whole points: more like this one."""
    return tuple(
        Target(
            feature=quantity.quality,
            minimum=max(float(floor(quantity.points - within_points)), 0.0),
            maximum=float(ceil(quantity.points + within_points)),
        )
        for quantity in result.qualities
    )


def targets_of_purpose(purpose_id: str) -> tuple[Target, ...]:
    """The target ranges of a purpose as preferred targets."""
    return _preferred(purposes()[purpose_id].target_ranges)


def _preferred(ranges: Iterable[TargetRange]) -> tuple[Target, ...]:
    """Target ranges as preferred targets; one that begins where its scale begins has no lower end."""
    return tuple(
        Target(
            feature=one.quality,
            minimum=one.minimum if one.minimum > qualities()[one.quality].axis_minimum else None,
            maximum=one.maximum,
        )
        for one in ranges
    )


def starting_question(formula: Formula, purpose_id: str | None = None) -> StartingQuestion:
    """What is asked first of a `formula`: its own target ranges, or those of another purpose, near to the blend there is."""
    other = None if purpose_id == formula.purpose else purpose_id
    meant = formula if other is None else formula.model_copy(update={"purpose": other, "target_ranges": None})
    ranges = (meant.target_range(quality) for quality in qualities())
    return StartingQuestion(
        formula=formula,
        purpose=other,
        targets=_preferred(one for one in ranges if one is not None),
        prefer="closer" if formula.blend.lines else "none",
    )


def purposes_to_solve() -> tuple[str, ...]:
    """Ids of the purposes that a blend can be solved for, whatever it is made for now. How much lye is too much on purpose is
    for the maker to say: no solve makes a formula lye-heavy that was not.
    """
    return tuple(one.id for one in purposes().values() if not one.negative_superfat)


def needs_prices(question: SolveQuestion) -> bool:
    """Whether the question is about money."""
    return question.prefer == "cheaper" or any(target.feature == "price_per_kg" for target in question.targets)


def in_group(oil: Oil, group: Group) -> bool:
    """Whether an oil counts to a group."""
    return {
        "hard": oil.is_hard,
        "soft": not oil.is_hard,
        "butters": oil.is_hard and oil.group in ("stearic", "palmitic") and oil.origin_kind == "plant"
        and oil.palm_derived != "yes" and oil.kind == "triglyceride",
        "animal": oil.origin_kind == "animal",
        "waxes": oil.kind == "wax",
        "palm": oil.palm_derived != "no",
    }[group]  # fmt: skip


def allowed_oils(question: SolveQuestion, oils: Catalogue) -> tuple[Oil, ...]:
    """The oils a blend may be made of, in the order of the catalogue; only those with a price when price is asked about."""
    words = {*question.free_of, *question.formula.free_of}
    named = {limit.oil for limit in question.limits if limit.minimum_percent > 0}
    chosen = oils.values() if question.pool is None else [oils[oil] for oil in question.pool if oil in oils]
    found = tuple(
        oil
        for oil in chosen
        if (question.with_specialties or question.pool is not None or oil.id in named or oil.id not in specialties())
        and oil.known_profile_percent >= 100
        and oil.id not in question.never
        and (not needs_prices(question) or price_of(oil, question.prices) is not None)
        and all(is_free_of(oil, word) for word in words)
    )
    if question.pool is not None:
        return found
    meant = named | {*question.at_hand, *question.available_g, *(line.oil for line in question.formula.blend.lines)}
    there = {oil.id for oil in found}
    return tuple(oil for oil in found if oil.id in meant or variants().get(oil.id) not in there)


def target_problems(targets: Sequence[Target]) -> Iterator[Diagnostic]:
    """What cannot be aimed at, each problem at its entry."""
    known = {feature.id: feature.name for feature in target_features()}
    for i, target in enumerate(targets):
        path = f"targets[{i}]"
        if target.feature not in known:
            yield stopping("unknown_target", f"{path}.feature", feature=target.feature)
            continue
        low, high = target.minimum, target.maximum
        if low is None and high is None:
            yield stopping("target_range_open", path)
        elif low is not None and high is not None and low > high:
            name = known[target.feature].lower()
            yield stopping("target_range_reversed", path, name=name, minimum=number(low), maximum=number(high))


def _problems(question: SolveQuestion, oils: Catalogue) -> Iterator[Diagnostic]:
    yield from target_problems(question.targets)
    allowed = {oil.id for oil in allowed_oils(question, oils)}
    if not allowed:
        yield stopping("nothing_priced" if needs_prices(question) else "nothing_allowed", "free_of")
    minimums = 0.0
    for i, limit in enumerate(question.limits):
        path, low, high = f"limits[{i}]", limit.minimum_percent, limit.maximum_percent
        name = oils[limit.oil].name if limit.oil in oils else limit.oil
        if low > high:
            yield stopping("limit_reversed", path, name=name, minimum=number(low), maximum=percent(high))
        if low > 0 and limit.oil not in allowed:
            yield stopping("wanted_but_forbidden", path, name=name)
        minimums += low
    for i, group in enumerate(question.groups):
        if group.minimum_percent > group.maximum_percent:
            yield stopping(
                "limit_reversed", f"groups[{i}]", name=template(f"oil_groups.{group.group}"),
                minimum=number(group.minimum_percent), maximum=percent(group.maximum_percent),
            )  # fmt: skip
    wanted = sum(limit.minimum_percent > 0 for limit in question.limits)
    if minimums > 100:
        yield stopping("minimums_over_100", "limits", sum=percent(minimums))
    if wanted > question.most_oils:
        yield stopping("too_many_wanted", "most_oils", wanted=number(wanted), most=number(question.most_oils))
    if question.most_oils * question.least_share_percent > 100 and question.least_share_percent > 100 / 2:
        yield stopping("least_share_too_large", "least_share_percent", share=percent(question.least_share_percent))


def settled(question: SolveQuestion) -> SolveQuestion:
    """The question about the formula that it really is about: with the purpose that was asked for."""
    wanted = question.purpose
    if wanted is None or wanted == question.formula.purpose or wanted not in purposes():
        return question.model_copy(update={"purpose": None})
    usual = formula_for(purposes()[wanted])
    lye, koh = question.formula.lye, usual.lye.koh
    if koh is not None and lye.koh is not None:
        koh = koh.model_copy(update={"purity_percent": lye.koh.purity_percent})
    present = {line.additive for line in question.formula.additives}
    formula = question.formula.model_copy(
        update={
            "additives": (
                *question.formula.additives,
                *(line for line in usual.additives if line.additive not in present),
            ),
            "purpose": wanted,
            "target_ranges": None,
            "superfat_percent": usual.superfat_percent,
            "lye": lye.model_copy(update={"koh": koh}),
            "process": question.formula.process.model_copy(update={"method": usual.process.method}),
        }
    )
    return question.model_copy(update={"formula": formula, "purpose": None})


def with_any_purity(formula: Formula) -> Formula:
    """The formula with a purity to calculate qualities with, where none is entered: no weight of lye may be told of it."""
    lye, koh = formula.lye, formula.lye.koh
    if koh is not None and koh.purity_percent is None:
        koh = koh.model_copy(update={"purity_percent": 100.0})
    naoh = 100.0 if lye.naoh_purity_percent is None else lye.naoh_purity_percent
    return formula.model_copy(update={"lye": lye.model_copy(update={"naoh_purity_percent": naoh, "koh": koh})})


def check_question(question: SolveQuestion, oils: Catalogue) -> None:
    """Raise FormulaError with everything that makes `question` impossible to ask."""
    found = [*_problems(question, oils)]
    if found:
        raise FormulaError(found)
