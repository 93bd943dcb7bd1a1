"""What can be seen of a blend before it is finished: its qualities from the first oil on, as if what is entered were all."""

from sapolin.core.bar.calculation import calculation_of
from sapolin.core.bar.result import AcidShare, QualityResult
from sapolin.core.formula.blend import entered_shares, share_sum_percent
from sapolin.core.formula.document import Blend, Formula, Lye, OilLine, Process, Water
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.own import with_sound_materials
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model

__all__ = ["BlendPreview", "preview_of"]

_STAND_IN_LYE = Lye(naoh_purity_percent=100.0)
_STAND_IN_WATER = Water(by="lye_concentration_percent", value=33.0)
"""What qualities do not depend on; no weight is told of it."""


class BlendPreview(Model):
    """The fatty acids and qualities of what is entered of a blend, its shares brought to 100 %. No weight, and no lye."""

    entered_percent: float | None
    """The shares entered so far, %; null where weights are entered."""
    acids: tuple[AcidShare, ...]
    qualities: tuple[QualityResult, ...]
    contributors: tuple[str, ...]
    """Names of what the contributions to acids and qualities are of, in their order."""


def preview_of(formula: Formula, oils: Catalogue) -> BlendPreview | None:
    """What can be shown of `formula` whatever is missing from it; null before its first oil with an amount.

    >>> from sapolin.core.formula.starting import starting_formula
    >>> from sapolin.core.materials.catalogue import catalogue
    >>> start = starting_formula()
    >>> half = start.model_copy(update={"blend": Blend(total_oils_g=1000.0, lines=(OilLine(oil="coconut", value=40.0),))})
    >>> seen = preview_of(half, catalogue())
    >>> seen.entered_percent, [round(one.points) for one in seen.qualities if one.quality == "cleansing"]
    (40.0, [79])
    """
    known = with_sound_materials(oils, formula.materials)
    shares = entered_shares(formula.blend, known)
    if not shares:
        return None
    lines = tuple(OilLine(oil=one.oil.id, value=one.share_percent) for one in shares)
    stand_in = formula.model_copy(
        update={
            "blend": Blend(total_oils_g=1000.0, lines=lines),
            "lye": _STAND_IN_LYE,
            "water": _STAND_IN_WATER,
            "superfat_percent": 5.0,
            "liquids": (),
            "additives": (),
            "process": Process(),
            "dilution": None,
        }
    )
    try:
        result = calculation_of(stand_in, oils).result
    except FormulaError:
        return None
    entered = share_sum_percent(formula.blend)
    return BlendPreview(
        entered_percent=entered if entered > 0 else None,
        acids=result.acids,
        qualities=result.qualities,
        contributors=result.contributors,
    )
