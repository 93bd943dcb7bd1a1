"""Which oil next? The one move that brings an unfinished or finished blend nearest to its target ranges."""

from collections.abc import Collection, Iterator, Sequence

from sapolin.core.bar.qualities import points_of, qualities, standing
from sapolin.core.formula.blend import by_oil, converted, entered_shares
from sapolin.core.formula.document import Blend, Formula, OilLine
from sapolin.core.formula.purposes import TargetRange, purposes
from sapolin.core.formula.usual import most_share_percent, usual_of
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.own import with_sound_materials
from sapolin.core.materials.usual_shares import class_of, familiarity_of, variants
from sapolin.core.optimise.swap.question import is_free_of
from sapolin.core.quantities.model import Model, Truth

__all__ = ["BestMove", "Reached", "best_move"]

SIZES_PERCENT = (5.0, 10.0, 15.0, 20.0, 25.0, 30.0)
WORTH_TELLING = 0.5
"""Points by which the ranges have to come nearer, all together."""
PER_POINT_MOVED = 0.02
"""A larger move has to bring so much more for each percent that it moves."""


class Reached(Model):
    """Where a quality stands after the move."""

    quality: str
    name: str
    points: float
    in_range: Truth


class BestMove(Model):
    """A share that one oil gives to another."""

    give: str
    give_name: str
    take: str
    take_name: str
    percent: float
    """Of the blend, its shares brought to 100."""
    is_new: Truth
    """The oil that takes is not in the blend yet."""
    nearer_by: float
    """Points by which the target ranges come nearer, all together."""
    reached: tuple[Reached, ...]
    """The qualities it is for, the most improved first."""
    blend: Blend
    """The blend after the move, its amounts entered as before."""


def best_move(
    formula: Formula, oils: Catalogue, *, at_hand: Collection[str] = (), never: Collection[str] = ()
) -> BestMove | None:  # fmt: skip
    """The single move of a share between two oils that brings the blend nearest to its target ranges; null when none helps.

    It works from the first oil on: shares entered so far are brought to 100, and nothing else need be entered. What takes may
    be an oil of the blend or one that most workshops have or this one has `at_hand`, free of what the formula must do without
    and not among what is `never` used, up to its usual most share. Locked oils do not move. Sizes are 5 to 30 % in steps
    of five.
    """
    known = with_sound_materials(oils, formula.materials)
    present = by_oil((one.oil.id, one.share_percent) for one in entered_shares(formula.blend, known))
    if not present or formula.purpose not in purposes():
        return None
    locked = {line.oil for line in formula.blend.lines if line.locked}
    ranges = [formula.target_range(quality) for quality in qualities()]
    now = _sum(present, known)
    best: tuple[float, tuple[Oil, Oil, float, float, list[float]]] | None = None
    for give, share in present.items():
        if give in locked:
            continue
        for take in _takers(formula, known, present, locked, at_hand, never):
            if take.id == give:
                continue
            for size in SIZES_PERCENT:
                if size > share + 1e-9 or not _fits(formula, known, present, take, size, known[give]):
                    continue
                change = size / 100
                after = [
                    value + change * (to - by)
                    for value, by, to in zip(now, points_of(known[give].profile), points_of(take.profile), strict=True)
                ]
                nearer = _miss(now, ranges) - _miss(after, ranges)
                worth = nearer - PER_POINT_MOVED * size
                if nearer >= WORTH_TELLING and (best is None or worth > best[0] + 1e-9):
                    best = worth, (known[give], take, size, nearer, after)
    return None if best is None else _told(formula, known, *best[1], now=now, ranges=ranges)


def _moved(blend: Blend, give: str, take: str, percent: float, known: Catalogue) -> Blend:
    """The blend with `percent` of what is entered of `known` oils moved; a new one comes last, and goes in at the start."""
    if len({line.by for line in blend.lines}) > 1:
        blend = converted(blend, "percent_of_oils")
    amount = percent / 100 * sum(max(line.value or 0.0, 0.0) for line in blend.lines if line.oil in known)
    lines = list(blend.lines)
    if all(line.oil != take for line in lines):
        lines.append(OilLine(oil=take, by=lines[0].by, value=0.0))
    # An oil may stand on several lines: each gives what it has until it is enough; the first takes.
    left = amount
    for i, line in enumerate(lines):
        if line.oil == give:
            gives = min(max(line.value or 0.0, 0.0), left)
            left -= gives
            lines[i] = line.model_copy(update={"value": round((line.value or 0.0) - gives, 4)})
    at = next(i for i, line in enumerate(lines) if line.oil == take)
    lines[at] = lines[at].model_copy(update={"value": round((lines[at].value or 0.0) + amount, 4)})
    return blend.model_copy(update={"lines": tuple(line for line in lines if line.value is None or line.value > 0)})


def _sum(shares: dict[str, float], oils: Catalogue) -> list[float]:
    rows = [(share / 100, points_of(oils[oil].profile)) for oil, share in shares.items()]
    return [sum(share * points[i] for share, points in rows) for i in range(len(qualities()))]


def _takers(
    formula: Formula, oils: Catalogue, present: dict[str, float], locked: set[str], at_hand: Collection[str],
    never: Collection[str],
) -> Iterator[Oil]:  # fmt: skip
    for oil in oils.values():
        if oil.id in present:
            if oil.id not in locked:
                yield oil
        elif (
            (oil.id in at_hand or (familiarity_of(oil) == "everyday" and oil.id not in variants()))
            and oil.id not in never
            and oil.known_profile_percent >= 100
            and not oil.components
            and all(is_free_of(oil, word) for word in formula.free_of)
        ):
            yield oil


def _fits(formula: Formula, oils: Catalogue, present: dict[str, float], take: Oil, size: float, give: Oil) -> bool:
    """Whether `take` stays within what makers use of it, or of all oils of its class together."""
    purpose, of = purposes()[formula.purpose], class_of(take)
    if of.together:
        together = sum(share for oil, share in present.items() if class_of(oils[oil]).id == of.id)
        given = size if class_of(give).id == of.id else 0.0
        return together + size - given <= max(usual_of(of, purpose).most, together)
    return present.get(take.id, 0.0) + size <= most_share_percent(take, purpose)


def _miss(values: Sequence[float], ranges: Sequence[TargetRange | None]) -> float:
    return sum(
        max(target_range.minimum - value, value - target_range.maximum, 0.0)
        for value, target_range in zip(values, ranges, strict=True)
        if target_range is not None
    )


def _told(
    formula: Formula, known: Catalogue, give: Oil, take: Oil, size: float, nearer: float, after: Sequence[float], *,
    now: Sequence[float], ranges: Sequence[TargetRange | None],
) -> BestMove:  # fmt: skip
    gains = sorted(
        (
            (_miss([was], [target_range]) - _miss([will], [target_range]), quality, will, target_range)
            for quality, was, will, target_range in zip(qualities().values(), now, after, ranges, strict=True)
        ),
        key=lambda gain: -gain[0],
    )
    return BestMove(
        give=give.id,
        give_name=give.name,
        take=take.id,
        take_name=take.name,
        percent=size,
        is_new=all(line.oil != take.id for line in formula.blend.lines),
        nearer_by=nearer,
        blend=_moved(formula.blend, give.id, take.id, size, known),
        reached=tuple(
            Reached(quality=quality.id, name=quality.name, points=will, in_range=standing(will, target_range) == "in")
            for gain, quality, will, target_range in gains[:3]
            if gain > 0.05
        ),
    )
