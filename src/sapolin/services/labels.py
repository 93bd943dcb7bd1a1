"""The label of a batch: what is in its bars on the last day of sale, what may be printed, and the drawing of it."""

from collections.abc import Iterator, Mapping
from datetime import date, datetime, timedelta
from functools import cache

from sapolin.core.labels.claims import ClaimFlag, check_claims
from sapolin.core.labels.design import LabelDesign, Language, Style, design_problems, shaped
from sapolin.core.labels.ingredients import (
    Allergen,
    BarOnDay,
    IngredientLine,
    allergens_of,
    ingredient_lines,
    ingredient_text,
)
from sapolin.core.labels.net_weight import NetWeight, net_weight, net_words
from sapolin.core.materials.ingredients import scents
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, diagnostic
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import listed, number, percent, weight
from sapolin.core.stock.ledger import Lot
from sapolin.data import read_json
from sapolin.exchange.label_drawing import LabelDrawing, LabelTexts, draw_label
from sapolin.exchange.label_sheet import label_sheet_pdf, ruler_sheet_pdf
from sapolin.services.label_subjects import LabelSubject, subject_of
from sapolin.store.clock import utc_now
from sapolin.store.labels import LabelKept
from sapolin.store.stores import Stores

__all__ = ["LabelView", "LanguageList", "keep_label", "label_pdf", "label_preview", "label_view", "ruler_print"]

STYLES: tuple[Style, ...] = ("soap", "poured", "inci")
DAYS_A_MONTH = 30.44


class LanguageList(Model):
    """The ingredient list in one language, as it is printed."""

    language: Language
    text: str


class LabelView(Model):
    """A label with all that follows from it."""

    batch_id: str
    code: str
    name: str
    design: LabelDesign
    revision: int
    """0 while it is not kept: it starts from the last label of the formula, or of the workshop."""
    saved_at: str | None
    """Null while it is not kept."""
    bars: int
    """Bars that are still here."""
    last_sale: date | None
    """The day that weights are calculated for; null while the batch is not poured."""
    best_before: date | None
    bar_g: float | None
    """A mean bar on that day; an estimate. Null for a paste, or while nothing is known of its bars."""
    net_ml: float | None
    """What a bottle holds, mL; null of bars, which are sold by weight."""
    net: NetWeight | None
    printed_g: float | None
    """As it is printed: what was typed, or what the rule allows."""
    lists: dict[Style, tuple[IngredientLine, ...]]
    """In the first language of the label, by style."""
    printed: tuple[LanguageList, ...]
    allergens: tuple[Allergen, ...]
    flags: tuple[ClaimFlag, ...]
    """Words of the name and the sentence of one's own that say more than washing."""
    name_flags: tuple[ClaimFlag, ...]
    diagnostics: tuple[Diagnostic, ...]
    may_print: Truth
    drawing: LabelDrawing | None
    """Null when it cannot be drawn as it was entered."""


@cache
def _fixed() -> Mapping[str, Mapping[str, str]]:
    """Fixed words of labels by language."""
    words: dict[str, dict[str, str]] = read_json("label_words")
    return words


def label_view(batch_id: str, address: str, stores: Stores) -> LabelView:
    """The label of a batch as kept, or as it begins. Raises UnknownBatchError. `address` opens the page of the batch."""
    kept = stores.labels.get(batch_id)
    made = subject_of(batch_id, stores)
    if kept is not None:
        return _view(made, kept, address, stores)
    before = stores.labels.latest(made.formula_id) or LabelDesign()
    design = before.model_copy(
        update={"name": made.name[:160], "lot_code": "", "net_g": None, "last_sale": None, "best_before": None}
    )
    if made.net_ml is not None:
        # Nobody keeps a bottle dry.
        cautions = tuple(one for one in design.cautions if one != "dry")
        design = shaped(design.model_copy(update={"cautions": cautions}), "box")
    return _view(made, LabelKept(design=design, revision=0, updated_at=""), address, stores)


def label_preview(batch_id: str, design: LabelDesign, revision: int, address: str, stores: Stores) -> LabelView:
    """A label that is not kept yet. Raises UnknownBatchError."""
    return _view(
        subject_of(batch_id, stores), LabelKept(design=design, revision=revision, updated_at=""), address, stores
    )


def keep_label(batch_id: str, design: LabelDesign, revision: int, address: str, stores: Stores) -> LabelView:
    """Keep the label of a batch. Raises UnknownBatchError, StaleRecordError."""
    made = subject_of(batch_id, stores)
    kept = stores.labels.save(batch_id, design, revision)
    return _view(made, kept, address, stores)


