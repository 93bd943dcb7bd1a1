"""Paste diluted to liquid soap: how much of each paste, how much water in which stages, and what to expect of it.

Everything follows from the soap: diluted soap of P % soap that weighs W holds W·P/100 of it, shared among the pastes by their
shares; each paste weighs its soap over its own share of soap; what is left of W is water.
"""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Literal

from sapolin.core.bar.paste import PasteComponent, mix_pastes
from sapolin.core.bar.qualities import qualities
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.materials.ingredients import scents
from sapolin.core.preparations.plan import DilutionPlan
from sapolin.core.preparations.preservatives import preservatives, soap_ph
from sapolin.core.preparations.thickness import ThicknessForecast, thickness_of
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, diagnostic, stopping
from sapolin.core.quantities.entries import entry_problems
from sapolin.core.quantities.limits import SUM_TOLERANCE_PERCENT
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import listed, number, percent, weight

__all__ = [
    "DilutedBatch",
    "PasteOnHand",
    "PasteWeight",
    "ScentInSoap",
    "WaterStage",
    "density_of",
    "dilute",
    "dilution_problems",
    "remaining",
]

STAGES: tuple[tuple[Literal["first", "second", "last"], float], ...] = (
    ("first", 0.5),
    ("second", 0.35),
    ("last", 0.15),
)
"""Water goes in like this: hot onto the paste overnight, then more, and the rest once it is seen how thick it is."""


ENTRIES: Mapping[str, tuple[float, float, str]] = {
    "share_of_soap": (0.1, 100, "%"), "soap_in_paste": (15, 80, "%"), "soap_in_product": (3, 60, "%"),
    "bottles": (1, 2000, ""), "bottle_ml": (5, 20_000, "mL"), "paste": (5, 200_000, "g"),
    "preservative_rate": (0.01, 3, "%"), "ph": (1, 14, ""), "scent_rate": (0, 10, "%"), "supplier_limit": (0.001, 100, "%"),
    "brine": (0, 15, "%"),
}  # fmt: skip
"""From where to where an entry makes sense, by its name."""


def _entry(value: float | None, path: str, name: str) -> Iterator[Diagnostic]:
    return entry_problems(value, path, name, *ENTRIES[name])


class PasteOnHand(Model):
    """A paste that was made."""

    batch_id: str
    code: str
    name: str
    made_at: str
    soap_percent: float
    """Soap in it: what was weighed in, over what went into the jars where water boiled off."""
    left_g: float
    """Not used up yet, g."""
    acids_percent: tuple[float, ...]
    """Fatty acids of its oils, in the order of the acid table."""
    superfat_percent: float


class PasteWeight(Model):
    """A paste in the diluted soap."""

    batch_id: str
    code: str
    name: str
    weight_g: float
    soap_percent: float
    left_g: float
    """Of it that is there."""


class WaterStage(Model):
    """Water, and when it goes in."""

    stage: Literal["first", "second", "last"]
    weight_g: float


class ScentInSoap(Model):
    """A scent in the diluted soap."""

    scent: str
    name: str
    weight_g: float


class DilutedBatch(Model):
    """Diluted soap with everything that is weighed for it."""

    pastes: tuple[PasteWeight, ...]
    water: tuple[WaterStage, ...]
    preservative_g: float
    brine_g: float
    scents: tuple[ScentInSoap, ...]
    product_g: float
    """All of it together, g."""
    product_ml: float
    """An estimate from its density."""
    density_g_per_ml: float
    soap_percent: float
    strongest_percent: float
    """With no water at all it would hold so much soap."""
    bottles: int
    """That are filled; the last one perhaps not full."""
    bottle_ml: float
    acids: dict[str, float]
    """Percent of all fatty acids, by acid id."""
    qualities: dict[str, float]
    """Points by quality id."""
    thickness: ThicknessForecast
    shelf_months: float
    """How long it keeps; an estimate."""
    diagnostics: tuple[Diagnostic, ...]


