"""The cheapest purchase beside one found by trying everything; packs, prices and names as lists write them."""

import re
from itertools import product
from math import ceil

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sapolin.core.quantities.text import THOUSANDS, plain
from sapolin.core.stock.buying import Offered, Supplier, cheapest_purchase
from sapolin.core.stock.matching import density_of, match_name
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

    @pytest.mark.parametrize(("yearly", "lasts"), [(7500.0, True), (7400.0, False)])
    def test_twelve_months_are_a_year(self, yearly, lasts):
        """5 kg of 7.5 kg a year last eight months to the day, and turn after eight; of 7.4 kg a little longer."""
        shop, packs = Supplier(name="Mill"), [offer("Mill", "hemp", 1000, 12.0), offer("Mill", "hemp", 5000, 40.0)]
        [hint] = cheapest_purchase({"hemp": 800.0}, packs, [shop], {"hemp": yearly}, {"hemp": 8.0}).hints
        assert (hint.saves > 0) == lasts

    def test_waiting_for_free_freight_is_mentioned(self):
        shop = Supplier(name="Mill", freight=5.0, free_from=50.0)
        bought = cheapest_purchase({"shea": 900.0}, [offer("Mill", "shea", 1000, 9.0)], [shop])
        assert bought.orders[0].to_free_freight == pytest.approx(41.0)
        assert any(hint.saves == 5.0 for hint in bought.hints)


def numbers(text):
    """The numbers of a text, as it says them."""
    return [float(one) for one in re.findall(r"[0-9]+(?:[.][0-9]+)?", plain(text).replace(THOUSANDS, ""))]


