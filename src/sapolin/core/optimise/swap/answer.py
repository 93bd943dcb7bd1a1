"""From a swap question to its answer: ranked candidates, each calculated in full, with the words for them."""

from collections.abc import Callable, Sequence

import numpy as np

from sapolin.core.advice.report import advice
from sapolin.core.advice.rulebook import TARGET_RANGE_CODES
from sapolin.core.bar.calculation import calculate, calculation_of
from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.blend import converted
from sapolin.core.formula.composition import OilComponent
from sapolin.core.formula.cost import OilCost, oil_cost
from sapolin.core.formula.document import Blend, Formula, OilLine
from sapolin.core.formula.purposes import purposes
from sapolin.core.formula.usual import most_share_percent, usual_of
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.own import with_materials
from sapolin.core.materials.usual_shares import class_of, familiarity_of, share_classes
from sapolin.core.optimise.swap.features import FEATURES, feature_rows, weights_of
from sapolin.core.optimise.swap.moving import search_moving
from sapolin.core.optimise.swap.question import (
    SwapQuestion,
    allowed_oils,
    check_question,
    is_free_of,
    must_be_free_of,
)
from sapolin.core.optimise.swap.search import Found, Mover, Search, SwapCancelledError, search
from sapolin.core.optimise.swap.words import in_words, said
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model, Truth, given
from sapolin.core.quantities.text import Number, Text, joined, number, percent, significant, template, weight

__all__ = ["DistanceTerm", "EqualSapContrast", "Incoming", "JobDone", "SwapAnswer", "SwapCandidate", "answer_swap"]

CANDIDATES = 5
_SEARCHED = (60, 160)
"""Sets of oils asked of the search: few at first, more when too few of them really differ."""
_SEARCHED_MOVING = (12, 40)
"""The same when all the oils move, where every set is a search of its own."""


class Incoming(Model):
    """A new oil, or one that moved."""

    oil: str
    name: str
    share_percent: float
    """Its new share, %; of one that moved, the change."""


class DistanceTerm(Model):
    """What makes up a distance."""

    feature: str
    name: str
    change: float
    """Points by which it differs from what was aimed at."""
    term_percent: float
    """Its part of the squared distance, %."""


class JobDone(Model):
    """Something that the outgoing oils were doing in this blend."""

    quality: str
    points: float
    """Points they gave."""
    of_points: float
    """Points of the whole blend."""


class SwapCandidate(Model):
    """One replacement, rounded as it will be weighed."""

    incoming: tuple[Incoming, ...]
    moved: tuple[Incoming, ...]
    """Oils that stay and moved, the largest change first."""
    distance: float
    """Weighted distance from what was aimed at, points; 0 is no change at all."""
    match_percent: float
    """How much of the squared distance that simply leaving the oil out would open is closed, %."""
    terms: tuple[DistanceTerm, ...]
    """What the distance is made of, the largest first."""
    cost: OilCost
    formula: Formula
    result: FormulaResult
    words: tuple[Text, ...]
    """What to mind first of all, what replaces what, and where the scales stand."""
    diagnostics: tuple[Diagnostic, ...]
    """What to know of it, the gravest first."""


class Refused(Model):
    """A replacement that is not offered, because nobody would pour it."""

    names: tuple[str, ...]
    match_percent: float
    diagnostics: tuple[Diagnostic, ...]
    """What the rule book says of it and did not say before; empty when it only matches too little."""


class EqualSapContrast(Model):
    """The nearest single oil by lye need alone, to show where that rule leads."""

    name: str
    sap_difference_koh_mg_per_g: float
    formula: Formula
    result: FormulaResult
    words: Text


