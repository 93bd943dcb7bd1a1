"""The working: how any one figure of a formula came about, with that formula's numbers in it.

Each working is laid out from the same functions and constants that reckon the figure; tests hold the two together.
"""

from collections.abc import Callable

from sapolin.core.acids import ACID_INDEX, ACIDS, KOH_G_PER_MOL
from sapolin.core.catalogue import Catalogue, Source, catalogue, sources
from sapolin.core.formula import Formula
from sapolin.core.lye import NAOH_G_PER_MOL, NAOH_PER_KOH
from sapolin.core.model import Model
from sapolin.core.qualities import qualities
from sapolin.core.reckoning import OilFigures, Reckoning, reckon

__all__ = ["Term", "UnknownFigureError", "Working", "explain", "figure_ids"]


class Term(Model):
    """One line of a working."""

    label: str
    expression: str
    """The numbers that went in, such as `340.0 g × 190 / 1000`."""
    value: float


class Working(Model):
    """How a figure came about."""

    figure: str
    name: str
    value: float
    unit: str
    rule: str
    """The formula in words and signs."""
    substituted: str
    """The same with this formula's numbers."""
    terms: tuple[Term, ...]
    """The parts, in the order of the blend; empty when the rule has none."""
    terms_unit: str
    assumes: tuple[str, ...]
    """What has to be true for the figure to be."""
    certainty: str
    """How sure it is."""
    sources: tuple[Source, ...]


class UnknownFigureError(KeyError):
    """There is no figure of that id."""


_BY_DEFINITION = "Exact arithmetic on what you entered."
_BY_PROFILE = (
    "An estimate: typical fatty acids from the catalogue. Your own lot may lie anywhere in the ranges listed there."
)
_BY_SAP = (
    "As sure as the SAP values: listed typical values, while natural oils vary by a few percent either way "
    "(coconut 248 to 265, for example). The superfat is there to cover it."
)
_LYE_AS_WEIGHED = "Lye counts as weighed, its impurities included."


class _Desk:
    """A reckoned formula with what its workings need at hand."""

    def __init__(self, formula: Formula, oils: Catalogue) -> None:
        self.formula = formula
        self.oils = oils
        self.reckoning: Reckoning = reckon(formula, oils)

    @property
    def purity_percent(self) -> float:
        return 100 * self.reckoning.lye.naoh_pure_g / self.reckoning.lye.naoh_g

    def per_oil(
        self, expression: Callable[[OilFigures], str], value: Callable[[OilFigures], float]
    ) -> tuple[Term, ...]:
        return tuple(Term(label=oil.name, expression=expression(oil), value=value(oil)) for oil in self.reckoning.oils)

    def working(
        self,
        figure: str,
        name: str,
        value: float,
        unit: str,
        rule: str,
        substituted: str,
        *,
        terms: tuple[Term, ...] = (),
        terms_unit: str = "",
        assumes: tuple[str, ...] = (),
        certainty: str = _BY_DEFINITION,
        cites: tuple[str, ...] = (),
    ) -> Working:
        from_oils = {source for oil in self.reckoning.oils for source in self.oils[oil.oil].sources}
        cited = (*cites, *(sorted(from_oils) if certainty in (_BY_PROFILE, _BY_SAP) else ()))
        return Working(
            figure=figure,
            name=name,
            value=value,
            unit=unit,
            rule=rule,
            substituted=substituted,
            terms=terms,
            terms_unit=terms_unit,
            assumes=assumes,
            certainty=certainty,
            sources=tuple(sources()[key] for key in dict.fromkeys(cited)),
        )


def _koh_terms(desk: _Desk) -> tuple[Term, ...]:
    def sap(oil: OilFigures) -> float:
        return desk.oils[oil.oil].sap_koh_mg_per_g.typical

    return desk.per_oil(
        lambda oil: f"{oil.weight_g:,.1f} g × {sap(oil):g} / 1000", lambda oil: oil.weight_g * sap(oil) / 1000
    )


