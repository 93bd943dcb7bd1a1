"""The checks that a caustic quantity passes before anyone sees it, each by a road of its own.

1. In grams of NaOH, straight from the lines of the document and the NaOH values of its oils, with the lye needs of the acids
   as tables list them. The composition goes by moles of hydroxide; here no mole is counted and none of its sums is used.
2. From the fatty acids: what a fat can take follows from the molar masses of its acids (three of them and a glycerol make a
   triglyceride), without its listed SAP value.
3. The weight is one that fats can need at all.
"""

from collections.abc import Iterator

from sapolin.core.formula.composition import Composition, OilComponent
from sapolin.core.formula.document import Formula
from sapolin.core.materials.fatty_acids import sap_of_free_acids_koh_mg_per_g, sap_of_triglyceride_koh_mg_per_g
from sapolin.core.materials.ingredients import Additive, Liquid, additives, liquids, lye_consumers
from sapolin.core.quantities.model import given

__all__ = ["CausticCheckError", "lye_is_possible", "verify_lye"]

NAOH_MG_PER_KOH_MG = 0.712888
"""Milligrams of NaOH for one of KOH, as SAP tables for NaOH are made from those for KOH; six digits."""
ROUNDED_AWAY = 1e-6
"""The six digits of that ratio."""
TABLE_ROUNDS_TO = 5e-4
"""The acids' listed lye needs have four digits."""
MOST_PURE_NAOH_G_PER_G = 0.30
"""No fat takes more pure NaOH, g/g: caprylic acid by itself, the heaviest consumer of lye among soap-making acids, takes
39.997 / 144.21 = 0.277, and 0.291 at the largest excess accepted (5 %)."""
COMPOSITION_AGREES_WITHIN = 0.05
"""A blend's need from its fatty acids and from its listed SAP values agree within this fraction: single oils do within 2.5 %
(the audit of the catalogue holds them to it), and natural acids outside the table make up the rest."""


class CausticCheckError(RuntimeError):
    """A lye quantity failed its checks, so it must not be shown. This is a fault of the program, never of the maker."""


def verify_lye(composition: Composition, formula: Formula) -> None:
    """Check the lye of a designed `composition` against its `formula`. Raises CausticCheckError when a check fails."""
    faults = [*_faults(composition, formula)]
    if faults:
        raise CausticCheckError("; ".join(faults))


def lye_is_possible(composition: Composition) -> bool:
    """Whether the lye is of a weight that fats can need at all, acids that consume it counted.

    No fat takes more NaOH than the shortest that oils hold, so a slip of ten never passes.
    """
    as_naoh_g = _as_naoh_g(composition)
    for_acids_g = sum(
        _listed_need_naoh_g(item.row, item.weight_g) for item in (*composition.liquids, *composition.additives)
    )  # fmt: skip
    return 0 < as_naoh_g <= MOST_PURE_NAOH_G_PER_G * composition.oils_g + for_acids_g * 1.001


def _as_naoh_g(composition: Composition) -> float:
    """Pure lye, all of it counted as NaOH, g."""
    naoh, koh = composition.naoh, composition.koh
    return naoh.weight_g * naoh.purity_percent / 100 + koh.weight_g * koh.purity_percent / 100 * NAOH_MG_PER_KOH_MG


def _listed_need_naoh_g(row: Liquid | Additive, weight_g: float) -> float:
    """NaOH that the acid in a liquid or an additive takes by the tables, g."""
    return weight_g * row.consumer_percent / 100 * lye_consumers()[row.consumer].naoh_g_per_g if row.consumer else 0.0


def _added_back_naoh_g(composition: Composition, formula: Formula) -> float:
    """NaOH that the document asks to add back for acids, g. Additives are weighed as its lines say, liquids as composed:
    how much of one comes with the water depends on the lye itself."""
    oils_g = sum(_document_weights_g(formula))
    additive_g = 0.0
    for line in formula.additives:
        row, value = additives()[line.additive], given(line.value)
        if line.compensated:
            percent = row.percent_of_oils(value) if line.by == "tsp_per_500_g" else value
            additive_g += _listed_need_naoh_g(row, value if line.by == "weight_g" else oils_g * percent / 100)
    return additive_g + sum(
        _listed_need_naoh_g(liquids()[line.liquid], item.weight_g)
        for line, item in zip(formula.liquids, composition.liquids, strict=True)
        if line.compensated
    )


