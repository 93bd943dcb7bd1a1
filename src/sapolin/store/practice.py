"""What was practised: every answer, and how many of each kind were right. It touches nothing of the workshop."""

from sqlalchemy import Integer, cast, func, select

from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.repository import Repository
from sapolin.store.tables import PracticeRow

__all__ = ["PracticeStore", "Practised"]


class Practised(Model):
    """How an exercise has gone so far."""

    answered: int
    right: int
    """Different exercises answered rightly."""


class PracticeStore(Repository[PracticeRow]):
    """Answers to exercises."""

    table = PracticeRow

    def add(self, key: str, kind: str, seed: int, *, right: bool) -> None:
        """Keep an answer, once for each `key`."""
        with self._writing(alone=True) as session:
            if session.scalar(select(PracticeRow.id).where(PracticeRow.key == key)) is None:
                session.add(PracticeRow(key=key, kind=kind, seed=seed, right=right, at=utc_now()))

    def so_far(self) -> dict[str, Practised]:
        """By kind of exercise."""
        right = func.count(func.distinct(PracticeRow.seed)).filter(cast(PracticeRow.right, Integer) == 1)
        with self._reading() as session:
            rows = session.execute(
                select(PracticeRow.kind, func.count(), right).group_by(PracticeRow.kind).order_by(PracticeRow.kind)
            )
            return {kind: Practised(answered=answered, right=rightly) for kind, answered, rightly in rows}
