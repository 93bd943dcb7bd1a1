"""The guide: why, where schools differ, safety, the fault finder and practice."""

from typing import Annotated

from fastapi import Path, Query, Response
from pydantic import Field

from sapolin.api.files import pdf_named
from sapolin.api.room import room
from sapolin.api.stores import AllStores, WorkshopKept
from sapolin.core.faults import FaultRanking, Symptom, symptoms
from sapolin.core.guide import GuidePage, SafetySection, SchoolQuestion, guide_pages, safety_sheet, school_questions
from sapolin.core.practice import Answered, Exercise, Graded, Kind
from sapolin.core.quantities.model import Model
from sapolin.exchange.safety_sheet import safety_sheet_pdf
from sapolin.services import practice
from sapolin.services.faults import rank_faults
from sapolin.services.practice import PracticeOverview

__all__ = ["router"]

router = room("/api", "guide")

MOST_SEED = 2**31 - 1
Seed = Annotated[int, Path(ge=0, le=MOST_SEED)]


class FaultQuestion(Model):
    """What is seen, and what is known of it."""

    symptom: Annotated[str, Field(min_length=1, max_length=40)]
    batch_id: Annotated[str | None, Field(max_length=32)] = None
    """Its record is evidence; null without a batch."""
    answers: Annotated[dict[str, bool], Field(default={}, max_length=20)]
    """By question; those not answered are left out."""


class PracticeAnswer(Model):
    """An answer to an exercise."""

    key: Annotated[str, Field(min_length=8, max_length=64)]
    """Chosen by the device; sending the same key again keeps nothing more."""
    answered: Answered


@router.get("/guide/pages", summary="Pages that say why")
def get_guide_pages() -> tuple[GuidePage, ...]:
    """Each with the quantity that is its live example: ask for that quantity's explanation of any formula."""
    return guide_pages()


@router.get("/guide/schools", summary="Where makers differ")
def get_schools() -> tuple[SchoolQuestion, ...]:
    """What each school says, what is usual here and why. What this workshop chose stands under `schools` of the workshop."""
    return school_questions()


@router.get("/guide/safety", summary="The safety sheet")
def get_safety_sheet() -> tuple[SafetySection, ...]:
    """Part by part. Numbers to call stand in the workshop, typed once. Local advice comes first."""
    return safety_sheet()


@router.get("/guide/safety.pdf", summary="Print the safety sheet", response_class=Response)
def print_safety_sheet(store: WorkshopKept, page: Annotated[str, Query(pattern="^(a4|letter)$")] = "a4") -> Response:
    """One page for the wall, with the numbers to call."""
    workshop = store.get()
    return pdf_named(
        safety_sheet_pdf(safety_sheet(), workshop.emergency_number, workshop.poison_number, page), "safety"
    )


@router.get("/faults", summary="What may be seen")
def get_symptoms() -> tuple[Symptom, ...]:
    """Every symptom, by where it is seen."""
    return symptoms()


@router.post("/faults/rank", summary="Why it is so")
def rank_causes(asked: FaultQuestion, stores: AllStores) -> FaultRanking:
    """Causes ranked, the likeliest first, with what speaks for and against each, what to do now and next time, and the
    questions that would tell them apart. With `batch_id` its record is evidence.
    """
    return rank_faults(asked.symptom, asked.batch_id, asked.answers, stores)


@router.get("/practice", summary="What can be practised")
def get_practice(stores: AllStores) -> PracticeOverview:
    """Kinds of exercises and courses, with how far the maker is. Nothing here touches real batches or formulas."""
    return practice.overview(stores)


@router.get("/practice/{kind}/{seed}", summary="An exercise")
def get_exercise(kind: Kind, seed: Seed) -> Exercise:
    """Made from its seed by the real calculations: the same seed is the same exercise."""
    return practice.question(kind, seed)


@router.post("/practice/{kind}/{seed}", summary="Answer an exercise")
def answer_exercise(kind: Kind, seed: Seed, answer: PracticeAnswer, stores: AllStores) -> Graded:
    """Whether it is right, the right answer, and how it comes about; kept once for each `key`."""
    return practice.answer(kind, seed, answer.answered, answer.key, stores)
