"""A preparation with everything that follows from it: what is weighed, in which order, and what to settle first."""

from collections.abc import Mapping

from sapolin.core.advice.rules import gravest_first
from sapolin.core.batch.procedure import Step
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.preparations.dilution import DilutedBatch, PasteOnHand, dilute
from sapolin.core.preparations.others import BlendedOils, DissolvedLye, MeltedSoap, blended, dissolved, melted
from sapolin.core.preparations.plan import DilutionPlan, MasterLyePlan, Preparation, RebatchPlan
from sapolin.core.preparations.procedure import blending_steps, diluting_steps, dissolving_steps, melting_steps
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, text

__all__ = ["PreparedPreparation", "prepare_preparation"]


class PreparedPreparation(Model):
    """A preparation, ready to be made; what is not of its kind is null."""

    diluted: DilutedBatch | None = None
    melted: MeltedSoap | None = None
    dissolved: DissolvedLye | None = None
    blended: BlendedOils | None = None
    total_g: float
    """All of it together, g."""
    diagnostics: tuple[Diagnostic, ...]
    """What to settle or to know before it is made, the gravest first."""
    steps: tuple[Step, ...]
    closing: Text
    """What is said when the last step is done."""


def prepare_preparation(
    plan: Preparation, on_hand: Mapping[str, PasteOnHand], oils: Catalogue | None = None
) -> PreparedPreparation:
    """Everything that follows from `plan`; `on_hand` are the pastes there are, by batch.

    Raises FormulaError with what stands in the way.
    """
    closing = text(f"closing.{plan.kind}")
    if isinstance(plan, DilutionPlan):
        made = dilute(plan, on_hand)
        return PreparedPreparation(
            diluted=made, total_g=made.product_g, diagnostics=gravest_first(made.diagnostics),
            steps=tuple(diluting_steps(plan, made)), closing=closing,
        )  # fmt: skip
    if isinstance(plan, RebatchPlan):
        soap = melted(plan)
        return PreparedPreparation(
            melted=soap, total_g=soap.total_g, diagnostics=gravest_first(soap.diagnostics),
            steps=tuple(melting_steps(plan, soap)), closing=closing,
        )  # fmt: skip
    if isinstance(plan, MasterLyePlan):
        lye = dissolved(plan)
        return PreparedPreparation(
            dissolved=lye, total_g=lye.total_g, diagnostics=gravest_first(lye.diagnostics),
            steps=tuple(dissolving_steps(plan, lye)), closing=closing,
        )  # fmt: skip
    blend = blended(plan, catalogue() if oils is None else oils)
    return PreparedPreparation(
        blended=blend, total_g=blend.total_g, diagnostics=(), steps=tuple(blending_steps(plan, blend)), closing=closing
    )
