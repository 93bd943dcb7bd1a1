"""Soft and liquid soap: what a KOH paste holds, thinning it to a wanted share of soap, and mixing pastes."""

from collections.abc import Sequence

from sapolin.core.bar.soap import soap_of
from sapolin.core.formula.composition import Composition
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.quantities.model import Model

__all__ = ["DilutedSoap", "PasteComponent", "PasteMix", "PasteResult", "mix_pastes", "paste_result"]


class DilutedSoap(Model):
    """Paste thinned to a share of soap."""

    soap_percent: float
    water_to_add_g: float
    yield_g: float


class PasteResult(Model):
    """What there is once the lye is spent."""

    paste_g: float
    """Everything together, nothing boiled off, g."""
    soap_g: float
    """Soap, dry, g."""
    soap_percent: float
    """Of the paste, %."""
    glycerol_g: float
    free_oil_g: float
    """Oil left by the superfat, g."""
    diluted: DilutedSoap | None
    """When the formula asks for less soap than the paste has."""


def paste_result(composition: Composition, soap_percent: float | None) -> PasteResult:
    """Soap, glycerol and free oil in a `composition`, g, and the water that thins it to `soap_percent`."""
    soap = soap_of(composition)
    percent = 100 * soap.soap_g / composition.total_g
    diluted = None
    # Water thins; it cannot be taken out again.
    if soap_percent is not None and soap_percent <= percent:
        yield_g = 100 * soap.soap_g / soap_percent
        diluted = DilutedSoap(soap_percent=soap_percent, water_to_add_g=yield_g - composition.total_g, yield_g=yield_g)
    return PasteResult(
        paste_g=composition.total_g,
        soap_g=soap.soap_g,
        soap_percent=percent,
        glycerol_g=soap.glycerol_g,
        free_oil_g=soap.free_fat_g,
        diluted=diluted,
    )


class PasteComponent(Model):
    """A paste with the weight of it that is mixed in."""

    name: str
    weight_g: float
    soap_percent: float
    acids_percent: tuple[float, ...]
    """Fatty acids of its oils, in the order of the acid table."""


class PasteMix(Model):
    """Pastes mixed to order."""

    weight_g: float
    soap_g: float
    soap_percent: float
    acids_percent: tuple[float, ...]
    """Fatty acids of the mix, weighted by the soap each paste brings."""


def mix_pastes(components: Sequence[PasteComponent]) -> PasteMix:
    """Mix pastes by weight: soap adds up, fatty acids go by the soap that each brings.

    Equal weights of a paste with 40 % and one with 20 % soap make one of 30 %, two thirds of its soap from the first:

    >>> pure = lambda i: tuple(100.0 if j == i else 0.0 for j in range(len(ACIDS)))
    >>> strong = PasteComponent(name="coconut", weight_g=500.0, soap_percent=40.0, acids_percent=pure(2))
    >>> weak = PasteComponent(name="olive", weight_g=500.0, soap_percent=20.0, acids_percent=pure(7))
    >>> mix = mix_pastes([strong, weak])
    >>> mix.soap_percent, round(mix.acids_percent[2], 1)
    (30.0, 66.7)

    Raises ValueError when there is no soap in any of them.
    """
    weight_g = sum(component.weight_g for component in components)
    soap_g = sum(component.weight_g * component.soap_percent / 100 for component in components)
    if soap_g <= 0:
        raise ValueError("a mix needs at least one paste with soap in it")
    acids = tuple(
        sum(component.acids_percent[i] * component.weight_g * component.soap_percent / 100 for component in components)
        / soap_g
        for i in range(len(ACIDS))
    )
    return PasteMix(weight_g=weight_g, soap_g=soap_g, soap_percent=100 * soap_g / weight_g, acids_percent=acids)
