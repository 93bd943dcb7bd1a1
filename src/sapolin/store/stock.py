"""Lots and their ledger."""

from collections.abc import Callable, Sequence
from typing import Any
from uuid import uuid4

from sqlalchemy import ColumnElement, case, delete, exists, func, or_, select, update
from sqlalchemy.orm import Session, aliased

from sapolin.core.quantities.model import Model
from sapolin.core.stock.ledger import (
    LedgerEntry,
    Lot,
    LotNow,
    Mixed,
    Opened,
    Returned,
    StockEvent,
    Used,
    change_g,
    lot_now,
)
from sapolin.store.batches import StaleRecordError
from sapolin.store.clock import utc_now
from sapolin.store.reading import json_at, parsed, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import LedgerRow, LotRow

__all__ = ["LotKept", "LotStanding", "LotUse", "StockStore", "UnknownLotError"]


LEAST_G = 0.05
"""Less than this is an empty tub."""
MOST_AT_ONCE = 500
"""Ids in one question to the database."""


class UnknownLotError(LookupError):
    """There is no such lot."""


class LotKept(Model):
    """A lot as kept, with its entries."""

    id: str
    lot: Lot
    entries: tuple[LedgerEntry, ...]


class LotStanding(Model):
    """A lot with how it stands, without its entries."""

    id: str
    lot: Lot
    now: LotNow


