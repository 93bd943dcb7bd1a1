"""Explanations of what the blend gives: fatty acids, qualities, indices."""

from collections.abc import Callable, Sequence

from sapolin.core.bar.explanations.desk import Desk, Explanation, Term
from sapolin.core.bar.explanations.lye import koh_terms
from sapolin.core.bar.qualities import qualities
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS
from sapolin.core.quantities.text import (
    Number,
    Param,
    Temperature,
    Text,
    joined,
    number,
    percent,
    plain,
    significant,
    template,
    text,
    weight,
)

__all__ = ["BLEND_QUANTITIES", "acid", "quality"]


def quality(desk: Desk, quality_id: str) -> Explanation:
    """How a quality, in points, follows from the fatty acids of the blend, oil by oil. Raises KeyError for no quality."""
    rule = qualities()[quality_id]
    result = next(entry for entry in desk.result.qualities if entry.quality == quality_id)
    shares = {share.acid: share.percent for share in desk.result.acids}
    weights = [(acid_id, rule.weights[ACID_INDEX[acid_id]]) for acid_id in rule.acids]
    weighted = rule.weighted_by != "share"
    names = {acid.id: acid.name for acid in ACIDS}

    def one(acid: Param, weight: float) -> Text:
        return text("explanation.quality.weighted", acid=acid, weight=significant(weight)) if weighted else (acid,)

    return desk.explanation(
        quality_id, rule.name, result.points, "points",
        joined((one(names[acid], weight) for acid, weight in weights), " + "),
        joined((one(number(shares[acid], 2), weight) for acid, weight in weights), " + "),
        terms=_per_oil(desk, result.contributions, lambda oil: number(rule.points(oil.profile), 1, "points")),
        terms_unit="points",
        assumes=(
            text("explanation.quality.points"),
            (rule.meaning,),
            text("explanation.quality.spread", low=number(result.low, 1), high=number(result.high, 1)),
        ),
        certainty="profile", cites=("craft",),
    )  # fmt: skip


def _per_oil(desk: Desk, given: Sequence[float], of_its_own: Callable[[Oil], Number]) -> tuple[Term, ...]:
    """Share of each oil times what it has `of_its_own`, which gives the blend what `given` says."""
    return tuple(
        Term(
            label=one.oil.name,
            expression=text(
                "explanation.quality.in_oil",
                share=significant(one.share_percent, 4, "%"), own=of_its_own(one.oil),
            ),
            value=value,
        )
        for one, value in zip(desk.composition.fats, given, strict=True)
    )  # fmt: skip


def acid(desk: Desk, acid_id: str) -> Explanation:
    """How the share of an acid, % of all fatty acids, follows from those of the oils. Raises KeyError for no acid."""
    position = ACID_INDEX[acid_id]
    share = desk.result.acids[position]
    return desk.explanation(
        f"acid:{acid_id}", plain(text("explanation.acid.name", acid=ACIDS[position].name, id=acid_id)), share.percent, "%",
        text("explanation.acid.rule"), joined((number(given, 2) for given in share.contributions), " + "),
        terms=_per_oil(desk, share.contributions, lambda oil: percent(oil.profile[position])),
        terms_unit="%", assumes=(text("explanation.acid.assumes"),), certainty="profile",
    )  # fmt: skip


def _sap(desk: Desk) -> Explanation:
    result = desk.result
    return desk.explanation(
        "sap_koh_mg_per_g", template("explanation.sap.name"), result.indices.sap_koh_mg_per_g, "mg KOH/g",
        text("explanation.sap.rule"),
        text("explanation.sap.numbers", koh=weight(result.lye.koh_equivalent_g, 2), oils=weight(result.total_oils_g)),
        terms=koh_terms(desk), terms_unit="g", terms_of="KOH", certainty="sap", cites=("iso-3657",),
    )  # fmt: skip


def _saturation(desk: Desk, quantity: str, value: float, *, double_bonds: bool) -> Explanation:
    counted = [
        (acid, share)
        for acid, share in zip(ACIDS, desk.result.acids, strict=True)
        if (acid.double_bonds > 0) == double_bonds
    ]
    return desk.explanation(
        quantity, template(f"explanation.saturation.{quantity}"), value, "%",
        text(f"explanation.saturation.{quantity}_rule"),
        joined((number(share.percent, 2) for _, share in counted), " + "),
        terms=tuple(
            Term(label=f"{acid.name} {acid.id}", expression=(acid.does_in_the_bar,), value=share.percent)
            for acid, share in counted
        ),
        terms_unit="%", assumes=(text("explanation.saturation.balanced"),), certainty="profile", cites=("craft",),
    )  # fmt: skip


ROOM_C = 20.0


def _hard(desk: Desk) -> Explanation:
    value = desk.result.indices.hard_percent
    terms = tuple(
        Term(
            label=one.oil.name,
            expression=text(f"explanation.hard.{'solid' if one.oil.is_hard else 'liquid'}", room=Temperature(c=ROOM_C)),
            value=one.share_percent if one.oil.is_hard else 0.0,
        )
        for one in desk.composition.pure_oils
    )
    counted = [significant(term.value, 4) for term in terms if term.value]
    return desk.explanation(
        "hard_percent", template("explanation.hard.name"), value, "%", text("explanation.hard.rule"),
        joined(counted, " + ") if counted else ("0",), terms=terms, terms_unit="%",
        assumes=(text("explanation.hard.mixture"),),
    )  # fmt: skip


def _iodine(desk: Desk) -> Explanation:
    value = desk.result.indices.iodine_value
    unsaturated = [(acid, share) for acid, share in zip(ACIDS, desk.result.acids, strict=True) if acid.double_bonds]
    terms = tuple(
        Term(
            label=f"{acid.name} {acid.id}",
            expression=text(
                "explanation.quality.in_oil", share=percent(share.percent, 2), own=number(acid.iodine_factor, 3)
            ),
            value=share.percent * acid.iodine_factor,
        )
        for acid, share in unsaturated
    )
    return desk.explanation(
        "iodine_value", template("explanation.iodine.name"), value, "g I₂/100 g", text("explanation.iodine.rule"),
        joined((number(term.value, 1) for term in terms), " + "), terms=terms, terms_unit="g I₂/100 g",
        assumes=(text("explanation.iodine.assumes"),), certainty="profile", cites=("aocs-cd-1c-85",),
    )  # fmt: skip


def _ins(desk: Desk) -> Explanation:
    indices = desk.result.indices
    return desk.explanation(
        "ins", template("explanation.ins.name"), indices.ins, "", text("explanation.ins.rule"),
        text(
            "explanation.ins.numbers",
            sap=number(indices.sap_koh_mg_per_g, 1), iodine=number(indices.iodine_value, 1),
        ),
        assumes=(text("explanation.ins.secondary"),), certainty="sap", cites=("craft",),
    )  # fmt: skip


BLEND_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {
    "sap_koh_mg_per_g": _sap,
    "iodine_value": _iodine,
    "ins": _ins,
    "hard_percent": _hard,
    "saturated_percent": lambda desk: _saturation(
        desk, "saturated_percent", desk.result.indices.saturated_percent, double_bonds=False
    ),
    "unsaturated_percent": lambda desk: _saturation(
        desk, "unsaturated_percent", desk.result.indices.unsaturated_percent, double_bonds=True
    ),
}
"""Explanations by quantity id; qualities and acids have their own."""