def dilution_problems(plan: DilutionPlan) -> Iterator[Diagnostic]:
    """What is missing or cannot be in the entries of a dilution."""
    if not plan.pastes:
        yield stopping("no_paste", "pastes", is_open=True)
    for i, line in enumerate(plan.pastes):
        yield from _entry(line.share_percent, f"pastes[{i}].share_percent", "share_of_soap")
        if line.soap_percent is not None:
            yield from _entry(line.soap_percent, f"pastes[{i}].soap_percent", "soap_in_paste")
    shares = [line.share_percent for line in plan.pastes if line.share_percent is not None]
    if len(shares) == len(plan.pastes) > 0 and abs(sum(shares) - 100) > SUM_TOLERANCE_PERCENT:
        yield stopping("paste_shares_not_100", "pastes", sum=percent(round(sum(shares), 4)))
    yield from _entry(plan.soap_percent, "soap_percent", "soap_in_product")
    if plan.size_by == "bottles":
        yield from _entry(plan.bottles, "bottles", "bottles")
    else:
        yield from _entry(plan.paste_g, "paste_g", "paste")
    yield from _entry(plan.bottle_ml, "bottle_ml", "bottle_ml")
    if plan.preservative is not None:
        yield from _preservative_entries(plan)
    for i, scent in enumerate(plan.scents):
        if scent.scent not in scents():
            yield stopping("unknown_scent", f"scents[{i}].scent", scent=scent.scent)
            continue
        yield from _entry(scent.percent, f"scents[{i}].percent", "scent_rate")
        if scent.limit_percent is not None:
            yield from _entry(scent.limit_percent, f"scents[{i}].limit_percent", "supplier_limit")
    if plan.brine_percent is not None:
        yield from _entry(plan.brine_percent, "brine_percent", "brine")


def _preservative_entries(plan: DilutionPlan) -> Iterator[Diagnostic]:
    line = plan.preservative
    assert line is not None
    if line.preservative not in preservatives():
        yield stopping("unknown_preservative", "preservative.preservative", preservative=line.preservative)
    yield from _entry(line.rate_percent, "preservative.rate_percent", "preservative_rate")
    for end in ("ph_low", "ph_high"):
        value = getattr(line, end)
        if value is not None:
            yield from _entry(value, f"preservative.{end}", "ph")
    if line.ph_low is not None and line.ph_high is not None and line.ph_low > line.ph_high:
        yield stopping("ph_ends_cross", "preservative.ph_low")


