# ruff: noqa: E501
"""Where a diagnostic begins and ends: one number after the other moved through its range, for the texts that these tests hold them to."""

from collections.abc import Callable, Iterable, Iterator
from typing import Any

from core.batches import GUEST, MILK, loaf
from core.strategies import weight_formula
from golden.plans import COLOURS, SLAB, TRAY, changed, dual, found_in_plan
from sapolin.core.advice.report import report
from sapolin.core.batch.moulds import Mould, Slab
from sapolin.core.batch.plan import BatchPlan, MouldUse
from sapolin.core.formula.document import Formula
from sapolin.core.materials.ingredients import additives
from sapolin.core.quantities.diagnostics import Diagnostic

__all__ = ["GROUPS", "threshold_lines"]


def steps(low: float, high: float, step: float) -> list[float]:
    return [round(low + i * step, 6) for i in range(round((high - low) / step) + 1)]


def with_share(oil: str, share: float, **around: Any) -> Formula:
    """The guest bar with this share of one oil, the others as they stand to one another."""
    rest = {one: grams for one, grams in GUEST.items() if one != oil}
    whole = sum(rest.values())
    weights = {one: grams * (100 - share) * 10 / whole for one, grams in rest.items()} | {oil: 10 * share}
    return weight_formula({one: grams for one, grams in weights.items() if grams > 0}, **around)


def with_additive(additive: str, rate: float, **around: Any) -> Formula:
    return weight_formula(GUEST, additives=[{"additive": additive, "by": "percent_of_oils", "value": rate}], **around)


def water(percent: float) -> dict[str, Any]:
    return {"water": {"by": "lye_concentration_percent", "value": percent}}


FORMULAS: dict[str, tuple[Iterable[float], Callable[[float], Formula]]] = {
    "superfat": (steps(-1, 24, 0.5), lambda x: weight_formula(GUEST, superfat=x)),
    "superfat of liquid soap": (steps(-1, 8, 0.25), lambda x: weight_formula({"olive-refined": 700.0, "coconut": 300.0}, superfat=x, purpose="liquid-soap", lye=dual(100.0), process={"method": "hot"})),
    "superfat of a lye-heavy paste": (steps(-5, 3, 0.25), lambda x: weight_formula({"olive-refined": 700.0, "coconut": 300.0}, superfat=x, purpose="lye-heavy-paste", lye=dual(100.0), process={"method": "hot"})),
    "lye concentration": (steps(20, 50, 0.5), lambda x: weight_formula(GUEST, **water(x))),
    "lye concentration, olive": (steps(20, 50, 0.5), lambda x: weight_formula({"olive-refined": 1000.0}, **water(x))),
    "KOH": (steps(0, 100, 2.5), lambda x: weight_formula(GUEST, lye=dual(x))),
    "KOH of a shaving soap": (steps(0, 100, 2.5), lambda x: weight_formula({"stearic-acid": 400.0, "coconut": 300.0, "tallow-beef": 300.0}, purpose="shaving", lye=dual(x), process={"method": "hot"})),
    "purity": (steps(50, 100, 1), lambda x: weight_formula(GUEST, purity=x)),
    "purity tolerance": (steps(0, 10, 0.5), lambda x: weight_formula(GUEST, superfat=2.0, lye={"naoh_purity_percent": 97.0, "purity_tolerance_percent": x})),
    "scale step": ([0.001, 0.01, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0, 20.0, 50.0], lambda x: weight_formula(GUEST, scale_step_g=x)),
    "scale step of a little": ([0.001, 0.01, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0], lambda x: weight_formula({oil: grams / 10 for oil, grams in GUEST.items()}, scale_step_g=x)),
    "oils": ([9.0, 10.0, 20.0, 50.0, 99.0, 100.0, 200.0, 500.0, 1000.0, 4999.0, 5000.0, 5001.0, 9999.0, 10_000.0, 10_001.0, 20_000.0, 100_000.0, 500_000.0, 500_001.0], lambda x: weight_formula({oil: grams * x / 1000 for oil, grams in GUEST.items()})),
    **{oil: (steps(0, 100, 2.5), lambda x, oil=oil: with_share(oil, x)) for oil in ("coconut", "castor", "sunflower", "cocoa", "olive-refined", "lard")},
    **{oil: (steps(0, 20, 0.5), lambda x, oil=oil: with_share(oil, x)) for oil in ("beeswax", "stearic-acid", "soy-wax", "jojoba", "lanolin")},
    "coconut of a salt bar": (steps(30, 100, 2.5), lambda x: with_share("coconut", x, purpose="salt-bar", superfat=15.0, additives=[{"additive": "salt", "by": "percent_of_oils", "value": 50.0}])),
    "fat of what is cooked": (steps(0, 20, 1), lambda x: with_share("stearic-acid", x, process={"method": "hot"})),
    **{
        f"{one.id} of oils": (steps(0, 2 * max(one.usual_maximum_percent, 0.5), max(one.usual_maximum_percent, 0.5) / 10), lambda x, one=one: with_additive(one.id, x))
        for one in additives().values()
    },
    "honey with gel": (steps(0, 6, 0.25), lambda x: with_additive("honey", x, process={"gel": "encouraged"})),
    "chelator in hard water": (steps(0, 1.5, 0.1), lambda x: with_additive("tetrasodium-edta", x, wash_water="hard")),
    "milk in the lye": (steps(0, 100, 5), lambda x: weight_formula(GUEST, liquids=[MILK | {"value": x}])),
    "milk at trace": (steps(0, 100, 5), lambda x: weight_formula(GUEST, liquids=[MILK | {"use": "at_trace", "value": x}])),
    "warmth": (steps(14, 80, 1), lambda x: weight_formula(GUEST, process={"batter_temperature_c": x})),
    "warmth with milk": (steps(14, 60, 1), lambda x: weight_formula(GUEST, liquids=[MILK | {"use": "at_trace", "value": 20.0}], process={"batter_temperature_c": x})),
    "warmth with wax": (steps(30, 80, 1), lambda x: with_share("stearic-acid", 4.0, process={"batter_temperature_c": x})),
    "weeks": (steps(0, 60, 1), lambda x: weight_formula(GUEST, process={"cure_weeks": x})),
    "thinned": (steps(5, 60, 1), lambda x: weight_formula({"olive-refined": 700.0, "coconut": 300.0}, superfat=2.0, purpose="liquid-soap", lye=dual(100.0), process={"method": "hot"}, dilution={"soap_percent": x})),
    "late shea": (steps(0, 20, 1), lambda x: weight_formula({}, blend={"total_oils_g": 1000.0, "lines": [{"oil": "olive-refined", "value": 70.0 - x}, {"oil": "coconut", "value": 30.0}, {"oil": "shea", "value": x, "added": "at_trace"}]})),
}  # fmt: skip