class LotUse(Model):
    """What a batch took from a lot, or put back into it (below 0)."""

    lot_id: str
    code: str
    material: str
    batch_id: str
    item: str
    """As make day names it; empty for what was booked by hand."""
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

    def find(self, words: str, limit: int = 20) -> list[tuple[str, Lot]]:
        """Lots whose code, or that of their supplier, holds `words`; the newest first. Used up ones too."""
        part = words.strip().lower()
        with self._reading() as session:
            code = func.lower(LotRow.code)
            theirs = func.lower(json_at(LotRow.content, "$.supplier_code"))
            chosen = (
                self._chosen()
                .where(or_(code.contains(part, autoescape=True), theirs.contains(part, autoescape=True)))
                .order_by(LotRow.created_at.desc())
            )
            return [*readable(session.scalars(chosen.limit(limit)), lambda row: (row.id, parsed(Lot, row.content)))]

    def by_code(self, session: Session, code: str) -> LotStanding | None:
        """The lot of a code, in whatever case; null when there is none."""
        return self._standing(session, func.lower(LotRow.code) == code.strip().lower())

    def by_id(self, session: Session, lot_id: str) -> LotStanding | None:
        """The lot of an id, whatever its code is by now; null when there is none."""
        return self._standing(session, LotRow.id == lot_id)

    def _standing(self, session: Session, which: ColumnElement[bool]) -> LotStanding | None:
        row = session.scalar(self._chosen().where(which))
        if row is None:
            return None
        found = self._kept(session, row)
        return LotStanding(id=row.id, lot=found.lot, now=lot_now(found.entries))

    def standing(self, material: str | None = None, *, used_up: bool = False) -> list[LotStanding]:
        """The lots in use, by code, with how they stand; those of one material. Those with nothing left only when asked for."""
        with self._reading() as session:
            return self.standing_in(session, material, used_up=used_up)

    @classmethod
    def standing_in(cls, session: Session, material: str | None = None, *, used_up: bool = False) -> list[LotStanding]:
        """The same, in a transaction. Sums and first uses come from an index; of entries only those made by hand are read."""
        booked = select(
            LedgerRow.lot_id, func.sum(LedgerRow.change_g).label("grams"),
            func.min(case((LedgerRow.batch_id.is_not(None), LedgerRow.at))).label("used_at"),
        )  # fmt: skip
        if material is not None:
            booked = booked.where(LedgerRow.lot_id.in_(select(LotRow.id).where(LotRow.material == material)))
        sums = booked.group_by(LedgerRow.lot_id).subquery()
        chosen = select(LotRow.id, LotRow.content, sums.c.grams, sums.c.used_at).join(sums, sums.c.lot_id == LotRow.id)
        chosen = chosen.where(LotRow.archived_at.is_(None))
        if not used_up:
            chosen = chosen.where(sums.c.grams > LEAST_G)
        rows = session.execute(chosen.order_by(LotRow.code)).all()
        by_hand = cls._entries_by_hand(session, [row.id for row in rows])

        def standing(row: Any) -> LotStanding:
            now = cls._now(session, row.id, by_hand.get(row.id, []), row.used_at)
            return LotStanding(
                id=row.id, lot=parsed(Lot, row.content), now=now.model_copy(update={"in_hand_g": row.grams})
            )  # fmt: skip

        return [*readable(rows, standing)]

    @classmethod
    def _entries_by_hand(cls, session: Session, ids: Sequence[str]) -> dict[str, list[LedgerEntry]]:
        found: dict[str, list[LedgerEntry]] = {}
        for i in range(0, len(ids), MOST_AT_ONCE):
            chosen = select(LedgerRow).where(
                LedgerRow.lot_id.in_(ids[i : i + MOST_AT_ONCE]), LedgerRow.batch_id.is_(None), LedgerRow.seq > 1
            )
            for row in session.scalars(chosen.order_by(LedgerRow.lot_id, LedgerRow.seq)):
                found.setdefault(row.lot_id, []).extend(readable([row], _entry))
        return found

    @classmethod
    def _now(cls, session: Session, lot_id: str, by_hand: Sequence[LedgerEntry], used_at: str | None) -> LotNow:
        if any(one.event.kind == "struck" for one in by_hand):  # It may be the first use that was struck.
            return lot_now(cls.entries_in(session, lot_id))
        if used_at is None:
            return lot_now(by_hand)
        used = LedgerEntry(seq=0, at=used_at, change_g=0.0, event=Opened(kind="opened"))
        return lot_now(sorted([used, *by_hand], key=lambda one: one.at))

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

    @staticmethod
    def entries_in(session: Session, lot_id: str) -> list[LedgerEntry]:
        """The entries of a lot, in a transaction."""
        rows = session.scalars(select(LedgerRow).where(LedgerRow.lot_id == lot_id).order_by(LedgerRow.seq))
        return [_entry(row) for row in rows]

    def book_in(self, session: Session, lot_id: str, key: str, event: Used | Returned, at: str) -> None:
        """What a batch took or put back, in the transaction of its make day."""
        last = session.scalar(select(func.max(LedgerRow.seq)).where(LedgerRow.lot_id == lot_id)) or 0
        grams = float(event.grams)
        self._append(session, lot_id, key, last + 1, event, -grams if isinstance(event, Used) else grams, at)

    def uses(self, *, batch_id: str | None = None, lot_id: str | None = None) -> list[LotUse]:
        """What batches took, in order of time: of one batch, or from one lot. What was struck is left out."""
        with self._reading() as session:
            return self.uses_in(session, batch_id=batch_id, lot_id=lot_id)

    @staticmethod
    def uses_in(session: Session, *, batch_id: str | None = None, lot_id: str | None = None) -> list[LotUse]:
        """The same, in a transaction."""
        chosen = select(LedgerRow, LotRow.code, LotRow.material).join(LotRow, LotRow.id == LedgerRow.lot_id)
        chosen = chosen.where(LedgerRow.batch_id.is_not(None))
        if batch_id is not None:
            chosen = chosen.where(LedgerRow.batch_id == batch_id)
        if lot_id is not None:
            chosen = chosen.where(LedgerRow.lot_id == lot_id)
        later = aliased(LedgerRow)
        struck = exists().where(
            later.lot_id == LedgerRow.lot_id, json_at(later.content, "$.event.kind") == "struck",
            json_at(later.content, "$.event.seq") == LedgerRow.seq,
        )  # fmt: skip
        rows = session.execute(chosen.where(~struck).order_by(LedgerRow.at, LedgerRow.id))
        return [
            LotUse(
                lot_id=row.lot_id, code=code, material=material, batch_id=row.batch_id,
                item=next(readable([row], _item_of), ""), grams=-row.change_g, at=row.at,
            )
            for row, code, material in rows
        ]  # fmt: skip

    def take_away(self, lot_id: str) -> bool:
        """Archive a lot that came in by mistake; only while nothing happened to it. Whether it was."""
        with self._writing(alone=True) as session:
            row = self._row(session, lot_id)
            if session.scalar(select(func.max(LedgerRow.seq)).where(LedgerRow.lot_id == lot_id)) != 1:
                return False
            # Its code is free again.
            row.archived_at, row.code = utc_now(), f"~{row.id[:22]}"
            return True

    def used_since(self, at: str) -> dict[str, float]:
        """What batches took of each material since a time, g."""
        with self._reading() as session:
            rows = session.execute(
                select(LotRow.material, func.sum(-LedgerRow.change_g))
                .join(LotRow, LotRow.id == LedgerRow.lot_id)
                .where(LedgerRow.batch_id.is_not(None), LedgerRow.at >= at)
                .group_by(LotRow.material)
            )
            return {material: grams for material, grams in rows if grams > 0}

    def codes(self) -> list[str]:
        """The codes of all lots."""
        with self._reading() as session:
            return [*session.scalars(select(LotRow.code))]

    def materials(self) -> set[str]:
        """Ids of every material that lots are kept of, used up ones too."""
        with self._reading() as session:
            return self.materials_in(session)

    @staticmethod
    def materials_in(session: Session) -> set[str]:
        """The same, in a transaction."""
        return {*session.scalars(select(LotRow.material).where(LotRow.archived_at.is_(None)).distinct())}

    def children(self, lot_id: str) -> list[tuple[str, Lot]]:
        """The lots that were mixed of a lot, or split from it."""
        with self._reading() as session:
            holds = json_at(LotRow.content, "$.parts").contains(f'"{lot_id}"')
            return [
                *readable(session.scalars(self._chosen().where(holds)), lambda row: (row.id, parsed(Lot, row.content)))
            ]

    def mix(
        self,
        parts: Sequence[tuple[str, float]],
        key: str,
        make: Callable[[Sequence[LotStanding], Sequence[str]], Lot],
        then: Callable[[Session], None],
    ) -> LotKept:
        """Pour `parts` (lot and g) into a new lot, once for each `key`, in one transaction. `make` is told how the lots stand
        and the codes there are, gives the new lot, or raises; what belongs to it, `then` keeps.
        """
        with self._writing(alone=True) as session:
            known = session.scalar(select(LedgerRow.lot_id).where(LedgerRow.key == key, LedgerRow.seq == 1))
            if known is not None:
                return self._kept(session, self._row(session, known))
            standing = []
            for lot_id, _ in parts:
                row = self._row(session, lot_id)
                kept = self._kept(session, row)
                standing.append(LotStanding(id=row.id, lot=kept.lot, now=lot_now(kept.entries)))
            lot, now = make(standing, [*session.scalars(select(LotRow.code))]), utc_now()
            row = LotRow(
                id=uuid4().hex, code=lot.code.strip(), material=lot.material, content=lot.model_dump_json(), created_at=now,
                archived_at=None,
            )  # fmt: skip
            session.add(row)
            session.flush()
            arrived = _Wrapped.model_validate({"event": {"kind": "arrived"}}).event
            self._append(session, row.id, key, 1, arrived, lot.amount_g, now)
            for i, (lot_id, grams) in enumerate(parts):
                last = session.scalar(select(func.max(LedgerRow.seq)).where(LedgerRow.lot_id == lot_id)) or 0
                poured = Mixed(kind="mixed", grams=grams, into=lot.code)
                self._append(session, lot_id, f"{key[:56]}-{i}", last + 1, poured, -grams, now)
            then(session)
            return self._kept(session, row)

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
        return LotKept(id=row.id, lot=parsed(Lot, row.content), entries=tuple(self.entries_in(session, row.id)))


def _item_of(row: LedgerRow) -> str:
    return getattr(_entry(row).event, "item", "")


def _entry(row: LedgerRow) -> LedgerEntry:
    return LedgerEntry(seq=row.seq, at=row.at, change_g=row.change_g, event=parsed(_Wrapped, row.content).event)
