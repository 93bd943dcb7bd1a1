"""What happens to batches after the pour, and the trays they stand on."""

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from sapolin.core.cure.events import CureEvent, CureRecord, Pictured
from sapolin.core.cure.trays import Tray
from sapolin.core.quantities.model import Model
from sapolin.core.trials.rules import Taught
from sapolin.store.batches import BatchStore, StaleRecordError, UnknownBatchError, noting_next_time
from sapolin.store.clock import utc_now
from sapolin.store.pictures import keep_picture
from sapolin.store.reading import parsed, readable
from sapolin.store.repository import ChangedElsewhereError, Repository
from sapolin.store.tables import (
    BatchRow,
    CureEventRow,
    CureTaughtRow,
    HeededNoteRow,
    PredictionRow,
    TrayBarsRow,
    TrayRow,
)

__all__ = ["AddUp", "AddedUp", "CureStore", "TrayInUseError", "TrayStore", "UnknownTrayError", "taught_from"]

Check = Callable[[list[CureRecord], Mapping[str, int]], None]
"""Raises when the event may not follow those given; told how many bars stand on each tray."""


@lru_cache(maxsize=8192)
def taught_from(content: str) -> Taught:
    """What a batch taught, from its JSON; remembered."""
    return parsed(Taught, content)


class AddedUp(Model):
    """What a record adds up to, kept in the same transaction."""

    trays: dict[str, int]
    """Bars by tray."""
    taught: Taught
    """What it teaches of the rules that predict batches."""


AddUp = Callable[[list[CureRecord]], AddedUp]


class UnknownTrayError(LookupError):
    """There is no such tray."""


class TrayInUseError(Exception):
    """Bars stand on it."""