def _naoh(desk: _Desk) -> Working:
    lye, superfat, purity = desk.reckoning.lye, desk.formula.superfat_percent, desk.purity_percent
    return desk.working(
        "naoh_g", "NaOH to weigh", lye.naoh_g, "g",
        "sum of (oil weight × SAP / 1000) × (NaOH / KOH) × (1 − superfat) / purity",
        f"{lye.koh_equivalent_g:,.2f} g KOH × {NAOH_PER_KOH:.5f} × (1 − {superfat:g}/100) / ({purity:g}/100)",
        terms=_koh_terms(desk), terms_unit="g KOH",
        assumes=(
            f"NaOH / KOH = {NAOH_G_PER_MOL} / {KOH_G_PER_MOL} = {NAOH_PER_KOH:.5f}, the ratio of molar masses.",
            f"The lye is {purity:g} % pure, as its label says; an open tub takes up water and weakens.",
            f"Superfat {superfat:g} % is taken off the lye.",
            f"Rounded for the scale, it leaves {lye.superfat_as_weighed_percent:.2f} % superfat.",
        ),
        certainty=_BY_SAP, cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


def _sap(desk: _Desk) -> Working:
    reckoning = desk.reckoning
    return desk.working(
        "sap_koh_mg_per_g", "SAP value of the blend", reckoning.readings.sap_koh_mg_per_g, "mg KOH/g",
        "1000 × KOH for all oils / weight of all oils",
        f"1000 × {reckoning.lye.koh_equivalent_g:,.2f} / {reckoning.total_oils_g:,.1f}",
        terms=_koh_terms(desk), terms_unit="g KOH", certainty=_BY_SAP, cites=("iso-3657",),
    )  # fmt: skip


def _water(desk: _Desk) -> Working:
    water, lye, asked = desk.reckoning.water, desk.reckoning.lye, desk.formula.water
    rules = {
        "lye_concentration_percent": (
            "lye × (100 − concentration) / concentration",
            f"{lye.naoh_g:,.2f} × (100 − {asked.value:g}) / {asked.value:g}",
        ),
        "water_to_lye": ("lye × ratio", f"{lye.naoh_g:,.2f} × {asked.value:g}"),
        "percent_of_oils": ("oils × percent / 100", f"{desk.reckoning.total_oils_g:,.1f} × {asked.value:g} / 100"),
    }  # fmt: skip
    rule, substituted = rules[asked.by]
    return desk.working(
        "water_g", "Water to weigh", water.water_g, "g", rule, substituted,
        assumes=(_LYE_AS_WEIGHED, "Lye needs at least its own weight of water to dissolve."),
        cites=("craft",),
    )  # fmt: skip


def _lye_concentration(desk: _Desk) -> Working:
    water, lye = desk.reckoning.water, desk.reckoning.lye
    return desk.working(
        "lye_concentration_percent", "Lye concentration", water.lye_concentration_percent, "%",
        "100 × lye / (lye + water)", f"100 × {lye.naoh_g:,.2f} / ({lye.naoh_g:,.2f} + {water.water_g:,.2f})",
        assumes=(_LYE_AS_WEIGHED,),
    )  # fmt: skip


def _water_to_lye(desk: _Desk) -> Working:
    water, lye = desk.reckoning.water, desk.reckoning.lye
    return desk.working(
        "water_to_lye", "Water : lye", water.water_to_lye, ": 1",
        "water / lye", f"{water.water_g:,.2f} / {lye.naoh_g:,.2f}", assumes=(_LYE_AS_WEIGHED,),
    )  # fmt: skip


def _percent_of_oils(desk: _Desk) -> Working:
    water, oils_g = desk.reckoning.water, desk.reckoning.total_oils_g
    return desk.working(
        "percent_of_oils", "Water as % of oils", water.percent_of_oils, "%",
        "100 × water / oils", f"100 × {water.water_g:,.2f} / {oils_g:,.1f}",
    )  # fmt: skip


def _batter(desk: _Desk) -> Working:
    r = desk.reckoning
    return desk.working(
        "batter_g", "Batter", r.batter_g, "g", "oils + lye + water",
        f"{r.total_oils_g:,.1f} + {r.lye.naoh_g:,.2f} + {r.water.water_g:,.2f}",
        assumes=("Nothing is added and nothing boils off.",),
    )  # fmt: skip


def _quality(desk: _Desk, quality_id: str) -> Working:
    quality = qualities()[quality_id]
    figures = next(entry for entry in desk.reckoning.qualities if entry.quality == quality_id)
    shares = {share.acid: share.percent for share in desk.reckoning.acids}
    parts = [(acid, quality.weights[ACID_INDEX[acid]]) for acid in quality.acids]
    weighted = quality_id == "oxidation_load"
    names = {acid.id: acid.name for acid in ACIDS}
    return desk.working(
        quality_id, quality.name, figures.points, "points",
        " + ".join(f"{names[acid]} × {weight:.3g}" if weighted else names[acid] for acid, weight in parts),
        " + ".join(f"{shares[acid]:.2f}" + (f" × {weight:.3g}" if weighted else "") for acid, weight in parts),
        terms=tuple(
            Term(
                label=oil.name,
                expression=f"{oil.share_percent:.4g} % × {quality.points(desk.oils[oil.oil].profile):.1f} points",
                value=given,
            )
            for oil, given in zip(desk.reckoning.oils, figures.contributions, strict=True)
        ),
        terms_unit="points",
        assumes=(
            "Points are percent of all fatty acids doing this work; superfat, water, additives and cure come on top.",
            quality.meaning,
        ),
        certainty=_BY_PROFILE, cites=("craft",),
    )  # fmt: skip


def _acid(desk: _Desk, acid_id: str) -> Working:
    position = ACID_INDEX[acid_id]
    share = desk.reckoning.acids[position]
    return desk.working(
        f"acid:{acid_id}", f"{ACIDS[position].name.capitalize()} acid, {acid_id}", share.percent, "%",
        "sum of (share of oil × percent of the acid in it)",
        " + ".join(f"{given:.2f}" for given in share.contributions),
        terms=tuple(
            Term(
                label=oil.name,
                expression=f"{oil.share_percent:.4g} % × {desk.oils[oil.oil].profile[position]:g} %",
                value=given,
            )
            for oil, given in zip(desk.reckoning.oils, share.contributions, strict=True)
        ),
        terms_unit="%",
        assumes=("Every oil counts by its share of the weight: fats differ by under 2 % in fatty acid per gram.",),
        certainty=_BY_PROFILE,
    )  # fmt: skip


def _saturation(desk: _Desk, figure: str, name: str, value: float, *, double_bonds: bool) -> Working:
    counted = [
        (acid, share)
        for acid, share in zip(ACIDS, desk.reckoning.acids, strict=True)
        if (acid.double_bonds > 0) == double_bonds
    ]
    return desk.working(
        figure, name, value, "%",
        "sum of the fatty acids " + ("with a double bond" if double_bonds else "without a double bond"),
        " + ".join(f"{share.percent:.2f}" for _, share in counted),
        terms=tuple(
            Term(label=f"{acid.name} {acid.id}", expression=acid.does_in_the_bar, value=share.percent)
            for acid, share in counted
        ),
        terms_unit="%",
        assumes=("About 50 : 50, or 60 : 40 either way, feels balanced to most makers.",),
        certainty=_BY_PROFILE, cites=("craft",),
    )  # fmt: skip


def _hard(desk: _Desk) -> Working:
    value = desk.reckoning.readings.hard_percent
    terms = desk.per_oil(
        lambda oil: "solid at 20 °C" if oil.hard else "liquid at 20 °C",
        lambda oil: oil.share_percent if oil.hard else 0.0,
    )
    return desk.working(
        "hard_percent", "Hard oils", value, "%", "sum of the shares of oils solid at 20 °C",
        " + ".join(f"{term.value:.4g}" for term in terms if term.value) or "0", terms=terms, terms_unit="%",
    )  # fmt: skip


def _iodine(desk: _Desk) -> Working:
    value = desk.reckoning.readings.iodine_value
    unsaturated = [(acid, share) for acid, share in zip(ACIDS, desk.reckoning.acids, strict=True) if acid.double_bonds]
    terms = tuple(
        Term(
            label=f"{acid.name} {acid.id}",
            expression=f"{share.percent:.2f} % × {acid.iodine_factor:.3f}",
            value=share.percent * acid.iodine_factor,
        )
        for acid, share in unsaturated
    )
    return desk.working(
        "iodine_value", "Iodine value", value, "g I₂/100 g",
        "sum of (percent of acid × iodine taken up by 1 % of it as triglyceride)",
        " + ".join(f"{term.value:.1f}" for term in terms), terms=terms, terms_unit="g I₂/100 g",
        assumes=("Unsaponifiables are not counted; they raise the measured value of shea and the like.",),
        certainty=_BY_PROFILE, cites=("aocs-cd-1c-85",),
    )  # fmt: skip


def _ins(desk: _Desk) -> Working:
    readings = desk.reckoning.readings
    return desk.working(
        "ins", "INS", readings.ins, "", "SAP value − iodine value",
        f"{readings.sap_koh_mg_per_g:.1f} − {readings.iodine_value:.1f}",
        assumes=("A secondary reading: some makers rely on it, others ignore it.",),
        certainty=_BY_SAP, cites=("craft",),
    )  # fmt: skip


_FIGURES: dict[str, Callable[[_Desk], Working]] = {
    "naoh_g": _naoh,
    "water_g": _water,
    "lye_concentration_percent": _lye_concentration,
    "water_to_lye": _water_to_lye,
    "percent_of_oils": _percent_of_oils,
    "batter_g": _batter,
    "sap_koh_mg_per_g": _sap,
    "iodine_value": _iodine,
    "ins": _ins,
    "hard_percent": _hard,
    "saturated_percent": lambda desk: _saturation(
        desk, "saturated_percent", "Saturated acids", desk.reckoning.readings.saturated_percent, double_bonds=False
    ),
    "unsaturated_percent": lambda desk: _saturation(
        desk, "unsaturated_percent", "Unsaturated acids", desk.reckoning.readings.unsaturated_percent, double_bonds=True
    ),
}


def figure_ids() -> tuple[str, ...]:
    """Every figure that can be explained."""
    return (*_FIGURES, *qualities(), *(f"acid:{acid.id}" for acid in ACIDS))


def explain(formula: Formula, figure: str, oils: Catalogue | None = None) -> Working:
    """How `figure` of `formula` came about.

    `figure` is one of :func:`figure_ids`. Raises UnknownFigureError for any other, and FormulaError when the formula
    cannot be reckoned.
    """
    if figure not in figure_ids():
        raise UnknownFigureError(figure)
    desk = _Desk(formula, catalogue() if oils is None else oils)
    if figure in _FIGURES:
        return _FIGURES[figure](desk)
    if figure in qualities():
        return _quality(desk, figure)
    return _acid(desk, figure.removeprefix("acid:"))
