"""The tables. Times are ISO 8601 text in UTC, which SQLite sorts rightly."""

from sqlalchemy import Boolean, Float, ForeignKey, Integer, LargeBinary, String, Text, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

__all__ = [
    "FOR_LISTS",
    "NOT_KEPT",
    "Base",
    "BatchEventRow",
    "BatchFileRow",
    "BatchOutcomeRow",
    "BatchRow",
    "BatchStartRow",
    "CureEventRow",
    "CureTaughtRow",
    "FormulaRow",
    "MaterialRow",
    "MouldRow",
    "OilNoteRow",
    "PracticeRow",
    "PreparationEventRow",
    "PreparationRow",
    "PriceRow",
    "SentRow",
    "TargetSetRow",
    "TrayBarsRow",
    "TrayRow",
    "VersionRow",
    "WorkshopRow",
]

FOR_LISTS = frozenset({"state", "status", "summary", "forgotten"})
"""The columns of what lists show: summed up anew whenever it is asked for, they say nothing of their own."""


NOT_KEPT = frozenset({"sent"})
"""Tables that hold nothing of the maker's."""


class Base(DeclarativeBase):
    """Base of every table."""


class FormulaRow(Base):
    """The draft of a formula."""

    __tablename__ = "formulas"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    search_text: Mapped[str] = mapped_column(Text)
    """Lower-case name, notes and oil ids."""
    purpose: Mapped[str] = mapped_column(String(80), default="")
    state: Mapped[str | None] = mapped_column(String(16))
    """Whether it can be calculated, as lists show it; null until it was summed up since the last save."""
    summary: Mapped[str | None] = mapped_column(Text)
    """What lists show of it, as JSON; null until it was summed up since the last save."""
    content: Mapped[str] = mapped_column(Text)
    """The formula as JSON."""
    content_version: Mapped[int] = mapped_column(Integer)
    """Version of the formula format that `content` is in."""
    revision: Mapped[int] = mapped_column(Integer)
    """Counts every save; a save that names another revision is refused."""
    created_at: Mapped[str] = mapped_column(String(32))
    updated_at: Mapped[str] = mapped_column(String(32), index=True)
    archived_at: Mapped[str | None] = mapped_column(String(32))


class VersionRow(Base):
    """A version that was kept: never changed afterwards."""

    __tablename__ = "formula_versions"
    __table_args__ = (UniqueConstraint("formula_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    formula_id: Mapped[str] = mapped_column(ForeignKey("formulas.id"), index=True)
    number: Mapped[int] = mapped_column(Integer)
    note: Mapped[str] = mapped_column(Text)
    content: Mapped[str] = mapped_column(Text)
    content_version: Mapped[int] = mapped_column(Integer)
    created_at: Mapped[str] = mapped_column(String(32))


class MaterialRow(Base):
    """A material of the maker's own."""

    __tablename__ = "materials"

    id: Mapped[str] = mapped_column(String(80), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    content: Mapped[str] = mapped_column(Text)
    """The material as JSON."""
    revision: Mapped[int] = mapped_column(Integer)
    created_at: Mapped[str] = mapped_column(String(32))
    updated_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))


class PriceRow(Base):
    """What an oil costs."""

    __tablename__ = "prices"

    oil: Mapped[str] = mapped_column(String(80), primary_key=True)
    per_kg: Mapped[float] = mapped_column(Float)
    updated_at: Mapped[str] = mapped_column(String(32))
    revision: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    """Counts every save."""
    archived_at: Mapped[str | None] = mapped_column(String(32))


class OilNoteRow(Base):
    """What the maker says of an oil."""

    __tablename__ = "oil_notes"

    oil: Mapped[str] = mapped_column(String(80), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """The note as JSON."""
    updated_at: Mapped[str] = mapped_column(String(32))
    revision: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    """Counts every save."""
    archived_at: Mapped[str | None] = mapped_column(String(32))


class TargetSetRow(Base):
    """Targets that the maker named."""

    __tablename__ = "target_sets"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    content: Mapped[str] = mapped_column(Text)
    """The targets as a JSON list."""
    updated_at: Mapped[str] = mapped_column(String(32))
    revision: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    """Counts every save."""
    archived_at: Mapped[str | None] = mapped_column(String(32))


class MouldRow(Base):
    """A mould of the workshop."""

    __tablename__ = "moulds"

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    content: Mapped[str] = mapped_column(Text)
    """The mould as JSON."""
    updated_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))
    revision: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    """Counts every save."""