class CureStore(Repository[CureEventRow]):
    """The records of batches after their pour."""

    table = CureEventRow
    also_cleared = (TrayBarsRow, CureTaughtRow, PredictionRow, HeededNoteRow)
    unknown = UnknownBatchError

    def events(self, batch_id: str) -> list[CureRecord]:
        """The record of a batch after its pour, in order."""
        with self._reading() as session:
            return self._events(session, batch_id)

    def add_event(
        self, batch_id: str, key: str, event: CureEvent, check: Check, add_up: AddUp, at: str | None = None,
        after_seq: int | None = None,
    ) -> list[CureRecord]:  # fmt: skip
        """Add to the record, once: the same `key` again changes nothing. Returns the whole record.

        `check` is asked within the transaction. `at` is when it happened, now by default. With `after_seq` it is refused when
        another device added to the record since. Raises UnknownBatchError or StaleRecordError.
        """
        with self._writing(alone=True) as session:
            return self._append(session, batch_id, key, lambda: event, check, add_up, at, after_seq)

    def add_picture(
        self, batch_id: str, key: str, name: str, media_type: str, content: bytes, check: Check, add_up: AddUp
    ) -> list[CureRecord]:  # fmt: skip
        """Keep a picture and its event together, once. Raises UnknownBatchError."""
        with self._writing(alone=True) as session:

            def kept() -> CureEvent:
                number = keep_picture(session, batch_id, name, media_type, content)
                return Pictured(kind="pictured", file_id=number, name=name)

            return self._append(session, batch_id, key, kept, check, add_up, None, None)

    def _append(
        self, session: Session, batch_id: str, key: str, event: Callable[[], CureEvent], check: Check, add_up: AddUp,
        at: str | None, after_seq: int | None,
    ) -> list[CureRecord]:  # fmt: skip
        batch = session.get(BatchRow, batch_id, populate_existing=True)
        if batch is None:
            raise UnknownBatchError(batch_id)
        record = self._events(session, batch_id)
        known = select(CureEventRow.seq).where(CureEventRow.batch_id == batch_id, CureEventRow.key == key)
        if session.scalar(known) is not None:
            return record
        last = record[-1].seq if record else 0
        if after_seq is not None and after_seq != last:
            raise StaleRecordError(last)
        check(record, self._bars(session))
        now = utc_now()
        row = CureEventRow(
            batch_id=batch_id, seq=last + 1, key=key, at=at or now, recorded_at=now,
            content=_Wrapped(event=event()).model_dump_json(),
        )  # fmt: skip
        session.add(row)
        session.flush()
        grown = [*record, _recorded(row)]
        # What lists show of the batch is made anew, and its bars stand where the record says.
        batch.updated_at = now
        batch.forget_summary()
        self._keep(session, batch_id, add_up(grown))
        return grown

    def take_over(self, batch_id: str, key: str, events: Sequence[CureRecord], add_up: AddUp) -> None:
        """Keep a whole record at once, of a batch that has none after its pour."""
        with self._writing(alone=True) as session:
            session.add_all(
                CureEventRow(
                    batch_id=batch_id, seq=i, key=f"{key}-{i:04d}", at=one.at, recorded_at=one.recorded_at,
                    content=_Wrapped(event=one.event).model_dump_json(),
                )
                for i, one in enumerate(events, start=1)
            )  # fmt: skip
            self._keep(session, batch_id, add_up([*events]))

    @staticmethod
    def _keep(session: Session, batch_id: str, now: AddedUp) -> None:
        session.execute(delete(TrayBarsRow).where(TrayBarsRow.batch_id == batch_id))
        session.add_all(TrayBarsRow(batch_id=batch_id, tray=tray, bars=bars) for tray, bars in now.trays.items())
        CureStore.keep_taught_in(session, batch_id, now.taught)

    @staticmethod
    def keep_taught_in(session: Session, batch_id: str, taught: Taught) -> None:
        """Keep what a batch taught, in the transaction of what taught it. Lists of those that it moves are made anew."""
        before = session.get(CureTaughtRow, batch_id)
        was = next(readable([] if before is None else [before], lambda row: taught_from(row.content)), Taught())
        if taught == was:
            return
        if taught.rules != was.rules:
            BatchStore.forget_curing_in(session)
        session.merge(CureTaughtRow(batch_id=batch_id, content=taught.model_dump_json(), at=utc_now()))

    def keep_taught(self, batch_id: str, taught: Taught) -> None:
        """The same, in a transaction of its own."""
        with self._writing(alone=True, is_noted=False) as session:
            self.keep_taught_in(session, batch_id, taught)

    def taught(self) -> dict[str, str]:
        """What the batches in use taught, by batch, as JSON, the oldest first."""
        with self._reading() as session:
            return self.taught_in(session)

    @staticmethod
    def taught_in(session: Session) -> dict[str, str]:
        """The same, in a transaction."""
        chosen = (
            select(CureTaughtRow.batch_id, CureTaughtRow.content)
            .join(BatchRow, BatchRow.id == CureTaughtRow.batch_id)
            .where(BatchRow.archived_at.is_(None))
            .order_by(BatchRow.created_at, BatchRow.code)
        )

        def checked(row: Any) -> tuple[str, str]:
            taught_from(row.content)
            return row.batch_id, row.content

        return dict(readable(session.execute(chosen), checked))

    @staticmethod
    def keep_prediction_in(session: Session, batch_id: str, content: str) -> None:
        """Keep what was predicted of a batch, in the transaction that begins it; what was kept before stays."""
        if session.get(PredictionRow, batch_id) is None:
            session.add(PredictionRow(batch_id=batch_id, content=content, at=utc_now()))

    def keep_prediction(self, batch_id: str, content: str) -> None:
        """The same, in a transaction of its own."""
        with self._writing(alone=True, is_noted=False) as session:
            self.keep_prediction_in(session, batch_id, content)

    def predictions(self) -> list[tuple[str, str, str]]:
        """What was predicted of the batches in use, the oldest first: id, code, prediction as JSON."""
        with self._reading() as session:
            chosen = (
                select(PredictionRow.batch_id, BatchRow.code, PredictionRow.content)
                .join(BatchRow, BatchRow.id == PredictionRow.batch_id)
                .where(BatchRow.archived_at.is_(None))
                .order_by(PredictionRow.at, BatchRow.code)
            )
            return [(row.batch_id, row.code, row.content) for row in session.execute(chosen)]

    @staticmethod
    def events_in(session: Session, batch_id: str) -> list[CureRecord]:
        """The record of a batch after its pour, in a transaction."""
        return CureStore._events(session, batch_id)

    def standing(self) -> list[tuple[str, str, int]]:
        """What stands on trays: tray, batch, bars."""
        with self._reading() as session:
            chosen = (
                select(TrayBarsRow.tray, TrayBarsRow.batch_id, TrayBarsRow.bars)
                .join(BatchRow, BatchRow.id == TrayBarsRow.batch_id)
                .order_by(TrayBarsRow.tray, BatchRow.created_at, BatchRow.code)
            )
            return [(row.tray, row.batch_id, row.bars) for row in session.execute(chosen)]

    def noted_for_next_time(self, formula_id: str) -> list[list[CureRecord]]:
        """The records of those batches of a formula in use that noted something for next time, the newest batch first."""
        with self._reading() as session:
            return [
                self._events(session, batch_id)
                for batch_id in session.scalars(noting_next_time(formula_id, CureEventRow))
            ]

    def heeded(self, formula_id: str) -> dict[str, str]:
        """When notes for next time of a formula were ticked off, by their text."""
        with self._reading() as session:
            rows = session.scalars(select(HeededNoteRow).where(HeededNoteRow.formula_id == formula_id))
            return {row.text: row.at for row in rows}

    def heed(self, formula_id: str, text: str, *, heeded: bool) -> None:
        """Tick a note for next time off, or take that back."""
        with self._writing() as session:
            if heeded:
                session.merge(HeededNoteRow(formula_id=formula_id, text=text, at=utc_now()))
            else:
                session.execute(
                    delete(HeededNoteRow).where(HeededNoteRow.formula_id == formula_id, HeededNoteRow.text == text)
                )

    @staticmethod
    def _bars(session: Session) -> dict[str, int]:
        chosen = select(TrayBarsRow.tray, func.sum(TrayBarsRow.bars)).group_by(TrayBarsRow.tray)
        return {row[0]: row[1] for row in session.execute(chosen)}

    @staticmethod
    def _events(session: Session, batch_id: str) -> list[CureRecord]:
        rows = session.scalars(select(CureEventRow).where(CureEventRow.batch_id == batch_id).order_by(CureEventRow.seq))
        return [_recorded(row) for row in rows]


