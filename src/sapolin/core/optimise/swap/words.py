"""What a swap does, in plain words."""

from collections.abc import Mapping, Sequence
from typing import Protocol

from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult, QualityResult
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.fatty_acids import ACIDS

__all__ = ["in_words"]


class _Named(Protocol):
    @property
    def oil(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def share_percent(self) -> float: ...


def in_words(
    before: FormulaResult, after: FormulaResult, goes: Mapping[str, float], incoming: Sequence[_Named], oils: Catalogue
) -> tuple[str, ...]:
    """Sentences on which replacement does what, how the quality scales stand, and what to mind while making.

    `goes` is what leaves the blend, % of it by oil.
    """
    return (
        *_allergens(incoming, oils),
        *_takes_over(before, goes, incoming, oils),
        _scales(before, after),
        *_in_the_bowl(before, after, incoming, oils),
    )


def _takes_over(
    before: FormulaResult, goes: Mapping[str, float], incoming: Sequence[_Named], oils: Catalogue
) -> list[str]:
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
        components = [
            f"{min(brought[i], lost[i]):.1f} of the {lost[i]:.1f} points of {ACIDS[i].name} acid"
            for i in taken
            if min(brought[i], lost[i]) >= 0.5
        ]
        said = (
            f"{new.name} makes up for {' and '.join(components)}"
            if components
            else f"{new.name} makes up for little that went"
        )
        if brought[extra] - lost[extra] >= 1:
            said += f", and brings {brought[extra] - lost[extra]:.1f} points more of {ACIDS[extra].name}"
        sentences.append(said + ".")
    return sentences


def _scales(before: FormulaResult, after: FormulaResult) -> str:
    out = [quantity for quantity in after.qualities if quantity.outside_by > 0]
    were_out = {quantity.quality: quantity for quantity in before.qualities if quantity.outside_by > 0}
    if not out:
        return "Every quality scale with a target range stays in it."
    said = []
    for quantity in out:
        was = were_out.get(quantity.quality)
        earlier = "" if was is None else f", before {was.outside_by:.1f} {_side(was)}"
        name = qualities()[quantity.quality].name.lower()
        said.append(f"{name} is {quantity.outside_by:.1f} {_side(quantity)}{earlier}")
    return (
        f"All quality scales in target range but {len(out)}: {'; '.join(said)}."
        if len(out) < 7
        else f"{'; '.join(said)}."
    )


def _side(quantity: QualityResult) -> str:
    return "over" if quantity.standing == "above" else "under"


def _in_the_bowl(before: FormulaResult, after: FormulaResult, incoming: Sequence[_Named], oils: Catalogue) -> list[str]:
    sentences = []
    hardest = max(incoming, key=lambda new: oils[new.oil].melting_c.typical, default=None)
    if hardest is not None and oils[hardest.oil].melting_c.typical > 38:
        sentences.append(
            f"{hardest.name} melts at {oils[hardest.oil].melting_c.typical:.0f} °C: keep the fats above that until trace."
        )
    if before.bar and after.bar and after.bar.trace != before.bar.trace:
        sentences.append(f"Trace turns {after.bar.trace}, from {before.bar.trace}.")
    sentences.append("Try it at 500 g first.")
    return sentences


def _allergens(incoming: Sequence[_Named], oils: Catalogue) -> list[str]:
    found = sorted({word for new in incoming for word in oils[new.oil].allergen_groups})
    return [f"It brings an allergen: {', '.join(found)}."] if found else []
