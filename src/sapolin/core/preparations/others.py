"""What is prepared without a paste: soap rebatched, lye dissolved ahead, oils melted together ahead."""

from collections.abc import Iterator, Mapping

from sapolin.core.batch.heat import LyePeak, lye_peak
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.preparations.plan import MasterBlendPlan, MasterLyePlan, RebatchPlan
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, diagnostic, stopping
from sapolin.core.quantities.entries import entry_problems
from sapolin.core.quantities.limits import LIMITS, SUM_TOLERANCE_PERCENT
from sapolin.core.quantities.model import Model, Truth, given
from sapolin.core.quantities.text import in_unit, percent, weight

__all__ = ["BlendWeight", "BlendedOils", "DissolvedLye", "MeltedSoap", "blended", "dissolved", "melted"]


ENTRIES: Mapping[str, tuple[float, float, str]] = {
    "soap_to_melt": (20, 100_000, "g"), "liquid_of_soap": (0, 60, "%"), "age_of_soap": (0, 4000, "days"),
    "lye_to_dissolve": (1, 50_000, "g"), "lye_concentration": (10, 50, "%"), "room": (-5, 45, "°C"),
    "oils_weight": (10, 200_000, "g"), "share_of_blend": (0.1, 100, "%"),
}  # fmt: skip
"""From where to where an entry makes sense, by its name."""


def _entry(value: float | None, path: str, name: str) -> Iterator[Diagnostic]:
    return entry_problems(value, path, name, *ENTRIES[name])


class MeltedSoap(Model):
    """Soap that is melted again."""

    soap_g: float
    liquid_g: float
    liquid_percent: float
    oil_g: float
    """Melted into soap that zaps, g; 0 otherwise."""
    total_g: float
    diagnostics: tuple[Diagnostic, ...]


def usual_liquid_percent(age_days: float | None) -> float:
    """Liquid that melts soap of an age, % of it: fresh soap still holds its own.

    >>> usual_liquid_percent(1), usual_liquid_percent(60)
    (5.0, 20.0)
    """
    if age_days is not None and age_days <= coefficient("rebatch.fresh_days"):
        return coefficient("rebatch.fresh_liquid_percent")
    return coefficient("rebatch.cured_liquid_percent")


def melted(plan: RebatchPlan) -> MeltedSoap:
    """What is weighed to rebatch. Raises FormulaError with what is missing or cannot be."""
    problems = [*_entry(plan.soap_g, "soap_g", "soap_to_melt")]
    if plan.age_days is not None:
        problems += _entry(plan.age_days, "age_days", "age_of_soap")
    if plan.liquid_percent is not None:
        problems += _entry(plan.liquid_percent, "liquid_percent", "liquid_of_soap")
    if problems:
        raise FormulaError(problems)
    soap_g = given(plan.soap_g)
    liquid = usual_liquid_percent(plan.age_days) if plan.liquid_percent is None else plan.liquid_percent
    oil_g = soap_g * coefficient("rebatch.oil_percent") / 100 if plan.is_lye_heavy else 0.0
    found = []
    if plan.liquid == "milk" and plan.is_lye_heavy:
        found.append(diagnostic("milk_into_zapping_soap", "warning", "liquid"))
    if liquid > coefficient("rebatch.liquid_most_percent"):
        found.append(diagnostic("rebatch_stays_soft", "warning", "liquid_percent", liquid=percent(liquid, 0)))
    return MeltedSoap(
        soap_g=soap_g, liquid_g=soap_g * liquid / 100, liquid_percent=liquid, oil_g=oil_g,
        total_g=soap_g * (1 + liquid / 100) + oil_g, diagnostics=tuple(found),
    )  # fmt: skip


class DissolvedLye(Model):
    """Lye dissolved ahead."""

    lye_g: float
    water_g: float
    concentration_percent: float
    total_g: float
    peak: LyePeak
    diagnostics: tuple[Diagnostic, ...]


