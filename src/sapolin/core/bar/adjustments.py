"""What the sums over fatty acids leave out: named adjustments beside the qualities, never folded into them.

Each is declared once in :data:`ADJUSTMENTS`: when it applies, how it stands, and what it moves by which coefficient. All are
estimates from rules of thumb (see :mod:`sapolin.core.quantities.coefficients`).
"""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from sapolin.core.formula.composition import Composition, ConsumedLye
from sapolin.core.formula.document import Process, WashWater
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Param, Text, number, percent, significant, template, text

__all__ = [
    "ADJUSTMENTS",
    "CHELATORS",
    "LONG_SATURATED",
    "Adjustment",
    "AdjustmentRule",
    "Conditions",
    "Effect",
    "EffectRule",
    "adjustments_of",
    "conditions_of",
    "effect_on",
    "told_adjustment",
]  # fmt: skip

LONG_SATURATED = ("C16:0", "C18:0", "C20:0", "C22:0")
"""Acids whose sodium soap hardly dissolves in hand-warm water."""
CHELATORS = {"sodium-citrate": "citrate", "tetrasodium-edta": "edta"}
"""What an additive that binds calcium does it with."""
LEAST_SHOWN_PERCENT = 0.05
"""Of sugars and protein less than this, % of oils, moves nothing that could be shown."""


class Effect(Model):
    """One thing that an adjustment moves."""

    on: str
    """Id of a quality, `firmness_at_unmould` or `firmness_after_cure`."""
    points: float
    """By how much, points; an estimate."""
    expression: Text
    """The numbers that made it, such as `2.0 × −0.8`."""


class Adjustment(Model):
    """Something beside the fatty acids that acts on the bar."""

    id: str
    name: str
    state: Text
    """How it stands in this formula."""
    effects: tuple[Effect, ...]
    reason: str


class Conditions(Model):
    """Under which conditions the fatty acids become a bar."""

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
    has_antioxidant: Truth
    """One at its usual rate or more."""
    chelated: float
    """How far a chelator is at its full rate, from 0 to 1."""
    method: str
    gel: str
    cure_weeks: float | None
    batter_temperature_c: float | None
    """Warmth at which it is combined, when that is decided."""
    wash_water: WashWater
    acids: dict[str, float]
    """Percent of all fatty acids, by acid id."""

    @property
    def soluble_percent(self) -> float:
        """Soap that dissolves readily in hand-warm water, %: all but that of long saturated acids, which as potassium soap
        does too."""
        return 100 - self.long_saturated_percent * (1 - self.koh_percent / 100)

    @property
    def long_saturated_percent(self) -> float:
        """Palmitic to behenic acid, %."""
        return sum(self.acids[acid] for acid in LONG_SATURATED)

    @property
    def calcium_takes(self) -> float:
        """The fraction of the soap that calcium takes while washing, chelators counted."""
        if self.wash_water == "soft":
            return 0.0
        return coefficient(f"lime.{self.wash_water}_loss") * (1 - coefficient("lime.held_at_most") * self.chelated)


def conditions_of(composition: Composition, process: Process, wash_water: WashWater = "soft") -> Conditions:
    """The conditions that a `composition`, its process and the water that it is used with make."""
    rates: dict[str, float] = {}
    sugar_g, protein_g, has_antioxidant = 0.0, 0.0, False
    for item in composition.additives:
        row, percent = item.additive, 100 * item.weight_g / composition.oils_g
        kind = CHELATORS.get(row.id, row.role)
        rates[kind] = rates.get(kind, 0.0) + percent
        sugar_g += item.weight_g * row.sugar_percent / 100
        protein_g += item.weight_g if row.role == "protein" else 0.0
        has_antioxidant |= row.role == "antioxidant" and percent >= row.usual_minimum_percent
    for consumed in composition.consumed:
        salt, grams = salt_of(consumed)
        rates[salt] = rates.get(salt, 0.0) + 100 * grams / composition.oils_g
    for liquid in composition.liquids:
        sugar_g += liquid.weight_g * liquid.liquid.sugar_percent / 100
        protein_g += liquid.weight_g * liquid.liquid.protein_percent / 100
        rates["salt"] = rates.get("salt", 0.0) + liquid.weight_g * liquid.liquid.salt_percent / composition.oils_g
    return Conditions(
        superfat_percent=composition.superfat_percent,
        lye_concentration_percent=composition.lye_concentration_percent,
        koh_percent=composition.koh_share_percent,
        lactate_percent=rates.get("lactate", 0.0),
        salt_percent=rates.get("salt", 0.0),
        sugar_percent=100 * sugar_g / composition.oils_g,
        protein_percent=100 * protein_g / composition.oils_g,
        has_antioxidant=has_antioxidant,
        chelated=min(
            rates.get("citrate", 0.0) / coefficient("lime.citrate_full_percent")
            + rates.get("edta", 0.0) / coefficient("lime.edta_full_percent"),
            1.0,
        ),
        method=process.method,
        gel=process.gel,
        cure_weeks=process.cure_weeks,
        batter_temperature_c=process.batter_temperature_c,
        wash_water=wash_water,
        acids=composition.acids_percent,
    )


