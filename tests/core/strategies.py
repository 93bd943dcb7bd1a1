"""Formulas for property tests: any blend a maker might enter, led either way, with all that may go in."""

from typing import Any

from hypothesis import strategies as st

from sapolin.core.advice.report import report
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, liquids

OIL_IDS = tuple(catalogue())
PURITIES = st.floats(50, 100)
SUPERFATS = st.floats(0, 40)
WATERS = st.one_of(
    st.tuples(st.just("lye_concentration_percent"), st.floats(20, 50)),
    st.tuples(st.just("water_to_lye"), st.floats(1, 5)),
)


def at_most(most: float) -> st.SearchStrategy[float]:
    """Nothing, or from a hundredth on, which is less than anybody weighs."""
    return st.one_of(st.just(0.0), st.floats(0.01, most))


KOHS = st.one_of(
    st.none(),
    st.fixed_dictionaries(
        {
            "by": st.sampled_from(["saponification_percent", "lye_weight_percent"]),
            "value": st.floats(0, 100),
            "purity_percent": PURITIES,
        }
    ),
)
ADDITIVES = st.lists(
    st.fixed_dictionaries(
        {
            "additive": st.sampled_from(tuple(additives())),
            "by": st.just("percent_of_oils"),
            "value": at_most(5),
            "compensated": st.booleans(),
        }
    ),
    max_size=3,
)


@st.composite
def weights_g(draw: st.DrawFn) -> dict[str, float]:
    """One to nine oils with weights that a workshop could have."""
    oils = draw(st.lists(st.sampled_from(OIL_IDS), min_size=1, max_size=9, unique=True))
    return {oil: draw(st.floats(10, 20_000)) for oil in oils}


@st.composite
def formulas(draw: st.DrawFn) -> Formula:
    """A formula of oils, lye and water that can be calculated, led by weight."""
    by, value = draw(WATERS)
    return weight_formula(
        draw(weights_g()), superfat=draw(SUPERFATS), purity=draw(PURITIES), water={"by": by, "value": value}
    )


@st.composite
def laden_formulas(draw: st.DrawFn) -> Formula:
    """The same with two lyes, liquids, additives and late oils: whatever may be combined."""
    plain = draw(formulas()).model_dump(mode="json")
    lines = plain["blend"]["lines"]
    for line in lines[1:]:
        line["added"] = draw(st.sampled_from(["start", "start", "at_trace", "after_cook"]))
    plain["lye"]["koh"] = draw(KOHS)
    plain["water"] = {"by": "water_to_lye", "value": draw(st.floats(2.5, 5))}
    # Liquids bring at most half the water, so that the lye always has enough of its own.
    plain["liquids"] = [
        {"liquid": liquid, "use": use, "by": "percent_of_water", "value": draw(at_most(25))}
        for liquid, use in draw(
            st.lists(
                st.tuples(
                    st.sampled_from(tuple(liquids())), st.sampled_from(["dissolves_lye", "into_oils", "at_trace"])
                ),
                max_size=2,
            )
        )
    ]
    plain["additives"] = draw(ADDITIVES)
    return Formula.model_validate(plain)


def codes_of(formula: Formula) -> list[str]:
    """Codes of everything that is said about a formula, the gravest first."""
    return [one.code for one in report(formula).diagnostics]


def weight_formula(
    weights: dict[str, float],
    *,
    superfat: float = 5.0,
    purity: float = 99.0,
    water: dict[str, Any] | None = None,
    **changes: Any,
) -> Formula:
    """A formula of these weights in g, with `changes` at its top level."""
    return Formula.model_validate(
        {
            "name": "Property bar",
            "blend": {"lines": [{"oil": oil, "by": "weight_g", "value": g} for oil, g in weights.items()]},
            "lye": {"naoh_purity_percent": purity},
            "superfat_percent": superfat,
            "water": water or {"by": "water_to_lye", "value": 2.0},
        }
        | changes
    )
