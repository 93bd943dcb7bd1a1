"""What a label is of: the bars of a batch, or diluted soap in bottles, as what was weighed says."""

from contextlib import AbstractContextManager, nullcontext
from datetime import UTC, date, datetime
from typing import Protocol

from sapolin.core.batch.additions import Additions
from sapolin.core.cure.drying import BarWeight, bar_weight, days_between
from sapolin.core.cure.state import CureState, fit_standing
from sapolin.core.formula.composition import Composition
from sapolin.core.labels.claims import InTheBar, in_the_bar
from sapolin.core.labels.ingredients import BarOnDay, Kind, bar_on_day, diluted_on_day
from sapolin.core.preparations import DilutedBatch, DilutionPlan, PasteOnHand, preservatives
from sapolin.core.production.actual import expected_g, weighed_composition
from sapolin.core.production.lots import with_lots
from sapolin.core.stock.ledger import Lot
from sapolin.services.followed import FollowedBatch, PlannedBars, bar_of, prior_of, taken_by
from sapolin.services.preparations import PreparationRun, every_paste, run_of
from sapolin.store.batches import UnknownBatchError
from sapolin.store.preparations import UnknownPreparationError
from sapolin.store.stores import Stores

__all__ = ["LabelSubject", "subject_of"]

ONE_SIZE = 0.02
"""Bars that differ by no more, as a fraction, are of one size."""
BRINE = 0.2
"""Salt in brine."""


class LabelSubject(Protocol):
    """What a label is of, as it sees it."""

    id: str
    code: str
    name: str
    formula_id: str
    """Empty when it is of no one formula."""
    pieces: int
    """Bars or bottles that are still here."""
    made_at: str | None
    cut_at: str | None
    product: str
    """Its word, by its key among the fixed words."""
    net_ml: float | None
    """What a bottle holds, mL; null of bars, which are sold by weight."""
    sizes_g: tuple[float, float] | None
    """What its lightest and its heaviest bars weighed when they were cut, g; null where all are of one size."""
    standing: str
    """Whether it may be used: fit, untested, wait or unfit."""
    left: float
    """The fraction of its weight that is left when nothing is known of its bars."""
    in_the_bar: InTheBar
    sheets: dict[str, Lot]

    @property
    def shelf_months(self) -> float | None:
        """Months until it is likely to turn; null for a paste."""

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with what it began with."""

    def weight_on(self, day: date) -> BarWeight | None:
        """What a bar weighs on a day; null when it has none."""

    def bar(self, left: float) -> BarOnDay:
        """What is in it when so much of its weight is left."""


class _Made:
    """A batch as its label sees it."""

    product = "product"
    net_ml: float | None = None

    def __init__(self, batch_id: str, stores: Stores) -> None:
        self.batch = batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
        self.state: CureState = batch.state()
        work = batch.work
        with work.in_force():
            weights = expected_g(batch.run)
            self.composition: Composition = weighed_composition(with_lots(work.planned, batch.run.lots), weights)
            self.additions = Additions(work.planned.scents, work.planned.portions).with_weights(weights)
            self.in_the_bar: InTheBar = in_the_bar(
                self.composition,
                [one.scent for one in self.additions.scents],
                [colour.colorant for portion in self.additions.portions for colour in portion.colours],
            )
        self.prior = prior_of(taken_by(batch_id, stores.cures, stores.workshop.get().learns).drying)
        self.sheets = _sheets([one.scent for one in self.additions.scents], stores, batch_id)
        self.id, self.code = batch.record.id, batch.record.code
        self.name, self.formula_id = batch.record.plan.formula.name, batch.record.formula_id
        self.pieces, self.made_at, self.cut_at = self.state.here, batch.poured_at, self.state.cut_at
        self.standing: str = fit_standing(self.state.fit)
        self.left = batch.outcome.poured.volume.cured_fraction
        self.sizes_g: tuple[float, float] | None = _sizes_g(batch.planned)

    @property
    def shelf_months(self) -> float | None:
        """Months until it is likely to turn; null for a paste."""
        result = self.batch.outcome.actual.result or self.batch.work.planned.result
        return None if result.bar is None else result.bar.shelf_months

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with what it began with."""
        return self.batch.work.in_force()

    def weight_on(self, day: date) -> BarWeight | None:
        """What a bar weighs on a day."""
        bar = bar_of(self.batch.planned, self.batch.outcome, self.state)
        since = self.state.cut_at or self.batch.poured_at
        if bar is None or since is None:
            return None
        days = max(days_between(since, datetime(day.year, day.month, day.day, 12, tzinfo=UTC).isoformat()), 0.0)
        weighs = bar_weight(bar, self.state.weighings, days, self.state.room, self.prior)
        # One label for bars of several sizes promises what the lightest of them holds.
        lightest_g = bar.wet_g if self.sizes_g is None else self.sizes_g[0]
        return weighs.model_copy(update={"mean_g": weighs.mean_g * lightest_g / bar.wet_g})

    def bar(self, left: float) -> BarOnDay:
        """What its bars hold when so much of their weight is left."""
        with self.batch.work.in_force():
            return bar_on_day(self.composition, self.additions.scents, self.additions.portions, left)


