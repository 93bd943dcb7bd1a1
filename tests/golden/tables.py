# ruff: noqa: E501
"""Estimates over their ranges, cuts of moulds, trials and fronts, for the texts that these tests hold them to."""

from collections.abc import Iterator
from itertools import product
from typing import Any, get_args

from core.batches import GUEST, loaf, plan
from core.strategies import weight_formula
from golden.plans import DOMES, SLAB, TRAY, TUBE, diagnostic_lines, dual
from golden.questions import KITCHEN, PRICES, asked, empty, percent_formula
from golden.rooms import lines_of
from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.batch.gel import gel_temperature_c, kept_fraction
from sapolin.core.batch.heat import cooling, lye_peak, solution_density_g_per_ml
from sapolin.core.batch.moulds import Cavities, Cylinder, Measured, Slab
from sapolin.core.batch.plan import Cut, Cutter, MouldUse
from sapolin.core.batch.planned import plan_batch
from sapolin.core.cure.drying import BarAsCut, Room, Weighing, bar_weight, drying_forecast, drying_observed
from sapolin.core.cure.unmould import Firmness, Press, unmould_forecast
from sapolin.core.optimise.solve.front import front_of
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.core.trials.design import DesignAsked, OilLimits, design_of
from sapolin.core.trials.effects import RunSheet
from sapolin.core.trials.trial import TrialSetup, design_runs, level_runs, trial_result

__all__ = ["cut_lines", "drying_lines", "front_lines", "heat_lines", "trial_lines"]


def heat_lines() -> Iterator[str]:
    for naoh_g, koh_g in ((100.0, 0.0), (70.0, 40.0), (0.0, 140.0), (0.0, 0.0)):
        for water_g in (110.0, 150.0, 200.0, 300.0, 500.0, 900.0, 1500.0):
            density = solution_density_g_per_ml(naoh_g, koh_g, water_g)
            if naoh_g + koh_g == 0:
                yield f"no lye in {water_g:g} g: {density:.5f} g/mL"
                continue
            for changes in (
                {},
                {"start_c": 4.0},
                {"frozen_g": 100.0},
                {"chilled_g": 100.0},
                {"in_ice": True},
                {"dissolved_in_g": 100.0},
                {"koh_water_g": 8.0},
            ):
                peak = lye_peak(naoh_g, koh_g, water_g, **changes)
                yield f"{naoh_g:g} g NaOH, {koh_g:g} g KOH in {water_g:g} g, {changes}: {peak.low_c:.3f} to {peak.high_c:.3f} °C, boils {peak.boils}, {density:.5f} g/mL"
    for readings in (
        [], [(0.0, 80.0)], [(0.0, 80.0), (10.0, 65.0)], [(0.0, 60.0), (2.0, 84.0), (12.0, 66.0), (25.0, 50.0)], [(0.0, 50.0), (5.0, 50.0)],
        [(0.0, 20.05), (5.0, 20.0)], [(0.0, 40.0), (9.0, 18.0)], [(3.0, 70.0), (3.0, 60.0)],
    ):  # fmt: skip
        curve = cooling(readings, 20.0)
        reached = None if curve is None else [curve.minute_at(celsius) for celsius in (90.0, 43.0, 20.0)]
        yield f"cooling {readings}: {'none' if curve is None else f'{curve.per_minute:.6f} a minute, {curve.at(30.0):.3f} °C after 30 min, {reached}'}"
    for lye_percent in (24.0, 28.0, 33.0, 40.0, 48.0):
        yield f"lye of {lye_percent:g} %: gels from {gel_temperature_c(lye_percent):.3f} °C"
    shapes = {
        "loaf": (Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70), 65.0), "tube": (Cylinder(kind="cylinder", diameter_mm=76, length_mm=300), 290.0),
        "cavities": (Cavities(kind="cavities", count=6, cavity_ml=95), None), "bucket": (Measured(kind="measured", volume_ml=9000), None),
    }  # fmt: skip
    for name, (shape, height) in shapes.items():
        kept = [
            f"{cover} {kept_fraction(shape, height, cover):.4f}"
            for cover in ("insulate", "cover", "heat_pad", "oven", "fridge")
        ]
        yield f"{name} keeps {', '.join(kept)}"
    for points in (0.0, 12.0, 25.0, 40.0, 60.0, 90.0, 120.0):
        yield f"trace {points:g}: {', '.join(f'{mixing} {minutes_to_trace(points, mixing):.3f} min' for mixing in ('stick_blender', 'whisk', 'drill'))}"


SMALL = BarAsCut(sides_mm=(25.0, 60.0, 80.0), wet_g=130.0, end_fraction=0.88)
BIG = BarAsCut(sides_mm=(60.0, 80.0, 250.0), wet_g=1300.0, end_fraction=0.85)
WEIGHED = {
    "none": (), "one": ((0.0, "A", 131.0),),
    "two bars": ((0.0, "A", 131.0), (0.0, "B", 127.0), (7.0, "A", 126.0), (7.0, "B", 122.5), (21.0, "A", 119.4), (21.0, "B", 115.9)),
    "a slip": ((0.0, "A", 131.0), (7.0, "A", 126.0), (14.0, "A", 162.0), (21.0, "A", 119.4), (35.0, "A", 116.1)),
}  # fmt: skip
ROOMS = {
    "as usual": Room(),
    "warm and dry": Room(celsius=26.0, humidity_percent=38.0),
    "cold and damp": Room(celsius=11.0, humidity_percent=78.0),
}