def dilute(plan: DilutionPlan, on_hand: Mapping[str, PasteOnHand]) -> DilutedBatch:
    """Diluted soap of `plan` from the pastes `on_hand`, by the batch they were made as.

    Raises FormulaError with everything that stands in the way.
    """
    problems = [*dilution_problems(plan)]
    problems += [
        stopping("unknown_paste", f"pastes[{i}].batch_id")
        for i, line in enumerate(plan.pastes) if line.batch_id not in on_hand
    ]  # fmt: skip
    if problems:
        raise FormulaError(problems)
    soap_percent = given(plan.soap_percent)
    density = density_of(soap_percent)
    bottle_ml = given(plan.bottle_ml)
    held = [
        (line.soap_percent or on_hand[line.batch_id].soap_percent, given(line.share_percent) / 100)
        for line in plan.pastes
    ]
    paste_per_soap_g = sum(share / (percent_of / 100) for percent_of, share in held)
    if plan.size_by == "bottles":
        product_g = given(plan.bottles) * bottle_ml * density
    else:
        product_g = 100 * given(plan.paste_g) / paste_per_soap_g / soap_percent
    soap_g = product_g * soap_percent / 100
    pastes = tuple(
        PasteWeight(
            batch_id=line.batch_id, code=on_hand[line.batch_id].code, name=on_hand[line.batch_id].name,
            weight_g=soap_g * share / (percent_of / 100), soap_percent=percent_of, left_g=on_hand[line.batch_id].left_g,
        )
        for line, (percent_of, share) in zip(plan.pastes, held, strict=True)
    )  # fmt: skip
    preservative_g = 0.0 if plan.preservative is None else product_g * given(plan.preservative.rate_percent) / 100
    brine_g = product_g * (plan.brine_percent or 0.0) / 100
    scented = tuple(
        ScentInSoap(scent=line.scent, name=scents()[line.scent].name, weight_g=product_g * given(line.percent) / 100)
        for line in plan.scents
    )
    others_g = preservative_g + brine_g + sum(one.weight_g for one in scented)
    water_g = product_g - sum(one.weight_g for one in pastes) - others_g
    strongest = 100 * (1 - others_g / product_g) / paste_per_soap_g
    if water_g < 0:
        raise FormulaError([
            stopping("stronger_than_paste", "soap_percent", asked=percent(soap_percent, 1), most=percent(strongest, 1))
        ])  # fmt: skip
    mix = mix_pastes([
        PasteComponent(name=one.name, weight_g=one.weight_g, soap_percent=one.soap_percent,
                       acids_percent=on_hand[one.batch_id].acids_percent)
        for one in pastes
    ])  # fmt: skip
    acids = {acid.id: mix.acids_percent[i] for i, acid in enumerate(ACIDS)}
    filled = product_g / density / bottle_ml
    made = DilutedBatch(
        pastes=pastes,
        water=tuple(WaterStage(stage=stage, weight_g=part * water_g) for stage, part in STAGES),
        preservative_g=preservative_g,
        brine_g=brine_g,
        scents=scented,
        product_g=product_g,
        product_ml=product_g / density,
        density_g_per_ml=density,
        soap_percent=soap_percent,
        strongest_percent=strongest,
        bottles=int(-(-(filled - 1e-6) // 1)),
        bottle_ml=bottle_ml,
        acids=acids,
        qualities={name: quality.points(mix.acids_percent) for name, quality in qualities().items()},
        thickness=thickness_of(acids, soap_percent),
        shelf_months=coefficient("liquid.shelf_months" if plan.preservative else "liquid.unpreserved_months"),
        diagnostics=(),
    )
    superfat = max((on_hand[line.batch_id].superfat_percent for line in plan.pastes), default=0.0)
    return made.model_copy(update={"diagnostics": tuple(_found(plan, made, superfat))})


def density_of(soap_percent: float) -> float:
    """Density of diluted soap, g/mL at room temperature; a rule of thumb.

    >>> round(density_of(25.0), 3)
    1.028
    """
    return 0.998 + coefficient("liquid.density_per_soap_percent") * soap_percent


def _found(plan: DilutionPlan, made: DilutedBatch, superfat: float) -> Iterator[Diagnostic]:
    """What to settle or to know before it is made, the gravest first."""
    yield from _preservation(plan)
    for i, (line, scent) in enumerate(zip(plan.scents, made.scents, strict=True)):
        if line.limit_percent is not None and given(line.percent) > line.limit_percent:
            yield diagnostic(
                "liquid_scent_over_limit", "problem", f"scents[{i}].percent", stops="making", name=scent.name,
                rate=percent(given(line.percent), 2), limit=percent(line.limit_percent, 2),
            )  # fmt: skip
    for one in made.pastes:
        if one.weight_g > one.left_g + 0.5:
            yield diagnostic(
                "paste_runs_short", "problem", "pastes", stops="making", name=one.name, needed=weight(one.weight_g, 0),
                left=weight(one.left_g, 0),
            )  # fmt: skip
    for i, (line, scent) in enumerate(zip(plan.scents, made.scents, strict=True)):
        if line.limit_percent is None:
            yield diagnostic("no_scent_limit", "warning", f"scents[{i}].limit_percent", name=scent.name.lower())
    yield from _clarity(plan, made, superfat)
    yield from _style(plan, made)


def _preservation(plan: DilutionPlan) -> Iterator[Diagnostic]:
    """A preservative that does not work where soap is protects nothing; none at all keeps for days."""
    line = plan.preservative
    if line is None:
        days = number(coefficient("liquid.unpreserved_months") * 30.44, 0, "days")
        yield diagnostic("not_preserved", "warning", "preservative", days=days)
        return
    row, (least, most) = preservatives()[line.preservative], soap_ph()
    low = row.ph_low if line.ph_low is None else line.ph_low
    high = row.ph_high if line.ph_high is None else line.ph_high
    span: dict[str, Any] = {"low": number(low), "high": number(high), "least": number(least), "most": number(most)}
    if high < least or low > most:
        yield diagnostic("preservative_unsuited", "problem", "preservative", stops="making", name=row.name, **span)
    elif high < most or low > least:
        yield diagnostic("preservative_at_its_edge", "warning", "preservative", name=row.name, **span)
    if line.ph_low is None or line.ph_high is None:
        yield diagnostic("preservative_unread", "note", "preservative", name=row.name)
    rate = given(line.rate_percent)
    if not row.rate_low_percent <= rate <= row.rate_high_percent:
        yield diagnostic(
            "preservative_rate", "warning", "preservative.rate_percent", name=row.name, rate=percent(rate, 2),
            low=number(row.rate_low_percent), high=percent(row.rate_high_percent),
        )  # fmt: skip
    yield diagnostic("preservative_caution", "note", "preservative", name=row.name, caution=row.caution)


def _clarity(plan: DilutionPlan, made: DilutedBatch, superfat: float) -> Iterator[Diagnostic]:
    """Why it may be cloudy, each with its remedy."""
    if superfat > coefficient("paste.clear_superfat_percent"):
        yield diagnostic("cloudy_superfat", "note", "pastes", superfat=percent(superfat, 1))
    long = sum(made.acids[acid] for acid in ("C16:0", "C18:0", "C20:0", "C22:0"))
    if long > coefficient("liquid.long_acids_most"):
        yield diagnostic("cloudy_long_acids", "warning", "pastes", share=percent(long, 0))
    scent_g = sum(one.weight_g for one in made.scents)
    soap_g = made.product_g * made.soap_percent / 100
    most_g = soap_g * coefficient("liquid.scent_per_soap_percent") / 100
    if scent_g > most_g:
        names = listed([one.name for one in made.scents])
        yield diagnostic(
            "scent_separates", "warning", "scents", names=names, most=percent(100 * most_g / made.product_g, 1)
        )
    if plan.wash_water == "hard":
        yield diagnostic("liquid_hard_water", "note", "wash_water")


def _style(plan: DilutionPlan, made: DilutedBatch) -> Iterator[Diagnostic]:
    thickness = made.thickness.thickness
    if plan.style == "foamer" and (
        thickness in ("thick", "gel") or made.soap_percent > coefficient("liquid.foamer_most_percent")
    ):
        yield diagnostic(
            "too_thick_to_foam", "warning", "soap_percent", most=percent(coefficient("liquid.foamer_most_percent"), 0)
        )
    if plan.style == "thick" and thickness in ("water", "thin") and not plan.brine_percent:
        code = "thin_for_its_style" if made.thickness.salt_thickens else "never_thick"
        yield diagnostic(code, "warning", "soap_percent", start=percent(made.thickness.thick_from_percent, 0))
    if plan.style != "thick" and thickness == "gel":
        yield diagnostic("sets_to_gel", "warning", "soap_percent", start=percent(made.thickness.thick_from_percent, 0))
    if plan.brine_percent and not made.thickness.salt_thickens:
        yield diagnostic("salt_does_not_thicken", "warning", "brine_percent")


def remaining(pastes: Sequence[PasteOnHand], used_g: Mapping[str, float]) -> tuple[PasteOnHand, ...]:
    """Pastes with what is left after `used_g`, by batch; those used up are left out."""
    left = (one.model_copy(update={"left_g": one.left_g - used_g.get(one.batch_id, 0.0)}) for one in pastes)
    return tuple(one for one in left if one.left_g > 0.5)
