"""Which lots a batch is taken from: offered before it is weighed, chosen by code, and booked when make day is over."""

from collections import defaultdict
from collections.abc import Collection, Mapping
from datetime import date

from sqlalchemy.orm import Session

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import Certificate as OilCertificate
from sapolin.core.materials.own import OwnMaterial
from sapolin.core.production.events import LotChosen
from sapolin.core.production.state import RunState
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, number, percent, text
from sapolin.core.stock.ledger import Returned, Used, lot_stopped
from sapolin.core.stock.needs import dry_lye_of, material_of
from sapolin.core.stock.taking import Shelf, taken_from
from sapolin.services.batches import prepared, work_of
from sapolin.services.materials_named import name_of, own_names
from sapolin.services.stock import LotView, keeping_now, view_of
from sapolin.store.stock import LotStanding, LotUse, StockStore
from sapolin.store.stores import Stores

__all__ = [
    "ItemLots",
    "LotForPlan",
    "chosen",
    "lot_in_the_way",
    "lots_for_items",
    "lots_for_plan",
    "settle",
    "shelf_of",
]


class ItemLots(Model):
    """The lots that something to weigh can be taken from."""

    item: str
    material: str
    lots: tuple[LotView, ...]
    """First to be used first; none when no lot is kept of it."""


class LotForPlan(Model):
    """What the lot that comes next says otherwise than the plan."""

    code: str
    name: str
    words: Text
    plan: BatchPlan
    """The plan by what the lot says."""


def shelf_of(standing: list[LotStanding], today: date) -> list[Shelf]:
    """The lots that may be taken from today."""
    shelf = []
    for one in standing:
        keeping = keeping_now(one.lot, one.now, today)
        is_past = keeping is not None and keeping.stops
        if one.lot.arrived <= today and not one.now.is_stopped and not is_past:
            until = None if keeping is None else keeping.until
            shelf.append(
                Shelf(lot_id=one.id, code=one.lot.code, in_hand_g=one.now.in_hand_g, until=until,
                      is_open=one.now.opened_at is not None)
            )  # fmt: skip
    return shelf


def lots_for_items(batch_id: str, stores: Stores) -> tuple[ItemLots, ...]:
    """What each thing to weigh of a batch can be taken from. Raises UnknownBatchError."""
    work = work_of(stores.batches.get(batch_id), stores.batches)
    today = stores.today()
    found = []
    for step in work.steps:
        meant = None if step.weigh is None else material_of(step.weigh.item, work.planned)
        if step.weigh is None or meant is None:
            continue
        standing = stores.stock.standing(meant[0])
        lots = [view_of(one.id, one.lot, one.now, today) for one in standing]
        order = {one.lot_id: i for i, one in enumerate(in_order(shelf_of(standing, today)))}
        usable = sorted((one for one in lots if one.id in order), key=lambda one: order[one.id])
        firsts = [one.model_copy(update={"is_first": i == 0}) for i, one in enumerate(usable)]
        found.append(ItemLots(item=step.weigh.item, material=meant[0], lots=tuple(firsts)))
    return tuple(found)


def chosen(event: LotChosen, planned: PlannedBatch, stores: Stores) -> LotChosen:
    """The event with the lot that its code names, and the purity of a lye.

    Raises FormulaError when there is no such lot, it is of something else, is stopped or past its date.
    """
    if not event.code.strip():
        return event.model_copy(update={"code": "", "lot_id": "", "purity_percent": None})
    meant = material_of(event.item, planned)
    with Session(stores.engine) as session:
        lot = stores.stock.by_code(session, event.code)
    if lot is None:
        raise FormulaError([stopping("no_such_lot", "code", lot_code=event.code.strip())])
    if meant is None or lot.lot.material != meant[0]:
        named = name_of(lot.lot.material, own_names(stores))
        raise FormulaError(
            [
                stopping(
                    "lot_of_something_else", "code", lot_code=lot.lot.code, name=named[0] if named else lot.lot.material
                )
            ]
        )
    problem = _unusable(lot, "code", stores.today())
    if problem is not None:
        raise FormulaError([problem])
    return event.model_copy(update={"code": lot.lot.code, "lot_id": lot.id, "purity_percent": lot.lot.purity_percent})


def _unusable(lot: LotStanding, path: str, today: date) -> Diagnostic | None:
    """Why nothing can be taken from a lot today; null when it can."""
    keeping = keeping_now(lot.lot, lot.now, today)
    if lot.now.is_stopped:
        return lot_stopped(lot.lot.code, lot.now.why_stopped, path)
    if keeping is not None and keeping.stops:
        return stopping("lot_is_past", path, lot_code=lot.lot.code)
    return None


