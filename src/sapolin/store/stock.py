"""Lots and their ledger."""

from collections.abc import Callable, Sequence
from uuid import uuid4

from sqlalchemy import delete, exists, func, select, update
from sqlalchemy.orm import Session, aliased

from sapolin.core.quantities.model import Model
from sapolin.core.stock.ledger import LedgerEntry, Lot, StockEvent, Used, change_g
from sapolin.store.batches import StaleRecordError
from sapolin.store.clock import utc_now
from sapolin.store.repository import Repository
from sapolin.store.tables import LedgerRow, LotRow

__all__ = ["LotKept", "LotUse", "StockStore", "UnknownLotError"]


class UnknownLotError(LookupError):
    """There is no such lot."""


class LotKept(Model):
    """A lot as kept, with its entries."""

    id: str
    lot: Lot
    entries: tuple[LedgerEntry, ...]


class LotUse(Model):
    """What a batch took from a lot."""

    lot_id: str
    code: str
    material: str
    batch_id: str
    grams: float
    at: str


class _Wrapped(Model):
    event: StockEvent


class StockStore(Repository[LotRow]):
    """Lots, by id; the ledger only grows."""

    table = LotRow
    unknown = UnknownLotError

    def add_lot(self, lot: Lot, key: str, check: Callable[[Sequence[str]], None], at: str | None = None) -> LotKept:
        """Goods in, once: the same `key` again changes nothing. `check` is told the codes of all lots, and raises."""
        with self._writing(alone=True) as session:
            known = session.scalar(select(LedgerRow.lot_id).where(LedgerRow.key == key, LedgerRow.seq == 1))
            if known is not None:
                return self._kept(session, self._row(session, known))
            check([*session.scalars(select(LotRow.code))])
            now = utc_now()
            row = LotRow(
                id=uuid4().hex, code=lot.code.strip(), material=lot.material, content=lot.model_dump_json(),
                created_at=now, archived_at=None,
            )  # fmt: skip
            session.add(row)
            session.flush()
            arrived = _Wrapped.model_validate({"event": {"kind": "arrived"}}).event
            self._append(session, row.id, key, 1, arrived, lot.amount_g, at or now)
            return self._kept(session, row)

    def get(self, lot_id: str) -> LotKept:
        """A lot with its entries. Raises UnknownLotError."""
        with self._reading() as session:
            return self._kept(session, self._row(session, lot_id))

    def all(self) -> list[LotKept]:
        """The lots in use with their entries, the newest first. For few lots; `in_hand` is for lists."""
        with self._reading() as session:
            return [
                self._kept(session, row) for row in session.scalars(self._chosen().order_by(LotRow.created_at.desc()))
            ]

    def in_hand(self, material: str | None = None) -> list[tuple[str, Lot, float]]:
        """The lots in use with what is in hand of each, by code; those of one material."""
        with self._reading() as session:
            return self.in_hand_in(session, material)

    @staticmethod
    def in_hand_in(session: Session, material: str | None = None) -> list[tuple[str, Lot, float]]:
        """The same, in a transaction."""
        sums = (
            select(LedgerRow.lot_id, func.sum(LedgerRow.change_g).label("grams")).group_by(LedgerRow.lot_id).subquery()
        )
        chosen = select(LotRow, sums.c.grams).join(sums, sums.c.lot_id == LotRow.id).where(LotRow.archived_at.is_(None))
        if material is not None:
            chosen = chosen.where(LotRow.material == material)
        rows = session.execute(chosen.order_by(LotRow.code))
        return [(row.id, Lot.model_validate_json(row.content), grams) for row, grams in rows]

    def add_event(
        self, lot_id: str, key: str, event: StockEvent, check: Callable[[Lot, Sequence[LedgerEntry]], None],
        at: str | None = None, after_seq: int | None = None,
    ) -> LotKept:  # fmt: skip
        """Add to the ledger of a lot, once. Raises UnknownLotError or StaleRecordError."""
        with self._writing(alone=True) as session:
            row = self._row(session, lot_id)
            kept = self._kept(session, row)
            known = select(LedgerRow.seq).where(LedgerRow.lot_id == lot_id, LedgerRow.key == key)
            if session.scalar(known) is not None:
                return kept
            last = kept.entries[-1].seq if kept.entries else 0
            if after_seq is not None and after_seq != last:
                raise StaleRecordError(last)
            check(kept.lot, kept.entries)
            self._append(
                session, lot_id, key, last + 1, event, change_g(kept.lot, event, kept.entries), at or utc_now()
            )
            return self._kept(session, row)

    def entries_in(self, session: Session, lot_id: str) -> list[LedgerEntry]:
        """The entries of a lot, in a transaction."""
        rows = session.scalars(select(LedgerRow).where(LedgerRow.lot_id == lot_id).order_by(LedgerRow.seq))
        return [
            LedgerEntry(
                seq=row.seq, at=row.at, change_g=row.change_g, event=_Wrapped.model_validate_json(row.content).event
            )
            for row in rows
        ]

    def use_in(self, session: Session, lot_id: str, key: str, used: Used, at: str) -> None:
        """What a batch took, in the transaction that ends its make day."""
        last = session.scalar(select(func.max(LedgerRow.seq)).where(LedgerRow.lot_id == lot_id)) or 0
        self._append(session, lot_id, key, last + 1, used, -float(used.grams), at)

    def uses(self, *, batch_id: str | None = None, lot_id: str | None = None) -> list[LotUse]:
        """What batches took, in order of time: of one batch, or from one lot. What was struck is left out."""
        with self._reading() as session:
            chosen = select(LedgerRow, LotRow.code, LotRow.material).join(LotRow, LotRow.id == LedgerRow.lot_id)
            chosen = chosen.where(LedgerRow.batch_id.is_not(None))
            if batch_id is not None:
                chosen = chosen.where(LedgerRow.batch_id == batch_id)
            if lot_id is not None:
                chosen = chosen.where(LedgerRow.lot_id == lot_id)
            later = aliased(LedgerRow)
            struck = exists().where(
                later.lot_id == LedgerRow.lot_id, func.json_extract(later.content, "$.event.kind") == "struck",
                func.json_extract(later.content, "$.event.seq") == LedgerRow.seq,
            )  # fmt: skip
            rows = session.execute(chosen.where(~struck).order_by(LedgerRow.at, LedgerRow.id))
            return [
                LotUse(
                    lot_id=row.lot_id, code=code, material=material, batch_id=row.batch_id, grams=-row.change_g, at=row.at
                )
                for row, code, material in rows
            ]  # fmt: skip

    def clear(self) -> None:
        """Delete everything for good. Only the demo does this, to its own database."""
        with self._writing() as session:
            session.execute(update(LotRow).values(archived_at="cleared"))
            session.execute(delete(LedgerRow))
            session.execute(delete(LotRow))

    @staticmethod
    def _append(session: Session, lot_id: str, key: str, seq: int, event: StockEvent, change: float, at: str) -> None:
        batch_id = getattr(event, "batch_id", None) or None
        session.add(
            LedgerRow(
                lot_id=lot_id, seq=seq, key=key, at=at, change_g=change, batch_id=batch_id,
                content=_Wrapped(event=event).model_dump_json(),
            )
        )  # fmt: skip
        session.flush()

    def _kept(self, session: Session, row: LotRow) -> LotKept:
        return LotKept(
            id=row.id, lot=Lot.model_validate_json(row.content), entries=tuple(self.entries_in(session, row.id))
        )
