"""How much one device may ask: a store of requests that fills again with time."""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from math import ceil

__all__ = ["Allowance", "Allowances"]

MOST_KNOWN = 2000
"""So many askers are remembered; the one that asked longest ago is forgotten first."""


@dataclass(frozen=True)
class Allowance:
    """So many at once, and so many a second in the long run."""

    burst: int
    per_second: float


class Allowances:
    """One allowance for each asker."""

    def __init__(self, allowance: Allowance, clock: Callable[[], float]) -> None:
        self._allowance = allowance
        self._clock = clock
        self._left: OrderedDict[str, tuple[float, float]] = OrderedDict()

    @property
    def seconds_to_wait(self) -> int:
        """Until an asker that has used everything may ask once more."""
        return max(1, ceil(1 / self._allowance.per_second))

    def allows(self, asker: str) -> bool:
        """Take one from what the asker has left; False when nothing is left.

        >>> now = 0.0
        >>> allowances = Allowances(Allowance(burst=2, per_second=1), lambda: now)
        >>> [allowances.allows("tablet") for _ in range(3)]
        [True, True, False]
        >>> now = 1.5
        >>> [allowances.allows("tablet") for _ in range(2)]
        [True, False]
        """
        now = self._clock()
        left, at = self._left.pop(asker, (float(self._allowance.burst), now))
        left = min(self._allowance.burst, left + (now - at) * self._allowance.per_second)
        is_allowed = left >= 1
        self._left[asker] = (left - 1 if is_allowed else left, now)
        while len(self._left) > MOST_KNOWN:
            self._left.popitem(last=False)
        return is_allowed