def _document_weights_g(formula: Formula) -> list[float]:
    """The weight of every oil as its line says, g."""
    lines, total_g = formula.blend.lines, formula.blend.total_oils_g
    amounts = [given(line.value) for line in lines]
    if all(line.by == "weight_g" for line in lines):
        return amounts
    if all(line.by == "percent_of_oils" for line in lines):
        return [given(total_g) / sum(amounts) * amount for amount in amounts]
    shares = [amount if line.by == "percent_of_oils" else 0.0 for line, amount in zip(lines, amounts, strict=True)]
    weighed_g = sum(amount for line, amount in zip(lines, amounts, strict=True) if line.by == "weight_g")
    per_percent_g = weighed_g / (100 - sum(shares))
    return [
        amount if line.by == "weight_g" else amount * per_percent_g for line, amount in zip(lines, amounts, strict=True)
    ]  # fmt: skip


def _faults(composition: Composition, formula: Formula) -> Iterator[str]:
    superfat = given(formula.superfat_percent)
    weights_g = _document_weights_g(formula)
    oils = [component.oil for component in composition.oils]
    need_naoh_g = sum(
        grams * (oil.sap_koh_mg_per_g.typical * NAOH_MG_PER_KOH_MG / 1000)
        for grams, oil, line in zip(weights_g, oils, formula.blend.lines, strict=True)
        if line.added == "start"
    )
    for_fats_g = need_naoh_g * (100 - superfat) / 100
    added_back_g = _added_back_naoh_g(composition, formula)
    weighed_g = _as_naoh_g(composition)
    allowed_g = ROUNDED_AWAY * for_fats_g + TABLE_ROUNDS_TO * added_back_g
    if abs(weighed_g - for_fats_g - added_back_g) > allowed_g:
        yield f"the lye is as {weighed_g} g of pure NaOH, and the oils and acids want {for_fats_g + added_back_g} g"
    # Of a lye that is not used no purity matters.
    if any(lye.weight_g < 0 or (lye.weight_g and not 0 < lye.purity_percent <= 100) for lye in composition.lyes):
        yield f"no lye weighs or is pure like {composition.lyes}"
    yield from _wrong_share(composition, formula)
    listed_mg, from_acids_mg = _needs_koh_mg(composition)
    if abs(listed_mg - from_acids_mg) > COMPOSITION_AGREES_WITHIN * listed_mg:
        yield f"the oils take {listed_mg / 1000} g of KOH by their SAP values, {from_acids_mg / 1000} g by their fatty acids"
    if not lye_is_possible(composition):
        yield f"{weighed_g} g of pure NaOH is more than {composition.oils_g} g of any oils could take"


def _wrong_share(composition: Composition, formula: Formula) -> Iterator[str]:
    """Whether KOH has the share that was asked for: of the moles, or of the weight as bought."""
    koh = formula.lye.koh
    asked = 0.0 if koh is None else given(koh.value)
    if koh is not None and koh.by == "saponification_percent":
        in_naoh_g = composition.koh.weight_g * composition.koh.purity_percent / 100 * NAOH_MG_PER_KOH_MG
        share = 100 * in_naoh_g / _as_naoh_g(composition)
    else:
        share = 100 * composition.koh.weight_g / (composition.naoh.weight_g + composition.koh.weight_g)
    if abs(share - asked) > 1e-3:
        yield f"KOH is {share} % of the lye, and {asked} % was asked for"


def _needs_koh_mg(composition: Composition) -> tuple[float, float]:
    """KOH that the single oils take, mg: by their listed SAP values, and by their fatty acids where these are known.

    Only oils whose row of the catalogue agrees with its acids are taken by them: the others have reasons to differ, and own
    materials may be entered as the maker's certificate says.
    """
    oils = composition.pure_oils
    listed = [component.weight_g * component.oil.sap_koh_mg_per_g.typical for component in oils]
    from_acids = (
        component.weight_g * _sap_from_acids(component) if _is_audited(component) else mg
        for component, mg in zip(oils, listed, strict=True)
    )
    return sum(listed), sum(from_acids)


def _is_audited(component: OilComponent) -> bool:
    oil = component.oil
    return oil.kind != "wax" and "own" not in oil.sources and oil.audit_note == ""


def _sap_from_acids(component: OilComponent) -> float:
    """SAP value by stoichiometry, mg KOH/g."""
    oil = component.oil
    profile = [acid.typical for acid in oil.acids_percent]
    if oil.kind == "free_acid":
        return sap_of_free_acids_koh_mg_per_g(profile)
    return sap_of_triglyceride_koh_mg_per_g(profile, oil.unsaponifiable_percent.typical)
