"""What to do with what stands in the bowls when a batch is given up. Usual practice; local rules on waste come first."""

from collections.abc import Iterator, Sequence

from sapolin.core.batch.procedure import COMBINE_STEP, MAKE_LYE_STEP, Step
from sapolin.core.production.events import Aborted
from sapolin.core.production.state import RunState, is_used
from sapolin.core.quantities.text import template

__all__ = ["gone_items", "what_to_do_with_the_bowls"]


def what_to_do_with_the_bowls(steps: Sequence[Step], state: RunState) -> tuple[str, ...]:
    """What is in the bowls of a batch that was given up, and where it goes, the most dangerous first."""
    return tuple(_advice(steps, state))


def gone_items(steps: Sequence[Step], state: RunState, event: Aborted) -> frozenset[str]:
    """What a batch that was given up took for good, by item: all that was weighed, or what lye met of it."""
    if event.weighed == "wasted":
        return frozenset(state.captured_g)
    roles = {step.weigh.item: step.weigh.role for step in steps if step.weigh}
    return frozenset(item for item in state.captured_g if is_used(item, roles, state.done))


def _advice(steps: Sequence[Step], state: RunState) -> Iterator[str]:
    roles = {step.weigh.role for step in steps if step.weigh and step.weigh.item in state.captured_g}
    combined, dissolved = COMBINE_STEP in state.done, MAKE_LYE_STEP in state.done
    if combined:
        yield template("given_up.batter")
    elif dissolved:
        yield template("given_up.lye_solution")
    elif "lye" in roles:
        yield template("given_up.dry_lye")
    if "oil" in roles and not combined:
        yield template("given_up.oils")
    if {"colour", "scent", "additive", "cup"} & roles and not combined:
        yield template("given_up.cups")
    if roles:
        yield template("given_up.washing_up")
