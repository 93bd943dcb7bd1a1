"""Notes for next time: what batches of a formula left for the next one, until they are ticked off as heeded."""

from sapolin.core.cure.state import cure_state
from sapolin.core.production.state import state_of
from sapolin.core.quantities.model import Model
from sapolin.store.stores import Stores

__all__ = ["NoteForNextTime", "heed", "next_time_of", "notes_of"]


class NoteForNextTime(Model):
    """A note for next time."""

    text: str
    noted_at: str
    """When it was noted last."""
    heeded_at: str | None
    """When it was ticked off; null while it still comes back. Noted again later, it comes back again."""


def notes_of(formula_id: str, stores: Stores) -> tuple[NoteForNextTime, ...]:
    """Every note for next time that batches of a formula left, newest first, each once."""
    if not formula_id:
        return ()
    noted: dict[str, str] = {}
    after_pour = stores.cures.noted_for_next_time(formula_id)
    make_days = stores.batches.noted_for_next_time(formula_id)
    records = [
        *((cure_state(events, events[0].at).next_time, events[-1].at) for events in after_pour),
        *((state_of(run_events, ()).next_time, run_events[-1].at) for run_events in make_days),
    ]
    for texts, at in records:
        for one in reversed(texts):
            noted[one] = max(noted.get(one, at), at)
    heeded = stores.cures.heeded(formula_id)
    return tuple(
        NoteForNextTime(text=one, noted_at=at, heeded_at=when if (when := heeded.get(one)) and when >= at else None)
        for one, at in noted.items()
    )


def next_time_of(formula_id: str, stores: Stores) -> tuple[str, ...]:
    """Those that still come back."""
    return tuple(one.text for one in notes_of(formula_id, stores) if one.heeded_at is None)


def heed(formula_id: str, text: str, stores: Stores, *, heeded: bool) -> tuple[NoteForNextTime, ...]:
    """Tick a note off, or let it come back again. Raises UnknownFormulaError."""
    stores.formulas.label(formula_id)
    stores.cures.heed(formula_id, text, heeded=heeded)
    return notes_of(formula_id, stores)
