"""What a begun batch kept under an earlier release is read by this one, word for word."""

import importlib
import json

from sapolin.core.bar.adjustments import Adjustment
from sapolin.core.bar.uncertainty import Contributor

rewritten = importlib.import_module("sapolin.store.migrations.versions.0008_words_as_texts").rewritten

KEPT = {
    "prepared": {"planned": {"result": {
        "adjustments": [{
            "id": "water", "name": "Water", "state": "lye at 30.0 %, where 33 % is usual", "reason": "Less water.",
            "effects": [{"on": "firmness_at_unmould", "points": -2.4, "expression": "−3 × 0.8"}],
        }],
        "lye": {"superfat_interval": {"contributors": [
            {"label": "Coconut oil", "percent": 60.0}, {"label": "purity of the NaOH", "percent": 20.0},
            {"label": "fat of the goat milk", "percent": 10.0}, {"label": "acid of the aloe juice", "percent": 6.0},
            {"label": "the scale", "percent": 4.0},
        ]}},
    }}},
}  # fmt: skip


def test_adjustments_keep_their_words_as_texts():
    result = rewritten(KEPT)["prepared"]["planned"]["result"]
    adjustment = Adjustment.model_validate_json(json.dumps(result["adjustments"][0]))
    assert adjustment.state == ("lye at 30.0 %, where 33 % is usual",)
    assert adjustment.effects[0].expression == ("−3 × 0.8",)
    assert adjustment.effects[0].points == -2.4


def test_causes_get_their_names():
    given = rewritten(KEPT)["prepared"]["planned"]["result"]["lye"]["superfat_interval"]["contributors"]
    causes = [Contributor.model_validate_json(json.dumps(one)) for one in given]
    assert [one.cause for one in causes] == ["oil", "purity", "fat", "acid", "scale"]
    assert [one.percent for one in causes] == [60.0, 20.0, 10.0, 6.0, 4.0]


def test_nothing_else_is_touched_and_twice_is_once():
    once = rewritten(KEPT)
    assert rewritten(once) == once
    other = {"on": 3, "state": "made", "list": [1, "two", None]}
    assert rewritten(other) == other
