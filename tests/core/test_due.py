"""What the day begins with: from when to when a batch is due, by hand on a calendar."""

from datetime import UTC, date, datetime

import pytest

from sapolin.core.cure.due import BatchFacts, CureFacts, Due, due_of

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


def test_of_one_kind_what_is_late_stands_first_then_what_is_due_then_what_comes():
    """All are to be made on 1, 3 and 4 May."""
    batches = [
        BatchFacts(id=str(day), code=f"B-{day}", name="Olive", status="planned", make_on=date(2026, 5, day))
        for day in (4, 3, 1)
    ]  # fmt: skip
    found = due_of(batches, datetime(2026, 5, 3, 9, tzinfo=UTC))
    assert [(one.code, one.standing) for one in found] == [("B-1", "late"), ("B-3", "now"), ("B-4", "later")]
    # A loaf that is looked at until it is firm, and one that will be firm before that: what is due comes first.
    slow = LOAF.model_copy(update={"code": "B-8", "unmould_hours": (10.0, 60.0)})
    quick = LOAF.model_copy(update={"code": "B-7", "unmould_hours": (20.0, 24.0)})
    found = due_of([quick, slow], datetime(2026, 3, 2, 4, tzinfo=UTC))
    assert [(one.code, one.standing) for one in found] == [("B-8", "now"), ("B-7", "later")]


@pytest.mark.parametrize(
    ("kind", "standing", "waits"),
    [
        ("turn", "now", True), ("turn", "late", True), ("turn", "later", False),
        ("unmould", "now", False), ("unmould", "late", False), ("unmould", "later", False),
    ],
)  # fmt: skip
def test_what_is_due_may_wait_where_nothing_comes_to_harm(kind, standing, waits):
    due = Due(kind=kind, batch_id="a", code="B-1", name="Bar", standing=standing, at=None, from_at=None, until_at=None)
    assert due.may_wait is waits


def test_without_a_forecast_nothing_is_foreseen():
    unknown = LOAF.model_copy(update={"unmould_hours": None, "usable_weeks": None})
    [due] = due_of([unknown], POURED)
    assert (due.kind, due.standing, due.from_at, due.until_at) == ("curing", "now", None, None)
    [due] = due_of([LOAF.model_copy(update={"ended_at": None})], POURED)
    assert (due.kind, due.from_at) == ("curing", None)


