"""What the rows of a table from elsewhere are: formulas, lots, batches made before; or why they cannot be read.

What is not sure is never guessed: a row that cannot be read says why and is left out, and all the rest of its formula with it.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, date, datetime
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field, ValidationError

from sapolin.core.batch.plan import SizeBy
from sapolin.core.formula.recipe import RecipeOil, formula_of_recipe
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, diagnostic
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.numbers_written import CannotReadError, Decimal, read_number
from sapolin.core.quantities.text import digits, number
from sapolin.core.stock.ledger import Lot, lot_problem
from sapolin.core.stock.matching import density_of, match_name
from sapolin.core.stock.packs import pack_g, read_pack
from sapolin.exchange.sheets import SheetTable
from sapolin.services.batches import plan_of, prepared
from sapolin.services.materials_named import name_of, own_names
from sapolin.store.formulas import FormulaRecord
from sapolin.store.imports import ImportKind
from sapolin.store.stores import Stores

__all__ = ["FIELDS", "NEEDED", "ImportItem", "PastBatch", "ReadItem", "TableMapping", "guess_fields", "items_of",
           "plan_of_past"]  # fmt: skip

Header = Annotated[str, Field(max_length=120)]
FIELDS: dict[ImportKind, dict[str, tuple[str, ...]]] = {
    "formulas": {
        "formula": ("formula", "recipe", "rezept", "recette", "receta", "name"),
        "oil": ("oil", "öl", "fat", "huile", "aceite", "ingredient", "zutat"),
        "amount": ("amount", "weight", "menge", "gramm", "percent", "share", "anteil", "quantité", "cantidad", "%", "g"),
        "superfat": ("superfat", "überfett", "surgras", "sobreengras"),
    },
    "stock": {
        "code": ("code", "lot", "charge", "lote"), "material": ("material", "name", "oil", "artikel", "article", "rohstoff"),
        "amount": ("amount", "weight", "menge", "quantity", "gewicht"), "price": ("price", "preis", "prix", "cost", "paid"),
        "arrived": ("arrived", "date", "datum", "bought", "received", "eingang"),
        "best_before": ("best before", "expiry", "mhd", "haltbar", "expires", "ddm"), "supplier": ("supplier", "lieferant"),
        "purity": ("purity", "reinheit", "pureté", "pureza"),
    },
    "batches": {
        "formula": ("formula", "recipe", "rezept", "name"), "made": ("made", "date", "datum", "poured"),
        "oils": ("oils", "öle", "oil weight", "huiles", "aceites"), "code": ("code", "batch", "charge", "lot"),
        "bars": ("bars", "stück", "pieces", "cut"), "note": ("note", "notiz", "comment"),
    },
}  # fmt: skip
NEEDED: dict[ImportKind, tuple[str, ...]] = {
    "formulas": ("formula", "oil", "amount"), "stock": ("code", "material", "amount"), "batches": ("formula", "made", "oils"),
}  # fmt: skip
MOST_ITEMS = 2000
DAY = re.compile(r"(\d{4})-(\d{1,2})-(\d{1,2})|(\d{1,2})([./-])(\d{1,2})[./-](\d{4})")


class TableMapping(Model):
    """How a table is to be read."""

    fields: dict[Annotated[str, Field(max_length=20)], Header] = Field(default={}, max_length=12)
    """Heading of the column that holds each."""
    decimal: Decimal = ""
    unit: Annotated[str, Field(max_length=10)] = ""
    """Of an amount that is a bare number: g, kg, oz, lb, %; empty asks."""
    day_first: Literal["", "day", "month"] = ""
    """How 3/4/2026 is meant; empty asks."""


class ImportItem(Model):
    """One formula, lot or batch of a table."""

    line: int
    """Where it begins, in the file."""
    title: str
    about: str
    problem: Diagnostic | None
    """Why it is left out."""


class ReadItem(NamedTuple):
    """An item as it was read, with what makes it."""

    item: ImportItem
    content: Any


def guess_fields(kind: ImportKind, headers: Sequence[str]) -> dict[str, str]:
    """Which column holds what, by its heading; only what is likely."""
    found: dict[str, str] = {}
    for field, signs in FIELDS[kind].items():
        whole = [one for one in headers if one.lower() in signs]
        part = [one for one in headers if any(len(sign) > 1 and sign in one.lower() for sign in signs)]
        for header in (*whole, *part):
            if header not in found.values():
                found[field] = header
                break
    return found


def items_of(
    kind: ImportKind, table: SheetTable, mapping: TableMapping, stores: Stores
) -> tuple[list[ReadItem], tuple[Diagnostic, ...]]:
    """Everything in a table, and what is wrong with it as a whole."""
    place = {header: i for i, header in reversed([*enumerate(table.headers)])}
    at = {field: place[header] for field, header in mapping.fields.items() if header in place}
    missing = [one for one in NEEDED[kind] if one not in at]
    if missing:
        return [], tuple(
            diagnostic("column_missing", "problem", f"fields.{one}", stops="calculation", field=one) for one in missing
        )
    rows = [
        (line, {field: cells[i].strip() if i < len(cells) else "" for field, i in at.items()})
        for line, cells in table.rows
    ]
    readers = {"formulas": _formulas, "stock": _lots, "batches": _batches}
    found = [*readers[kind](rows, mapping, stores)]
    if len(found) > MOST_ITEMS:
        return [], (diagnostic("too_many_rows", "problem", "", stops="calculation", most=number(MOST_ITEMS)),)
    return found, ()


Row = tuple[int, Mapping[str, str]]


def _left_out(line: int, title: str, code: str, about: str = "", **params: Any) -> ReadItem:
    problem = diagnostic(f"import_{code}", "warning", "", **params)
    return ReadItem(ImportItem(line=line, title=title or "-", about=about, problem=problem), None)


def _formulas(rows: Sequence[Row], mapping: TableMapping, stores: Stores) -> Iterator[ReadItem]:
    """Rows of the same name are one formula; a row without a name belongs to the one above it."""
    own, groups = own_names(stores), dict[str, list[Row]]()
    name = ""
    for line, row in rows:
        name = row["formula"] or name
        if row["oil"] or row["amount"]:
            groups.setdefault(name, []).append((line, row))
    for name, lines in groups.items():
        first = lines[0][0]
        if not name:
            yield _left_out(first, "", "no_name")
            continue
        try:
            oils = [_oil(row, mapping, own) for _, row in lines]
            written = next((row["superfat"] for _, row in lines if row.get("superfat")), "")
            superfat = read_number(written, mapping.decimal) if written else None
        except _NotReadError as error:
            yield _left_out(first, name, error.code, written=error.written, name=error.written)
            continue
        except CannotReadError:
            yield _left_out(first, name, "no_amount", written="superfat")
            continue
        if len({one.unit for one in oils}) > 1:
            yield _left_out(first, name, "two_units")
            continue
        formula = formula_of_recipe(name[:120], oils, superfat)
        about = ", ".join(catalogue()[one.oil].name if one.oil in catalogue() else own[one.oil] for one in oils[:5])
        yield ReadItem(ImportItem(line=first, title=name, about=about, problem=None), formula)


class _NotReadError(ValueError):
    def __init__(self, code: str, written: str) -> None:
        super().__init__(code)
        self.code, self.written = code, written or "-"


def _oil(row: Mapping[str, str], mapping: TableMapping, own: Mapping[str, str]) -> RecipeOil:
    material = match_name(row["oil"], own).material
    if material is None or not (material in catalogue() or material in own):
        raise _NotReadError("unknown_oil", row["oil"])
    written = row["amount"]
    try:
        if "%" in written or (mapping.unit == "%" and not re.search(r"[a-zA-Z]", written)):
            return RecipeOil(oil=material, amount=read_number(written, mapping.decimal), unit="percent")
        held = read_pack(written, mapping.decimal, mapping.unit.replace("%", ""))
        grams = pack_g(held, density_of(material))
        if grams is None or held.unit == "piece":
            raise _NotReadError("no_amount", written)
        return RecipeOil(oil=material, amount=grams, unit="g")
    except (CannotReadError, ValidationError) as error:
        raise _NotReadError("no_amount", written) from error


def _lots(rows: Sequence[Row], mapping: TableMapping, stores: Stores) -> Iterator[ReadItem]:
    own, today = own_names(stores), datetime.now(UTC).date()
    codes = stores.stock.codes()
    for line, row in rows:
        title = f"{row['code']} {row['material']}".strip()
        material = match_name(row["material"], own).material
        named = None if material is None else name_of(material, own)
        if material is None or named is None:
            yield _left_out(line, title, "unknown_material", name=row["material"] or "-")
            continue
        try:
            held = read_pack(row["amount"], mapping.decimal, mapping.unit)
            grams = pack_g(held, density_of(material))
            if grams is None:
                raise CannotReadError("no_density")
            lot = Lot.model_validate({
                "code": row["code"], "material": material, "kind": named[1], "amount_g": grams,
                "price": read_number(row["price"], mapping.decimal) if row.get("price") else None,
                "arrived": _day(row.get("arrived", ""), mapping) or today,
                "best_before": _day(row.get("best_before", ""), mapping),
                "purity_percent": read_number(row["purity"], mapping.decimal) if row.get("purity") else None,
                "supplier": row.get("supplier", "")[:80],
            })  # fmt: skip
        except CannotReadError:
            yield _left_out(line, title, "no_amount", written=row["amount"] or "-")
            continue
        except _NotReadError as error:
            yield _left_out(line, title, error.code, written=error.written)
            continue
        except ValidationError:
            yield _left_out(line, title, "no_code")
            continue
        problem = lot_problem(lot, codes, today)
        about = f"{named[0]}, {digits(lot.amount_g, 0)} g, {lot.arrived:%d %b %Y}"
        codes.append(lot.code)
        yield ReadItem(ImportItem(line=line, title=lot.code, about=about, problem=problem), lot)


class PastBatch(NamedTuple):
    """A batch that was made before."""

    formula: FormulaRecord
    made: date
    oils_g: float
    code: str
    bars: int
    note: str


def _batches(rows: Sequence[Row], mapping: TableMapping, stores: Stores) -> Iterator[ReadItem]:
    kept = {record.formula.name.casefold(): record for record in stores.formulas.find()}
    today = datetime.now(UTC).date()
    codes = stores.batches.codes()
    for line, row in rows:
        title = f"{row.get('code', '')} {row['formula']}".strip()
        record = kept.get(row["formula"].casefold())
        if record is None:
            yield _left_out(line, title, "unknown_formula", name=row["formula"] or "-")
            continue
        code = row.get("code", "")
        if code and (code.casefold() in codes or len(code) > 20):
            yield _left_out(line, title, "code_taken", written=code)
            continue
        try:
            held = read_pack(row["oils"], mapping.decimal, mapping.unit.replace("%", "") or "g")
            made = _day(row["made"], mapping)
            bars = round(read_number(row["bars"])) if row.get("bars") else 0
        except CannotReadError:
            yield _left_out(line, title, "no_amount", written=row["oils"] or "-")
            continue
        except _NotReadError as error:
            yield _left_out(line, title, error.code, written=error.written)
            continue
        if made is None or made > today or held.unit != "g":
            yield _left_out(line, title, "no_day" if held.unit == "g" else "no_amount", written=row["made"] or "-")
            continue
        past = PastBatch(record, made, held.amount, code, bars, row.get("note", "")[:2000])
        try:
            prepared(plan_of_past(past, stores))
        except (FormulaError, ValidationError):
            yield _left_out(line, title, "not_calculable", name=record.formula.name)
            continue
        codes.add(code.casefold())
        about = f"{digits(held.amount, 0)} g of oils, {made:%d %b %Y}" + (f", {bars} bars" if bars else "")
        yield ReadItem(ImportItem(line=line, title=title, about=about, problem=None), past)


def plan_of_past(past: PastBatch, stores: Stores) -> Any:
    """The plan that such a batch was made by."""
    plan = plan_of(past.formula, stores.batches)
    return plan.model_copy(
        update={"size": SizeBy(by="oils_g", value=past.oils_g), "moulds": (), "scents": (), "portions": ()}
    )


def _day(written: str, mapping: TableMapping) -> date | None:
    """A day, whichever way it is written; null for nothing. Raises _NotReadError where it could be either of two."""
    if not written.strip():
        return None
    found = DAY.search(written)
    if found is None:
        raise _NotReadError("no_day", written)
    try:
        if found[1]:
            return date(int(found[1]), int(found[2]), int(found[3]))
        one, other = int(found[4]), int(found[6])
        day_first = mapping.day_first == "day" or found[5] == "."
        if not mapping.day_first and found[5] != "." and one <= 12 and other <= 12 and one != other:
            raise _NotReadError("ambiguous_day", written)
        if not day_first and (mapping.day_first == "month" or one <= 12):
            one, other = other, one
        return date(int(found[7]), other, one)
    except ValueError as error:
        if isinstance(error, _NotReadError):
            raise
        raise _NotReadError("no_day", written) from error
