"""How hot lye gets when it dissolves, and when things have cooled. Temperatures in °C, heats in J.

Sources: integral heats of solution of NaOH and KOH and specific heats of their solutions (handbook values, rounded); heat of
fusion of ice 334 J/g; KOH flakes hold water as the monohydrate, whose heat of solution is 43 kJ/mol less than that of dry KOH.
"""

from collections.abc import Sequence
from math import exp, log
from statistics import linear_regression
from typing import Literal

import numpy as np

from sapolin.core.formula.composition import Composition
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL, NAOH_G_PER_MOL, WATER_G_PER_MOL

__all__ = ["Cooling", "LyePeak", "cooling", "gel_onset_hours", "lye_peak", "lye_peak_of", "solution_density_g_per_ml"]

ICE_CP_J_PER_G_K = 2.1
ICE_MELTS_J_PER_G = 334.0
FREEZER_C = -18.0
FRIDGE_C = 4.0
BOILS_FROM_C = 110.0
"""Strong lye boils above water; from here on it may spit."""
HYDRATION_KJ_PER_MOL = 43.0
"""Given off already by the KOH that is sold as its monohydrate: 57.6 less 14.6 kJ/mol."""
_NAOH_HEAT_KJ_PER_MOL = (
    (2.0, 20.5), (2.5, 25.3), (3.0, 29.0), (4.0, 34.0), (5.0, 38.0), (10.0, 42.5), (50.0, 44.0), (200.0, 44.5),
)  # fmt: skip
_KOH_HEAT_KJ_PER_MOL = (
    (2.0, 34.0), (3.0, 42.0), (4.0, 46.6), (5.0, 49.4), (10.0, 53.9), (20.0, 55.3), (50.0, 56.0), (200.0, 57.6),
)  # fmt: skip
"""Heat given off, by mol of water per mol of dry lye. What holds less water than the first does not dissolve."""
_NAOH_CP_J_PER_G_K = ((0.0, 4.18), (10.0, 3.8), (25.0, 3.6), (100 / 3, 3.5), (50.0, 3.2))
_KOH_CP_J_PER_G_K = ((0.0, 4.18), (10.0, 3.7), (20.0, 3.4), (30.0, 3.15), (40.0, 2.95), (50.0, 2.8))
"""Specific heat of the solution, by percent of lye in it."""
_NAOH_DENSITY = ((0.0, 0.998), (10.0, 1.109), (20.0, 1.219), (25.0, 1.274), (30.0, 1.328), (40.0, 1.430), (50.0, 1.525))
_KOH_DENSITY = ((0.0, 0.998), (10.0, 1.091), (20.0, 1.187), (30.0, 1.288), (40.0, 1.394), (50.0, 1.511))
"""Density, g/mL at 20 C, by percent of lye in its solution."""


def _between(table: Sequence[tuple[float, float]], x: float) -> float:
    """Straight lines between the points of `table`; its ends hold beyond them."""
    points, values = zip(*table, strict=True)
    return float(np.interp(x, points, values))


def _mixed(naoh_g: float, koh_g: float, of_naoh: float, of_koh: float) -> float:
    """A property of a solution of two lyes, by their weights."""
    return (naoh_g * of_naoh + koh_g * of_koh) / (naoh_g + koh_g)


def solution_density_g_per_ml(naoh_g: float, koh_g: float, water_g: float) -> float:
    """Density of lye in `water_g` of water at 20 °C; of two lyes, by their weights.

    >>> round(solution_density_g_per_ml(30.0, 0.0, 70.0), 3)
    1.328
    """
    lye_g = naoh_g + koh_g
    if lye_g <= 0:
        return _NAOH_DENSITY[0][1]
    percent = 100 * lye_g / (lye_g + water_g)
    return _mixed(naoh_g, koh_g, _between(_NAOH_DENSITY, percent), _between(_KOH_DENSITY, percent))


def _cp_j_per_g_k(naoh_g: float, koh_g: float, all_g: float) -> float:
    percent = 100 * (naoh_g + koh_g) / all_g
    return _mixed(naoh_g, koh_g, _between(_NAOH_CP_J_PER_G_K, percent), _between(_KOH_CP_J_PER_G_K, percent))


class LyePeak(Model):
    """How hot the lye gets; an estimate."""

    low_c: float
    """In an uncovered jug, stirred slowly."""
    high_c: float
    """If no heat is lost at all."""
    boils: Truth
    """It may boil and spit."""