class SwapAnswer(Model):
    """The answer to a swap."""

    before: FormulaResult
    cost_before: OilCost
    outgoing_percent: float
    """Share that has to find new homes, %."""
    jobs: tuple[JobDone, ...]
    """What the outgoing oils were doing, the largest first."""
    candidates: tuple[SwapCandidate, ...]
    proven: Truth
    """The first candidate is the best there is."""
    compared: int
    """Sets of oils that were weighed against each other."""
    allowed: int
    """Oils that could be chosen from."""
    equal_sap: EqualSapContrast | None
    words: Text
    """What the outgoing oils were doing, in a sentence."""
    outgoing_g: float
    """Weight that has to find new homes, g, in the batch of the formula."""
    why_first: Text
    """Why the first candidate is first, in a sentence; empty without one."""
    refused: tuple[Refused, ...]
    """The nearest that are not offered, each with what the rule book says of it."""


class _Case:
    """A question with everything the steps share."""

    def __init__(self, question: SwapQuestion, base: Catalogue, go_on: Callable[[], bool]) -> None:
        self.question, self.go_on = question, go_on
        formula = question.formula
        calculation = calculation_of(formula, base)  # It refuses unsound materials, before anything is made of them.
        self.before = calculation.result
        self.purpose = purposes()[formula.purpose]
        self.said_before = {_key(one) for one in advice(calculation)}
        self.oils = with_materials(base, formula.materials)
        self.components: Sequence[OilComponent] = calculation.composition.oils
        check_question(
            question, {component.oil.id: component.share_percent for component in self.components}, self.oils
        )
        kept = {outgoing.oil: outgoing.keep_percent for outgoing in question.outgoing}
        self.goes = {
            component.oil.id: component.share_percent - kept[component.oil.id]
            for component in self.components
            if component.oil.id in kept
        }
        self.share = sum(self.goes.values())
        self.stays = {
            component.oil.id: component.share_percent - self.goes.get(component.oil.id, 0.0)
            for component in self.components
        }
        present = set(self.stays)
        self.allowed = tuple(oil for oil in allowed_oils(question, self.oils) if oil.id not in present)
        self.weights = np.sqrt(weights_of(question.school))
        present_rows = feature_rows([component.oil for component in self.components]) / 100
        self.present_rows = present_rows * self.weights
        before = np.array([component.share_percent for component in self.components]) @ present_rows
        self.aim = self._aimed_at(before) * self.weights
        stays = np.array([self.stays[component.oil.id] for component in self.components])
        self.target = self.aim - stays @ self.present_rows
        self.rows = feature_rows(self.allowed) / 100 * self.weights

    def _aimed_at(self, before: np.ndarray) -> np.ndarray:
        if not self.question.into_target_ranges:
            return before
        aim = before.copy()
        for i, feature in enumerate(FEATURES):
            target_range = self.question.formula.target_range(feature.id)
            if target_range is not None:
                aim[i] = min(max(aim[i], target_range.minimum), target_range.maximum)
        return aim

    def distance_of_leaving_out(self) -> float:
        """Distance when nothing comes in and the rest is scaled up, points."""
        left = 100 - self.share
        if left <= 0:
            return float(np.linalg.norm(self.aim))
        stays = np.array([self.stays[component.oil.id] for component in self.components])
        return float(np.linalg.norm(stays * 100 / left @ self.present_rows - self.aim))

    def movers(self) -> tuple[Mover, ...]:
        if self.question.others == "locked":
            return ()
        within = 100.0 if self.question.others == "free" else self.question.within_points
        return tuple(
            Mover(
                self.present_rows[i],
                -min(within, max(self.stays[line.oil] - self.question.step_percent, 0.0)),
                min(within, max(most_share_percent(self.oils[line.oil], self.purpose) - self.stays[line.oil], 0.0)),
            )
            for i, line in self.movable_lines()
        )

    def movable_lines(self) -> list[tuple[int, OilLine]]:
        """Lines that may move: not locked, and not among those that go."""
        lines = enumerate(self.question.formula.blend.lines)
        return [(i, line) for i, line in lines if not line.locked and line.oil not in self.goes]

    def most_each(self) -> np.ndarray:
        """What each allowed oil may take, less what the blend already has of its class, by the usual shares."""
        present: dict[str, float] = {}
        for component in self.components:
            of = class_of(component.oil).id
            present[of] = present.get(of, 0.0) + self.stays[component.oil.id]
        return np.array([
            max(most_share_percent(oil, self.purpose) - present.get(class_of(oil).id, 0.0), 0.0) for oil in self.allowed
        ])  # fmt: skip

    def search(self, keep: int) -> tuple[list[Found], bool, int]:
        """The best `keep` sets of oils, whether that is proven, and how many were compared."""
        question = self.question
        most_oils = question.most_replacements
        if question.others == "one_moves":
            most_oils = min(most_oils, 2)
        if question.school == "equal_sap":
            most_oils = 1
        asked = Search(
            rows=self.rows,
            gram=self.rows @ self.rows.T,
            target=self.target,
            share=self.share,
            most_each=self.most_each(),
            least=min(coefficient("swap.least_share"), self.share),
            step=question.step_percent,
            most_oils=most_oils,
            movers=self.movers(),
            restraint=self.restraint(),
            go_on=self.go_on,
        )
        return search_moving(asked, keep) if self.all_move() else search(asked, keep)

    def all_move(self) -> bool:
        """The oils that stay move together, and there are some that may."""
        return self.question.others in ("within", "free") and bool(self.movable_lines())

    def restraint(self) -> float:
        return coefficient("swap.restraint") if self.all_move() else 0.0

    def formula_with(self, found: Found) -> Formula:
        """The formula after a swap: new oils in the place of the first that goes."""
        blend = converted(self.question.formula.blend, "percent_of_oils")
        movable = self.movable_lines()
        moved = {movable[i][1].oil: change for i, change in found.moved.items()}
        fresh = [
            OilLine(oil=self.allowed[i].id, value=round(share, 6)) for i, share in sorted(found.shares.items())
        ]  # fmt: skip
        fresh.sort(key=lambda line: -given(line.value))
        lines: list[OilLine] = []
        for line in blend.lines:
            share = self.stays[line.oil] + moved.get(line.oil, 0.0)
            if line.oil in self.goes:
                # A replacement goes in when the oil did that it replaces.
                lines += [one.model_copy(update={"added": line.added}) for one in fresh]
                fresh = []
            if share > 1e-9:
                lines.append(line.model_copy(update={"value": round(share, 6)}))
        total_g = sum(component.weight_g for component in self.components)
        return self.question.formula.model_copy(update={"blend": Blend(total_oils_g=total_g, lines=tuple(lines))})

    def terms_of(self, found: Found) -> tuple[float, tuple[DistanceTerm, ...]]:
        """Distance of a replacement, and what it is made of."""
        brought = sum(self.rows[i] * share for i, share in found.shares.items())
        movable = self.movable_lines()
        for i, change in found.moved.items():
            brought = brought + self.present_rows[movable[i][0]] * change
        off = np.asarray(brought) - self.target
        restrained = self.restraint() * sum(change * change for change in found.moved.values())
        square = float(off @ off) + restrained
        terms = [
            DistanceTerm(
                feature=feature.id,
                name=feature.name,
                change=float(gap / weight),
                term_percent=100 * float(gap * gap) / square if square > 0 else 0.0,
            )
            for feature, gap, weight in zip(FEATURES, off, self.weights, strict=True)
            if weight > 0
        ]
        if restrained > 0:
            moved = sum(abs(change) for change in found.moved.values())
            terms.append(
                DistanceTerm(
                    feature="moved",
                    name=template("features.moved"),
                    change=moved,
                    term_percent=100 * restrained / square,
                )
            )
        return square**0.5, tuple(sorted(terms, key=lambda term: -term.term_percent))