SODIUM_LACTATE_PER_LACTIC_ACID = 112.06 / 90.08
"""By molar masses."""
SODIUM_CITRATE_PER_CITRIC_ACID = 294.10 / 192.12
"""By molar masses, of the dihydrate that is sold as sodium citrate, per g of anhydrous acid."""
LACTATE_SOLUTION = 0.60
"""Sodium lactate is sold at this concentration, and its rates are of that."""


def salt_of(consumed: ConsumedLye) -> tuple[str, float]:
    """The salt that an acid makes of lye, by its role, and its weight as an additive would bring it, g.

    A gram of lactic acid makes as much sodium lactate as 2.07 g of the 60 % solution bring.
    """
    if consumed.consumer.id == "lactic":
        return "lactate", consumed.acid_g * SODIUM_LACTATE_PER_LACTIC_ACID / LACTATE_SOLUTION
    if consumed.consumer.id.startswith("citric"):
        anhydrous_g = consumed.mol * consumed.consumer.anhydrous_g_per_mol / consumed.consumer.hydroxide_per_mol
        return "citrate", anhydrous_g * SODIUM_CITRATE_PER_CITRIC_ACID
    return "", 0.0


class EffectRule(NamedTuple):
    """Points moved: an amount times a coefficient, or the coefficient alone."""

    on: str
    coefficient: str
    """Id of the coefficient, points per unit of the amount."""
    amount: Callable[[Conditions], float] = lambda _: 1.0

    def effect(self, conditions: Conditions) -> Effect:
        """What it moves under these `conditions`."""
        amount, rate = self.amount(conditions), coefficient(self.coefficient)
        return Effect(
            on=self.on,
            points=amount * rate,
            expression=text("adjustments.product", amount=significant(amount), rate=number(rate)),
        )


class AdjustmentRule(NamedTuple):
    """An adjustment as it is declared; its words stand in the catalogue of messages under `adjustments`."""

    id: str
    applies: Callable[[Conditions], bool]
    states: Callable[[Conditions], dict[str, Param]]
    """What its state is told with."""
    effects: tuple[EffectRule, ...]
    hidden_without_effect: Truth = False
    """Left out while it moves nothing."""
    words: str = ""
    """Where its words stand, if not under its id."""

    def adjustment(self, conditions: Conditions) -> Adjustment:
        """How it acts under these `conditions`; effects that round to nothing are left out."""
        effects = (rule.effect(conditions) for rule in self.effects)
        return told_adjustment(
            self.id,
            self.words or self.id,
            self.states(conditions),
            tuple(effect for effect in effects if round(effect.points, 1) != 0),
        )


def told_adjustment(id: str, words: str, states: dict[str, Param], effects: tuple[Effect, ...]) -> Adjustment:
    """An adjustment with its words from the catalogue."""
    return Adjustment(
        id=id,
        name=template(f"adjustments.{words}.name"),
        state=text(f"adjustments.{words}.state", **states),
        effects=effects,
        reason=template(f"adjustments.{words}.reason"),
    )


def _superfat_more(conditions: Conditions) -> float:
    return conditions.superfat_percent - coefficient("superfat.usual")


def _drier(conditions: Conditions) -> float:
    return conditions.lye_concentration_percent - coefficient("water.usual_lye_concentration")


def _lactate(conditions: Conditions) -> float:
    return min(conditions.lactate_percent, coefficient("lactate.most"))


def _salt(conditions: Conditions) -> float:
    return min(conditions.salt_percent, coefficient("salt.most"))


def _sugar(conditions: Conditions) -> float:
    return min(conditions.sugar_percent, coefficient("sugar.most"))


def _koh(conditions: Conditions) -> float:
    return conditions.koh_percent


def _undissolved(now: Conditions) -> float:
    """Points of dense lather that nothing helps to dissolve."""
    missing = 1 - now.soluble_percent / coefficient("solubility.needs_percent")
    return max(missing, 0.0) * (now.acids["C16:0"] + now.acids["C18:0"]) * (1 - now.koh_percent / 100)


def _open_taken(now: Conditions) -> float:
    return now.calcium_takes * (now.acids["C12:0"] + now.acids["C14:0"] + now.acids["C18:1-OH"])


