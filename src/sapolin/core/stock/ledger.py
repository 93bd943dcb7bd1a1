"""The ledger of the stock: lots, and entries that are only ever added. What is in hand is their sum."""

from collections.abc import Sequence
from datetime import date, datetime
from itertools import accumulate
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.diagnostics import Diagnostic, Offer, stopping
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.text import Quantity, as_entered, number, percent, template

__all__ = [
    "Arrived",
    "Certificate",
    "Checked",
    "Counted",
    "LedgerEntry",
    "Lot",
    "LotNow",
    "LotPart",
    "LotStruck",
    "Mixed",
    "Opened",
    "Returned",
    "StockEvent",
    "Stopped",
    "Used",
    "Wasted",
    "change_g",
    "lot_now",
    "lot_problem",
    "lot_stopped",
    "not_in_hand",
    "stock_refusal",
]  # fmt: skip

MOST_G = 2_000_000.0
"""Two tonnes: more is a slip."""
CENT = 1e-6
LotCode = Annotated[str, Field(min_length=1, max_length=24, pattern=r"^[^\x00-\x1f]*\S[^\x00-\x1f]*$")]
Words = Annotated[str, Field(max_length=200)]
MaterialKind = Literal["oil", "lye", "liquid", "additive", "scent", "colorant", "packaging"]


class Certificate(Model):
    """What the supplier's sheet says of this very lot; null where it says nothing."""

    sap_koh_mg_per_g: FiniteNumber | None = None
    """Saponification value of an oil, mg KOH per g."""
    allergens_percent: dict[Annotated[str, Field(min_length=1, max_length=80)], FiniteNumber] = Field(
        default={}, max_length=100
    )
    """Fragrance allergens of a scent, % of the scent, by name."""
    most_percent: FiniteNumber | None = None
    """The most that the supplier allows of a scent in the finished product, %."""
    issued_for: Annotated[str, Field(max_length=80)] = ""
    """What it was issued for, as it names it."""


class LotPart(Model):
    """What a mixed lot holds of another."""

    lot_id: Annotated[str, Field(max_length=32)]
    code: Annotated[str, Field(max_length=24)]
    grams: FiniteNumber


class Lot(Model):
    """Goods that came in together, as they came in. It never changes; what happens to it are entries."""

    code: LotCode
    """On the label of its tub, in this workshop."""
    material: Annotated[str, Field(min_length=1, max_length=80)]
    """Id of the oil; `naoh` or `koh`; of all else its kind and id, such as `scent:lavender`; or the name of a packaging."""
    kind: MaterialKind
    amount_g: FiniteNumber
    """As it came in, g; of packaging, pieces."""
    price: FiniteNumber | None = None
    """Paid for it, in the maker's own currency; null while not known."""
    freight: FiniteNumber = 0.0
    """Its share of the freight."""
    supplier: Annotated[str, Field(max_length=80)] = ""
    supplier_code: Annotated[str, Field(max_length=60)] = ""
    """The lot code of the supplier."""
    arrived: date
    best_before: date | None = None
    purity_percent: FiniteNumber | None = None
    """Of lye, by its label."""
    certificate: Certificate | None = None
    has_antioxidant: Truth = False
    place: Annotated[str, Field(max_length=60)] = ""
    parts: Annotated[tuple[LotPart, ...], Field(max_length=20)] = ()
    """What it was mixed of, or split from; empty for goods that were bought."""

    @property
    def per_kg(self) -> float | None:
        """Landed price per kg; null while no price is known."""
        return None if self.price is None else 1000 * (self.price + self.freight) / self.amount_g


class Arrived(Model):
    """The lot came in."""

    kind: Literal["arrived"]


class Opened(Model):
    """Its tub was opened: from now on air gets at it."""

    kind: Literal["opened"]


class Used(Model):
    """Taken for a batch, at the weight that was captured."""

    kind: Literal["used"]
    grams: FiniteNumber
    batch_id: Annotated[str, Field(max_length=40)]
    item: Annotated[str, Field(max_length=40)] = ""


