"""Targets under a name, for any formula."""

from typing import Annotated

from fastapi import Path, Query

from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.api.stores import TargetSets
from sapolin.core.optimise.solve.question import target_problems
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.store.target_sets import NameTakenError, TargetSet, TargetSetRecord

__all__ = ["router"]

router = room("/api/target-sets", "target sets")
SetId = Annotated[int, Path(ge=1, lt=2**63)]


def _refuse_unsound(targets: TargetSet) -> None:
    problems = tuple(target_problems(targets.targets))
    if problems:
        raise FormulaError(problems)


@router.get("", summary="Every target set")
def list_target_sets(sets: TargetSets) -> list[TargetSetRecord]:
    """Saved targets by name."""
    return sets.all()


@router.post("", status_code=201, summary="Keep targets under a name")
def create_target_set(targets: TargetSet, sets: TargetSets) -> TargetSetRecord:
    """409 when another set has the name: replace that one, or choose another name."""
    _refuse_unsound(targets)
    try:
        return sets.create(targets)
    except NameTakenError as taken:
        message = f"There are targets named “{targets.name.strip()}” already. Replace them, or choose another name."
        raise Refusal(409, "name_taken", message) from taken


@router.put("/{set_id}", summary="Replace the targets of a set")
def replace_target_set(
    set_id: SetId, targets: TargetSet, sets: TargetSets, revision: Annotated[int, Query(ge=1)]
) -> TargetSetRecord:
    """Its name stays. 404 when there is none of that id, 409 when it was saved since `revision`."""
    _refuse_unsound(targets)
    return sets.replace(set_id, revision, targets)


@router.delete("/{set_id}", summary="Archive a target set")
def archive_target_set(set_id: SetId, sets: TargetSets) -> TargetSetRecord:
    """It is no longer listed, and can be restored. 404 when there is none of that id in use."""
    return sets.archive(set_id)


@router.post("/{set_id}/restore", summary="Bring an archived target set back")
def restore_target_set(set_id: SetId, sets: TargetSets) -> TargetSetRecord:
    """As it was. 404 when there is none of that id."""
    return sets.restore(set_id)
