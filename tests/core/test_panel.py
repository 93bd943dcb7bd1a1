"""Every wish of the panel is answered with a blend that a maker would accept."""

import pytest

from panel import answered, objections, wishes


@pytest.mark.parametrize("wish", wishes(), ids=lambda wish: wish["wish"])
def test_a_maker_would_pour_it(wish):
    question, answer = answered(wish)
    assert [*objections(wish, question, answer)] == []
    assert answer["blends"][0]["status"] in ("proven", "gap")


def test_there_are_enough_wishes_and_every_kind():
    every = wishes()
    assert len(every) >= 60
    purposes = {wish["question"]["purpose"] for wish in every}
    assert purposes == {
        "everyday-body", "dry-skin", "face", "workshop-hands", "cleaning-block", "salt-bar", "shaving", "high-olive",
        "liquid-soap",
    }  # fmt: skip