class TestWhatAnOrderSays:
    def test_a_line_by_hand(self):
        """1.4 kg in twos of 500 g: four packs, 24 + 6 freight. One kilo elsewhere is 15, two of them 6 dearer."""
        shops = [Supplier(name="Mill", freight=6.0), Supplier(name="Store", freight=3.0)]
        offers = [
            offer("Mill", "shea", 500, 6.0, 2),
            offer("Store", "shea", 1000, 15.0),
            offer("Mill", "olive", 1000, 8.0),
        ]
        bought = cheapest_purchase({"shea": 1400.0, "olive": 900.0}, offers, shops)
        [order] = bought.orders
        olive, shea = order.lines
        assert (shea.packs, shea.pack_g, shea.grams, shea.needed_g, shea.cost) == (4, 500.0, 2000.0, 1400.0, 24.0)
        assert (olive.packs, olive.grams, olive.needed_g, olive.cost) == (1, 1000.0, 900.0, 8.0)
        # 6 of freight on goods worth 32: 18.75 % on each.
        assert shea.landed_per_kg == pytest.approx(12 * (1 + 6 / 32))
        assert olive.landed_per_kg == pytest.approx(8 * (1 + 6 / 32))
        assert (order.goods, order.freight, bought.total) == (32.0, 6.0, 38.0)
        assert numbers(shea.instead) == [2, 1000, 6.00]
        assert olive.instead == ()

    @pytest.mark.parametrize(("other", "is_said"), [(12.4, False), (12.5, True), (13.0, True)])
    def test_another_pack_is_worth_a_word_from_half_a_coin_on(self, other, is_said):
        offers = [offer("Mill", "shea", 500, 6.0), offer("Mill", "shea", 900, other)]
        bought = cheapest_purchase({"shea": 900.0}, offers, [Supplier(name="Mill")])
        assert [bool(line.instead) for line in bought.orders[0].lines] == [is_said]

    def test_it_is_said_once_where_two_packs_make_up_the_need(self):
        offers = [offer("Mill", "shea", grams, price) for grams, price in ((500, 6.0), (1000, 10.0), (5000, 60.0))]
        [order] = cheapest_purchase({"shea": 1400.0}, offers, [Supplier(name="Mill")]).orders
        assert [line.packs for line in order.lines] == [1, 1]
        assert [bool(line.instead) for line in order.lines] == [True, False]
        # 16 as bought; 5 kg alone would be 60.
        assert numbers(order.lines[0].instead) == [1, 5000, 44.00]

    def test_of_the_same_pack_the_cheaper_is_bought(self):
        offers = [offer("Mill", "shea", 500, 7.0), offer("Mill", "shea", 500, 6.0), offer("Mill", "shea", 500, 6.5)]
        assert cheapest_purchase({"shea": 500.0}, offers, [Supplier(name="Mill")]).total == 6.0

    def test_what_one_supplier_alone_would_cost_more(self):
        """10 + 2 at one and 8 + 3 at the other are 23; all at the second 28 + 3."""
        shops = [Supplier(name="Mill", freight=2.0), Supplier(name="Store", freight=3.0)]
        offers = [
            offer("Mill", "shea", 1000, 10.0),
            offer("Store", "olive", 1000, 8.0),
            offer("Store", "shea", 1000, 20.0),
        ]
        bought = cheapest_purchase({"shea": 900.0, "olive": 900.0}, offers, shops)
        assert [order.supplier for order in bought.orders] == ["Mill", "Store"]
        [hint] = bought.hints
        assert "Store" in plain(hint.words)
        assert (numbers(hint.words), hint.saves, hint.material) == ([8.00], 0.0, "")
        # From one supplier already, nothing is said of it.
        assert cheapest_purchase({"olive": 900.0}, offers, shops).hints == ()

    def test_a_larger_pack_says_what_it_costs_and_how_long_it_lasts(self):
        packs = [
            offer("Mill", "hemp", 1000, 12.0),
            offer("Mill", "hemp", 5000, 40.0),
            offer("Mill", "hemp", 4000, 34.0),
        ]
        hints = [
            cheapest_purchase({"hemp": 800.0}, packs, [Supplier(name="Mill")], {"hemp": 3000.0}, keeps).hints[0]
            for keeps in ({"hemp": 8.0}, {"hemp": 20.0}, {})
        ]
        # 8 instead of 12 per kg; 5 kg at 3 kg a year are 20 months, which it may just keep; 3 kg x 4 saved.
        assert numbers(hints[0].words) == [5000, 8.00, 12.00, 20, 8]
        assert [hint.saves for hint in hints] == pytest.approx([0.0, 12.0, 12.0])
        assert all(hint.material == "hemp" for hint in hints)
        assert {5000, 8.0, 12.0, 20} <= set(numbers(hints[1].words))

    def test_of_larger_packs_the_cheapest_that_is_used_up_in_time_is_told(self):
        packs = [
            offer("Mill", "olive", 1000, 7.0),
            offer("Mill", "olive", 5000, 30.0),
            offer("Mill", "olive", 200_000, 800.0),
        ]
        [hint] = cheapest_purchase(
            {"olive": 900.0}, packs, [Supplier(name="Mill")], {"olive": 10_000.0}, {"olive": 15.0}
        ).hints
        # 10 kg a year at 7 instead of 6; the barrel would last for twenty years.
        assert hint.saves == pytest.approx(10.0)
        assert {5000, 6.0, 7.0} <= set(numbers(hint.words))

    @pytest.mark.parametrize(("yearly", "count"), [(120.0, 0), (125.0, 1), (0.0, 0)])
    def test_a_larger_pack_is_worth_a_word_from_half_a_coin_a_year_on(self, yearly, count):
        packs = [offer("Mill", "hemp", 1000, 12.0), offer("Mill", "hemp", 5000, 40.0)]
        assert len(cheapest_purchase({"hemp": 800.0}, packs, [Supplier(name="Mill")], {"hemp": yearly}).hints) == count

    @pytest.mark.parametrize(("freight", "count"), [(0.4, 0), (0.5, 1)])
    def test_freight_is_worth_waiting_for_from_half_a_coin_on(self, freight, count):
        shop = Supplier(name="Mill", freight=freight, free_from=50.0)
        bought = cheapest_purchase({"shea": 900.0}, [offer("Mill", "shea", 1000, 9.0)], [shop])
        assert len(bought.hints) == count
        assert bought.orders[0].to_free_freight == pytest.approx(41.0)

    def test_a_supplier_without_freight_has_none_to_be_saved(self):
        bought = cheapest_purchase(
            {"shea": 900.0}, [offer("Mill", "shea", 1000, 9.0)], [Supplier(name="Mill", free_from=50.0)]
        )
        assert bought.orders[0].to_free_freight is None

    def test_exactly_the_threshold_is_free(self):
        shop = Supplier(name="Mill", freight=6.0, free_from=18.0)
        bought = cheapest_purchase({"shea": 1900.0}, [offer("Mill", "shea", 1000, 9.0)], [shop])
        assert (bought.goods, bought.freight, bought.orders[0].to_free_freight) == (18.0, 0.0, None)