def _differ(one: Found, other: Found) -> float:
    """Points of the blend in which two replacements differ."""

    def apart(mine: dict[int, float], theirs: dict[int, float]) -> float:
        return sum(abs(mine.get(oil, 0.0) - theirs.get(oil, 0.0)) for oil in {*mine, *theirs}) / 2

    return apart(one.shares, other.shares) + apart(one.moved, other.moved)


def answer_swap(
    question: SwapQuestion, base: Catalogue | None = None, go_on: Callable[[], bool] = lambda: True
) -> SwapAnswer:  # fmt: skip
    """Answer `question` over the catalogue `base` (the shipped one by default).

    `go_on` is asked now and then whether anybody still wants the answer. Raises SwapCancelledError when nobody does, and
    FormulaError when the formula cannot be calculated or the question cannot be asked.
    """
    case = _Case(question, catalogue() if base is None else base, go_on)
    candidates: list[SwapCandidate] = []
    proven, compared = False, 0
    refused: list[Refused] = []
    for keep in _SEARCHED_MOVING if case.all_move() else _SEARCHED:
        found, is_proven, compared = case.search(keep)
        proven |= is_proven
        candidates, refused = _really_different(case, found, base)
        if len(candidates) == CANDIDATES or len(found) < keep:
            break
    return SwapAnswer(
        before=case.before,
        cost_before=oil_cost(case.components, question.prices),
        outgoing_percent=case.share,
        jobs=_jobs(case),
        candidates=tuple(candidates),
        proven=proven,
        compared=compared,
        allowed=len(case.allowed),
        equal_sap=_equal_sap(case, base),
        words=_outgoing_words(case),
        outgoing_g=case.share / 100 * sum(component.weight_g for component in case.components),
        why_first=_why_first(candidates),
        refused=tuple(refused[:REFUSED]),
    )


