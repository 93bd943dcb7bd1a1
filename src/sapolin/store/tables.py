"""The tables. Times are ISO 8601 text in UTC, which SQLite sorts rightly."""

from sqlalchemy import Float, ForeignKey, Integer, String, Text, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

__all__ = ["Base", "FormulaRow", "MaterialRow", "PriceRow", "VersionRow"]


class Base(DeclarativeBase):
    """Base of every table."""


class FormulaRow(Base):
    """The working copy of a formula."""

    __tablename__ = "formulas"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    search_text: Mapped[str] = mapped_column(Text)
    """Lower-case name, notes and oil ids."""
    content: Mapped[str] = mapped_column(Text)
    """The formula as JSON."""
    content_version: Mapped[int] = mapped_column(Integer)
    """Version of the formula format that `content` is in."""
    revision: Mapped[int] = mapped_column(Integer)
    """Counts every save; a save that names another revision is refused."""
    created_at: Mapped[str] = mapped_column(String(32))
    updated_at: Mapped[str] = mapped_column(String(32), index=True)
    deleted_at: Mapped[str | None] = mapped_column(String(32))


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
    deleted_at: Mapped[str | None] = mapped_column(String(32))


class PriceRow(Base):
    """What an oil costs."""

    __tablename__ = "prices"

    oil: Mapped[str] = mapped_column(String(80), primary_key=True)
    per_kg: Mapped[float] = mapped_column(Float)
    updated_at: Mapped[str] = mapped_column(String(32))
