"""The limits outside which a quantity is refused, each with its reason. Nothing is ever moved to fit them."""

from sapolin.core.quantities.model import Model

__all__ = ["LIMITS", "SUM_TOLERANCE_PERCENT", "Limit"]

SUM_TOLERANCE_PERCENT = 0.05
"""Shares may miss 100 by this much (typed thirds: 3 x 33.33); the blend is then scaled to 100 exactly."""


class Limit(Model):
    """The span in which a quantity makes sense."""

    name: str
    minimum: float
    maximum: float
    unit: str
    reason: str
    is_percent_often_typed_as_fraction: bool = False
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

    @property
    def span(self) -> str:
        """The limit in words, for messages."""
        unit = f" {self.unit}" if self.unit else ""
        return f"{self.minimum:,.10g} to {self.maximum:,.10g}{unit}"


LIMITS: dict[str, Limit] = {
    "superfat_percent": Limit(
        name="Superfat", minimum=-5, maximum=40, unit="%",
        reason="below 0 the bar is lye-heavy; above 40 % most of the batch would stay oil"),
    "naoh_purity_percent": Limit(
        name="NaOH purity", minimum=50, maximum=100, unit="%",
        reason="fresh NaOH is 97-100 % pure; the label states it", is_percent_often_typed_as_fraction=True),
    "koh_purity_percent": Limit(
        name="KOH purity", minimum=50, maximum=100, unit="%",
        reason="fresh KOH is 85-95 % pure; the label states it", is_percent_often_typed_as_fraction=True),
    "koh_share_percent": Limit(
        name="KOH share", minimum=0, maximum=100, unit="%",
        reason="it is a part of the lye"),
    "master_percent": Limit(
        name="Master lye", minimum=10, maximum=50, unit="%",
        reason="above 50 % lye does not stay dissolved", is_percent_often_typed_as_fraction=True),
    "purity_tolerance_percent": Limit(
        name="Purity tolerance", minimum=0, maximum=10, unit="points",
        reason="a label that may be off by more tells nothing"),
    "scale_step_g": Limit(
        name="Scale step", minimum=0.001, maximum=100, unit="g",
        reason="kitchen scales step by 1 g, good ones by 0.1 g"),
    "soap_percent": Limit(
        name="Soap in the diluted soap", minimum=5, maximum=60, unit="%",
        reason="15-35 % is usual; beyond 60 % it is paste", is_percent_often_typed_as_fraction=True),
    "batter_temperature_c": Limit(
        name="Batter temperature", minimum=0, maximum=110, unit="°C",
        reason="32-43 °C is usual"),
    "cure_weeks": Limit(
        name="Cure", minimum=0, maximum=260, unit="weeks",
        reason="4-6 weeks are usual"),
    "share_percent": Limit(
        name="Share", minimum=0, maximum=100, unit="%",
        reason="a share is a part of the oils"),
    "weight_g": Limit(
        name="Weight", minimum=0, maximum=500_000, unit="g",
        reason="no workshop weighs more than 500 kg of one oil into a pot"),
    "total_oils_g": Limit(
        name="Oils in the batch", minimum=10, maximum=500_000, unit="g",
        reason="below 10 g a scale cannot weigh the lye safely; above 500 kg is a plant, not a workshop"),
    "water_to_lye": Limit(
        name="Water : lye", minimum=1, maximum=10, unit="",
        reason="lye needs at least its own weight of water to dissolve (50 %); above 10 : 1 the batter will not trace"),
}  # fmt: skip
