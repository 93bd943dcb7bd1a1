"""What a batch cost, added up by hand."""

import pytest

from sapolin.core.stock.cost import CostRates, PackPerBar, TakenFromLot, batch_cost, price_for


def taken(material, grams, per_kg, *, lot="L1", kind="oil"):
    return TakenFromLot(material=material, name=material.title(), kind=kind, lot=lot, grams=grams, per_kg=per_kg)


RATES = CostRates(
    per_hour=12.0, minutes=90.0, minutes_after=30.0, energy=0.5, margin_percent=60.0,
    packs=(PackPerBar(material="packaging:box", pieces=1), PackPerBar(material="packaging:label", pieces=2)),
)  # fmt: skip
OILS = [taken("olive", 600.0, 8.0), taken("coconut", 200.0, 5.0), taken("coconut", 100.0, 6.0, lot="L2")]
LYE = taken("naoh", 120.0, 4.0, kind="lye")
PRICES = {"olive": 7.0, "coconut": 4.0, "naoh": 4.0, "shea": 10.0, "packaging:box": 150.0, "packaging:label": 20.0}


def cost(*used, planned=None, **more):
    asked = {"good_bars": 9, "planned_bars": 10, "bar_g": 90.0, "minutes": 60.0, "rates": RATES} | more
    return batch_cost(
        used or [*OILS, LYE], {"olive": 500.0, "coconut": 300.0} if planned is None else planned, PRICES, **asked
    )


class TestAsMade:
    def test_materials_by_their_lots(self):
        # Olive 0.6 × 8 = 4.8; coconut 0.2 × 5 + 0.1 × 6 = 1.6; lye 0.12 × 4 = 0.48.
        found = cost()
        assert [(one.material, one.grams, one.cost, one.lots) for one in found.lines] == [
            ("olive", 600.0, pytest.approx(4.8), ("L1",)), ("coconut", 300.0, pytest.approx(1.6), ("L1", "L2")),
            ("naoh", 120.0, pytest.approx(0.48), ("L1",)),
        ]  # fmt: skip
        assert found.actual.materials == pytest.approx(6.88)
        assert (found.unpriced, found.planned_unpriced) == ((), ())

    def test_all_that_goes_with_it(self):
        """Nine boxes at 0.15 and eighteen labels at 0.02: 1.71; an hour and a half of work at 12; power for 0.5."""
        side = cost().actual
        assert (side.packaging, side.energy, side.minutes, side.time) == pytest.approx((1.71, 0.5, 90, 18))
        assert side.total == pytest.approx(6.88 + 1.71 + 0.5 + 18)
        assert (side.bars, side.per_bar, side.per_100_g) == pytest.approx((9, 27.09 / 9, 100 * 3.01 / 90))

    def test_parts_make_the_whole(self):
        found = cost()
        assert [one.part for one in found.parts] == ["oil", "lye", "packaging", "energy", "time"]
        assert [one.cost for one in found.parts] == pytest.approx([6.4, 0.48, 1.71, 0.5, 18])
        assert [one.percent for one in found.parts] == pytest.approx([100 * one.cost / 27.09 for one in found.parts])
        assert [one.percent for one in found.lines] == pytest.approx([100 * one.cost / 27.09 for one in found.lines])

    def test_the_price_leaves_the_margin(self):
        # 60 % of the price stay: 3.01 is 40 % of it.
        assert cost().price == pytest.approx(3.01 / 0.4)
        assert price_for(3.0, 0.0) == 3.0

    def test_a_lot_without_a_price_is_named_and_not_taken_for_free(self):
        found = cost(taken("olive", 100.0, None), taken("olive", 500.0, 8.0, lot="L2"), LYE)
        olive = next(one for one in found.lines if one.material == "olive")
        assert (olive.cost, olive.percent, found.unpriced) == (None, None, ("Olive",))
        assert found.actual.materials == pytest.approx(0.48)

    def test_packaging_that_was_booked_counts_as_it_was(self):
        """Six boxes booked at 200 a thousand: 1.2; three boxes and eighteen labels are still to come."""
        found = cost(*OILS, taken("packaging:box", 6.0, 200.0, kind="packaging"))
        assert found.actual.packaging == pytest.approx(1.2)
        assert found.actual.materials == pytest.approx(6.4)
        assert (found.packaging_booked, found.packaging_open) == (6.0, 21.0)
        assert cost(*OILS, taken("packaging:box", 40.0, 200.0, kind="packaging")).packaging_open == 0.0

    def test_no_good_bar_has_no_price(self):
        found = cost(good_bars=0)
        assert (found.actual.per_bar, found.actual.per_100_g, found.price) == (None, None, None)
        assert cost(bar_g=None).actual.per_100_g is None
        assert cost(bar_g=None).actual.per_bar is not None

    @pytest.mark.parametrize(
        ("minutes", "counts"), [(None, False), (4.9, False), (5.0, True), (60.0, True), (480.0, True), (480.1, False)]
    )
    def test_a_day_on_record_counts_where_it_can_have_been_one(self, minutes, counts):
        found = cost(minutes=minutes)
        assert found.minutes_by_record is counts
        assert found.actual.minutes == 30 + (minutes if counts else 90)


class TestAsPlanned:
    def test_what_was_taken_gives_its_price_to_the_plan(self):
        """Olive at 8 and coconut at 1.6 / 0.3 kg as taken: 4 + 1.6; ten boxes, twenty labels; the usual minutes."""
        side = cost().planned
        assert side.materials == pytest.approx(0.5 * 8 + 0.3 * 1.6 / 0.3)
        assert (side.packaging, side.minutes, side.time, side.bars) == pytest.approx((1.9, 120, 24, 10))
        assert side.per_bar == pytest.approx((5.6 + 1.9 + 0.5 + 24) / 10)

    def test_of_what_was_not_taken_the_price_list_counts(self):
        found = cost(planned={"olive": 500.0, "shea": 100.0, "emu": 50.0})
        assert found.planned.materials == pytest.approx(0.5 * 8 + 0.1 * 10)
        assert found.planned_unpriced == ("emu",)
