"""How hot lye gets when it dissolves, and when things have cooled. Temperatures in C, heats in J.

Sources: integral heats of solution of NaOH and KOH (CRC Handbook), heat of fusion of ice 334 J/g.
"""

from collections.abc import Sequence
from math import exp, log
from statistics import linear_regression

import numpy as np

from sapolin.core.formula.composition import Composition
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL, NAOH_G_PER_MOL, WATER_G_PER_MOL

__all__ = ["Cooling", "LyePeak", "cooling", "gel_onset_hours", "lye_peak", "lye_peak_of", "solution_density_g_per_ml"]

SOLUTION_CP_J_PER_G_K = 3.5
ICE_CP_J_PER_G_K = 2.1
ICE_MELTS_J_PER_G = 334.0
FREEZER_C = -18.0
BOILS_FROM_C = 110.0
"""Strong lye boils above water; from here on it may spit."""
KOH_TO_NAOH_HEAT = 57.6 / 44.5
"""Heat of solution of KOH over that of NaOH, both at infinite dilution."""
_NAOH_HEAT_KJ_PER_MOL = ((3.0, 29.0), (4.0, 34.0), (5.0, 38.0), (10.0, 42.5), (50.0, 44.0), (200.0, 44.5))
"""Heat given off, by mol of water per mol of lye. Below 3 mol the first value holds: too hot rather than too cool."""
_NAOH_HEAT_OF_MASTER_KJ_PER_MOL = ((2.0, 20.5), *_NAOH_HEAT_KJ_PER_MOL)
"""The same, carried on to strong master lye along its curve: what is taken as given off already must not be too much."""
_NAOH_DENSITY = ((0.0, 0.998), (10.0, 1.109), (20.0, 1.219), (25.0, 1.274), (30.0, 1.328), (40.0, 1.430), (50.0, 1.525))
_KOH_DENSITY = ((0.0, 0.998), (10.0, 1.091), (20.0, 1.187), (30.0, 1.288), (40.0, 1.394), (50.0, 1.511))
"""Density, g/mL at 20 C, by percent of lye in its solution."""


def _between(table: Sequence[tuple[float, float]], x: float) -> float:
    """Straight lines between the points of `table`; its ends hold beyond them."""
    points, values = zip(*table, strict=True)
    return float(np.interp(x, points, values))


def solution_density_g_per_ml(naoh_g: float, koh_g: float, water_g: float) -> float:
    """Density of lye in `water_g` of water at 20 C; of two lyes, by their weights.

    >>> round(solution_density_g_per_ml(30.0, 0.0, 70.0), 3)
    1.328
    """
    lye_g = naoh_g + koh_g
    percent = 100 * lye_g / (lye_g + water_g)
    if lye_g <= 0:
        return _NAOH_DENSITY[0][1]
    return (naoh_g * _between(_NAOH_DENSITY, percent) + koh_g * _between(_KOH_DENSITY, percent)) / lye_g


class LyePeak(Model):
    """How hot the lye gets; an estimate."""

    low_c: float
    """In an uncovered jug, stirred slowly."""
    high_c: float
    """If no heat is lost at all."""
    boils: bool
    """It may boil and spit."""


