"""Explanations of the lye, the water and the superfat."""

from collections.abc import Callable, Iterator

from sapolin.core.bar.explanations.desk import Desk, Explanation, Term, lye_as_weighed
from sapolin.core.bar.soap import soap_of
from sapolin.core.formula.water import FULL_WATER_PERCENT_OF_OILS
from sapolin.core.quantities.model import given
from sapolin.core.quantities.molar_masses import GLYCEROL_G_PER_MOL, KOH_G_PER_MOL, NAOH_G_PER_MOL, NAOH_PER_KOH
from sapolin.core.quantities.text import Grams, Param, Text, joined, number, percent, plain, template, text, weight

__all__ = ["LYE_QUANTITIES", "koh_terms"]


def koh_terms(desk: Desk, *, with_late: bool = True) -> tuple[Term, ...]:
    """Pure KOH that each line of the blend takes; lines that go in late only when asked."""
    return tuple(
        Term(
            label=one.oil.name,
            expression=text(
                "explanation.term",
                weight=weight(one.weight_g),
                sap=number(float(f"{one.oil.sap_koh_mg_per_g.typical:.4g}")),
            ),
            value=one.koh_g,
        )
        for one in desk.composition.oils
        if with_late or one.added == "start"
    )


def _lye(desk: Desk, *, potassium: bool) -> Explanation:
    lye, asked = desk.result.lye, desk.formula.lye
    name, mass = ("KOH", KOH_G_PER_MOL) if potassium else ("NaOH", NAOH_G_PER_MOL)
    quantity = "koh_g" if potassium else "naoh_g"
    weighed_g, pure_g = (lye.koh_g, lye.koh_pure_g) if potassium else (lye.naoh_g, lye.naoh_pure_g)
    koh_purity = None if asked.koh is None else asked.koh.purity_percent
    purity = koh_purity if potassium else asked.naoh_purity_percent
    called = plain(text("explanation.lye.name", lye=name))
    if purity is None:
        # The lye is all of the other kind: there is nothing to weigh, so no purity is asked for.
        return desk.explanation(
            quantity, called, weighed_g, "g", text("explanation.lye.none"), ("0",), certainty="sap", cites=("ciaaw",)
        )
    terms = koh_terms(desk, with_late=False)
    koh_g = sum(term.value for term in terms)
    added_back_mol = sum(
        consumed.naoh_equivalent_g / NAOH_G_PER_MOL for consumed in desk.result.consumed if consumed.compensated
    )  # fmt: skip
    superfat = number(given(desk.formula.superfat_percent))
    if asked.koh is None and added_back_mol == 0:
        ratio, way = number(NAOH_PER_KOH, 5), "one"
        numbers: dict[str, Param] = {
            "koh": weight(koh_g, 2),
            "ratio": ratio,
            "superfat": superfat,
            "purity": number(purity),
        }
        rests_on = text(
            "explanation.lye.ratio", naoh=number(NAOH_G_PER_MOL), koh=number(KOH_G_PER_MOL), ratio=ratio
        )  # fmt: skip
    else:
        way = "mixed"
        numbers = {
            "koh_g": number(koh_g, 2, "g"), "koh": number(KOH_G_PER_MOL), "superfat": superfat,
            "added_back": number(added_back_mol, 4), "mass": number(mass), "purity": number(purity),
            "share": number(lye.koh_share_percent if potassium else 100 - lye.koh_share_percent, 2),
        }  # fmt: skip
        rests_on = text("explanation.lye.share")
    rule = text(f"explanation.lye.{way}_rule", koh=number(KOH_G_PER_MOL), mass=number(mass))
    return desk.explanation(
        quantity, called, weighed_g, "g", rule, text(f"explanation.lye.{way}_numbers", **numbers) if pure_g else ("0",),
        terms=terms if pure_g else (), terms_unit="g", terms_of="KOH", certainty="sap", cites=("iso-3657", "ciaaw"),
        assumes=(
            rests_on,
            text("explanation.lye.pure", lye=name, purity=percent(purity)),
            text("explanation.lye.superfat", superfat=percent(given(desk.formula.superfat_percent))),
            text("explanation.lye.as_weighed", superfat=percent(lye.superfat_as_weighed_percent, 2)),
            *_what_else_takes_lye(desk),
        ),
    )  # fmt: skip