def lot_in_the_way(item: str, planned: PlannedBatch, state: RunState, stores: Stores) -> Diagnostic | None:
    """Why a weight cannot be taken from the lot in use: it was stopped or went past its date after it was chosen, or none was
    chosen in a workshop that confirms each lot. Null when it can, or when no lot is to be had."""
    meant, in_use = material_of(item, planned), state.lots.get(item)
    if in_use is not None and in_use.lot_id:
        with Session(stores.engine) as session:
            lot = stores.stock.by_id(session, in_use.lot_id)
        return None if lot is None else _unusable(lot, "item", stores.today())
    if meant is None or in_use is not None or not stores.workshop.get().confirms_lots:
        return None
    shelf = in_order(shelf_of(stores.stock.standing(meant[0]), stores.today()))
    return stopping("lot_not_confirmed", "item", lot_code=shelf[0].code) if shelf else None


def settle(
    session: Session, batch_id: str, planned: PlannedBatch, state: RunState, stock: StockStore, at: str, day: date,
    *, amends: bool = False, only: Collection[str] | None = None,
) -> None:  # fmt: skip
    """Book what a batch took, in the transaction of its make day, `at` a time on the workshop's `day`: what was weighed less
    what is booked already.

    It goes to the lots that were chosen, as far as they reach, and then to those that expire first. A material of which no lot
    is kept is left alone; what is missing in the lots is taken from nowhere. When a weight is amended to less, the rest goes
    back to the lot that was taken from last. When it `amends`, only what was booked before is put right; `only` names the items
    that are gone, of a batch that was given up.
    """
    kept = stock.materials_in(session)
    booked: dict[str, list[LotUse]] = defaultdict(list)
    for use in stock.uses_in(session, batch_id=batch_id):
        booked[use.item].append(use)
    for item, grams in state.captured_g.items():
        found = material_of(item, planned)
        if found is None or (amends and not booked[item]) or (only is not None and item not in only):
            continue
        material, part = found
        dry = dry_lye_of(material)
        if dry is not None and material not in kept:
            # Nobody keeps that master lye as a lot: it was made of dry lye.
            material, part = dry
        want = grams * part - sum(use.grams for use in booked[item])
        key = f"{batch_id}-{item}-{state.seq}"
        if want > LEAST_BOOKED_G:
            _take(
                session,
                stock,
                material,
                _preferred(state, item, part, booked[item]),
                want,
                key,
                batch_id,
                item,
                at,
                day,
            )
        elif want < -LEAST_BOOKED_G:
            _put_back(session, stock, booked[item], -want, key, batch_id, item, at)


LEAST_BOOKED_G = 0.005
"""Less than this is rounding."""


def _preferred(state: RunState, item: str, part: float, booked: list[LotUse]) -> Mapping[str, float]:
    """What is to come from each lot that was chosen, less what is booked of it, g."""
    wanted = {lot_id: grams * part for lot_id, grams in state.taken_g.get(item, {}).items() if lot_id}
    for use in booked:
        if use.lot_id in wanted:
            wanted[use.lot_id] -= use.grams
    return wanted


def _take(
    session: Session, stock: StockStore, material: str, preferred: Mapping[str, float], grams: float, key: str, batch_id: str,
    item: str, at: str, day: date,
) -> None:  # fmt: skip
    standing = stock.standing_in(session, material)
    in_hand = {one.id: one.now.in_hand_g for one in standing}
    takes: dict[str, float] = defaultdict(float)
    for lot_id, wanted in preferred.items():
        part = min(wanted, in_hand.get(lot_id, 0.0), grams)
        if part > 0:
            takes[lot_id] += part
            grams -= part
    shelf = [one.model_copy(update={"in_hand_g": one.in_hand_g - takes[one.lot_id]}) for one in shelf_of(standing, day)]
    for take in taken_from(shelf, grams)[0]:
        takes[take.lot_id] += take.grams
    for lot_id, taken in takes.items():
        if taken > LEAST_BOOKED_G:
            used = Used(kind="used", grams=round(taken, 3), batch_id=batch_id, item=item)
            stock.book_in(session, lot_id, key, used, at)


