"""Reference: the catalogue and the vocabulary that screens draw with."""

from collections.abc import Callable
from functools import cache
from typing import get_args

from fastapi.responses import Response
from pydantic_core import to_json

from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.core.bar.qualities import Quality, qualities
from sapolin.core.batch.moulds import Shape
from sapolin.core.batch.plan import ColourLine, ScentLine
from sapolin.core.batch.starting import starting_colour, starting_scent, starting_shapes
from sapolin.core.formula.document import FREE_OF_TOGETHER, AdditiveLine, FreeOf, Koh, LiquidLine, WaterRule
from sapolin.core.formula.purposes import Purpose, purposes
from sapolin.core.formula.starting import USUAL_WATER, LyesWithKoh, starting_additive, starting_koh, starting_liquid
from sapolin.core.formula.water import FULL_WATER_PERCENT_OF_OILS
from sapolin.core.formula.weights import TEST_BATCH_OILS_G
from sapolin.core.materials.catalogue import Oil, Source, catalogue, sources
from sapolin.core.materials.fatty_acids import ACIDS, Acid
from sapolin.core.materials.ingredients import Additive, Colorant, Liquid, Scent, additives, colorants, liquids, scents
from sapolin.core.materials.own import OwnMaterial, starting_materials
from sapolin.core.optimise.solve.question import TargetFeature, purposes_to_solve, target_features
from sapolin.core.optimise.swap.question import Reason, ruled_out
from sapolin.core.preparations.plan import LiquidScent, PreservativeLine
from sapolin.core.preparations.preservatives import preservatives
from sapolin.core.preparations.starting import starting_liquid_scent, starting_preservative
from sapolin.core.quantities.choices import Choice, choices
from sapolin.core.quantities.coefficients import Coefficient, coefficients
from sapolin.core.quantities.glossary import GlossaryTerm, glossary
from sapolin.core.quantities.limits import LIMITS, Limit
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.units import WEIGHT_UNITS, WeightUnit

__all__ = ["OilSummary", "router", "summary_of"]

router = room("/api", "reference")


class OilSummary(Model):
    """What a picker of oils needs."""

    id: str
    name: str
    synonyms: tuple[str, ...]
    hard: Truth
    """Solid at 20 C."""
    group: str
    """The group of fatty acids that makes it what it is."""
    jobs: str
    cautions: str
    allergens: str
    palm_derived: str
    vegan: str
    sap_koh_mg_per_g: float
    own: Truth
    """A material of the maker's own."""
    ruled_out: dict[Reason, tuple[FreeOf, ...]]
    """By the reason for which it goes: what its replacements must be free of."""


class Reference(Model):
    """Everything that does not change while the application runs."""

    acids: tuple[Acid, ...]
    qualities: tuple[Quality, ...]
    purposes: tuple[Purpose, ...]
    purposes_to_solve: tuple[str, ...]
    """Ids of those that a blend can be solved for, beside the one it is made for now."""
    limits: dict[str, Limit]
    weight_units: tuple[WeightUnit, ...]
    full_water_percent_of_oils: float
    """What makers call full water, g per 100 g oils."""
    sources: tuple[Source, ...]
    target_features: tuple[TargetFeature, ...]
    """Everything that a target can be set on."""
    liquids: tuple[Liquid, ...]
    additives: tuple[Additive, ...]
    scents: tuple[Scent, ...]
    colorants: tuple[Colorant, ...]
    free_of: tuple[str, ...]
    """What a soap can be asked to do without."""
    free_of_together: dict[str, tuple[FreeOf, ...]]
    """What is chosen in one word, and what it covers."""
    choices: dict[str, tuple[Choice, ...]]
    """What can be chosen where schools differ, by what it is about."""
    starting_liquids: dict[str, LiquidLine]
    """By id: the line that a liquid begins with in a formula; so below."""
    starting_additives: dict[str, AdditiveLine]
    starting_scents: dict[str, ScentLine]
    starting_colours: dict[str, ColourLine]
    starting_liquid_scents: dict[str, LiquidScent]
    """In diluted soap; so below."""
    starting_preservatives: dict[str, PreservativeLine]
    starting_materials: dict[str, OwnMaterial]
    """By the kind of what is known of it."""
    starting_koh: dict[LyesWithKoh, Koh]
    """KOH as it is first chosen: beside NaOH, or alone."""
    starting_shapes: dict[str, Shape]
    """Of moulds that are still to be measured, by their kind."""
    usual_water: dict[WaterRule, float]
    """Water to start from, by the way it is said."""
    test_batch_oils_g: float
    """Oils of a test batch, g."""


