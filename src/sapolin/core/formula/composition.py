"""The composition: everything in a batch with its weight, whether it is designed, planned or already weighed.

A designed composition follows from a formula (:meth:`Composition.of_formula`), a weighed one from weights in grams
(:meth:`Composition.of_weights`). Whatever is calculated takes a composition and does not ask which of the two it was.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, NamedTuple

from sapolin.core.formula.blend import OilShare, oil_shares
from sapolin.core.formula.document import AddedWhen, AdditiveLine, Formula, Koh, LiquidLine, LiquidUse
from sapolin.core.formula.lye import LyeWeights, weigh_lye
from sapolin.core.formula.water import water_g
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.materials.ingredients import Additive, Liquid, LyeConsumer, additives, liquids, lye_consumers
from sapolin.core.quantities.model import given
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL, NAOH_G_PER_MOL

__all__ = ["AdditiveComponent", "Composition", "ConsumedLye", "LiquidComponent", "LyeComponent", "OilComponent",
           "liquid_g"]  # fmt: skip


class OilComponent(NamedTuple):
    """One oil in the batch."""

    oil: Oil
    share_percent: float
    """Of the oils by weight, %."""
    weight_g: float
    added: AddedWhen = "start"

    @property
    def koh_g(self) -> float:
        """Pure KOH that saponifies it, g: weight times SAP / 1000 (ISO 3657)."""
        return self.weight_g * self.oil.sap_koh_mg_per_g.typical / 1000


class LyeComponent(NamedTuple):
    """Lye of one kind, as bought."""

    kind: Literal["naoh", "koh"]
    weight_g: float
    """As weighed, impurities included; of a master lye the dry lye in it."""
    purity_percent: float

    @property
    def pure_g(self) -> float:
        """The hydroxide in it, g."""
        return self.weight_g * self.purity_percent / 100

    @property
    def mol(self) -> float:
        """The hydroxide in it, mol."""
        return self.pure_g / (NAOH_G_PER_MOL if self.kind == "naoh" else KOH_G_PER_MOL)


@dataclass(frozen=True)
class _Ingredient:
    """A liquid or an additive with its weight."""

    weight_g: float
    compensated: bool
    """The lye that its acid consumes is added back."""

    @property
    def row(self) -> Liquid | Additive:
        """What its table says of it."""
        raise NotImplementedError

    @property
    def acid_g(self) -> float:
        """Lye-consuming acid in it, g."""
        return self.weight_g * self.row.consumer_percent / 100

    @property
    def consumed_mol(self) -> float:
        """Hydroxide that it takes before the fats get any, mol."""
        return self.acid_g * lye_consumers()[self.row.consumer].hydroxide_mol_per_g if self.row.consumer else 0.0


@dataclass(frozen=True)
class LiquidComponent(_Ingredient):
    """A liquid in the place of some of the water."""

    liquid: Liquid
    use: LiquidUse
    fat: Oil | None
    """What its fat behaves like; null when it has none worth counting."""

    @property
    def row(self) -> Liquid:
        """Its row of the table."""
        return self.liquid

    @property
    def water_g(self) -> float:
        """Water in it, g."""
        return self.weight_g * self.liquid.water_percent / 100

    @property
    def fat_g(self) -> float:
        """Fat in it, g."""
        return self.weight_g * self.liquid.fat_percent.typical / 100

    @property
    def fat_koh_g(self) -> float:
        """Pure KOH, g, that its fat could take; no lye is calculated for it."""
        return 0.0 if self.fat is None else self.fat_g * self.fat.sap_koh_mg_per_g.typical / 1000


@dataclass(frozen=True)
class AdditiveComponent(_Ingredient):
    """An additive."""

    additive: Additive

    @property
    def row(self) -> Additive:
        """Its row of the table."""
        return self.additive


class ConsumedLye(NamedTuple):
    """Lye that something takes before the fats get any."""

    path: str
    """Entry of the formula that does it, such as `additives[0]`."""
    name: str
    consumer: LyeConsumer
    acid_g: float
    mol: float
    compensated: bool


@dataclass(frozen=True)
class Composition:
    """Every weight of a batch, g, and the hydroxide it holds, mol. Nothing in it ever changes.

    Only the fields are given; all else follows from them.
    """

    oils: tuple[OilComponent, ...]
    """In the order of the blend."""
    lyes: tuple[LyeComponent, ...]
    """NaOH and KOH; either may weigh nothing."""
    plain_water_g: float
    """Water beside other liquids and what a master lye holds already, g."""
    liquids: tuple[LiquidComponent, ...]
    additives: tuple[AdditiveComponent, ...]
    master_percent: float | None
    """Lye as bought in its master lye, %; null when it is weighed dry."""
    pure_oils: tuple[OilComponent, ...]
    """The oils with every mixture taken apart; fillers left out, so that their shares may sum to less than 100."""

    @classmethod
    def of_formula(cls, formula: Formula, oils: Catalogue) -> "Composition":
        """The composition that a formula asks for, over `oils` (its own materials among them).

        Expects a formula whose entries :mod:`sapolin.core.formula.check` has passed one by one; what proves impossible when
        everything is taken together, the check asks of the composition.
        """
        assert formula.superfat_percent is not None
        shares = oil_shares(formula.blend, oils)
        components = _oil_components(shares, [line.added for line in formula.blend.lines])
        oils_g = sum(component.weight_g for component in components)
        added = tuple(_additive(line, oils_g) for line in formula.additives)
        needed_koh_g = sum(component.koh_g for component in components if component.added == "start")
        fats_mol = needed_koh_g / KOH_G_PER_MOL * (1 - formula.superfat_percent / 100)
        lye, water, wet = _lye_and_water(formula, oils, oils_g, fats_mol, added)
        master = formula.lye.master_percent
        master_water_g = 0.0 if master is None else lye.total_g * (100 - master) / master
        return cls(
            oils=components,
            lyes=_lyes(lye.naoh_g, lye.koh_g, formula.lye.naoh_purity_percent, formula.lye.koh),
            plain_water_g=water - sum(liquid.water_g for liquid in wet) - master_water_g,
            liquids=wet,
            additives=added,
            master_percent=master,
            pure_oils=_taken_apart(components, oils),
        )

    @classmethod
    def of_weights(
        cls,
        formula: Formula,
        oils: Catalogue,
        *,
        oils_g: Sequence[float],
        naoh_g: float,
        koh_g: float,
        water_g: float,
        liquids_g: Sequence[float],
        additives_g: Sequence[float],
    ) -> "Composition":
        """The composition of what was weighed, in g, for the lines of `formula` in their order.

        `naoh_g` and `koh_g` are of the lye as bought; master lye counts as the dry lye in it, its water comes on top.
        """
        total_g = sum(oils_g)
        components = tuple(
            OilComponent(oils[line.oil], 100 * grams / total_g, grams, line.added)
            for line, grams in zip(formula.blend.lines, oils_g, strict=True)
        )
        return cls(
            oils=components,
            lyes=_lyes(naoh_g, koh_g, formula.lye.naoh_purity_percent, formula.lye.koh),
            plain_water_g=water_g,
            liquids=tuple(_liquid(line, oils, grams) for line, grams in zip(formula.liquids, liquids_g, strict=True)),
            additives=tuple(
                AdditiveComponent(grams, line.compensated, additives()[line.additive])
                for line, grams in zip(formula.additives, additives_g, strict=True)
            ),
            master_percent=formula.lye.master_percent,
            pure_oils=_taken_apart(components, oils),
        )

    def scaled(self, factor: float) -> "Composition":
        """The same bar `factor` times as large."""

        def oils(components: tuple[OilComponent, ...]) -> tuple[OilComponent, ...]:
            return tuple(component._replace(weight_g=component.weight_g * factor) for component in components)

        return Composition(
            oils=oils(self.oils),
            lyes=tuple(lye._replace(weight_g=lye.weight_g * factor) for lye in self.lyes),
            plain_water_g=self.plain_water_g * factor,
            liquids=tuple(replace(liquid, weight_g=liquid.weight_g * factor) for liquid in self.liquids),
            additives=tuple(replace(additive, weight_g=additive.weight_g * factor) for additive in self.additives),
            master_percent=self.master_percent,
            pure_oils=oils(self.pure_oils),
        )

    @cached_property
    def oils_g(self) -> float:
        """All oils, g."""
        return sum(component.weight_g for component in self.oils)

    @property
    def naoh(self) -> LyeComponent:
        """The NaOH, which may weigh nothing."""
        return self.lyes[0]

    @property
    def koh(self) -> LyeComponent:
        """The KOH, which may weigh nothing."""
        return self.lyes[1]

    @cached_property
    def lye_g(self) -> float:
        """All lye as bought, g."""
        return sum(lye.weight_g for lye in self.lyes)

    @cached_property
    def lye_mol(self) -> float:
        """Hydroxide weighed, mol."""
        return sum(lye.mol for lye in self.lyes)

    @cached_property
    def master_water_g(self) -> float:
        """Water that comes with a master lye, g."""
        return 0.0 if self.master_percent is None else self.lye_g * (100 - self.master_percent) / self.master_percent

    @cached_property
    def liquids_water_g(self) -> float:
        """Water in the liquids, g."""
        return sum(liquid.water_g for liquid in self.liquids)

    @cached_property
    def water_g(self) -> float:
        """All water: plain, of the liquids, of a master lye, g."""
        return self.plain_water_g + self.liquids_water_g + self.master_water_g

    @property
    def dissolving_water_g(self) -> float:
        """Water that the lye meets: plain water, that of the master lye and of the liquids it is dissolved in, g."""
        in_liquids = sum(liquid.water_g for liquid in self.liquids if liquid.use == "dissolves_lye")
        return self.plain_water_g + self.master_water_g + in_liquids

    @cached_property
    def all_oils_koh_g(self) -> float:
        """Pure KOH that saponifies all oils, late ones too, g."""
        return sum(component.koh_g for component in self.oils)

    @cached_property
    def fats_mol(self) -> float:
        """Hydroxide that all fats can take, those in liquids too, mol."""
        return (self.all_oils_koh_g + sum(liquid.fat_koh_g for liquid in self.liquids)) / KOH_G_PER_MOL

    @cached_property
    def fats(self) -> tuple[OilComponent, ...]:
        """All that soap is made of: the oils in their order, then the fat of each liquid that has some.

        Shares are of all fats.
        """
        liquid_fats = [
            (liquid.fat, liquid.fat_g) for liquid in self.liquids if liquid.fat is not None and liquid.fat_g > 0
        ]
        if not liquid_fats:
            return self.oils
        total_g = self.oils_g + sum(grams for _, grams in liquid_fats)
        oils = (component._replace(share_percent=100 * component.weight_g / total_g) for component in self.oils)
        return (*oils, *(OilComponent(fat, 100 * grams / total_g, grams) for fat, grams in liquid_fats))

    @cached_property
    def acids_percent(self) -> dict[str, float]:
        """Percent of all fatty acids, those of liquids too, by acid id."""
        return {
            acid.id: sum(component.share_percent * component.oil.profile[i] for component in self.fats) / 100
            for i, acid in enumerate(ACIDS)
        }

    @cached_property
    def consumed(self) -> tuple[ConsumedLye, ...]:
        """What takes lye before the fats get any."""
        return tuple(self._consumed())

    @cached_property
    def consumed_mol(self) -> float:
        """Hydroxide that acids take, mol."""
        return sum(consumed.mol for consumed in self.consumed)

    @cached_property
    def total_g(self) -> float:
        """Everything together, g."""
        return (
            self.oils_g + self.lye_g + self.master_water_g + self.plain_water_g
            + sum(item.weight_g for item in (*self.liquids, *self.additives))
        )  # fmt: skip

    @cached_property
    def superfat_percent(self) -> float:
        """What is left of all fats when the lye is spent, as a share of what they could take, %.

        100 (1 − (hydroxide weighed − hydroxide consumed by acids) / hydroxide that all fats can take); below 0 there is more
        lye than everything together can take.
        """
        return self.superfat_with(self.lye_mol)

    @property
    def is_lye_heavy(self) -> bool:
        """Whether there is more lye than everything together can take; nothing, with dust on it, is no less."""
        return self.superfat_percent < -1e-9

    def superfat_with(self, lye_mol: float) -> float:
        """Superfat, %, with `lye_mol` of hydroxide instead of what was weighed."""
        return 100 * (1 - (lye_mol - self.consumed_mol) / self.fats_mol)

    @cached_property
    def superfat_of_first_oils_percent(self) -> float:
        """Superfat as a formula states it, %: of the oils that meet the lye, what was added back for acids set apart.

        Lye that the first oils cannot take goes on to those added later, so then all of them meet it.
        """
        added_back_mol = sum(item.consumed_mol for item in (*self.liquids, *self.additives) if item.compensated)

        def superfat(components: Sequence[OilComponent]) -> float:
            needed_mol = sum(component.koh_g for component in components) / KOH_G_PER_MOL
            return 100 * (1 - (self.lye_mol - added_back_mol) / needed_mol)

        of_first = superfat([component for component in self.oils if component.added == "start"])
        return of_first if of_first >= 0 else superfat(self.oils)

    @property
    def lye_concentration_percent(self) -> float:
        """Lye / (lye + water), lye as weighed, %."""
        return 100 * self.lye_g / (self.lye_g + self.water_g)

    @property
    def koh_share_percent(self) -> float:
        """KOH, % of the hydroxide by moles; exactly 100 when there is no NaOH."""
        return 100.0 if self.naoh.weight_g == 0 else 100 * self.koh.mol / self.lye_mol

    @property
    def base_g_per_mol(self) -> float:
        """Mean molar mass of the hydroxide in the lye, g/mol: which salts and soaps form."""
        return (self.koh.mol * KOH_G_PER_MOL + self.naoh.mol * NAOH_G_PER_MOL) / self.lye_mol

    def _consumed(self) -> Iterator[ConsumedLye]:
        entries: tuple[tuple[str, Sequence[LiquidComponent | AdditiveComponent]], ...] = (
            ("liquids", self.liquids), ("additives", self.additives),
        )  # fmt: skip
        for entry, items in entries:
            for i, item in enumerate(items):
                if item.row.consumer and item.weight_g > 0:
                    yield ConsumedLye(
                        f"{entry}[{i}]", item.row.name, lye_consumers()[item.row.consumer], item.acid_g,
                        item.consumed_mol, item.compensated,
                    )  # fmt: skip


def _oil_components(shares: Sequence[OilShare], added: Sequence[AddedWhen]) -> tuple[OilComponent, ...]:
    return tuple(
        OilComponent(share.oil, share.share_percent, share.weight_g, when)
        for share, when in zip(shares, added, strict=True)
    )


def _taken_apart(components: Sequence[OilComponent], oils: Catalogue) -> tuple[OilComponent, ...]:
    """`components` with every mixture taken apart; the same oil from several comes together."""
    if not any(component.oil.components for component in components):
        return tuple(components)
    weights: dict[str, float] = {}
    total_g = sum(component.weight_g for component in components)
    for component in components:
        for piece, percent in component.oil.pieces:
            weights[piece] = weights.get(piece, 0.0) + component.weight_g * percent / 100
    return tuple(OilComponent(oils[oil], 100 * weight / total_g, weight) for oil, weight in weights.items())


def _lyes(
    naoh_g: float, koh_g: float, naoh_purity_percent: float | None, koh: Koh | None
) -> tuple[LyeComponent, LyeComponent]:  # fmt: skip
    koh_purity = 0.0 if koh is None else given(koh.purity_percent)
    return LyeComponent("naoh", naoh_g, naoh_purity_percent or 0.0), LyeComponent("koh", koh_g, koh_purity)


def _lye_and_water(
    formula: Formula, oils: Catalogue, oils_g: float, fats_mol: float, added: Sequence[AdditiveComponent]
) -> tuple[LyeWeights, float, tuple[LiquidComponent, ...]]:
    """Lye, all water in g, and liquids: for `fats_mol` of hydroxide, and what is added back for acids."""
    added_back_mol = sum(additive.consumed_mol for additive in added if additive.compensated)

    def filled(added_back_mol: float) -> tuple[LyeWeights, float, tuple[LiquidComponent, ...]]:
        lye = weigh_lye(fats_mol + added_back_mol, formula.lye.naoh_purity_percent, formula.lye.koh)
        water = water_g(formula.water.by, given(formula.water.value), lye_g=lye.total_g, oils_g=oils_g)
        return lye, water, tuple(
            _liquid(line, oils, liquid_g(line, water, oils_g)) for line in formula.liquids
        )  # fmt: skip

    if any(line.compensated for line in formula.liquids):
        # An acid liquid that is a share of the water grows with the lye added back for it. All of that is in proportion, so
        # two points of the straight line give where it meets itself.
        def taken(back: float) -> float:
            return sum(liquid.consumed_mol for liquid in filled(back)[2] if liquid.compensated)

        at_least = taken(added_back_mol)
        growth = taken(added_back_mol + fats_mol) - at_least
        added_back_mol += at_least / (1 - growth / fats_mol)
    return filled(added_back_mol)


def liquid_g(line: LiquidLine, water: float, oils_g: float) -> float:
    """Weight of a liquid, g, in a formula of `oils_g` oils and `water` g water in all.

    A share of the water is the share of it that comes with the liquid, so a liquid that is half water weighs twice that.

    >>> half = LiquidLine(liquid="goat-milk", use="dissolves_lye", by="percent_of_water", value=50.0)
    >>> round(liquid_g(half, water=300.0, oils_g=1000.0), 1)  # 150 g of water, in milk that is 87 % water
    172.4
    """
    value = given(line.value)
    if line.by == "percent_of_water":
        return water * value / liquids()[line.liquid].water_percent
    return value if line.by == "weight_g" else oils_g * value / 100


def _liquid(line: LiquidLine, oils: Catalogue, grams: float) -> LiquidComponent:
    liquid = liquids()[line.liquid]
    fat = oils[liquid.fat_like] if liquid.fat_like else None
    return LiquidComponent(grams, line.compensated, liquid, line.use, fat)


def _additive(line: AdditiveLine, oils_g: float) -> AdditiveComponent:
    additive, value = additives()[line.additive], given(line.value)
    percent = additive.percent_of_oils(value) if line.by == "tsp_per_500_g" else value
    return AdditiveComponent(value if line.by == "weight_g" else oils_g * percent / 100, line.compensated, additive)
