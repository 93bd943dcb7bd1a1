"""What was kept under the names of version 1 reads under those of today."""

import pytest

from sapolin.core.formula.version_1 import event_from_version_1


@pytest.mark.parametrize(
    ("before", "now"),
    [
        (
            {"kind": "way_taken", "item": "oil:0", "way": "accept", "words": "A little more."},
            {"kind": "correction_taken", "item": "oil:0", "correction": "accept", "words": ["A little more."]},
        ),
        (
            {"kind": "way_taken", "item": "oil:0", "way": "add", "words": ""},
            {"kind": "correction_taken", "item": "oil:0", "correction": "add", "words": []},
        ),
        # Words of anything else stay as they are.
        ({"kind": "corrected", "seq": 3, "words": "read again"}, {"kind": "amended", "seq": 3, "words": "read again"}),
        ({"kind": "noted", "text": "Less blue."}, {"kind": "noted", "text": "Less blue."}),
    ],
)  # fmt: skip
def test_an_event_of_version_1_reads_under_the_new_names(before, now):
    assert event_from_version_1(before) == now