def _what_else_takes_lye(desk: Desk) -> Iterator[Text]:
    for consumed in desk.result.consumed:
        if consumed.compensated:
            yield text(
                "explanation.lye.added_back",
                by=consumed.by, grams=weight(consumed.naoh_equivalent_g, 2), salt=consumed.salt,
            )  # fmt: skip
    for one in desk.composition.oils:
        if one.oil.kind == "free_acid":
            soap = one.oil.inci_sodium_soap.lower() or template("explanation.lye.its_soap")
            taken = weight(one.koh_g * NAOH_PER_KOH, 2)
            yield text("explanation.lye.free_acid", oil=one.oil.name, grams=taken, soap=soap)
    if any(line.added != "start" for line in desk.formula.blend.lines):
        yield text("explanation.lye.late")


def _superfat(desk: Desk) -> Explanation:
    lye, formula = desk.result.lye, desk.formula
    components = [text("explanation.superfat.set", superfat=percent(given(formula.superfat_percent)))]
    late = [one.oil.name for one in desk.composition.oils if one.added != "start"]
    if late:
        components.append(text("explanation.superfat.late", oils=", ".join(late)))
    for liquid in desk.result.liquids:
        if liquid.fat_g > 0:
            components.append(text("explanation.superfat.liquid", liquid=liquid.name, grams=weight(liquid.fat_g)))
    for consumed in desk.result.consumed:
        if not consumed.compensated:
            components.append(
                text(
                    "explanation.superfat.consumed",
                    by=consumed.by, acid=consumed.acid, grams=weight(consumed.naoh_equivalent_g, 2),
                    points=number(consumed.superfat_points, 2, "points"), salt_grams=weight(consumed.salt_g),
                    salt=consumed.salt,
                )
            )  # fmt: skip
    composition = desk.composition
    return desk.explanation(
        "superfat_total_percent", template("explanation.superfat.name"), lye.superfat_total_percent, "%",
        text("explanation.superfat.rule"),
        text(
            "explanation.superfat.numbers",
            hydroxide=number(composition.lye_mol, 4), consumed=number(composition.consumed_mol, 4),
            fats=number(composition.fats_mol, 4),
        ),
        assumes=tuple(components), certainty="sap", cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


def _interval(desk: Desk) -> Explanation:
    interval = desk.result.lye.superfat_interval
    return desk.explanation(
        "superfat_expected_percent", template("explanation.interval.name"), interval.middle_percent, "%",
        text("explanation.interval.rule"),
        text(
            "explanation.interval.numbers",
            low=number(interval.low_percent, 2), high=percent(interval.high_percent, 2),
        ),
        terms=tuple(
            Term(
                label=cause.label[:1].upper() + cause.label[1:],
                expression=text("explanation.interval.term"),
                value=cause.percent,
            )
            for cause in interval.contributors
        ),
        terms_unit="%",
        assumes=(
            text("explanation.interval.spread"),
            text("explanation.interval.purity"),
            text("explanation.interval.together", low=percent(given(interval.low_together_percent), 1)),
        ),
        certainty="interval", cites=("craft",),
    )  # fmt: skip


def _water(desk: Desk) -> Explanation:
    water, asked, lye = desk.result.water, desk.formula.water, desk.result.lye
    entered: dict[str, Param] = {
        "lye": weight(lye.naoh_g + lye.koh_g, 2), "oils": weight(desk.result.total_oils_g),
        "value": number(given(asked.value)), "full": number(FULL_WATER_PERCENT_OF_OILS),
    }  # fmt: skip
    rule = text(f"explanation.water.{asked.by}", full=entered["full"])
    substituted = text(f"explanation.water.{asked.by}_numbers", **entered)
    taken_off = [
        (plain(text("explanation.water.in_liquid", liquid=liquid.name.lower())), liquid.water_g)
        for liquid in desk.result.liquids
    ]
    if lye.master is not None:
        taken_off.append((template("explanation.water.in_master"), lye.master.water_in_it_g))
    terms: tuple[Term, ...] = ()
    if taken_off:
        rule = text("explanation.water.less", rule=rule)
        brings = text("explanation.water.brings")
        terms = (
            Term(label=template("explanation.water.all"), expression=substituted, value=water.water_g),
            *(Term(label=label, expression=brings, value=-weight_g) for label, weight_g in taken_off),
        )
        substituted = joined(
            (weight(weight_g, 2) for weight_g in (water.water_g, *(taken for _, taken in taken_off))), " − "
        )
    return desk.explanation(
        "plain_water_g", template("explanation.water.name"), water.plain_water_g, "g", rule, substituted,
        terms=terms, terms_unit="g",
        assumes=(lye_as_weighed(), text("explanation.water.floor"), (water.in_words,)), cites=("craft",),
    )  # fmt: skip


def _lye_concentration(desk: Desk) -> Explanation:
    water = desk.result.water
    return desk.explanation(
        "lye_concentration_percent", template("explanation.lye_concentration.name"), water.lye_concentration_percent, "%",
        text("explanation.lye_concentration.rule"),
        text("explanation.lye_concentration.numbers", lye=_lye_weight(desk), water=weight(water.water_g, 2)),
        assumes=(lye_as_weighed(), (water.in_words,)),
    )  # fmt: skip


def _lye_weight(desk: Desk) -> Grams:
    return weight(desk.result.lye.naoh_g + desk.result.lye.koh_g, 2)


def _water_to_lye(desk: Desk) -> Explanation:
    water = desk.result.water
    return desk.explanation(
        "water_to_lye", template("explanation.water_to_lye.name"), water.water_to_lye, ": 1",
        text("explanation.water_to_lye.rule"),
        text("explanation.water_to_lye.numbers", water=weight(water.water_g, 2), lye=_lye_weight(desk)),
        assumes=(lye_as_weighed(),),
    )  # fmt: skip


def _percent_of_oils(desk: Desk) -> Explanation:
    water, oils_g = desk.result.water, desk.result.total_oils_g
    return desk.explanation(
        "percent_of_oils", template("explanation.percent_of_oils.name"), water.percent_of_oils, "%",
        text("explanation.percent_of_oils.rule"),
        text("explanation.percent_of_oils.numbers", water=weight(water.water_g, 2), oils=weight(oils_g)),
    )  # fmt: skip


def _discount(desk: Desk) -> Explanation:
    water, full = desk.result.water, FULL_WATER_PERCENT_OF_OILS
    return desk.explanation(
        "discount_percent", template("explanation.discount.name"), water.discount_percent, "%",
        text("explanation.discount.rule"),
        text("explanation.discount.numbers", percent=number(water.percent_of_oils, 2), full=number(full)),
        assumes=(text("explanation.discount.full", full=percent(full)),), cites=("craft",),
    )  # fmt: skip


def _batter(desk: Desk) -> Explanation:
    r = desk.result
    components = [
        (template("explanation.batter.oils"), r.total_oils_g), ("NaOH", r.lye.naoh_g), ("KOH", r.lye.koh_g),
        (template("explanation.batter.water"), r.water.plain_water_g),
        (template("explanation.batter.master"), 0.0 if r.lye.master is None else r.lye.master.water_in_it_g),
        *((liquid.name, liquid.weight_g) for liquid in r.liquids),
        *((additive.name, additive.weight_g) for additive in r.additives),
    ]  # fmt: skip
    present = [(name, weight_g) for name, weight_g in components if weight_g > 0]
    return desk.explanation(
        "batter_g", template("explanation.batter.name"), r.batter_g, "g", text("explanation.batter.rule"),
        joined((weight(weight_g, 2) for _, weight_g in present), " + "),
        terms=tuple(
            Term(label=name, expression=text("explanation.batter.term"), value=weight_g) for name, weight_g in present
        ),
        terms_unit="g", assumes=(text("explanation.batter.nothing_boils"),),
    )  # fmt: skip


def _glycerol(desk: Desk) -> Explanation:
    soap = soap_of(desk.composition)
    mol_g = number(GLYCEROL_G_PER_MOL, unit="g/mol")
    terms = tuple(
        Term(
            label=one.oil.name,
            expression=text("explanation.glycerol.term", taken=number(mol, 4, "mol"), glycerol=mol_g),
            value=mol / 3 * GLYCEROL_G_PER_MOL,
        )
        for one, mol in soap.glycerides_mol
    )
    total_mol = sum(mol for _, mol in soap.glycerides_mol)
    return desk.explanation(
        "glycerol_g", template("explanation.glycerol.name"), desk.result.glycerol_g, "g",
        text("explanation.glycerol.rule", glycerol=mol_g),
        text("explanation.glycerol.numbers", mol=number(total_mol, 4, "mol"), glycerol=mol_g),
        terms=terms, terms_unit="g", certainty="sap", cites=("iso-3657", "ciaaw"),
        assumes=(text("explanation.glycerol.stays"), text("explanation.glycerol.none")),
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
    "glycerol_g": _glycerol,
}
"""Explanations by quantity id."""