class Returned(Model):
    """Put back: taken for a batch and not used."""

    kind: Literal["returned"]
    grams: FiniteNumber
    batch_id: Annotated[str, Field(max_length=40)] = ""
    item: Annotated[str, Field(max_length=40)] = ""


class Mixed(Model):
    """Poured into another lot."""

    kind: Literal["mixed"]
    grams: FiniteNumber
    into: Annotated[str, Field(max_length=24)]
    """Code of that lot."""


class Wasted(Model):
    """Spilt, gone off, thrown away."""

    kind: Literal["wasted"]
    grams: FiniteNumber
    why: Words = ""


class Counted(Model):
    """Weighed on the shelf; the difference is booked."""

    kind: Literal["counted"]
    grams: FiniteNumber


class Checked(Model):
    """Smelt and looked at."""

    kind: Literal["checked"]
    is_good: Truth
    text: Words = ""


class Stopped(Model):
    """Not to be used until it is released."""

    kind: Literal["stopped"]
    is_stopped: Truth = True
    why: Words = ""


class LotStruck(Model):
    """An earlier entry does not count; it stays in the ledger."""

    kind: Literal["struck"]
    seq: int
    reason: Annotated[str, Field(min_length=1, max_length=200)]


StockEvent = Annotated[
    Arrived | Opened | Used | Mixed | Returned | Wasted | Counted | Checked | Stopped | LotStruck,
    Field(discriminator="kind"),
]


class LedgerEntry(Model):
    """An entry as kept."""

    seq: int
    """Counts the entries of a lot, from 1."""
    at: str
    change_g: float
    """What it changed of what is in hand, g."""
    event: StockEvent


class LotNow(Model):
    """How a lot stands."""

    in_hand_g: float
    opened_at: str | None
    is_stopped: Truth
    why_stopped: str
    checked_at: str | None
    """When it was smelt last and found good."""


def change_g(lot: Lot, event: StockEvent, entries: Sequence[LedgerEntry]) -> float:
    """What `event` changes of what is in hand, after `entries`.

    >>> lot = Lot(code="C7", material="coconut", kind="oil", amount_g=5000, arrived=date(2026, 1, 5))
    >>> change_g(lot, Used(kind="used", grams=260, batch_id="b"), [])
    -260.0
    """
    if isinstance(event, Arrived):
        return lot.amount_g
    if isinstance(event, Used | Wasted | Mixed):
        return -float(event.grams)
    if isinstance(event, Returned):
        return float(event.grams)
    if isinstance(event, Counted):
        return event.grams - sum(one.change_g for one in entries)
    if isinstance(event, LotStruck):
        return -sum(one.change_g for one in entries if one.seq == event.seq)
    return 0.0


def lot_now(entries: Sequence[LedgerEntry]) -> LotNow:
    """How a lot stands after `entries`."""
    struck = {one.event.seq for one in entries if isinstance(one.event, LotStruck)}
    opened_at: str | None = None
    checked_at: str | None = None
    stopped, why = False, ""
    for one in entries:
        if one.seq in struck:
            continue
        event = one.event
        if isinstance(event, Opened | Used | Mixed) and opened_at is None:
            opened_at = one.at
        elif isinstance(event, Checked):
            checked_at = one.at if event.is_good else checked_at
            if not event.is_good:
                stopped, why = True, event.text
        elif isinstance(event, Stopped):
            stopped, why = event.is_stopped, event.why
    return LotNow(
        in_hand_g=sum(one.change_g for one in entries), opened_at=opened_at, is_stopped=stopped, why_stopped=why,
        checked_at=checked_at,
    )  # fmt: skip


