"""Lots on make day: a lye of another purity than planned is weighed differently, so that the hydroxide is as planned."""

from collections.abc import Mapping

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.production.events import LotChosen
from sapolin.core.production.state import LotInUse, RunState
from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.text import percent, weight

__all__ = ["lot_refusal", "planned_purities", "purity_in_force", "with_lots"]


def planned_purities(planned: PlannedBatch) -> dict[str, float]:
    """Purity, %, of each lye that the plan was calculated with, by item: `lye:naoh`, `lye:koh`."""
    lye = planned.formula.lye
    purities = {"lye:naoh": lye.naoh_purity_percent, "lye:koh": None if lye.koh is None else lye.koh.purity_percent}
    return {item: percent for item, percent in purities.items() if percent is not None}


def purity_in_force(planned: PlannedBatch, lots: Mapping[str, LotInUse], item: str) -> float | None:
    """Purity, %, that `lye:naoh` or `lye:koh` is weighed by now: of the lot chosen, or as planned. Null for anything else."""
    chosen = lots[item].purity_percent if item in lots else None
    return planned_purities(planned).get(item) if chosen is None else chosen


def with_lots(planned: PlannedBatch, lots: Mapping[str, LotInUse]) -> PlannedBatch:
    """`planned` with the purities of the lots of lye that were chosen, so that what was weighed is calculated with them."""
    lye = planned.formula.lye
    naoh, koh = (lots[item].purity_percent if item in lots else None for item in ("lye:naoh", "lye:koh"))
    if naoh is not None:
        lye = lye.model_copy(update={"naoh_purity_percent": naoh})
    if koh is not None and lye.koh is not None:
        lye = lye.model_copy(update={"koh": lye.koh.model_copy(update={"purity_percent": koh})})
    if lye is planned.formula.lye:
        return planned
    return planned.model_copy(update={"formula": planned.formula.model_copy(update={"lye": lye})})


def lot_refusal(planned: PlannedBatch, before: RunState, event: LotChosen, after: RunState) -> Diagnostic | None:
    """Why a lot of lye cannot be chosen, or what has to be answered first; null when it can.

    `before` and `after` are how the record stands without and with `event`. Two purities in one container are never added up.
    Any change of purity is asked about with what to weigh instead: that of another lot, and the way back to the planned one.
    """
    item = event.item
    was, now = (purity_in_force(planned, state.lots, item) for state in (before, after))
    if was is None or now is None or was == now:
        return None
    names_a_lot = event.purity_percent is not None
    if item in before.captured_g:
        code = "lye_of_two_purities" if names_a_lot else "planned_lye_of_two_purities"
        return stopping(code, "code", lot_code=event.code, purity=percent(now), before=percent(was))
    if event.sure:
        return None
    decimals = planned.result.weights.lye_decimals
    return stopping(
        "lye_of_other_purity" if names_a_lot else "lye_as_planned_again", "code", is_doubt=True,
        lot_code=event.code, purity=percent(now), before=percent(was),
        now=weight(after.targets_g[item], decimals), was=weight(before.targets_g[item], decimals),
    )  # fmt: skip
