"""When a weight is off: what it does to the bar, and the corrections there are, calculated from what is weighed already."""

from collections.abc import Iterator, Mapping
from typing import Literal

from sapolin.core.bar.calculation import calculate
from sapolin.core.batch.moulds import capacity_ml
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.targets import WeighTarget, is_within
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.production.actual import ActualBatch, actual_batch, weights_g, with_cups
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Param, Text, number, percent, template, text, weight

__all__ = ["Correction", "Deviation", "deviation"]

WORTH_A_WORD_POINTS = 0.05
CorrectionId = Literal["pour_on", "remove", "keep_blend", "keep_size", "match_lye", "accept"]


class Correction(Model):
    """One thing that can be done."""

    correction: CorrectionId
    title: str
    text: Text
    possible: Truth
    why_not: Text
    targets_g: dict[str, float]
    """Targets from then on, g by item; those not named stay."""
    after: ActualBatch
    """What the batch will then be."""


class Deviation(Model):
    """A weight that is off."""

    item: str
    name: str
    target_g: float
    captured_g: float
    off_g: float
    """Above 0 there is too much."""
    within_tolerance: Truth
    now: ActualBatch
    """If nothing is done about it."""
    words: Text
    corrections: tuple[Correction, ...]
    """Those worth considering, the best first."""


class _Case:
    def __init__(
        self,
        plan: BatchPlan,
        planned: PlannedBatch,
        targets: Mapping[str, float],
        captured: Mapping[str, float],
        weigh: WeighTarget,
        base: Catalogue | None,
    ) -> None:
        self.plan, self.planned, self.base, self.weigh = plan, planned, base, weigh
        self.targets, self.captured = dict(targets), dict(captured)
        self.target, self.got = self.targets[weigh.item], self.captured[weigh.item]
        self.off = self.got - self.target

    def grams(self, value: float) -> Param:
        """A weight as finely as this item is weighed."""
        return weight(value, self.weigh.decimals)

    def made(
        self, targets: Mapping[str, float] | None = None, captured: Mapping[str, float] | None = None
    ) -> ActualBatch:
        """What comes out with these targets and captures; what is short of its target is topped up."""
        goals = self.targets | dict(targets or {})
        there = self.captured if captured is None else captured
        topped = {item: max(grams, goals[item]) if targets else grams for item, grams in there.items() if item in goals}
        return actual_batch(self.planned, weights_g(goals, topped), self.base)

    def moves_superfat(self, now: ActualBatch) -> bool:
        """Whether this weight, off as it is, moves the superfat: oil, lye, and what consumes lye."""
        if self.weigh.role in ("oil", "lye"):
            return True
        right = self.made(captured=self.captured | {self.weigh.item: self.target})
        if now.result is None or right.result is None:
            return True
        moved = now.result.lye.superfat_interval.middle_percent - right.result.lye.superfat_interval.middle_percent
        return abs(moved) > WORTH_A_WORD_POINTS

    def lye_is_weighed(self) -> bool:
        return any(item.startswith("lye:") for item in self.captured)

    def open_oils(self) -> list[str]:
        return [item for item in self.targets if item.startswith("oil:") and item not in self.captured]

    def rounded(self, item: str, grams: float) -> float:
        weights = self.planned.result.weights
        fine = item.startswith(("lye:", "additive:", "scent:", "colour:"))
        return round(grams, weights.lye_decimals if fine else weights.decimals)

    def lye_for(self, oils: Mapping[str, float]) -> dict[str, float] | None:
        """Lye and water, g, that keep the planned superfat and lye concentration with these `oils` (g by item)."""
        whole = with_cups(self.planned, weights_g(self.targets, self.captured) | dict(oils))
        blend = self.planned.formula.blend
        lines = tuple(
            line.model_copy(update={"by": "weight_g", "value": whole[f"oil:{i}"]}) for i, line in enumerate(blend.lines)
        )
        weighed = blend.model_copy(update={"total_oils_g": None, "lines": lines})
        try:
            weights = calculate(self.planned.formula.model_copy(update={"blend": weighed}), self.base).weights
        except FormulaError:
            return None
        aside_g = sum(whole[cup.item] for cup in self.planned.cups if cup.source == "water")
        found = {"water": round(weights.water - aside_g, weights.decimals)} if "water" in self.targets else {}
        for kind, dry, solution in (
            ("naoh", weights.naoh, weights.naoh_solution), ("koh", weights.koh, weights.koh_solution)
        ):  # fmt: skip
            if f"lye:{kind}" in self.targets:
                found[f"lye:{kind}"] = dry if solution is None else solution
        return found