def label_pdf(batch_id: str, count: int, address: str, stores: Stores) -> tuple[str, bytes]:
    """The code of the batch, and its labels on sheets. Raises UnknownBatchError, or FormulaError with what is in the way."""
    view, drawing = _printable(batch_id, address, stores)
    return view.code, label_sheet_pdf(drawing, view.design.sheet, count, f"Labels {view.code}")


def ruler_print(batch_id: str, address: str, stores: Stores) -> tuple[str, bytes]:
    """The same sheet as outlines with one label and a ruler. Raises as `label_pdf` does."""
    view, drawing = _printable(batch_id, address, stores)
    words = "Print at 100 %. The ruler is 100 mm long; hold the sheet behind a sheet of labels against the light."
    return view.code, ruler_sheet_pdf(drawing, view.design.sheet, f"Test print {view.code}", words)


def _printable(batch_id: str, address: str, stores: Stores) -> tuple[LabelView, LabelDrawing]:
    view = label_view(batch_id, address, stores)
    stopping = [one for one in view.diagnostics if one.stops]
    if view.drawing is None or stopping:
        raise FormulaError(stopping or view.diagnostics)
    return view, view.drawing


def _view(made: LabelSubject, kept: LabelKept, address: str, stores: Stores) -> LabelView:
    design = kept.design
    best_before = design.best_before or _best_before(made, stores)
    last_sale = design.last_sale or best_before
    bars = None if last_sale is None else made.weight_on(last_sale)
    left = bars.left if bars is not None else made.left
    on_day = made.bar(left)
    bar_g = None if bars is None else bars.mean_g
    net = None if bars is None else net_weight(bars, design.net_rule)
    printed_g = design.net_g if design.net_g is not None else (None if net is None else float(net.printed_g))
    with made.in_force():
        declarable = {part.id: _declarable(part.id) for part in on_day.parts if part.kind == "scent"}
        sheets = {id_: lot.certificate.allergens_percent for id_, lot in made.sheets.items() if lot.certificate}
        allergens = allergens_of(on_day, sheets, declarable)
        lists = {
            style: {
                language: ingredient_lines(on_day, style, language, design.region, bar_g or on_day.total_g)
                for language in design.languages
            }
            for style in STYLES
        }
        flags = check_claims(design.claim, design.languages, made.in_the_bar)
        name_flags = check_claims(design.name, design.languages, made.in_the_bar)
    printed = tuple(
        LanguageList(
            language=language, text=ingredient_text(lists[design.style][language], allergens, design.style)
        )
        for language in design.languages
    )  # fmt: skip
    diagnostics = [*design_problems(design), *_of_batch(made, on_day, net, design)]
    diagnostics += _names_to_look_up(design, lists[design.style][design.languages[0]])
    drawing = None
    if not any(one.stops_calculation for one in diagnostics):
        drawing = draw_label(design, _texts(made, design, printed, printed_g, best_before, address))
        diagnostics += drawing.problems
    return LabelView(
        batch_id=made.id, code=made.code, name=made.name, design=design,
        revision=kept.revision, saved_at=kept.updated_at or None, bars=made.pieces, last_sale=last_sale,
        best_before=best_before, bar_g=bar_g, net=net,
        printed_g=printed_g, net_ml=made.net_ml,
        lists={style: by_language[design.languages[0]] for style, by_language in lists.items()},
        printed=printed, allergens=allergens, flags=flags, name_flags=name_flags, diagnostics=tuple(diagnostics),
        may_print=drawing is not None and not any(one.stops for one in diagnostics), drawing=drawing,
    )  # fmt: skip


def _declarable(scent: str) -> tuple[str, tuple[str, ...]]:
    row = scents()[scent]
    return row.name, row.declarable


def _best_before(made: LabelSubject, stores: Stores) -> date | None:
    """The last day of the month in which its shelf life ends; an estimate."""
    if made.made_at is None or made.shelf_months is None:
        return None
    end = stores.local(made.made_at).date() + timedelta(days=made.shelf_months * DAYS_A_MONTH)
    return end.replace(day=1) - timedelta(days=1)


