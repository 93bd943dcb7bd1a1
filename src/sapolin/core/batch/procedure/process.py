"""What is being made and how: the process that a batch goes through, as far as its order of work depends on it."""

from typing import Literal

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.ingredients import additives
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth

__all__ = ["BatchProcess", "process_of"]


class BatchProcess(Model):
    """How a batch is made."""

    makes: Literal["bar", "paste"]
    method: Literal["cold", "hot"]
    is_poured: Truth
    """It goes liquid and caustic into moulds: gel, ash and the top are to be thought of."""
    is_salt_bar: Truth
    """So much salt that it sets within hours."""
    is_big: Truth
    """So much lye that one does not work with it alone."""
    is_lye_heavy: Truth
    """Made with lye to spare on purpose: it is neutralised before anyone touches it."""


def process_of(plan: BatchPlan, planned: PlannedBatch) -> BatchProcess:
    """The process of a plan: what its purpose makes, how its formula is made, and how much of it there is."""
    purpose, result = purposes()[plan.formula.purpose], planned.result
    salt = sum(item.percent_of_oils for item in result.additives if additives()[item.additive].role == "salt")
    method = plan.formula.process.method
    return BatchProcess(
        makes=purpose.makes,
        method=method,
        is_poured=purpose.makes == "bar" and method == "cold",
        is_salt_bar=salt >= coefficient("salt.bar_from_percent"),
        is_big=result.lye.naoh_g + result.lye.koh_g >= coefficient("lye.much_g"),
        is_lye_heavy=result.lye.superfat_total_percent < 0,
    )
