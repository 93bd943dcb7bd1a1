"""Preparations: paste diluted, soap rebatched, lye and oils mixed ahead."""

from typing import Annotated

from pydantic import Field

from sapolin.api.devices import Devices
from sapolin.api.errors import Refusal
from sapolin.api.making import NewEvent, TareRequest
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.formula.purposes import purposes
from sapolin.core.preparations.dilution import PasteOnHand
from sapolin.core.preparations.mixing import PasteMixAnswer
from sapolin.core.preparations.plan import DilutionPlan, Preparation
from sapolin.core.preparations.preservatives import Preservative, preservatives
from sapolin.core.preparations.starting import PreparationStart, preparation_starts
from sapolin.core.production.events import RecordedEvent
from sapolin.core.quantities.model import Model
from sapolin.devices.protocol import UnpluggedError
from sapolin.services import preparations as work
from sapolin.services.preparations import PreparationEntry, PreparationReport, PreparationRun
from sapolin.store.preparations import PreparationRecord

__all__ = ["router"]

router = room("/api", "preparations")


class PreparationDraft(Model):
    """A plan that is being edited."""

    preparation_id: Annotated[str | None, Field(max_length=32)] = None
    """The preparation it belongs to: what that one takes of a paste is not counted as taken. Null: it is new."""
    plan: Preparation


class PreparationSave(Model):
    """A plan to keep."""

    revision: Annotated[int, Field(ge=0, lt=2**63)]
    """The revision it was edited from; 409 when another was kept since."""
    plan: Preparation


class MixQuestion(Model):
    """Which pastes, and how much soap of each, come nearest to the target ranges of a purpose."""

    preparation_id: Annotated[str | None, Field(max_length=32)] = None
    plan: DilutionPlan
    """Its pastes are those to choose from; fewer than two take all there are."""
    purpose: Annotated[str, Field(max_length=80)] = "liquid-soap"


@router.get("/preservatives", summary="Preservatives of diluted soap")
def get_preservatives() -> tuple[Preservative, ...]:
    """Kinds with the pH and the rate that are usual for each; the papers of the maker's own supplier count."""
    return tuple(preservatives().values())


@router.get("/pastes", summary="Pastes there are")
def get_pastes(stores: AllStores) -> tuple[PasteOnHand, ...]:
    """Made and packed, with what is left of each; what dilutions took or will take is left out."""
    return work.pastes_on_hand(stores)


@router.get("/preparations", summary="Preparations")
def get_preparations(stores: AllStores, archived: bool = False) -> list[PreparationEntry]:
    """Those in use, or those archived, the newest first, with how far each has come."""
    return work.entries(stores, archived=archived)


@router.get("/preparations/starts", summary="What can be prepared")
def get_preparation_starts(stores: AllStores) -> tuple[PreparationStart, ...]:
    """Each with the plan it begins with: post that plan to begin. A dilution begins with the newest paste there is."""
    return preparation_starts(work.pastes_on_hand(stores))


@router.post("/preparations", summary="Plan a preparation")
def create_preparation(plan: Preparation, stores: AllStores) -> PreparationRecord:
    """Kept under the next free code, durable when it answers; it may have gaps."""
    return stores.preparations.create(plan)


@router.post("/preparations/report", summary="What follows from a plan")
def report_preparation(draft: PreparationDraft, stores: AllStores) -> PreparationReport:
    """Weights, steps and diagnostics, or the problems entry by entry; and the pastes there are. Nothing is kept."""
    return work.report(draft.plan, stores, draft.preparation_id)


@router.post("/preparations/mix", summary="The best mix of pastes")
def mix_pastes_to_order(question: MixQuestion, stores: AllStores) -> PasteMixAnswer:
    """Shares of the soap, solved to the optimum. 422 when there is no paste, or not enough of it."""
    if question.purpose not in purposes():
        raise Refusal(404, "not_found", "There is no such purpose.")
    return work.mix_of(question.plan, question.purpose, stores, question.preparation_id)


@router.get("/preparations/{preparation_id}", summary="One preparation")
def get_preparation(preparation_id: str, stores: AllStores) -> PreparationRecord:
    """Its plan, as kept."""
    return stores.preparations.get(preparation_id)


@router.put("/preparations/{preparation_id}", summary="Keep its plan")
def put_preparation(preparation_id: str, save: PreparationSave, stores: AllStores) -> PreparationRecord:
    """409 when it was saved elsewhere since, or is begun."""
    return stores.preparations.update(preparation_id, save.revision, save.plan)


@router.delete("/preparations/{preparation_id}", summary="Archive it")
def archive_preparation(preparation_id: str, stores: AllStores) -> PreparationRecord:
    """Off the list; its record stays, and it can be restored."""
    return stores.preparations.archive(preparation_id)


@router.post("/preparations/{preparation_id}/restore", summary="Restore it")
def restore_preparation(preparation_id: str, stores: AllStores) -> PreparationRecord:
    """On the list again."""
    return stores.preparations.archive(preparation_id, archived=False)


@router.get("/preparations/{preparation_id}/run", summary="How far it has come")
def get_preparation_run(preparation_id: str, stores: AllStores) -> PreparationRun:
    """Its steps, what is done and weighed, and what comes next. 422 with what stands in the way of one that is not begun."""
    return work.run_of(preparation_id, stores)


@router.get("/preparations/{preparation_id}/record", summary="Its record")
def get_preparation_record(preparation_id: str, stores: AllStores) -> list[RecordedEvent]:
    """Every event in order with its number, its time (UTC) and its content; corrected ones too."""
    return stores.preparations.events(preparation_id)


@router.post("/preparations/{preparation_id}/events", summary="Add to its record")
def add_preparation_event(preparation_id: str, new: NewEvent, stores: AllStores) -> PreparationRun:
    """As on make day: once for each `key`, durable when it answers, 422 with the diagnostic when it may not follow."""
    return work.add_event(preparation_id, new.key, new.event, new.after_seq, stores)


@router.post("/preparations/{preparation_id}/tare", summary="Tare the scale for it")
def tare_for_preparation(
    preparation_id: str, request: TareRequest, stores: AllStores, devices: Devices
) -> PreparationRun:  # fmt: skip
    """As on make day; 409 when the scale does not answer."""
    try:
        return work.tare(
            preparation_id, request.key, request.item, request.after_seq, emptied=request.emptied, sure=request.sure,
            stores=stores, devices=devices,
        )  # fmt: skip
    except UnpluggedError as error:
        raise Refusal(409, "unplugged", "The scale does not answer. Plug it in, or type the weight.") from error
