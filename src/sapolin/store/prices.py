"""What oils cost, per kg, in the maker's own currency."""

from sapolin.store.clock import utc_now
from sapolin.store.repository import ChangedElsewhereError, Repository
from sapolin.store.tables import PriceRow

__all__ = ["PriceStore"]


class PriceStore(Repository[PriceRow]):
    """Prices, by oil."""

    table = PriceRow

    def all(self) -> dict[str, float]:
        """Every price per kg, by oil id."""
        with self._reading() as session:
            return {row.oil: row.per_kg for row in session.scalars(self._chosen().order_by(PriceRow.oil))}

    def set(self, oil: str, per_kg: float | None, *, was: tuple[float | None] | None = None) -> None:
        """Set the price of an oil, or forget it (the row is archived).

        `was` holds the price that it was when it was looked at. Raises ChangedElsewhereError when it is another now.
        """
        with self._writing(alone=True) as session:
            row = session.get(PriceRow, oil)
            known = None if row is None or row.archived_at is not None else row.per_kg
            if was is not None and was[0] != known:
                raise ChangedElsewhereError(oil)
            if per_kg == known:
                return
            if row is None:
                row = PriceRow(oil=oil, revision=0)
                session.add(row)
            row.revision += 1
            row.updated_at = utc_now()
            row.archived_at = row.updated_at if per_kg is None else None
            if per_kg is not None:
                row.per_kg = per_kg
