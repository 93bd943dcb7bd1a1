"""What a swap does, in plain words."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Protocol

from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult, QualityResult
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.quantities.text import (
    Param,
    Temperature,
    Text,
    joined,
    listed,
    number,
    template,
    text,
    weight,
)

__all__ = ["in_words", "said"]

TRY_FIRST_G = 500.0
"""What a first try of a swapped formula is made at."""
WARM_FATS_C = 38.0
"""Fats that melt above this ask for more warmth than the usual."""
WORTH_SAYING = 0.5
"""Points of a fatty acid below this are not spoken of."""


class _Named(Protocol):
    @property
    def oil(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def share_percent(self) -> float: ...


def said(code: str, **params: Param | Text) -> Text:
    """Words of a swap from the catalogue of messages."""
    return text(f"swap_words.{code}", **params)


def in_words(
    before: FormulaResult, after: FormulaResult, goes: Mapping[str, float], incoming: Sequence[_Named], oils: Catalogue
) -> tuple[Text, ...]:
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
) -> Iterator[Text]:
    lost = [
        sum(
            given * goes[oil.oil] / oil.share_percent
            for given, oil in zip(share.contributions, before.oils, strict=False)
            if oil.oil in goes and oil.share_percent > 0
        )
        for share in before.acids
    ]
    for new in incoming:
        brought = [new.share_percent * percent / 100 for percent in oils[new.oil].profile]
        taken = sorted(range(len(ACIDS)), key=lambda i: -min(brought[i], lost[i]))[:2]
        extra = max(range(len(ACIDS)), key=lambda i: brought[i] - lost[i])
        jobs = [
            said("job", points=number(min(brought[i], lost[i]), 1), lost=number(lost[i], 1), acid=ACIDS[i].name)
            for i in taken
            if min(brought[i], lost[i]) >= WORTH_SAYING
        ]
        done = joined(jobs, f" {template('list.and')} ") if jobs else said("little")
        more = brought[extra] - lost[extra]
        if more >= 1:
            yield said("makes_up_and_brings", name=new.name, jobs=done, more=number(more, 1), acid=ACIDS[extra].name)
        else:
            yield said("makes_up", name=new.name, jobs=done)


def _scales(before: FormulaResult, after: FormulaResult) -> Text:
    out = [quantity for quantity in after.qualities if quantity.outside_by > 0]
    were_out = {quantity.quality: quantity for quantity in before.qualities if quantity.outside_by > 0}
    if not out:
        return said("all_in_range")
    told = []
    for quantity in out:
        name = qualities()[quantity.quality].name.lower()
        now = said(_side(quantity), quality=name, by=number(quantity.outside_by, 1))
        was = were_out.get(quantity.quality)
        told.append(now if was is None else said(f"{_side(was)}_before", now=now, by=number(was.outside_by, 1)))
    scales = joined(told, "; ")
    if len(out) == len(qualities()):
        return said("scales", scales=scales)
    return said("all_but", count=number(len(out)), scales=scales)


def _side(quantity: QualityResult) -> str:
    return "over" if quantity.standing == "above" else "under"


def _in_the_bowl(
    before: FormulaResult, after: FormulaResult, incoming: Sequence[_Named], oils: Catalogue
) -> Iterator[Text]:
    hardest = max(incoming, key=lambda new: oils[new.oil].melting_c.typical, default=None)
    if hardest is not None and oils[hardest.oil].melting_c.typical > WARM_FATS_C:
        yield said("melts", name=hardest.name, melts=Temperature(c=oils[hardest.oil].melting_c.typical))
    if before.bar and after.bar and after.bar.trace != before.bar.trace:
        yield said("trace", after=after.bar.trace, before=before.bar.trace)
    yield said("test_first", weight=weight(TRY_FIRST_G, 0))


def _allergens(incoming: Sequence[_Named], oils: Catalogue) -> Iterator[Text]:
    found = sorted({word for new in incoming for word in oils[new.oil].allergen_groups})
    if found:
        yield said("allergens", groups=listed(found))