def dissolved(plan: MasterLyePlan) -> DissolvedLye:
    """What is weighed to dissolve lye ahead: water = lye × (100 − c) / c. Raises FormulaError.

    A kilogram of NaOH at 50 % takes a kilogram of water:

    >>> made = dissolved(MasterLyePlan(name="Master lye", lye_g=1000.0, purity_percent=99.0))
    >>> made.water_g, made.total_g
    (1000.0, 2000.0)
    """
    problems = [*_entry(plan.lye_g, "lye_g", "lye_to_dissolve")]
    purity = LIMITS[f"{plan.lye}_purity_percent"]
    problems += entry_problems(plan.purity_percent, "purity_percent", purity.name, purity.minimum, purity.maximum, "%")
    problems += _entry(plan.concentration_percent, "concentration_percent", "lye_concentration")
    problems += _entry(plan.room_c, "room_c", "room")
    if problems:
        raise FormulaError(problems)
    lye_g, concentration = given(plan.lye_g), given(plan.concentration_percent)
    water_g = lye_g * (100 - concentration) / concentration
    pure_g = lye_g * given(plan.purity_percent) / 100
    naoh_g, koh_g = (pure_g, 0.0) if plan.lye == "naoh" else (0.0, pure_g)
    held_g = lye_g - pure_g if plan.lye == "koh" else 0.0
    peak = lye_peak(naoh_g, koh_g, water_g, start_c=given(plan.room_c), koh_water_g=held_g)
    found = []
    if lye_g >= coefficient("lye.much_g"):
        found.append(diagnostic("much_lye", "warning", lye=weight(lye_g, 0)))
    if peak.boils:
        found.append(diagnostic("lye_boils", "warning", peak=in_unit(peak.high_c, "°C")))
    if plan.lye == "naoh" and concentration > coefficient("lye.crystallises_above_percent"):
        found.append(diagnostic("master_lye_crystallises", "note", "concentration_percent"))
    return DissolvedLye(
        lye_g=lye_g, water_g=water_g, concentration_percent=concentration, total_g=lye_g + water_g, peak=peak,
        diagnostics=tuple(found),
    )  # fmt: skip


class BlendWeight(Model):
    """An oil of a master blend, weighed."""

    oil: str
    name: str
    weight_g: float
    is_hard: Truth


class BlendedOils(Model):
    """Oils melted together ahead."""

    oils: tuple[BlendWeight, ...]
    """The hardest first."""
    total_g: float
    hardest: str
    melts_c: float


def blended(plan: MasterBlendPlan, oils: Catalogue) -> BlendedOils:
    """What is weighed for a master blend. Raises FormulaError with what is missing or cannot be."""
    problems = [*_entry(plan.total_g, "total_g", "oils_weight")]
    if not plan.parts:
        problems.append(stopping("no_oils_to_blend", "parts", is_open=True))
    for i, part in enumerate(plan.parts):
        if part.oil not in oils:
            problems.append(stopping("unknown_oil_here", f"parts[{i}].oil", oil=part.oil))
        problems += _entry(part.share_percent, f"parts[{i}].share_percent", "share_of_blend")
    if problems:
        raise FormulaError(problems)
    total = sum(given(part.share_percent) for part in plan.parts)
    if abs(total - 100) > SUM_TOLERANCE_PERCENT:
        raise FormulaError([stopping("blend_shares_not_100", "parts", sum=percent(round(total, 4)))])
    weights = [
        BlendWeight(
            oil=part.oil, name=oils[part.oil].name, is_hard=oils[part.oil].is_hard,
            weight_g=given(plan.total_g) * given(part.share_percent) / total,
        )
        for part in plan.parts
    ]  # fmt: skip
    hardest = max((oils[part.oil] for part in plan.parts), key=lambda oil: oil.melting_c.typical)
    by_melting = sorted(weights, key=lambda one: -oils[one.oil].melting_c.typical)
    return BlendedOils(
        oils=tuple(by_melting), total_g=given(plan.total_g), hardest=hardest.name, melts_c=hardest.melting_c.typical
    )
