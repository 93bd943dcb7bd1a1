"""What goes into the pot beside oils: lye, water, liquids and additives, with every gram accounted for.

:func:`fill_pot` takes a formula whose entries :mod:`sapolin.core.formula.check` has passed one by one and works out the weights;
what then proves impossible together (liquids that bring more water than there is, a lye that cannot dissolve) it
returns as problems instead.
"""

from collections.abc import Iterator, Sequence

from sapolin.core.formula.blend import Component
from sapolin.core.formula.document import AdditiveLine, Formula, LiquidLine
from sapolin.core.formula.lye import NAOH_G_PER_MOL, LyeWeights, hydroxide_mol, koh_need_g, verify_lye, weigh_lye
from sapolin.core.formula.water import water_g
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.fatty_acids import KOH_G_PER_MOL
from sapolin.core.materials.ingredients import Additive, Liquid, LyeConsumer, additives, liquids, lye_consumers
from sapolin.core.quantities.diagnostics import Problem
from sapolin.core.quantities.limits import LIMITS

__all__ = ["Composition", "ConsumedLye", "Measured", "compose"]


class Measured:
    """A liquid or additive with its weight."""

    __slots__ = ("consumed_mol", "line", "of", "weight_g")

    def __init__(self, line: LiquidLine | AdditiveLine, of: Liquid | Additive, weight_g: float) -> None:
        self.line = line
        self.of = of
        self.weight_g = weight_g
        self.consumed_mol = (
            consumer_g(of, weight_g) * lye_consumers()[of.consumer].hydroxide_mol_per_g if of.consumer else 0.0
        )

    @property
    def compensated(self) -> bool:
        """The lye it consumes is added back."""
        return self.line.compensated


class ConsumedLye:
    """Lye that something takes before the fats get it."""

    __slots__ = ("acid_g", "compensated", "consumer", "field", "mol", "name")

    def __init__(
        self, field: str, name: str, consumer: LyeConsumer, acid_g: float, mol: float, compensated: bool
    ) -> None:  # fmt: skip
        self.field = field
        self.name = name
        self.consumer = consumer
        self.acid_g = acid_g
        self.mol = mol
        self.compensated = compensated


def consumer_g(of: Liquid | Additive, weight_g: float) -> float:
    """The acid in `weight_g` of a liquid or additive, g."""
    return weight_g * of.consumer_percent / 100