class BatchRow(Base):
    """A batch: its plan, until it is made, and how far it has come."""

    __tablename__ = "batches"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    code: Mapped[str] = mapped_column(String(16), unique=True)
    """Short, to be written on a tray."""
    formula_id: Mapped[str] = mapped_column(String(40), index=True)
    content: Mapped[str] = mapped_column(Text)
    """The plan as JSON; it no longer changes once the batch is begun."""
    search_text: Mapped[str] = mapped_column(Text, default="")
    """Lower-case code and name."""
    status: Mapped[str | None] = mapped_column(String(16), index=True)
    """How far it has come, as lists show it; null until it was summed up since the last change."""
    summary: Mapped[str | None] = mapped_column(Text)
    """What lists show of it, as JSON; null until it was summed up since the last change."""
    forgotten: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    """How often that was forgotten: what was summed up before the last time is not kept."""
    revision: Mapped[int] = mapped_column(Integer)
    created_at: Mapped[str] = mapped_column(String(32))
    updated_at: Mapped[str] = mapped_column(String(32), index=True)
    archived_at: Mapped[str | None] = mapped_column(String(32))

    def forget_summary(self) -> None:
        """It has changed: lists are to sum it up anew."""
        self.status = self.summary = None
        self.forgotten += 1


class BatchEventRow(Base):
    """Something that happened on make day. Never changed, never removed: triggers refuse both."""

    __tablename__ = "batch_events"
    __table_args__ = (UniqueConstraint("batch_id", "seq"), UniqueConstraint("batch_id", "key"))

    id: Mapped[int] = mapped_column(primary_key=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), index=True)
    seq: Mapped[int] = mapped_column(Integer)
    key: Mapped[str] = mapped_column(String(64))
    """Chosen by the device that sent it, so that sending it again adds nothing."""
    at: Mapped[str] = mapped_column(String(32))
    content: Mapped[str] = mapped_column(Text)
    """The event as JSON."""


class BatchStartRow(Base):
    """What a batch stood on when it began. Never changed."""

    __tablename__ = "batch_starts"

    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """Weights, steps, rows and coefficients as JSON."""
    at: Mapped[str] = mapped_column(String(32))


class BatchOutcomeRow(Base):
    """What became of a batch that is over, as it was calculated then; one row for each entry that was added afterwards."""

    __tablename__ = "batch_outcomes"

    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    """Of the last event that it counts."""
    content: Mapped[str] = mapped_column(Text)
    """Actual results, volume, moulds and steps as JSON."""
    at: Mapped[str] = mapped_column(String(32))


class CureEventRow(Base):
    """Something that happened to a batch after its pour. Never changed, never removed: triggers refuse both."""

    __tablename__ = "cure_events"
    __table_args__ = (UniqueConstraint("batch_id", "seq"), UniqueConstraint("batch_id", "key"))

    id: Mapped[int] = mapped_column(primary_key=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), index=True)
    seq: Mapped[int] = mapped_column(Integer)
    key: Mapped[str] = mapped_column(String(64))
    """Chosen by the device that sent it, so that sending it again adds nothing."""
    at: Mapped[str] = mapped_column(String(32))
    """When it happened."""
    recorded_at: Mapped[str] = mapped_column(String(32))
    content: Mapped[str] = mapped_column(Text)
    """The event as JSON."""


class TrayRow(Base):
    """A tray of the curing rack."""

    __tablename__ = "trays"

    code: Mapped[str] = mapped_column(String(12), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """Shelf and places as JSON."""
    updated_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))
    revision: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    """Counts every save."""


class TrayBarsRow(Base):
    """How many bars of a batch stand on a tray: what the records add up to, kept so that a tray is never filled twice."""

    __tablename__ = "tray_bars"

    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), primary_key=True)
    tray: Mapped[str] = mapped_column(String(12), primary_key=True, index=True)
    bars: Mapped[int] = mapped_column(Integer)


