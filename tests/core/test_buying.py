"""The cheapest purchase beside one found by trying everything; packs, prices and names as lists write them."""

from itertools import product
from math import ceil

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sapolin.core.quantities.text import plain
from sapolin.core.stock.buying import Offered, Supplier, cheapest_purchase
from sapolin.core.stock.matching import match_name
from sapolin.core.stock.packs import CannotReadError, Pack, read_number, read_pack
from sapolin.core.stock.price_list import Columns, guess_columns, offers_of, read_list


def offer(supplier, material, grams, price, step=1):
    return Offered(
        supplier=supplier, material=material, name=f"{material} {grams}", pack_g=grams, price=price, step=step
    )


def cost(counts, offers, shops):
    """Goods and freight of so many steps of each; null when a least order is not reached."""
    total = 0.0
    for shop in shops:
        goods = sum(
            n * one.step * one.price for n, one in zip(counts, offers, strict=True) if one.supplier == shop.name
        )
        if goods == 0:
            continue
        if goods < shop.least_order - 1e-9:
            return None
        total += goods
        if shop.free_from is None or goods < shop.free_from - 1e-9:
            total += shop.freight
    return total


def by_trying(needs, offers, shops):
    """The least cost of all purchases that could make sense."""
    most = []
    for one in offers:
        threshold = max((shop.free_from or 0, shop.least_order) for shop in shops if shop.name == one.supplier)
        most.append(ceil(needs[one.material] / (one.pack_g * one.step)) + ceil(max(threshold) / (one.price * one.step)))
    best = None
    for counts in product(*(range(n + 1) for n in most)):
        held = dict.fromkeys(needs, 0.0)
        for n, one in zip(counts, offers, strict=True):
            held[one.material] += n * one.step * one.pack_g
        if all(held[material] >= grams for material, grams in needs.items()):
            paid = cost(counts, offers, shops)
            if paid is not None and (best is None or paid < best):
                best = paid
    return best


PRICES = st.sampled_from([2.0, 3.5, 5.0, 8.0, 9.5, 12.0])


