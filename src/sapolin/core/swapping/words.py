"""What a swap does, in plain words."""

from collections.abc import Mapping, Sequence
from typing import Protocol

from sapolin.core.acids import ACIDS
from sapolin.core.catalogue import Catalogue
from sapolin.core.figures import Reckoning
from sapolin.core.qualities import qualities

__all__ = ["in_words"]


class _Named(Protocol):
    @property
    def oil(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def share_percent(self) -> float: ...


def in_words(
    before: Reckoning, after: Reckoning, goes: Mapping[str, float], incoming: Sequence[_Named], oils: Catalogue
) -> tuple[str, ...]:
    """Sentences on who takes over what, how the tracks stand, and what to mind at the pot.

    `goes` is what leaves the blend, % of it by oil.
    """
    return (
        *_takes_over(before, goes, incoming, oils),
        _tracks(before, after),
        *_at_the_pot(before, after, incoming, oils),
    )


def _takes_over(before: Reckoning, goes: Mapping[str, float], incoming: Sequence[_Named], oils: Catalogue) -> list[str]:
    lost = [
        sum(
            given * goes[oil.oil] / oil.share_percent
            for given, oil in zip(share.contributions, before.oils, strict=True)
            if oil.oil in goes and oil.share_percent > 0
        )
        for share in before.acids
    ]
    sentences = []
    for new in incoming:
        brought = [new.share_percent * percent / 100 for percent in oils[new.oil].profile]
        taken = sorted(range(len(ACIDS)), key=lambda i: -min(brought[i], lost[i]))[:2]
        extra = sorted(range(len(ACIDS)), key=lambda i: -(brought[i] - lost[i]))[0]
        parts = [
            f"{min(brought[i], lost[i]):.1f} of the {lost[i]:.1f} points of {ACIDS[i].name} acid"
            for i in taken
            if min(brought[i], lost[i]) >= 0.5
        ]
        said = (
            f"{new.name} makes up for {' and '.join(parts)}" if parts else f"{new.name} makes up for little that went"
        )
        if brought[extra] - lost[extra] >= 1:
            said += f", and brings {brought[extra] - lost[extra]:.1f} points more of {ACIDS[extra].name}"
        sentences.append(said + ".")
    return sentences


def _tracks(before: Reckoning, after: Reckoning) -> str:
    out = [figure for figure in after.qualities if figure.outside_by > 0]
    were_out = {figure.quality for figure in before.qualities if figure.outside_by > 0}
    if not out:
        return "Every track with a band stays in it."
    said = []
    for figure in out:
        side = "over" if figure.standing == "above" else "under"
        was = ", as before" if figure.quality in were_out else ""
        said.append(f"{qualities()[figure.quality].name.lower()} is {figure.outside_by:.1f} {side}{was}")
    return f"All tracks in band but {len(out)}: {'; '.join(said)}." if len(out) < 7 else f"{'; '.join(said)}."


def _at_the_pot(before: Reckoning, after: Reckoning, incoming: Sequence[_Named], oils: Catalogue) -> list[str]:
    sentences = []
    hardest = max(incoming, key=lambda new: oils[new.oil].melting_c.typical, default=None)
    if hardest is not None and oils[hardest.oil].melting_c.typical > 38:
        sentences.append(
            f"{hardest.name} melts at {oils[hardest.oil].melting_c.typical:.0f} °C: keep the fats above that until trace."
        )
    if before.bar and after.bar and after.bar.trace != before.bar.trace:
        sentences.append(f"Trace turns {after.bar.trace}, from {before.bar.trace}.")
    allergens = sorted({word for new in incoming for word in oils[new.oil].allergen_groups})
    if allergens:
        sentences.append(f"It brings an allergen: {', '.join(allergens)}.")
    sentences.append("Try it at 500 g first.")
    return sentences