RANGE_CODES = (*TARGET_RANGE_CODES, "see_saw")
REFUSED = 3


def _really_different(
    case: _Case, found: Sequence[Found], base: Catalogue | None
) -> tuple[list[SwapCandidate], list[Refused]]:
    """The first few of `found` that differ from those before, calculate, and that the rule book does not warn of; and the
    nearest that it does warn of.

    Where every one leaves a target range, those are offered that do nothing worse.
    """
    offered, refused = _sorted_out(case, found, base, bear_ranges=False)
    if not offered:
        offered, refused = _sorted_out(case, found, base, bear_ranges=True)
    # Of those that come as near, the one of the most usual oils comes first.
    return sorted(offered, key=lambda one: (_as_near(one), _unusual(case, one), one.distance)), refused


AS_NEAR_PERCENT = 3.0
"""Matches that differ by less than this are as near to a maker."""


def _as_near(candidate: SwapCandidate) -> int:
    return -round(candidate.match_percent / AS_NEAR_PERCENT)


def _unusual(case: _Case, candidate: SwapCandidate) -> float:
    """Percent of the blend in new oils that most workshops do not have, rarities counted four times."""
    times = {"everyday": 0.0, "known": 1.0, "rare": 4.0}
    at_hand = case.question.at_hand
    return sum(
        one.share_percent * (0.0 if one.oil in at_hand else times[familiarity_of(case.oils[one.oil])])
        for one in candidate.incoming
    )


def _sorted_out(
    case: _Case, found: Sequence[Found], base: Catalogue | None, *, bear_ranges: bool
) -> tuple[list[SwapCandidate], list[Refused]]:
    leaving_out = case.distance_of_leaving_out()
    chosen: list[Found] = []
    candidates: list[SwapCandidate] = []
    refused: list[Refused] = []
    for one in found:
        if not case.go_on():
            raise SwapCancelledError
        if any(_differ(one, other) < coefficient("swap.different_by") for other in chosen):
            continue
        if refused and 100 * (1 - one.square / max(leaving_out**2, 1e-12)) < coefficient("swap.least_match"):
            break  # All further ones match less still.
        candidate = _candidate(case, one, leaving_out, base)
        if candidate is None or not _keeps_usual_shares(case, candidate):
            continue
        warned = tuple(
            warning for warning in _new_warnings(case, candidate) if not (bear_ranges and warning.code in RANGE_CODES)
        )
        if warned or candidate.match_percent < coefficient("swap.least_match"):
            names = tuple(new.name for new in candidate.incoming)
            refused.append(Refused(names=names, match_percent=candidate.match_percent, diagnostics=warned))
            continue
        chosen.append(one)
        candidates.append(candidate)
        if len(candidates) == CANDIDATES:
            break
    return candidates, refused


