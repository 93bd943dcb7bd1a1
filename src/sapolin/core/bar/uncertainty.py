"""How sure the superfat is: SAP values vary in nature, lye loses purity, scales step.

Expected superfat S = 1 - (L - E) / N, with N the hydroxide that the fats can really take, L the hydroxide really weighed and
E what acids consume, all in mol. N and L are taken as independent and normal; each SAP value as triangular over its listed
range with its peak at the typical one, each purity as even over its tolerance, each weighing as even over one step of the
scale. S <= s then means (1 - s) N - (L - E) <= 0, a normal variable, so that the interval is exact for normal N and L
(Fieller's theorem) and the chance of a lye-heavy bar is one value of the normal distribution.
"""

from math import sqrt
from statistics import NormalDist

from sapolin.core.formula.composition import Composition
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Range
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL

__all__ = ["Contributor", "SuperfatInterval", "superfat_interval"]

Z_95 = NormalDist().inv_cdf(0.975)
"""Standard deviations to either side that hold 95 % of a normal distribution."""


class Contributor(Model):
    """One reason for not knowing the superfat exactly."""

    label: str
    percent: float
    """Its part of the variance, %."""


class SuperfatInterval(Model):
    """Where the expected superfat lies, in 95 % of batches. An estimate."""

    low_percent: float
    middle_percent: float
    """The median; off the nominal one where ranges are lopsided."""
    high_percent: float
    chance_lye_heavy_percent: float
    """Chance that the expected superfat is below 0, %."""
    contributors: tuple[Contributor, ...]
    """The largest first."""


def _triangular(span: Range) -> tuple[float, float]:
    """Mean and variance of the triangular distribution over `span`, peak at its typical."""
    a, b, c = span.minimum, span.maximum, span.typical
    return (a + b + c) / 3, (a * a + b * b + c * c - a * b - a * c - b * c) / 18


def superfat_interval(
    composition: Composition, purity_tolerance_percent: float | None, oils_step_g: float, lye_step_g: float
) -> SuperfatInterval:
    """The 95 % range of the superfat of a `composition`.

    Parameters: `purity_tolerance_percent`, how far the purity of the lye may be off, points either way, null for the rule of
    thumb of each lye; the steps are those of the scales that oils and lye are weighed on, g.
    """
    per_g = 1 / (1000 * KOH_G_PER_MOL)  # mg KOH/g to mol/g
    fats_mol, fats_variance = 0.0, []
    for component in composition.pure_oils:
        mean, variance = _triangular(component.oil.sap_koh_mg_per_g)
        fats_mol += component.weight_g * mean * per_g
        fats_variance.append((component.oil.name, variance * (component.weight_g * per_g) ** 2))
    for liquid in composition.liquids:
        if liquid.fat is not None:
            fat_mol_per_percent = liquid.weight_g / 100 * liquid.fat.sap_koh_mg_per_g.typical * per_g
            mean, variance = _triangular(liquid.liquid.fat_percent)
            fats_mol += mean * fat_mol_per_percent
            fats_variance.append((f"fat of the {liquid.liquid.name.lower()}", variance * fat_mol_per_percent**2))
    step_variance = oils_step_g**2 / 12
    scale_fats = sum(
        (component.oil.sap_koh_mg_per_g.typical * per_g) ** 2 * step_variance for component in composition.oils
    )

    lye_variance, scale_lye = [], 0.0
    for name, lye in (("NaOH", composition.naoh), ("KOH", composition.koh)):
        if lye.weight_g > 0:
            tolerance = purity_tolerance_percent
            if tolerance is None:
                tolerance = coefficient(f"purity_tolerance.{name.lower()}")
            mol_per_pure_g = lye.mol / lye.pure_g
            lye_variance.append((f"purity of the {name}", (lye.weight_g * tolerance / 100 * mol_per_pure_g) ** 2 / 3))
            scale_lye += (lye.mol / lye.weight_g) ** 2 * lye_step_g**2 / 12
    net_lye_mol = composition.lye_mol - composition.consumed_mol
    fats_total = sum(variance for _, variance in fats_variance) + scale_fats
    lye_total = sum(variance for _, variance in lye_variance) + scale_lye

    # To first order the superfat moves by (L / N) (dN / N - dL / L): lye counts (N / L)^2 times as much as fats.
    weight = (fats_mol / net_lye_mol) ** 2 if net_lye_mol > 0 else 1.0
    causes = [
        *fats_variance,
        *((name, variance * weight) for name, variance in lye_variance),
        ("the scale", scale_fats + scale_lye * weight),
    ]
    total = sum(variance for _, variance in causes)
    low, high = _fieller(fats_mol, fats_total, net_lye_mol, lye_total)
    return SuperfatInterval(
        low_percent=low,
        middle_percent=100 * (1 - net_lye_mol / fats_mol),
        high_percent=high,
        chance_lye_heavy_percent=100 * _chance_below((net_lye_mol - fats_mol), fats_total + lye_total),
        contributors=tuple(
            Contributor(label=name, percent=100 * variance / total if total > 0 else 0.0)
            for name, variance in sorted(causes, key=_variance, reverse=True)
        ),
    )


def _variance(cause: tuple[str, float]) -> float:
    return cause[1]


def _chance_below(excess: float, variance: float) -> float:
    """Chance that a normal variable with mean -`excess` and this `variance` is below 0."""
    if variance <= 0:
        return 1.0 if excess > 0 else 0.0
    return NormalDist(-excess, sqrt(variance)).cdf(0.0)


def _fieller(fats: float, fats_variance: float, lye: float, lye_variance: float) -> tuple[float, float]:
    """Ends of the interval for 100 (1 - lye / fats): the roots r of (r fats - lye)^2 = z^2 (r^2 Vf + Vl)."""
    square = fats**2 - Z_95**2 * fats_variance
    half = fats * lye
    rest = lye**2 - Z_95**2 * lye_variance
    root = sqrt(max(half**2 - square * rest, 0.0))
    return 100 * (1 - (half + root) / square), 100 * (1 - (half - root) / square)
