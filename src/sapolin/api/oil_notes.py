"""What the maker says of the oils in the workshop: favourites, what is never used, what is left, their own most shares."""

from fastapi import APIRouter

from sapolin.api.stores import OilNotes
from sapolin.core.optimise.own_oils import OilNote

__all__ = ["router"]

router = APIRouter(prefix="/api/oil-notes", tags=["oil notes"])


@router.get("", summary="Every note")
def get_notes(notes: OilNotes) -> dict[str, OilNote]:
    """By oil id. Solves and swaps go by them: favourites and what is on hand first, what is never used not at all."""
    return notes.all()


@router.put("/{oil_id}", summary="Say something of an oil")
def set_note(oil_id: str, note: OilNote, notes: OilNotes) -> dict[str, OilNote]:
    """Of a catalogue oil or an own material; a note that says nothing is forgotten. Kept when it answers, with every note."""
    notes.set(oil_id[:80], note)
    return notes.all()