class TestCheapest:
    @given(
        st.lists(st.tuples(st.sampled_from(["Mill", "Store"]), st.sampled_from(["shea", "olive"]),
                           st.sampled_from([250.0, 500.0, 1000.0]), PRICES, st.sampled_from([1, 2])), min_size=2, max_size=4),
        st.sampled_from([None, 10.0, 20.0]), st.sampled_from([0.0, 6.0]), st.sampled_from([0.0, 8.0]),
    )  # fmt: skip
    @settings(max_examples=40, deadline=None)
    def test_is_the_least_of_all(self, rows, free_from, freight, least_order):
        shops = [Supplier(name="Mill", freight=freight, free_from=free_from),
                 Supplier(name="Store", freight=3.0, least_order=least_order)]  # fmt: skip
        offers = list({(one[0], one[1], one[2], one[4]): offer(*one) for one in rows}.values())
        needs = {one.material: 900.0 for one in offers}
        bought = cheapest_purchase(needs, offers, shops)
        assert bought.is_proven
        assert bought.total == pytest.approx(by_trying(needs, offers, shops))
        for material, grams in needs.items():
            held = sum(line.grams for order in bought.orders for line in order.lines if line.material == material)
            assert held >= grams

    def test_freight_decides_where_to_buy(self):
        shops = [Supplier(name="Mill", freight=9.0), Supplier(name="Store", freight=2.0)]
        offers = [offer("Mill", "shea", 1000, 8.0), offer("Store", "shea", 1000, 12.0)]
        one, many = (cheapest_purchase({"shea": grams}, offers, shops) for grams in (900.0, 4500.0))
        assert [order.supplier for order in one.orders] == ["Store"]  # 14 beats 17
        assert [order.supplier for order in many.orders] == ["Mill"]  # 49 beats 62
        assert one.orders[0].lines[0].landed_per_kg == pytest.approx(14.0)

    def test_nearly_free_freight_is_worth_another_pack(self):
        shop = Supplier(name="Mill", freight=9.0, free_from=20.0)
        bought = cheapest_purchase(
            {"shea": 1500.0}, [offer("Mill", "shea", 1000, 9.0), offer("Mill", "shea", 500, 6.0)], [shop]
        )
        # 1 kg + 500 g: 15 + 9 = 24; 2 kg: 18 + 9 = 27; 1 kg + 2 x 500 g: 21, free of freight.
        assert (bought.total, bought.freight) == (21.0, 0.0)

    def test_what_nobody_offers_is_said(self):
        bought = cheapest_purchase(
            {"shea": 100.0, "emu": 50.0}, [offer("Mill", "shea", 500, 5)], [Supplier(name="Mill")]
        )
        assert bought.not_offered == ("emu",)
        assert cheapest_purchase({"emu": 50.0}, [], []).orders == ()
        assert cheapest_purchase({}, [], []).total == 0

    def test_a_larger_pack_is_worth_it_only_when_it_is_used_up_in_time(self):
        shop, packs = Supplier(name="Mill"), [offer("Mill", "hemp", 1000, 12.0), offer("Mill", "hemp", 5000, 40.0)]
        quick, slow = (
            cheapest_purchase({"hemp": 800.0}, packs, [shop], {"hemp": yearly}, {"hemp": 8.0}).hints[0]
            for yearly in (12_000.0, 3000.0)
        )
        # 5 kg at 8 instead of 12 per kg: 4 per kg on 12 kg a year; at 3 kg a year it would last 20 months.
        assert quick.saves == pytest.approx(48.0)
        assert slow.saves == 0
        assert "20 months" in plain(slow.words)

    def test_waiting_for_free_freight_is_mentioned(self):
        shop = Supplier(name="Mill", freight=5.0, free_from=50.0)
        bought = cheapest_purchase({"shea": 900.0}, [offer("Mill", "shea", 1000, 9.0)], [shop])
        assert bought.orders[0].to_free_freight == pytest.approx(41.0)
        assert any(hint.saves == 5.0 for hint in bought.hints)


class TestPacks:
    @pytest.mark.parametrize(
        ("written", "pack"),
        [
            ("1x5l", Pack(5000, "ml")), ("12 x 250 ml", Pack(3000, "ml")), ("2,5 kg", Pack(2500, "g")),
            ("500g", Pack(500, "g")),
            ("1 gal", Pack(3785.411784, "ml")), ("16 fl oz", Pack(473.176473, "ml")), ("35 lb", Pack(15875.73295, "g")),
            ("100 pcs", Pack(100, "piece")), ("50 Stück", Pack(50, "piece")), ("1,000 ml", None), ("1.5 L", Pack(1500, "ml")),
            ("Kanister 10 l", Pack(10_000, "ml")), ("6×1 kg", Pack(6000, "g")),
        ],
    )  # fmt: skip
    def test_in_every_way_they_are_written(self, written, pack):
        if pack is None:
            with pytest.raises(CannotReadError, match="ambiguous"):
                read_pack(written)
        else:
            read = read_pack(written)
            assert (read.unit, read.amount) == (pack.unit, pytest.approx(pack.amount))

    @pytest.mark.parametrize(
        ("written", "code"),
        [("", "no_number"), ("large", "no_number"), ("5", "no_unit"), ("0 kg", "not_positive"), ("-3", "not_positive")],
    )
    def test_or_refused_with_a_reason(self, written, code):
        with pytest.raises(CannotReadError, match=code):
            read_number(written) if written == "-3" else read_pack(written)

    def test_a_sign_is_asked_about_unless_it_is_known(self):
        with pytest.raises(CannotReadError):
            read_number("1,234")
        assert (read_number("1,234", ","), read_number("1,234", ".")) == (1.234, 1234.0)
        with pytest.raises(CannotReadError):
            read_number("1,234.50", ",")


