"""Moulds: how much batter they take, and how high it stands in them. Lengths in mm, volumes in mL (= cm3)."""

from collections.abc import Iterator
from math import pi
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.model import FiniteNumber, Model, given
from sapolin.core.quantities.text import number, percent, template

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
        return given(shape.length_mm) * given(shape.width_mm) * given(shape.height_mm) / 1000
    if isinstance(shape, Cylinder):
        return pi / 4 * given(shape.diameter_mm) ** 2 * given(shape.length_mm) / 1000
    if isinstance(shape, HalfSpheres):
        return shape.count * pi / 12 * given(shape.diameter_mm) ** 3 / 1000
    if isinstance(shape, Cavities):
        return shape.count * given(shape.cavity_ml)
    return given(shape.volume_ml)


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


_MEASURES = ("length_mm", "width_mm", "height_mm", "diameter_mm", "cavity_ml", "volume_ml")


def mould_problems(mould: Mould, headroom_mm: float | None = None, path: str = "shape") -> Iterator[Diagnostic]:
    """What cannot be about a mould, or about filling it to `headroom_mm` below its rim."""
    found = [*_measures(mould, path)]
    count = getattr(mould.shape, "count", 1)
    if not 1 <= count <= MOST_CAVITIES:
        found.append(stopping("absurd_cavities", f"{path}.count", count=number(count), most=number(MOST_CAVITIES)))
    low, high = CALIBRATION_PERCENT
    if not low <= mould.calibration_percent <= high:
        taken = percent(mould.calibration_percent, 1)
        found.append(
            stopping("absurd_calibration", "calibration_percent", taken=taken, low=number(low), high=percent(high))
        )
    yield from found
    if found:
        return
    if not VOLUME_ML[0] <= rim_ml(mould.shape) <= VOLUME_ML[1]:
        yield stopping("absurd_volume", path, volume=number(rim_ml(mould.shape), 0, "mL"))
    if headroom_mm is None:
        return
    height = _rim_height_mm(mould.shape)
    if headroom_mm < 0:
        yield stopping("above_the_rim", "headroom_mm", above=number(-headroom_mm, unit="mm"))
    elif height is None and headroom_mm > 0:
        yield stopping("no_headroom", "headroom_mm", name=mould.name)
    elif height is not None and headroom_mm >= height:
        yield stopping(
            "no_room_left", "headroom_mm", headroom=number(headroom_mm, unit="mm"), height=number(height, unit="mm")
        )  # fmt: skip


def _measures(mould: Mould, path: str) -> Iterator[Diagnostic]:
    for entry in _MEASURES:
        if not hasattr(mould.shape, entry):
            continue
        value, unit = getattr(mould.shape, entry), entry.rpartition("_")[2].replace("ml", "mL")
        least, most = LENGTH_MM if unit == "mm" else VOLUME_ML
        name, low, high = template(f"measures.{entry}"), number(least), number(most, unit=unit)
        if value is None:
            yield stopping("missing", f"{path}.{entry}", is_open=True, name=name, low=low, high=high)
        elif not least <= value <= most:
            code = "mould_in_centimetres" if unit == "mm" and 0 < value < least else "absurd_mould"
            yield stopping(code, f"{path}.{entry}", name=name, value=number(value, unit=unit), low=low, high=high)