def drying_lines() -> Iterator[str]:
    for (bar_name, bar), (told, weighings), (room_name, room) in product(
        (("small", SMALL), ("big", BIG)), WEIGHED.items(), ROOMS.items()
    ):
        if bar is BIG and weighings:
            continue
        entries = [Weighing(seq=i, mark=mark, day=day, weight_g=g) for i, (day, mark, g) in enumerate(weighings, 1)]
        seen = drying_forecast(bar, entries, 21.0, room)
        yield f"== {bar_name}, {told}, {room_name}: τ {seen.drying_days:.3f} days, {seen.start_g:.3f} g to {seen.end_g:.3f} g, at least {seen.at_least_g:.3f} g"
        yield f"ready {seen.ready_low_day:.3f} to {seen.ready_day:.3f} to {seen.ready_high_day:.3f}, {seen.weekly_loss_percent:.4f} % a week, doubtful {seen.doubtful}, {seen.weighings} of {seen.bars}"
        yield ", ".join(
            f"{one.day:.1f}: {one.low_percent:.3f} {one.percent:.3f} {one.high_percent:.3f}" for one in seen.curve[::12]
        )
        yield from lines_of(bar_weight(bar, entries, 30.0, room), "after 30 days")
        yield f"observed {[None if one is None else (round(one.offset, 5), round(one.sd, 5)) for one in drying_observed(bar, entries, room)]}"
    for firm in get_args(Firmness):
        for hours in (6.0, 18.0, 30.0):
            forecast = unmould_forecast(14.0, 28.0, [Press(hours=hours, firmness=firm)])
            yield f"{firm} after {hours:g} h: {' | '.join(lines_of(forecast))}"


CUTS: dict[str, MouldUse] = {
    "loaf": loaf(), "loaf with trims and kerf": loaf(bar_mm=28, kerf_mm=2, trim_mm=5), "loaf halved": loaf(bar_mm=30, kerf_mm=1, halved=True),
    "loaf, one bar too thick": loaf(bar_mm=300), "loaf by a cutter": MouldUse(mould=loaf().mould, headroom_mm=5, cut=Cut(bar_mm=25, cutter=Cutter(name="Wires", gaps_mm=(25.0, 25.0, 40.0, 25.0)))),
    "slab": SLAB, "slab with square bars": SLAB.model_copy(update={"cut": Cut(bar_mm=70, bar_width_mm=70, kerf_mm=1, trim_mm=0)}), "tube": TUBE,
    "tube not halved": TUBE.model_copy(update={"cut": Cut(bar_mm=30, kerf_mm=1.5, trim_mm=0)}), "domes": DOMES, "tray": TRAY,
    "calibrated": MouldUse(mould=loaf().mould.model_copy(update={"calibration_percent": 92.0}), headroom_mm=5, cut=Cut(bar_mm=25)),
}  # fmt: skip


def cut_lines() -> Iterator[str]:
    sizes: tuple[dict[str, Any], ...] = (
        {"by": "moulds"},
        {"by": "oils_g", "value": 500.0},
        {"by": "oils_g", "value": 1400.0},
    )
    for (name, use), size in product(CUTS.items(), sizes):
        try:
            planned = plan_batch(plan(moulds=(use,), size=size))
        except FormulaError as refused:
            yield from (f"{name}, {size}: {line}" for line in diagnostic_lines(refused.problems))
            continue
        yield f"== {name}, {size}: {plain(planned.size.words)} {planned.size.oils_g:.3f} g of oils, {planned.size.batter_g:.3f} g"
        for fill in planned.moulds:
            yield f"{fill.batter_g:.3f} g, {fill.capacity_ml:.3f} mL, {fill.height_mm}"
            for cut in fill.cuts:
                cuts = [piece.kind for piece in cut.pieces]
                yield f"    {plain(cut.label)} {cut.bars} bars of {cut.bar_ml:.3f} mL, {cut.wet_g:.3f} g, {cut.cured_g:.3f} g, over {cut.left_over_g:.3f} g, {cuts.count('trim')} trims, {cut.length_mm:g} × {cut.width_mm:g}"
                yield f"    {[(piece.x_mm, piece.y_mm, piece.width_mm, piece.height_mm) for piece in cut.pieces[:3]]}"


LIMITS = (("olive-refined", 20.0, 50.0), ("coconut", 15.0, 30.0), ("palm", 10.0, 40.0), ("shea", 0.0, 10.0))
NAMES = {"olive-refined": "Olive, refined", "coconut": "Coconut", "palm": "Palm", "shea": "Shea butter"}


def limits(count: int) -> tuple[OilLimits, ...]:
    return tuple(OilLimits(oil=oil, minimum_percent=low, maximum_percent=high) for oil, low, high in LIMITS[:count])


