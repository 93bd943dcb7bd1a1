"""What a maker says of the oils in their workshop, brought into a question: favourites, what is never used, what is left."""

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.optimise.solve.question import ShareLimit, SolveQuestion
from sapolin.core.optimise.swap.question import SwapQuestion
from sapolin.core.quantities.model import FiniteNumber, Model

__all__ = ["OilNote", "oils_at_hand", "oils_never_used", "solve_with_notes", "swap_with_notes"]


class OilNote(Model):
    """What a maker says of one oil."""

    liking: Literal["", "favourite", "never"] = ""
    """A favourite is taken before oils that do as well; what is never used is offered nowhere."""
    on_hand_g: Annotated[FiniteNumber, Field(ge=0, le=1_000_000)] | None = None
    """What is left of it, g; null while nobody has said."""
    most_percent: Annotated[FiniteNumber, Field(gt=0, le=100)] | None = None
    """The maker's own most share, %, in the place of the usual one."""

    @property
    def says_nothing(self) -> bool:
        """Whether there is nothing to keep."""
        return not self.liking and self.on_hand_g is None and self.most_percent is None

    @property
    def is_at_hand(self) -> bool:
        """A favourite, or there is some of it."""
        return self.liking == "favourite" or (self.on_hand_g or 0.0) > 0


def oils_at_hand(notes: Mapping[str, OilNote]) -> tuple[str, ...]:
    """The favourites and the oils of which there is some, by id."""
    return tuple(oil for oil, note in notes.items() if note.is_at_hand)


def oils_never_used(notes: Mapping[str, OilNote]) -> tuple[str, ...]:
    """The oils that the maker never uses, by id."""
    return tuple(oil for oil, note in notes.items() if note.liking == "never")


def solve_with_notes(question: SolveQuestion, notes: Mapping[str, OilNote]) -> SolveQuestion:
    """The question of a maker who says so of their oils; what the question itself says of an oil goes before.

    An oil that is named with a least share is used, whatever was said of it.
    """
    limited = {limit.oil for limit in question.limits}
    own = tuple(
        ShareLimit(oil=oil, maximum_percent=note.most_percent)
        for oil, note in notes.items()
        if note.most_percent is not None and oil not in limited
    )
    wanted = {limit.oil for limit in question.limits if limit.minimum_percent > 0}
    return question.model_copy(update={
        "at_hand": tuple(dict.fromkeys((*question.at_hand, *oils_at_hand(notes)))),
        "never": tuple(oil for oil in dict.fromkeys((*question.never, *oils_never_used(notes))) if oil not in wanted),
        "limits": (*question.limits, *own),
    })  # fmt: skip


def swap_with_notes(question: SwapQuestion, notes: Mapping[str, OilNote]) -> SwapQuestion:
    """The same for a swap."""
    return question.model_copy(update={
        "at_hand": tuple(dict.fromkeys((*question.at_hand, *oils_at_hand(notes)))),
        "forbidden": tuple(dict.fromkeys((*question.forbidden, *oils_never_used(notes)))),
    })  # fmt: skip