def _candidate(case: _Case, found: Found, leaving_out: float, base: Catalogue | None) -> SwapCandidate | None:
    formula = case.formula_with(found)
    try:
        calculation = calculation_of(formula, base)
    except FormulaError:
        return None
    distance, terms = case.terms_of(found)
    incoming = tuple(
        Incoming(oil=case.allowed[i].id, name=case.allowed[i].name, share_percent=share)
        for i, share in sorted(found.shares.items(), key=lambda item: -item[1])
    )
    lines = [line.oil for _, line in case.movable_lines()]
    moved = tuple(
        Incoming(oil=lines[i], name=case.oils[lines[i]].name, share_percent=change)
        for i, change in sorted(found.moved.items(), key=lambda item: -abs(item[1]))
    )
    return SwapCandidate(
        incoming=incoming,
        moved=moved,
        distance=distance,
        match_percent=max(0.0, 100 * (1 - (distance / leaving_out) ** 2)) if leaving_out > 0 else 0.0,
        terms=terms,
        cost=oil_cost(calculation.composition.oils, case.question.prices),
        formula=formula,
        result=calculation.result,
        words=in_words(case.before, calculation.result, case.goes, incoming, case.oils),
        diagnostics=advice(calculation),
    )


def _keeps_usual_shares(case: _Case, candidate: SwapCandidate) -> bool:
    """Whether no class of oils that grew is more of the blend than makers use."""
    before, after = (_by_class(case, result) for result in (case.before, candidate.result))
    return all(
        share <= before.get(of, 0.0) + 1e-6 or share <= usual_of(share_classes()[of], case.purpose).most + 1e-6
        for of, share in after.items()
        if share_classes()[of].together
    )


def _by_class(case: _Case, result: FormulaResult) -> dict[str, float]:
    shares: dict[str, float] = {}
    for oil in result.oils:
        of = class_of(case.oils[oil.oil]).id
        shares[of] = shares.get(of, 0.0) + oil.share_percent
    return shares


def _key(one: Diagnostic) -> tuple[str, str | None]:
    """What a diagnostic is about, whatever its size."""
    return one.code, one.quantity


def _new_warnings(case: _Case, candidate: SwapCandidate) -> tuple[Diagnostic, ...]:
    """What the rule book warns of, and did not before."""
    return tuple(one for one in candidate.diagnostics if one.severity != "note" and _key(one) not in case.said_before)


TOLD_APART = 0.05
"""Two matches that differ by less, %, are the same to a tenth."""


def _told_apart(one: float, other: float) -> tuple[Number, Number]:
    """Two matches in whole percent, or to a tenth where they are alike otherwise."""
    decimals = 1 if round(one) == round(other) else 0
    return percent(one, decimals), percent(other, decimals)


def _why_first(candidates: Sequence[SwapCandidate]) -> Text:
    if not candidates:
        return ()
    first = candidates[0]
    nearest = max(candidate.match_percent for candidate in candidates)
    if nearest - first.match_percent > TOLD_APART:
        match, nearest_match = _told_apart(first.match_percent, nearest)
        return said("why_usual", match=match, nearest=nearest_match)
    if len(candidates) == 1:
        return said("why_only", match=percent(first.match_percent, 0))
    second = candidates[1]
    match, after = _told_apart(first.match_percent, second.match_percent)
    worse = max(
        (
            (term.term_percent / 100 * second.distance**2 - _square_of(first, term.feature), term)
            for term in second.terms
        ),
        key=lambda pair: pair[0],
        default=None,
    )
    if worse is None or worse[0] <= 0:
        return said("why_least", match=match, next=after)
    return said("why_least_by", match=match, next=after, feature=worse[1].name.lower())