class TestNames:
    @pytest.mark.parametrize(
        ("written", "material"),
        [
            ("Kokosöl", "coconut"), ("huile de ricin", "castor"), ("Manteca de cacao", "cocoa"), ("Ätznatron Perlen", "naoh"),
            ("Lavendelöl", "scent:lavender"), ("Shea butter", "shea"), ("Palm oil", "palm"), ("Soap boxes", None),
            ("Olivenöl nativ extra", None), ("Rapsöl", None), ("sweet almond oil, cold pressed", "almond-sweet"),
        ],
    )  # fmt: skip
    def test_in_four_languages_or_left_to_the_maker(self, written, material):
        assert match_name(written).material == material

    def test_materials_of_ones_own_go_before(self):
        assert match_name("Ring oil", {"own-ring": "Ring"}).material == "own-ring"


HEADS = ["Article", "Pack", "Price"]


def read(*rows, **columns):
    fields = {"name": "Article", "pack": "Pack", "price": "Price"}
    numbered = [(i, row) for i, row in enumerate(rows, start=2)]
    return read_list(HEADS, numbered, Columns.model_validate({"fields": fields} | columns), {})


class TestLists:
    def test_a_pack_by_volume_is_turned_by_density(self):
        [row] = read(("Olive oil", "5 l", "33,50")).rows
        assert row.pack_g == pytest.approx(4575)  # 0.915 g/mL
        assert row.per_kg == pytest.approx(33.5 / 4.575)

    @pytest.mark.parametrize(
        ("by", "pack", "price", "per_pack"),
        [("kg", "5 kg", "4", 20.0), ("l", "5 l", "4", 20.0), ("l", "4.575 kg", "4", 20.0), ("lb", "10 lb", "3", 30.0),
         ("oz", "1 lb", "0.5", 8.0)],
    )  # fmt: skip
    def test_a_price_for_a_unit_becomes_one_for_the_pack(self, by, pack, price, per_pack):
        [row] = read(("Olive oil", pack, price), priced_by=by, decimal=".").rows
        assert row.pack_price == pytest.approx(per_pack, abs=1e-3)

    def test_rows_that_cannot_be_read_say_why_and_the_rest_goes_on(self):
        rows = read(
            ("Olive oil", "5 l", "ask"), ("Olive oil", "large", "3"), ("", "1 kg", "3"), ("Kaolin", "1 l", "3"),
            ("Castor oil", "1 kg", "7.90"), ("Castor oil", "1 kg", "7.90"), ("Castor oil", "1 kg", "9.90"),
            ("Wrap", "100 pcs", "9"),
        ).rows  # fmt: skip
        codes = [None if row.problem is None else row.problem.code for row in rows]
        assert codes == [
            "row_price_no_number", "row_pack_no_number", "row_without_name", "row_pack_no_density", None, "row_repeats",
            "row_contradicts", None,
        ]  # fmt: skip
        assert rows[-1].material is None

    def test_what_the_maker_chose_counts(self):
        seen = read(
            ("Wrap", "100 pcs", "9"), ("Olive oil", "1 l", "8"), chosen={"Wrap": "packaging:wrap", "Olive oil": ""}
        )
        assert (seen.usable, seen.unmatched) == (1, 0)
        [bought] = offers_of(seen, "Mill")
        assert (bought.material, bought.pack_g, bought.price) == ("packaging:wrap", 100, 9)

    def test_a_missing_column_stops_it(self):
        seen = read_list(HEADS, [(2, ("Olive oil", "1 l", "8"))], Columns(fields={"name": "Article"}), {})
        assert [one.code for one in seen.problems] == ["column_missing"]

    def test_headings_are_guessed(self):
        assert guess_columns(["Bezeichnung", "Inhalt", "Einheit", "Preis"]) == {
            "name": "Bezeichnung", "pack": "Inhalt", "unit": "Einheit", "price": "Preis",
        }  # fmt: skip
        assert guess_columns(["a", "b"]) == {}