class TestPacks:
    @pytest.mark.parametrize(
        ("written", "pack"),
        [
            ("1x5l", Pack(5000, "ml")), ("12 x 250 ml", Pack(3000, "ml")), ("2,5 kg", Pack(2500, "g")),
            ("500g", Pack(500, "g")),
            ("1 gal", Pack(3785.411784, "ml")), ("16 fl oz", Pack(473.176473, "ml")), ("35 lb", Pack(15875.73295, "g")),
            ("75 cl", Pack(750, "ml")), ("5 dl", Pack(500, "ml")), ("2 pt", Pack(946.352946, "ml")),
            ("4 qt", Pack(3785.411784, "ml")),
            ("100 pcs", Pack(100, "piece")), ("50 Stück", Pack(50, "piece")), ("1,000 ml", None), ("1.5 L", Pack(1500, "ml")),
            ("Kanister 10 l", Pack(10_000, "ml")), ("6×1 kg", Pack(6000, "g")), ("1/2 kg", Pack(500, "g")),
            ("1 1/2 lb", Pack(680.388555, "g")), ("½ gal", Pack(1892.705892, "ml")), ("4 x 1/4 l", Pack(1000, "ml")),
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
        [
            ("", "no_number"),
            ("large", "no_number"),
            ("1/0 kg", "no_number"),
            ("5", "no_unit"),
            ("0 kg", "not_positive"),
            ("-3", "not_positive"),
        ],
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

    @pytest.mark.parametrize(
        ("written", "decimal"),
        [("24.90", ","), ("1,25", "."), ("1'234.50", ","), ("12.34,50", ""), ("1,2,3", ""), ("1,234.5.6", "")],
    )
    def test_what_does_not_go_with_the_sign_is_not_read_another_way(self, written, decimal):
        with pytest.raises(CannotReadError, match="other_sign"):
            read_number(written, decimal)

    @pytest.mark.parametrize("written", ["1,234,567", "1.234.567", "1'234'567", "1.234.567,00", "1,234,567.00"])
    def test_a_sign_that_comes_twice_stands_between_thousands(self, written):
        assert read_number(written) == 1_234_567.0

    def test_powers_of_ten_are_no_price(self):
        with pytest.raises(CannotReadError, match="no_number"):
            read_number("1.5E+03")
        assert read_number("12 each") == 12.0


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


def test_the_first_heading_that_fits_holds_it():
    assert guess_columns(["Product", "Product name", "Price", "Price per kg"]) == {"name": "Product", "price": "Price"}


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

    def test_a_price_for_a_piece_becomes_one_for_the_pack(self):
        [row] = read(("Wrap", "50 pcs", "0.20"), priced_by="piece", decimal=".", chosen={"Wrap": "packaging:wrap"}).rows
        assert (row.pack_g, row.pack_price, row.per_kg) == (
            50,
            pytest.approx(10.0),
            pytest.approx(200.0),
        )  # of 1000 pieces

    @pytest.mark.parametrize(
        ("unit", "pack_unit", "pack_g"), [("kg", "", 5000.0), ("", "kg", 5000.0), ("g", "kg", 5.0)]
    )
    def test_a_bare_number_is_of_the_unit_in_its_row_or_of_that_of_the_list(self, unit, pack_unit, pack_g):
        fields = {"name": "Article", "pack": "Pack", "price": "Price", "unit": "Unit"}
        columns = Columns.model_validate({"fields": fields, "pack_unit": pack_unit})
        [row] = read_list([*HEADS, "Unit"], [(2, ("Olive oil", "5", "20", unit))], columns, {}).rows
        assert row.pack_g == pytest.approx(pack_g)

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
        written = [row.problem.params["written"] for row in rows[:2] if row.problem is not None]
        assert written == ["ask", "large"]
        assert rows[-1].material is None

    def test_what_the_maker_chose_counts(self):
        seen = read(
            ("Wrap", "100 pcs", "9"), ("Olive oil", "1 l", "8"), chosen={"Wrap": "packaging:wrap", "Olive oil": ""}
        )
        assert (seen.usable, seen.unmatched) == (1, 0)
        [bought] = offers_of(seen, "Mill")
        assert (bought.material, bought.pack_g, bought.price) == ("packaging:wrap", 100, 9)

    @pytest.mark.parametrize(
        ("written", "step"), [("6", 6), ("", 1), ("by the box", 1), ("0", 1), ("-3", 1), ("1.6", 2), ("99999", 10_000)]
    )
    def test_how_many_packs_go_together(self, written, step):
        fields = {"name": "Article", "pack": "Pack", "price": "Price", "step": "Sold by"}
        columns = Columns(fields=fields, decimal=".")
        [row] = read_list([*HEADS, "Sold by"], [(2, ("Olive oil", "1 kg", "8", written))], columns, {}).rows
        assert row.step == step

    def test_a_missing_column_stops_it(self):
        seen = read_list(HEADS, [(2, ("Olive oil", "1 l", "8"))], Columns(fields={"name": "Article"}), {})
        assert [one.code for one in seen.problems] == ["column_missing"]
        assert (seen.rows, seen.usable, seen.unmatched, seen.unreadable) == ((), 0, 0, 0)

    def test_headings_are_guessed(self):
        assert guess_columns(["Bezeichnung", "Inhalt", "Einheit", "Preis"]) == {
            "name": "Bezeichnung", "pack": "Inhalt", "unit": "Einheit", "price": "Preis",
        }  # fmt: skip
        assert guess_columns(["a", "b"]) == {}


@pytest.mark.parametrize(
    ("material", "density"),
    [
        ("scent:lavender", 0.89), ("liquid:goat-milk", 1.0), ("additive:glycerin", 1.26), ("additive:sodium-lactate-60", 1.32),
        # Salt is not sold by volume; of what is not known, nothing is known.
        ("additive:salt", None), ("scent:no-such", None), ("liquid:lavender", None), ("lye:naoh", None),
    ],
)  # fmt: skip
def test_what_is_sold_by_volume_has_a_density(material, density):
    assert density_of(material) == density
