"""What a plan of a batch may say, entry by entry, at the edge of each limit: just within, and just beyond."""

from typing import Any

import pytest

from core.batches import loaf, plan
from sapolin.core.batch.moulds import Mould, Slab
from sapolin.core.batch.plan import Choices, Cutter, PortionPlan, ScentLine, SizeBy, plan_problems
from sapolin.core.formula.water import water_in_words
from sapolin.core.quantities.text import plain, template

SLAB = Mould(name="Slab", shape=Slab(kind="slab", length_mm=300, width_mm=200, height_mm=40))


def found(**changes: Any) -> list[tuple[str, str]]:
    return [(one.code, one.path) for one in plan_problems(plan(**changes))]


def cut(**entries: Any) -> dict[str, Any]:
    use = loaf()
    assert use.cut is not None
    return {"moulds": (use.model_copy(update={"cut": use.cut.model_copy(update=entries)}),)}


def slab(width: float | None) -> dict[str, Any]:
    use = loaf(bar_width_mm=width)
    return {"moulds": (use.model_copy(update={"mould": SLAB}),)}


def scent(percent: float | None, limit: float | None) -> dict[str, Any]:
    return {"scents": (ScentLine(scent="lavender", percent_of_oils=percent, limit_percent=limit),)}


def cutter(gap: float = 25.0, kerf: float = 0.5) -> dict[str, Any]:
    return cut(cutter=Cutter(name="Frame", gaps_mm=(25.0, gap), kerf_mm=kerf))


def choices(**entries: Any) -> dict[str, Any]:
    return {"choices": Choices(**entries)}


LIMITS: list[tuple[Any, str, float, float]] = [
    (lambda value: cut(bar_mm=value), "moulds[0].cut.bar_mm", 5, 500),
    (lambda value: cut(kerf_mm=value), "moulds[0].cut.kerf_mm", 0, 10),
    (lambda value: cut(trim_mm=value), "moulds[0].cut.trim_mm", 0, 200),
    (slab, "moulds[0].cut.bar_width_mm", 5, 500),
    (lambda value: cutter(gap=value), "moulds[0].cut.cutter.gaps_mm[1]", 5, 500),
    (lambda value: cutter(kerf=value), "moulds[0].cut.cutter.kerf_mm", 0, 10),
    (lambda value: scent(value, None), "scents[0].percent_of_oils", 0, 10),
    (lambda value: scent(3.0, value), "scents[0].limit_percent", 0.001, 100),
    (lambda value: choices(room_c=value), "choices.room_c", -5, 45),
    (lambda value: choices(scale_capacity_g=value), "choices.scale_capacity_g", 100, 300_000),
    (lambda value: {"jar_g": value}, "jar_g", 10, 50_000),
    (lambda value: {"size": SizeBy(by="oils_g", value=value)}, "size.value", 1, 200_000),
    (lambda value: {"size": SizeBy(by="batter_g", value=value)}, "size.value", 1, 200_000),
    (lambda value: {"size": SizeBy(by="bars", value=value, cured_bar_g=100.0)}, "size.value", 1, 2000),
    (lambda value: {"size": SizeBy(by="bars", value=10.0, cured_bar_g=value)}, "size.cured_bar_g", 5, 2000),
    (
        lambda value: {"size": SizeBy(by="limiting", available_g={"palm": value})}, "size.available_g.palm", 1, 200_000
    ),
]  # fmt: skip


@pytest.mark.parametrize(("entry", "path", "low", "high"), LIMITS, ids=[one[1] for one in LIMITS])
def test_each_entry_has_a_least_and_a_most(entry, path, low, high):
    assert found(**entry(low)) == []
    assert found(**entry(high)) == []
    assert found(**entry(low - 0.0005)) == [("not_within", path)]
    assert found(**entry(high + 0.001)) == [("not_within", path)]


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        (cut(bar_mm=None), "moulds[0].cut.bar_mm"), (cut(kerf_mm=None), "moulds[0].cut.kerf_mm"),
        (slab(None), "moulds[0].cut.bar_width_mm"), (scent(None, None), "scents[0].percent_of_oils"),
        (choices(room_c=None), "choices.room_c"), ({"size": SizeBy(by="oils_g")}, "size.value"),
        ({"moulds": (loaf(headroom_mm=None),)}, "moulds[0].headroom_mm"),
    ],
)  # fmt: skip
def test_what_is_open_is_asked_for(changes, path):
    [problem] = [one for one in plan_problems(plan(**changes)) if one.path == path and one.code == "missing"]
    # Asked for, not told as a mistake: nothing is red before something was entered.
    assert problem.is_open


