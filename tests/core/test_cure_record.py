"""The record after the pour: what it adds up to, and what is refused or asked about."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from sapolin.core.cure.drying import BarAsCut
from sapolin.core.cure.events import CureRecord, FitTested, Weighed
from sapolin.core.cure.guard import refusal
from sapolin.core.cure.state import cure_state, fit_standing
from sapolin.core.quantities.text import plain

POURED = datetime(2031, 3, 1, 12, tzinfo=UTC)
NOW = POURED + timedelta(days=60)
BAR = BarAsCut(sides_mm=(25.0, 60.0, 80.0), wet_g=130.0, end_fraction=0.88)
FREE = {"R1": 24, "R2": 3}


def at(day: float) -> str:
    return (POURED + timedelta(days=day)).isoformat()


def record(*happened: tuple[float, dict[str, Any]]) -> list[CureRecord]:
    return [
        CureRecord.model_validate({"seq": i + 1, "at": at(day), "recorded_at": at(day), "event": event})
        for i, (day, event) in enumerate(happened)
    ]


UNMOULDED = (1.0, {"kind": "unmoulded", "how": "clean"})
CUT = (1.1, {"kind": "cut", "bars": 10, "seconds": 1, "samples": 1})
PLACED = (1.2, {"kind": "placed", "bars": 9, "tray": "R1"})
WEIGHED = (1.3, {"kind": "weighed", "mark": "A", "weight_g": 130.0, "source": "scale"})
FIT = (40.0, {"kind": "fit_tested", "ph": 9.5})
USUAL = (UNMOULDED, CUT, PLACED, WEIGHED)


def refused(
    event: dict[str, Any], *happened: tuple[float, dict[str, Any]], day: float = 42.0
) -> tuple[str, str, bool] | None:
    parsed = CureRecord.model_validate({"seq": 99, "at": at(day), "recorded_at": at(day), "event": event}).event
    problem = refusal(parsed, at(day), NOW.isoformat(), POURED.isoformat(), record(*happened), BAR, 10, FREE)
    return None if problem is None else (problem.code, problem.path, problem.is_doubt)


class TestState:
    def test_bars_are_where_they_were_put(self) -> None:
        moved = (8.0, {"kind": "placed", "bars": 2, "tray": "R2", "from_tray": "R1"})
        sold = (41.0, {"kind": "left", "bars": 3, "to": "sold", "tray": "R1", "where": "Larch Hut"})
        state = cure_state(record(*USUAL, moved, FIT, sold), POURED.isoformat())
        assert state.trays == {"R1": 4, "R2": 2}
        assert state.on_table == 0
        assert state.here == 6
        assert [(one.bars, one.to, one.where) for one in state.gone] == [(3, "sold", "Larch Hut")]

    def test_before_the_cut_there_are_no_bars_of_any_kind(self) -> None:
        state = cure_state(record(UNMOULDED), POURED.isoformat())
        assert (state.seconds, state.here, state.on_table, state.cut_at) == (0, 0, 0, None)

    def test_a_tray_that_is_emptied_is_named_no_more(self) -> None:
        moved = (8.0, {"kind": "placed", "bars": 9, "tray": "R2", "from_tray": "R1"})
        assert cure_state(record(*USUAL, moved), POURED.isoformat()).trays == {"R2": 9}

    def test_days_of_weighings_count_from_the_cut(self) -> None:
        later = (15.1, {"kind": "weighed", "mark": "A", "weight_g": 120.0, "source": "typed"})
        state = cure_state(record(*USUAL, later), POURED.isoformat())
        assert [round(one.day, 2) for one in state.weighings] == [0.2, 14.0]

    def test_what_happened_earlier_counts_earlier_whenever_it_was_recorded(self) -> None:
        room = (20.0, {"kind": "room", "celsius": 18.0})
        early = (10.0, {"kind": "room", "celsius": 25.0, "humidity_percent": 60.0})
        state = cure_state(record(*USUAL, room, early), POURED.isoformat())
        assert (state.room.celsius, state.room.humidity_percent) == (18.0, 60.0)

    def test_an_entry_that_was_struck_does_not_count(self) -> None:
        strike = (9.0, {"kind": "struck", "seq": 3, "reason": "another tray"})
        state = cure_state(record(*USUAL, strike), POURED.isoformat())
        assert state.trays == {}
        assert state.on_table == 9

    def test_cut_without_a_word_of_unmoulding_is_out_of_the_mould(self) -> None:
        assert cure_state(record(CUT), POURED.isoformat()).unmoulded_at == at(1.1)


class TestOffers:
    @pytest.mark.parametrize(
        ("ph", "offered"), [(93.0, [9.3]), (140.0, [14.0]), (70.0, [7.0]), (69.0, []), (141.0, [])]
    )
    def test_a_comma_that_was_left_out_is_offered(self, ph: float, offered: list[float]) -> None:
        event = CureRecord.model_validate(
            {"seq": 99, "at": at(50), "recorded_at": at(50), "event": {"kind": "fit_tested", "ph": ph}}
        ).event
        problem = refusal(event, at(50), NOW.isoformat(), POURED.isoformat(), record(*USUAL), BAR, 10, FREE)
        assert problem is not None
        assert [offer.value for offer in problem.offers] == offered

    def test_bars_that_came_with_an_entry_cannot_go_with_it(self) -> None:
        """Nine bars were cut, nine put on the tray: struck, the tray has nothing to give the two that were sold from it."""
        sold = (41.0, {"kind": "left", "bars": 2, "to": "sold", "tray": "R1"})
        assert refused({"kind": "struck", "seq": 3, "reason": "slip"}, *USUAL, FIT, sold) is not None


class TestStrikingTheCut:
    """Without its cut a batch has no bars: what was done with them rests on it."""

    @pytest.mark.parametrize(
        "later",
        [
            (1.2, {"kind": "placed", "bars": 9, "tray": "R1"}),
            (1.3, {"kind": "weighed", "mark": "A", "weight_g": 130.0, "source": "scale"}),
            (2.0, {"kind": "left", "bars": 2, "to": "given", "where": "A neighbour"}),
            FIT,
        ],
        ids=lambda one: one[1]["kind"],
    )
    def test_it_stays_while_something_rests_on_it(self, later: tuple[float, dict[str, Any]]) -> None:
        strike = {"kind": "struck", "seq": 2, "reason": "another batch"}
        assert refused(strike, UNMOULDED, CUT) is None
        found = refused(strike, UNMOULDED, CUT, later)
        assert found is not None
        assert found[0] == "later_entries_rest_on_it"


class TestFirmSoSoon:
    """The forecast begins at 10 h: before 3 h a firm loaf is asked about."""

    @pytest.mark.parametrize(
        ("firmness", "after_h", "sure", "said_h"),
        [
            ("firm", 2.9, False, "3 h"), ("brittle", 1.0, False, "1 h"), ("firm", 0.5, False, "0.5 h"),
            ("firm", 3.0, False, None), ("firm", 2.9, True, None), ("soft", 2.9, False, None),
        ],
    )  # fmt: skip
    def test_it_is_asked_about(self, firmness: str, after_h: float, sure: bool, said_h: str | None) -> None:
        event = {"kind": "pressed", "firmness": firmness, "sure": sure}
        when = (POURED + timedelta(hours=after_h)).isoformat()
        parsed = CureRecord.model_validate({"seq": 1, "at": when, "recorded_at": when, "event": event}).event
        problem = refusal(parsed, when, NOW.isoformat(), POURED.isoformat(), [], BAR, 10, FREE, 10.0)
        if said_h is None:
            assert problem is None
            return
        assert problem is not None
        assert (problem.code, problem.is_doubt) == ("firm_so_soon", True)
        assert plain((problem.params["hours"],)).replace("\u00a0", " ") == said_h


class TestRefusals:
    @pytest.mark.parametrize(
        ("planned", "bars", "asked"), [(3, 4, False), (3, 5, True), (40, 46, False), (40, 47, True)]
    )
    def test_one_bar_more_than_planned_is_taken_and_a_seventh_more(self, planned: int, bars: int, asked: bool) -> None:
        event = CureRecord.model_validate(
            {"seq": 1, "at": at(1.1), "recorded_at": at(1.1), "event": {"kind": "cut", "bars": bars}}
        ).event
        problem = refusal(event, at(1.1), NOW.isoformat(), POURED.isoformat(), [], BAR, planned, FREE)
        assert (problem is not None and problem.code == "more_bars_than_planned") is asked

    @pytest.mark.parametrize(
        ("event", "happened", "code"),
        [
            ({"kind": "pressed", "firmness": "firm"}, (UNMOULDED,), "unmoulded_already"),
            ({"kind": "cut", "bars": 10}, USUAL, "cut_already"),
            ({"kind": "cut", "bars": 0}, (), "no_bars"),
            ({"kind": "cut", "bars": 5, "seconds": 4, "samples": 2}, (), "more_seconds_than_bars"),
            ({"kind": "placed", "bars": 1, "tray": "R1"}, (), "not_cut"),
            ({"kind": "placed", "bars": 1, "tray": "R9"}, USUAL, "unknown_tray"),
            ({"kind": "placed", "bars": 1, "tray": "R2"}, USUAL, "none_on_no_tray"),
            ({"kind": "placed", "bars": 10, "tray": "R2", "from_tray": "R1"}, USUAL, "not_so_many_on_tray"),
            ({"kind": "placed", "bars": 4, "tray": "R2", "from_tray": "R1"}, USUAL, "tray_is_full"),
            ({"kind": "placed", "bars": 4, "tray": "R1", "from_tray": "R1"}, USUAL, "same_tray"),
            ({"kind": "weighed", "mark": "A", "weight_g": 120, "source": "typed"}, (), "not_cut"),
            ({"kind": "weighed", "mark": "A", "weight_g": 0, "source": "typed"}, USUAL, "no_weight"),
            ({"kind": "weighed", "mark": "A", "weight_g": 9000, "source": "typed"}, USUAL, "too_heavy_for_a_bar"),
            ({"kind": "room"}, USUAL, "nothing_read"),
            ({"kind": "room", "celsius": 200}, USUAL, "not_a_room"),
            ({"kind": "room", "humidity_percent": 120}, USUAL, "not_a_humidity"),
            ({"kind": "fit_tested", "looks_right": True}, USUAL, "nothing_tested"),
            ({"kind": "fit_tested", "ph": 93}, USUAL, "not_a_ph"),
            ({"kind": "fit_tested", "ph": -1}, USUAL, "not_a_ph"),
            ({"kind": "left", "bars": 10, "to": "kept", "tray": "R1"}, USUAL, "not_so_many_on_tray"),
            ({"kind": "left", "bars": 1, "to": "sold", "tray": "R1"}, USUAL, "not_fit_untested"),
            ({"kind": "struck", "seq": 9, "reason": "slip"}, USUAL, "nothing_to_strike"),
            ({"kind": "struck", "seq": 2, "reason": "slip"}, USUAL, "later_entries_rest_on_it"),
        ],
    )  # fmt: skip
    def test_it_says_which(self, event: dict[str, Any], happened: tuple[Any, ...], code: str) -> None:
        found = refused(event, *happened)
        assert found is not None
        assert found[0] == code
        assert not found[2]

    @pytest.mark.parametrize(
        ("event", "happened", "code"),
        [
            ({"kind": "cut", "bars": 5, "seconds": 3, "samples": 3}, (), "more_seconds_than_bars"),
            ({"kind": "cut", "bars": 5, "trims_g": -0.1}, (), "negative_trims"),
            ({"kind": "cut", "bars": 12}, (), "more_bars_than_planned"),
            ({"kind": "placed", "bars": 1, "tray": "R2"}, (UNMOULDED, CUT, (1.2, PLACED[1] | {"bars": 9})), "none_on_no_tray"),
            ({"kind": "weighed", "mark": "A", "weight_g": 5000.1, "source": "typed"}, USUAL, "too_heavy_for_a_bar"),
            ({"kind": "weighed", "mark": "A", "weight_g": -1, "source": "typed"}, USUAL, "no_weight"),
            ({"kind": "weighed", "mark": "T", "bars": 10, "weight_g": 1290, "source": "typed"}, USUAL, "not_so_many_here"),
            ({"kind": "room", "celsius": -20.1}, USUAL, "not_a_room"),
            ({"kind": "room", "celsius": 60.1}, USUAL, "not_a_room"),
            ({"kind": "room", "humidity_percent": -0.1}, USUAL, "not_a_humidity"),
            ({"kind": "room", "humidity_percent": 100.1}, USUAL, "not_a_humidity"),
            ({"kind": "fit_tested", "ph": 14.1}, USUAL, "not_a_ph"),
            ({"kind": "fit_tested", "ph": 7.9}, USUAL, "soap_is_not_so_acid"),
            ({"kind": "fit_tested", "ph": 12.1}, USUAL, "soap_is_not_so_caustic"),
            ({"kind": "left", "bars": 1, "to": "sold", "tray": "R1"}, (*USUAL, (50.0, FIT[1])), "left_before_fit"),
            ({"kind": "fit_tested", "ph": 9.5}, (UNMOULDED,), "not_cut"),
            ({"kind": "left", "bars": 1, "to": "sold"}, (UNMOULDED,), "not_cut"),
            ({"kind": "turned"}, (UNMOULDED,), "not_cut"),
            ({"kind": "looked", "scent": "weaker", "colour": "as_new", "spots": False}, (UNMOULDED,), "not_cut"),
            ({"kind": "left", "bars": 10, "to": "sold", "tray": "R1"}, (*USUAL, FIT), "not_so_many_on_tray"),
            ({"kind": "left", "bars": 1, "to": "sold"}, (*USUAL, FIT), "none_on_no_tray"),
            ({"kind": "left", "bars": 1, "to": "sold", "tray": "R2"}, (*USUAL, FIT), "none_on_tray"),
            ({"kind": "left", "bars": 2, "to": "sold"}, (CUT, (1.2, PLACED[1] | {"bars": 8}), FIT), "not_so_many_bars"),
            ({"kind": "judged", "tester": "Runa", "scores": {"bubbles": 3}}, USUAL, "judged_before_fit"),
            ({"kind": "judged", "tester": "Runa", "scores": {"bubbles": 3}}, (UNMOULDED,), "not_cut"),
            ({"kind": "judged", "tester": "Runa"}, (*USUAL, FIT), "nothing_judged"),
            ({"kind": "judged", "tester": "R", "scores": {"bubbles": 3}, "water_c": 60.1}, (*USUAL, FIT), "not_washing_water"),
            ({"kind": "judged", "tester": "R", "scores": {"bubbles": 3}, "water_c": 0.9}, (*USUAL, FIT), "not_washing_water"),
            ({"kind": "struck", "seq": 1, "reason": "slip"}, (UNMOULDED, (1.3, {"kind": "struck", "seq": 1, "reason": "x"})),
             "nothing_to_strike"),
        ],
    )  # fmt: skip
    def test_just_beyond_what_can_be_it_is_not_taken(
        self, event: dict[str, Any], happened: tuple[Any, ...], code: str
    ) -> None:
        found = refused(event, *happened)
        assert found is not None
        assert found[0] == code

    @pytest.mark.parametrize(
        ("event", "happened"),
        [
            ({"kind": "cut", "bars": 5, "seconds": 3, "samples": 2}, ()),
            ({"kind": "cut", "bars": 1, "trims_g": 0}, ()),
            ({"kind": "cut", "bars": 11}, ()),
            ({"kind": "placed", "bars": 9, "tray": "R1"}, (UNMOULDED, CUT)),
            ({"kind": "placed", "bars": 3, "tray": "R2", "from_tray": "R1"}, USUAL),
            ({"kind": "weighed", "mark": "T", "bars": 9, "weight_g": 9 * 129, "source": "typed"}, USUAL),
            ({"kind": "weighed", "mark": "A", "weight_g": 130.3, "source": "typed"}, USUAL),
            ({"kind": "weighed", "mark": "A", "weight_g": 5000, "source": "typed", "sure": True}, USUAL),
            ({"kind": "room", "celsius": -20, "humidity_percent": 0}, USUAL),
            ({"kind": "room", "celsius": 60, "humidity_percent": 100}, USUAL),
            ({"kind": "fit_tested", "ph": 8}, USUAL),
            ({"kind": "fit_tested", "ph": 12}, USUAL),
            ({"kind": "fit_tested", "ph": 0, "sure": True}, USUAL),
            ({"kind": "fit_tested", "zap": False}, USUAL),
            ({"kind": "left", "bars": 9, "to": "sold", "tray": "R1"}, (*USUAL, FIT)),
            ({"kind": "left", "bars": 9, "to": "lost", "tray": "R1"}, USUAL),
            ({"kind": "judged", "tester": "Runa", "scores": {"bubbles": 3}, "water_c": 1}, (*USUAL, FIT)),
            ({"kind": "judged", "tester": "Runa", "scores": {"bubbles": 3}, "water_c": 60}, (*USUAL, FIT)),
            ({"kind": "struck", "seq": 4, "reason": "slip"}, USUAL),
        ],
    )
    def test_just_within_what_can_be_it_is_taken(self, event: dict[str, Any], happened: tuple[Any, ...]) -> None:
        assert refused(event, *happened) is None

    def test_what_happened_at_the_very_pour_or_cut_and_clocks_a_little_ahead_are_taken(self) -> None:
        note = {"kind": "noted", "text": "Smells good."}
        assert refused(note, day=0) is None
        assert refused(note, day=60 + 10 / 1440) is None
        assert refused(note, day=60 + 11 / 1440) == ("in_the_future", "at", False)
        weighed = {"kind": "weighed", "mark": "B", "weight_g": 130, "source": "typed"}
        assert refused(weighed, *USUAL, day=1.1) is None

    def test_nothing_happens_before_the_pour_or_ahead_of_now(self) -> None:
        note = {"kind": "noted", "text": "Smells good."}
        assert refused(note, day=-0.1) == ("before_the_pour", "at", False)
        assert refused(note, day=61) == ("in_the_future", "at", False)
        assert refused(note, day=0.1) is None
        assert refused({"kind": "weighed", "mark": "A", "weight_g": 129, "source": "typed"}, *USUAL, day=1.05) == (
            "before_the_cut", "at", False,
        )  # fmt: skip

    @pytest.mark.parametrize(
        ("event", "code"),
        [
            ({"kind": "cut", "bars": 14}, "more_bars_than_planned"),
            ({"kind": "weighed", "mark": "A", "weight_g": 131, "source": "typed"}, "heavier_than_before"),
            ({"kind": "weighed", "mark": "A", "weight_g": 100, "source": "typed"}, "lighter_than_dry"),
            ({"kind": "weighed", "mark": "B", "weight_g": 1180, "source": "typed"}, "unlike_the_plan"),
            ({"kind": "fit_tested", "ph": 5.5}, "soap_is_not_so_acid"),
        ],
    )
    def test_a_slip_is_asked_about_and_stands_when_it_is_sure(self, event: dict[str, Any], code: str) -> None:
        happened = () if event["kind"] == "cut" else USUAL
        found = refused(event, *happened)
        assert found is not None
        assert (found[0], found[2]) == (code, True)
        assert refused(event | {"sure": True}, *happened) is None

    @pytest.mark.parametrize(
        ("minutes", "event", "code"),
        [
            (5, {"kind": "unmoulded", "how": "clean"}, "out_so_soon"),
            (5, {"kind": "cut", "bars": 10}, "out_so_soon"),
            (170, {"kind": "unmoulded", "how": "clean"}, "out_so_soon"),
            (181, {"kind": "unmoulded", "how": "clean"}, None),
        ],
    )
    def test_what_is_out_of_its_mould_minutes_after_the_pour_is_asked_about(
        self, minutes: float, event: dict[str, Any], code: str | None
    ) -> None:
        """By its forecast it stays in the mould for 10 h at least: 3 h are doubted."""
        parsed = CureRecord.model_validate({"seq": 99, "at": at(0), "recorded_at": at(0), "event": event}).event
        when = at(minutes / 1440)
        problem = refusal(parsed, when, NOW.isoformat(), POURED.isoformat(), [], BAR, 10, FREE, 10.0)
        assert (None if problem is None else (problem.code, problem.is_doubt)) == (
            None if code is None else (code, True)
        )
        sure = parsed.model_copy(update={"sure": True})
        assert refusal(sure, when, NOW.isoformat(), POURED.isoformat(), [], BAR, 10, FREE, 10.0) is None

    def test_a_loaf_that_was_soft_a_moment_ago_is_asked_about(self) -> None:
        out = {"kind": "unmoulded", "how": "clean"}
        soft = (1.0, {"kind": "pressed", "firmness": "soft"})
        assert refused(out, soft, day=1.05) == ("out_though_soft", "kind", True)
        assert refused(out, soft, day=1.2) is None
        assert refused(out, soft, (1.04, {"kind": "pressed", "firmness": "firm"}), day=1.05) is None

    def test_raw_soap_is_not_fit_on_the_day_it_was_poured(self) -> None:
        event = FitTested(kind="fit_tested", zap=False)
        early = ((0.5, {"kind": "cut", "bars": 10}),)
        for cooked, code in ((False, "fit_so_soon"), (True, None)):
            problem = refusal(
                event, at(0.9), NOW.isoformat(), POURED.isoformat(), record(*early), BAR, 10, FREE, is_cooked=cooked
            )
            assert (None if problem is None else problem.code) == code

    @pytest.mark.parametrize("typed_g", [1180, 11.8])
    def test_what_is_ten_times_too_much_or_too_little_is_offered_the_other_way(self, typed_g: float) -> None:
        event = Weighed(kind="weighed", mark="B", weight_g=typed_g, source="typed")
        problem = refusal(event, at(20), NOW.isoformat(), POURED.isoformat(), record(*USUAL), BAR, 10, FREE)
        assert problem is not None
        assert [offer.value for offer in problem.offers] == [118.0]

    def test_a_ph_of_93_is_offered_as_9_3(self) -> None:
        event = FitTested(kind="fit_tested", ph=93)
        problem = refusal(event, at(20), NOW.isoformat(), POURED.isoformat(), record(*USUAL), BAR, 10, FREE)
        assert problem is not None
        assert [offer.value for offer in problem.offers] == [pytest.approx(9.3)]

    def test_a_bar_that_dries_as_bars_do_is_taken(self) -> None:
        assert refused({"kind": "weighed", "mark": "A", "weight_g": 121, "source": "scale"}, *USUAL, day=12) is None
        assert refused({"kind": "weighed", "mark": "A", "weight_g": 130.2, "source": "scale"}, *USUAL, day=1.4) is None

    def test_the_latest_entries_can_be_struck_one_by_one(self) -> None:
        for seq in (4, 3):
            assert refused({"kind": "struck", "seq": seq, "reason": "slip"}, *USUAL[:seq]) is None


class TestFitToUse:
    @pytest.mark.parametrize(
        ("test", "standing"),
        [
            ({"ph": 8.0}, "fit"),
            ({"ph": 10.5}, "fit"),
            ({"ph": 10.6}, "wait"),
            ({"ph": 11.0}, "wait"),
            ({"ph": 11.1}, "unfit"),
            ({"zap": False}, "fit"),
            ({"zap": True}, "unfit"),
            ({"ph": 9.0, "zap": True}, "unfit"),
            ({"ph": 9.0, "looks_right": False}, "unfit"),
            ({"ph": 10.8, "zap": False, "looks_right": True}, "wait"),
            ({"looks_right": True}, "untested"),
        ],
    )
    def test_it_passes_only_when_all_of_it_does(self, test: dict[str, Any], standing: str) -> None:
        assert fit_standing(FitTested.model_validate({"kind": "fit_tested"} | test)) == standing

    def test_over_the_limit_it_is_neither_sold_nor_given(self) -> None:
        high = (40.0, {"kind": "fit_tested", "ph": 10.8})
        for to in ("sold", "given", "kept"):
            assert refused({"kind": "left", "bars": 1, "to": to, "tray": "R1"}, *USUAL, high) == (
                "not_fit_wait",
                "to",
                False,
            )
        assert refused({"kind": "left", "bars": 1, "to": "lost", "tray": "R1"}, *USUAL, high) is None

    def test_the_latest_test_decides(self) -> None:
        high = (30.0, {"kind": "fit_tested", "ph": 11.5})
        sell = {"kind": "left", "bars": 1, "to": "sold", "tray": "R1"}
        assert refused(sell, *USUAL, high, FIT) is None
        assert refused(sell, *USUAL, FIT, (41.0, {"kind": "fit_tested", "zap": True})) == ("not_fit_unfit", "to", False)