def deviation(
    plan: BatchPlan,
    planned: PlannedBatch,
    targets: Mapping[str, float],
    captured: Mapping[str, float],
    weigh: WeighTarget,
    base: Catalogue | None = None,
) -> Deviation:
    """How far off the captured weight of `weigh` is, and what can be done.

    `targets` and `captured` are g by item, as the record adds up. The item must have been captured.
    """
    case = _Case(plan, planned, targets, captured, weigh, base)
    now = case.made()
    return Deviation(
        item=weigh.item,
        name=weigh.name,
        target_g=case.target,
        captured_g=case.got,
        off_g=case.off,
        within_tolerance=is_within(case.off, weigh.tolerance_g),
        now=now,
        words=_words(case, now),
        corrections=tuple(_corrections(case, now)),
    )


def _say(code: str, **params: Param) -> Text:
    return text(f"corrections.{code}", **params)


def _words(case: _Case, now: ActualBatch) -> Text:
    said = _say("over" if case.off > 0 else "short", name=case.weigh.name, off=case.grams(abs(case.off)))
    if case.weigh.role == "oil":
        said = (*said, *_share_words(case, now))
    if case.off < 0:
        return said
    if case.moves_superfat(now):
        said = (*said, " ", *_superfat_words(now))
    if case.weigh.role in ("water", "liquid") and now.result is not None:
        concentration = percent(now.result.water.lye_concentration_percent, 1)
        planned = percent(case.planned.result.water.lye_concentration_percent, 1)
        said = (*said, *_say("lye_concentration", concentration=concentration, planned=planned))
    return said


def _share_words(case: _Case, now: ActualBatch) -> Text:
    """Its share of the blend, when it is another at all as shown."""
    i = int(case.weigh.item.partition(":")[2])
    share, planned = round(now.shares_percent[i], 1), round(now.planned_shares_percent[i], 1)
    return () if share == planned else _say("share", share=percent(share, 1), planned=percent(planned, 1))


def _superfat_words(made: ActualBatch) -> Text:
    if made.result is None:
        return made.problems[0].message if made.problems else ()
    interval = made.result.lye.superfat_interval
    if interval.middle_percent < 0:
        return _say("lye_heavy", excess=percent(-interval.middle_percent, 1))
    return _say(
        "superfat", superfat=percent(interval.middle_percent, 1), low=number(interval.low_percent, 1),
        high=percent(interval.high_percent, 1),
    )  # fmt: skip


def _is_dangerous(case: _Case, made: ActualBatch) -> bool:
    """Lye-heavy, or likelier so than is safe; a batch that was planned that near to it may not come nearer still."""
    if purposes()[case.planned.formula.purpose].negative_superfat:
        return False
    if made.result is None:
        return made.superfat_percent < 0
    interval, planned = made.result.lye.superfat_interval, case.planned.result.lye.superfat_interval
    risky = interval.chance_lye_heavy_percent >= coefficient("lye_heavy.danger_chance")
    return risky and interval.middle_percent < planned.middle_percent


def _corrections(case: _Case, now: ActualBatch) -> Iterator[Correction]:
    if case.off < 0:
        yield _pour_on(case)
    else:
        yield _remove(case)
        if case.weigh.role in ("oil", "lye"):
            yield _keep_blend(case)
        if case.weigh.role == "oil" and not case.lye_is_weighed():
            yield from _match_lye(case)
            yield from _keep_size(case)
    yield _accept(case, now)


