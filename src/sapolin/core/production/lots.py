"""Lots on make day: a lye of another purity than planned is weighed differently, so that the hydroxide is as planned."""

from collections.abc import Mapping

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.production.state import LotInUse, RunState
from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.text import percent, weight

__all__ = ["lot_refusal", "lye_target_g", "purity_in_force", "with_lots"]


def purity_in_force(planned: PlannedBatch, lots: Mapping[str, LotInUse], item: str) -> float | None:
    """Purity, %, that `lye:naoh` or `lye:koh` is weighed by now: of the lot chosen, or as planned. Null for anything else."""
    if item in lots and lots[item].purity_percent is not None:
        return lots[item].purity_percent
    lye = planned.formula.lye
    if item == "lye:naoh":
        return lye.naoh_purity_percent
    return lye.koh.purity_percent if item == "lye:koh" and lye.koh is not None else None


def lye_target_g(planned: PlannedBatch, state: RunState, item: str, purity_percent: float) -> float:
    """What to weigh, g, of a lye of another purity, so that it holds as much hydroxide as what is to be weighed now.

    Of a master lye made of it, likewise: 77.6 g at 98.5 % hold as much as 77.2 g at 99 %.
    """
    before, target = purity_in_force(planned, state.lots, item), state.targets_g[item]
    if before is None or before == purity_percent:
        return target
    return round(target * before / purity_percent, planned.result.weights.lye_decimals)


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


def lot_refusal(
    planned: PlannedBatch, state: RunState, item: str, code: str, purity_percent: float | None, *, sure: bool
) -> Diagnostic | None:
    """Why a lot of lye cannot be taken for an item, or what has to be answered first; null when it can.

    Two purities in one bowl are never added up; another purity than planned is asked about with what to weigh instead.
    """
    before = purity_in_force(planned, state.lots, item)
    if purity_percent is None or before is None or purity_percent == before:
        return None
    if item in state.captured_g:
        return stopping(
            "lye_of_two_purities", "code", lot_code=code, purity=percent(purity_percent), before=percent(before)
        )
    if sure:
        return None
    decimals = planned.result.weights.lye_decimals
    return stopping(
        "lye_of_other_purity", "code", is_doubt=True, lot_code=code, purity=percent(purity_percent), before=percent(before),
        now=weight(lye_target_g(planned, state, item, purity_percent), decimals),
        was=weight(state.targets_g[item], decimals),
    )  # fmt: skip
