"""Explanations of what the blend gives: fatty acids, qualities, indices."""

from collections.abc import Callable, Sequence

from sapolin.core.bar.explanations.desk import BY_PROFILE, BY_SAP, Desk, Explanation, Term
from sapolin.core.bar.explanations.lye import koh_terms
from sapolin.core.bar.qualities import qualities
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS

__all__ = ["BLEND_QUANTITIES", "acid", "quality"]


def quality(desk: Desk, quality_id: str) -> Explanation:
    """How a quality, in points, follows from the fatty acids of the blend, oil by oil. Raises KeyError for no quality."""
    rule = qualities()[quality_id]
    result = next(entry for entry in desk.result.qualities if entry.quality == quality_id)
    shares = {share.acid: share.percent for share in desk.result.acids}
    weights = [(acid_id, rule.weights[ACID_INDEX[acid_id]]) for acid_id in rule.acids]
    weighted = rule.weighted_by != "share"
    names = {acid.id: acid.name for acid in ACIDS}
    return desk.explanation(
        quality_id, rule.name, result.points, "points",
        " + ".join(f"{names[acid]} × {weight:.3g}" if weighted else names[acid] for acid, weight in weights),
        " + ".join(f"{shares[acid]:.2f}" + (f" × {weight:.3g}" if weighted else "") for acid, weight in weights),
        terms=_per_oil(desk, result.contributions, lambda oil: f"{rule.points(oil.profile):.1f} points"),
        terms_unit="points",
        assumes=(
            "Points are percent of all fatty acids doing this work; superfat, water, additives and cure come on top.",
            rule.meaning,
            f"What nature’s spread allows: {result.low:.1f} to {result.high:.1f} points.",
        ),
        certainty=BY_PROFILE, cites=("craft",),
    )  # fmt: skip


def _per_oil(desk: Desk, given: Sequence[float], of_its_own: Callable[[Oil], str]) -> tuple[Term, ...]:
    """Share of each oil times what it has `of_its_own`, which gives the blend what `given` says."""
    return tuple(
        Term(label=one.oil.name, expression=f"{one.share_percent:.4g} % × {of_its_own(one.oil)}", value=value)
        for one, value in zip(desk.composition.oils, given, strict=True)
    )


def acid(desk: Desk, acid_id: str) -> Explanation:
    """How the share of an acid, % of all fatty acids, follows from those of the oils. Raises KeyError for no acid."""
    position = ACID_INDEX[acid_id]
    share = desk.result.acids[position]
    return desk.explanation(
        f"acid:{acid_id}", f"{ACIDS[position].name.capitalize()} acid, {acid_id}", share.percent, "%",
        "sum of (share of oil × percent of the acid in it)",
        " + ".join(f"{given:.2f}" for given in share.contributions),
        terms=_per_oil(desk, share.contributions, lambda oil: f"{oil.profile[position]:g} %"),
        terms_unit="%",
        assumes=("Every oil counts by its share of the weight: fats differ by under 2 % in fatty acid per gram.",),
        certainty=BY_PROFILE,
    )  # fmt: skip


def _sap(desk: Desk) -> Explanation:
    result = desk.result
    return desk.explanation(
        "sap_koh_mg_per_g", "SAP value of the blend", result.indices.sap_koh_mg_per_g, "mg KOH/g",
        "1000 × KOH for all oils / weight of all oils",
        f"1000 × {result.lye.koh_equivalent_g:,.2f} / {result.total_oils_g:,.1f}",
        terms=koh_terms(desk), terms_unit="g KOH", certainty=BY_SAP, cites=("iso-3657",),
    )  # fmt: skip


def _saturation(desk: Desk, quantity: str, name: str, value: float, *, double_bonds: bool) -> Explanation:
    counted = [
        (acid, share)
        for acid, share in zip(ACIDS, desk.result.acids, strict=True)
        if (acid.double_bonds > 0) == double_bonds
    ]
    return desk.explanation(
        quantity, name, value, "%",
        "sum of the fatty acids " + ("with a double bond" if double_bonds else "without a double bond"),
        " + ".join(f"{share.percent:.2f}" for _, share in counted),
        terms=tuple(
            Term(label=f"{acid.name} {acid.id}", expression=acid.does_in_the_bar, value=share.percent)
            for acid, share in counted
        ),
        terms_unit="%",
        assumes=("About 50 : 50, or 60 : 40 either way, feels balanced to most makers.",),
        certainty=BY_PROFILE, cites=("craft",),
    )  # fmt: skip


def _hard(desk: Desk) -> Explanation:
    value = desk.result.indices.hard_percent
    terms = tuple(
        Term(
            label=one.oil.name,
            expression="solid at 20 °C" if one.oil.is_hard else "liquid at 20 °C",
            value=one.share_percent if one.oil.is_hard else 0.0,
        )
        for one in desk.composition.pure_oils
    )
    return desk.explanation(
        "hard_percent", "Hard oils", value, "%", "sum of the shares of oils solid at 20 °C",
        " + ".join(f"{term.value:.4g}" for term in terms if term.value) or "0", terms=terms, terms_unit="%",
        assumes=("A mixture counts by the oils it is made of.",),
    )  # fmt: skip


def _iodine(desk: Desk) -> Explanation:
    value = desk.result.indices.iodine_value
    unsaturated = [(acid, share) for acid, share in zip(ACIDS, desk.result.acids, strict=True) if acid.double_bonds]
    terms = tuple(
        Term(
            label=f"{acid.name} {acid.id}",
            expression=f"{share.percent:.2f} % × {acid.iodine_factor:.3f}",
            value=share.percent * acid.iodine_factor,
        )
        for acid, share in unsaturated
    )
    return desk.explanation(
        "iodine_value", "Iodine value", value, "g I₂/100 g",
        "sum of (percent of acid × iodine taken up by 1 % of it as triglyceride)",
        " + ".join(f"{term.value:.1f}" for term in terms), terms=terms, terms_unit="g I₂/100 g",
        assumes=("Unsaponifiables are not counted; they raise the measured value of shea and the like.",),
        certainty=BY_PROFILE, cites=("aocs-cd-1c-85",),
    )  # fmt: skip


def _ins(desk: Desk) -> Explanation:
    indices = desk.result.indices
    return desk.explanation(
        "ins", "INS", indices.ins, "", "SAP value − iodine value",
        f"{indices.sap_koh_mg_per_g:.1f} − {indices.iodine_value:.1f}",
        assumes=("A secondary index: some makers rely on it, others ignore it.",),
        certainty=BY_SAP, cites=("craft",),
    )  # fmt: skip


BLEND_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {
    "sap_koh_mg_per_g": _sap,
    "iodine_value": _iodine,
    "ins": _ins,
    "hard_percent": _hard,
    "saturated_percent": lambda desk: _saturation(
        desk, "saturated_percent", "Saturated acids", desk.result.indices.saturated_percent, double_bonds=False
    ),
    "unsaturated_percent": lambda desk: _saturation(
        desk, "unsaturated_percent", "Unsaturated acids", desk.result.indices.unsaturated_percent, double_bonds=True
    ),
}
"""Explanations by quantity id; qualities and acids have their own."""
