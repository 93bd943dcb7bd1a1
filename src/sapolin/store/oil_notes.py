"""What the maker says of the oils in the workshop."""

from sapolin.core.optimise.own_oils import OilNote
from sapolin.store.reading import parsed
from sapolin.store.repository import ByOil
from sapolin.store.tables import OilNoteRow

__all__ = ["OilNoteStore"]


class OilNoteStore(ByOil[OilNoteRow, OilNote]):
    """Notes, by oil. A note that says nothing is none."""

    table = OilNoteRow

    @staticmethod
    def _value(row: OilNoteRow) -> OilNote:
        return parsed(OilNote, row.content)

    @staticmethod
    def _fill(row: OilNoteRow, value: OilNote) -> None:
        row.content = value.model_dump_json()
