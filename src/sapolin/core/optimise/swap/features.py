"""Oils as rows of numbers: what a swap compares, weighted by the school that judges.

A blend's row is the share-weighted mean of its oils' rows, so a swap is a question about sums of rows.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.linear import trace_of_oil
from sapolin.core.bar.qualities import qualities
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS
from sapolin.core.optimise.swap.question import School
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import plain, template, text

__all__ = ["FEATURES", "Feature", "Rows", "feature_rows", "weights_of"]

Rows = NDArray[np.float64]
"""Shape (oils, features): points that a pure oil shows in each feature."""


class Feature(Model):
    """One thing compared."""

    id: str
    """`acid:C16:0`, the id of a quality, `unsaponifiables`, `trace` or `sap`."""
    name: str


FEATURES: tuple[Feature, ...] = (
    *(Feature(id=f"acid:{acid.id}", name=plain(text("features.acid", acid=acid.name)).lower()) for acid in ACIDS),
    *(Feature(id=quality.id, name=quality.name.lower()) for quality in qualities().values()),
    Feature(id="unsaponifiables", name=template("features.unsaponifiables")),
    Feature(id="trace", name=template("features.trace")),
    Feature(id="sap", name=template("features.sap")),
)
"""Everything compared, in the order of the columns."""


def feature_rows(oils: Sequence[Oil]) -> Rows:
    """One row an oil, in points at a share of 100 %."""
    rows = np.zeros((len(oils), len(FEATURES)))
    for row, oil in zip(rows, oils, strict=True):
        row[: len(ACID_INDEX)] = oil.profile
        row[len(ACID_INDEX) :] = (
            *(quality.points(oil.profile) for quality in qualities().values()),
            oil.unsaponifiable_percent.typical,
            trace_of_oil(oil),
            oil.sap_koh_mg_per_g.typical,
        )
    return rows


def weights_of(school: School) -> NDArray[np.float64]:
    """How much one point of each feature counts under a school, in the order of :data:`FEATURES`."""
    weights = np.zeros(len(FEATURES))
    for i, feature in enumerate(FEATURES):
        if feature.id.startswith("acid:"):
            weights[i] = coefficient("swap.weight.acid") if school in ("profile", "profile_and_role") else 0.0
        elif feature.id == "sap":
            weights[i] = coefficient("swap.weight.sap") if school == "equal_sap" else 0.0
        elif school in ("role", "profile_and_role"):
            weights[i] = coefficient(f"swap.weight.{feature.id}")
    return weights
