"""The sheet of a batch: gear, what goes in in grams and ounces, the order of work, and what really happened.

Before the batch is made it has room for what happens; afterwards it is the same sheet with the actual values.
"""

from collections.abc import Iterator

from sapolin.core.batch.additions import Cup
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import Step, first_aid, steps_of
from sapolin.core.batch.readiness import forbidden, readiness
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.ingredients import additives
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.model import Model, Truth, given
from sapolin.core.quantities.text import (
    Param,
    Temperature,
    Text,
    digits,
    number,
    percent,
    plain,
    template,
    text,
    weight,
)
from sapolin.core.quantities.units import from_grams, in_spoons

__all__ = ["Fact", "Sheet", "SheetRow", "SheetSection", "fact", "mould_words", "sheet_from", "sheet_of"]


class SheetRow(Model):
    """One thing to weigh."""

    item: str = ""
    """As make day names it; empty for a sum."""
    name: str
    g: str
    oz: str
    note: str
    caustic: Truth = False
    lot: Truth = True
    """It has a lot to write down."""
    weighed_g: str = ""
    """What was really weighed; empty until it is."""


class SheetSection(Model):
    """Things weighed together, with their sum where it means something."""

    title: str
    rows: tuple[SheetRow, ...]
    total: SheetRow | None


class Fact(Model):
    """A name and what it is."""

    name: str
    value: Text


class Sheet(Model):
    """A batch on paper."""

    title: str
    code: str
    made: Truth = False
    """It says what was made, not only what is planned."""
    forbidden: tuple[Text, ...]
    """Why it must not be made as it stands; empty when it may."""
    lessons: tuple[str, ...]
    """What earlier batches noted for next time."""
    gear: tuple[str, ...]
    """To be ticked before anything is weighed."""
    before_lye: tuple[str, ...]
    """To be ticked before the lye is touched."""
    formula: str
    """Name and version."""
    sections: tuple[SheetSection, ...]
    facts: tuple[Fact, ...]
    """Size, lye concentration, temperatures, times."""
    moulds: tuple[Text, ...]
    steps: tuple[Step, ...]
    diagnostics: tuple[Diagnostic, ...]
    safety: tuple[str, ...]
    first_aid: tuple[str, ...]
    emergency_number: str = ""
    poison_number: str = ""
    """Numbers to call where the workshop is; empty leaves room to write them."""
    happened: tuple[Fact, ...] = ()
    """What was read, timed and noted while it was made."""
    notes: tuple[str, ...]
    """Of the formula and the plan."""


def _said(code: str, **params: Param) -> str:
    """Words of the sheet from the catalogue of messages, weights in grams."""
    return plain(text(f"sheet.{code}", **params))


def _row(
    name: str, g: str, oz: str, note: str = "", *, caustic: bool = False, lot: bool = True, item: str = ""
) -> SheetRow:  # fmt: skip
    return SheetRow(item=item, name=name, g=g, oz=oz, note=note, caustic=caustic, lot=lot)


def sheet_of(
    plan: BatchPlan, planned: PlannedBatch, code: str, next_time: tuple[str, ...] = (), base: Catalogue | None = None
) -> Sheet:
    """The sheet of a planned batch; `next_time` are the notes that earlier batches left for this formula."""
    return sheet_from(plan, planned, readiness(plan, planned, base), steps_of(plan, planned), code, next_time)


def sheet_from(
    plan: BatchPlan,
    planned: PlannedBatch,
    diagnostics: tuple[Diagnostic, ...],
    steps: tuple[Step, ...],
    code: str,
    next_time: tuple[str, ...] = (),
) -> Sheet:
    """The sheet of a batch whose diagnostics and steps are known, such as one that has begun."""

    def checks(*ids: str) -> tuple[str, ...]:
        return tuple(check for step in steps if step.id in ids for check in step.checks)

    version = template("sheet.version").format(number=plan.version) if plan.version else template("sheet.draft")
    return Sheet(
        title=planned.formula.name,
        code=code,
        formula=f"{planned.formula.name}, {version}",
        forbidden=tuple(one.message for one in forbidden(diagnostics)),
        lessons=next_time,
        gear=checks("gear", "room"),
        before_lye=checks("protect"),
        sections=tuple(_sections(plan, planned)),
        facts=_facts(plan, planned),
        moulds=mould_words(planned),
        steps=steps,
        diagnostics=diagnostics,
        safety=(template("sheet.gear"), template("sheet.lye_into_liquid")),
        first_aid=first_aid(),
        notes=tuple(note for note in (planned.formula.notes, plan.notes) if note),
    )


