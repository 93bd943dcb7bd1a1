"""How thick diluted soap is, and what salt does to it: a forecast from the fatty acids, and the log of a salt test.

The forecast is a rule of thumb: the share of soap from which diluted soap turns thick rises with its short acids (C8 to C14),
which make a soap that runs like water. Salt thickens soap of long acids up to a peak and thins it again beyond, for good.
"""

from collections.abc import Mapping, Sequence
from typing import Literal

from sapolin.core.production.events import SaltStepped
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.text import Text, number, percent, text, weight

__all__ = [
    "SaltCurve",
    "SaltStep",
    "SaltTest",
    "Thickness",
    "ThicknessForecast",
    "salt_curve",
    "salt_test",
    "thickness_of",
]

Thickness = Literal["water", "thin", "thick", "gel"]
SHORT_ACIDS = ("C8:0", "C10:0", "C12:0", "C14:0")
LONG_SATURATED = ("C16:0", "C18:0", "C20:0", "C22:0")


class ThicknessForecast(Model):
    """How thick it is likely to be; an estimate."""

    thickness: Thickness
    thick_from_percent: float
    """The share of soap from which it turns thick."""
    salt_thickens: Truth
    """Brine thickens it: it is rich enough in long acids."""
    words: Text


def thickness_of(acids: Mapping[str, float], soap_percent: float) -> ThicknessForecast:
    """The forecast for diluted soap; `acids` maps acid ids to percent of all fatty acids of its soap.

    >>> olive = {"C18:1": 72.0, "C18:2": 11.0, "C16:0": 13.0, "C18:0": 3.0}
    >>> thickness_of(olive, 25.0).thickness, thickness_of({"C12:0": 48.0, "C14:0": 19.0, "C18:1": 8.0}, 25.0).thickness
    ('thick', 'water')
    """
    short = sum(acids.get(acid, 0.0) for acid in SHORT_ACIDS)
    thick_from = coefficient("liquid.thick_from_percent") + coefficient("liquid.thick_per_short_acid") * short
    below = soap_percent - thick_from
    gel, thin = coefficient("liquid.gel_beyond"), coefficient("liquid.water_below")
    thickness: Thickness = "gel" if below >= gel else "thick" if below >= 0 else "thin" if below >= -thin else "water"
    salts = short <= coefficient("liquid.salt_short_acids_most")
    return ThicknessForecast(
        thickness=thickness,
        thick_from_percent=thick_from,
        salt_thickens=salts,
        words=(
            *text(f"liquid.thickness.{thickness}", start=percent(thick_from, 0)),
            " ",
            *text("liquid.salt.thickens" if salts else "liquid.salt.does_not", short=percent(short, 0)),
        ),
    )


class SaltStep(Model):
    """A step of the salt test: all the brine in the sample so far, and how long it takes to run."""

    brine_g: FiniteNumber
    """In the whole sample, g."""
    seconds: FiniteNumber
    """For the same spoon or funnel to run empty: the thicker, the longer."""


class SaltCurve(Model):
    """What a salt test says."""

    peak_percent: float | None
    """Brine at which it was thickest, % of the sample; null while the peak is not reached."""
    use_percent: float | None
    """What to use: short of the peak, so that a slip does not thin it."""
    use_g: float | None
    """The same for the whole batch, g."""
    thickens_times: float
    """Its longest time against that without brine."""
    words: Text


class SaltTest(Model):
    """The salt test of the newest sample, and what its next step begins with."""

    sample_g: FiniteNumber
    """The sample without brine, g; while there is none, what a test begins with."""
    steps: tuple[SaltStep, ...]
    """In the order they were noted."""
    curve: SaltCurve | None
    """What it says; null while it has no step without brine."""
    next_brine_g: FiniteNumber
    """All the brine in the sample at the next step, g: none at first, then a spoon more each time."""


