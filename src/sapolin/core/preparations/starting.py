"""What every preparation begins with, and what is added to one."""

from collections.abc import Sequence
from typing import Literal

from sapolin.core.materials.ingredients import Scent
from sapolin.core.preparations.dilution import PasteOnHand
from sapolin.core.preparations.plan import (
    NAME_MOST,
    DilutionPlan,
    LiquidScent,
    MasterBlendPlan,
    MasterLyePlan,
    PasteLine,
    Preparation,
    PreservativeLine,
    RebatchPlan,
)
from sapolin.core.preparations.preservatives import Preservative
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import plain, template, text

__all__ = [
    "PreparationStart",
    "noun_of",
    "preparation_starts",
    "starting_liquid_scent",
    "starting_preservative",
    "starting_share_percent",
]

Kind = Literal["dilution", "rebatch", "master_lye", "master_blend"]


class PreparationStart(Model):
    """Something that can be prepared, with the plan it begins with."""

    kind: Kind
    title: str
    about: str
    """What it is for, in a line."""
    plan: Preparation


def noun_of(kind: Kind) -> str:
    """What is prepared, in a word or two.

    >>> noun_of("dilution")
    'liquid soap'
    """
    return template(f"preparations.{kind}.noun")


def preparation_starts(pastes: Sequence[PasteOnHand]) -> tuple[PreparationStart, ...]:
    """Everything that can be prepared; a dilution takes the first of `pastes`, if there is one, as all of its soap."""
    plans = (
        _dilution(pastes),
        RebatchPlan(name=_name("rebatch")),
        MasterLyePlan(name=_name("master_lye")),
        MasterBlendPlan(name=_name("master_blend")),
    )
    return tuple(
        PreparationStart(
            kind=plan.kind,
            title=template(f"preparations.{plan.kind}.title"),
            about=template(f"preparations.{plan.kind}.about"),
            plan=plan,
        )
        for plan in plans
    )


def _name(kind: Kind) -> str:
    return template(f"preparations.{kind}.name")


def _dilution(pastes: Sequence[PasteOnHand]) -> DilutionPlan:
    if not pastes:
        return DilutionPlan(name=_name("dilution"))
    first = pastes[0]
    of = plain(text("preparations.dilution.name_of", paste=first.name))
    name = of if len(of) <= NAME_MOST else first.name
    return DilutionPlan(
        name=name, pastes=(PasteLine(batch_id=first.batch_id, share_percent=starting_share_percent([])),)
    )


def starting_share_percent(pastes: Sequence[PasteLine]) -> float | None:
    """Share of the soap that a paste begins with beside `pastes`, %: all of it where there are none; else null, to be entered.

    >>> starting_share_percent([])
    100.0
    """
    return None if pastes else 100.0


def starting_preservative(preservative: Preservative) -> PreservativeLine:
    """A preservative as it is first chosen: at the high end of its usual rate, since too little keeps nothing."""
    return PreservativeLine(preservative=preservative.id, rate_percent=preservative.rate_high_percent)


def starting_liquid_scent(scent: Scent) -> LiquidScent:
    """A scent as it is first added to diluted soap; its limit is still to be read from its papers."""
    return LiquidScent(scent=scent.id, percent=coefficient("liquid.scent_starting_percent"))
