"""What oils cost, per kg, in the maker's own currency."""

from sapolin.store.repository import ByOil
from sapolin.store.tables import PriceRow

__all__ = ["PriceStore"]


class PriceStore(ByOil[PriceRow, float]):
    """Prices per kg, by oil."""

    table = PriceRow

    @staticmethod
    def _value(row: PriceRow) -> float:
        return row.per_kg

    @staticmethod
    def _fill(row: PriceRow, value: float) -> None:
        row.per_kg = value
