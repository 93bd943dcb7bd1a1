"""Explanations of the lye, the water and the superfat."""

from collections.abc import Callable

from sapolin.core.bar.explanations.desk import BY_SAP, LYE_AS_WEIGHED, Desk, Explanation, Term
from sapolin.core.formula.water import FULL_WATER_PERCENT_OF_OILS
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL, NAOH_G_PER_MOL, NAOH_PER_KOH

__all__ = ["LYE_QUANTITIES", "koh_terms"]


def koh_terms(desk: Desk, *, with_late: bool = True) -> tuple[Term, ...]:
    """Pure KOH that each line of the blend takes; lines that go in late only when asked."""
    return tuple(
        Term(
            label=one.oil.name,
            expression=f"{one.weight_g:,.1f} g × {one.oil.sap_koh_mg_per_g.typical:.4g} / 1000",
            value=one.koh_g,
        )
        for one in desk.composition.oils
        if with_late or one.added == "start"
    )


def _lye(desk: Desk, *, potassium: bool) -> Explanation:
    lye, asked = desk.result.lye, desk.formula.lye
    name, mass = ("KOH", KOH_G_PER_MOL) if potassium else ("NaOH", NAOH_G_PER_MOL)
    weighed_g, pure_g = (lye.koh_g, lye.koh_pure_g) if potassium else (lye.naoh_g, lye.naoh_pure_g)
    koh_purity = None if asked.koh is None else asked.koh.purity_percent
    purity = koh_purity if potassium else asked.naoh_purity_percent
    superfat = desk.formula.superfat_percent or 0.0
    terms = koh_terms(desk, with_late=False)
    koh_g = sum(term.value for term in terms)
    added_back_mol = sum(
        consumed.naoh_equivalent_g / NAOH_G_PER_MOL for consumed in desk.result.consumed if consumed.compensated
    )  # fmt: skip
    if purity is None:
        # The lye is all of the other kind: there is nothing to weigh, so no purity is asked for.
        return desk.explanation(
            "koh_g" if potassium else "naoh_g", f"{name} to weigh", weighed_g, "g", "none: the lye is all of the other kind",
            "0", certainty=BY_SAP, cites=("ciaaw",),
        )  # fmt: skip
    assumes = [
        f"The {name} is {purity:g} % pure, as its label says; an open tub takes up water and weakens.",
        f"Superfat {superfat:g} % is taken off the lye.",
        f"Rounded for the scale, the lye leaves {lye.superfat_as_weighed_percent:.2f} % superfat in all.",
    ]
    if asked.koh is None and added_back_mol == 0:
        rule = "sum of (oil weight × SAP / 1000) × (NaOH / KOH) × (1 − superfat) / purity"
        numbers = f"{koh_g:,.2f} g KOH × {NAOH_PER_KOH:.5f} × (1 − {superfat:g}/100) / ({purity:g}/100)"
        ratio = f"NaOH / KOH = {NAOH_G_PER_MOL} / {KOH_G_PER_MOL} = {NAOH_PER_KOH:.5f}, the ratio of molar masses."
        assumes.insert(0, ratio)
    else:
        share = lye.koh_share_percent if potassium else 100 - lye.koh_share_percent
        rule = (
            "((sum of oil weight × SAP / 1000) / 56.1056 × (1 − superfat) + added back) mol × share "
            f"× {mass:g} / purity"
        )
        numbers = (
            f"({koh_g:,.2f} / {KOH_G_PER_MOL} × (1 − {superfat:g}/100) + {added_back_mol:.4f}) mol "
            f"× {share:.2f}/100 × {mass:g} / ({purity:g}/100)"
        )
        assumes.insert(0, "The share is of the saponification, by moles: one mole of either lye does the same work.")
    for consumed in desk.result.consumed:
        if consumed.compensated:
            assumes.append(
                f"{consumed.by} takes {consumed.naoh_equivalent_g:.2f} g NaOH, added back; it makes {consumed.salt}."
            )
    for one in desk.composition.oils:
        if one.oil.kind == "free_acid":
            taken_g = one.koh_g * NAOH_PER_KOH
            assumes.append(
                f"{one.oil.name} is a free acid: its {taken_g:.2f} g of pure NaOH (or as much KOH) is in its SAP value, and it "
                f"takes it at once, before any fat; it makes {one.oil.inci_sodium_soap.lower() or 'its soap'}."
            )
    if any(line.added != "start" for line in desk.formula.blend.lines):
        assumes.append("No lye is calculated for oils that go in late.")
    return desk.explanation(
        "koh_g" if potassium else "naoh_g", f"{name} to weigh", weighed_g, "g", rule, numbers if pure_g else "0",
        terms=terms if pure_g else (), terms_unit="g KOH", assumes=tuple(assumes), certainty=BY_SAP,
        cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


def _superfat(desk: Desk) -> Explanation:
    lye, formula = desk.result.lye, desk.formula
    components = [f"Set: {formula.superfat_percent:g} % of the lye that the oils take is withheld."]
    late = [one.oil.name for one in desk.composition.oils if one.added != "start"]
    if late:
        components.append(f"Oils that go in late have no lye of their own: {', '.join(late)}.")
    for liquid in desk.result.liquids:
        if liquid.fat_g > 0:
            components.append(f"{liquid.name} brings {liquid.fat_g:.1f} g of fat without lye of its own.")
    for consumed in desk.result.consumed:
        if not consumed.compensated:
            components.append(
                f"{consumed.by} ({consumed.acid}) takes {consumed.naoh_equivalent_g:.2f} g NaOH that is not added back: "
                f"{consumed.superfat_points:.2f} points. It makes {consumed.salt_g:.1f} g of {consumed.salt}."
            )
    hydroxide, consumed_mol, fats = desk.composition.lye_mol, desk.composition.consumed_mol, desk.composition.fats_mol
    return desk.explanation(
        "superfat_total_percent", "Superfat of the whole batch", lye.superfat_total_percent, "%",
        "100 × (1 − (hydroxide weighed − hydroxide consumed by acids) / hydroxide that all fats can take)",
        f"100 × (1 − ({hydroxide:.4f} − {consumed_mol:.4f}) / {fats:.4f}) mol",
        assumes=tuple(components), certainty=BY_SAP, cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


def _interval(desk: Desk) -> Explanation:
    interval = desk.result.lye.superfat_interval
    return desk.explanation(
        "superfat_expected_percent", "Expected superfat", interval.middle_percent, "%",
        "(1 − s) × fats − lye, a normal variable: its 2.5 % and 97.5 % points in s",
        f"{interval.low_percent:.2f} to {interval.high_percent:.2f} %, the 95 % range",
        terms=tuple(
            Term(label=cause.label[:1].upper() + cause.label[1:], expression="of the variance", value=cause.percent)
            for cause in interval.contributors
        ),
        terms_unit="%",
        assumes=(
            "Each listed value is the estimate. One standard deviation between lots is a third of half the natural range "
            "(a Type B estimate in the sense of the GUM); oils vary independently.",
            "Lye can only lose purity, so that widens the range upward alone. Scale: even over one step.",
            f"If all lots are off to the same side at once, the low end is {interval.low_together_percent:.1f} %.",
        ),
        certainty="An estimate: as good as the ranges it is made from. It does not cover slips at the scale.",
        cites=("craft",),
    )  # fmt: skip


def _water(desk: Desk) -> Explanation:
    water, asked, lye = desk.result.water, desk.formula.water, desk.result.lye
    lye_g = lye.naoh_g + lye.koh_g
    oils_g = desk.result.total_oils_g
    rules = {
        "lye_concentration_percent": (
            "lye × (100 − concentration) / concentration", f"{lye_g:,.2f} × (100 − {asked.value:g}) / {asked.value:g}",
        ),
        "water_to_lye": ("lye × ratio", f"{lye_g:,.2f} × {asked.value:g}"),
        "percent_of_oils": ("oils × percent / 100", f"{oils_g:,.1f} × {asked.value:g} / 100"),
        "discount_percent": (
            f"oils × {FULL_WATER_PERCENT_OF_OILS:g} / 100 × (1 − discount)",
            f"{oils_g:,.1f} × {FULL_WATER_PERCENT_OF_OILS:g} / 100 × (1 − {asked.value:g}/100)",
        ),
    }  # fmt: skip
    rule, substituted = rules[asked.by]
    taken_off = [(f"in {liquid.name.lower()}", liquid.water_g) for liquid in desk.result.liquids]
    if lye.master is not None:
        taken_off.append(("in the master lye", lye.master.water_in_it_g))
    terms: tuple[Term, ...] = ()
    if taken_off:
        rule += ", less the water that comes with liquids and master lye"
        terms = (
            Term(label="All water", expression=substituted, value=water.water_g),
            *(Term(label=f"Less {name}", expression="water it brings", value=-weight) for name, weight in taken_off),
        )
        substituted = f"{water.water_g:,.2f}" + "".join(f" − {weight:,.2f}" for _, weight in taken_off)
    return desk.explanation(
        "plain_water_g", "Water to weigh", water.plain_water_g, "g", rule, substituted, terms=terms, terms_unit="g",
        assumes=(LYE_AS_WEIGHED, "Lye needs at least its own weight of water to dissolve.", water.in_words),
        cites=("craft",),
    )  # fmt: skip


def _lye_concentration(desk: Desk) -> Explanation:
    water, lye = desk.result.water, desk.result.lye
    lye_g = lye.naoh_g + lye.koh_g
    return desk.explanation(
        "lye_concentration_percent", "Lye concentration", water.lye_concentration_percent, "%",
        "100 × lye / (lye + water)", f"100 × {lye_g:,.2f} / ({lye_g:,.2f} + {water.water_g:,.2f})",
        assumes=(LYE_AS_WEIGHED, water.in_words),
    )  # fmt: skip


def _water_to_lye(desk: Desk) -> Explanation:
    water, lye = desk.result.water, desk.result.lye
    return desk.explanation(
        "water_to_lye", "Water : lye", water.water_to_lye, ": 1",
        "water / lye", f"{water.water_g:,.2f} / {lye.naoh_g + lye.koh_g:,.2f}", assumes=(LYE_AS_WEIGHED,),
    )  # fmt: skip


def _percent_of_oils(desk: Desk) -> Explanation:
    water, oils_g = desk.result.water, desk.result.total_oils_g
    return desk.explanation(
        "percent_of_oils", "Water as % of oils", water.percent_of_oils, "%",
        "100 × water / oils", f"100 × {water.water_g:,.2f} / {oils_g:,.1f}",
    )  # fmt: skip


def _discount(desk: Desk) -> Explanation:
    water = desk.result.water
    return desk.explanation(
        "discount_percent", "Water discount", water.discount_percent, "%",
        "100 × (1 − water as % of oils / full water)",
        f"100 × (1 − {water.percent_of_oils:.2f} / {FULL_WATER_PERCENT_OF_OILS:g})",
        assumes=(f"Full water is {FULL_WATER_PERCENT_OF_OILS:g} % of oils; some makers mean another value by it.",),
        cites=("craft",),
    )  # fmt: skip


def _batter(desk: Desk) -> Explanation:
    r = desk.result
    master_water_g = 0.0 if r.lye.master is None else r.lye.master.water_in_it_g
    components = [
        ("Oils", r.total_oils_g), ("NaOH", r.lye.naoh_g), ("KOH", r.lye.koh_g), ("Water", r.water.plain_water_g),
        ("Water in the master lye", master_water_g),
        *((liquid.name, liquid.weight_g) for liquid in r.liquids),
        *((additive.name, additive.weight_g) for additive in r.additives),
    ]  # fmt: skip
    present = [(name, weight) for name, weight in components if weight > 0]
    return desk.explanation(
        "batter_g", "Batter", r.batter_g, "g", "oils + lye + water + liquids + additives",
        " + ".join(f"{weight:,.2f}" for _, weight in present),
        terms=tuple(Term(label=name, expression="as weighed", value=weight) for name, weight in present),
        terms_unit="g", assumes=("Nothing boils off.",),
    )  # fmt: skip


LYE_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {
    "naoh_g": lambda desk: _lye(desk, potassium=False),
    "koh_g": lambda desk: _lye(desk, potassium=True),
    "superfat_total_percent": _superfat,
    "superfat_expected_percent": _interval,
    "plain_water_g": _water,
    "lye_concentration_percent": _lye_concentration,
    "water_to_lye": _water_to_lye,
    "percent_of_oils": _percent_of_oils,
    "discount_percent": _discount,
    "batter_g": _batter,
}
"""Explanations by quantity id."""