def _sections(plan: BatchPlan, planned: PlannedBatch) -> Iterator[SheetSection]:
    """Everything to weigh, in grams and ounces; what is set aside in cups stands with what it is taken from."""
    grams, ounces = planned.result.weights, planned.ounces
    dg, do, lg, lo = grams.decimals, ounces.decimals, grams.lye_decimals, ounces.lye_decimals

    def cups_of(source: str) -> list[Cup]:
        return [cup for cup in planned.cups if cup.source == source]

    def less_cups(item: str, name: str, g: float, oz: float, note: str, *, lot: bool = True) -> Iterator[SheetRow]:
        """What is weighed, and the cups that are taken from it."""
        cups = cups_of(item)
        aside_oz = sum(round(from_grams(cup.weight_g, "oz"), do) for cup in cups)
        yield _row(
            name,
            digits(g - sum(cup.weight_g for cup in cups), dg),
            digits(oz - aside_oz, do),
            note,
            lot=lot,
            item=item,
        )
        for cup in cups:
            yield _row(_said("cup", name=cup.name), digits(cup.weight_g, dg),
                       digits(round(from_grams(cup.weight_g, 'oz'), do), do), _said("set_aside"), lot=False,
                       item=cup.item)  # fmt: skip

    oils = tuple(
        row
        for i, oil in enumerate(planned.result.oils)
        if oil.weight_g > 0
        for row in less_cups(f"oil:{i}", oil.name, grams.oils[i], ounces.oils[i], f"{oil.share_percent:.1f} %")
    )
    oil_total = _row(_said("oils_together"), digits(grams.oils_total, dg), digits(ounces.oils_total, do), lot=False)
    yield SheetSection(title=_said("oils"), rows=oils, total=oil_total)

    lye, asked = [], planned.formula.lye
    koh_purity = None if asked.koh is None else asked.koh.purity_percent
    for item, name, purity, dry, ounce_dry, solution, ounce_solution in (
        (
            "lye:naoh",
            "NaOH",
            asked.naoh_purity_percent,
            grams.naoh,
            ounces.naoh,
            grams.naoh_solution,
            ounces.naoh_solution,
        ),
        ("lye:koh", "KOH", koh_purity, grams.koh, ounces.koh, grams.koh_solution, ounces.koh_solution),
    ):
        pure = _said("no_purity") if purity is None else _said("pure", purity=number(purity))
        if dry > 0 and solution is None:
            lye.append(_row(name, digits(dry, lg), digits(ounce_dry, lo), pure, caustic=True, item=item))
        elif solution is not None and solution > 0:
            lye.append(
                _row(_said("master", lye=name, share=number(given(asked.master_percent))), digits(solution, lg),
                     digits(given(ounce_solution), lo), _said("of_pure", pure=pure), caustic=True, item=item)
            )  # fmt: skip
    if grams.water > 0:
        lye += less_cups("water", _said("water"), grams.water, ounces.water, _said("takes_lye"), lot=False)
    uses = {"dissolves_lye": "takes_lye", "into_oils": "into_oils", "at_trace": "at_trace"}
    lye += [
        _row(
            liquid.name,
            digits(grams.liquids[i], dg),
            digits(ounces.liquids[i], do),
            _said(uses[liquid.use]),
            item=f"liquid:{i}",
        )
        for i, liquid in enumerate(planned.result.liquids)
        if liquid.weight_g > 0
    ]
    yield SheetSection(title=_said("lye_and_liquids"), rows=tuple(lye), total=None)

    added = [
        _row(extra.name, digits(grams.additives[i], lg), digits(ounces.additives[i], lo),
             f"{extra.stage}{in_spoons(extra.weight_g / additives()[extra.additive].g_per_tsp)}", item=f"additive:{i}")
        for i, extra in enumerate(planned.result.additives)
        if extra.weight_g > 0
    ]  # fmt: skip
    added += [
        _row(scent.name, digits(scent.weight_g, lg), digits(from_grams(scent.weight_g, 'oz'), lo),
             _said("scent", when=_said(f"when_{plan.choices.scent_at}"), volume=number(scent.ml, 0)),
             item=f"scent:{i}")
        for i, scent in enumerate(planned.scents)
        if scent.weight_g > 0
    ]  # fmt: skip
    if added:
        yield SheetSection(title=_said("additions"), rows=tuple(added), total=None)
    colours = [
        _row(_said("colour", portion=portion.name, colour=colour.name), digits(colour.weight_g, 2),
             digits(from_grams(colour.weight_g, 'oz'), 3),
             ", ".join(words for words in (
                 in_spoons(colour.tsp).removeprefix(", "),
                 _said("in_carrier", grams=weight(colour.disperse_g), carrier=colour.disperse_in) if colour.disperse_g else "",
             ) if words), item=f"colour:{i}:{j}")
        for i, portion in enumerate(planned.portions)
        for j, colour in enumerate(portion.colours)
        if colour.weight_g > 0
    ]  # fmt: skip
    colours += [
        _row(
            cup.name,
            digits(cup.weight_g, lg),
            digits(from_grams(cup.weight_g, "oz"), lo),
            _said("set_aside"),
            item=cup.item,
        )
        for cup in cups_of("glycerin")
    ]
    if colours:
        yield SheetSection(title=_said("colours"), rows=tuple(colours), total=None)
    batter = _row(
        _said("everything"),
        digits(planned.size.batter_g, dg),
        digits(from_grams(planned.size.batter_g, "oz"), do),
        lot=False,
    )
    yield SheetSection(title="", rows=(), total=batter)


