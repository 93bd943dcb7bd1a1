"""What a batch holds on to from the moment it begins: its weights, steps and results, and every row they came from.

Nothing that is edited later, in the shelf, the tables, the coefficients or the code, changes what such a batch says.
"""

from collections.abc import Mapping
from contextlib import AbstractContextManager
from functools import cached_property
from typing import Any

from sapolin.core.bar.calculation import CALCULATION_VERSION
from sapolin.core.bar.qualities import Quality, qualities
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch, plan_batch
from sapolin.core.batch.procedure import BatchProcess, Step, process_of, steps_of
from sapolin.core.batch.readiness import readiness
from sapolin.core.formula.purposes import Purpose, purposes
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
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.tables import tables_as

__all__ = ["FrozenBatch", "FrozenRows", "PreparedBatch", "freeze", "prepare", "rows_of"]


class PreparedBatch(Model):
    """A plan with everything that follows from it."""

    planned: PlannedBatch
    diagnostics: tuple[Diagnostic, ...]
    """What to settle or to know before it is made, the gravest first."""
    steps: tuple[Step, ...]
    process: BatchProcess | None = None
    """How it is made; null for batches that began before it was kept."""


class FrozenRows(Model):
    """Everything that results are calculated from."""

    coefficients: dict[str, float]
    qualities: tuple[Quality, ...]
    purpose: Purpose
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
            "qualities": {row.id: row for row in self.qualities},
            "purposes": purposes() | {self.purpose.id: self.purpose},
            "oils": Catalogue((*catalogue().values(), *self.oils)),
            "liquids": liquids() | {row.id: row for row in self.liquids},
            "additives": additives() | {row.id: row for row in self.additives},
            "lye_consumers": lye_consumers() | {row.id: row for row in self.lye_consumers},
            "scents": scents() | {row.id: row for row in self.scents},
            "colorants": colorants() | {row.id: row for row in self.colorants},
        }

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with these."""
        return tables_as(self._tables)


class FrozenBatch(Model):
    """A batch as it was when it began."""

    calculation_version: int
    """Of the calculation that its results were made with."""
    prepared: PreparedBatch
    rows: FrozenRows


def prepare(plan: BatchPlan) -> PreparedBatch:
    """Everything that follows from `plan`. Raises FormulaError with what stands in the way."""
    planned = plan_batch(plan)
    return PreparedBatch(
        planned=planned, diagnostics=readiness(plan, planned), steps=steps_of(plan, planned),
        process=process_of(plan, planned),
    )  # fmt: skip


def freeze(plan: BatchPlan, prepared: PreparedBatch) -> FrozenBatch:
    """A prepared batch with every row that its results came from."""
    return FrozenBatch(calculation_version=CALCULATION_VERSION, prepared=prepared, rows=rows_of(plan))


def rows_of(plan: BatchPlan) -> FrozenRows:
    """Every row that the results of `plan` come from, as the tables have them now."""
    formula = plan.formula
    wet = tuple(liquids()[line.liquid] for line in formula.liquids)
    added = tuple(additives()[line.additive] for line in formula.additives)
    return FrozenRows(
        coefficients=coefficient_values(),
        qualities=tuple(qualities().values()),
        purpose=purposes()[formula.purpose],
        oils=tuple(_oils_of(plan)),
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


def _oils_of(plan: BatchPlan) -> list[Oil]:
    """Rows of the catalogue that a batch rests on: its oils, what its own materials are made of, the fat in its liquids."""
    formula, shipped = plan.formula, catalogue()
    named = {line.oil for line in formula.blend.lines} | {liquids()[line.liquid].fat_like for line in formula.liquids}
    for material in formula.materials:
        content = material.content.model_dump()
        named |= {content.get("of", "")} | {component["oil"] for component in content.get("components", ())}
    return [shipped[oil] for oil in sorted(named) if oil in shipped]
