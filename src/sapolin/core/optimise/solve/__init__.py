"""Solve: the best blend for what a maker wants, within what they have; or why it cannot be had.

:mod:`question` says what is asked, :mod:`model` turns it into numbers, :mod:`branch` finds the best blend and proves it,
:mod:`conflict` says which preferred targets cannot hold together, :mod:`answer` lays it all out.
"""

from sapolin.core.optimise.solve.answer import Conflict, Solution, SolveAnswer, answer_solve
from sapolin.core.optimise.solve.question import GroupLimit, ShareLimit, SolveQuestion, Target

__all__ = ["Conflict", "GroupLimit", "ShareLimit", "Solution", "SolveAnswer", "SolveQuestion", "Target", "answer_solve"]
