"""Labels of batches: what they say, drawn to scale, and printed."""

from typing import Annotated

from fastapi import Query, Request, Response
from pydantic import Field

from sapolin.api.files import pdf_named
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.labels.design import LabelDesign, Shape, SheetLayout, shaped, usual_sheet
from sapolin.core.quantities.model import Model
from sapolin.exchange.label_sheet import MOST_LABELS
from sapolin.services.labels import LabelView, keep_label, label_pdf, label_preview, label_view, ruler_print

__all__ = ["router"]

router = room("/api/labels", "labels")


class LabelDraft(Model):
    """A label as it is on the screen."""

    revision: Annotated[int, Field(ge=0)]
    """The one it was changed from; 0 for the first."""
    design: LabelDesign


def _address(request: Request, batch_id: str) -> str:
    """The page of the batch, at the address that this was asked at. Diluted soap is found there too."""
    return f"{request.base_url}batches/{batch_id}/cure"


@router.get("/{batch_id}", summary="The label of a batch")
def get_label(batch_id: str, request: Request, stores: AllStores) -> LabelView:
    """As kept, or as it begins: from the last label of the formula, or of the workshop. With its ingredient lists by weight,
    the net weight that may be printed, allergens to name, words to look at, and the drawing in mm.
    """
    return label_view(batch_id, _address(request, batch_id), stores)


@router.post("/{batch_id}/preview", summary="A label as it would be")
def preview_label(batch_id: str, draft: LabelDraft, request: Request, stores: AllStores) -> LabelView:
    """Nothing is kept."""
    return label_preview(batch_id, draft.design, draft.revision, _address(request, batch_id), stores)


@router.put("/{batch_id}", summary="Keep a label")
def put_label(batch_id: str, draft: LabelDraft, request: Request, stores: AllStores) -> LabelView:
    """Durable when it answers. 409 when another screen saved it since `revision`."""
    return keep_label(batch_id, draft.design, draft.revision, _address(request, batch_id), stores)


class Reshape(Model):
    """A label to be given another shape."""

    design: LabelDesign
    shape: Shape


@router.post("/reshape", summary="A label in another shape")
def reshape_label(asked: Reshape) -> LabelDesign:
    """With the size such labels usually have, and a sheet that takes as many as fit."""
    return shaped(asked.design, asked.shape)


@router.post("/sheet", summary="The usual sheet for a label")
def usual_label_sheet(design: LabelDesign) -> SheetLayout:
    """As many labels as its page takes, in the middle of it."""
    return usual_sheet(design, design.sheet.page)


@router.get("/{batch_id}/labels.pdf", summary="Print labels", response_class=Response)
def print_labels(
    batch_id: str, request: Request, stores: AllStores, count: Annotated[int, Query(ge=1, le=MOST_LABELS)] = 1
) -> Response:
    """From the label as kept, on sheets from its first free place. 422 with what stands in the way."""
    code, content = label_pdf(batch_id, count, _address(request, batch_id), stores)
    return pdf_named(content, f"labels-{code}")


@router.get("/{batch_id}/test.pdf", summary="Test print with a ruler", response_class=Response)
def print_test(batch_id: str, request: Request, stores: AllStores) -> Response:
    """Outlines of the places of the sheet, one label, and a ruler to check the scale by."""
    code, content = ruler_print(batch_id, _address(request, batch_id), stores)
    return pdf_named(content, f"label-test-{code}")
