"""Pictures of batches: kept once, never changed, bounded as a whole."""

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from sapolin.store.clock import utc_now
from sapolin.store.tables import BatchFileRow

__all__ = ["MOST_PICTURES_BYTES", "PicturesFullError", "bytes_of_pictures", "keep_picture"]

MOST_PICTURES_BYTES = 1_500_000_000
"""Of all pictures together: some four thousand. More would not fit into an archive that another machine takes."""


class PicturesFullError(Exception):
    """There is no room for another picture."""


def bytes_of_pictures(session: Session) -> tuple[int, int]:
    """How many pictures are kept, and how large they are together."""
    count, size = session.execute(
        select(func.count(), func.coalesce(func.sum(func.length(BatchFileRow.content)), 0))
    ).one()
    return int(count), int(size)


def keep_picture(session: Session, batch_id: str, name: str, media_type: str, content: bytes) -> int:
    """Keep a picture of a batch; its number. Raises PicturesFullError."""
    if bytes_of_pictures(session)[1] + len(content) > MOST_PICTURES_BYTES:
        raise PicturesFullError
    row = BatchFileRow(batch_id=batch_id, name=name, media_type=media_type, content=content, at=utc_now())
    session.add(row)
    session.flush()
    return row.id