def salt_test(noted: Sequence[SaltStepped], batch_g: float) -> SaltTest:
    """The test that the newest of `noted` belongs to, and what it means for `batch_g` of soap. A sample of another weight is
    the start of a new test, and so is a second step without brine: what is in cannot be taken out again.

    >>> salt_test([], 3000.0).next_brine_g, salt_test([], 3000.0).sample_g
    (0.0, 100.0)
    """
    test: list[SaltStepped] = []
    for step in noted:
        begins_anew = step.brine_g == 0 and _has_start(test)
        if begins_anew or (test and step.sample_g != test[0].sample_g):
            test = []
        test.append(step)
    if not test:
        return SaltTest(sample_g=coefficient("liquid.salt_sample_g"), steps=(), curve=None, next_brine_g=0.0)
    sample_g = test[0].sample_g
    steps = tuple(SaltStep(brine_g=one.brine_g, seconds=one.seconds) for one in test)
    spoon_g = coefficient("liquid.salt_spoon_percent") * sample_g / 100
    return SaltTest(
        sample_g=sample_g, steps=steps, curve=salt_curve(sample_g, steps, batch_g) if _has_start(test) else None,
        next_brine_g=max(one.brine_g for one in steps) + spoon_g,
    )  # fmt: skip


def _has_start(test: Sequence[SaltStepped]) -> bool:
    return any(step.brine_g == 0 for step in test)


def salt_curve(sample_g: float, steps: Sequence[SaltStep], batch_g: float) -> SaltCurve:
    """The peak of a salt test of a sample of `sample_g`, and what it means for `batch_g`.

    The peak is that of the parabola through the thickest step and its neighbours; a test that is still rising has none.

    >>> steps = [SaltStep(brine_g=g, seconds=s) for g, s in ((0, 4), (1, 8), (2, 16), (3, 12), (4, 5))]
    >>> curve = salt_curve(100.0, steps, 3000.0)
    >>> round(curve.peak_percent, 2), round(curve.use_percent, 2), round(curve.use_g)
    (2.17, 1.73, 52)

    Raises ValueError when there is no step without brine to compare with, or the sample weighs nothing.
    """
    by_brine = {step.brine_g: step.seconds for step in sorted(steps, key=lambda step: step.brine_g)}
    if sample_g <= 0 or not by_brine or min(by_brine) > 0 or by_brine[min(by_brine)] <= 0:
        raise ValueError("a salt test begins with its sample without brine")
    brines = list(by_brine)
    at = max(range(len(brines)), key=lambda i: by_brine[brines[i]])
    times = by_brine[brines[at]] / by_brine[brines[0]]
    if at == len(brines) - 1:
        code = "rising" if len(brines) > 1 else "begun"
        return SaltCurve(
            peak_percent=None, use_percent=None, use_g=None, thickens_times=times, words=text(f"liquid.curve.{code}")
        )
    if at == 0:
        words = text("liquid.curve.thins")
        return SaltCurve(peak_percent=0.0, use_percent=0.0, use_g=0.0, thickens_times=times, words=words)
    peak_percent = 100 * _vertex(brines[at - 1 : at + 2], [by_brine[one] for one in brines[at - 1 : at + 2]]) / sample_g
    use = peak_percent * coefficient("liquid.salt_use_fraction")
    return SaltCurve(
        peak_percent=peak_percent, use_percent=use, use_g=use * batch_g / 100, thickens_times=times,
        words=text("liquid.curve.peak", peak=percent(peak_percent, 1), use=percent(use, 1),
                   grams=weight(use * batch_g / 100, 0), times=number(times, 1)),
    )  # fmt: skip


def _vertex(x: Sequence[float], y: Sequence[float]) -> float:
    """Where the parabola through three points, the middle one highest, has its top."""
    (x0, x1, x2), (y0, y1, y2) = x, y
    left, right = (x1 - x0) * (y1 - y2), (x1 - x2) * (y1 - y0)
    if left == right:
        return x1
    return x1 - ((x1 - x0) * left - (x1 - x2) * right) / (2 * (left - right))
