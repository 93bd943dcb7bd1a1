"""Moulds: measured, kept, and what they take."""

from typing import Annotated

from fastapi import Query

from sapolin.api.room import room
from sapolin.api.stores import Moulds
from sapolin.core.batch.moulds import Mould, capacity_ml, mould_problems
from sapolin.core.batch.plan import MouldUse
from sapolin.core.batch.starting import starting_use
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model

__all__ = ["router"]

router = room("/api/moulds", "moulds")


class MouldView(Model):
    """A mould and what it takes."""

    mould: Mould
    capacity_ml: float
    """To the rim, as calibrated, mL."""
    starting_use: MouldUse
    """As it is first taken into a batch."""
    revision: int
    """Counts every save; 0 while it is not kept."""


def _view(mould: Mould, revision: int) -> MouldView:
    return MouldView(mould=mould, capacity_ml=capacity_ml(mould), starting_use=starting_use(mould), revision=revision)


def _sound(mould: Mould) -> Mould:
    problems = tuple(mould_problems(mould))
    if problems:
        raise FormulaError(problems)
    return mould


@router.get("", summary="Every mould")
def list_moulds(moulds: Moulds) -> list[MouldView]:
    """Moulds in use by name, each with what it takes to the rim (ml), as calibrated by batches that were poured."""
    return [_view(one.mould, one.revision) for one in moulds.records()]


@router.post("/check", summary="What a mould takes, without keeping it")
def check_mould(mould: Mould) -> MouldView:
    """Its volume (ml) from its inner measures (mm), or by the water it holds. 422 with the diagnostics of its entries."""
    return _view(_sound(mould), 0)


@router.put("", summary="Keep a mould")
def put_mould(
    mould: Mould, moulds: Moulds, revision: Annotated[int, Query(ge=0, description="The one it was changed from.")] = 0
) -> MouldView:  # fmt: skip
    """Under its id, also one that was archived; send an empty id for a new one. Batches that have started keep the mould they
    were filled into. 409 when it was changed since `revision`.
    """
    kept = moulds.save(_sound(mould), revision)
    return _view(kept.mould, kept.revision)


@router.delete("/{mould_id}", summary="Archive a mould")
def remove_mould(mould_id: str, moulds: Moulds) -> MouldView:
    """Answers with it, so that it can be kept again."""
    kept = moulds.archive(mould_id)
    return _view(kept.mould, kept.revision)