def _of_batch(made: LabelSubject, on_day: BarOnDay, net: NetWeight | None, design: LabelDesign) -> Iterator[Diagnostic]:
    """What the batch itself has to say against its label."""
    if made.standing in ("unfit", "wait"):
        yield diagnostic("label_unfit", "problem")
    elif made.standing == "untested":
        yield diagnostic("label_not_fit", "warning")
    if on_day.water_g < 0:
        yield diagnostic("label_water_gone", "warning")
    for part in on_day.parts:
        if part.kind == "scent":
            yield from _of_scent(part.id, 100 * part.grams / on_day.total_g, made.sheets.get(part.id))
    # Where bars are of several sizes, the label may be for the heaviest.
    most_g = 0.0 if net is None else net.printed_g * (made.sizes_g[1] / made.sizes_g[0] if made.sizes_g else 1.0)
    if net is not None and design.net_g is not None and design.net_g > most_g:
        yield diagnostic("label_net_more", "warning", "net_g", net=weight(design.net_g, 1), most=weight(most_g, 0))
    if made.sizes_g is not None:
        least, most = made.sizes_g
        yield diagnostic("label_sizes_differ", "warning", "net_g", least=weight(least, 0), most=weight(most, 0))
    if net is not None and net.weighings == 0:
        yield diagnostic("label_not_weighed", "note")
    if not design.maker.strip() or not design.address.strip():
        yield diagnostic("label_maker_missing", "note", "address")


def _of_scent(scent: str, of_bar_percent: float, lot: Lot | None) -> Iterator[Diagnostic]:
    name = scents()[scent].name
    sheet = None if lot is None else lot.certificate
    if sheet is None:
        yield diagnostic("label_no_sheet", "warning", scent=name)
    elif sheet.most_percent is not None and of_bar_percent > sheet.most_percent:
        yield diagnostic(
            "label_over_limit", "problem", scent=name, percent=percent(of_bar_percent, 2),
            most=number(sheet.most_percent, unit="%"),
        )  # fmt: skip


def _names_to_look_up(design: LabelDesign, lines: tuple[IngredientLine, ...]) -> Iterator[Diagnostic]:
    names = [line.name for line in lines if line.is_constructed]
    if design.style == "inci" and names:
        yield diagnostic("label_constructed", "note", names=listed(names))


def _texts(
    made: LabelSubject, design: LabelDesign, printed: tuple[LanguageList, ...], printed_g: float | None,
    best_before: date | None, address: str,
) -> LabelTexts:  # fmt: skip
    """What stands on the label, put into words."""
    words = _fixed()
    code = design.lot_code.strip() or made.code

    def in_all(key: str, between: str = " / ") -> str:
        return between.join(dict.fromkeys(words[key][language] for language in design.languages))

    by_text: dict[str, list[Language]] = {}
    for one in printed:
        by_text.setdefault(one.text, []).append(one.language)
    small = [
        f"{' / '.join(dict.fromkeys(words['ingredients'][language] for language in languages))}: {text}"
        for text, languages in by_text.items()
        if text
    ]
    if design.may_contain.strip():
        small.append(f"{in_all('may_contain')} {design.may_contain.strip()}.")
    if design.cautions:
        small += [" ".join(words[one][language] for one in design.cautions) for language in design.languages]
    dated = f"{in_all('best_before')} {best_before:%m/%Y}" if best_before else ""
    about = (f"{in_all('lot')} {code}", dated)
    small.append(" · ".join(one for one in (design.maker.strip(), design.address.strip()) if one))
    small.append(" · ".join(one for one in about if one))
    small.append(design.recycling.strip())
    net = "" if printed_g is None or printed_g <= 0 else net_words(printed_g, in_ounces=design.in_ounces)
    if made.net_ml is not None:
        net = f"{made.net_ml:g} mL"
    dates = [f"made {_day(made.made_at)}", f"cut {_day(made.cut_at)}"]
    return LabelTexts(
        name=design.name.strip(), product=in_all(made.product, " · "), claim=design.claim.strip(), net=net,
        net_g=printed_g or made.net_ml or 0.0,
        small=tuple(one for one in small if one) if design.shape != "shelf" else tuple(small[:1]),
        code=code, price=design.price.strip() if design.shape == "shelf" else "",
        about=(f"{made.pieces} bars · {dates[0]}", f"{dates[1]} · printed {_day(utc_now())}"),
        qr={"": "", "batch": address, "own": design.qr_address.strip()}[design.qr],
    )  # fmt: skip


def _day(at: str | None) -> str:
    return "–" if at is None else f"{datetime.fromisoformat(at):%d %b %Y}".lstrip("0")
