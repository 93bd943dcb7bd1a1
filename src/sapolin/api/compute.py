"""Compute: result from a formula that is sent along. Nothing is kept."""

from typing import Annotated, Any

from fastapi import Query
from pydantic import Field

from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.advice.report import FormulaReport, report
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.explanations import Explanation, explain
from sapolin.core.bar.paste import PasteComponent, PasteMix, mix_pastes
from sapolin.core.bar.qualities import points_of, qualities
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.blend import balanced, converted
from sapolin.core.formula.check import State, problems_of, state_of
from sapolin.core.formula.document import AmountBasis, Blend, Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.units import WeightUnitId
from sapolin.services.learning import YourBars, your_bars
from sapolin.store.stores import Stores

__all__ = ["router"]

router = room("/api", "compute")

WeightUnitQuery = Annotated[WeightUnitId, Query(description="Unit of the rounded weights; all others are in g.")]


class CheckResult(Model):
    """Whether a formula can be calculated and made."""

    state: State
    diagnostics: tuple[Diagnostic, ...]


class FormulaReportHere(FormulaReport):
    """What can be said of a formula in this workshop."""

    your_bars: tuple[YourBars, ...]
    """Where the workshop's own bars put its qualities; none while few were judged."""


class KeptFormulaReport(FormulaReportHere):
    """What can be said of a formula as it is kept."""

    revision: int
    """The revision it was calculated from."""


class BalanceRequest(Model):
    """Bring shares to 100."""

    blend: Blend
    onto: int | None = None
    """Position of the one oil that takes up the difference; null scales all that are not locked."""


class ConvertRequest(Model):
    """Lead a blend by shares or by weights."""

    blend: Blend
    to: AmountBasis


class BlendResult(Model):
    """A blend after an edit."""

    blend: Blend


@router.post("/compute", summary="Calculate a formula")
def compute(formula: Formula, weight_unit: WeightUnitQuery = "g") -> FormulaResult:
    """Lye, water, fatty acids, qualities and weights. 422 with every problem when it cannot be calculated."""
    return calculate(formula, weight_unit=weight_unit)


@router.post("/compute/report", summary="Calculate a formula as it is being written")
def compute_report(formula: Formula, stores: AllStores, weight_unit: WeightUnitQuery = "g") -> FormulaReportHere:
    """The result when it is complete, with everything worth knowing about it; or what still stands in the way, entry by entry.

    An unfinished formula is no error here, so a screen can ask at every keystroke.
    """
    return FormulaReportHere(**_told(formula, stores, weight_unit))


@router.get("/formulas/{formula_id}/report", summary="Calculate a formula as it is kept")
def kept_report(formula_id: str, stores: AllStores, weight_unit: WeightUnitQuery = "g") -> KeptFormulaReport:
    """What `POST /api/compute/report` says of the kept draft, and the revision it was calculated from: a screen that opens asks
    for both at once, and shows this while the revision is the one it got. 404 when there is none of that id.
    """
    record = stores.formulas.get(formula_id)
    return KeptFormulaReport(**_told(record.formula, stores, weight_unit), revision=record.revision)


def _told(formula: Formula, stores: Stores, weight_unit: WeightUnitId) -> dict[str, Any]:
    told = report(formula, weight_unit=weight_unit)
    return dict(told) | {"your_bars": your_bars(told.result, stores)}


@router.post("/compute/check", summary="Check a formula")
def check(formula: Formula) -> CheckResult:
    """Its state and its diagnostics, without calculating. 200 whatever it finds."""
    problems = problems_of(formula, catalogue())
    return CheckResult(state=state_of(formula, problems), diagnostics=problems)


@router.post("/compute/explanation", summary="How one quantity came about")
def explanation(formula: Formula, quantity: Annotated[str, Query(max_length=60)]) -> Explanation:
    """The explanation of `quantity`, such as `naoh_g`, `hardness` or `acid:C16:0`."""
    return explain(formula, quantity)


class PasteOrder(Model):
    """One paste of a mix."""

    formula: Formula
    """A formula whose purpose makes paste."""
    weight_g: Annotated[float, Field(gt=0, le=500_000)]
    """How much of the paste goes in, g."""


class PasteMixRequest(Model):
    """Pastes to mix, and how far to thin them."""

    pastes: Annotated[tuple[PasteOrder, ...], Field(min_length=1, max_length=12)]
    soap_percent: Annotated[float | None, Field(gt=0, le=60)] = None
    """Soap in the thinned mix, %; null leaves it paste."""


class MixedQuality(Model):
    """One quality of a mix."""

    quality: str
    points: float


class PasteMixResult(Model):
    """Pastes mixed to order."""

    mix: PasteMix
    qualities: tuple[MixedQuality, ...]
    """From the fatty acids of the mix."""
    water_to_add_g: float | None
    """Null when it is not thinned."""
    thinner_already: Truth
    """It holds less soap than it is to be thinned to, so no water is added."""
    yield_g: float


@router.post("/compute/paste-mix", summary="Mix pastes")
def paste_mix(request: PasteMixRequest) -> PasteMixResult:
    """Soap (%), fatty acids (%), qualities and yield (g) of pastes mixed by weight, each paste with its own formula."""
    components = []
    for i, order in enumerate(request.pastes):
        result = calculate(order.formula)
        if result.paste is None:
            raise FormulaError([stopping("no_paste", f"pastes[{i}].formula.purpose", name=order.formula.name)])
        components.append(
            PasteComponent(
                name=order.formula.name,
                weight_g=order.weight_g,
                soap_percent=result.paste.soap_percent,
                acids_percent=tuple(acid.percent for acid in result.acids),
            )
        )
    mix = mix_pastes(components)
    thinned_g = mix.weight_g if request.soap_percent is None else 100 * mix.soap_g / request.soap_percent
    thinner = thinned_g < mix.weight_g * (1 - 1e-9)
    yield_g = mix.weight_g if thinner else thinned_g
    return PasteMixResult(
        mix=mix,
        qualities=tuple(
            MixedQuality(quality=quality, points=points)
            for quality, points in zip(qualities(), points_of(mix.acids_percent), strict=True)
        ),
        water_to_add_g=None if request.soap_percent is None or thinner else yield_g - mix.weight_g,
        thinner_already=thinner,
        yield_g=yield_g,
    )


@router.post("/blend/balance", summary="Bring shares to 100 %")
def balance(request: BalanceRequest) -> BlendResult:
    """Scale the shares that are not locked, or let one take up the difference. Only shares in % change; locked ones and
    weights stay. 422 when the locked shares alone pass 100 %.
    """
    return BlendResult(blend=balanced(request.blend, request.onto))


@router.post("/blend/convert", summary="Convert a blend to shares or weights")
def convert(request: ConvertRequest) -> BlendResult:
    """The same oils with each amount in the other basis (% of oils or g). Stage, lock and lot of each line stay."""
    return BlendResult(blend=converted(request.blend, request.to))
