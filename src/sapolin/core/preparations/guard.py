"""What may be recorded next of a preparation: the same as on make day, where it applies."""

from collections.abc import Sequence

from sapolin.core.batch.procedure import Step
from sapolin.core.preparations.plan import DilutionPlan, Preparation
from sapolin.core.preparations.preservatives import preservatives
from sapolin.core.production.events import (
    Aborted,
    Captured,
    CorrectionTaken,
    EntryAmended,
    Event,
    Finished,
    Noted,
    Packed,
    RecordedEvent,
    SaltStepped,
    SoapTested,
    StageReached,
    Started,
    StepDone,
    Tared,
)
from sapolin.core.production.guard import Surroundings, passes, refusal
from sapolin.core.production.state import RunState
from sapolin.core.quantities.diagnostics import Diagnostic, stopping

__all__ = ["preparation_refusal", "soap_passes"]

SAMPLE_G = (10.0, 5000.0)
LONGEST_S = 3600.0
KNOWN = (
    Started, StepDone, Tared, Captured, CorrectionTaken, EntryAmended, Noted, StageReached, SoapTested, SaltStepped, Packed,
    Aborted, Finished,
)  # fmt: skip
"""What is recorded of a preparation."""


def preparation_refusal(
    event: Event,
    state: RunState,
    steps: Sequence[Step],
    total_g: float,
    events: Sequence[RecordedEvent],
    forbids: Sequence[Diagnostic] = (),
) -> Diagnostic | None:
    """Why `event` cannot be added to the record of a preparation of `total_g` now; null when it can."""
    if not isinstance(event, KNOWN):
        return stopping("not_of_a_preparation", "kind")
    if isinstance(event, SaltStepped):
        sample, seconds = event.sample_g, event.seconds
        if not SAMPLE_G[0] <= sample <= SAMPLE_G[1] or not 0 <= event.brine_g <= sample or not 0 < seconds <= LONGEST_S:
            return stopping("salt_step_out_of_range", "brine_g")
    if isinstance(event, CorrectionTaken) and event.correction != "accept":
        return stopping("no_such_correction", "correction")
    return refusal(event, state, steps, Surroundings(batter_g=total_g), events, forbids)


def soap_passes(plan: Preparation, event: SoapTested, steps: Sequence[Step]) -> bool:
    """Whether the work may go on after a test: soap is mild enough, and its preservative works at that pH."""
    if not passes(event, steps):
        return False
    if isinstance(plan, DilutionPlan) and plan.preservative is not None and event.ph is not None:
        row = preservatives()[plan.preservative.preservative]
        return event.ph <= (row.ph_high if plan.preservative.ph_high is None else plan.preservative.ph_high)
    return True
