"""What oils cost, per kg, in the maker's own currency."""

from sqlalchemy import delete, select

from sapolin.store.clock import utc_now
from sapolin.store.repository import Repository
from sapolin.store.tables import PriceRow

__all__ = ["PriceStore"]


class PriceStore(Repository[PriceRow]):
    """Prices, by oil."""

    table = PriceRow

    def all(self) -> dict[str, float]:
        """Every price per kg, by oil id."""
        with self._reading() as session:
            return {row.oil: row.per_kg for row in session.scalars(select(PriceRow).order_by(PriceRow.oil))}

    def set(self, oil: str, per_kg: float | None) -> None:
        """Set the price of an oil, or forget it."""
        with self._writing() as session:
            session.execute(delete(PriceRow).where(PriceRow.oil == oil))
            if per_kg is not None:
                session.add(PriceRow(oil=oil, per_kg=per_kg, updated_at=utc_now()))
