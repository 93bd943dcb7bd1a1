"""Everything kept in one database, opened together."""

from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import Engine

from sapolin.store.batches import BatchStore
from sapolin.store.clock import now_in, zone_named
from sapolin.store.cures import CureStore, TrayStore
from sapolin.store.database import checkpoint, close_database, open_database
from sapolin.store.formulas import FormulaStore
from sapolin.store.imports import ImportStore
from sapolin.store.labels import LabelStore
from sapolin.store.materials import MaterialStore
from sapolin.store.moulds import MouldStore
from sapolin.store.oil_notes import OilNoteStore
from sapolin.store.practice import PracticeStore
from sapolin.store.preparations import PreparationStore
from sapolin.store.price_lists import PriceListStore
from sapolin.store.prices import PriceStore
from sapolin.store.stock import StockStore
from sapolin.store.target_sets import TargetSetStore
from sapolin.store.trials import ComparisonStore, CriterionStore, TrialStore
from sapolin.store.workshop import WorkshopStore

__all__ = ["Stores", "open_stores"]


@dataclass(frozen=True)
class Stores:
    """One store a kind of thing kept."""

    formulas: FormulaStore
    materials: MaterialStore
    prices: PriceStore
    target_sets: TargetSetStore
    moulds: MouldStore
    batches: BatchStore
    cures: CureStore
    trays: TrayStore
    comparisons: ComparisonStore
    trials: TrialStore
    criteria: CriterionStore
    stock: StockStore
    labels: LabelStore
    price_lists: PriceListStore
    imports: ImportStore
    preparations: PreparationStore
    practice: PracticeStore
    workshop: WorkshopStore
    oil_notes: OilNoteStore
    engine: Engine

    def now(self) -> datetime:
        """Now, as the workshop's clock shows it."""
        return now_in(zone_named(self.workshop.get().time_zone))

    def today(self) -> date:
        """The workshop's day: it begins at its own midnight."""
        return self.now().date()

    def local(self, at: str) -> datetime:
        """An instant, ISO 8601 with its offset, as the workshop's clock showed it."""
        return datetime.fromisoformat(at).astimezone(zone_named(self.workshop.get().time_zone))

    def checkpoint(self) -> None:
        """Fold the write-ahead log into the file, so that a copy of the file alone is whole."""
        checkpoint(self.engine)

    def close(self) -> None:
        """Leave one whole file behind."""
        close_database(self.engine)

    def clear(self) -> None:
        """Forget everything. Only the demo does this, to its own database."""
        self.batches.let_go()
        for store in (
            self.comparisons,
            self.trials,
            self.criteria,
            self.stock,
            self.labels,
            self.price_lists,
            self.imports,
            self.preparations,
            self.practice,
            self.cures,
            self.trays,
            self.batches,
            self.moulds,
            self.formulas,
            self.materials,
            self.prices,
            self.target_sets,
            self.workshop,
            self.oil_notes,
        ):
            store.clear()


def open_stores(file: Path) -> Stores:
    """Open the database `file`, created and migrated as needed."""
    engine = open_database(file)
    return Stores(
        formulas=FormulaStore(engine),
        materials=MaterialStore(engine),
        prices=PriceStore(engine),
        target_sets=TargetSetStore(engine),
        moulds=MouldStore(engine),
        batches=BatchStore(engine),
        cures=CureStore(engine),
        trays=TrayStore(engine),
        comparisons=ComparisonStore(engine),
        trials=TrialStore(engine),
        criteria=CriterionStore(engine),
        stock=StockStore(engine),
        labels=LabelStore(engine),
        price_lists=PriceListStore(engine),
        imports=ImportStore(engine),
        preparations=PreparationStore(engine),
        practice=PracticeStore(engine),
        workshop=WorkshopStore(engine),
        oil_notes=OilNoteStore(engine),
        engine=engine,
    )
