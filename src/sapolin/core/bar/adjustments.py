"""What the sums over fatty acids leave out: named effects beside the qualities, never folded into them.

All are estimates from rules of thumb (see :mod:`sapolin.core.quantities.coefficients`).
"""

from collections.abc import Iterator

from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Process
from sapolin.core.materials.ingredients import Additive, Liquid
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import short

__all__ = ["Adjustment", "Conditions", "Effect", "adjustments_of", "conditions_of", "effect_on"]

FIRMNESS_AT_UNMOULD = "firmness_at_unmould"


class Effect(Model):
    """One thing that a adjustment moves."""

    on: str
    """Id of a quality, `firmness_at_unmould` or `firmness_after_cure`."""
    points: float
    """By how much, points; an estimate."""


class Adjustment(Model):
    """Something beside the fatty acids that acts on the bar."""

    id: str
    name: str
    state: str
    """How it stands in this formula."""
    effects: tuple[Effect, ...]
    reason: str


class Conditions(Model):
    """What of a batch acts beside its fatty acids."""

    superfat_percent: float
    """Of the whole batch, with late oils, fat of liquids and what consumes lye."""
    lye_concentration_percent: float
    koh_percent: float
    """KOH share of the saponification, %."""
    lactate_percent: float
    """Sodium lactate of 60 %, % of oils."""
    salt_percent: float
    """% of oils."""
    sugar_percent: float
    """Sugars from additives and liquids, % of oils."""
    protein_percent: float
    """From liquids and additives, % of oils."""
    has_antioxidant: bool
    """One at its usual rate or more."""
    method: str
    gel: str
    cure_weeks: float | None


def conditions_of(composition: Composition, process: Process, superfat_percent: float) -> Conditions:
    """Collect what acts in a `pot`."""
    rates: dict[str, float] = {}
    sugar_g, protein_g, has_antioxidant = 0.0, 0.0, False
    for item in composition.additives:
        if isinstance(item.of, Additive):
            percent = 100 * item.weight_g / composition.oils_g
            rates[item.of.role] = rates.get(item.of.role, 0.0) + percent
            sugar_g += item.weight_g * item.of.sugar_percent / 100
            protein_g += item.weight_g if item.of.role == "protein" else 0.0
            has_antioxidant |= item.of.role == "antioxidant" and percent >= item.of.usual_minimum_percent
    for item in composition.liquids:
        if isinstance(item.of, Liquid):
            sugar_g += item.weight_g * item.of.sugar_percent / 100
            protein_g += item.weight_g * item.of.protein_percent / 100
    return Conditions(
        superfat_percent=superfat_percent,
        lye_concentration_percent=100 * composition.lye.total_g / (composition.lye.total_g + composition.water_g),
        koh_percent=composition.koh_share_percent,
        lactate_percent=rates.get("lactate", 0.0),
        salt_percent=rates.get("salt", 0.0),
        sugar_percent=100 * sugar_g / composition.oils_g,
        protein_percent=100 * protein_g / composition.oils_g,
        has_antioxidant=has_antioxidant,
        method=process.method,
        gel=process.gel,
        cure_weeks=process.cure_weeks,
    )


def _effects(**points: float) -> tuple[Effect, ...]:
    return tuple(Effect(on=on, points=value) for on, value in points.items() if round(value, 1) != 0)


def _superfat(work: Conditions) -> Adjustment:
    usual = coefficient("superfat.usual")
    more = work.superfat_percent - usual
    return Adjustment(
        id="superfat", name="Superfat", state=f"{work.superfat_percent:.1f} %, where {usual:g} % is usual",
        effects=_effects(**{
            quality: more * coefficient(f"superfat.{quality}")
            for quality in ("hardness", "conditioning", "cleansing", "open_lather", "dense_lather")
        }),
        reason="Free oil softens, makes milder and breaks big bubbles.",
    )  # fmt: skip


def _water(work: Conditions) -> Adjustment:
    usual = coefficient("water.usual_lye_concentration")
    drier = work.lye_concentration_percent - usual
    return Adjustment(
        id="water", name="Water", state=f"lye at {work.lye_concentration_percent:.1f} %, where {usual:g} % is usual",
        effects=_effects(firmness_at_unmould=drier * coefficient("water.firmness_at_unmould")),
        reason="Less water, a firmer start; after the cure it makes no difference.",
    )  # fmt: skip


def adjustments_of(work: Conditions) -> Iterator[Adjustment]:
    """Those that act in this formula, each with its size and reason; superfat and water only when they move anything."""
    for adjustment in (_superfat(work), _water(work)):
        if adjustment.effects:
            yield adjustment
    if work.lactate_percent > 0:
        counted = min(work.lactate_percent, coefficient("lactate.most"))
        yield Adjustment(
            id="sodium_lactate", name="Sodium lactate", state=f"{short(work.lactate_percent)} % of oils",
            effects=_effects(firmness_at_unmould=counted * coefficient("lactate.firmness_at_unmould")),
            reason="Firms the young bar; crumbly above 3 %.",
        )  # fmt: skip
    if work.salt_percent > 0:
        counted = min(work.salt_percent, coefficient("salt.most"))
        yield Adjustment(
            id="salt", name="Salt", state=f"{short(work.salt_percent)} % of oils",
            effects=_effects(
                firmness_at_unmould=counted * coefficient("salt.firmness_at_unmould"),
                open_lather=counted * coefficient("salt.open_lather"),
            ),
            reason="Firms the young bar and holds lather back.",
        )  # fmt: skip
    if work.sugar_percent >= 0.05:
        counted = min(work.sugar_percent, coefficient("sugar.most"))
        yield Adjustment(
            id="sugar", name="Sugars", state=f"{short(work.sugar_percent)} % of oils, those of liquids included",
            effects=_effects(open_lather=counted * coefficient("sugar.open_lather")),
            reason="Help big bubbles, and heat the batter.",
        )  # fmt: skip
    if work.koh_percent > 0:
        yield Adjustment(
            id="koh", name="KOH share", state=f"{work.koh_percent:.1f} % of the saponification",
            effects=_effects(
                hardness=work.koh_percent * coefficient("koh.hardness"),
                open_lather=work.koh_percent * coefficient("koh.open_lather"),
            ),
            reason="Potassium soap is softer and dissolves sooner; a little takes the slime out of high-oleic bars.",
        )  # fmt: skip
    if work.method == "cold" and work.gel != "natural":
        encouraged = work.gel == "encouraged"
        size = coefficient("gel.encouraged_firmness" if encouraged else "gel.prevented_firmness")
        yield Adjustment(
            id="gel", name="Gel phase", state=work.gel,
            effects=_effects(firmness_at_unmould=size),
            reason="Firmer sooner and more even." if encouraged else "Paler, opaque, softer for longer.",
        )  # fmt: skip
    if work.protein_percent >= 0.05:
        yield Adjustment(
            id="protein", name="Milk, egg or silk", state=f"protein {short(work.protein_percent)} % of oils",
            effects=_effects(dense_lather=coefficient("protein.dense_lather")), reason="A creamier feel.",
        )  # fmt: skip


def effect_on(adjustments: tuple[Adjustment, ...], what: str) -> float:
    """Points that all `adjustments` together add to `what`."""
    return sum(effect.points for adjustment in adjustments for effect in adjustment.effects if effect.on == what)
