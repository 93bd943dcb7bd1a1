"""What everything that is added to a plan begins with, and the edits of portions that keep their sum at 100 %."""

from collections.abc import Sequence
from math import floor

from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Measured, Mould, Shape, Slab
from sapolin.core.batch.plan import MOST_PORTIONS, ColourLine, Cut, MouldUse, PortionPlan, ScentLine, SizeBy
from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.ingredients import Colorant, Scent
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.text import number, template

__all__ = [
    "starting_colour",
    "starting_scent",
    "starting_shapes",
    "starting_size",
    "starting_use",
    "with_portion",
    "without_portion",
]

BAR_MM = 25.0
"""A usual thickness of a slice."""
SLAB_BAR_MM = (80.0, 55.0)
"""A usual bar from a slab, seen from above."""
PASTE_OILS_G = 1000.0
"""Oils of a small batch of paste."""
HEADROOM_MM = 5.0
"""Batter stays this far below the rim of a box, so that it can be moved."""
CAVITIES = 6
"""A usual tray of single moulds."""


def starting_shapes() -> dict[str, Shape]:
    """By its kind, the shape of a mould that is still to be measured; the first is the usual one.

    >>> list(starting_shapes())
    ['loaf', 'slab', 'cylinder', 'half_spheres', 'cavities', 'measured']
    """
    shapes: tuple[Shape, ...] = (
        Slab(kind="loaf", length_mm=None, width_mm=None, height_mm=None),
        Slab(kind="slab", length_mm=None, width_mm=None, height_mm=None),
        Cylinder(kind="cylinder", diameter_mm=None, length_mm=None),
        HalfSpheres(kind="half_spheres", diameter_mm=None, count=CAVITIES),
        Cavities(kind="cavities", count=CAVITIES, cavity_ml=None),
        Measured(kind="measured", volume_ml=None),
    )
    return {shape.kind: shape for shape in shapes}


def starting_use(mould: Mould) -> MouldUse:
    """A mould as it is first taken, with a way to cut it that its kind calls for; single moulds are not cut."""
    shape = mould.shape
    if isinstance(shape, Slab) and shape.kind == "slab":
        return MouldUse(
            mould=mould, headroom_mm=HEADROOM_MM, cut=Cut(bar_mm=SLAB_BAR_MM[0], bar_width_mm=SLAB_BAR_MM[1])
        )
    if isinstance(shape, Slab):
        return MouldUse(mould=mould, headroom_mm=HEADROOM_MM, cut=Cut(bar_mm=BAR_MM))
    return MouldUse(mould=mould, cut=Cut(bar_mm=BAR_MM) if isinstance(shape, Cylinder) else None)


def starting_size(formula: Formula) -> SizeBy:
    """What a batch is sized by at first: a bar by its moulds, paste by the weight of oils that its formula names."""
    if purposes()[formula.purpose].makes == "bar":
        return SizeBy()
    return SizeBy(by="oils_g", value=formula.blend.total_oils_g or PASTE_OILS_G)


def starting_scent(scent: Scent) -> ScentLine:
    """A scent as it is first added: at the low end of what is usual, its limit still to be read from its papers."""
    return ScentLine(scent=scent.id, percent_of_oils=scent.usual_minimum_percent)


def starting_colour(colorant: Colorant) -> ColourLine:
    """A colour as it is first added: at its usual rate."""
    return ColourLine(colorant=colorant.id, by="tsp_per_500_g", value=colorant.usual_tsp_per_500_g)


def with_portion(portions: Sequence[PortionPlan]) -> tuple[PortionPlan, ...]:
    """One more portion than `portions`, two where there were none; their shares are evened out and sum to 100.

    >>> [portion.share_percent for portion in with_portion(with_portion(()))]
    [33.3, 33.3, 33.4]
    """
    count = max(len(portions) + 1, 2)
    if count > MOST_PORTIONS:
        raise FormulaError([stopping("too_many_portions", "portions", most=number(MOST_PORTIONS))])
    share = floor(1000 / count) / 10
    new = (PortionPlan(name=template(f"portion_names.{i}"), share_percent=share) for i in range(len(portions), count))
    every = [portion.model_copy(update={"share_percent": share}) for portion in (*portions, *new)]
    every[-1] = every[-1].model_copy(update={"share_percent": round(100 - share * (count - 1), 1)})
    return tuple(every)


def without_portion(portions: Sequence[PortionPlan], index: int) -> tuple[PortionPlan, ...]:
    """`portions` without that at `index`: its share goes to the largest that stays. One alone has all of the batter.

    Raises FormulaError when there is none at `index`.
    """
    if not 0 <= index < len(portions):
        raise FormulaError([stopping("no_such_line", "portions")])
    gone = portions[index].share_percent or 0.0
    left = [portion for i, portion in enumerate(portions) if i != index]
    if len(left) == 1:
        return (left[0].model_copy(update={"share_percent": 100.0}),)
    largest = max(range(len(left)), key=lambda i: left[i].share_percent or 0.0, default=None)
    if largest is not None:
        grown = round((left[largest].share_percent or 0.0) + gone, 1)
        left[largest] = left[largest].model_copy(update={"share_percent": grown})
    return tuple(left)
