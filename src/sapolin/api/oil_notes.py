"""What the maker says of the oils in the workshop: favourites, what is never used, what is left, their own most shares."""

from fastapi import APIRouter

from sapolin.api.stores import AllStores
from sapolin.core.optimise.own_oils import OilNote
from sapolin.services.workshop_oils import oil_notes

__all__ = ["router"]

router = APIRouter(prefix="/api/oil-notes", tags=["oil notes"])


@router.get("", summary="Every note")
def get_notes(stores: AllStores) -> dict[str, OilNote]:
    """By oil id; what is on hand is what its lots have free. Solves and swaps go by them: favourites and what is on hand first,
    what is never used not at all.
    """
    return oil_notes(stores)


@router.put("/{oil_id}", summary="Say something of an oil")
def set_note(oil_id: str, note: OilNote, stores: AllStores) -> dict[str, OilNote]:
    """Of a catalogue oil or an own material; a note that says nothing is forgotten. Kept when it answers, with every note. What
    is on hand is not set here: it follows from the lots.
    """
    stores.oil_notes.set(oil_id[:80], note.model_copy(update={"on_hand_g": None}))
    return oil_notes(stores)
