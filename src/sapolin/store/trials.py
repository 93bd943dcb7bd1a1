"""Blind comparisons with their records, trial sets with their batches, and criteria of one's own."""

from collections.abc import Callable
from uuid import uuid4

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from sapolin.core.quantities.model import Model
from sapolin.core.trials.comparison import Comparison, ComparisonEvent, ComparisonRecord
from sapolin.core.trials.criteria import Criterion
from sapolin.core.trials.trial import TrialSetup
from sapolin.store.batches import StaleRecordError
from sapolin.store.clock import utc_now
from sapolin.store.reading import parsed, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import (
    ComparedBatchRow,
    ComparisonEventRow,
    ComparisonRow,
    OwnCriterionRow,
    TrialBatchRow,
    TrialRow,
)

__all__ = [
    "ComparisonKept", "ComparisonStore", "CriterionStore", "TrialKept", "TrialStore", "UnknownComparisonError",
    "UnknownCriterionError", "UnknownTrialError",
]  # fmt: skip


class UnknownComparisonError(LookupError):
    """There is no such comparison."""


class UnknownTrialError(LookupError):
    """There is no such trial."""


class UnknownCriterionError(LookupError):
    """There is no such criterion of one's own."""


class ComparisonKept(Model):
    """A comparison as kept."""

    id: str
    created_at: str
    comparison: Comparison
    events: tuple[ComparisonRecord, ...]


class TrialKept(Model):
    """A trial as kept."""

    id: str
    created_at: str
    setup: TrialSetup
    batches: dict[int, str]
    """By run: the batch that it was planned as."""


class _Wrapped(Model):
    event: ComparisonEvent


class ComparisonStore(Repository[ComparisonRow]):
    """Comparisons, by id; their records only grow."""

    table = ComparisonRow
    unknown = UnknownComparisonError

    def create(self, comparison: Comparison, at: str | None = None) -> ComparisonKept:
        """Keep a comparison as drawn; `at` is when, now by default."""
        now, id_ = at or utc_now(), uuid4().hex
        with self._writing() as session:
            session.add(ComparisonRow(id=id_, content=comparison.model_dump_json(), created_at=now, archived_at=None))
            session.flush()
            session.add_all(
                ComparedBatchRow(comparison_id=id_, batch_id=bar.batch_id) for bar in comparison.setup.bars
            )  # fmt: skip
        return ComparisonKept(id=id_, created_at=now, comparison=comparison, events=())

    def get(self, comparison_id: str) -> ComparisonKept:
        """A comparison with its record. Raises UnknownComparisonError."""
        with self._reading() as session:
            return self._kept(session, self._row(session, comparison_id))

    def all(self, batch_id: str | None = None) -> list[ComparisonKept]:
        """The comparisons in use, the newest first; those that a batch takes part in."""
        with self._reading() as session:
            chosen = self._chosen().order_by(ComparisonRow.created_at.desc())
            if batch_id is not None:
                takes_part = select(ComparedBatchRow.comparison_id).where(ComparedBatchRow.batch_id == batch_id)
                chosen = chosen.where(ComparisonRow.id.in_(takes_part))
            return [*readable(session.scalars(chosen), lambda row: self._kept(session, row))]

    def add_event(
        self, comparison_id: str, key: str, event: ComparisonEvent, check: Callable[[list[ComparisonRecord]], None],
        at: str | None = None, after_seq: int | None = None,
    ) -> ComparisonKept:  # fmt: skip
        """Add to the record, once: the same `key` again changes nothing. `check` is asked within the transaction.

        Raises UnknownComparisonError or StaleRecordError.
        """
        with self._writing(alone=True) as session:
            row = self._row(session, comparison_id)
            record = self._events(session, comparison_id)
            known = select(ComparisonEventRow.seq).where(
                ComparisonEventRow.comparison_id == comparison_id, ComparisonEventRow.key == key
            )
            if session.scalar(known) is None:
                last = record[-1].seq if record else 0
                if after_seq is not None and after_seq != last:
                    raise StaleRecordError(last)
                check(record)
                content = _Wrapped(event=event).model_dump_json()
                session.add(
                    ComparisonEventRow(
                        comparison_id=comparison_id, seq=last + 1, key=key, at=at or utc_now(), content=content
                    )
                )  # fmt: skip
                session.flush()
            return self._kept(session, row)

    def archive(self, comparison_id: str, *, archived: bool = True) -> None:
        """Archive or restore it. Raises UnknownComparisonError."""
        with self._writing() as session:
            self._archived(session, comparison_id, archived)

    def clear(self) -> None:
        """Delete everything for good. Only the demo does this, to its own database."""
        with self._writing() as session:
            session.execute(update(ComparisonRow).values(archived_at="cleared"))
            session.execute(delete(ComparisonEventRow))
            session.execute(delete(ComparedBatchRow))
            session.execute(delete(ComparisonRow))

    @staticmethod
    def _events(session: Session, comparison_id: str) -> list[ComparisonRecord]:
        rows = session.scalars(
            select(ComparisonEventRow)
            .where(ComparisonEventRow.comparison_id == comparison_id)
            .order_by(ComparisonEventRow.seq)
        )
        return [ComparisonRecord(seq=row.seq, at=row.at, event=parsed(_Wrapped, row.content).event) for row in rows]

    @classmethod
    def _kept(cls, session: Session, row: ComparisonRow) -> ComparisonKept:
        return ComparisonKept(
            id=row.id, created_at=row.created_at, comparison=parsed(Comparison, row.content),
            events=tuple(cls._events(session, row.id)),
        )  # fmt: skip


