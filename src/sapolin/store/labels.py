"""Labels, one a batch."""

from sqlalchemy import select

from sapolin.core.labels.design import LabelDesign
from sapolin.core.quantities.model import Model
from sapolin.store.batches import StaleRecordError
from sapolin.store.clock import utc_now
from sapolin.store.reading import parsed, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import BatchRow, LabelRow

__all__ = ["LabelKept", "LabelStore"]


class LabelKept(Model):
    """The label of a batch as kept."""

    design: LabelDesign
    revision: int
    """Counts how often it was saved, from 1."""
    updated_at: str


class LabelStore(Repository[LabelRow]):
    """Labels, by batch."""

    table = LabelRow

    def get(self, batch_id: str) -> LabelKept | None:
        """The label of a batch; null while none is kept."""
        with self._reading() as session:
            row = session.get(LabelRow, batch_id)
            return None if row is None else _kept(row)

    def latest(self, formula_id: str) -> LabelDesign | None:
        """The label last kept for a batch of the formula, or for any batch; null when there is none."""
        with self._reading() as session:
            newest = select(LabelRow).order_by(LabelRow.updated_at.desc()).limit(1)
            of_formula = newest.join(BatchRow, BatchRow.id == LabelRow.batch_id).where(
                BatchRow.formula_id == formula_id
            )
            row = session.scalar(of_formula) or session.scalar(newest)
            return next(readable([] if row is None else [row], lambda one: _kept(one).design), None)

    def save(self, batch_id: str, design: LabelDesign, revision: int) -> LabelKept:
        """Keep a label; `revision` is the one it was changed from, 0 for the first. Raises StaleRecordError."""
        with self._writing(alone=True) as session:
            row = session.get(LabelRow, batch_id)
            known = 0 if row is None else row.revision
            if known != revision:
                raise StaleRecordError(known)
            content = design.model_dump_json()
            if row is None:
                row = LabelRow(batch_id=batch_id, revision=1, content=content, updated_at=utc_now())
                session.add(row)
            else:
                row.revision, row.content, row.updated_at = revision + 1, content, utc_now()
            return _kept(row)


def _kept(row: LabelRow) -> LabelKept:
    return LabelKept(design=parsed(LabelDesign, row.content), revision=row.revision, updated_at=row.updated_at)