class Composition:
    """Every weight of a batch, g, and the hydroxide it holds, mol."""

    def __init__(self, formula: Formula, components: Sequence[Component], oils: Catalogue) -> None:
        assert formula.superfat_percent is not None
        assert formula.water.value is not None
        self.components = components
        self.oils_g = sum(component.weight_g for component in components)
        late = {i for i, line in enumerate(formula.blend.lines) if line.added != "start"}
        self.saponified_koh_g = koh_need_g([component for i, component in enumerate(components) if i not in late])
        self.all_oils_koh_g = koh_need_g(components)
        self.additives = tuple(self._additive(line) for line in formula.additives)
        added_back_mol = sum(additive.consumed_mol for additive in self.additives if additive.compensated)
        for_fats_mol = self.saponified_koh_g / KOH_G_PER_MOL * (1 - formula.superfat_percent / 100)

        def filled(added_back_mol: float) -> tuple[LyeWeights, float, tuple[Measured, ...]]:
            """Lye, water and liquids when so much hydroxide is added back for acids."""
            lye = weigh_lye(for_fats_mol + added_back_mol, formula.lye.naoh_purity_percent, formula.lye.koh)
            water = water_g(formula.water.by, formula.water.value or 0.0, lye_g=lye.total_g, oils_g=self.oils_g)
            return lye, water, tuple(self._liquid(line, water) for line in formula.liquids)

        if any(line.compensated for line in formula.liquids):
            # An acid liquid that is a share of the water grows with the lye added back for it. All of that is in proportion,
            # so two points of the straight line give where it meets itself.
            def taken(back: float) -> float:
                return sum(liquid.consumed_mol for liquid in filled(back)[2] if liquid.compensated)

            at_least = taken(added_back_mol)
            growth = taken(added_back_mol + for_fats_mol) - at_least
            added_back_mol += at_least / (1 - growth / for_fats_mol)
        self.demand_mol = for_fats_mol + added_back_mol
        self.lye, self.water_g, self.liquids = filled(added_back_mol)
        self.lye_mol = hydroxide_mol(self.lye.naoh_pure_g, self.lye.koh_pure_g)
        self.liquids_water_g = sum(_water_in(liquid) for liquid in self.liquids)
        lye_concentration = formula.lye.master_percent
        self.master_water_g = (
            0.0 if lye_concentration is None else self.lye.total_g * (100 - lye_concentration) / lye_concentration
        )
        self.plain_water_g = self.water_g - self.liquids_water_g - self.master_water_g
        self.fats_mol = (self.all_oils_koh_g + sum(_fat_koh_g(liquid, oils) for liquid in self.liquids)) / KOH_G_PER_MOL
        self.consumed = tuple(self._consumed())
        self.consumed_mol = sum(consumed.mol for consumed in self.consumed)
        self.total_g = (
            self.oils_g + self.lye.total_g + self.master_water_g + self.plain_water_g
            + sum(item.weight_g for item in (*self.liquids, *self.additives))
        )  # fmt: skip
        verify_lye(
            self.lye,
            saponified_koh_g=self.saponified_koh_g,
            superfat_percent=formula.superfat_percent,
            added_back_naoh_g=sum(
                consumer_g(item.of, item.weight_g) * lye_consumers()[item.of.consumer].naoh_g_per_g
                for item in (*self.additives, *self.liquids)
                if item.compensated and item.of.consumer
            ),
            oils_g=self.oils_g,
        )

    @property
    def base_g_per_mol(self) -> float:
        """Mean molar mass of the hydroxide in the lye, g/mol: which salts and soaps form."""
        koh_mol = self.lye.koh_pure_g / KOH_G_PER_MOL
        return (koh_mol * KOH_G_PER_MOL + (self.lye_mol - koh_mol) * NAOH_G_PER_MOL) / self.lye_mol

    @property
    def koh_share_percent(self) -> float:
        """KOH, % of the hydroxide by moles; exactly 100 when there is no NaOH."""
        if self.lye.naoh_g == 0:
            return 100.0
        return 100 * self.lye.koh_pure_g / KOH_G_PER_MOL / self.lye_mol

    @property
    def dissolving_water_g(self) -> float:
        """Water that the lye meets: plain water, that of the master lye and of the liquids it is dissolved in, g."""
        in_liquids = sum(
            _water_in(liquid) for liquid in self.liquids
            if isinstance(liquid.line, LiquidLine) and liquid.line.use == "dissolves_lye"
        )  # fmt: skip
        return self.plain_water_g + self.master_water_g + in_liquids

    def _additive(self, line: AdditiveLine) -> Measured:
        additive, value = additives()[line.additive], line.value or 0.0
        percent = additive.percent_of_oils(value) if line.by == "tsp_per_500_g" else value
        return Measured(line, additive, value if line.by == "weight_g" else self.oils_g * percent / 100)

    def _liquid(self, line: LiquidLine, water: float) -> Measured:
        liquid, value = liquids()[line.liquid], line.value or 0.0
        if line.by == "percent_of_water":
            weight_g = water * value / liquid.water_percent
        else:
            weight_g = value if line.by == "weight_g" else self.oils_g * value / 100
        return Measured(line, liquid, weight_g)

    def _consumed(self) -> Iterator[ConsumedLye]:
        for entry, items in (("liquids", self.liquids), ("additives", self.additives)):
            for i, item in enumerate(items):
                if item.of.consumer and item.weight_g > 0:
                    yield ConsumedLye(
                        f"{entry}[{i}]",
                        item.of.name,
                        lye_consumers()[item.of.consumer],
                        consumer_g(item.of, item.weight_g),
                        item.consumed_mol,
                        item.compensated,
                    )

    def problems(self) -> Iterator[Problem]:
        """What cannot be when everything is taken together."""
        limit = LIMITS["water_to_lye"]
        lye_g = self.lye.total_g
        if self.water_g < lye_g * limit.minimum * (1 - 1e-9):
            yield _impossible(
                "water_below_floor", "water.value",
                f"{self.water_g:,.1f} g of water cannot dissolve {lye_g:,.1f} g of lye, which takes its own weight at least.",
                f"Raise the water to {lye_g:,.1f} g or more: lye concentration at most 50 %, water : lye at least 1, "
                f"or {100 * lye_g / self.oils_g:.1f} % of oils.",
            )  # fmt: skip
        elif self.water_g > lye_g * limit.maximum:
            yield _impossible(
                "out_of_range", "water.value",
                f"{self.water_g:,.1f} g of water is more than {limit.maximum:g} times the lye: {limit.reason}.",
                "Usual are 1.5 to 3 times the lye.",
            )  # fmt: skip
        elif self.liquids_water_g > self.water_g * (1 + 1e-9):
            yield _impossible(
                "liquids_beyond_water", "liquids",
                f"The liquids bring {self.liquids_water_g:,.1f} g of water, more than the {self.water_g:,.1f} g there is "
                "to be.",
                "Lower a liquid, or raise the water.",
            )  # fmt: skip
        elif self.plain_water_g < -1e-9 * self.water_g:
            yield _impossible(
                "master_beyond_water", "lye.master_percent",
                f"The master lye and the liquids bring {self.master_water_g + self.liquids_water_g:,.1f} g of water, more "
                f"than the {self.water_g:,.1f} g there is to be.",
                "Use a stronger master lye, or raise the water.",
            )  # fmt: skip
        elif self.dissolving_water_g < lye_g * (1 - 1e-9):
            yield _impossible(
                "lye_water_below_floor", "liquids",
                f"Only {self.dissolving_water_g:,.1f} g of water meets {lye_g:,.1f} g of lye, which takes its own weight at "
                "least; the rest of the water goes elsewhere.",
                "Let a liquid dissolve the lye, lower one that goes into the oils or in at trace, or raise the water.",
            )  # fmt: skip


def _water_in(liquid: Measured) -> float:
    assert isinstance(liquid.of, Liquid)
    return liquid.weight_g * liquid.of.water_percent / 100


def _fat_koh_g(liquid: Measured, oils: Catalogue) -> float:
    """Pure KOH, g, that the fat of a liquid could take; no lye is calculated for it."""
    assert isinstance(liquid.of, Liquid)
    if not liquid.of.fat_like:
        return 0.0
    fat_g = liquid.weight_g * liquid.of.fat_percent.typical / 100
    return fat_g * oils[liquid.of.fat_like].sap_koh_mg_per_g.typical / 1000


def _impossible(code: str, field: str, message: str, remedy: str) -> Problem:
    return Problem(code=code, severity="impossible", field=field, message=message, remedy=remedy)


def compose(formula: Formula, components: Sequence[Component], oils: Catalogue) -> Composition:
    """The pot of a formula whose entries are all there and each possible by itself; ask it for `problems()` next."""
    return Composition(formula, components, oils)
