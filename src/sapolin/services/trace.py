"""Where a lot went: from the delivery to batches, to bars, to where they are."""

from collections.abc import Iterator

from sapolin.core.cure.state import CureState, cure_state
from sapolin.core.quantities.model import Model, Truth
from sapolin.exchange.trace_sheet import TraceRow, TraceSheet, trace_pdf
from sapolin.services.lists import batches_of
from sapolin.services.materials_named import name_of, own_names
from sapolin.services.stock import LotWhole, lot_whole
from sapolin.store.stock import LotUse
from sapolin.store.stores import Stores

__all__ = ["BarsGone", "LotTrace", "TraceStop", "trace_of", "trace_page"]


class BarsGone(Model):
    """Bars of a batch that left."""

    bars: int
    to: str
    where: str
    """Empty where nobody said."""
    at: str


class TraceStop(Model):
    """A batch that took from a lot, and where its bars are."""

    batch_id: str
    code: str
    name: str
    grams: float
    at: str
    bars: int
    here: int
    gone: tuple[BarsGone, ...]
    cut: Truth
    """Whether its bars were counted."""
    is_paste: Truth
    """It went into jars and has no bars."""
    bottled: tuple[str, ...]
    """What was begun of its paste, by code and name: where those bottles went is recorded nowhere."""


class LotTrace(Model):
    """From a lot to the bars that were made of it."""

    lot: LotWhole
    name: str
    batches: tuple[TraceStop, ...]
    missing_g: float
    """What was found missing, or too much, when it was counted: where it went nobody knows."""
    explained_percent: float
    """Of what came in: all but what is missing."""
    bars: int
    """Bars of the batches that were cut."""
    bars_known: int
    """Those that are here, or gone to somewhere that is named."""
    uncut: tuple[str, ...]
    """Codes of batches whose bars were not counted yet."""
    ends_at: tuple[str, ...]
    """Where the trace ends before anybody is named: pastes in jars, and what was bottled of them."""
    mixed_into: tuple[str, ...]
    """Codes of the lots that it was poured into; what was made of those is counted by its part of them."""


def trace_of(lot_id: str, stores: Stores) -> LotTrace:
    """From a lot to batches, to bars, to where they went. Raises UnknownLotError."""
    view = lot_whole(lot_id, stores)
    named = name_of(view.lot.material, own_names(stores))
    uses: dict[str, LotUse] = {}
    mixed = list(_mixed_of(lot_id, view.lot.code, stores))
    for descendant, part, _ in ((lot_id, 1.0, ""), *mixed):
        for use in stores.stock.uses(lot_id=descendant):
            before, own = uses.get(use.batch_id), use.model_copy(update={"grams": part * use.grams})
            uses[use.batch_id] = (
                own if before is None else before.model_copy(update={"grams": before.grams + own.grams})
            )
    batches = batches_of(stores, set(uses))
    states = _states(stores, list(uses))
    packed, bottled = {*stores.batches.packed()}, _bottled(stores)
    stops = []
    for batch_id, use in uses.items():
        if use.grams <= 0:
            continue
        state, batch = states.get(batch_id), batches.get(batch_id)
        stops.append(
            TraceStop(
                batch_id=batch_id, code=batch.code if batch else "-", name=batch.name if batch else "", grams=use.grams,
                at=use.at, bars=state.bars if state else 0, here=state.here if state else 0,
                gone=tuple(_gone(state)), cut=state is not None and state.cut_at is not None,
                is_paste=batch_id in packed, bottled=tuple(bottled.get(batch_id, ())),
            )
        )  # fmt: skip
    struck = {one.event.seq for one in view.entries if one.event.kind == "struck"}
    missing = sum(abs(one.change_g) for one in view.entries if one.event.kind == "counted" and one.seq not in struck)
    return LotTrace(
        lot=view, name=named[0] if named else view.lot.material, batches=tuple(stops), missing_g=missing,
        explained_percent=max(100 * (1 - missing / view.lot.amount_g), 0.0), bars=sum(stop.bars for stop in stops),
        bars_known=sum(stop.here + sum(one.bars for one in stop.gone if one.where.strip()) for stop in stops),
        uncut=tuple(stop.code for stop in stops if not stop.cut and not stop.is_paste),
        ends_at=tuple(
            end for stop in stops if stop.is_paste for end in (stop.bottled or (f"{stop.code} (paste in jars)",))
        ),
        mixed_into=tuple(dict.fromkeys(code for _, _, code in mixed)),
    )  # fmt: skip


def _bottled(stores: Stores) -> dict[str, list[str]]:
    """What was begun of each paste, by batch."""
    found: dict[str, list[str]] = {}
    for record in (*stores.preparations.all(), *stores.preparations.all(archived=True)):
        if record.is_begun and record.plan.kind == "dilution":
            for line in record.plan.pastes:
                found.setdefault(line.batch_id, []).append(f"{record.code} {record.plan.name}")
    return found


def _mixed_of(lot_id: str, code: str, stores: Stores) -> Iterator[tuple[str, float, str]]:
    """The lots that hold some of a lot, its part of each, and their codes; those mixed of them too."""
    for child, lot in stores.stock.children(lot_id):
        part = sum(one.grams for one in lot.parts if one.lot_id == lot_id) / lot.amount_g
        yield child, part, lot.code
        for descendant, of_child, its_code in _mixed_of(child, lot.code, stores):
            yield descendant, part * of_child, its_code


def _states(stores: Stores, batch_ids: list[str]) -> dict[str, CureState]:
    found = {}
    for batch_id in batch_ids:
        events = stores.cures.events(batch_id)
        if events:
            found[batch_id] = cure_state(events, events[0].at)
    return found


def _gone(state: CureState | None) -> Iterator[BarsGone]:
    if state is None:
        return
    for one in state.gone:
        yield BarsGone(bars=one.bars, to=one.to, where=one.where, at=one.at)
    if state.samples > 0:
        yield BarsGone(bars=state.samples, to="for tests", where="the workshop", at=state.cut_at or "")


def trace_page(lot_id: str, stores: Stores) -> tuple[str, bytes]:
    """Code of a lot, and one page for a recall: every batch of it and where its bars are. Raises UnknownLotError."""
    trace = trace_of(lot_id, stores)
    lot = trace.lot.lot
    rows = tuple(
        TraceRow(
            batch=stop.code,
            name=stop.name,
            grams=stop.grams,
            taken=stop.at,
            bars=stop.bars if stop.cut else None,
            here=stop.here,
            gone=tuple((one.bars, f"{one.to}: {one.where}" if one.where else one.to, one.at) for one in stop.gone),
            ends=", ".join(stop.bottled) if stop.bottled else "in jars" if stop.is_paste else "",
        )
        for stop in trace.batches
    )
    sheet = TraceSheet(
        code=lot.code, name=trace.name, supplier=lot.supplier, supplier_code=lot.supplier_code, arrived=lot.arrived,
        amount_g=lot.amount_g, in_hand_g=trace.lot.now.in_hand_g, missing_g=trace.missing_g,
        explained_percent=trace.explained_percent, bars=trace.bars, bars_known=trace.bars_known, uncut=trace.uncut,
        ends_at=trace.ends_at, rows=rows, printed=stores.today(),
    )  # fmt: skip
    return lot.code, trace_pdf(sheet)