def fact(code: str, says: str = "value", **params: Param) -> Fact:
    """A fact of the sheet: its name, and what it `says`, from the catalogue of messages."""
    return Fact(name=template(f"facts.{code}.name"), value=text(f"facts.{code}.{says}", **params))


def _facts(plan: BatchPlan, planned: PlannedBatch) -> tuple[Fact, ...]:
    result, window, peak, volume = planned.result, planned.window, planned.lye_peak, planned.volume
    interval = result.lye.superfat_interval
    facts = [
        fact(
            "superfat", superfat=percent(result.lye.superfat_total_percent, 1), low=number(interval.low_percent, 1),
            high=percent(interval.high_percent, 1),
        ),
        fact(
            "lye_concentration", concentration=percent(result.water.lye_concentration_percent, 1),
            ratio=number(result.water.water_to_lye, 2),
        ),
        fact("process", method=plan.formula.process.method, gel=plan.formula.process.gel),
        fact("temperatures", range=window.range, apart=window.apart),
        fact("lye_peak", peak=Temperature(c=peak.low_c, to_c=peak.high_c)),
        fact(
            "volume", volume=number(volume.total_ml, 0, "mL"), low=number(volume.low_ml, 0),
            high=number(volume.high_ml, 0, "mL"),
        ),
    ]  # fmt: skip
    if result.bar is not None:
        low, high = number(result.bar.unmould_hours_low, 0), number(result.bar.unmould_hours_high, 0, "h")
        facts.append(fact("trace", pace=result.bar.trace))
        facts.append(fact("unmould", low=low, high=high))
        facts.append(fact("cure", weeks=number(result.bar.usable_weeks, 0)))
        facts.append(_glycerol(planned))
    if planned.gel is not None:
        gel = planned.gel
        middle, start = Temperature(c=gel.middle_low_c, to_c=gel.middle_high_c), Temperature(c=gel.gels_from_c)
        facts.append(fact("gel", gel.outcome, middle=middle, start=start))
    return tuple(facts)


def _glycerol(planned: PlannedBatch) -> Fact:
    """What stays in the soap, and in each bar where it is cut."""
    grams = planned.result.glycerol_g
    bars = sum(fill.cuts[0].bars for fill in planned.moulds if fill.cuts)
    if bars == 0:
        return fact("glycerol", grams=weight(grams, 0))
    return fact("glycerol", "each", grams=weight(grams, 0), each=weight(grams / bars))


def mould_words(planned: PlannedBatch) -> tuple[Text, ...]:
    """How the batter stands in each mould, and how it is cut."""
    said = []
    for fill in planned.moulds:
        words = text(
            "moulds.fill", name=fill.name, grams=weight(fill.batter_g, 0), volume=number(fill.batter_ml, 0, "mL")
        )
        if fill.height_mm is not None:
            words = (*words, *text("moulds.height", height=number(fill.height_mm, 0, "mm")))
        if fill.cuts:
            cut = fill.cuts[0]
            wet, cured = weight(cut.wet_g, 0), weight(cut.cured_g, 0)
            words = (*words, ". ", *cut.label, *text("moulds.cut", wet=wet, cured=cured))
        said.append((*words, "."))
    return tuple(said)
