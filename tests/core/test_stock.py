"""The ledger: in hand is the sum of what happened; nothing is taken that is not there, stopped, or past its label."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from sapolin.core.quantities.text import plain
from sapolin.core.stock.keeping import keeping_of, keeps_until
from sapolin.core.stock.ledger import LedgerEntry, Lot, StockEvent, change_g, lot_now, lot_problem, stock_refusal
from sapolin.core.stock.taking import Shelf, taken_from

EVENT: TypeAdapter[StockEvent] = TypeAdapter(StockEvent)
AT = "2026-05-01T12:00:00.000+00:00"
TODAY = date(2026, 6, 1)


def lot(**changes):
    sound = {"code": "C7", "material": "coconut", "kind": "oil", "amount_g": 5000.0, "arrived": date(2026, 1, 5)}
    return Lot.model_validate(sound | changes)


def event(kind, **content):
    return EVENT.validate_python({"kind": kind, **content})


def ledger(*events, of=None):
    of = of or lot()
    entries = []
    for one in (event("arrived"), *events):
        entries.append(LedgerEntry(seq=len(entries) + 1, at=AT, change_g=change_g(of, one, entries), event=one))
    return entries


def refused(one, *before, at=AT):
    problem = stock_refusal(one, lot(), ledger(*before), at)
    return None if problem is None else problem.code


class TestTheSum:
    def test_by_hand(self):
        entries = ledger(
            event("used", grams=260, batch_id="a"), event("wasted", grams=40), event("returned", grams=10),
            event("counted", grams=4700), event("struck", seq=3, reason="the other tub"),
        )  # fmt: skip
        assert [one.change_g for one in entries] == [5000, -260, -40, 10, -10, 40]
        assert lot_now(entries).in_hand_g == 4740

    @given(
        st.lists(
            st.tuples(st.sampled_from(["used", "wasted", "returned", "counted"]), st.floats(0.1, 900)), max_size=12
        )
    )
    def test_whatever_is_let_through_leaves_no_less_than_nothing(self, steps):
        entries = ledger()
        for kind, grams in steps:
            content = {"grams": round(grams, 1)} | ({"batch_id": "b"} if kind in ("used", "returned") else {})
            one = event(kind, **content)
            if stock_refusal(one, lot(), entries, AT) is None:
                entries.append(
                    LedgerEntry(seq=len(entries) + 1, at=AT, change_g=change_g(lot(), one, entries), event=one)
                )
        assert lot_now(entries).in_hand_g >= -1e-6

    def test_a_bad_smell_stops_it_and_a_release_lets_it_go(self):
        entries = ledger(event("checked", is_good=False, text="paint"))
        assert (lot_now(entries).is_stopped, lot_now(entries).why_stopped) == (True, "paint")
        entries = ledger(event("checked", is_good=False, text="paint"), event("stopped", is_stopped=False))
        assert not lot_now(entries).is_stopped

    def test_the_first_use_opens_it(self):
        assert lot_now(ledger(event("used", grams=1, batch_id="a"))).opened_at == AT


PUT_BACK_AND_SPILT = (event("returned", grams=100), event("wasted", grams=5050))


@pytest.mark.parametrize(
    ("one", "before", "code"),
    [
        (event("used", grams=5001, batch_id="a"), (), "not_so_much_in_hand"),
        (event("wasted", grams=5001), (), "not_so_much_in_hand"),
        (event("used", grams=0, batch_id="a"), (), "no_amount"),
        (event("counted", grams=-1), (), "counted_amount"),
        (event("counted", grams=3e6), (), "counted_amount"),
        (event("counted", grams=2e6), (), None),
        (event("arrived"), (), "arrived_already"),
        (event("used", grams=1, batch_id="a"), (event("stopped", why="old"),), "lot_is_stopped_for"),
        (event("struck", seq=1, reason="x"), (), "nothing_to_strike"),
        (event("struck", seq=9, reason="x"), (), "nothing_to_strike"),
        (event("struck", seq=2, reason="x"), PUT_BACK_AND_SPILT, "later_entries_rest_on_it"),
        (event("returned", grams=1), (), "more_than_it_held"),
        (event("returned", grams=300.1), (event("used", grams=300, batch_id="a"),), "more_than_it_held"),
        (event("returned", grams=300), (event("used", grams=300, batch_id="a"),), None),
        (event("returned", grams=900), (event("counted", grams=5900), event("wasted", grams=900)), None),
        (event("used", grams=1, batch_id="a"), (event("counted", grams=0),), "nothing_in_hand"),
        (event("used", grams=1, batch_id="a"), (), None),
    ],
)  # fmt: skip
def test_what_the_ledger_takes(one, before, code):
    assert refused(one, *before) == code


def test_nothing_happens_to_a_lot_before_it_arrived():
    assert refused(event("opened"), at="2026-01-04T12:00:00+00:00") == "before_it_arrived"


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({}, None),
        ({"code": "c6"}, "lot_code_taken"),
        ({"amount_g": 0}, "lot_amount"),
        ({"amount_g": -5}, "lot_amount"),
        ({"price": -1}, "lot_price"),
        ({"freight": -1}, "lot_price"),
        ({"price": 0.5, "freight": 0.5}, None),
        ({"price": 0, "freight": 0}, None),
        ({"arrived": date(2026, 6, 2)}, "lot_arrives_later"),
        ({"best_before": date(2025, 12, 1)}, "lot_dates_cross"),
        ({"purity_percent": 99}, "purity_is_of_lye"),
        ({"material": "naoh", "kind": "lye"}, "lot_purity_missing"),
        ({"material": "naoh", "kind": "lye", "purity_percent": 100.1}, "lot_purity"),
        ({"material": "naoh", "kind": "lye", "purity_percent": 9.9}, "lot_purity"),
        ({"material": "naoh", "kind": "lye", "purity_percent": 99}, None),
        ({"material": "koh", "kind": "lye", "purity_percent": 88}, None),
        ({"material": "naoh", "kind": "lye", "purity_percent": 90}, None),
        ({"material": "naoh", "kind": "lye", "purity_percent": 89.9}, "lot_purity"),
        ({"material": "koh", "kind": "lye", "purity_percent": 85}, None),
        ({"material": "koh", "kind": "lye", "purity_percent": 84.9}, "lot_purity"),
        ({"material": "naoh", "kind": "lye", "purity_percent": 100}, None),
    ],
)
def test_what_can_come_in(changes, code):
    problem = lot_problem(lot(**changes), ["C6"], TODAY)
    assert (None if problem is None else problem.code) == code


def test_a_purity_with_a_slipped_point_is_offered_the_other_way():
    problem = lot_problem(lot(material="naoh", kind="lye", purity_percent=9.9), [], TODAY)
    assert [offer.value for offer in problem.offers] == [99.0]


def test_a_landed_price_has_its_freight_in_it():
    assert lot(price=21.0, freight=3.0).per_kg == pytest.approx(4.8)
    assert lot().per_kg is None


class TestKeeping:
    def test_an_opened_tub_keeps_for_a_part_of_what_was_left(self):
        sealed = keeps_until(date(2026, 1, 1), 14, None, has_antioxidant=False)
        opened = keeps_until(date(2026, 1, 1), 14, date(2026, 7, 1), has_antioxidant=False)
        assert (opened - date(2026, 7, 1)).days == pytest.approx(0.6 * (sealed - date(2026, 7, 1)).days, abs=1)

    def test_opening_what_has_turned_already_makes_it_no_fresher(self):
        sealed = keeps_until(date(2026, 1, 1), 90, None, has_antioxidant=False)
        assert keeps_until(date(2026, 1, 1), 90, date(2026, 12, 1), has_antioxidant=False) == sealed < date(2026, 12, 1)

    def test_what_turns_quickly_keeps_less_long_and_an_antioxidant_helps(self):
        until = [keeps_until(date(2026, 1, 1), load, None, has_antioxidant=False) for load in (5, 14, 40, 90)]
        assert until == sorted(until, reverse=True)
        assert keeps_until(date(2026, 1, 1), 40, None, has_antioxidant=True) > until[2]

    def test_a_label_goes_first_and_only_a_label_stops(self):
        by_label = keeping_of(lot(best_before=date(2026, 5, 20)), 14.0, None, TODAY)
        assert (by_label.is_past, by_label.stops, by_label.is_estimate) == (True, True, False)
        by_rule = keeping_of(lot(arrived=date(2020, 1, 1)), 14.0, None, TODAY)
        assert (by_rule.is_past, by_rule.stops, by_rule.is_estimate) == (True, False, True)
        assert keeping_of(lot(), None, None, TODAY) is None


class TestTaking:
    def shelf(self, code, grams, until=None, is_open=False):
        return Shelf(lot_id=code, code=code, in_hand_g=grams, until=until, is_open=is_open)

    def test_what_is_missing_is_told_and_taken_from_nowhere(self):
        takes, missing = taken_from([self.shelf("A", 100), self.shelf("B", 50)], 200)
        assert (sum(one.grams for one in takes), missing) == (150, 50)

    def test_of_two_with_no_date_the_open_one_goes_first(self):
        takes, _ = taken_from([self.shelf("A", 100), self.shelf("B", 100, is_open=True)], 60)
        assert [one.code for one in takes] == ["B"]

    @given(st.lists(st.floats(0, 500), max_size=6), st.floats(0.1, 2000))
    def test_takes_and_what_is_missing_sum_to_what_was_asked(self, amounts, grams):
        takes, missing = taken_from([self.shelf(str(i), one) for i, one in enumerate(amounts)], grams)
        assert sum(one.grams for one in takes) + missing == pytest.approx(grams)


@pytest.mark.parametrize(
    ("changes", "left"), [({}, "30 g"), ({"kind": "packaging", "material": "Box", "amount_g": 50.0}, "30 pieces")]
)
def test_packaging_is_counted_and_all_else_is_weighed(changes, left):
    shelf = lot(**changes)
    entries = ledger(event("counted", grams=30), of=shelf)
    problem = stock_refusal(event("used", grams=31, batch_id="a"), shelf, entries, AT)
    assert plain(problem.message) == f"Only {left} of lot C7 are in hand."