def test_what_may_be_left_open():
    assert found(**choices(scale_capacity_g=None)) == []
    assert found(jar_g=None) == []
    # A loaf is cut along its length alone.
    assert found(**cut(bar_width_mm=None)) == []


def test_what_is_wrong_is_not_taken_for_open():
    [problem] = plan_problems(plan(**choices(room_c=46.0)))
    assert not problem.is_open


def test_what_sizes_a_batch_is_there():
    assert all(one.is_open for one in plan_problems(plan(moulds=())))
    assert found(moulds=()) == [("no_mould_to_size", "moulds")]
    assert found(moulds=(), size=SizeBy(by="oils_g", value=500.0)) == []
    assert found(size=SizeBy(by="limiting", available_g={"lard": 100.0})) == [("nothing_limits", "size.available_g")]
    # What the formula has not limits nothing, whatever is left of it.
    assert found(size=SizeBy(by="limiting", available_g={"lard": 0.0, "palm": 50.0})) == []


def portions(*shares: float | None) -> dict[str, Any]:
    return {"portions": tuple(PortionPlan(name=f"P{i}", share_percent=share) for i, share in enumerate(shares))}


@pytest.mark.parametrize(
    ("shares", "code"),
    [
        ((100.0,), None), ((60.0, 40.05), None), ((60.0, 39.95), None), ((60.0, 40.06), "portions_over_100"),
        ((60.0, 39.94), "portions_not_100"), ((99.5, 0.5), None), ((99.6, 0.4), "not_within"), ((60.0, None), "missing"),
    ],
)  # fmt: skip
def test_portions_make_a_whole(shares, code):
    assert [one for one, _ in found(**portions(*shares))] == ([] if code is None else [code])


@pytest.mark.parametrize(
    ("room_c", "codes"), [(49.9, ["not_within"]), (50.0, ["not_within", "fahrenheit"]), (68.0, ["not_within", "fahrenheit"]),
                          (110.0, ["not_within", "fahrenheit"]), (110.1, ["not_within"])],
)  # fmt: skip
def test_a_room_of_68_degrees_was_told_in_fahrenheit(room_c, codes):
    problems = plan_problems(plan(**choices(room_c=room_c)))
    assert [one.code for one in problems] == codes
    if room_c == 68.0:
        assert problems[1].params["celsius"].value == 20


def colour(**line: Any) -> list[tuple[str, str]]:
    entry = {"colorant": "mica-blue", "by": "tsp_per_500_g", "value": 1.0} | line
    return found(portions=(PortionPlan.model_validate({"name": "All", "share_percent": 100.0, "colours": [entry]}),))


def test_a_slip_of_colour_is_told_in_both_ways():
    """12 spoons of 2 g in 500 g are 4.8 % where one, 0.4 %, is usual."""
    entry = {"colorant": "mica-blue", "by": "tsp_per_500_g", "value": 12.0}
    portion = PortionPlan.model_validate({"name": "All", "share_percent": 100.0, "colours": [entry]})
    [slip] = [one for one in plan_problems(plan(portions=(portion,))) if one.code == "many_times_usual"]
    said = {name: plain((slip.params[name],)).replace("\u00a0", " ") for name in ("times", "rate", "usual", "spoons")}
    assert said == {"times": "12", "rate": "4.80 %", "usual": "0.40 %", "spoons": "1"}


def test_a_colour():
    at = "portions[0].colours[0]"
    assert colour() == []
    assert colour(value=0.0) == []
    assert colour(value=-0.1) == [("not_within", f"{at}.value")]
    assert colour(value=None) == [("missing", f"{at}.value")]
    assert colour(colorant="no-such") == [("unknown_colorant", f"{at}.colorant")]
    # A teaspoon is usual: ten of them are a slip, in whichever way they are told (10 tsp of 2 g in 500 g are 4 %).
    assert colour(value=9.99) == []
    assert colour(value=10.0) == [("many_times_usual", f"{at}.value")]
    assert colour(by="percent_of_oils", value=3.99) == []
    assert colour(by="percent_of_oils", value=4.0) == [("many_times_usual", f"{at}.value")]


def test_an_unknown_scent_says_no_more_than_that():
    line = ScentLine(scent="no-such", percent_of_oils=99.0)
    assert found(scents=(line,)) == [("unknown_scent", "scents[0].scent")]


@pytest.mark.parametrize(
    ("concentration", "word"),
    [
        (40.0, "very_little"), (39.9, "little"), (35.0, "little"), (34.9, "usual"), (29.0, "usual"), (28.9, "much"),
        (25.0, "much"), (24.9, "very_much"),
    ],
)  # fmt: skip
def test_what_a_lye_concentration_means(concentration, word):
    assert water_in_words(concentration, "bar") == template(f"water_means.{word}")
    assert water_in_words(concentration, "paste") == template("water_means.paste")
