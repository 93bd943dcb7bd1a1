"""What there is to know about the workshop itself, kept."""

import json
from collections.abc import Mapping
from contextlib import suppress
from typing import Annotated, Any, Literal

from pydantic import Field
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from sapolin.core.batch.plan import Cutter
from sapolin.core.formula.starting import Habits
from sapolin.core.guide.schools import Schools
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.stock.cost import CostRates
from sapolin.store.batches import BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.repository import ChangedElsewhereError, Repository
from sapolin.store.tables import WorkshopRow

__all__ = ["DATABASE", "AlsoBuy", "LyeTub", "Workshop", "WorkshopStore"]

DATABASE = "database"
"""The mark that tells one database from another."""
MOST_TUBS = 12
MOST_CUTTERS = 20
MOST_ALSO = 60
TELLS_WHEN_READY = frozenset({"learns", "ready_by"})
"""What lists of batches that were poured are made from."""


class LyeTub(Model):
    """A tub of lye in the workshop, with the purity on its label."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    lye: Literal["naoh", "koh"]
    purity_percent: FiniteNumber


class AlsoBuy(Model):
    """Something to buy beside what batches are short of."""

    material: Annotated[str, Field(min_length=1, max_length=80)]
    grams: Annotated[FiniteNumber, Field(gt=0, le=2_000_000)]
    """Of packaging, pieces."""


class Workshop(Model):
    """The workshop. Texts are as the maker wrote them; empty while not entered."""

    emergency_number: Annotated[str, Field(max_length=60)] = ""
    """Of the local emergency service."""
    poison_number: Annotated[str, Field(max_length=60)] = ""
    """Of the local poison information service."""
    tubs: Annotated[tuple[LyeTub, ...], Field(max_length=MOST_TUBS)] = ()
    """The last entered first."""
    habits: Habits = Habits()
    """What new formulas begin with."""
    scale_capacity_g: FiniteNumber | None = None
    """The most that the scale of make day takes, g; null while not entered."""
    ready_by: Literal["weight", "weeks"] = "weight"
    """Bars count as dry by what they weigh, or by the usual weeks."""
    cutters: Annotated[tuple[Cutter, ...], Field(max_length=MOST_CUTTERS)] = ()
    learns: Truth = True
    """Forecasts go by what the workshop's own bars taught."""
    costs: CostRates = CostRates()
    """What is counted beside materials."""
    also_buy: Annotated[tuple[AlsoBuy, ...], Field(max_length=MOST_ALSO)] = ()
    """What else is to be bought."""
    schools: Schools = Schools()
    """What is chosen where makers differ."""
    time_zone: Annotated[str, Field(max_length=60)] = ""
    """Where its days begin, by its name in the IANA database, such as `Europe/Zurich`; empty: as this machine has it."""
    confirms_lots: Truth = False
    """On make day nothing is weighed before its lot is confirmed by its code."""


class WorkshopStore(Repository[WorkshopRow]):
    """What is known about the workshop, by name."""

    table = WorkshopRow

    def clear(self) -> None:
        """Forget everything, but not which database it is."""
        with self._writing() as session:
            session.execute(delete(WorkshopRow).where(WorkshopRow.name != f"mark:{DATABASE}"))

    def get(self) -> Workshop:
        """What is kept."""
        with self._reading() as session:
            return _workshop(session)

    def change(self, was: Mapping[str, Any] | None = None, **given: Any) -> Workshop:
        """Keep what is given; the rest stays, whoever changed it meanwhile. Returns all of it.

        `was` holds what some of it was when it was looked at. Raises ChangedElsewhereError when that is different now.
        """
        values = Workshop(**given).model_dump(mode="json", include=set(given))
        with self._writing(alone=True) as session:
            if was:
                known = _workshop(session)
                seen = Workshop(**was)
                if any(getattr(seen, name) != getattr(known, name) for name in was):
                    raise ChangedElsewhereError
            for name, value in values.items():
                text = value if Workshop.model_fields[name].annotation is str else json.dumps(value)
                row = session.get(WorkshopRow, name)
                if row is None:
                    row = WorkshopRow(name=name, revision=0)
                    session.add(row)
                row.value, row.updated_at = text, utc_now()
                row.revision += 1
            if TELLS_WHEN_READY & values.keys():
                BatchStore.forget_poured_in(session)
        return self.get()

    def mark(self, name: str) -> str | None:
        """A mark that the application left for itself; null when there is none."""
        with self._reading() as session:
            row = session.get(WorkshopRow, f"mark:{name}")
            return None if row is None else row.value

    def marks(self, prefix: str) -> dict[str, str]:
        """The marks whose name begins with `prefix`, without it."""
        start = f"mark:{prefix}"
        with self._reading() as session:
            rows = session.scalars(select(WorkshopRow).where(WorkshopRow.name.startswith(start, autoescape=True)))
            return {row.name.removeprefix(start): row.value for row in rows}

    def drop_mark(self, name: str) -> None:
        """Take a mark away; nothing when there is none."""
        with self._writing(is_noted=False) as session:
            session.execute(delete(WorkshopRow).where(WorkshopRow.name == f"mark:{name}"))

    def set_mark(self, name: str, value: str) -> None:
        """Leave a mark for the application itself."""
        with self._writing(is_noted=False) as session:
            session.merge(WorkshopRow(name=f"mark:{name}", value=value, updated_at=utc_now()))


def _workshop(session: Session) -> Workshop:
    kept = {row.name: row.value for row in session.scalars(select(WorkshopRow))}
    known: dict[str, Any] = {}
    for name in Workshop.model_fields:
        # A setting that cannot be read is as if it had not been entered; the others stand.
        with suppress(ValueError):
            if name in kept:
                known |= {name: _read(kept[name], name)}
                Workshop.model_validate(known)
                continue
        known.pop(name, None)
    return Workshop.model_validate(known)


def _read(value: str, name: str) -> Any:
    """A kept value: texts stand as they are, all else as JSON."""
    return value if Workshop.model_fields[name].annotation is str else json.loads(value)
