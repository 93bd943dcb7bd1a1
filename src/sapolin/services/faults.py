"""The fault finder: what a batch's own record says of a fault, or a symptom without any batch."""

from collections.abc import Mapping

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.procedure import HURRIES
from sapolin.core.batch.temperatures import holds_milk, meets_milk
from sapolin.core.cure.drying import days_between
from sapolin.core.cure.state import CureState
from sapolin.core.faults import BatchRecordFacts, FaultRanking, rank
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, colorants, scents
from sapolin.core.materials.own import with_materials
from sapolin.core.quantities.coefficients import coefficient
from sapolin.services.followed import FollowedBatch
from sapolin.store.clock import utc_now
from sapolin.store.stores import Stores

__all__ = ["facts_of", "rank_faults"]

LONG_SATURATED = ("C16:0", "C18:0", "C20:0", "C22:0")
POWDERS = ("clay", "exfoliant", "colour")


def rank_faults(symptom: str, batch_id: str | None, answers: Mapping[str, bool], stores: Stores) -> FaultRanking:
    """The likely causes of a symptom: of a batch, from its record, or of any.

    Raises UnknownBatchError, or FormulaError when there is no such symptom or question.
    """
    if batch_id is None:
        return rank(symptom, None, answers)
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    return rank(symptom, facts_of(batch, batch.state()), answers)


def _has(plan: BatchPlan, *roles: str) -> bool:
    return any(additives()[line.additive].role in roles for line in plan.formula.additives)


def facts_of(batch: FollowedBatch, state: CureState) -> BatchRecordFacts | None:
    """What the record says that bears on faults; null when it was lye that nothing can be calculated from."""
    result = batch.outcome.actual.result
    if result is None:
        return None
    planned, plan = batch.work.planned, batch.record.plan
    points = {one.quality: one.points for one in result.qualities}
    acids = {one.acid: one.percent for one in result.acids}
    long_saturated = sum(acids.get(acid, 0.0) for acid in LONG_SATURATED)
    oils_c = [one.celsius for one in batch.run.readings if one.bowl == "oils"]
    stages = [mark.what for mark in batch.run.marks if mark.what in ("emulsion", "light", "medium", "heavy", "seized")]
    rates = {
        role: 100 * sum(one.weight_g for one in result.additives if additives()[one.additive].role == role)
        / result.total_oils_g
        for role in ("sugar", "salt")
    }  # fmt: skip
    oils = with_materials(catalogue(), plan.formula.materials)
    free_acid = sum(one.share_percent for one in result.oils if oils[one.oil].kind == "free_acid")
    behaviour = {word for line in plan.scents for word in scents()[line.scent].behaviour}
    colours = [colorants()[line.colorant] for one in plan.portions for line in one.colours]
    since = batch.poured_at
    hours = None
    if since is not None and state.unmoulded_at is not None:
        hours = 24 * days_between(since, state.unmoulded_at)
    return BatchRecordFacts(
        lye_concentration_percent=result.water.lye_concentration_percent,
        superfat_low_percent=result.lye.superfat_interval.low_percent,
        superfat_percent=result.lye.superfat_total_percent,
        oxidation_load=points.get("oxidation_load", 0.0),
        hardness=points.get("hardness", 0.0),
        cleansing=points.get("cleansing", 0.0),
        open_lather=points.get("open_lather", 0.0),
        oleic_percent=acids.get("C18:1", 0.0),
        long_saturated_percent=long_saturated,
        hardly_dissolves=100 - long_saturated < coefficient("solubility.needs_percent"),
        free_acid_percent=free_acid,
        sugar_percent=rates["sugar"],
        salt_percent=rates["salt"],
        has_titanium_dioxide=any(one.kind == "white" for one in colours) or _names(plan, "titanium-dioxide"),
        has_powders=bool(colours) or _has(plan, *POWDERS),
        has_humectant=_has(plan, "humectant") or _names(plan, "honey"),
        has_milk=holds_milk(plan.formula.liquids),
        milk_chilled=meets_milk(plan.formula.liquids) and plan.choices.milk == "chilled",
        has_scent=bool(plan.scents),
        has_colour=bool(colours) or _has(plan, "colour"),
        gel=planned.gel.outcome if planned.gel is not None else "",
        room_c=planned.room_c,
        cover=plan.choices.cover,
        alcohol_spray=plan.choices.alcohol_spray,
        mixing=plan.choices.mixing,
        combined_oils_c=oils_c[-1] if oils_c else None,
        melts_at_c=planned.window.melts_c,
        trace=stages[-1] if stages else "",
        scent_hurries=bool(behaviour & {*HURRIES}),
        scent_fades="fades" in behaviour,
        oils_g=result.total_oils_g,
        wash_water=plan.formula.wash_water,
        age_days=None if since is None else days_between(since, utc_now()),
        unmould_hours=hours,
        unmould_low_h=batch.hours[0] if batch.hours else None,
    )


def _names(plan: BatchPlan, additive: str) -> bool:
    return any(line.additive == additive for line in plan.formula.additives)