class TrayStore(Repository[TrayRow]):
    """Trays, by code."""

    table = TrayRow
    unknown = UnknownTrayError

    def all(self) -> list[Tray]:
        """The trays in use, by code."""
        return [tray for tray, _ in self.revised()]

    def revised(self) -> list[tuple[Tray, int]]:
        """The trays in use, by code, each with how often it was saved."""
        with self._reading() as session:
            rows = session.scalars(self._chosen().order_by(TrayRow.code))
            return [*readable(rows, lambda row: (parsed(Tray, row.content), row.revision))]

    def put(self, tray: Tray, revision: int = 0) -> Tray:
        """Keep a tray, if `revision` is still the one kept (0 for a code that is not in use).

        Raises ChangedElsewhereError, and TrayInUseError when more stands on it than it would hold.
        """
        with self._writing(alone=True) as session:
            row = session.get(TrayRow, tray.code)
            if (0 if row is None or row.archived_at is not None else row.revision) != revision:
                raise ChangedElsewhereError(tray.code)
            if self._on_it(session, tray.code) > tray.places:
                raise TrayInUseError(tray.code)
            if row is None:
                row = TrayRow(code=tray.code, revision=0)
                session.add(row)
            row.content, row.updated_at, row.archived_at = tray.model_dump_json(), utc_now(), None
            row.revision += 1
        return tray

    def remove(self, code: str) -> None:
        """Take an empty tray away. Raises UnknownTrayError or TrayInUseError."""
        with self._writing(alone=True) as session:
            if self._on_it(session, code):
                raise TrayInUseError(code)
            self._row(session, code).archived_at = utc_now()

    @staticmethod
    def _on_it(session: Session, code: str) -> int:
        return session.scalar(select(func.sum(TrayBarsRow.bars)).where(TrayBarsRow.tray == code)) or 0


class _Wrapped(Model):
    event: CureEvent


def _recorded(row: CureEventRow) -> CureRecord:
    return CureRecord(seq=row.seq, at=row.at, recorded_at=row.recorded_at, event=parsed(_Wrapped, row.content).event)
