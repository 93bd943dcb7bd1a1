"""A supplier's price list, read row by row: what each row sells, how much of it and for what, or why it cannot be read."""

import re
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.diagnostics import Diagnostic, diagnostic
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.numbers_written import CannotReadError, Decimal, read_number
from sapolin.core.quantities.text import number
from sapolin.core.stock.buying import Offered
from sapolin.core.stock.matching import density_of, match_name
from sapolin.core.stock.packs import pack_g, read_pack

__all__ = [
    "FIELDS",
    "Columns",
    "ListRead",
    "ListRow",
    "PriceList",
    "guess_columns",
    "guess_priced_by",
    "offers_of",
    "price_doubts",
    "read_list",
]

FieldName = Literal["name", "pack", "unit", "price", "step", "code"]
FIELDS: tuple[FieldName, ...] = ("name", "pack", "unit", "price", "step", "code")
_SIGNS: dict[FieldName, tuple[str, ...]] = {
    "name": ("name", "article", "artikel", "product", "produkt", "description", "bezeichnung", "désignation", "produit",
             "item", "artículo", "producto", "libellé", "ware"),
    "pack": ("pack", "size", "content", "inhalt", "gebinde", "menge", "quantity", "quantité", "contenance", "conditionnement",
             "cantidad", "envase", "packaging", "weight", "gewicht", "poids", "peso"),
    "unit": ("unit", "einheit", "unité", "unidad", "uom"),
    "price": ("price", "preis", "prix", "precio", "cost", "eur", "chf", "usd", "gbp"),
    "step": ("step", "multiple", "min", "mindestmenge", "ve"),
    "code": ("sku", "code", "number", "nummer", "artikelnr", "ref", "réf", "référence", "referencia"),
}  # fmt: skip
PricedBy = Literal["pack", "kg", "g", "l", "lb", "oz", "gal", "piece"]
_PER: dict[str, tuple[str, float]] = {"kg": ("g", 1000.0), "g": ("g", 1.0), "lb": ("g", 453.59237), "oz": ("g", 28.349523125),
                                      "l": ("ml", 1000.0), "gal": ("ml", 3785.411784), "piece": ("piece", 1.0)}  # fmt: skip
_UNIT_OF: dict[str, PricedBy] = {
    "kg": "kg", "kilo": "kg", "g": "g", "l": "l", "liter": "l", "litre": "l", "litro": "l", "lb": "lb", "pound": "lb",
    "oz": "oz", "ounce": "oz", "gal": "gal", "gallon": "gal", "stück": "piece", "piece": "piece", "pc": "piece",
    "pièce": "piece",
}  # fmt: skip
_PER_UNIT = re.compile(
    rf"(?:/|\b(?:per|pro|par|por|je|au|a|al|the)\b)\s*({'|'.join(sorted(_UNIT_OF, key=len, reverse=True))})\b"
)
FAR_OFF = 4.0
"""A price per kg so many times off what the material cost before is asked about: it may be for a pack."""
Header = Annotated[str, Field(max_length=120)]


class Columns(Model):
    """How a list is to be read; remembered with its supplier."""

    fields: dict[FieldName, Header] = Field(default={})
    """Heading of the column that holds each; what is left out the list does not say."""
    decimal: Decimal = ""
    priced_by: PricedBy = "pack"
    """What the price is for."""
    pack_unit: Annotated[str, Field(max_length=10)] = ""
    """Unit of a pack that is a bare number, where no column says it."""
    chosen: dict[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=80)]] = Field(
        default={}, max_length=5000
    )
    """Material by the name the list calls it, where the maker chose; an empty one leaves the row out."""


class ListRow(Model):
    """A row as it was read."""

    line: int
    """In the file, from 1."""
    name: str
    pack: str
    price: str
    material: str | None
    """Null while it is not known which is meant."""
    suggestions: tuple[str, ...]
    left_out: Truth
    """The maker does not buy it."""
    pack_g: float | None
    pack_price: float | None
    per_kg: float | None
    step: int
    problem: Diagnostic | None


