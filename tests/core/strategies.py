"""Formulas for property tests: any blend a maker might enter, led either way."""

from hypothesis import strategies as st

from sapolin.core.catalogue import catalogue
from sapolin.core.formula import Formula

OIL_IDS = tuple(catalogue())
PURITIES = st.floats(50, 100)
SUPERFATS = st.floats(0, 40)
WATERS = st.one_of(
    st.tuples(st.just("lye_concentration_percent"), st.floats(20, 50)),
    st.tuples(st.just("water_to_lye"), st.floats(1, 5)),
)


@st.composite
def weights_g(draw: st.DrawFn) -> dict[str, float]:
    """One to nine oils with weights that a workshop could have."""
    oils = draw(st.lists(st.sampled_from(OIL_IDS), min_size=1, max_size=9, unique=True))
    return {oil: draw(st.floats(10, 20_000)) for oil in oils}


@st.composite
def formulas(draw: st.DrawFn) -> Formula:
    """A formula that can be reckoned, led by weight."""
    by, value = draw(WATERS)
    return weight_formula(
        draw(weights_g()), superfat=draw(SUPERFATS), purity=draw(PURITIES), water={"by": by, "value": value}
    )


def weight_formula(
    weights: dict[str, float], *, superfat: float = 5.0, purity: float = 99.0, water: dict[str, object] | None = None
) -> Formula:
    """A formula of these weights in g."""
    return Formula.model_validate(
        {
            "name": "Property bar",
            "blend": {"by": "weight", "lines": [{"oil": oil, "weight_g": g} for oil, g in weights.items()]},
            "lye": {"naoh_purity_percent": purity},
            "superfat_percent": superfat,
            "water": water or {"by": "water_to_lye", "value": 2.0},
        }
    )
