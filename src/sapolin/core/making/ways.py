"""When a weight is off: what it does to the bar, and the ways out, reckoned from what is in the pot already."""

from collections.abc import Iterator, Mapping
from typing import Literal

from sapolin.core.batch.moulds import capacity_ml
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.steps import WeighTarget
from sapolin.core.catalogue import Catalogue
from sapolin.core.coefficients import coefficient
from sapolin.core.making.as_made import AsMade, as_made, weights_g, with_cups
from sapolin.core.model import Model
from sapolin.core.problems import FormulaError
from sapolin.core.qualities import purposes
from sapolin.core.reckoning import reckon

__all__ = ["Deviation", "Way", "deviation"]

WORTH_A_WORD_POINTS = 0.05
WayId = Literal["pour_on", "remove", "keep_blend", "keep_size", "match_lye", "accept"]


class Way(Model):
    """One way out."""

    way: WayId
    title: str
    text: str
    possible: bool
    why_not: str
    targets_g: dict[str, float]
    """Targets from then on, g by item; those not named stay."""
    after: AsMade
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
    now: AsMade
    """If nothing is done about it."""
    words: str
    ways: tuple[Way, ...]
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

    def made(self, targets: Mapping[str, float] | None = None, captured: Mapping[str, float] | None = None) -> AsMade:
        """What comes out with these targets and captures; what is short of its target is topped up."""
        goals = self.targets | dict(targets or {})
        there = self.captured if captured is None else captured
        topped = {item: max(grams, goals[item]) if targets else grams for item, grams in there.items() if item in goals}
        return as_made(self.planned, weights_g(goals, topped), self.base)

    def moves_superfat(self, now: AsMade) -> bool:
        """Whether this weight, off as it is, moves the superfat: oil, lye, and what eats lye."""
        if self.weigh.role in ("oil", "lye"):
            return True
        right = self.made(captured=self.captured | {self.weigh.item: self.target})
        if now.figures is None or right.figures is None:
            return True
        moved = now.figures.lye.superfat_interval.middle_percent - right.figures.lye.superfat_interval.middle_percent
        return abs(moved) > WORTH_A_WORD_POINTS

    def lye_is_weighed(self) -> bool:
        return any(item.startswith("lye:") for item in self.captured)

    def open_oils(self) -> list[str]:
        return [item for item in self.targets if item.startswith("oil:") and item not in self.captured]

    def rounded(self, item: str, grams: float) -> float:
        weighing = self.planned.figures.weighing
        fine = item.startswith(("lye:", "additive:", "scent:", "colour:"))
        return round(grams, weighing.lye_decimals if fine else weighing.decimals)

    def lye_for(self, oils: Mapping[str, float]) -> dict[str, float] | None:
        """Lye and water, g, that hold the planned superfat and lye strength with these `oils` (g by item)."""
        weights = with_cups(self.planned, weights_g(self.targets, self.captured) | dict(oils))
        lines = [
            {**line.model_dump(exclude={"share_percent", "weight_g"}), "weight_g": weights[f"oil:{i}"]}
            for i, line in enumerate(self.planned.formula.blend.lines)
        ]
        blend = {"by": "weight", "lines": lines}
        formula = self.planned.formula.model_validate(self.planned.formula.model_dump() | {"blend": blend})
        try:
            weighing = reckon(formula, self.base).weighing
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
    ways = tuple(_ways(case, now))
    return Deviation(
        item=weigh.item,
        name=weigh.name,
        target_g=case.target,
        captured_g=case.got,
        off_g=case.off,
        within_tolerance=abs(case.off) <= weigh.tolerance_g + 1e-9,
        now=now,
        words=_words(case, now),
        ways=ways,
    )


def _words(case: _Case, now: AsMade) -> str:
    side = "over" if case.off > 0 else "short"
    said = f"{case.weigh.name} is {abs(case.off):.{case.weigh.decimals}f} g {side}."
    if case.weigh.role == "oil":
        i = int(case.weigh.item.partition(":")[2])
        said += f" Its share would be {now.shares_percent[i]:.1f} % instead of {now.planned_shares_percent[i]:.1f} %."
    if case.off < 0:
        return said
    if case.moves_superfat(now):
        said += f" {_superfat_words(now)}"
    if case.weigh.role in ("water", "liquid") and now.figures is not None:
        strength = now.figures.water.lye_concentration_percent
        planned = case.planned.figures.water.lye_concentration_percent
        said += f" The lye would be {strength:.1f} % strong instead of {planned:.1f} %."
    return said