class ListRead(Model):
    """A list as it was read."""

    rows: tuple[ListRow, ...]
    usable: int
    """Rows that can be bought from."""
    unmatched: int
    """Rows whose material has to be chosen."""
    unreadable: int
    problems: tuple[Diagnostic, ...]
    """What is wrong with the list as a whole."""
    doubts: tuple[Diagnostic, ...] = ()
    """What is asked about it before it is kept."""


class PriceList(Model):
    """A list as it is kept: whose it is, how it is read, and what it offers."""

    supplier: Annotated[str, Field(min_length=1, max_length=80)]
    freight: Annotated[FiniteNumber, Field(ge=0, le=100_000)] = 0.0
    free_from: Annotated[FiniteNumber, Field(ge=0, le=1_000_000)] | None = None
    least_order: Annotated[FiniteNumber, Field(ge=0, le=1_000_000)] = 0.0
    columns: Columns = Columns()
    offers: Annotated[tuple[Offered, ...], Field(max_length=20_000)] = ()
    file_name: Annotated[str, Field(max_length=200)] = ""


def guess_columns(headers: Sequence[str]) -> dict[FieldName, str]:
    """Which column holds what, by its heading; only what is likely.

    >>> guess_columns(["Art.-Nr.", "Bezeichnung", "Gebinde", "Preis EUR"])
    {'name': 'Bezeichnung', 'pack': 'Gebinde', 'price': 'Preis EUR'}
    """
    found: dict[FieldName, str] = {}
    for field in FIELDS:
        for header in headers:
            words = header.lower()
            if header not in found.values() and any(sign in words for sign in _SIGNS[field]):
                found[field] = header
                break
    return found


def guess_priced_by(heading: str) -> PricedBy:
    """What a price is for, by the heading it stands under; a pack where that does not say.

    >>> [guess_priced_by(one) for one in ("EUR/kg", "Preis pro kg", "Prix au litre", "Price per lb", "Price")]
    ['kg', 'kg', 'l', 'lb', 'pack']
    """
    found = _PER_UNIT.search(heading.lower())
    return "pack" if found is None else _UNIT_OF[found[1]]


def price_doubts(read: ListRead, known_per_kg: Mapping[str, float]) -> tuple[Diagnostic, ...]:
    """What is to be asked of prices that lie many times off what the material cost before: is each for a pack, or for a kg?"""
    off = [
        (row.name, row.per_kg, known_per_kg[row.material])
        for row in read.rows
        if row.material is not None and row.per_kg is not None and known_per_kg.get(row.material, 0.0) > 0
    ]
    off = [one for one in off if not 1 / FAR_OFF < one[1] / one[2] < FAR_OFF]
    if not off:
        return ()
    name, now, before = off[0]
    return (
        diagnostic(
            "prices_far_off", "warning", "priced_by", rows=number(len(off)), name=name, now=number(now, 2),
            before=number(before, 2),
        ),
    )  # fmt: skip


def read_list(
    headers: Sequence[str], rows: Sequence[tuple[int, Sequence[str]]], columns: Columns, own: Mapping[str, str]
) -> ListRead:
    """Read `rows` (their line in the file, and their cells) by `columns`. `own` are names of own materials by id."""
    place = {header: i for i, header in reversed([*enumerate(headers)])}
    at = {field: place[header] for field, header in columns.fields.items() if header in place}
    problems = [
        diagnostic("column_missing", "problem", f"fields.{field}", stops="calculation", field=field)
        for field in ("name", "price")
        if field not in at
    ]
    if "pack" not in at and columns.priced_by == "pack" and "name" not in at:
        problems.append(diagnostic("column_missing", "problem", "fields.pack", stops="calculation", field="pack"))
    if problems:
        return ListRead(rows=(), usable=0, unmatched=0, unreadable=0, problems=tuple(problems))
    read: list[ListRow] = []
    first: dict[tuple[str, float | None], ListRow] = {}
    for line, cells in rows:
        row = _row(line, cells, at, columns, own)
        if row.problem is None and row.material and not row.left_out:
            key = (row.name.casefold(), row.pack_g)
            before = first.setdefault(key, row)
            if before is not row:
                code = "row_repeats" if before.pack_price == row.pack_price else "row_contradicts"
                row = row.model_copy(
                    update={"problem": diagnostic(code, "warning", "", line=number(before.line), name=row.name)}
                )
        read.append(row)
    return ListRead(
        rows=tuple(read), usable=sum(_is_usable(row) for row in read),
        unmatched=sum(row.material is None and not row.left_out and row.problem is None for row in read),
        unreadable=sum(row.problem is not None for row in read), problems=(),
    )  # fmt: skip