def _correction(
    correction: CorrectionId,
    said: Text,
    after: ActualBatch,
    *,
    targets: Mapping[str, float] | None = None,
    why_not: Text = (),
) -> Correction:
    return Correction(
        correction=correction, title=template(f"corrections.titles.{correction}"), text=said, possible=not why_not,
        why_not=why_not, targets_g=dict(targets or {}), after=after,
    )  # fmt: skip


def _pour_on(case: _Case) -> Correction:
    """The rest goes in; always possible."""
    topped = case.captured | {case.weigh.item: case.target}
    return _correction("pour_on", _say("pour_on", more=case.grams(-case.off)), case.made(captured=topped))


def _remove(case: _Case) -> Correction:
    mixed = case.plan.choices.weigh_into == "one_bowl" and sum(item.startswith("oil:") for item in case.captured) > 1
    said = _say("remove", off=case.grams(case.off))
    if case.weigh.role == "oil" and mixed:
        said = (*said, *_say("remove_before_it_mixes"))
    if case.weigh.role == "lye":
        said = (*said, *_say("remove_lye"))
    back = case.captured | {case.weigh.item: case.target}
    return _correction("remove", said, case.made(captured=back))


def _keep_blend(case: _Case) -> Correction:
    """Everything grows with what is too much."""
    factor = case.got / case.target
    targets = {
        item: case.got if item == case.weigh.item else case.rounded(item, grams * factor)
        for item, grams in case.targets.items()
    }
    volume = case.planned.volume.total_ml * factor
    rim = sum(capacity_ml(use.mould) for use in case.plan.moulds)
    why = _say("does_not_fit", volume=number(volume, 0, "mL"), rim=number(rim, 0, "mL"))
    more = {item: targets[item] - case.captured[item] for item in case.captured if item != case.weigh.item}
    topped = sum(max(grams, 0.0) for grams in more.values())
    said = _say("keep_blend", growth=percent(100 * (factor - 1), 1))
    if topped > 0:
        said = (*said, *_say("keep_blend_tops_up", more=weight(topped)))
    fits = not case.plan.moulds or volume <= rim
    return _correction("keep_blend", said, case.made(targets), targets=targets, why_not=() if fits else why)


def _match_lye(case: _Case) -> Iterator[Correction]:
    """Only lye and water follow."""
    lye = case.lye_for({})
    if lye is not None:
        yield _correction("match_lye", _say("match_lye"), case.made(lye), targets=lye)


def _keep_size(case: _Case) -> Iterator[Correction]:
    """The oils still to come give what is too much; of each something is left."""
    left = case.open_oils()
    room = sum(case.targets[item] for item in left)
    if not left:
        return
    said = _say("keep_size", off=weight(case.off))
    part = (room - case.off) / room if room > case.off else 0.0
    oils = {item: case.rounded(item, case.targets[item] * part) for item in left}
    if min(oils.values()) <= 0:
        yield _correction("keep_size", said, case.made(), why_not=_say("too_little_to_come"))
        return
    lye = case.lye_for(oils)
    if lye is not None:
        yield _correction("keep_size", said, case.made(oils | lye), targets=oils | lye)


def _accept(case: _Case, now: ActualBatch) -> Correction:
    why: Text = ()
    if case.moves_superfat(now) and _is_dangerous(case, now):
        why = (*_say("would_be_lye_heavy"), " ", *_superfat_words(now))
    elif now.result is None and now.problems:
        why = (*now.problems[0].message, " ", *now.problems[0].remedy)
    if case.weigh.role == "scent" and case.off > 0:
        line = case.planned.scents[int(case.weigh.item.partition(":")[2])]
        rate = line.percent_of_product * case.got / line.weight_g
        if line.limit_percent is not None and rate > line.limit_percent:
            why = _say("over_the_limit", rate=percent(rate, 2), limit=percent(line.limit_percent))
    said = _say("accept_less" if case.off < 0 else "accept")
    if case.weigh.role == "oil" and case.off < 0:
        said = (*said, *_share_words(case, now))
    if case.moves_superfat(now):
        said = (*said, " ", *_superfat_words(now))
    return _correction("accept", said, now, why_not=why)