class CureTaughtRow(Base):
    """What a batch taught: what its record adds up to, kept so that the next forecast need not read them all."""

    __tablename__ = "cure_taught"

    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    at: Mapped[str | None] = mapped_column(String(32))


class PredictionRow(Base):
    """What was predicted of a batch when it was begun. Never changed."""

    __tablename__ = "predictions"

    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    at: Mapped[str] = mapped_column(String(32))


class ComparisonRow(Base):
    """A blind comparison as drawn. Never changed but for being archived."""

    __tablename__ = "comparisons"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    created_at: Mapped[str] = mapped_column(String(32), index=True)
    archived_at: Mapped[str | None] = mapped_column(String(32))


class ComparedBatchRow(Base):
    """A batch whose bars take part in a comparison."""

    __tablename__ = "compared_batches"

    comparison_id: Mapped[str] = mapped_column(ForeignKey("comparisons.id"), primary_key=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), primary_key=True, index=True)


class ComparisonEventRow(Base):
    """Something that happened in a comparison. Never changed, never removed: triggers refuse both."""

    __tablename__ = "comparison_events"
    __table_args__ = (UniqueConstraint("comparison_id", "seq"), UniqueConstraint("comparison_id", "key"))

    id: Mapped[int] = mapped_column(primary_key=True)
    comparison_id: Mapped[str] = mapped_column(ForeignKey("comparisons.id"), index=True)
    seq: Mapped[int] = mapped_column(Integer)
    key: Mapped[str] = mapped_column(String(64))
    """Chosen by the device that sent it, so that sending it again adds nothing."""
    at: Mapped[str] = mapped_column(String(32))
    content: Mapped[str] = mapped_column(Text)
    """The event as JSON."""


class TrialRow(Base):
    """A set of test batches as it was set up. Never changed but for being archived."""

    __tablename__ = "trials"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    formula_id: Mapped[str] = mapped_column(String(32), index=True)
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    created_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))


class TrialBatchRow(Base):
    """The batch that a run of a trial was planned as."""

    __tablename__ = "trial_batches"

    trial_id: Mapped[str] = mapped_column(ForeignKey("trials.id"), primary_key=True)
    run: Mapped[int] = mapped_column(Integer, primary_key=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), index=True)


class OwnCriterionRow(Base):
    """Something of one's own that bars are judged by. Its words never change, so that what was judged keeps its meaning."""

    __tablename__ = "own_criteria"

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    created_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))


class WorkshopRow(Base):
    """Something to know about the workshop itself, such as a telephone number."""

    __tablename__ = "workshop"

    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    value: Mapped[str] = mapped_column(Text)
    updated_at: Mapped[str] = mapped_column(String(32))
    revision: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    """Counts every save."""


class BatchFileRow(Base):
    """A picture of a batch."""

    __tablename__ = "batch_files"

    id: Mapped[int] = mapped_column(primary_key=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"), index=True)
    name: Mapped[str] = mapped_column(String(120))
    media_type: Mapped[str] = mapped_column(String(40))
    content: Mapped[bytes] = mapped_column(LargeBinary)
    at: Mapped[str] = mapped_column(String(32))


class HeededNoteRow(Base):
    """A note for next time that was ticked off."""

    __tablename__ = "heeded_notes"

    formula_id: Mapped[str] = mapped_column(String(32), primary_key=True)
    text: Mapped[str] = mapped_column(Text, primary_key=True)
    at: Mapped[str] = mapped_column(String(32))


class LabelRow(Base):
    """The label of a batch, or of diluted soap."""

    __tablename__ = "labels"

    batch_id: Mapped[str] = mapped_column(String(32), primary_key=True)
    """Of the batch, or of the preparation."""
    revision: Mapped[int] = mapped_column(Integer)
    content: Mapped[str] = mapped_column(Text)
    """The design as JSON."""
    updated_at: Mapped[str] = mapped_column(String(32), index=True)


class PriceListRow(Base):
    """The price list of a supplier."""

    __tablename__ = "price_lists"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    supplier: Mapped[str] = mapped_column(String(80), index=True)
    """In lower case; one list of each is in use."""
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    read_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))


