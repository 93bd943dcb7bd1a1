"""One weighing as it stands: what is in the bowl, what the scale is to come to, and when taring must be asked about. In g."""

from math import ceil

from sapolin.core.batch.targets import WeighTarget, is_within
from sapolin.core.production.state import RunState
from sapolin.core.quantities.diagnostics import Diagnostic, diagnostic, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import weight

__all__ = ["WeighingNow", "tare_refusal", "weighing_now"]

UNNOTICED_G = 1.0
"""Less than this on the scale since the last weight was taken is drift, or a drop, and no load."""


class WeighingNow(Model):
    """One weighing, as every device shows it."""

    item: str
    target_g: float
    in_bowl_g: float
    """All of it that counts so far."""
    beside_g: float
    """The part of it that the scale does not show: it was there before the last tare, or will be before the next one."""
    to_show_g: float
    """What the scale should come to now."""
    needs_tare: Truth
    """No reading counts until the scale is tared."""
    tare: str | None
    """The zero that a reading must count from; null until the scale is tared for this weighing."""
    load: int
    """Which of the loads this is, from 1."""
    loads: int


def weighing_now(weigh: WeighTarget, state: RunState) -> WeighingNow:
    """The weighing of `weigh` as the record has it.

    A load after a tare comes on top of what is in the bowl, unless the bowl was emptied; a second reading from the same zero
    shows the first load too.
    """
    item, target_g = weigh.item, state.targets_g.get(weigh.item, weigh.target_g)
    in_bowl_g = state.captured_g.get(item, 0.0)
    tare = state.tare if state.tare is not None and state.tare.item == item else None
    shown_g = state.on_scale_g.get(item, 0.0) if tare else 0.0
    if tare is not None and tare.emptied and item not in state.on_scale_g:
        in_bowl_g = 0.0
    beside_g = in_bowl_g - shown_g
    left_g = max(target_g - beside_g, 0.0)
    most = weigh.most_at_once_g
    # What is within the tolerance of full loads needs no further one.
    loads_left = 1 if most is None else max(ceil((left_g - weigh.tolerance_g) / most), 1)
    loads = 1 if most is None else max(ceil((target_g - weigh.tolerance_g) / most), loads_left)
    to_show_g = left_g if loads_left == 1 else round(left_g / loads_left, weigh.decimals)
    load_taken = loads_left > 1 and shown_g > 0 and is_within(shown_g - to_show_g, weigh.tolerance_g)
    if load_taken:
        # The next load starts with a tare of its own.
        return weighing_now(weigh, state.model_copy(update={"tare": None, "on_scale_g": {}}))
    return WeighingNow(
        item=item,
        target_g=target_g,
        in_bowl_g=in_bowl_g,
        beside_g=beside_g,
        to_show_g=to_show_g,
        needs_tare=tare is None,
        tare=None if tare is None else tare.tare,
        load=loads - loads_left + 1,
        loads=loads,
    )


def tare_refusal(
    item: str, state: RunState, scale_tare: str | None, shown_g: float | None, *, emptied: bool, sure: bool
) -> Diagnostic | None:
    """Why the scale should not be set to zero for `item` without a question; null when it may.

    Parameters: `scale_tare` names the zero that the scale has now, null when it lost it; `shown_g` is what it shows.
    `emptied`: the maker says that nothing of the item is in the container. `sure`: what is on it is the container alone.
    """
    tare = state.tare
    if tare is None or tare.item != item or emptied:
        return None
    if scale_tare != tare.tare:
        return diagnostic("zero_lost", "problem", "item", stops="making")
    untaken_g = (shown_g or 0.0) - state.on_scale_g.get(item, 0.0)
    if not sure and untaken_g > UNNOTICED_G:
        return stopping("material_on_scale", "item", is_doubt=True, untaken=weight(untaken_g))
    return None