def trial_lines() -> Iterator[str]:
    guest = weight_formula(GUEST)
    for count, batches, total, step in (
        (3, 3, 90.0, 5.0),
        (3, 6, 90.0, 5.0),
        (3, 7, 90.0, 10.0),
        (4, 5, 95.0, 5.0),
        (4, 11, 95.0, 5.0),
        (3, 2, 90.0, 5.0),
        (3, 4, 150.0, 5.0),
        (3, 4, 45.0, 5.0),
        (3, 4, 91.0, 5.0),
    ):
        try:
            design = design_of(DesignAsked(oils=limits(count), total_percent=total, step_percent=step, batches=batches))
        except FormulaError as refused:
            yield from (
                f"{count} oils, {batches} batches of {total:g}: {line}" for line in diagnostic_lines(refused.problems)
            )
            continue
        yield f"== {count} oils, {batches} batches: pairs {design.has_pairs}, {design.points} points"
        yield from (f"    {shares}" for shares in design.batches)
    for oil, levels in (
        ("castor", (2.0, 5.0, 8.0)),
        ("castor", (5.0, 5.0)),
        ("castor", (-1.0, 5.0)),
        ("castor", (0.0, 99.5)),
        ("castor", (5.0, 100.0)),
        ("hemp", (2.0, 5.0)),
        ("castor", (5.0,)),
    ):
        try:
            runs = level_runs(guest, oil, oil, levels)
        except FormulaError as refused:
            yield from (f"{oil} at {levels}: {line}" for line in diagnostic_lines(refused.problems))
            continue
        for run in runs:
            blend = run.formula.blend
            yield f"{run.label}: {run.formula.name}, {blend.total_oils_g} g, {', '.join(f'{line.oil} {line.value:g}' for line in blend.lines)} {run.formula.tags}"
    asked_for = DesignAsked(oils=limits(3), total_percent=90.0, batches=6)
    designed = design_runs(guest, design_of(asked_for), NAMES)
    levelled = level_runs(guest, "castor", "Castor", (2.0, 5.0, 8.0))
    scores = (2.0, 3.0, 4.0, 4.0, 3.0, 5.0)
    for name, runs, question in (("levels", levelled, None), ("design", designed, asked_for)):
        setup = TrialSetup(name="Trial", formula_id="1", criterion="bubbles", asked=question, runs=runs)
        for testers in ((), ("Runa",), ("Runa", "Ilmo"), ("Runa", "Ilmo", "Ada", "Pell", "Sorn")):
            for flat in (False, True):
                sheets = [
                    RunSheet(run=i, tester=tester, score=3.0 if flat else min(max(scores[i] + (t % 2) * 0.5, 1.0), 5.0))
                    for i in range(len(runs)) for t, tester in enumerate(testers)
                ]  # fmt: skip
                yield f"== {name}, {len(testers)} testers, {'all alike' if flat else 'as they differ'}"
                result = trial_result(setup, sheets, NAMES)
                yield "; ".join(
                    f"{one.run}: {one.score:.4f} ({one.low:.4f} to {one.high:.4f}) of {one.sheets}"
                    for one in result.runs
                )
                yield from (
                    f"{one.from_run} to {one.to_run} {one.told} {one.difference:.4f} ({one.low:.4f} to {one.high:.4f}): {plain(one.words)}"
                    for one in result.steps
                )
                yield from (
                    f"{one.oil} {one.told} {one.effect:.4f} ({one.low:.4f} to {one.high:.4f})" for one in result.effects
                )
                yield (
                    "next: nothing"
                    if result.next is None
                    else f"next {result.next.shares_percent}: {plain(result.next.words)}"
                )


FRONTS = {
    "kitchen": asked(percent_formula(KITCHEN), prefer="closer"), "guest, with prices": asked(weight_formula(GUEST), prices=PRICES),
    "shaving from nothing": asked(empty("shaving", lye=dual(60.0)), prices=PRICES), "no price": asked(weight_formula(GUEST), pool=("olive-refined", "coconut", "lard", "castor")),
}  # fmt: skip


def front_lines(name: str) -> Iterator[str]:
    for axis in ("price_per_kg", "palm_percent", "changed_percent"):
        try:
            front = front_of(FRONTS[name], axis)
        except FormulaError as refused:
            yield from (f"{axis}: {line}" for line in diagnostic_lines(refused.problems))
            continue
        yield f"== {axis}"
        for point in front.points:
            blend = ", ".join(f"{line.oil} {line.value:g}" for line in point.formula.blend.lines)
            yield f"{point.value:.4f}: miss {point.miss:.4f}, chance {point.chance_in_range_percent:.3f} %, {point.status}: {blend}"
        for more in front.more:
            blend = ", ".join(f"{line.oil} {line.value:g}" for line in more.formula.blend.lines)
            yield f"more {more.what}: {more.chance_before_percent:.3f} to {more.chance_after_percent:.3f} %, miss {more.miss_before:.4f} to {more.miss_after:.4f}: {blend}"
