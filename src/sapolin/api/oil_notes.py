"""What the maker says of the oils in the workshop: favourites, what is never used, what is left, their own most shares."""

from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.optimise.own_oils import OilNote
from sapolin.services.workshop_oils import oil_notes, refuse_unknown_oil

__all__ = ["router"]

router = room("/api/oil-notes", "oil notes")


@router.get("", summary="Every note")
def get_notes(stores: AllStores) -> dict[str, OilNote]:
    """By oil id; what is on hand is what its lots have free. Solves and swaps go by them: favourites and what is on hand first,
    what is never used not at all.
    """
    return oil_notes(stores)


class NoteChange(OilNote):
    """What is to be said of an oil."""

    was: OilNote | None = None
    """What was said of it when it was looked at; left out, it is set whatever it was."""


def _kept(note: OilNote) -> OilNote | None:
    """A note as it is kept: without what is on hand; null when it says nothing else."""
    note = note.model_copy(update={"on_hand_g": None})
    return None if note.says_nothing else note


@router.put("/{oil_id}", summary="Say something of an oil")
def set_note(oil_id: str, change: NoteChange, stores: AllStores) -> dict[str, OilNote]:
    """Of a catalogue oil or an own material; a note that says nothing is forgotten. Kept when it answers, with every note. What
    is on hand is not set here: it follows from the lots. 404 for what is no oil, 409 when the note is no longer what it was.
    """
    refuse_unknown_oil(stores, oil_id)
    said = OilNote(**change.model_dump(exclude={"was"}))
    was = None if change.was is None else (_kept(change.was),)
    stores.oil_notes.set(oil_id, _kept(said), was=was)
    return oil_notes(stores)
