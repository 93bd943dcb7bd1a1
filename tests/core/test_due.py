"""What the day begins with: from when to when a batch is due, by hand on a calendar."""

from datetime import UTC, datetime

import pytest

from sapolin.core.production.due import BatchFacts, due_of

POURED = datetime(2026, 3, 1, 12, 0, tzinfo=UTC)
LOAF = BatchFacts(
    id="a", code="B-1", name="Olive", status="made", ended_at=POURED, unmould_hours=(18.0, 30.0), usable_weeks=5.0,
    best_weeks=13.0,
)  # fmt: skip


@pytest.mark.parametrize(
    ("now", "kind", "standing"),
    [
        # Poured on 1 March at noon: firm from 2 March 06:00 to 18:00, late until 4 March 18:00.
        (datetime(2026, 3, 2, 5, 59, tzinfo=UTC), "unmould", "later"),
        (datetime(2026, 3, 2, 6, 0, tzinfo=UTC), "unmould", "now"),
        (datetime(2026, 3, 2, 18, 0, tzinfo=UTC), "unmould", "now"),
        (datetime(2026, 3, 2, 18, 1, tzinfo=UTC), "unmould", "late"),
        (datetime(2026, 3, 4, 17, 59, tzinfo=UTC), "unmould", "late"),
        # Then it cures for five weeks, to 5 April at noon.
        (datetime(2026, 3, 4, 18, 0, tzinfo=UTC), "curing", "later"),
        (datetime(2026, 4, 5, 11, 59, tzinfo=UTC), "curing", "later"),
        (datetime(2026, 4, 5, 12, 0, tzinfo=UTC), "usable", "now"),
    ],
)
def test_a_loaf_through_its_weeks(now, kind, standing):
    [due] = due_of([LOAF], now)
    assert (due.kind, due.standing) == (kind, standing)


def test_when_it_may_be_cut_used_and_is_best():
    [cut] = due_of([LOAF], datetime(2026, 3, 2, tzinfo=UTC))
    assert (cut.from_at, cut.until_at) == (datetime(2026, 3, 2, 6, tzinfo=UTC), datetime(2026, 3, 2, 18, tzinfo=UTC))
    [curing] = due_of([LOAF], datetime(2026, 3, 20, tzinfo=UTC))
    assert (curing.from_at, curing.until_at) == (
        datetime(2026, 4, 5, 12, tzinfo=UTC),
        datetime(2026, 5, 31, 12, tzinfo=UTC),
    )


def test_what_was_begun_stands_before_what_is_planned_and_what_is_late_before_what_is_due():
    def batch(code, **facts):
        return BatchFacts(**{"id": code, "code": code, "name": "Bar", "status": "planned"} | facts)

    now = datetime(2026, 3, 3, tzinfo=UTC)
    batches = [
        batch("B-5"),
        batch("B-6", status="open"),
        LOAF,
        batch("B-7", status="made", ended_at=datetime(2026, 3, 2, tzinfo=UTC), unmould_hours=(18, 30)),
        batch("B-8", status="making", at="Weigh the oils"),
    ]
    assert [(due.code, due.kind, due.standing) for due in due_of(batches, now)] == [
        ("B-8", "go_on", "now"), ("B-1", "unmould", "late"), ("B-7", "unmould", "now"), ("B-5", "make", "now"),
        ("B-6", "finish_plan", "now"),
    ]  # fmt: skip


def test_without_a_forecast_nothing_is_foreseen():
    unknown = LOAF.model_copy(update={"unmould_hours": None, "usable_weeks": None})
    [due] = due_of([unknown], POURED)
    assert (due.kind, due.standing, due.from_at, due.until_at) == ("curing", "now", None, None)
    [due] = due_of([LOAF.model_copy(update={"ended_at": None})], POURED)
    assert (due.kind, due.from_at) == ("curing", None)
