"""What to do with what stands in the bowls when a batch is given up. Usual practice; local rules on waste come first."""

from collections.abc import Iterator, Sequence

from sapolin.core.batch.procedure import COMBINE_STEP, MAKE_LYE_STEP, Step
from sapolin.core.production.record import RunState

__all__ = ["what_to_do_with_the_bowls"]


def what_to_do_with_the_bowls(steps: Sequence[Step], state: RunState) -> tuple[str, ...]:
    """What is in the bowls of a batch that was given up, and where it goes, the most dangerous first."""
    return tuple(_advice(steps, state))


def _advice(steps: Sequence[Step], state: RunState) -> Iterator[str]:
    roles = {step.weigh.role for step in steps if step.weigh and step.weigh.item in state.captured_g}
    combined, dissolved = COMBINE_STEP in state.done, MAKE_LYE_STEP in state.done
    if combined:
        yield (
            "Raw batter is in the pot: it burns like lye. Keep gloves and goggles on, label it “caustic”, and let it stand "
            "covered, out of reach, until it is firm; then test it. Most can be cooked or rebatched into soap. If it is "
            "thrown away, only once it no longer zaps, and as your local waste rules say."
        )
    elif dissolved:
        yield (
            "Lye solution stands in the jug: keep gloves and goggles on. Close it, label it “caustic, lye solution” with its "
            "concentration and the date, and lock it away, to be used for another batch; or have it disposed of as your "
            "local rules say. It never goes into the drain undiluted, into aluminium, or into a food container."
        )
    elif "lye" in roles:
        yield (
            "Dry lye stands in a bowl: it draws water from the air. With gloves and goggles on, put it back into its own dry "
            "tub with a dry spoon, close it and lock it away. If it has become wet, label it and keep it apart."
        )
    if "oil" in roles and not combined:
        yield "The oils are unharmed: cover the pot and write on it what is in it; they can be used for another batch."
    if {"colour", "scent", "additive", "cup"} & roles and not combined:
        yield "Cover the cups of colour, scent and additions, and write on each what it holds."
    if roles:
        yield "Wash up with gloves on. What lye or batter has touched is not used for food."