class TrialStore(Repository[TrialRow]):
    """Trials, by id."""

    table = TrialRow
    also_cleared = (TrialBatchRow,)
    unknown = UnknownTrialError

    def create(self, setup: TrialSetup, at: str | None = None) -> TrialKept:
        """Keep a trial; `at` is when, now by default."""
        now, id_ = at or utc_now(), uuid4().hex
        with self._writing() as session:
            session.add(
                TrialRow(
                    id=id_,
                    formula_id=setup.formula_id,
                    content=setup.model_dump_json(),
                    created_at=now,
                    archived_at=None,
                )
            )
        return TrialKept(id=id_, created_at=now, setup=setup, batches={})

    def get(self, trial_id: str) -> TrialKept:
        """A trial with its batches. Raises UnknownTrialError."""
        with self._reading() as session:
            return self._kept(session, self._row(session, trial_id))

    def all(self, *, batch_id: str | None = None, formula_id: str | None = None) -> list[TrialKept]:
        """The trials in use, the newest first; those of a batch or of a formula."""
        with self._reading() as session:
            chosen = self._chosen().order_by(TrialRow.created_at.desc())
            if batch_id is not None:
                chosen = chosen.where(
                    TrialRow.id.in_(select(TrialBatchRow.trial_id).where(TrialBatchRow.batch_id == batch_id))
                )
            if formula_id is not None:
                chosen = chosen.where(TrialRow.formula_id == formula_id)
            return [*readable(session.scalars(chosen), lambda row: self._kept(session, row))]

    def link(self, trial_id: str, run: int, batch_id: str) -> TrialKept:
        """Say that a run is that batch. Raises UnknownTrialError."""
        with self._writing(alone=True) as session:
            row = self._row(session, trial_id)
            session.merge(TrialBatchRow(trial_id=trial_id, run=run, batch_id=batch_id))
            session.flush()
            return self._kept(session, row)

    def archive(self, trial_id: str, *, archived: bool = True) -> None:
        """Archive or restore it. Raises UnknownTrialError."""
        with self._writing() as session:
            self._archived(session, trial_id, archived)

    @staticmethod
    def _kept(session: Session, row: TrialRow) -> TrialKept:
        linked = session.execute(
            select(TrialBatchRow.run, TrialBatchRow.batch_id).where(TrialBatchRow.trial_id == row.id)
        )
        return TrialKept(
            id=row.id, created_at=row.created_at, setup=parsed(TrialSetup, row.content),
            batches={one.run: one.batch_id for one in linked},
        )  # fmt: skip


class CriterionStore(Repository[OwnCriterionRow]):
    """Criteria of one's own; their words never change."""

    table = OwnCriterionRow
    unknown = UnknownCriterionError

    def all(self, *, archived: bool | None = False) -> list[Criterion]:
        """Those in use, the oldest first; all of them with null."""
        with self._reading() as session:
            rows = session.scalars(self._chosen(archived=archived).order_by(OwnCriterionRow.created_at))
            return [*readable(rows, lambda row: parsed(Criterion, row.content))]

    def create(self, criterion: Criterion) -> Criterion:
        """Keep one, under an id of its own."""
        kept = criterion.model_copy(update={"id": f"own-{uuid4().hex[:12]}", "part": "own", "quality": None})
        with self._writing() as session:
            session.add(
                OwnCriterionRow(id=kept.id, content=kept.model_dump_json(), created_at=utc_now(), archived_at=None)
            )
        return kept

    def archive(self, criterion_id: str, *, archived: bool = True) -> None:
        """Take one off the sheet, or put it back; what was judged by it stays. Raises UnknownCriterionError."""
        with self._writing() as session:
            self._archived(session, criterion_id, archived)