def lye_peak(
    naoh_g: float, koh_g: float, water_g: float, *, start_c: float = 20.0, frozen_g: float = 0.0, dissolved_in_g: float = 0.0
) -> LyePeak:  # fmt: skip
    """Peak of pure lye in `water_g` of water, of which `frozen_g` goes in as ice or frozen milk.

    Master lye is dissolved already, in `dissolved_in_g` of that water: its heat of solution is long gone, and only the heat
    of thinning it (the difference of the two heats of solution) is left.

    A third of lye by weight from 20 C: makers see 90 to 105 C.

    >>> peak = lye_peak(100.0, 0.0, 200.0)
    >>> round(peak.low_c), round(peak.high_c)
    (90, 105)

    With the water frozen it stays far cooler:

    >>> round(lye_peak(100.0, 0.0, 200.0, frozen_g=200.0).high_c)
    21

    Lye dissolved ahead in its own weight of water, thinned to 1 : 2, warms by some 32 degrees instead of 85; used as it is,
    not at all:

    >>> round(lye_peak(100.0, 0.0, 200.0, dissolved_in_g=100.0).high_c)
    52
    >>> lye_peak(100.0, 0.0, 100.0, dissolved_in_g=100.0).high_c
    20.0
    """
    mol = naoh_g / NAOH_G_PER_MOL + koh_g / KOH_G_PER_MOL
    if mol <= 0 or water_g <= 0:
        return LyePeak(low_c=start_c, high_c=start_c, boils=False)
    per_mol = 1000 * _between(_NAOH_HEAT_KJ_PER_MOL, water_g / WATER_G_PER_MOL / mol)
    if dissolved_in_g > 0:
        per_mol = 1000 * _between(_NAOH_HEAT_OF_MASTER_KJ_PER_MOL, water_g / WATER_G_PER_MOL / mol)
        given_off = 1000 * _between(_NAOH_HEAT_OF_MASTER_KJ_PER_MOL, dissolved_in_g / WATER_G_PER_MOL / mol)
        per_mol = max(per_mol - given_off, 0.0)
    heat = per_mol * (naoh_g / NAOH_G_PER_MOL + koh_g / KOH_G_PER_MOL * KOH_TO_NAOH_HEAT)
    heat_needed_by_ice = frozen_g * (ICE_MELTS_J_PER_G + ICE_CP_J_PER_G_K * -FREEZER_C)
    mass = naoh_g + koh_g + water_g
    liquid_start = (start_c * (mass - frozen_g)) / mass
    ends = []
    for kept in (coefficient("lye.heat_kept_least"), 1.0):
        peak = liquid_start + (heat * kept - heat_needed_by_ice) / (mass * SOLUTION_CP_J_PER_G_K)
        ends.append(max(peak, 0.0))
    return LyePeak(low_c=ends[0], high_c=ends[1], boils=ends[1] >= BOILS_FROM_C)


def lye_peak_of(composition: Composition, *, start_c: float, frozen: bool, set_aside_g: float) -> LyePeak:
    """The peak of the lye of a `composition`, in the water that is left for it when `set_aside_g` of it wets powders.

    `frozen`: liquids that would scorch go in as cubes.
    """
    dissolving = [liquid for liquid in composition.liquids if liquid.use == "dissolves_lye"]
    cubes_g = sum(liquid.water_g for liquid in dissolving if liquid.liquid.scorches == "yes")
    return lye_peak(
        composition.naoh.pure_g,
        composition.koh.pure_g,
        composition.dissolving_water_g - set_aside_g,
        start_c=start_c,
        frozen_g=cubes_g if frozen else 0.0,
        dissolved_in_g=composition.master_water_g,
    )


class Cooling(Model):
    """How a bowl cools: toward the room, by the same fraction in every minute."""

    room_c: float
    per_minute: float
    """Fraction of the difference to the room lost in a minute."""
    last_c: float
    last_minute: float
    """Of the last reading."""

    def at(self, minute: float) -> float:
        """Temperature expected at a minute."""
        return self.room_c + (self.last_c - self.room_c) * exp(-self.per_minute * (minute - self.last_minute))

    def minute_at(self, celsius: float) -> float | None:
        """Minute at which it will have come down to `celsius`; null if it never does."""
        if self.last_c <= celsius:
            return self.last_minute
        if celsius <= self.room_c or self.per_minute <= 0:
            return None
        return self.last_minute + log((self.last_c - self.room_c) / (celsius - self.room_c)) / self.per_minute


def cooling(readings: Sequence[tuple[float, float]], room_c: float) -> Cooling | None:
    """The cooling that `readings` (minute, C) after the peak show; null until two of them do.

    The rate is the least-squares slope of the logarithm of the difference to the room, so every reading improves it.

    >>> curve = cooling([(0.0, 80.0), (10.0, 65.0)], room_c=20.0)
    >>> round(curve.at(20.0), 2)
    53.75
    """
    start = max(range(len(readings)), key=lambda i: readings[i][1], default=0)
    falling = [(minute, celsius) for minute, celsius in readings[start:] if celsius > room_c + 0.1]
    if len(falling) < 2:
        return None
    minutes = [minute for minute, _ in falling]
    if max(minutes) <= min(minutes):
        return None
    slope = linear_regression(minutes, [log(celsius - room_c) for _, celsius in falling]).slope
    if slope >= 0:
        return None
    return Cooling(room_c=room_c, per_minute=-slope, last_c=falling[-1][1], last_minute=falling[-1][0])


def gel_onset_hours(lye_concentration_percent: float) -> float:
    """About how long after pouring gel is first seen, insulated (rule of thumb)."""
    drier = lye_concentration_percent - coefficient("water.usual_lye_concentration")
    return max(
        coefficient("gel.onset_hours_at_reference") * (1 + coefficient("gel.onset_per_lye_concentration") * drier), 0.25
    )