def _square_of(candidate: SwapCandidate, feature: str) -> float:
    return sum(term.term_percent / 100 * candidate.distance**2 for term in candidate.terms if term.feature == feature)


def _jobs(case: _Case) -> tuple[JobDone, ...]:
    jobs = []
    for quantity in case.before.qualities:
        points = sum(
            given * case.goes[component.oil.id] / component.share_percent
            for given, component in zip(quantity.contributions, case.components, strict=False)
            if component.oil.id in case.goes and component.share_percent > 0
        )
        jobs.append(JobDone(quality=quantity.quality, points=points, of_points=quantity.points))
    return tuple(sorted(jobs, key=lambda job: -job.points))


def _outgoing_words(case: _Case) -> Text:
    names = joined((_what_goes(case, oil) for oil in case.goes), f" {template('list.and')} ")
    big = [job for job in _jobs(case) if job.points >= 1][:3]
    if not big:
        return said("did_little", names=names)
    jobs = joined(
        (
            said(
                "gave_points",
                points=number(job.points, 0), of=number(job.of_points, 0), quality=qualities()[job.quality].name.lower(),
            )
            for job in big
        ),
        ", ",
    )  # fmt: skip
    return said("gave", names=names, jobs=jobs, still=_still_there(case))


def _what_goes(case: _Case, oil: str) -> Text:
    name = case.oils[oil].name.lower()
    if case.stays[oil] > 1e-6:
        return said("part_that_goes", share=significant(case.goes[oil], 3, "%"), name=name)
    return (name,)


def _still_there(case: _Case) -> Text:
    """A warning when what stays is not free of what the swap is to avoid."""
    words = must_be_free_of(case.question, case.oils)
    return joined(
        (
            said("still_there", name=case.oils[oil].name, word=word)
            for word in words
            for oil, share in case.stays.items()
            if share > 0 and not is_free_of(case.oils[oil], word)
        ),
        "",
    )


HALF_A_POINT = 0.5
"""Less than this is no change that a maker would name: it rounds to none."""


def _equal_sap(case: _Case, base: Catalogue | None) -> EqualSapContrast | None:
    sap_out = sum(case.oils[oil].sap_koh_mg_per_g.typical * share for oil, share in case.goes.items()) / case.share
    plain = [(i, oil) for i, oil in enumerate(case.allowed) if oil.kind == "triglyceride" and oil.group != "ricinoleic"]
    if not plain:
        return None
    nearest, oil = min(plain, key=lambda item: abs(item[1].sap_koh_mg_per_g.typical - sap_out))
    formula = case.formula_with(Found(0.0, {nearest: case.share}, {}))
    try:
        result = calculate(formula, base)
    except FormulaError:
        return None
    changes = [
        (after.points - before.points, qualities()[after.quality].name.lower())
        for before, after in zip(case.before.qualities, result.qualities, strict=True)
    ]
    worst = [one for one in sorted(changes, key=lambda change: -abs(change[0]))[:2] if abs(one[0]) >= HALF_A_POINT]
    moved = joined(
        (
            said("moved", quality=name, sign="−" if change < 0 else "+", points=number(abs(change), 0))
            for change, name in worst
        ),
        f" {template('list.and')} ",
    )
    lye = result.lye.naoh_g + result.lye.koh_g - case.before.lye.naoh_g - case.before.lye.koh_g
    code = "equal_sap" if worst else "equal_sap_moves_nothing"
    return EqualSapContrast(
        name=oil.name,
        sap_difference_koh_mg_per_g=oil.sap_koh_mg_per_g.typical - sap_out,
        formula=formula,
        result=result,
        words=said(code, name=oil.name.lower(), lye=weight(abs(lye)), moved=moved),
    )
