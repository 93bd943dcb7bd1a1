"""Formulas and their versions, kept."""

from collections.abc import Sequence
from typing import Any, Literal
from uuid import uuid4

from pydantic import ValidationError
from sqlalchemy import ColumnElement, collate, func, literal_column, select, update
from sqlalchemy.orm import Session

from sapolin.core.formula.document import Formula
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import UnreadableError, json_at, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import FormulaRow, VersionRow

__all__ = [
    "Adopted",
    "DeletedFormulaError",
    "FormulaEntry",
    "FormulaFilter",
    "FormulaOrder",
    "FormulaRecord",
    "FormulaStore",
    "RevisionConflictError",
    "UnknownFormulaError",
    "VersionRecord",
]

CONTENT_VERSION = 2


class FormulaRecord(Model):
    """A formula as kept."""

    id: str
    revision: int
    """Counts every save of the draft."""
    latest_version: int
    """Number of the newest kept version; 0 when none has been kept yet."""
    created_at: str
    """UTC, ISO 8601."""
    updated_at: str
    """UTC, ISO 8601."""
    archived_at: str | None
    """UTC, ISO 8601; null unless deleted."""
    formula: Formula


class FormulaEntry(Model):
    """A row of a list of formulas."""

    id: str
    name: str
    purpose: str
    revision: int
    latest_version: int
    updated_at: str
    archived_at: str | None
    summary: str | None
    """What was kept of it for lists, as JSON; null when it has not been summed up since the last save."""


FormulaOrder = Literal["changed", "name", "purpose"]


class FormulaFilter(Model):
    """Which formulas a list shows, and in which order."""

    words: str = ""
    """Every word is to be in the name, the notes or the oils."""
    archived: bool = False
    purpose: str | None = None
    state: str | None = None
    """As kept with its summary: what has none yet is left out."""
    can_be_mixed: bool = False
    """Pastes alone that can be mixed with others, as kept with the summary."""
    order: FormulaOrder = "changed"
    is_counted: bool = True
    """Whether it has to be known how many there are; if not, those before and on the page are said."""


class VersionRecord(Model):
    """A kept version of a formula."""

    formula_id: str
    number: int
    note: str
    """What changed and why, in the maker's words."""
    created_at: str
    """UTC, ISO 8601."""
    formula: Formula


class Adopted(Model):
    """A formula with another bar in its place."""

    record: FormulaRecord
    version: VersionRecord | None
    """The version that the draft is now; null when something is still to be entered, so that it is none yet."""
    draft_version: VersionRecord | None
    """The version under which the draft was kept that was there before; null when it was one already."""


class UnknownFormulaError(LookupError):
    """There is no formula, or no version, of that id."""


class DeletedFormulaError(Exception):
    """The formula has been deleted; restore it first."""


class RevisionConflictError(Exception):
    """Someone else saved since; `current` is what is kept now."""

    def __init__(self, current: FormulaRecord) -> None:
        super().__init__(f"revision {current.revision} is kept")
        self.current = current


def _search_text(formula: Formula) -> str:
    materials = (material.name for material in formula.materials)
    return " ".join(
        (formula.name, formula.notes, *formula.tags, *(line.oil for line in formula.blend.lines), *materials)
    ).casefold()


def _values(formula: Formula) -> dict[str, str | int | None]:
    """What a row holds of a formula."""
    return {
        "name": formula.name,
        "search_text": _search_text(formula),
        "purpose": formula.purpose,
        "state": None,
        "summary": None,
        "content": formula.model_dump_json(),
        "content_version": CONTENT_VERSION,
    }


def _version_record(row: VersionRow) -> VersionRecord:
    return VersionRecord(
        formula_id=row.formula_id,
        number=row.number,
        note=row.note,
        created_at=row.created_at,
        formula=Formula.model_validate_json(row.content),
    )


# Of those changed in one millisecond, such as by an import, the last one kept comes first.
NEWEST_FIRST: tuple[ColumnElement[str], ...] = (
    FormulaRow.updated_at.desc(),
    literal_column(f"{FormulaRow.__tablename__}.rowid").desc(),
)