def _sizes_g(planned: tuple[PlannedBars, ...]) -> tuple[float, float] | None:
    cut_g = [one.wet_g for one in planned if one.bars > 0]
    if not cut_g or max(cut_g) - min(cut_g) <= ONE_SIZE * max(cut_g):
        return None
    return min(cut_g), max(cut_g)


class _Diluted:
    """Diluted soap as its label sees it: its pastes as they were weighed, and what went in with the water."""

    product = "product_liquid"
    formula_id = ""
    cut_at: str | None = None
    sizes_g: tuple[float, float] | None = None
    left = 1.0

    def __init__(self, run: PreparationRun, diluted: DilutedBatch, stores: Stores) -> None:
        plan, state = run.record.plan, run.state
        assert isinstance(plan, DilutionPlan)
        weights = {item: state.captured_g.get(item, target) for item, target in state.targets_g.items()}
        self.id, self.code, self.name = run.record.id, run.record.code, plan.name
        self.pieces = diluted.bottles if state.packed is None else state.packed.jars
        self.made_at = state.ended_at
        self.net_ml: float | None = diluted.bottle_ml
        self.shelf_months: float | None = diluted.shelf_months
        tested = [one for one in state.tests if one.test == "ph"]
        self.standing: str = "fit" if tested and tested[-1].passed else "untested"
        pastes = [_Made(line.batch_id, stores) for line in plan.pastes]
        taken = [weights.get(f"paste:{i}", one.weight_g) for i, one in enumerate(diluted.pastes)]
        added: dict[tuple[Kind, str], float] = {
            ("water", "water"): sum(weights.get(f"water:{one.stage}", one.weight_g) for one in diluted.water)
        }
        if plan.preservative is not None:
            added["preservative", plan.preservative.preservative] = weights.get("preservative", diluted.preservative_g)
        for i, scent in enumerate(diluted.scents):
            added["scent", scent.scent] = weights.get(f"scent:{i}", scent.weight_g)
        brine_g = weights.get("brine", diluted.brine_g)
        if brine_g > 0:
            added["water", "water"] += brine_g * (1 - BRINE)
            added["additive", "salt"] = brine_g * BRINE
        on_hand = {one.batch_id: one for one in every_paste(stores)}
        self._bar = diluted_on_day(
            [(made.bar(_held_fraction(made, on_hand.get(made.id))), grams)
             for made, grams in zip(pastes, taken, strict=True)],
            added,
        )  # fmt: skip
        self.sheets = _sheets([one.scent for one in diluted.scents], stores)
        scented = tuple(one.name for one in diluted.scents)
        self.in_the_bar = InTheBar(*(
            tuple(dict.fromkeys(name for made in pastes for name in getattr(made.in_the_bar, field)))
            for field in InTheBar._fields
        ))._replace(scented=scented)  # fmt: skip
        if plan.preservative is not None:
            named = preservatives()[plan.preservative.preservative].name
            self.in_the_bar = self.in_the_bar._replace(not_natural=(*self.in_the_bar.not_natural, named))

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with what ships: it was made from what was made."""
        return nullcontext()

    def weight_on(self, day: date) -> BarWeight | None:
        """It has no bars."""
        return None

    def bar(self, left: float) -> BarOnDay:
        """What is in it; nothing dries off in a bottle."""
        return self._bar


def _held_fraction(made: _Made, paste: PasteOnHand | None) -> float:
    """The part of what went into a paste that is still in it: what is gone boiled off."""
    result = made.batch.outcome.actual.result
    if paste is None or result is None or result.paste is None:
        return 1.0
    return result.paste.soap_percent / paste.soap_percent


def subject_of(id_: str, stores: Stores) -> LabelSubject:
    """The batch or the diluted soap of an id. Raises UnknownBatchError, or FormulaError when it cannot be calculated."""
    try:
        run = run_of(id_, stores)
    except UnknownPreparationError:
        return _Made(id_, stores)
    if run.prepared.diluted is None:
        raise UnknownBatchError(id_)
    return _Diluted(run, run.prepared.diluted, stores)


def _sheets(scent_ids: list[str], stores: Stores, batch_id: str | None = None) -> dict[str, Lot]:
    """The lot of each scent that the batch was taken from, or the newest one; only those with a sheet."""
    uses = [] if batch_id is None else stores.stock.uses(batch_id=batch_id)
    taken = {use.material: use.lot_id for use in uses}
    found = {}
    for scent in scent_ids:
        material = f"scent:{scent}"
        if material in taken:
            lots = [stores.stock.get(taken[material]).lot]
        else:
            standing = stores.stock.standing(material)
            lots = sorted((one.lot for one in standing), key=lambda one: one.arrived, reverse=True)
        sheet = next((lot for lot in lots if lot.certificate is not None), None)
        if sheet is not None:
            found[scent] = sheet
    return found
