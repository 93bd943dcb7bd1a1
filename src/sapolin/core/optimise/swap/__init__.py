"""Swap: take an oil out of a blend and find, exactly, what replaces it with the least upset.

:mod:`question` says what is asked, :mod:`features` turns oils into numbers to compare, :mod:`search` finds the best
replacements, :mod:`answer` lays them out with their words.
"""

from sapolin.core.optimise.swap.answer import SwapAnswer, SwapCandidate, answer_swap
from sapolin.core.optimise.swap.levers import Lever, levers_of
from sapolin.core.optimise.swap.question import Outgoing, SwapQuestion, first_question
from sapolin.core.optimise.swap.search import SwapCancelledError

__all__ = [
    "Lever",
    "Outgoing",
    "SwapAnswer",
    "SwapCancelledError",
    "SwapCandidate",
    "SwapQuestion",
    "answer_swap",
    "first_question",
    "levers_of",
]
