"""Every request of the panel is answered with a blend that a maker would accept."""

import pytest

from panel import answered, objections, requests


@pytest.mark.parametrize("asked", requests(), ids=lambda asked: asked["request"])
def test_a_maker_would_pour_it(asked):
    question, answer = answered(asked)
    assert [*objections(asked, question, answer)] == []
    assert answer["blends"][0]["status"] in ("proven", "gap")


def test_there_are_enough_requests_and_every_kind():
    every = requests()
    assert len(every) >= 60
    purposes = {one["question"]["purpose"] for one in every}
    assert purposes == {
        "everyday-body", "dry-skin", "face", "workshop-hands", "cleaning-block", "salt-bar", "shaving", "high-olive",
        "liquid-soap",
    }  # fmt: skip
