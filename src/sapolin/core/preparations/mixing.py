"""Which pastes, and how much soap of each, come nearest to wanted qualities: a linear program solved to its optimum.

Qualities of a mix are the means of those of its pastes, by the soap each brings. The shares s ≥ 0, Σ s = 1, are chosen so that
the weighted misses of the target ranges are least, and no paste gives more than there is; among equals the fewest grams of what
is scarce. The program is small and HiGHS proves its optimum.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.purposes import Purpose, TargetRange, purposes
from sapolin.core.preparations.dilution import PasteOnHand
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, listed, text

__all__ = ["MixedShare", "PasteMixAnswer", "best_mix", "mix_purposes"]

SMALLEST_SHARE_PERCENT = 0.5
"""A paste that brings less than this is left out: nobody weighs it."""


class MixedShare(Model):
    """A paste of the answer."""

    batch_id: str
    share_percent: float
    """Of the soap."""


class PasteMixAnswer(Model):
    """The best mix."""

    shares: tuple[MixedShare, ...]
    qualities: dict[str, float]
    """Points by quality id."""
    misses: dict[str, float]
    """Points outside its range, by quality; empty when every range is met."""
    words: Text
    """How near it comes."""


def mix_purposes(pastes: Sequence[PasteOnHand]) -> tuple[Purpose, ...]:
    """To whose target ranges `pastes` can be mixed: those that paste is made for, none while there are no two pastes to mix. A
    paste that is made with too much lye on purpose is put right before it is mixed with anything.
    """
    if len(pastes) < 2:
        return ()
    return tuple(one for one in purposes().values() if one.makes == "paste" and not one.negative_superfat)


def best_mix(
    pastes: Sequence[PasteOnHand], target_ranges: Sequence[TargetRange], soap_g: float | None = None
) -> PasteMixAnswer:  # fmt: skip
    """The mix of `pastes` that comes nearest to `target_ranges`; `soap_g` is the soap that is needed, null for any amount.

    Raises FormulaError when there is no paste, or not enough of all of them together.
    """
    # Its solver takes a fifth of a second to load, which only those who mix pastes should wait for.
    from scipy.optimize import linprog  # type: ignore[import-untyped]

    if not pastes:
        raise FormulaError([stopping("no_paste", "pastes", is_open=True)])
    count = len(pastes)
    wanted = [one for one in target_ranges if one.quality in qualities()]
    most = [1.0 if soap_g is None else one.left_g * one.soap_percent / 100 / soap_g for one in pastes]
    if sum(most) < 1 - 1e-9:
        raise FormulaError([stopping("pastes_run_short", "pastes")])
    points = {
        one.quality: np.array([qualities()[one.quality].points(paste.acids_percent) for paste in pastes])
        for one in wanted
    }
    # Variables: the shares, then for every range how far below it and how far above it the mix lies.
    rows, bounds = [], []
    for i, one in enumerate(wanted):
        misses = np.zeros(2 * len(wanted))
        misses[2 * i] = -1.0
        rows.append(np.concatenate([-points[one.quality], misses]))
        bounds.append(-one.minimum)
        misses = np.zeros(2 * len(wanted))
        misses[2 * i + 1] = -1.0
        rows.append(np.concatenate([points[one.quality], misses]))
        bounds.append(one.maximum)
    widths = [max(one.maximum - one.minimum, 1.0) for one in wanted]
    cost = np.concatenate([np.zeros(count), [1.0 / width for width in widths for _ in range(2)]])
    found = linprog(
        cost,
        A_ub=np.array(rows) if rows else None,
        b_ub=np.array(bounds) if rows else None,
        A_eq=np.concatenate([np.ones(count), np.zeros(2 * len(wanted))])[None, :],
        b_eq=[1.0],
        bounds=[(0.0, upper) for upper in most] + [(0.0, None)] * (2 * len(wanted)),
        method="highs",
    )
    if found.status != 0:
        raise FormulaError([stopping("pastes_run_short", "pastes")])
    shares = _rounded(found.x[:count])
    mixed = {name: float(sum(shares[i] * quality.points(pastes[i].acids_percent) for i in range(count)) / 100)
             for name, quality in qualities().items()}  # fmt: skip
    missed = _misses(wanted, mixed)
    return PasteMixAnswer(
        shares=tuple(
            MixedShare(batch_id=paste.batch_id, share_percent=share)
            for paste, share in zip(pastes, shares, strict=True) if share > 0
        ),
        qualities=mixed,
        misses=missed,
        words=_words(missed),
    )  # fmt: skip


def _words(misses: Mapping[str, float]) -> Text:
    if not misses:
        return text("preparations.mix.met")
    return text("preparations.mix.missed", qualities=listed([qualities()[one].name.lower() for one in misses]))


def _misses(wanted: Sequence[TargetRange], mixed: Mapping[str, float]) -> dict[str, float]:
    outside = {
        one.quality: max(one.minimum - mixed[one.quality], mixed[one.quality] - one.maximum, 0.0) for one in wanted
    }
    return {quality: points for quality, points in outside.items() if points > 0.05}


def _rounded(shares: "np.ndarray[tuple[int], np.dtype[np.float64]]") -> list[float]:
    """Whole shares in %, that sum to 100; what is too small to weigh is left out and goes to the largest."""
    in_percent = [100 * float(share) for share in shares]
    kept = [round(share, 1) if share >= SMALLEST_SHARE_PERCENT else 0.0 for share in in_percent]
    largest = max(range(len(kept)), key=lambda i: kept[i])
    kept[largest] = round(kept[largest] + 100 - sum(kept), 1)
    return kept
