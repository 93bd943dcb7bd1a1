"""One shape for every error: a code, a message in plain words, and the problems entry by entry."""

import logging
from secrets import token_hex

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException
from starlette.types import Send

from sapolin.core.bar.explanations import UnknownQuantityError
from sapolin.core.formula.verify import CausticCheckError
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, malformed_entries
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import plain
from sapolin.store.archive import ArchiveError
from sapolin.store.backup import BackupError
from sapolin.store.batches import BatchBegunError, BatchConflictError, StaleRecordError, UnknownBatchError
from sapolin.store.cures import UnknownTrayError
from sapolin.store.formulas import DeletedFormulaError, RevisionConflictError, UnknownFormulaError
from sapolin.store.imports import UnknownImportError
from sapolin.store.materials import MaterialConflictError, UnknownMaterialError
from sapolin.store.moulds import UnknownMouldError
from sapolin.store.pairing import UnknownDeviceError
from sapolin.store.pictures import PicturesFullError
from sapolin.store.preparations import UnknownPreparationError
from sapolin.store.price_lists import UnknownPriceListError
from sapolin.store.reading import UnreadableError
from sapolin.store.repository import ChangedElsewhereError
from sapolin.store.stock import UnknownLotError
from sapolin.store.target_sets import UnknownTargetSetError
from sapolin.store.trials import UnknownComparisonError, UnknownCriterionError, UnknownTrialError

__all__ = ["PAGE_HEADERS", "ApiError", "ErrorBody", "Refusal", "add_error_handlers", "refuse"]

PAGE_HEADERS = {
    "content-security-policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'"
    ),
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
}
"""With every answer: a page loads nothing but its own files, and is not framed."""

_log = logging.getLogger("sapolin")


class ApiError(Model):
    """What went wrong."""

    code: str
    """Stable, for programs."""
    message: str
    """In plain words, for people."""
    problems: tuple[Diagnostic, ...] = ()
    """What to put right, entry by entry; empty when no entry is at fault."""
    reference: str | None = None
    """Of a fault: the log names it with what happened; null for what is no fault of the application's."""


class ErrorBody(Model):
    """The body of every error response."""

    error: ApiError


class Refusal(Exception):  # noqa: N818 - an answer, not a fault
    """An error the API itself decides on."""

    def __init__(self, status: int, code: str, message: str) -> None:
        super().__init__(message)
        self.status = status
        self.error = ApiError(code=code, message=message)


_STORED: dict[type[Exception], tuple[int, str, str]] = {
    UnknownFormulaError: (404, "not_found", "There is no such formula or version."),
    UnknownMaterialError: (404, "not_found", "There is no such material."),
    UnknownTargetSetError: (404, "not_found", "These targets are not kept any more."),
    UnknownBatchError: (404, "not_found", "There is no such batch, or no such picture of it."),
    UnknownPreparationError: (404, "not_found", "There is no such preparation."),
    UnknownMouldError: (404, "not_found", "There is no such mould."),
    UnknownTrayError: (404, "not_found", "There is no such tray."),
    UnknownImportError: (404, "not_found", "There is no such import."),
    UnknownPriceListError: (404, "not_found", "There is no such price list."),
    UnknownLotError: (404, "not_found", "There is no such lot."),
    UnknownComparisonError: (404, "not_found", "There is no such comparison."),
    UnknownTrialError: (404, "not_found", "There is no such trial."),
    ChangedElsewhereError: (
        409, "changed_elsewhere",
        "This was changed elsewhere since you looked at it, so nothing was saved. Look at it as it is now, then "
        "change it again.",
    ),
    PicturesFullError: (
        507, "pictures_full",
        "Pictures take 1.5 GB, the most that Sapolin keeps in one place. Save everything as one file, then begin a new place "
        "for the next batches with --data.",
    ),
    UnknownDeviceError: (404, "not_found", "There is no such device, or its access has ended."),
    UnknownCriterionError: (404, "not_found", "There is no such criterion of your own."),
    DeletedFormulaError: (410, "deleted", "This formula has been deleted. Restore it to go on."),
    MaterialConflictError: (
        409, "revision_conflict",
        "This material was saved elsewhere since you opened it. Load it again to see what changed.",
    ),
    BatchConflictError: (
        409, "revision_conflict",
        "This plan was saved elsewhere since you opened it. Load it again to see what changed.",
    ),
    UnreadableError: (
        409, "unreadable",
        "What is kept here cannot be read. It stays as it is, and everything else works; put a copy of the data back to get "
        "it again.",
    ),
    BatchBegunError: (409, "begun", "It is begun, so its plan no longer changes. Plan a new one from it."),
    StaleRecordError: (
        409, "stale",
        "Another device went on with it meanwhile. What it did is shown now; nothing was added twice.",
    ),
}  # fmt: skip
"""What the stores refuse: status, code and words."""


_SAYING: dict[type[Exception], str] = {ArchiveError: "not_an_archive", BackupError: "backup"}
"""Code of what says itself what is wrong."""


_DISK: dict[str, tuple[int, str, str]] = {
    "disk is full": (507, "disk_full", "The disk is full, so this was not saved. Make room, then try again."),
    "readonly database": (
        507, "read_only", "The database cannot be written to, so this was not saved. Look at the rights of its directory.",
    ),
    "disk I/O error": (507, "disk_fault", "The disk reports an error, so this was not saved. Copy the data elsewhere."),
    "database is locked": (
        503, "busy", "Another program holds the database, so this was not saved. It is worth trying again.",
    ),
}  # fmt: skip
"""What the database says when it cannot write: status, code and words."""