def lot_problem(lot: Lot, codes: Sequence[str], today: date) -> Diagnostic | None:
    """Why a lot cannot come in; null when it can. `codes` are those of the lots there are."""
    if lot.code.strip().casefold() in {code.casefold() for code in codes}:
        return stopping("lot_code_taken", "code", lot_code=lot.code)
    if not 0 < lot.amount_g <= MOST_G:
        return stopping("lot_amount", "amount_g", amount=_amount(lot, lot.amount_g), most=_amount(lot, MOST_G))
    if lot.price is not None and lot.price < 0:
        return stopping("lot_price", "price")
    if lot.freight < 0:
        return stopping("lot_price", "freight")
    if lot.arrived > today:
        return stopping("lot_arrives_later", "arrived")
    if lot.best_before is not None and lot.best_before < lot.arrived:
        return stopping("lot_dates_cross", "best_before")
    if lot.kind == "lye":
        return _purity(lot)
    if lot.purity_percent is not None:
        return stopping("purity_is_of_lye", "purity_percent")
    return None


def lot_stopped(code: str, why: str, path: str) -> Diagnostic:
    """A lot is to be taken from that is stopped, as far as it is known why."""
    return stopping("lot_is_stopped_for" if why else "lot_is_stopped", path, lot_code=code, why=why)


def not_in_hand(lot: Lot, in_hand: float, path: str) -> Diagnostic:
    """So much is to be taken that less is there."""
    code = "nothing_in_hand" if in_hand < CENT else "not_so_much_in_hand"
    return stopping(code, path, lot_code=lot.code, left=_amount(lot, in_hand))


def _amount(lot: Lot, amount: float) -> Quantity:
    """So much of a lot: packaging is counted, all else is weighed."""
    return number(amount, 0, template("units.pieces")) if lot.kind == "packaging" else as_entered(round(amount, 2), "g")


def _purity(lot: Lot) -> Diagnostic | None:
    """Lye only weakens: its label says what it was at most, and never over 100 %."""
    if lot.purity_percent is None:
        return stopping("lot_purity_missing", "purity_percent")
    least = 85.0 if lot.material.startswith("koh") else 90.0
    if not least <= lot.purity_percent <= 100:
        tenfold = lot.purity_percent * 10
        offers = (Offer(value=tenfold, label=(percent(tenfold),)),) if least <= tenfold <= 100 else ()
        return stopping(
            "lot_purity", "purity_percent", offers=offers, purity=percent(lot.purity_percent), least=percent(least)
        )
    return None


def stock_refusal(event: StockEvent, lot: Lot, entries: Sequence[LedgerEntry], at: str) -> Diagnostic | None:
    """Why `event`, which happened `at`, cannot be added to the ledger of a lot; null when it can."""
    now = lot_now(entries)
    if datetime.fromisoformat(at).date() < lot.arrived and not isinstance(event, Arrived):
        return stopping("before_it_arrived", "at", lot_code=lot.code)
    if isinstance(event, Used | Wasted | Returned) and event.grams <= 0:
        return stopping("no_amount", "grams")
    if isinstance(event, Used) and now.is_stopped:
        return lot_stopped(lot.code, now.why_stopped, "kind")
    if isinstance(event, Used | Wasted) and event.grams > now.in_hand_g + CENT:
        return not_in_hand(lot, now.in_hand_g, "grams")
    if isinstance(event, Returned):
        # Counting may find more than came in; what is put back was there before.
        most = max(accumulate(one.change_g for one in entries))
        if now.in_hand_g + event.grams > most + CENT:
            return stopping("more_than_it_held", "grams", lot_code=lot.code, most=_amount(lot, most))
    if isinstance(event, Counted) and not 0 <= event.grams <= MOST_G:
        return stopping("counted_amount", "grams", amount=_amount(lot, event.grams), most=_amount(lot, MOST_G))
    if isinstance(event, Mixed):
        return stopping("mixed_by_itself", "kind")
    if isinstance(event, Arrived):
        return stopping("arrived_already", "kind", lot_code=lot.code) if entries else None
    if isinstance(event, LotStruck):
        known = next((one for one in entries if one.seq == event.seq), None)
        gone = {one.event.seq for one in entries if isinstance(one.event, LotStruck)}
        if known is None or event.seq in gone or isinstance(known.event, LotStruck | Arrived | Mixed):
            return stopping("nothing_to_strike", "seq", number=number(event.seq))
        if now.in_hand_g - known.change_g < -CENT:
            return stopping("later_entries_rest_on_it", "seq", number=number(event.seq))
    return None
