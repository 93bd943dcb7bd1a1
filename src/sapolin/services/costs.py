"""What a batch cost, and what its formula is made of in a year."""

from datetime import UTC, datetime, timedelta

from sapolin.core.cure.drying import days_between
from sapolin.core.formula.cost import price_of
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import with_materials
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import number
from sapolin.core.stock.cost import BatchCost, TakenFromLot, batch_cost
from sapolin.core.stock.ledger import Used
from sapolin.core.stock.needs import needs_of
from sapolin.core.stock.taking import taken_from
from sapolin.services.followed import FollowedBatch, bar_of
from sapolin.services.lists import page_of_batches
from sapolin.services.materials_named import name_of, own_names
from sapolin.services.taking import shelf_of
from sapolin.services.workshop_oils import landed_prices
from sapolin.store.clock import utc_now
from sapolin.store.stores import Stores
from sapolin.store.transactions import writing

__all__ = ["MadeInAYear", "book_packaging", "cost_of_batch", "made_in_a_year"]

MOST_IN_A_YEAR = 1000


class MadeInAYear(Model):
    """What was made of a formula in the last 365 days."""

    batches: int
    oils_g: float


def cost_of_batch(batch_id: str, stores: Stores) -> BatchCost:
    """What a batch cost, by the lots it was taken from, beside its plan. Raises UnknownBatchError, or FormulaError when it
    cannot be calculated.
    """
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    own, prices, taken = own_names(stores), dict[str, float | None](), []
    for use in stores.stock.uses(batch_id=batch_id):
        if use.lot_id not in prices:
            prices[use.lot_id] = stores.stock.get(use.lot_id).lot.per_kg
        name, kind = name_of(use.material, own) or (use.material, "oil")
        taken.append(
            TakenFromLot(
                material=use.material, name=name, kind=kind, lot=use.code, grams=use.grams, per_kg=prices[use.lot_id]
            )
        )
    state = batch.state()
    bar = bar_of(batch.planned, batch.outcome, state)
    minutes = None
    if batch.run.started_at is not None and batch.poured_at is not None:
        minutes = days_between(batch.run.started_at, batch.poured_at) * 24 * 60
    cost = batch_cost(
        taken, needs_of(batch.work.planned), _prices(stores), good_bars=_good_bars(batch),
        planned_bars=sum(one.bars for one in batch.planned), bar_g=None if bar is None else bar.wet_g * bar.end_fraction,
        minutes=minutes, rates=stores.workshop.get().costs,
    )  # fmt: skip
    names = tuple((name_of(one, own) or (one, "oil"))[0] for one in cost.planned_unpriced)
    return cost.model_copy(update={"planned_unpriced": names})


def _good_bars(batch: FollowedBatch) -> int:
    state = batch.state()
    return 0 if state.cut_at is None else max(state.bars - state.seconds - state.samples, 0)


def _prices(stores: Stores) -> dict[str, float]:
    """Price per kg of every material, from its lots in hand; of oils also as typed."""
    known = stores.prices.all() | landed_prices(stores)
    mixed = with_materials(catalogue(), [one.material for one in stores.materials.find()])
    # A mixture without a price of its own costs what its parts cost.
    parts = {oil.id: price_of(oil, known) for oil in mixed.values() if oil.components and oil.id not in known}
    return known | {id_: price for id_, price in parts.items() if price is not None}


def book_packaging(batch_id: str, stores: Stores) -> BatchCost:
    """Take what wraps the good bars of a batch from the shelf, less what is booked already. Sending it twice books it once.

    Raises UnknownBatchError, or FormulaError when nothing is to be booked or too little is in hand.
    """
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    rates = stores.workshop.get().costs
    bars = _good_bars(batch)
    if bars == 0 or not rates.packs:
        raise FormulaError([stopping("no_bars_to_wrap" if bars == 0 else "no_packaging_set", "batch_id")])
    at, today = utc_now(), stores.today()
    with writing(stores.engine, alone=True) as session:
        booked: dict[str, float] = {}
        for use in stores.stock.uses_in(session, batch_id=batch_id):
            booked[use.material] = booked.get(use.material, 0.0) + use.grams
        for pack in rates.packs:
            pieces = bars * pack.pieces - booked.get(pack.material, 0.0)
            if pieces <= 0:
                continue
            takes, missing = taken_from(shelf_of(stores.stock.standing_in(session, pack.material), today), pieces)
            if missing > 0:
                name = pack.material.partition(":")[2]
                raise FormulaError(
                    [stopping("too_little_packaging", "batch_id", name=name, missing=number(missing, 0))]
                )
            for take in takes:
                used = Used(kind="used", grams=take.grams, batch_id=batch_id, item="packaging")
                key = f"{batch_id}-packs-{booked.get(pack.material, 0.0):g}"
                stores.stock.book_in(session, take.lot_id, key, used, at)
    return cost_of_batch(batch_id, stores)


def made_in_a_year(formula_id: str, stores: Stores) -> MadeInAYear:
    """What was made of a formula lately: what a cheaper oil would save a year hangs on it."""
    since = (datetime.now(UTC) - timedelta(days=365)).isoformat(timespec="seconds")
    made = page_of_batches(stores, statuses=("made",), formula_id=formula_id, limit=MOST_IN_A_YEAR).batches
    lately = [one for one in made if (one.ended_at or "") >= since]
    return MadeInAYear(batches=len(lately), oils_g=sum(one.oils_g or 0.0 for one in lately))