def _answer(status: int, error: ApiError) -> Response:
    # Faults are answered outside of the guard, which sets these for every other answer.
    headers = PAGE_HEADERS if status == 500 else None
    # By Pydantic: what was typed may be beyond every number that plain JSON has.
    return Response(ErrorBody(error=error).model_dump_json(), status, headers, "application/json")


MOST_PROBLEMS = 50
"""So many are listed; whoever has put these right asks again."""


def _formula_error(_request: Request, error: Exception) -> Response:
    assert isinstance(error, FormulaError)
    count = len(error.problems)
    message = plain(error.problems[0].message) if count == 1 else f"{count} entries need attention."
    return _answer(
        422, ApiError(code="formula_not_calculated", message=message, problems=error.problems[:MOST_PROBLEMS])
    )


def _malformed(_request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    problems = malformed_entries(error.errors()[:MOST_PROBLEMS], skip=1)
    return _answer(422, ApiError(code="malformed", message="The request could not be read.", problems=problems))


def _http(_request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    code = {404: "not_found", 405: "method_not_allowed", 413: "too_large"}.get(error.status_code, "refused")
    return _answer(error.status_code, ApiError(code=code, message=str(error.detail)))


def _refusal(_request: Request, error: Exception) -> Response:
    assert isinstance(error, Refusal)
    return _answer(error.status, error.error)


def _stored(_request: Request, error: Exception) -> Response:
    status, code, message = _STORED[type(error)]
    return _answer(status, ApiError(code=code, message=message))


def _said(_request: Request, error: Exception) -> Response:
    """What is refused with a sentence of its own."""
    return _answer(422, ApiError(code=_SAYING[type(error)], message=str(error)))


def _conflict(_request: Request, error: Exception) -> Response:
    assert isinstance(error, RevisionConflictError)
    message = f"This formula was saved elsewhere since you opened it (revision {error.current.revision})."
    return _answer(409, ApiError(code="revision_conflict", message=message))


def _unknown_quantity(_request: Request, error: Exception) -> Response:
    return _answer(404, ApiError(code="unknown_quantity", message=f"There is no quantity {error} to explain."))


def _database(request: Request, error: Exception) -> Response:
    """What the disk or the database refused was rolled back as a whole, so nothing of it was saved."""
    said = str(getattr(error, "orig", None) or error)
    for sign, (status, code, message) in _DISK.items():
        if sign in said:
            _log.warning("%s at %s %s: %s", code, request.method, request.url.path, said)
            return _answer(status, ApiError(code=code, message=message))
    return _fault(request, error)


def _overflow(request: Request, error: Exception) -> Response:
    """A time so near to an end of the calendar that it has no day in another time zone."""
    if "date value out of range" not in str(error):
        return _fault(request, error)
    return _answer(
        422, ApiError(code="beyond_calendar", message="This time lies beyond the calendar. Enter one of these years.")
    )


async def refuse(send: Send, status: int, code: str, message: str) -> None:
    """Answer from a middleware, where no handler puts errors into words."""
    body = ErrorBody(error=ApiError(code=code, message=message)).model_dump_json().encode()
    headers = {"content-type": "application/json", "content-length": str(len(body)), **PAGE_HEADERS}
    raw = [(name.encode(), value.encode()) for name, value in headers.items()]
    await send({"type": "http.response.start", "status": status, "headers": raw})
    await send({"type": "http.response.body", "body": body})


def _logged(request: Request, error: Exception) -> str:
    """Write a fault to the log, without contents; returns the reference it is found by."""
    reference = token_hex(4)
    _log.error("fault %s at %s %s", reference, request.method, request.url.path, exc_info=_without_contents(error))
    return reference


def _without_contents(error: Exception) -> Exception:
    """An error whose text names no value: what a maker typed stays out of the log."""
    original = getattr(error, "orig", None)
    said = f"{type(error).__name__}: {original}" if original is not None else type(error).__name__
    if isinstance(error, KeyError | AttributeError | AssertionError | TypeError | ZeroDivisionError):
        said = f"{type(error).__name__}: {error}"
    return Exception(said).with_traceback(error.__traceback__)


def _caustic(request: Request, error: Exception) -> Response:
    reference = _logged(request, error)
    message = (
        "Sapolin’s own check of this lye quantity failed, so it is not shown. Do not make this batch; please report it."
    )
    return _answer(500, ApiError(code="caustic_check", message=message, reference=reference))


def _fault(request: Request, error: Exception) -> Response:
    reference = _logged(request, error)
    if request.method in ("GET", "HEAD"):
        message = "Something broke inside Sapolin. Nothing was changed."
    else:
        message = "Something broke inside Sapolin. Load the page again and look whether your last change is there."
    return _answer(500, ApiError(code="fault", message=message, reference=reference))


def add_error_handlers(app: FastAPI) -> None:
    """Give every error of `app` the one shape."""
    app.add_exception_handler(FormulaError, _formula_error)
    app.add_exception_handler(RequestValidationError, _malformed)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(Refusal, _refusal)
    app.add_exception_handler(OverflowError, _overflow)
    for refused in _STORED:
        app.add_exception_handler(refused, _stored)
    for saying in _SAYING:
        app.add_exception_handler(saying, _said)
    app.add_exception_handler(RevisionConflictError, _conflict)
    app.add_exception_handler(UnknownQuantityError, _unknown_quantity)
    app.add_exception_handler(OperationalError, _database)
    app.add_exception_handler(CausticCheckError, _caustic)
    app.add_exception_handler(Exception, _fault)
