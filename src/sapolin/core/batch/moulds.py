"""Moulds: how much batter they take, and how high it stands in them. Lengths in mm, volumes in mL (= cm3)."""

from collections.abc import Iterator
from math import pi
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.diagnostics import Problem
from sapolin.core.quantities.model import FiniteNumber, Model

__all__ = [
    "Cavities",
    "Cylinder",
    "HalfSpheres",
    "Measured",
    "Mould",
    "Shape",
    "Slab",
    "calibrated",
    "capacity_ml",
    "height_mm",
    "mould_problems",
    "rim_ml",
]

Length = FiniteNumber | None
LENGTH_MM = (5.0, 2000.0)
VOLUME_ML = (10.0, 200_000.0)
MOST_CAVITIES = 500
CALIBRATION_PERCENT = (80.0, 120.0)


class Slab(Model):
    """A box: a loaf that is cut across its length, or a slab that is cut in a grid."""

    kind: Literal["loaf", "slab"]
    length_mm: Length
    width_mm: Length
    height_mm: Length
    """Inside, to the rim."""


class Cylinder(Model):
    """A tube that stands while it is filled, for round bars."""

    kind: Literal["cylinder"]
    diameter_mm: Length
    length_mm: Length


class HalfSpheres(Model):
    """A tray of half spheres."""

    kind: Literal["half_spheres"]
    diameter_mm: Length
    count: int = 1


class Cavities(Model):
    """A tray of single moulds."""

    kind: Literal["cavities"]
    count: int = 1
    cavity_ml: Length


class Measured(Model):
    """Anything whose volume was found by filling it with water."""

    kind: Literal["measured"]
    volume_ml: Length
    """To the rim."""


Shape = Annotated[Slab | Cylinder | HalfSpheres | Cavities | Measured, Field(discriminator="kind")]


class Mould(Model):
    """A mould of the workshop."""

    id: Annotated[str, Field(max_length=40)] = ""
    name: Annotated[str, Field(min_length=1, max_length=80)]
    shape: Shape
    calibration_percent: FiniteNumber = 100.0
    """What it really took at a calculated fill, %, as earlier batches taught."""
    notes: Annotated[str, Field(max_length=2000)] = ""


def rim_ml(shape: Shape) -> float:
    """Volume to the rim, mL, of a shape that :func:`mould_problems` has passed.

    >>> rim_ml(Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70))
    1400.0
    >>> round(rim_ml(HalfSpheres(kind="half_spheres", diameter_mm=70, count=6)), 1)
    538.8
    """
    if isinstance(shape, Slab):
        return (shape.length_mm or 0) * (shape.width_mm or 0) * (shape.height_mm or 0) / 1000
    if isinstance(shape, Cylinder):
        return pi / 4 * (shape.diameter_mm or 0) ** 2 * (shape.length_mm or 0) / 1000
    if isinstance(shape, HalfSpheres):
        return shape.count * pi / 12 * (shape.diameter_mm or 0) ** 3 / 1000
    if isinstance(shape, Cavities):
        return shape.count * (shape.cavity_ml or 0)
    return shape.volume_ml or 0


def _rim_height_mm(shape: Shape) -> float | None:
    """Height that a headroom is taken off; null when the mould has none to speak of."""
    if isinstance(shape, Slab):
        return shape.height_mm
    return shape.length_mm if isinstance(shape, Cylinder) else None


def capacity_ml(mould: Mould, headroom_mm: float | None = None) -> float:
    """Batter, mL, that fills a `mould` up to `headroom_mm` below its rim (null: to the rim), as it is calibrated."""
    full = rim_ml(mould.shape) * mould.calibration_percent / 100
    height = _rim_height_mm(mould.shape)
    return full if height is None else full * (height - (headroom_mm or 0.0)) / height


def height_mm(mould: Mould, batter_ml: float) -> float | None:
    """How high `batter_ml` stands in a `mould`, mm; null for moulds without straight walls."""
    height = _rim_height_mm(mould.shape)
    return None if height is None else height * batter_ml / capacity_ml(mould)


