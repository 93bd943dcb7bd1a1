"""Price lists of suppliers: one in use for each, earlier ones archived."""

from uuid import uuid4

from sqlalchemy import update

from sapolin.core.quantities.model import Model
from sapolin.core.stock.price_list import PriceList
from sapolin.store.clock import utc_now
from sapolin.store.reading import parsed, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import PriceListRow

__all__ = ["PriceListKept", "PriceListStore", "UnknownPriceListError"]


class UnknownPriceListError(LookupError):
    """There is no such list."""


class PriceListKept(Model):
    """A list as kept."""

    id: str
    list: PriceList
    read_at: str


class PriceListStore(Repository[PriceListRow]):
    """Price lists, by id."""

    table = PriceListRow
    unknown = UnknownPriceListError

    def all(self) -> list[PriceListKept]:
        """The lists in use, by supplier."""
        with self._reading() as session:
            return [*readable(session.scalars(self._chosen().order_by(PriceListRow.supplier)), _kept)]

    def of(self, supplier: str) -> PriceListKept | None:
        """The list in use of a supplier; null when there is none."""
        with self._reading() as session:
            row = session.scalar(self._chosen().where(PriceListRow.supplier == _key(supplier)))
            return None if row is None else _kept(row)

    def keep(self, new: PriceList) -> PriceListKept:
        """Keep a list; the one before it of the same supplier is archived."""
        with self._writing(alone=True) as session:
            session.execute(
                update(PriceListRow)
                .where(PriceListRow.supplier == _key(new.supplier), PriceListRow.archived_at.is_(None))
                .values(archived_at=utc_now())
            )
            row = PriceListRow(
                id=uuid4().hex, supplier=_key(new.supplier), content=new.model_dump_json(), read_at=utc_now(),
                archived_at=None,
            )  # fmt: skip
            session.add(row)
            return _kept(row)

    def archive(self, list_id: str) -> PriceListKept:
        """Buy no more by a list. Raises UnknownPriceListError."""
        with self._writing() as session:
            return _kept(self._archived(session, list_id, True))

    def restore(self, list_id: str) -> PriceListKept:
        """Buy by a list again, in the place of the one in use of the same supplier. Raises UnknownPriceListError."""
        with self._writing(alone=True) as session:
            row = self._row(session, list_id)
            session.execute(
                update(PriceListRow)
                .where(PriceListRow.supplier == row.supplier, PriceListRow.archived_at.is_(None))
                .values(archived_at=utc_now())
            )
            return _kept(self._archived(session, list_id, False))


def _key(supplier: str) -> str:
    return " ".join(supplier.lower().split())


def _kept(row: PriceListRow) -> PriceListKept:
    return PriceListKept(id=row.id, list=parsed(PriceList, row.content), read_at=row.read_at)