@router.get("/glossary", summary="The words of the job")
def get_glossary() -> tuple[GlossaryTerm, ...]:
    """Every term with a plain meaning, group by group. It does not change while the application runs."""
    return glossary()


@router.get("/coefficients", summary="The rules of thumb")
def get_coefficients() -> tuple[Coefficient, ...]:
    """Every coefficient that is a rule of thumb: what it means, its range and its source. The same until the application is
    upgraded.
    """
    return tuple(coefficients().values())


@cache
def _as_json(table: Callable[[], object]) -> bytes:
    """What stays the same while the application runs is written as JSON once: every screen asks for it before it draws."""
    return to_json(table())


@router.get("/reference", response_model=Reference, summary="Acids, qualities, purposes, limits and units")
def get_reference() -> Response:
    """The vocabulary shared by core, API and screens: what there is to choose from, with its name, meaning, unit and limits.
    The same until the application is upgraded.
    """
    return Response(_as_json(_reference), media_type="application/json")


def _reference() -> Reference:
    return Reference(
        acids=ACIDS,
        qualities=tuple(qualities().values()),
        purposes=tuple(purposes().values()),
        purposes_to_solve=purposes_to_solve(),
        limits=LIMITS,
        weight_units=tuple(WEIGHT_UNITS.values()),
        full_water_percent_of_oils=FULL_WATER_PERCENT_OF_OILS,
        sources=tuple(sources().values()),
        target_features=target_features(),
        liquids=tuple(liquids().values()),
        additives=tuple(additives().values()),
        scents=tuple(scents().values()),
        colorants=tuple(colorants().values()),
        free_of=get_args(FreeOf),
        free_of_together=FREE_OF_TOGETHER,
        choices=choices(),
        starting_liquids={id_: starting_liquid(liquid) for id_, liquid in liquids().items()},
        starting_additives={id_: starting_additive(additive) for id_, additive in additives().items()},
        starting_scents={id_: starting_scent(scent) for id_, scent in scents().items()},
        starting_colours={id_: starting_colour(colorant) for id_, colorant in colorants().items()},
        starting_liquid_scents={id_: starting_liquid_scent(scent) for id_, scent in scents().items()},
        starting_preservatives={id_: starting_preservative(one) for id_, one in preservatives().items()},
        starting_materials=starting_materials(),
        starting_koh={lyes: starting_koh(lyes) for lyes in get_args(LyesWithKoh)},
        starting_shapes=starting_shapes(),
        usual_water=USUAL_WATER,
        test_batch_oils_g=TEST_BATCH_OILS_G,
    )


def summary_of(oil: Oil) -> OilSummary:
    """What a picker needs of `oil`."""
    return OilSummary(
        id=oil.id,
        name=oil.name,
        synonyms=oil.synonyms,
        hard=oil.is_hard,
        group=oil.group,
        jobs=oil.jobs,
        cautions=oil.cautions,
        allergens=oil.allergens,
        palm_derived=oil.palm_derived,
        vegan=oil.vegan,
        sap_koh_mg_per_g=oil.sap_koh_mg_per_g.typical,
        own=oil.id not in catalogue(),
        ruled_out={reason: ruled_out(oil, reason) for reason in get_args(Reason)},
    )


@router.get("/oils", response_model=list[OilSummary], summary="The catalogue, in brief")
def list_oils() -> Response:
    """Every oil in the order of the catalogue: its name, INCI, qualities, groups, allergens, and the reasons for a swap that
    rule it out.
    """
    return Response(_as_json(_oils), media_type="application/json")


def _oils() -> list[OilSummary]:
    return [summary_of(oil) for oil in catalogue().values()]


@router.get("/oils/{oil_id}", summary="One oil, in full")
def get_oil(oil_id: str) -> Oil:
    """Every quantity of an oil with its range and sources. 404 when the catalogue has none of that id."""
    oil = catalogue().get(oil_id)
    if oil is None:
        raise Refusal(404, "unknown_oil", f"The catalogue has no oil “{oil_id}”.")
    return oil