def _put_back(
    session: Session, stock: StockStore, booked: list[LotUse], grams: float, key: str, batch_id: str, item: str, at: str
) -> None:  # fmt: skip
    by_lot: dict[str, float] = defaultdict(float)
    for use in booked:
        by_lot[use.lot_id] += use.grams
    for lot_id in dict.fromkeys(use.lot_id for use in reversed(booked)):
        part = min(by_lot[lot_id], grams)
        if part > LEAST_BOOKED_G:
            back = Returned(kind="returned", grams=round(part, 3), batch_id=batch_id, item=item)
            stock.book_in(session, lot_id, key, back, at)
            grams -= part


def in_order(shelf: list[Shelf]) -> list[Shelf]:
    """Lots in the order they are taken from."""
    order = {take.lot_id: i for i, take in enumerate(taken_from(shelf, sum(one.in_hand_g for one in shelf) + 1)[0])}
    return sorted((one for one in shelf if one.lot_id in order), key=lambda one: order[one.lot_id])


def lots_for_plan(plan: BatchPlan, stores: Stores) -> tuple[LotForPlan, ...]:
    """What the lots that come next say otherwise than the plan: the purity of lye, the SAP value of an oil's certificate.

    Each with the plan by what the lot says. Raises FormulaError when the plan cannot be calculated.
    """
    planned = prepared(plan).planned
    today = stores.today()
    found = []
    for lye in ("naoh", "koh"):
        weighed = planned.result.lye.naoh_g if lye == "naoh" else planned.result.lye.koh_g
        lot = _next(stores, lye, today) if weighed > 0 else None
        if lot is not None and lot.lot.purity_percent is not None:
            found += _for_lye(plan, lye, lot)
    for line in plan.formula.blend.lines:
        lot = _next(stores, line.oil, today) if line.oil in catalogue() else None
        sap = None if lot is None or lot.lot.certificate is None else lot.lot.certificate.sap_koh_mg_per_g
        if lot is not None and sap is not None and sap != catalogue()[line.oil].sap_koh_mg_per_g.typical:
            found.append(_for_oil(plan, line.oil, lot, sap))
    return tuple(found)


def _next(stores: Stores, material: str, today: date) -> LotStanding | None:
    standing = stores.stock.standing(material)
    first = next(iter(in_order(shelf_of(standing, today))), None)
    return None if first is None else next(one for one in standing if one.id == first.lot_id)


def _for_lye(plan: BatchPlan, lye: str, lot: LotStanding) -> list[LotForPlan]:
    asked, purity = plan.formula.lye, lot.lot.purity_percent
    before = asked.naoh_purity_percent if lye == "naoh" else asked.koh.purity_percent if asked.koh is not None else None
    if purity is None or before is None or before == purity:
        return []
    if lye == "naoh":
        changed = asked.model_copy(update={"naoh_purity_percent": purity})
    else:
        assert asked.koh is not None
        changed = asked.model_copy(update={"koh": asked.koh.model_copy(update={"purity_percent": purity})})
    words = text("stock.for_plan.lye", lot=lot.lot.code, purity=percent(purity), before=percent(before))
    formula = plan.formula.model_copy(update={"lye": changed})
    name = "NaOH" if lye == "naoh" else "KOH"
    return [LotForPlan(code=lot.lot.code, name=name, words=words, plan=plan.model_copy(update={"formula": formula}))]


def _for_oil(plan: BatchPlan, oil: str, lot: LotStanding, sap: float) -> LotForPlan:
    """The oil as its own certificate has it."""
    row, formula = catalogue()[oil], plan.formula
    slug = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in lot.lot.code.lower())
    material = OwnMaterial(
        id=f"own-{oil}-{slug}"[:74],
        name=f"{row.name}, lot {lot.lot.code}",
        notes=lot.lot.supplier,
        content=OilCertificate(kind="certificate", of=oil, sap_koh_mg_per_g=sap),
    )
    lines = tuple(
        line.model_copy(update={"oil": material.id}) if line.oil == oil else line for line in formula.blend.lines
    )
    changed = formula.model_copy(update={
        "blend": formula.blend.model_copy(update={"lines": lines}),
        "materials": (*(one for one in formula.materials if one.id != material.id), material),
    })  # fmt: skip
    words = text(
        "stock.for_plan.oil", lot=lot.lot.code, sap=number(sap, 1), usual=number(row.sap_koh_mg_per_g.typical, 1)
    )
    return LotForPlan(code=lot.lot.code, name=row.name, words=words, plan=plan.model_copy(update={"formula": changed}))
