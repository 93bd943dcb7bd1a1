"""When a weight is off: what it does to the bar, and the ways out, calculated from what is in the pot already."""

from collections.abc import Iterator, Mapping
from typing import Literal

from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.qualities import purposes
from sapolin.core.batch.moulds import capacity_ml
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import WeighTarget
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.production.actual import ActualBatch, actual_batch, weights_g, with_cups
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model

__all__ = ["Correction", "Deviation", "deviation"]

WORTH_A_WORD_POINTS = 0.05
CorrectionId = Literal["pour_on", "remove", "keep_blend", "keep_size", "match_lye", "accept"]


class Correction(Model):
    """One way out."""

    correction: CorrectionId
    title: str
    text: str
    possible: bool
    why_not: str
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
    within_tolerance: bool
    now: ActualBatch
    """If nothing is done about it."""
    words: str
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
        weighing = self.planned.result.weighing
        fine = item.startswith(("lye:", "additive:", "scent:", "colour:"))
        return round(grams, weighing.lye_decimals if fine else weighing.decimals)

    def lye_for(self, oils: Mapping[str, float]) -> dict[str, float] | None:
        """Lye and water, g, that hold the planned superfat and lye lye concentration with these `oils` (g by item)."""
        weights = with_cups(self.planned, weights_g(self.targets, self.captured) | dict(oils))
        lines = [
            {**line.model_dump(exclude={"share_percent", "weight_g"}), "weight_g": weights[f"oil:{i}"]}
            for i, line in enumerate(self.planned.formula.blend.lines)
        ]
        blend = {"by": "weight", "lines": lines}
        formula = self.planned.formula.model_validate(self.planned.formula.model_dump() | {"blend": blend})
        try:
            weighing = calculate(formula, self.base).weighing
        except FormulaError:
            return None
        aside_g = sum(weights[cup.item] for cup in self.planned.cups if cup.source == "water")
        found = {"water": round(weighing.water - aside_g, weighing.decimals)} if "water" in self.targets else {}
        for kind, dry, solution in (
            ("naoh", weighing.naoh, weighing.naoh_solution), ("koh", weighing.koh, weighing.koh_solution)
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
    corrections = tuple(_corrections(case, now))
    return Deviation(
        item=weigh.item,
        name=weigh.name,
        target_g=case.target,
        captured_g=case.got,
        off_g=case.off,
        within_tolerance=abs(case.off) <= weigh.tolerance_g + 1e-9,
        now=now,
        words=_words(case, now),
        corrections=corrections,
    )


def _words(case: _Case, now: ActualBatch) -> str:
    side = "over" if case.off > 0 else "short"
    said = f"{case.weigh.name} is {abs(case.off):.{case.weigh.decimals}f} g {side}."
    if case.weigh.role == "oil":
        i = int(case.weigh.item.partition(":")[2])
        said += f" Its share would be {now.shares_percent[i]:.1f} % instead of {now.planned_shares_percent[i]:.1f} %."
    if case.off < 0:
        return said
    if case.moves_superfat(now):
        said += f" {_superfat_words(now)}"
    if case.weigh.role in ("water", "liquid") and now.result is not None:
        lye_concentration = now.result.water.lye_concentration_percent
        planned = case.planned.result.water.lye_concentration_percent
        said += f" The lye would be {lye_concentration:.1f} % strong instead of {planned:.1f} %."
    return said


def _superfat_words(made: ActualBatch) -> str:
    if made.result is None:
        return made.problems[0].message if made.problems else ""
    interval = made.result.lye.superfat_interval
    if interval.middle_percent < 0:
        return f"There would be {-interval.middle_percent:.1f} % more lye than the oils can take."
    return (
        f"True superfat {interval.middle_percent:.1f} %, 19 times in 20 between {interval.low_percent:.1f} and "
        f"{interval.high_percent:.1f} %.".replace("-", "−")
    )


def _is_dangerous(case: _Case, made: ActualBatch) -> bool:
    """Lye-heavy, or likelier so than is safe; a batch that was planned that near to it may not come nearer still."""
    if purposes()[case.planned.formula.purpose].negative_superfat:
        return False
    if made.result is None:
        return made.superfat_percent < 0
    interval, planned = made.result.lye.superfat_interval, case.planned.result.lye.superfat_interval
    risky = interval.middle_percent < 0 or interval.chance_lye_heavy_percent >= coefficient("lye_heavy.danger_chance")
    return risky and interval.middle_percent < planned.middle_percent


def _corrections(case: _Case, now: ActualBatch) -> Iterator[Correction]:
    if case.off < 0:
        yield _pour_on(case)
        yield _accept(case, now)
        return
    if case.weigh.role in ("oil", "lye"):
        yield _remove(case)
        yield _keep_blend(case)
        if case.weigh.role == "oil" and not case.lye_is_weighed():
            yield from _match_lye(case)
            yield from _keep_size(case)
        yield _accept(case, now)
    else:
        yield _remove(case)
        yield _accept(case, now)


def _pour_on(case: _Case) -> Correction:
    """The rest goes in; always possible."""
    text = f"{-case.off:.{case.weigh.decimals}f} g more, then take the weight again."
    topped = case.captured | {case.weigh.item: case.target}
    return Correction(correction="pour_on", title="Pour on", text=text, possible=True, why_not="", targets_g={},
               after=case.made(captured=topped))  # fmt: skip


def _remove(case: _Case) -> Correction:
    mixed = case.weigh.role == "oil" and case.plan.choices.weigh_into == "one_bowl" and len(
        [item for item in case.captured if item.startswith("oil:")]
    ) > 1  # fmt: skip
    text = f"Take {case.off:.{case.weigh.decimals}f} g out and weigh again."
    if mixed:
        text += " Only while it floats on its own: once it has mixed, the other oils come out with it."
    if case.weigh.role == "lye":
        text += " Back into its own dry tub, with a dry spoon."
    back = case.captured | {case.weigh.item: case.target}
    return Correction(correction="remove", title="Take it out", text=text, possible=True, why_not="", targets_g={},
               after=case.made(captured=back))  # fmt: skip


def _keep_blend(case: _Case) -> Correction:
    """Everything grows with what is too much."""
    factor = case.got / case.target
    targets = {
        item: case.got if item == case.weigh.item else case.rounded(item, grams * factor)
        for item, grams in case.targets.items()
    }
    volume = case.planned.volume.total_ml * factor
    rim = sum(capacity_ml(use.mould) for use in case.plan.moulds)
    fits = not case.plan.moulds or volume <= rim
    more = {item: targets[item] - case.captured[item] for item in case.captured if item != case.weigh.item}
    topped = sum(grams for grams in more.values() if grams > 0)
    text = f"The whole batch grows by {100 * (factor - 1):.1f} %: blend and superfat hold."
    if topped > 0:
        text += f" {topped:.1f} g more of what is weighed already."
    why = "" if fits else f"{volume:,.0f} mL do not fit into {rim:,.0f} mL of moulds, filled to the rim."
    return Correction(correction="keep_blend", title="Scale the rest up", text=text, possible=fits, why_not=why, targets_g=targets,
               after=case.made(targets))  # fmt: skip


def _match_lye(case: _Case) -> Iterator[Correction]:
    """Only lye and water follow."""
    lye = case.lye_for({})
    if lye is None:
        return
    text = "The blend shifts a little; lye and water are calculated anew, so the superfat holds."
    after = case.made(lye)
    yield Correction(
        correction="match_lye", title="Let the lye follow", text=text, possible=True, why_not="", targets_g=lye, after=after
    )  # fmt: skip


def _keep_size(case: _Case) -> Iterator[Correction]:
    """The oils still to come give what is too much."""
    left = case.open_oils()
    room = sum(case.targets[item] for item in left)
    if not left:
        return
    possible = room > case.off
    component = (room - case.off) / room if possible else 1.0
    oils = {item: case.rounded(item, case.targets[item] * component) for item in left}
    lye = case.lye_for(oils) if possible else {}
    if lye is None:
        return
    targets = oils | lye
    yield Correction(
        correction="keep_size", title="Less of the oils to come",
        text=f"The oils still to come give {case.off:.1f} g; lye and water are calculated anew. The batch keeps its size.",
        possible=possible, why_not="" if possible else "Too little oil is still to come.",
        targets_g=targets if possible else {}, after=case.made(targets if possible else None),
    )  # fmt: skip


def _accept(case: _Case, now: ActualBatch) -> Correction:
    why = ""
    if case.moves_superfat(now) and _is_dangerous(case, now):
        why = "It would be lye-heavy. " + _superfat_words(now)
    elif now.result is None and now.problems:
        why = f"{now.problems[0].message} {now.problems[0].remedy}"
    if case.weigh.role == "scent" and case.off > 0:
        line = case.planned.scents[int(case.weigh.item.partition(":")[2])]
        percent = line.percent_of_product * case.got / line.weight_g
        if line.limit_percent is not None and percent > line.limit_percent:
            why = f"{percent:.2f} % of the finished soap is over the supplier's limit of {line.limit_percent:g} %."
    text = "Nothing else changes." if case.off > 0 else "Go on with less."
    if case.weigh.role == "oil" and case.off < 0:
        i = int(case.weigh.item.partition(":")[2])
        text += f" Its share would be {now.shares_percent[i]:.1f} % instead of {now.planned_shares_percent[i]:.1f} %."
    if case.moves_superfat(now):
        text += f" {_superfat_words(now)}"
    return Correction(correction="accept", title="Accept it", text=text,
               possible=not why, why_not=why, targets_g={}, after=now)  # fmt: skip