def in_mould(height_mm: float) -> MouldUse:
    return MouldUse(
        mould=Mould(name="Block", shape=Slab(kind="loaf", length_mm=250, width_mm=2 * height_mm, height_mm=height_mm)),
        headroom_mm=2,
    )


def scented(rate: float, scent: str = "lavender", limit: float | None = 3.0) -> list[dict[str, Any]]:
    return [{"scent": scent, "percent_of_oils": rate, "limit_percent": limit}]


def parts(count: int) -> list[dict[str, Any]]:
    return [
        {"name": f"part {i}", "share_percent": 100 / count, "colours": COLOURS[i % 2]["colours"]} for i in range(count)
    ]


PLANS: dict[str, tuple[Iterable[float], Callable[[float], BatchPlan]]] = {
    "lye of the batch": (steps(22, 46, 0.5), lambda x: changed(choices={"lye_concentration_percent": x})),
    "lye, uncovered and cool": (steps(22, 46, 0.5), lambda x: changed(choices={"lye_concentration_percent": x, "cover": "fridge", "alcohol_spray": False})),
    "room": (steps(-5, 45, 2.5), lambda x: changed(choices={"room_c": x})),
    "headroom": (steps(0, 24, 1), lambda x: changed(moulds=[loaf(headroom_mm=x).model_dump()])),
    "height of the mould": (steps(20, 200, 5), lambda x: changed(moulds=[in_mould(x).model_dump()])),
    "height of the mould, in the oven": (steps(20, 200, 5), lambda x: changed(moulds=[in_mould(x).model_dump()], choices={"cover": "oven"})),
    "thickness of a bar": (steps(5, 260, 5), lambda x: changed(moulds=[loaf(bar_mm=x).model_dump()])),
    "scent": (steps(0, 6, 0.25), lambda x: changed(scents=scented(x))),
    "clove": (steps(0, 2, 0.1), lambda x: changed(scents=scented(x, "clove", 0.5))),
    "peppermint beside lavender": (steps(0, 4, 0.25), lambda x: changed(scents=[*scented(1.0, "lavender", 1.2), *scented(x, "lavandin", 2.0)])),
    "portions": (steps(1, 6, 1), lambda x: changed(portions=parts(int(x)))),
    "mica": (steps(0, 20, 1), lambda x: changed(portions=[{"name": "one", "share_percent": 100.0, "colours": [{"colorant": "mica-blue", "value": x}]}])),
    "oils of the batch": ([200.0, 500.0, 999.0, 1000.0, 2000.0, 4999.0, 5000.0, 5001.0, 7000.0, 9999.0, 10_000.0, 10_001.0, 20_000.0], lambda x: changed(size={"by": "oils_g", "value": x}, moulds=[SLAB.model_dump()])),
    "cavities": (steps(100, 1200, 50), lambda x: changed(size={"by": "batter_g", "value": x}, moulds=[TRAY.model_dump()])),
    "bars": (steps(1, 20, 1), lambda x: changed(size={"by": "bars", "value": x, "cured_bar_g": 100.0})),
    "what the scale takes": (steps(100, 1500, 50), lambda x: changed(choices={"scale_capacity_g": x})),
}  # fmt: skip


def of_formula(formula: Formula) -> Iterator[Diagnostic]:
    yield from report(formula).diagnostics


AXES: dict[str, tuple[Iterable[float], Callable[[float], Iterable[Diagnostic]]]] = {
    **{name: (values, lambda x, make=make: of_formula(make(x))) for name, (values, make) in FORMULAS.items()},
    **{name: (values, lambda x, make=make: found_in_plan(make(x))) for name, (values, make) in PLANS.items()},
}


GROUPS = {
    "additives": [name for name in FORMULAS if name.endswith(" of oils")],
    "formulas": [name for name in FORMULAS if not name.endswith(" of oils")],
    "batches": [*PLANS],
}


def threshold_lines(group: str) -> Iterator[str]:
    """At which values of each number diagnostics come and go."""
    for name in GROUPS[group]:
        values, found = AXES[name]
        yield f"== {name}"
        before: set[str] = set()
        for value in values:
            now = {
                f"{one.severity} {one.code}{'' if one.quantity is None else f' ({one.quantity})'}"
                for one in found(value)
            }
            if now != before:
                changes = [*(f"+ {one}" for one in sorted(now - before)), *(f"- {one}" for one in sorted(before - now))]
                yield f"{value:g}: {', '.join(changes)}"
            before = now
