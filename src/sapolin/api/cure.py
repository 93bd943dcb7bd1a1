"""After the pour: the record of a batch from its mould to its last bar, trays, and labels for them."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import Path, Query, Request, Response
from pydantic import Field
from starlette.concurrency import run_in_threadpool

from sapolin.api.errors import Refusal
from sapolin.api.pictures import PictureName, picture_of
from sapolin.api.room import room
from sapolin.api.stores import AllStores, Trays
from sapolin.core.cure.events import CureEvent
from sapolin.core.cure.trays import Tray, TrayNow
from sapolin.core.quantities.model import Model
from sapolin.exchange.tray_label import LabelSize, tray_label_pdf
from sapolin.services import cure
from sapolin.services.cure import CureView, add_cure_event, cure_of
from sapolin.services.rack import label_of, rack_now
from sapolin.store.cures import TrayInUseError
from sapolin.store.repository import ChangedElsewhereError

__all__ = ["router"]

router = room("/api", "cure")


class NewCureEvent(Model):
    """Something to add to the record after the pour."""

    key: Annotated[str, Field(min_length=8, max_length=64)]
    """Chosen by the device: sending it again adds nothing."""
    after_seq: Annotated[int | None, Field(ge=0)] = None
    """The last event known; null adds it whatever was added meanwhile."""
    at: datetime | None = None
    """When it happened, with its time zone; null is now."""
    event: CureEvent


@router.get("/batches/{batch_id}/cure", summary="A batch after its pour")
def get_cure(batch_id: str, stores: AllStores) -> CureView:
    """Its record, when it can leave the mould, how it dries and when it is ready (estimates, each with its range), whether it
    is fit to use, and the likely causes of what was seen.
    """
    return cure_of(batch_id, stores)


@router.post("/batches/{batch_id}/cure/events", summary="Record something after the pour")
def record_cure(batch_id: str, new: NewCureEvent, stores: AllStores) -> CureView:
    """Durable when it answers. 422 with what is wrong; a problem with `is_doubt` is only asked about: send `sure` with the
    event when it stands. 409 when another device added to the record after `after_seq`.
    """
    if new.at is not None and new.at.tzinfo is None:
        raise Refusal(422, "no_time_zone", "The time has no time zone. Add one, such as Z.")
    return add_cure_event(batch_id, new.key, new.event, new.at, new.after_seq, stores)


@router.post("/batches/{batch_id}/cure/pictures", summary="Add a picture of the bars")
async def add_cure_picture(
    batch_id: str,
    request: Request,
    stores: AllStores,
    key: Annotated[str, Query(min_length=8, max_length=64)],
    name: PictureName = "picture",
) -> CureView:
    """JPEG, PNG or WebP as the body. Sending the same key again adds nothing."""
    media_type, content = await picture_of(request)
    # The database is written outside the event loop, so that scales and screens go on meanwhile.
    return await run_in_threadpool(cure.add_cure_picture, batch_id, key, name, media_type, content, stores)


@router.get("/trays", summary="The curing rack")
def get_trays(
    stores: AllStores,
    on: Annotated[
        datetime | None, Query(description="Count what is expected to stand there then; null is now.")
    ] = None,
) -> tuple[TrayNow, ...]:
    """Each tray with its places, what stands on it, and how many places are free: now, or on a day to come by when bars are
    expected to be ready.
    """
    return rack_now(stores, on)


@router.put("/trays/{code}", summary="Keep a tray")
def put_tray(
    code: Annotated[str, Path(max_length=12)], tray: Tray, trays: Trays,
    revision: Annotated[int, Query(ge=0, description="The one it was changed from; 0 for a new one.")] = 0,
) -> Tray:  # fmt: skip
    """A new one, or one changed from `revision`. 409 when the code is in use, when it was changed since, and when more bars
    stand on it than it would hold.
    """
    if tray.code != code:
        raise Refusal(422, "other_code", "The code in the address and that of the tray differ.")
    try:
        return trays.put(tray, revision)
    except ChangedElsewhereError as error:
        if revision:
            raise
        raise Refusal(409, "code_taken", f"There is a tray {code} already. Choose another code.") from error
    except TrayInUseError as error:
        raise Refusal(
            409, "tray_in_use", "More bars stand on this tray than it would hold. Move some first."
        ) from error


@router.delete("/trays/{code}", status_code=204, summary="Take a tray away")
def remove_tray(code: Annotated[str, Path(max_length=12)], trays: Trays) -> None:
    """409 while bars stand on it."""
    try:
        trays.remove(code)
    except TrayInUseError as error:
        raise Refusal(409, "tray_in_use", "Bars are still on this tray. Move them first.") from error


@router.get("/batches/{batch_id}/tray-label.pdf", summary="A label for a tray", response_class=Response)
def get_tray_label(
    batch_id: str,
    request: Request,
    stores: AllStores,
    size: Annotated[LabelSize, Query(description="A4 sheet, or one small label.")] = "label",
    tray: Annotated[str, Query(max_length=12)] = "",
    form: Annotated[Literal["inline", "attachment"], Query(description="To be shown, or to be kept.")] = "inline",
) -> Response:
    """Code, formula, made, cut, ready from; its QR code opens the batch at the address that this was asked at."""
    label = label_of(batch_id, tray, f"{request.base_url}batches/{batch_id}/cure", stores)
    return Response(
        tray_label_pdf(label, size),
        media_type="application/pdf",
        headers={"content-disposition": f'{form}; filename="tray-{label.code}.pdf"'},
    )
