"""Workings of the lye, the water and the superfat."""

from collections.abc import Callable

from sapolin.core.acids import KOH_G_PER_MOL
from sapolin.core.figures import OilFigures
from sapolin.core.lye import NAOH_G_PER_MOL, NAOH_PER_KOH
from sapolin.core.water import FULL_WATER_PERCENT_OF_OILS
from sapolin.core.workings.desk import BY_SAP, LYE_AS_WEIGHED, Desk, Term, Working

__all__ = ["LYE_FIGURES", "koh_terms"]


def koh_terms(desk: Desk, *, with_late: bool = True) -> tuple[Term, ...]:
    """Pure KOH that each line of the blend takes; lines that go in late only when asked."""

    def sap(oil: OilFigures) -> float:
        return desk.oils[oil.oil].sap_koh_mg_per_g.typical

    return tuple(
        Term(
            label=oil.name,
            expression=f"{oil.weight_g:,.1f} g × {sap(oil):.4g} / 1000",
            value=oil.weight_g * sap(oil) / 1000,
        )
        for oil, line in zip(desk.reckoning.oils, desk.formula.blend.lines, strict=True)
        if with_late or line.added == "start"
    )


def _lye(desk: Desk, *, potassium: bool) -> Working:
    lye, asked = desk.reckoning.lye, desk.formula.lye
    name, mass = ("KOH", KOH_G_PER_MOL) if potassium else ("NaOH", NAOH_G_PER_MOL)
    weighed_g, pure_g = (lye.koh_g, lye.koh_pure_g) if potassium else (lye.naoh_g, lye.naoh_pure_g)
    koh_purity = None if asked.koh is None else asked.koh.purity_percent
    purity = koh_purity if potassium else asked.naoh_purity_percent
    superfat = desk.formula.superfat_percent or 0.0
    terms = koh_terms(desk, with_late=False)
    koh_g = sum(term.value for term in terms)
    added_back_mol = sum(
        eaten.naoh_equivalent_g / NAOH_G_PER_MOL for eaten in desk.reckoning.eaten if eaten.compensated
    )  # fmt: skip
    if purity is None:
        # The lye is all of the other kind: there is nothing to weigh, so no purity is asked for.
        return desk.working(
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
    for eaten in desk.reckoning.eaten:
        if eaten.compensated:
            assumes.append(f"{eaten.by} takes {eaten.naoh_equivalent_g:.2f} g NaOH, added back; it makes {eaten.salt}.")
    for oil, term in zip(desk.reckoning.oils, koh_terms(desk), strict=True):
        if desk.oils[oil.oil].kind == "free_acid":
            taken_g = term.value * NAOH_PER_KOH
            assumes.append(
                f"{oil.name} is a free acid: its {taken_g:.2f} g of pure NaOH (or as much KOH) is in its SAP value, and it "
                f"takes it at once, before any fat; it makes {desk.oils[oil.oil].inci_sodium_soap.lower() or 'its soap'}."
            )
    if any(line.added != "start" for line in desk.formula.blend.lines):
        assumes.append("No lye is reckoned for oils that go in late.")
    return desk.working(
        "koh_g" if potassium else "naoh_g", f"{name} to weigh", weighed_g, "g", rule, numbers if pure_g else "0",
        terms=terms if pure_g else (), terms_unit="g KOH", assumes=tuple(assumes), certainty=BY_SAP,
        cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


def _superfat(desk: Desk) -> Working:
    lye, formula = desk.reckoning.lye, desk.formula
    parts = [f"Set: {formula.superfat_percent:g} % of the lye that the oils take is withheld."]
    late = [line.oil for line in formula.blend.lines if line.added != "start"]
    if late:
        parts.append(
            f"Oils that go in late have no lye of their own: {', '.join(desk.oils[oil].name for oil in late)}."
        )
    for liquid in desk.reckoning.liquids:
        if liquid.fat_g > 0:
            parts.append(f"{liquid.name} brings {liquid.fat_g:.1f} g of fat without lye of its own.")
    for eaten in desk.reckoning.eaten:
        if not eaten.compensated:
            parts.append(
                f"{eaten.by} ({eaten.acid}) takes {eaten.naoh_equivalent_g:.2f} g NaOH that is not added back: "
                f"{eaten.superfat_points:.2f} points. It makes {eaten.salt_g:.1f} g of {eaten.salt}."
            )
    hydroxide = lye.naoh_pure_g / NAOH_G_PER_MOL + lye.koh_pure_g / KOH_G_PER_MOL
    eaten_mol = sum(eaten.naoh_equivalent_g for eaten in desk.reckoning.eaten) / NAOH_G_PER_MOL
    fats = (hydroxide - eaten_mol) / (1 - lye.superfat_total_percent / 100)
    return desk.working(
        "superfat_total_percent", "Superfat of the whole batch", lye.superfat_total_percent, "%",
        "100 × (1 − (hydroxide weighed − hydroxide eaten by acids) / hydroxide that all fats can take)",
        f"100 × (1 − ({hydroxide:.4f} − {eaten_mol:.4f}) / {fats:.4f}) mol",
        assumes=tuple(parts), certainty=BY_SAP, cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


def _interval(desk: Desk) -> Working:
    interval = desk.reckoning.lye.superfat_interval
    chance = interval.chance_lye_heavy_percent
    return desk.working(
        "superfat_true_percent", "True superfat, middle of its interval", interval.middle_percent, "%",
        "(1 − s) × fats − lye, a normal variable: its 2.5 % and 97.5 % points in s",
        f"{interval.low_percent:.2f} to {interval.high_percent:.2f} %, nineteen times in twenty",
        terms=tuple(
            Term(label=cause.label[:1].upper() + cause.label[1:], expression="of the variance", value=cause.percent)
            for cause in interval.contributors
        ),
        terms_unit="%",
        assumes=(
            "SAP values: triangular over the range listed, its peak at the typical one; oils vary independently.",
            "Purity of the lye: even over its tolerance. Scale: even over one step.",
            f"Chance of a lye-heavy batch: {chance:.2g} %." if chance >= 0.005 else
            "Chance of a lye-heavy batch: next to none.",
        ),
        certainty="An estimate: as good as the ranges it is made from. It does not cover slips at the scale.",
        cites=("craft",),
    )  # fmt: skip


def _water(desk: Desk) -> Working:
    water, asked, lye = desk.reckoning.water, desk.formula.water, desk.reckoning.lye
    lye_g = lye.naoh_g + lye.koh_g
    oils_g = desk.reckoning.total_oils_g
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
    taken_off = [(f"in {liquid.name.lower()}", liquid.water_g) for liquid in desk.reckoning.liquids]
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
    return desk.working(
        "plain_water_g", "Water to weigh", water.plain_water_g, "g", rule, substituted, terms=terms, terms_unit="g",
        assumes=(LYE_AS_WEIGHED, "Lye needs at least its own weight of water to dissolve.", water.in_words),
        cites=("craft",),
    )  # fmt: skip


def _lye_concentration(desk: Desk) -> Working:
    water, lye = desk.reckoning.water, desk.reckoning.lye
    lye_g = lye.naoh_g + lye.koh_g
    return desk.working(
        "lye_concentration_percent", "Lye concentration", water.lye_concentration_percent, "%",
        "100 × lye / (lye + water)", f"100 × {lye_g:,.2f} / ({lye_g:,.2f} + {water.water_g:,.2f})",
        assumes=(LYE_AS_WEIGHED, water.in_words),
    )  # fmt: skip


def _water_to_lye(desk: Desk) -> Working:
    water, lye = desk.reckoning.water, desk.reckoning.lye
    return desk.working(
        "water_to_lye", "Water : lye", water.water_to_lye, ": 1",
        "water / lye", f"{water.water_g:,.2f} / {lye.naoh_g + lye.koh_g:,.2f}", assumes=(LYE_AS_WEIGHED,),
    )  # fmt: skip


def _percent_of_oils(desk: Desk) -> Working:
    water, oils_g = desk.reckoning.water, desk.reckoning.total_oils_g
    return desk.working(
        "percent_of_oils", "Water as % of oils", water.percent_of_oils, "%",
        "100 × water / oils", f"100 × {water.water_g:,.2f} / {oils_g:,.1f}",
    )  # fmt: skip


def _discount(desk: Desk) -> Working:
    water = desk.reckoning.water
    return desk.working(
        "discount_percent", "Water discount", water.discount_percent, "%",
        "100 × (1 − water as % of oils / full water)",
        f"100 × (1 − {water.percent_of_oils:.2f} / {FULL_WATER_PERCENT_OF_OILS:g})",
        assumes=(f"Full water is {FULL_WATER_PERCENT_OF_OILS:g} % of oils; some call other figures full.",),
        cites=("craft",),
    )  # fmt: skip


def _batter(desk: Desk) -> Working:
    r = desk.reckoning
    master_water_g = 0.0 if r.lye.master is None else r.lye.master.water_in_it_g
    parts = [
        ("Oils", r.total_oils_g), ("NaOH", r.lye.naoh_g), ("KOH", r.lye.koh_g), ("Water", r.water.plain_water_g),
        ("Water in the master lye", master_water_g),
        *((liquid.name, liquid.weight_g) for liquid in r.liquids),
        *((additive.name, additive.weight_g) for additive in r.additives),
    ]  # fmt: skip
    present = [(name, weight) for name, weight in parts if weight > 0]
    return desk.working(
        "batter_g", "Batter", r.batter_g, "g", "oils + lye + water + liquids + additives",
        " + ".join(f"{weight:,.2f}" for _, weight in present),
        terms=tuple(Term(label=name, expression="as weighed", value=weight) for name, weight in present),
        terms_unit="g", assumes=("Nothing boils off.",),
    )  # fmt: skip


LYE_FIGURES: dict[str, Callable[[Desk], Working]] = {
    "naoh_g": lambda desk: _lye(desk, potassium=False),
    "koh_g": lambda desk: _lye(desk, potassium=True),
    "superfat_total_percent": _superfat,
    "superfat_true_percent": _interval,
    "plain_water_g": _water,
    "lye_concentration_percent": _lye_concentration,
    "water_to_lye": _water_to_lye,
    "percent_of_oils": _percent_of_oils,
    "discount_percent": _discount,
    "batter_g": _batter,
}
"""Workings by figure id."""