class FormulaStore(Repository[FormulaRow]):
    """Formulas, by id, with their versions."""

    table = FormulaRow
    also_cleared = (VersionRow,)
    unknown = UnknownFormulaError

    def find(self, search: str = "", *, archived: bool = False) -> list[FormulaRecord]:
        """Formulas whose name, notes or oils contain every word of `search`, newest first."""
        chosen = self._chosen(archived=archived)
        for word in search.casefold().split():
            chosen = chosen.where(FormulaRow.search_text.contains(word, autoescape=True))
        with self._reading() as session:
            latest = self._latest_versions(session)
            rows = session.scalars(chosen.order_by(*NEWEST_FIRST))
            return [*readable(rows, lambda row: self._record(row, latest.get(row.id, 0)))]

    def page(self, asked: FormulaFilter, limit: int, offset: int = 0) -> tuple[int, list[FormulaEntry]]:
        """How many there are, and `limit` of them from `offset` on, as lists show them. No formula is read for it."""
        chosen = self._chosen(archived=asked.archived)
        for word in asked.words.casefold().split():
            chosen = chosen.where(FormulaRow.search_text.contains(word, autoescape=True))
        if asked.purpose is not None:
            chosen = chosen.where(FormulaRow.purpose == asked.purpose)
        if asked.state is not None:
            chosen = chosen.where(FormulaRow.state == asked.state)
        if asked.can_be_mixed:
            chosen = chosen.where(json_at(FormulaRow.summary, "$.can_be_mixed") == 1)
        orders: dict[FormulaOrder, tuple[Any, ...]] = {
            "changed": NEWEST_FIRST,
            "name": (collate(FormulaRow.name, "NOCASE"), FormulaRow.id),
            "purpose": (FormulaRow.purpose, collate(FormulaRow.name, "NOCASE"), FormulaRow.id),
        }
        columns = (
            FormulaRow.id, FormulaRow.name, FormulaRow.purpose, FormulaRow.revision, FormulaRow.updated_at,
            FormulaRow.archived_at, FormulaRow.summary,
        )  # fmt: skip
        with self._reading() as session:
            # Which rows they are is found in an index; only those are then read.
            ids = [
                *session.scalars(
                    chosen.with_only_columns(FormulaRow.id).order_by(*orders[asked.order]).limit(limit).offset(offset)
                )
            ]
            # Counting goes through all of them: who shows only the first few does without.
            counted = session.scalar(chosen.with_only_columns(func.count())) if asked.is_counted else offset + len(ids)
            total = counted or 0
            found = {row.id: row for row in session.execute(select(*columns).where(FormulaRow.id.in_(ids)))}
            rows = [found[formula_id] for formula_id in ids]
            latest = self._latest_versions(session, *(row.id for row in rows))
            return total, [FormulaEntry(**row._mapping, latest_version=latest.get(row.id, 0)) for row in rows]

    def unsummed(self, limit: int) -> list[str]:
        """Ids of formulas that were not summed up for lists since they were saved, at most `limit`."""
        with self._reading() as session:
            return [*session.scalars(select(FormulaRow.id).where(FormulaRow.summary.is_(None)).limit(limit))]

    def label(self, formula_id: str) -> tuple[int, str, str]:
        """Revision, name and time of the last save of a formula, readable or not. Raises UnknownFormulaError."""
        with self._reading() as session:
            row = self._row(session, formula_id)
            return row.revision, row.name, row.updated_at

    def keep_summaries(self, summaries: Sequence[tuple[str, int, str, str]]) -> None:
        """Keep what lists show: id, revision it is of, state, summary as JSON. One that was saved meanwhile is left alone."""
        with self._writing(is_noted=False) as session:
            for formula_id, revision, state, summary in summaries:
                session.execute(
                    update(FormulaRow)
                    .where(FormulaRow.id == formula_id, FormulaRow.revision == revision)
                    .values(state=state, summary=summary)
                )

    def forget_summaries(self) -> None:
        """All are to be summed up anew: what they are made from has changed."""
        with self._writing() as session:
            session.execute(update(FormulaRow).values(state=None, summary=None))

    def get(self, formula_id: str) -> FormulaRecord:
        """One formula, deleted or not. Raises UnknownFormulaError."""
        with self._reading() as session:
            return self._read(session, formula_id)

    def create(self, formula: Formula) -> FormulaRecord:
        """Keep a new formula."""
        now = utc_now()
        with self._writing() as session:
            row = FormulaRow(
                id=uuid4().hex,
                **_values(formula),
                revision=1,
                created_at=now,
                updated_at=now,
                archived_at=None,
            )
            session.add(row)
            session.flush()
            return self._record(row, 0)

    def update(self, formula_id: str, revision: int, formula: Formula) -> FormulaRecord:
        """Replace the draft, if `revision` is still the one kept.

        Raises UnknownFormulaError, DeletedFormulaError, or RevisionConflictError with what is kept.
        """
        with self._writing(alone=True) as session:
            current = self._read(session, formula_id)
            self._refuse_deleted(current)
            if not self._saved(session, formula_id, revision, _values(formula)):
                raise RevisionConflictError(current)
            return self._read(session, formula_id)

    def duplicate(self, formula_id: str, name: str) -> FormulaRecord:
        """A new formula of that `name` with the same content. Raises UnknownFormulaError."""
        return self.create(self.get(formula_id).formula.model_copy(update={"name": name}))

    def delete(self, formula_id: str) -> FormulaRecord:
        """Delete a formula; it can be restored. Raises UnknownFormulaError."""
        return self._mark(formula_id, True)

    def restore(self, formula_id: str) -> FormulaRecord:
        """Restore a deleted formula. Raises UnknownFormulaError."""
        return self._mark(formula_id, False)

    def keep_version(self, formula_id: str, revision: int, note: str, at: str | None = None) -> VersionRecord:
        """Keep the draft as the next version, if `revision` is still the one kept; `at` is when, now by default.

        Raises UnknownFormulaError, DeletedFormulaError or RevisionConflictError.
        """
        with self._writing(alone=True) as session:
            current = self._read(session, formula_id)
            self._refuse_deleted(current)
            if current.revision != revision:
                raise RevisionConflictError(current)
            return self._add_version(session, formula_id, current.formula, note, at)

    def adopt(
        self, formula_id: str, revision: int, formula: Formula, note: str, *, as_version: bool = True
    ) -> Adopted:  # fmt: skip
        """Put `formula` in the place of the draft and keep it as a version if `as_version`; the draft is kept as one first.

        All of it is one transaction, so neither bar can be lost. A draft that is the newest version already is not
        kept twice. Raises UnknownFormulaError, DeletedFormulaError or RevisionConflictError.
        """
        with self._writing(alone=True) as session:
            draft_version = self._keep_draft(session, formula_id, revision, f"As it was before: {note}"[:2000])
            self._saved(session, formula_id, revision, _values(formula))
            version = self._add_version(session, formula_id, formula, note) if as_version else None
            return Adopted(record=self._read(session, formula_id), version=version, draft_version=draft_version)

    def return_to(self, formula_id: str, revision: int, number: int) -> Adopted:
        """Put a kept version in the place of the draft, which is kept as a version first, in one transaction.

        Raises UnknownFormulaError, DeletedFormulaError or RevisionConflictError.
        """
        with self._writing(alone=True) as session:
            draft_version = self._keep_draft(
                session, formula_id, revision, f"As it was before going back to version {number}"
            )
            row = session.scalar(
                select(VersionRow).where(VersionRow.formula_id == formula_id, VersionRow.number == number)
            )
            if row is None:
                raise UnknownFormulaError(formula_id)
            version = _version_record(row)
            self._saved(session, formula_id, revision, _values(version.formula))
            return Adopted(record=self._read(session, formula_id), version=version, draft_version=draft_version)

    def _keep_draft(self, session: Session, formula_id: str, revision: int, note: str) -> VersionRecord | None:
        """Keep the draft as a version, unless it has no oils or the newest version is the same.

        `revision` must be the one kept.
        """
        current = self._read(session, formula_id)
        self._refuse_deleted(current)
        if current.revision != revision:
            raise RevisionConflictError(current)
        newest = session.scalar(
            select(VersionRow).where(VersionRow.formula_id == formula_id).order_by(VersionRow.number.desc()).limit(1)
        )
        if not current.formula.blend.lines or (
            newest is not None and _version_record(newest).formula == current.formula
        ):
            return None
        return self._add_version(session, formula_id, current.formula, note)

    def _add_version(
        self, session: Session, formula_id: str, formula: Formula, note: str, at: str | None = None
    ) -> VersionRecord:
        row = VersionRow(
            formula_id=formula_id,
            number=self._latest_versions(session, formula_id).get(formula_id, 0) + 1,
            note=note,
            content=formula.model_dump_json(),
            content_version=CONTENT_VERSION,
            created_at=at or utc_now(),
        )
        session.add(row)
        session.flush()
        return _version_record(row)

    def versions(self, formula_id: str) -> list[VersionRecord]:
        """Kept versions, newest first. Raises UnknownFormulaError."""
        with self._reading() as session:
            self._read(session, formula_id)
            rows = session.scalars(
                select(VersionRow).where(VersionRow.formula_id == formula_id).order_by(VersionRow.number.desc())
            )
            return [*readable(rows, _version_record)]

    def _mark(self, formula_id: str, archived: bool) -> FormulaRecord:
        with self._writing() as session:
            self._archived(session, formula_id, archived)
            return self._read(session, formula_id)

    def _read(self, session: Session, formula_id: str) -> FormulaRecord:
        row = self._row(session, formula_id)
        return self._record(row, self._latest_versions(session, formula_id).get(formula_id, 0))

    @staticmethod
    def _refuse_deleted(record: FormulaRecord) -> None:
        if record.archived_at is not None:
            raise DeletedFormulaError(record.id)

    @staticmethod
    def _latest_versions(session: Session, *formula_ids: str) -> dict[str, int]:
        """The newest version by formula: of those named, or of all."""
        newest = select(VersionRow.formula_id, func.max(VersionRow.number)).group_by(VersionRow.formula_id)
        if formula_ids:
            newest = newest.where(VersionRow.formula_id.in_(formula_ids))
        return {row[0]: row[1] for row in session.execute(newest)}

    @staticmethod
    def _record(row: FormulaRow, latest_version: int) -> FormulaRecord:
        try:
            formula = Formula.model_validate_json(row.content)
        except ValidationError as error:
            raise UnreadableError(f"formula {row.id}") from error
        return FormulaRecord(
            id=row.id,
            revision=row.revision,
            latest_version=latest_version,
            created_at=row.created_at,
            updated_at=row.updated_at,
            archived_at=row.archived_at,
            formula=formula,
        )