class ImportRow(Base):
    """A table that was brought in, with what was made of it."""

    __tablename__ = "imports"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    key: Mapped[str] = mapped_column(String(64), unique=True)
    kind: Mapped[str] = mapped_column(String(20))
    file_name: Mapped[str] = mapped_column(String(200))
    content: Mapped[str] = mapped_column(Text)
    """Ids of what was made, as JSON."""
    at: Mapped[str] = mapped_column(String(32))
    undone_at: Mapped[str | None] = mapped_column(String(32))


class LotRow(Base):
    """A lot as it came in. Never changed but for being archived."""

    __tablename__ = "lots"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    code: Mapped[str] = mapped_column(String(24), unique=True)
    material: Mapped[str] = mapped_column(String(80), index=True)
    content: Mapped[str] = mapped_column(Text)
    """As JSON."""
    created_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))


class LedgerRow(Base):
    """An entry of the ledger. Never changed, never removed: triggers refuse both."""

    __tablename__ = "ledger"
    __table_args__ = (UniqueConstraint("lot_id", "seq"), UniqueConstraint("lot_id", "key"))

    id: Mapped[int] = mapped_column(primary_key=True)
    lot_id: Mapped[str] = mapped_column(ForeignKey("lots.id"))
    seq: Mapped[int] = mapped_column(Integer)
    key: Mapped[str] = mapped_column(String(64))
    """Chosen by the device that sent it, so that sending it again adds nothing."""
    at: Mapped[str] = mapped_column(String(32))
    change_g: Mapped[float] = mapped_column(Float)
    batch_id: Mapped[str | None] = mapped_column(String(32), index=True)
    content: Mapped[str] = mapped_column(Text)
    """The event as JSON."""


class PreparationRow(Base):
    """What is prepared beside batches: its plan, until it is begun."""

    __tablename__ = "preparations"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    code: Mapped[str] = mapped_column(String(16), unique=True)
    """Short, to be written on a bottle."""
    kind: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(120))
    content: Mapped[str] = mapped_column(Text)
    """The plan as JSON."""
    begun: Mapped[str | None] = mapped_column(Text)
    """Everything that followed from it when it was begun, as JSON; null while it is planned. Never changed."""
    revision: Mapped[int] = mapped_column(Integer)
    created_at: Mapped[str] = mapped_column(String(32))
    updated_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))


class PreparationEventRow(Base):
    """Something that happened while it was made. Never changed, never removed: triggers refuse both."""

    __tablename__ = "preparation_events"
    __table_args__ = (UniqueConstraint("preparation_id", "seq"), UniqueConstraint("preparation_id", "key"))

    id: Mapped[int] = mapped_column(primary_key=True)
    preparation_id: Mapped[str] = mapped_column(ForeignKey("preparations.id"), index=True)
    seq: Mapped[int] = mapped_column(Integer)
    key: Mapped[str] = mapped_column(String(64))
    """Chosen by the device that sent it, so that sending it again adds nothing."""
    at: Mapped[str] = mapped_column(String(32))
    content: Mapped[str] = mapped_column(Text)
    """The event as JSON."""


class PracticeRow(Base):
    """An answer to an exercise. Never changed."""

    __tablename__ = "practice"

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(64), unique=True)
    """Chosen by the device that sent it, so that sending it again adds nothing."""
    kind: Mapped[str] = mapped_column(String(20), index=True)
    seed: Mapped[int] = mapped_column(Integer)
    right: Mapped[bool] = mapped_column(Boolean)
    at: Mapped[str] = mapped_column(String(32))


class SentRow(Base):
    """A key under which something was asked for, noted in the transaction that did it."""

    __tablename__ = "sent"

    key: Mapped[str] = mapped_column(String(80), primary_key=True)
    digest: Mapped[str] = mapped_column(String(64))
    """Of what was asked for: the same key for something else is refused."""
    at: Mapped[str] = mapped_column(String(32), index=True)
    status: Mapped[int] = mapped_column(Integer)
    """HTTP status of the answer; 0 where it was not kept."""
    answer: Mapped[str | None] = mapped_column(Text, nullable=True)