def _superfat_words(made: AsMade) -> str:
    if made.figures is None:
        return made.problems[0].message if made.problems else ""
    interval = made.figures.lye.superfat_interval
    if interval.middle_percent < 0:
        return f"There would be {-interval.middle_percent:.1f} % more lye than the oils can take."
    return (
        f"True superfat {interval.middle_percent:.1f} %, 19 times in 20 between {interval.low_percent:.1f} and "
        f"{interval.high_percent:.1f} %.".replace("-", "−")
    )


def _is_dangerous(case: _Case, made: AsMade) -> bool:
    """Lye-heavy, or likelier so than is safe; a batch that was planned that near to it may not come nearer still."""
    if purposes()[case.planned.formula.purpose].negative_superfat:
        return False
    if made.figures is None:
        return made.superfat_percent < 0
    interval, planned = made.figures.lye.superfat_interval, case.planned.figures.lye.superfat_interval
    risky = interval.middle_percent < 0 or interval.chance_lye_heavy_percent >= coefficient("lye_heavy.danger_chance")
    return risky and interval.middle_percent < planned.middle_percent


def _ways(case: _Case, now: AsMade) -> Iterator[Way]:
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


def _pour_on(case: _Case) -> Way:
    """The rest goes in; always possible."""
    text = f"{-case.off:.{case.weigh.decimals}f} g more, then take the weight again."
    topped = case.captured | {case.weigh.item: case.target}
    return Way(way="pour_on", title="Pour on", text=text, possible=True, why_not="", targets_g={},
               after=case.made(captured=topped))  # fmt: skip


def _remove(case: _Case) -> Way:
    mixed = case.weigh.role == "oil" and case.plan.choices.weigh_into == "one_pot" and len(
        [item for item in case.captured if item.startswith("oil:")]
    ) > 1  # fmt: skip
    text = f"Take {case.off:.{case.weigh.decimals}f} g out and weigh again."
    if mixed:
        text += " Only while it floats on its own: once it has mixed, the other oils come out with it."
    if case.weigh.role == "lye":
        text += " Back into its own dry tub, with a dry spoon."
    back = case.captured | {case.weigh.item: case.target}
    return Way(way="remove", title="Take it out", text=text, possible=True, why_not="", targets_g={},
               after=case.made(captured=back))  # fmt: skip


def _keep_blend(case: _Case) -> Way:
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
    return Way(way="keep_blend", title="Scale the rest up", text=text, possible=fits, why_not=why, targets_g=targets,
               after=case.made(targets))  # fmt: skip


def _match_lye(case: _Case) -> Iterator[Way]:
    """Only lye and water follow."""
    lye = case.lye_for({})
    if lye is None:
        return
    text = "The blend shifts a little; lye and water are reckoned anew, so the superfat holds."
    after = case.made(lye)
    yield Way(
        way="match_lye", title="Let the lye follow", text=text, possible=True, why_not="", targets_g=lye, after=after
    )  # fmt: skip


def _keep_size(case: _Case) -> Iterator[Way]:
    """The oils still to come give what is too much."""
    left = case.open_oils()
    room = sum(case.targets[item] for item in left)
    if not left:
        return
    possible = room > case.off
    part = (room - case.off) / room if possible else 1.0
    oils = {item: case.rounded(item, case.targets[item] * part) for item in left}
    lye = case.lye_for(oils) if possible else {}
    if lye is None:
        return
    targets = oils | lye
    yield Way(
        way="keep_size", title="Less of the oils to come",
        text=f"The oils still to come give {case.off:.1f} g; lye and water are reckoned anew. The batch keeps its size.",
        possible=possible, why_not="" if possible else "Too little oil is still to come.",
        targets_g=targets if possible else {}, after=case.made(targets if possible else None),
    )  # fmt: skip


def _accept(case: _Case, now: AsMade) -> Way:
    why = ""
    if case.moves_superfat(now) and _is_dangerous(case, now):
        why = "It would be lye-heavy. " + _superfat_words(now)
    elif now.figures is None and now.problems:
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
    return Way(way="accept", title="Accept it", text=text,
               possible=not why, why_not=why, targets_g={}, after=now)  # fmt: skip
