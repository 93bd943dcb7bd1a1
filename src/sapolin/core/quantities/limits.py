"""The limits outside which a quantity is refused, each with its reason. Nothing is ever moved to fit them."""

from pydantic import computed_field

from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Quantity, as_entered, template

__all__ = ["LIMITS", "SUM_TOLERANCE_PERCENT", "Limit"]

SUM_TOLERANCE_PERCENT = 0.05
"""Shares may miss 100 by this much (typed thirds: 3 x 33.33); the blend is then scaled to 100 exactly."""


class Limit(Model):
    """The span in which a quantity makes sense."""

    id: str
    minimum: float
    maximum: float
    unit: str
    often_a_fraction: Truth = False
    """0.9 typed for 90 % is recognised, and asked about."""

    def holds(self, value: float) -> bool:
        """Whether `value` lies within the limit, ends included, binary dust of the last digits forgiven.

        >>> LIMITS["share_percent"].holds(100.00000000000001), LIMITS["share_percent"].holds(100.001)
        (True, False)
        """
        # Below nothing there is no dust: a share of −1e-9 is a slip somewhere, and weighs less than nothing.
        if value < 0 <= self.minimum:
            return False
        dust = 1e-9 * max(1.0, abs(value))
        return self.minimum - dust <= value <= self.maximum + dust

    @computed_field  # type: ignore[prop-decorator]
    @property
    def name(self) -> str:
        """What it limits."""
        return template(f"limits.{self.id}.name")

    @computed_field  # type: ignore[prop-decorator]
    @property
    def reason(self) -> str:
        """Why it lies where it lies."""
        return template(f"limits.{self.id}.reason")

    def quantity(self, value: float) -> Quantity:
        """`value` in the unit of the limit."""
        return as_entered(value, self.unit)


LIMITS: dict[str, Limit] = {
    "superfat_percent": Limit(id="superfat_percent", minimum=-5, maximum=40, unit="%"),
    "naoh_purity_percent": Limit(id="naoh_purity_percent", minimum=50, maximum=100, unit="%", often_a_fraction=True),
    "koh_purity_percent": Limit(id="koh_purity_percent", minimum=50, maximum=100, unit="%", often_a_fraction=True),
    "koh_share_percent": Limit(id="koh_share_percent", minimum=0, maximum=100, unit="%"),
    "master_percent": Limit(id="master_percent", minimum=10, maximum=50, unit="%", often_a_fraction=True),
    "purity_tolerance_percent": Limit(id="purity_tolerance_percent", minimum=0, maximum=10, unit="points"),
    "scale_step_g": Limit(id="scale_step_g", minimum=0.001, maximum=100, unit="g"),
    "soap_percent": Limit(id="soap_percent", minimum=5, maximum=60, unit="%", often_a_fraction=True),
    "batter_temperature_c": Limit(id="batter_temperature_c", minimum=0, maximum=110, unit="°C"),
    "cure_weeks": Limit(id="cure_weeks", minimum=0, maximum=260, unit="weeks"),
    "share_percent": Limit(id="share_percent", minimum=0, maximum=100, unit="%"),
    "weight_g": Limit(id="weight_g", minimum=0, maximum=500_000, unit="g"),
    "total_oils_g": Limit(id="total_oils_g", minimum=10, maximum=500_000, unit="g"),
    "water_to_lye": Limit(id="water_to_lye", minimum=1, maximum=10, unit=""),
}  # fmt: skip