def lye_peak(
    naoh_g: float, koh_g: float, water_g: float, *, start_c: float = 20.0, frozen_g: float = 0.0, chilled_g: float = 0.0,
    dissolved_in_g: float = 0.0, koh_water_g: float = 0.0, in_ice: bool = False,
) -> LyePeak:  # fmt: skip
    """Peak of pure lye in `water_g` of water, of which `frozen_g` is ice or frozen milk and `chilled_g` is from the fridge.

    `koh_water_g` is what the flakes of KOH hold already: their hydrate has given off part of its heat. Master lye is dissolved
    already, in `dissolved_in_g` of the water: only the heat of thinning it (the difference of the two heats of solution) is
    left. `in_ice`: the jug stands in an ice bath.

    A third of lye by weight from 20 °C: makers see 90 to 105 °C.

    >>> peak = lye_peak(100.0, 0.0, 200.0)
    >>> round(peak.low_c), round(peak.high_c)
    (90, 105)

    With the water frozen it stays far cooler, in an ice bath somewhat:

    >>> round(lye_peak(100.0, 0.0, 200.0, frozen_g=200.0).high_c), round(lye_peak(100.0, 0.0, 200.0, in_ice=True).high_c)
    (21, 84)

    KOH flakes of 90 % stay below dry KOH:

    >>> round(lye_peak(0.0, 90.0, 180.0, koh_water_g=10.0).high_c), round(lye_peak(0.0, 90.0, 180.0).high_c)
    (86, 117)

    Lye dissolved ahead in its own weight of water, thinned to 1 : 2, warms by some 31 degrees instead of 85; used as it is,
    not at all:

    >>> round(lye_peak(100.0, 0.0, 200.0, dissolved_in_g=100.0).high_c)
    51
    >>> lye_peak(100.0, 0.0, 100.0, dissolved_in_g=100.0).high_c
    20.0
    """
    naoh_mol, koh_mol = naoh_g / NAOH_G_PER_MOL, koh_g / KOH_G_PER_MOL
    if naoh_mol + koh_mol <= 0 or water_g <= 0:
        return LyePeak(low_c=start_c, high_c=start_c, boils=False)

    def dissolving_j(in_water_g: float) -> float:
        water_mol_per_mol = in_water_g / WATER_G_PER_MOL / (naoh_mol + koh_mol)
        of_naoh, of_koh = (
            _between(table, water_mol_per_mol) for table in (_NAOH_HEAT_KJ_PER_MOL, _KOH_HEAT_KJ_PER_MOL)
        )
        return 1000 * (naoh_mol * of_naoh + koh_mol * of_koh)

    if dissolved_in_g > 0:
        heat_j = max(dissolving_j(water_g) - dissolving_j(dissolved_in_g), 0.0)
    else:
        hydrate_mol = min(koh_water_g / WATER_G_PER_MOL, koh_mol)
        heat_j = dissolving_j(water_g + koh_water_g) - 1000 * HYDRATION_KJ_PER_MOL * hydrate_mol
    all_g = naoh_g + koh_g + koh_water_g + water_g
    kelvin_per_j = 1 / (all_g * _cp_j_per_g_k(naoh_g, koh_g, all_g))
    ice_takes_j = frozen_g * (ICE_MELTS_J_PER_G + ICE_CP_J_PER_G_K * -FREEZER_C)
    cold_c = min(FRIDGE_C, start_c)
    liquid_start_c = (start_c * (all_g - frozen_g - chilled_g) + cold_c * chilled_g) / all_g
    kept = (
        (coefficient("lye.heat_kept_least_in_ice"), coefficient("lye.heat_kept_most_in_ice"))
        if in_ice
        else (coefficient("lye.heat_kept_least"), 1.0)
    )
    ends = [max(liquid_start_c + (heat_j * part - ice_takes_j) * kelvin_per_j, 0.0) for part in kept]
    return LyePeak(low_c=ends[0], high_c=ends[1], boils=ends[1] >= BOILS_FROM_C)


def lye_peak_of(
    composition: Composition, *, start_c: float, milk: Literal["frozen", "chilled"], in_ice: bool, set_aside_g: float
) -> LyePeak:  # fmt: skip
    """The peak of the lye of a `composition`, in the water that is left for it when `set_aside_g` of it wets powders.

    Liquids that would scorch go in as cubes, or from the fridge, as `milk` says.
    """
    dissolving = [liquid for liquid in composition.liquids if liquid.use == "dissolves_lye"]
    cold_g = sum(liquid.water_g for liquid in dissolving if liquid.liquid.scorches == "yes")
    return lye_peak(
        composition.naoh.pure_g,
        composition.koh.pure_g,
        composition.dissolving_water_g - set_aside_g,
        start_c=start_c,
        frozen_g=cold_g if milk == "frozen" else 0.0,
        chilled_g=cold_g if milk == "chilled" else 0.0,
        dissolved_in_g=composition.master_water_g,
        koh_water_g=composition.koh.weight_g - composition.koh.pure_g,
        in_ice=in_ice,
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
