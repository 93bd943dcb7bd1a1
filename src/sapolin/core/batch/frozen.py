"""What a batch keeps from the moment it begins: its weights, its steps, and every row and coefficient they came from.

Nothing that is edited later, in the shelf, the tables or the coefficients, changes what such a batch says.
"""

from collections.abc import Mapping
from contextlib import AbstractContextManager
from functools import cached_property
from typing import Any

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import Step
from sapolin.core.batch.readiness import Finding
from sapolin.core.materials.catalogue import Catalogue, Oil, catalogue
from sapolin.core.materials.ingredients import (
    Additive,
    Colorant,
    Liquid,
    LyeConsumer,
    Scent,
    additives,
    colorants,
    liquids,
    lye_consumers,
    scents,
)
from sapolin.core.quantities.coefficients import coefficient_values
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.tables import tables_as

__all__ = ["FrozenBatch", "freeze"]


class FrozenBatch(Model):
    """A batch as it stood when it began."""

    planned: PlannedBatch
    findings: tuple[Finding, ...]
    steps: tuple[Step, ...]
    coefficients: dict[str, float]
    oils: tuple[Oil, ...]
    """Rows of the catalogue that it uses; its formula carries the maker's own materials."""
    liquids: tuple[Liquid, ...]
    additives: tuple[Additive, ...]
    lye_consumers: tuple[LyeConsumer, ...]
    scents: tuple[Scent, ...]
    colorants: tuple[Colorant, ...]

    @cached_property
    def _tables(self) -> Mapping[str, Mapping[str, Any]]:
        # What the batch does not use is read from the shipped tables, so that nothing is missing.
        return {
            "coefficients": coefficient_values() | self.coefficients,
            "oils": Catalogue((*catalogue().values(), *self.oils)),
            "liquids": liquids() | {row.id: row for row in self.liquids},
            "additives": additives() | {row.id: row for row in self.additives},
            "lye_consumers": lye_consumers() | {row.id: row for row in self.lye_consumers},
            "scents": scents() | {row.id: row for row in self.scents},
            "colorants": colorants() | {row.id: row for row in self.colorants},
        }

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with what the batch began with."""
        return tables_as(self._tables)


def freeze(
    plan: BatchPlan, planned: PlannedBatch, findings: tuple[Finding, ...], steps: tuple[Step, ...]
) -> FrozenBatch:  # fmt: skip
    """`planned` with every row that its result came from."""
    formula = plan.formula
    wet = tuple(liquids()[line.liquid] for line in formula.liquids)
    added = tuple(additives()[line.additive] for line in formula.additives)
    return FrozenBatch(
        planned=planned,
        findings=findings,
        steps=steps,
        coefficients=coefficient_values(),
        oils=tuple(_rows_of(plan)),
        liquids=wet,
        additives=added,
        lye_consumers=tuple(
            lye_consumers()[consumer]
            for consumer in (*(row.consumer for row in wet), *(row.consumer for row in added))
            if consumer
        ),
        scents=tuple(scents()[line.scent] for line in plan.scents),
        colorants=tuple(colorants()[line.colorant] for portion in plan.portions for line in portion.colours),
    )


def _rows_of(plan: BatchPlan) -> list[Oil]:
    """Rows of the catalogue that a batch rests on: its oils, what its own materials are made of, the fat in its liquids."""
    formula, shipped = plan.formula, catalogue()
    named = {line.oil for line in formula.blend.lines} | {liquids()[line.liquid].fat_like for line in formula.liquids}
    for material in formula.materials:
        content = material.content.model_dump()
        named |= {content.get("of", "")} | {component["oil"] for component in content.get("components", ())}
    return [shipped[oil] for oil in sorted(named) if oil in shipped]