class TestAfterThePour:
    """A batch whose record goes on is followed by that record: poured on 1 March, cut on 2 March, dry about 1 April."""

    CUT = datetime(2026, 3, 2, 12, tzinfo=UTC)
    DRY = datetime(2026, 4, 1, 12, tzinfo=UTC)

    def due(self, now, **facts):
        usual = {
            "seq": 3, "bars": 10, "here": 9, "unmoulded_at": self.CUT, "cut_at": self.CUT, "weighed_at": self.CUT,
            "unmould_from": datetime(2026, 3, 2, 6, tzinfo=UTC), "unmould_to": datetime(2026, 3, 2, 18, tzinfo=UTC),
            "ready_from": datetime(2026, 3, 27, tzinfo=UTC), "ready_at": self.DRY, "turned_at": self.CUT,
            "ready_to": datetime(2026, 4, 8, tzinfo=UTC),
        }  # fmt: skip
        cure = CureFacts(**(usual | facts))
        return {one.kind: one.standing for one in due_of([LOAF.model_copy(update={"cure": cure})], now)}

    def test_it_stays_due_until_it_is_out_of_the_mould(self):
        late = datetime(2026, 3, 9, tzinfo=UTC)
        assert self.due(late, unmoulded_at=None, cut_at=None) == {"unmould": "late"}
        assert self.due(late, cut_at=None) == {"cut": "now"}

    def test_while_it_dries_it_is_weighed_and_turned_every_week(self):
        assert self.due(datetime(2026, 3, 9, 11, 59, tzinfo=UTC)) == {"curing": "later"}
        assert self.due(datetime(2026, 3, 9, 12, 0, tzinfo=UTC)) == {"curing": "later", "weigh": "now", "turn": "now"}
        weighed = {"weighed_at": datetime(2026, 3, 9, 12, tzinfo=UTC)}
        assert self.due(datetime(2026, 3, 10, tzinfo=UTC), **weighed) == {"curing": "later", "turn": "now"}

    def test_bars_that_were_never_weighed_are_weighed_on_the_day_of_cutting(self):
        assert self.due(self.CUT, weighed_at=None, turned_at=None) == {"curing": "later", "weigh": "now"}

    def test_dry_bars_are_tested_before_use(self):
        assert self.due(datetime(2026, 4, 1, 11, tzinfo=UTC))["curing"] == "later"
        assert self.due(self.DRY) == {"fit_test": "now"}

    def test_over_the_limit_they_are_tested_again_after_two_weeks(self):
        high = {"fit": "wait", "fit_at": datetime(2026, 4, 2, tzinfo=UTC)}
        assert self.due(datetime(2026, 4, 15, 23, tzinfo=UTC), **high) == {"fit_test": "later"}
        assert self.due(datetime(2026, 4, 16, tzinfo=UTC), **high) == {"fit_test": "now"}
        assert self.due(datetime(2026, 4, 3, tzinfo=UTC), **(high | {"fit": "unfit"})) == {"unfit": "now"}

    def test_kept_bars_are_looked_at_after_3_6_and_12_months(self):
        fit = {
            "fit": "fit", "fit_at": datetime(2026, 4, 5, tzinfo=UTC), "judged_at": datetime(2026, 4, 20, tzinfo=UTC)
        }  # fmt: skip
        # Three months after 2 March: 91 days, 1 June.
        assert self.due(datetime(2026, 5, 31, tzinfo=UTC), **fit) == {"fit": "now"}
        assert self.due(datetime(2026, 6, 2, tzinfo=UTC), **fit) == {"fit": "now", "look": "now"}
        looked = fit | {"looked_at": datetime(2026, 6, 3, tzinfo=UTC)}
        assert self.due(datetime(2026, 6, 5, tzinfo=UTC), **looked) == {"fit": "now"}
        assert self.due(datetime(2026, 9, 2, tzinfo=UTC), **looked) == {"fit": "now", "look": "now"}

    def test_a_bar_on_no_sheet_is_asked_for_from_four_weeks_on_and_not_for_ever(self):
        fit = {"fit": "fit", "fit_at": datetime(2026, 3, 25, tzinfo=UTC), "looked_at": datetime(2026, 6, 3, tzinfo=UTC)}
        assert self.due(datetime(2026, 3, 29, tzinfo=UTC), **fit) == {"fit": "now"}
        assert self.due(datetime(2026, 3, 31, tzinfo=UTC), **fit) == {"fit": "now", "judge": "now"}
        assert self.due(datetime(2026, 8, 20, tzinfo=UTC), **fit) == {"fit": "now"}

    def test_nothing_is_due_of_bars_that_are_gone(self):
        assert self.due(datetime(2026, 6, 2, tzinfo=UTC), here=0) == {}


@pytest.mark.parametrize(
    ("now", "standing"),
    [
        (datetime(2026, 5, 3, 23, 59, tzinfo=UTC), "later"),
        (datetime(2026, 5, 4, 0, 0, tzinfo=UTC), "now"),
        (datetime(2026, 5, 4, 23, 59, tzinfo=UTC), "now"),
        (datetime(2026, 5, 5, 0, 0, tzinfo=UTC), "late"),
    ],
)
def test_a_batch_waits_for_the_day_it_is_planned_for(now, standing):
    planned = BatchFacts(id="p", code="B-2", name="Olive", status="planned", make_on=date(2026, 5, 4))
    [due] = due_of([planned], now)
    assert (due.kind, due.standing) == ("make", standing)
    [begun] = due_of([planned.model_copy(update={"status": "making"})], now)
    assert (begun.kind, begun.standing) == ("go_on", "now")
