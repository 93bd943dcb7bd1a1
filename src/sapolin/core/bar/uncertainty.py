"""How sure the superfat is: SAP values differ between lots, lye loses purity, acids vary, scales step.

Expected superfat S = 1 - (L - E) / N, with N the hydroxide that the fats can really take, L the hydroxide really weighed and
E what acids consume, all in mol. Every listed value is the estimate; how lots spread about it is a Type B estimate in the sense
of the GUM: a third of half the natural range is one standard deviation, and a lopsided range of the trade moves nothing. N and
L - E are taken as independent and normal, so that S <= s means (1 - s) N - (L - E) <= 0, a normal variable, and the ends of the
range follow exactly (Fieller's theorem). Lye only weakens: its loss of purity, anything from none to the tolerance, widens the
range upward alone.
"""

from math import sqrt
from statistics import NormalDist
from typing import Literal, NamedTuple

from sapolin.core.formula.composition import Composition
from sapolin.core.quantities.chances import Z_95
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Range
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL
from sapolin.core.quantities.text import plain, text

__all__ = ["Contributor", "SuperfatInterval", "superfat_interval"]

CauseKind = Literal["oil", "fat", "purity", "acid", "scale"]
"""What is not exactly known: an oil, fat or acid of a liquid, the purity of a lye, or the scale."""


class Contributor(Model):
    """One reason for not knowing the superfat exactly."""

    cause: CauseKind
    label: str
    percent: float
    """Its part of the variance, %."""


class _Cause(NamedTuple):
    cause: CauseKind
    label: str
    mol: float
    """One standard deviation, mol of lye; of a purity the most that may be lost."""


class SuperfatInterval(Model):
    """Where the expected superfat lies, in 95 % of batches. An estimate."""

    low_percent: float
    middle_percent: float
    """With every listed value as it is listed."""
    high_percent: float
    chance_lye_heavy_percent: float
    """Chance that the expected superfat is below 0 with lye of its full purity, %."""
    low_together_percent: float | None = None
    """The low end if all lots are off to the same side at once, as from one supplier in one season; null in a batch that was
    frozen before this was calculated."""
    contributors: tuple[Contributor, ...]
    """The largest first."""


def _deviation(span: Range) -> float:
    """Standard deviation between lots of what naturally lies within `span`: a third of half of it."""
    return (span.maximum - span.minimum) / 6


def superfat_interval(
    composition: Composition, purity_tolerance_percent: float | None, oils_step_g: float, lye_step_g: float
) -> SuperfatInterval:
    """The 95 % range of the superfat of a `composition`.

    Parameters: `purity_tolerance_percent`, how much purity the lye may have lost, points, null for the rule of thumb of each
    lye; the steps are those of the scales that oils and lye are weighed on, g.

    >>> from sapolin.core.formula.document import Formula
    >>> lines = [{"oil": "olive-refined", "value": 70}, {"oil": "coconut", "value": 30}]
    >>> formula = Formula.model_validate({
    ...     "name": "Bar", "blend": {"total_oils_g": 1000, "lines": lines}, "superfat_percent": 5,
    ...     "lye": {"naoh_purity_percent": 99}, "water": {"by": "water_to_lye", "value": 2},
    ... })
    >>> from sapolin.core.bar.calculation import calculation_of
    >>> found = superfat_interval(calculation_of(formula).composition, 1.0, 0.1, 0.1)
    >>> [round(end, 1) for end in (found.low_percent, found.middle_percent, found.high_percent)]
    [3.5, 5.0, 7.0]
    """
    per_g = 1 / (1000 * KOH_G_PER_MOL)  # mg KOH/g to mol/g
    fats_mol = composition.fats_mol
    fats = [
        _Cause("oil", component.oil.name, component.weight_g * per_g * _deviation(component.oil.sap_koh_mg_per_g))
        for component in composition.pure_oils
    ]
    for liquid in composition.liquids:
        if liquid.fat is not None:
            mol_per_percent = liquid.weight_g / 100 * liquid.fat.sap_koh_mg_per_g.typical * per_g
            deviation = _deviation(liquid.liquid.fat_percent) * mol_per_percent
            fats.append(_Cause("fat", _called("fat", liquid=liquid.liquid.name.lower()), deviation))
    step = oils_step_g / sqrt(12)
    scale_fats = [component.oil.sap_koh_mg_per_g.typical * per_g * step for component in composition.oils]

    losses, scale_lye = [], 0.0
    for name, lye in (("NaOH", composition.naoh), ("KOH", composition.koh)):
        if lye.weight_g > 0:
            lost = purity_tolerance_percent
            if lost is None:
                lost = coefficient(f"purity_tolerance.{name.lower()}")
            most = lye.weight_g * lost / 100 * lye.mol / lye.pure_g
            losses.append(_Cause("purity", _called("purity", lye=name), most))
            scale_lye += (lye.mol / lye.weight_g * lye_step_g / sqrt(12)) ** 2
    spread = coefficient("liquid.acid_spread") / 100
    acids = [
        _Cause("acid", _called("acid", liquid=consumed.name.lower()), consumed.mol * spread)
        for consumed in composition.consumed
        if consumed.path.startswith("liquids")
    ]
    net_lye_mol = composition.lye_mol - composition.consumed_mol

    # To first order the superfat moves by ((L / N) dN - dL) / N: fats count (L / N)^2 times as much as lye.
    fats_count = (net_lye_mol / fats_mol) ** 2
    scale = sum(deviation**2 for deviation in scale_fats) * fats_count + scale_lye
    causes = [
        *((one, one.mol**2 * fats_count) for one in fats),
        # Evenly from nothing to the most: the mean square of what is lost is a third of the square of the most.
        *((one, one.mol**2 / 3) for one in losses),
        *((one, one.mol**2) for one in acids),
        (_Cause("scale", _called("scale"), sqrt(scale)), scale),
    ]
    total = sum(variance for _, variance in causes)
    fats_variance = sum(one.mol**2 for one in fats) + sum(deviation**2 for deviation in scale_fats)
    lye_variance = sum(one.mol**2 for one in acids) + scale_lye
    low, _ = _fieller(fats_mol, fats_variance, net_lye_mol, lye_variance)
    # Upward, half of the most is lost on average, with the variance of an even distribution.
    mean_loss = sum(one.mol / 2 for one in losses)
    loss_variance = sum(one.mol**2 / 12 for one in losses)
    _, high = _fieller(fats_mol, fats_variance, net_lye_mol - mean_loss, lye_variance + loss_variance)
    fats_together = sum(one.mol for one in fats)
    lye_together = sum(one.mol for one in acids)
    return SuperfatInterval(
        low_percent=low,
        middle_percent=100 * (1 - net_lye_mol / fats_mol),
        high_percent=high,
        chance_lye_heavy_percent=100 * _chance_below(net_lye_mol - fats_mol, fats_variance + lye_variance),
        low_together_percent=100 * (1 - (net_lye_mol + Z_95 * lye_together) / (fats_mol - Z_95 * fats_together)),
        contributors=tuple(
            Contributor(cause=one.cause, label=one.label, percent=100 * variance / total)
            for one, variance in sorted(causes, key=lambda pair: pair[1], reverse=True)
        ),
    )


def _called(cause: str, **params: str) -> str:
    return plain(text(f"causes.{cause}", **params))


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
    # Where nothing is in doubt, rounding alone may leave less than nothing.
    root = sqrt(max(half**2 - square * rest, 0.0))
    return 100 * (1 - (half + root) / square), 100 * (1 - (half - root) / square)
