"""A transaction that writes: at its gate it waits while everything is replaced, and it notes the key it was asked for under.

What is sent again under its key, because no answer came, finds its key in the database exactly if what it asked for is there.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import timedelta
from threading import Condition, get_ident

from sqlalchemy import Engine, delete, select, update
from sqlalchemy.orm import Session

from sapolin.store.clock import present, utc_now
from sapolin.store.database import write_alone
from sapolin.store.tables import SentRow

__all__ = ["SENDING", "Sending", "Sent", "SentStore", "everything_replaced", "writing"]

KEPT_FOR = timedelta(days=30)
"""So long a key is remembered: what a device kept unsent for longer finds what it asked for by its own key, or not at all."""


@dataclass
class Sending:
    """What is asked for under a key just now."""

    key: str
    digest: str
    is_noted: bool = False
    """A transaction that noted it is on disk."""


SENDING: ContextVar[Sending | None] = ContextVar("sending", default=None)
"""Of the request that is being answered; null where it has no key."""


class _Gate:
    """Many may write, or one may replace everything; whoever holds it may pass again."""

    def __init__(self) -> None:
        self._free = Condition()
        self._writers: dict[int, int] = {}
        self._alone: int | None = None

    @contextmanager
    def among_others(self) -> Iterator[None]:
        """Pass as one of many."""
        me = get_ident()
        with self._free:
            self._free.wait_for(lambda: self._alone in (None, me) or me in self._writers)
            self._writers[me] = self._writers.get(me, 0) + 1
        try:
            yield
        finally:
            with self._free:
                self._writers[me] -= 1
                if self._writers[me] == 0:
                    del self._writers[me]
                self._free.notify_all()

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Pass when nobody else is through any more, and let nobody else pass."""
        me = get_ident()
        with self._free:
            self._free.wait_for(lambda: self._alone is None)
            self._alone = me
            self._free.wait_for(lambda: not self._writers)
        try:
            yield
        finally:
            with self._free:
                self._alone = None
                self._free.notify_all()


_GATES: dict[str, _Gate] = {}
"""By database."""


def _gate_of(engine: Engine) -> _Gate:
    return _GATES.setdefault(str(engine.url), _Gate())


@contextmanager
def everything_replaced(engine: Engine) -> Iterator[None]:
    """Nobody else writes until it ends, however many transactions and copies lie between: what was acknowledged before is in
    the copy taken within, and what comes after meets what has come."""
    with _gate_of(engine).alone():
        yield


@contextmanager
def writing(engine: Engine, *, alone: bool = False, is_noted: bool = True) -> Iterator[Session]:
    """A transaction that is on disk when it ends; `alone` when what it reads must stay true until it writes.

    `is_noted` for what a request asked for, and not for what is only summed up on the way.
    """
    sending = SENDING.get() if is_noted else None
    with _gate_of(engine).among_others():
        with Session(engine) as session, session.begin():
            if alone:
                write_alone(session)
            if sending is not None and not sending.is_noted:
                session.add(SentRow(key=sending.key, digest=sending.digest, at=utc_now(), status=0, answer=None))
            yield session
        if sending is not None:
            sending.is_noted = True


@dataclass(frozen=True)
class Sent:
    """What was asked for under a key before."""

    digest: str
    status: int
    """HTTP status of the answer; 0 where it was not kept."""
    answer: str | None


class SentStore:
    """The keys under which something was written, with what was answered."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def find(self, key: str) -> Sent | None:
        """What was asked for under a key; null when nothing was."""
        with Session(self._engine) as session:
            chosen = select(SentRow.digest, SentRow.status, SentRow.answer).where(SentRow.key == key)
            row = session.execute(chosen).first()
            return None if row is None else Sent(*row)

    def keep_answer(self, key: str, status: int, answer: str) -> None:
        """Keep what was answered, for whoever sends it again."""
        with writing(self._engine, is_noted=False) as session:
            session.execute(update(SentRow).where(SentRow.key == key).values(status=status, answer=answer))

    def forget(self, key: str) -> None:
        """It came to nothing: sent again, it is tried again."""
        with writing(self._engine, is_noted=False) as session:
            session.execute(delete(SentRow).where(SentRow.key == key))

    def forget_old(self) -> None:
        """Forget keys that nobody sends again."""
        before = (present() - KEPT_FOR).isoformat(timespec="milliseconds")
        with Session(self._engine) as session:
            if session.scalar(select(SentRow.key).where(SentRow.at < before).limit(1)) is None:
                return
        with writing(self._engine, is_noted=False) as session:
            session.execute(delete(SentRow).where(SentRow.at < before))