def _is_usable(row: ListRow) -> bool:
    return bool(row.material) and not row.left_out and row.problem is None and row.pack_g is not None


def offers_of(read: ListRead, supplier: str) -> tuple[Offered, ...]:
    """What a list that was read offers."""
    return tuple(
        Offered(
            supplier=supplier, material=row.material or "", name=row.name, pack_g=row.pack_g or 0.0,
            price=row.pack_price or 0.0, step=row.step,
        )
        for row in read.rows
        if _is_usable(row)
    )  # fmt: skip


def _row(
    line: int, cells: Sequence[str], at: Mapping[FieldName, int], columns: Columns, own: Mapping[str, str]
) -> ListRow:
    def cell(field: FieldName) -> str:
        i = at.get(field)
        return "" if i is None or i >= len(cells) else cells[i].strip()

    name, price = cell("name"), cell("price")
    pack = cell("pack")
    chosen = columns.chosen.get(name)
    matched = match_name(name, own)
    material = (chosen or None) if chosen is not None else matched.material
    row = ListRow(
        line=line, name=name, pack=pack, price=price, material=material, suggestions=matched.suggestions,
        left_out=chosen == "", pack_g=None, pack_price=None, per_kg=None, step=1, problem=None,
    )  # fmt: skip
    if not name:
        return row.model_copy(update={"problem": diagnostic("row_without_name", "note", "name")})
    if row.left_out:
        return row
    try:
        return row.model_copy(update=_amounts(row, cell("unit"), cell("step"), columns))
    except CannotReadError as error:
        field = "price" if error.args[0].startswith("price") else "pack"
        written = price if field == "price" else pack or name
        code = error.code.removeprefix("price_")
        return row.model_copy(
            update={"problem": diagnostic(f"row_{field}_{code}", "warning", field, written=written or "-", name=name)}
        )


def _amounts(row: ListRow, unit: str, step: str, columns: Columns) -> dict[str, object]:
    """What a pack holds and costs. Raises CannotReadError."""
    try:
        price = read_number(row.price, columns.decimal)
        if price <= 0:
            raise CannotReadError("not_positive")
    except CannotReadError as error:
        raise CannotReadError(f"price_{error.code}") from error
    # A pack that no column tells of may stand in the name: "Olive oil 5 kg".
    held = read_pack(row.pack or row.name, columns.decimal, unit or columns.pack_unit)
    if not row.material:
        # What it weighs, and what a kg costs, hangs on what it is.
        return {"pack_price": round(price, 4) if columns.priced_by == "pack" else None}
    density = density_of(row.material)
    if columns.priced_by != "pack":
        per_unit, amount = _PER[columns.priced_by]
        of_unit = held.amount if held.unit == per_unit else _turned(held.amount, held.unit, per_unit, density)
        price *= of_unit / amount
    grams = pack_g(held, density)
    if grams is None:
        raise CannotReadError("no_density")
    try:
        steps = round(read_number(step)) if step else 1
    except CannotReadError:
        steps = 1
    return {
        "pack_g": grams, "pack_price": round(price, 4), "per_kg": 1000 * price / grams,
        "step": min(max(steps, 1), 10_000),
    }  # fmt: skip


def _turned(amount: float, unit: str, to: str, density: float | None) -> float:
    """An amount in another unit, by density. Raises CannotReadError."""
    if density is None or "piece" in (unit, to):
        raise CannotReadError("no_density")
    return amount * density if unit == "ml" else amount / density