def _dense_taken(now: Conditions) -> float:
    stearates = coefficient("lime.stearate_factor") * (now.acids["C16:0"] + now.acids["C18:0"])
    return now.calcium_takes * (stearates + now.acids["C18:1-OH"])


def _of_oils(rate: Callable[[Conditions], float]) -> Callable[[Conditions], dict[str, Param]]:
    return lambda now: {"amount": significant(rate(now), unit="%")}


ADJUSTMENTS: tuple[AdjustmentRule, ...] = (
    AdjustmentRule(
        "superfat", lambda _: True,
        lambda now: {
            "superfat": percent(now.superfat_percent, 1), "usual": percent(coefficient("superfat.usual"))
        },
        tuple(
            EffectRule(quality, f"superfat.{quality}", _superfat_more)
            for quality in ("hardness", "conditioning", "cleansing", "open_lather", "dense_lather")
        ),
        hidden_without_effect=True,
    ),
    AdjustmentRule(
        "water", lambda _: True,
        lambda now: {
            "concentration": percent(now.lye_concentration_percent, 1),
            "usual": percent(coefficient("water.usual_lye_concentration")),
        },
        (EffectRule("firmness_at_unmould", "water.firmness_at_unmould", _drier),), hidden_without_effect=True,
    ),
    AdjustmentRule(
        "sodium_lactate", lambda now: now.lactate_percent > 0, _of_oils(lambda now: now.lactate_percent),
        (EffectRule("firmness_at_unmould", "lactate.firmness_at_unmould", _lactate),),
    ),
    AdjustmentRule(
        "salt", lambda now: now.salt_percent > 0, _of_oils(lambda now: now.salt_percent),
        (
            EffectRule("firmness_at_unmould", "salt.firmness_at_unmould", _salt),
            EffectRule("open_lather", "salt.open_lather", _salt),
        ),
    ),
    AdjustmentRule(
        "sugar", lambda now: now.sugar_percent >= LEAST_SHOWN_PERCENT, _of_oils(lambda now: now.sugar_percent),
        (EffectRule("open_lather", "sugar.open_lather", _sugar),),
    ),
    AdjustmentRule(
        "koh", lambda now: now.koh_percent > 0, lambda now: {"share": percent(now.koh_percent, 1)},
        (EffectRule("hardness", "koh.hardness", _koh), EffectRule("open_lather", "koh.open_lather", _koh)),
    ),
    AdjustmentRule(
        "gel", lambda now: now.method == "cold" and now.gel == "encouraged", lambda _: {},
        (EffectRule("firmness_at_unmould", "gel.encouraged_firmness"),), words="gel_encouraged",
    ),
    AdjustmentRule(
        "gel", lambda now: now.method == "cold" and now.gel == "prevented", lambda _: {},
        (EffectRule("firmness_at_unmould", "gel.prevented_firmness"),), words="gel_prevented",
    ),
    AdjustmentRule(
        "protein", lambda now: now.protein_percent >= LEAST_SHOWN_PERCENT, _of_oils(lambda now: now.protein_percent),
        (EffectRule("dense_lather", "protein.dense_lather"),),
    ),
    AdjustmentRule(
        "solubility", lambda now: now.soluble_percent < coefficient("solubility.needs_percent"),
        lambda now: {
            "soluble": percent(now.soluble_percent, 0), "needed": percent(coefficient("solubility.needs_percent"), 0)
        },
        (EffectRule("dense_lather", "solubility.dense_lather", _undissolved),), hidden_without_effect=True,
    ),
    AdjustmentRule(
        "hard_water", lambda now: now.calcium_takes > 0,
        lambda now: {
            "water": template(f"waters.{now.wash_water}"), "taken": percent(100 * now.calcium_takes, 0)
        },
        (EffectRule("open_lather", "lime.lather", _open_taken), EffectRule("dense_lather", "lime.lather", _dense_taken)),
        hidden_without_effect=True,
    ),
)  # fmt: skip
"""Every adjustment, in the order they are shown."""


def adjustments_of(conditions: Conditions) -> tuple[Adjustment, ...]:
    """Those that act under these `conditions`, each with its size and reason."""
    acting = ((rule, rule.adjustment(conditions)) for rule in ADJUSTMENTS if rule.applies(conditions))
    return tuple(adjustment for rule, adjustment in acting if adjustment.effects or not rule.hidden_without_effect)


def effect_on(adjustments: Sequence[Adjustment], what: str) -> float:
    """Points that all `adjustments` together add to `what`."""
    return sum(effect.points for adjustment in adjustments for effect in adjustment.effects if effect.on == what)