def calibrated(mould: Mould, planned_ml: float, left_over_ml: float, taught_ml: float = 0.0) -> Mould:
    """The mould after a batch that left `left_over_ml` over (below 0: fell short) of `planned_ml` poured into it.

    One batch moves the calibration halfway, so that a spill does not unlearn what ten batches taught. When the batch had
    taught otherwise before, `taught_ml` over, that is taken back. Neither can be more than `planned_ml`.

    >>> loaf = Mould(name="Loaf", shape=Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70))
    >>> calibrated(loaf, 1000.0, 40.0).calibration_percent
    98.0
    >>> calibrated(calibrated(loaf, 1000.0, 40.0), 1000.0, 0.0, taught_ml=40.0).calibration_percent
    100.0
    """
    low, high = CALIBRATION_PERCENT
    moved = (1 - 0.5 * left_over_ml / planned_ml) / (1 - 0.5 * taught_ml / planned_ml)
    learned = mould.calibration_percent * moved
    return mould.model_copy(update={"calibration_percent": round(min(max(learned, low), high), 2)})


_NAMES = {
    "length_mm": "Length", "width_mm": "Width", "height_mm": "Height", "diameter_mm": "Diameter", "cavity_ml": "Cavity",
    "volume_ml": "Volume",
}  # fmt: skip


def mould_problems(mould: Mould, headroom_mm: float | None = None, field: str = "shape") -> Iterator[Problem]:
    """What cannot be about a mould, or about filling it to `headroom_mm` below its rim."""
    found = False
    for entry, name in _NAMES.items():
        if not hasattr(mould.shape, entry):
            continue
        value, unit = getattr(mould.shape, entry), entry.rpartition("_")[2].replace("ml", "mL")
        low, high = LENGTH_MM if unit == "mm" else VOLUME_ML
        if value is None:
            found = True
            yield _problem("missing", "incomplete", f"{field}.{entry}", f"{name} is not entered yet.",
                           f"Enter {low:g} to {high:,.0f} {unit}.")  # fmt: skip
        elif not low <= value <= high:
            found = True
            hint = " Is it in centimetres?" if unit == "mm" and 0 < value < low else ""
            yield _problem("absurd_mould", "impossible", f"{field}.{entry}",
                           f"{name} {value:,.4g} {unit} is outside {low:g} to {high:,.0f} {unit}.{hint}",
                           "Measure it inside, wall to wall.")  # fmt: skip
    count = getattr(mould.shape, "count", 1)
    if not 1 <= count <= MOST_CAVITIES:
        found = True
        yield _problem("absurd_mould", "impossible", f"{field}.count", f"{count} cavities cannot be.",
                       f"Enter 1 to {MOST_CAVITIES}.")  # fmt: skip
    low, high = CALIBRATION_PERCENT
    if not low <= mould.calibration_percent <= high:
        found = True
        yield _problem("absurd_calibration", "impossible", "calibration_percent",
                       f"It would take {mould.calibration_percent:.4g} % of what it measures.",
                       f"Measure the mould again; {low:g} to {high:g} % can be the walls and the liner.")  # fmt: skip
    if found:
        return
    if not VOLUME_ML[0] <= rim_ml(mould.shape) <= VOLUME_ML[1]:
        yield _problem("absurd_mould", "impossible", field,
                       f"It would take {rim_ml(mould.shape):,.4g} mL.", "Check its measures.")  # fmt: skip
    if headroom_mm is None:
        return
    height = _rim_height_mm(mould.shape)
    if headroom_mm < 0:
        yield _problem("above_the_rim", "impossible", "headroom_mm",
                       f"The batter would stand {-headroom_mm:g} mm above the rim.", "Leave 0 mm or more.")  # fmt: skip
    elif height is None and headroom_mm > 0:
        yield _problem("no_headroom", "impossible", "headroom_mm",
                       f"{mould.name} has no straight walls to leave headroom at.",
                       "Set it to 0, or enter a smaller volume.")  # fmt: skip
    elif height is not None and headroom_mm >= height:
        yield _problem("no_room_left", "impossible", "headroom_mm",
                       f"{headroom_mm:g} mm of headroom leave nothing of a height of {height:g} mm.",
                       "Leave less.")  # fmt: skip


def _problem(
    code: str, severity: Literal["incomplete", "impossible"], field: str, message: str, remedy: str
) -> Problem:
    return Problem(code=code, severity=severity, field=field, message=message, remedy=remedy)
