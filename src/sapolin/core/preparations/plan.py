"""What is prepared beside batches: paste diluted to liquid soap, soap rebatched, lye and oils mixed ahead."""

from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth

__all__ = [
    "NAME_MOST",
    "BlendPart",
    "DilutionPlan",
    "LiquidScent",
    "MasterBlendPlan",
    "MasterLyePlan",
    "PasteLine",
    "Preparation",
    "PreservativeLine",
    "RebatchPlan",
]

NAME_MOST = 120
"""Letters in a name at most."""
Name = Annotated[str, Field(min_length=1, max_length=NAME_MOST, pattern=r"\S")]
Notes = Annotated[str, Field(max_length=5000)]


class PasteLine(Model):
    """A paste that is diluted."""

    batch_id: Annotated[str, Field(min_length=1, max_length=32)]
    """The batch it was made as."""
    share_percent: FiniteNumber | None
    """Of the soap that is diluted, %."""
    soap_percent: FiniteNumber | None = None
    """Soap in it, %, as the maker knows it; null goes by its batch."""


class PreservativeLine(Model):
    """The preservative, as the papers of its supplier have it."""

    preservative: EntryId
    rate_percent: FiniteNumber | None
    """Of the finished soap, %."""
    ph_low: FiniteNumber | None = None
    ph_high: FiniteNumber | None = None
    """It works from and to this pH; null goes by what is usual for its kind."""


class LiquidScent(Model):
    """A scent in diluted soap."""

    scent: EntryId
    percent: FiniteNumber | None
    """Of the finished soap, %."""
    limit_percent: FiniteNumber | None = None
    """The supplier's limit for what is rinsed off, % of the finished soap; null while it is not known."""


Style = Literal["pump", "foamer", "thick"]
"""From a pump, from a foaming pump, or to be squeezed out."""


class DilutionPlan(Model):
    """Paste thinned with water, preserved and bottled."""

    kind: Literal["dilution"] = "dilution"
    name: Name
    pastes: Annotated[tuple[PasteLine, ...], Field(max_length=6)] = ()
    soap_percent: FiniteNumber | None = None
    """Soap in the finished soap, %."""
    size_by: Literal["bottles", "paste_g"] = "bottles"
    bottles: FiniteNumber | None = None
    bottle_ml: FiniteNumber | None = None
    """What goes into a bottle, mL."""
    paste_g: FiniteNumber | None = None
    """All paste together, g, when it is sized by that."""
    style: Style = "pump"
    preservative: PreservativeLine | None = None
    scents: Annotated[tuple[LiquidScent, ...], Field(max_length=6)] = ()
    brine_percent: FiniteNumber | None = None
    """Brine of 20 % that thickens it, % of the finished soap; null for none."""
    wash_water: Literal["soft", "medium", "hard"] = "soft"
    notes: Notes = ""


class RebatchPlan(Model):
    """Soap grated, melted with a little liquid, and pressed into moulds again."""

    kind: Literal["rebatch"] = "rebatch"
    name: Name
    soap_g: FiniteNumber | None = None
    """Soap that is melted again, g."""
    age_days: FiniteNumber | None = None
    """How long ago it was poured: fresh soap melts with less liquid."""
    liquid: Literal["water", "milk"] = "water"
    liquid_percent: FiniteNumber | None = None
    """Of the soap, %; null takes what is usual at its age."""
    is_lye_heavy: Truth = False
    """It zaps: oil is melted into it and it is cooked until it does not."""
    notes: Notes = ""


class MasterLyePlan(Model):
    """Lye dissolved ahead."""

    kind: Literal["master_lye"] = "master_lye"
    name: Name
    lye: Literal["naoh", "koh"] = "naoh"
    lye_g: FiniteNumber | None = None
    """As bought, g."""
    purity_percent: FiniteNumber | None = None
    """As its label states it. Never assumed."""
    concentration_percent: FiniteNumber | None = 50.0
    """Lye as bought in its solution, %."""
    room_c: FiniteNumber | None = 20.0
    notes: Notes = ""


class BlendPart(Model):
    """An oil of a master blend."""

    oil: EntryId
    share_percent: FiniteNumber | None


class MasterBlendPlan(Model):
    """Oils melted together ahead."""

    kind: Literal["master_blend"] = "master_blend"
    name: Name
    parts: Annotated[tuple[BlendPart, ...], Field(max_length=20)] = ()
    total_g: FiniteNumber | None = None
    notes: Notes = ""


Preparation = Annotated[DilutionPlan | RebatchPlan | MasterLyePlan | MasterBlendPlan, Field(discriminator="kind")]
