"""What oils cost, per kg, in the maker's own currency."""

from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from sapolin.store.clock import utc_now
from sapolin.store.tables import PriceRow

__all__ = ["PriceStore"]


class PriceStore:
    """Prices in one database. Every method is one transaction; when it returns, the change is on disk."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def all(self) -> dict[str, float]:
        """Every price per kg, by oil id."""
        with Session(self._engine) as session:
            return {row.oil: row.per_kg for row in session.scalars(select(PriceRow).order_by(PriceRow.oil))}

    def set(self, oil: str, per_kg: float | None) -> None:
        """Set the price of an oil, or forget it."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(PriceRow).where(PriceRow.oil == oil))
            if per_kg is not None:
                session.add(PriceRow(oil=oil, per_kg=per_kg, updated_at=utc_now()))

    def clear(self) -> None:
        """Forget everything. Only the demo does this, to its own database."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(PriceRow))
