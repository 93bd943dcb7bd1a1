"""The sheet of a batch: gear, what goes into the pot in grams and ounces, the order of work, and what really happened.

Before the batch is made it has room for what happens; afterwards it is the same sheet as it was made.
"""

from collections.abc import Iterator

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import Cup, PlannedBatch
from sapolin.core.batch.procedure import FIRST_AID, Step, steps_of
from sapolin.core.batch.readiness import Finding, readiness
from sapolin.core.batch.temperatures import apart_words
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.ingredients import additives
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import TemperatureUnitId, from_grams, in_spoons, temperatures_in

__all__ = ["Fact", "Sheet", "SheetRow", "SheetSection", "mould_words", "sheet_from", "sheet_in", "sheet_of"]


class SheetRow(Model):
    """One thing to weigh."""

    item: str = ""
    """As make day names it; empty for a sum."""
    name: str
    g: str
    oz: str
    note: str
    caustic: bool = False
    lot: bool = True
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
    value: str


class Sheet(Model):
    """A batch on paper."""

    title: str
    code: str
    made: bool = False
    """It tells what was made, not only what is planned."""
    forbidden: tuple[str, ...]
    """Why it must not be made as it stands; empty when it may."""
    lessons: tuple[str, ...]
    """What earlier batches noted for next time."""
    gear: tuple[str, ...]
    """To be ticked before anything is weighed."""
    before_lye: tuple[str, ...]
    """To be ticked before the lye is touched."""
    formula: str
    """Name and version."""
    temperature_unit: TemperatureUnitId = "C"
    sections: tuple[SheetSection, ...]
    facts: tuple[Fact, ...]
    """Size, lye lye concentration, temperatures, times."""
    moulds: tuple[str, ...]
    steps: tuple[Step, ...]
    findings: tuple[Finding, ...]
    safety: tuple[str, ...]
    first_aid: tuple[str, ...]
    emergency_number: str = ""
    poison_number: str = ""
    """Numbers to call where the workshop is; empty leaves room to write them."""
    happened: tuple[Fact, ...] = ()
    """What was read, timed and noted while it was made."""
    notes: tuple[str, ...]
    """Of the formula and the plan."""


def _row(
    name: str, g: str, oz: str, note: str = "", *, caustic: bool = False, lot: bool = True, item: str = ""
) -> SheetRow:  # fmt: skip
    return SheetRow(item=item, name=name, g=g, oz=oz, note=note, caustic=caustic, lot=lot)


def sheet_of(
    plan: BatchPlan, planned: PlannedBatch, code: str, next_time: tuple[str, ...] = (), base: Catalogue | None = None
) -> Sheet:
    """The sheet of a planned batch; `next_time` are the notes that earlier batches left for this formula."""
    findings, steps = readiness(plan, planned, base), steps_of(plan, planned)
    return sheet_from(plan, planned, findings, steps, code, next_time)


def sheet_from(
    plan: BatchPlan,
    planned: PlannedBatch,
    findings: tuple[Finding, ...],
    steps: tuple[Step, ...],
    code: str,
    next_time: tuple[str, ...] = (),
) -> Sheet:
    """The sheet of a batch whose findings and steps are known, such as one that has begun."""

    def checks(*ids: str) -> tuple[str, ...]:
        return tuple(check for step in steps if step.id in ids for check in step.checks)

    version = f"version {plan.version}" if plan.version else "draft"
    return Sheet(
        title=planned.formula.name,
        code=code,
        formula=f"{planned.formula.name}, {version}",
        forbidden=tuple(finding.headline for finding in findings if finding.level == "stop"),
        lessons=next_time,
        gear=checks("gear", "room"),
        before_lye=checks("protect"),
        sections=tuple(_sections(plan, planned)),
        facts=_facts(plan, planned),
        moulds=mould_words(planned),
        steps=steps,
        findings=findings,
        safety=(
            "Goggles, gloves, long sleeves and closed shoes from the first touch of lye until all is washed up.",
            "Lye into the liquid, never the reverse. No aluminium. Nobody else in the room.",
        ),
        first_aid=FIRST_AID,
        notes=tuple(note for note in (planned.formula.notes, plan.notes) if note),
    )


def _sections(plan: BatchPlan, planned: PlannedBatch) -> Iterator[SheetSection]:
    """Everything to weigh, in grams and ounces; what is set aside in cups stands with what it is taken from."""
    grams, ounces = planned.result.weighing, planned.ounces.weighing
    dg, do, lg, lo = grams.decimals, ounces.decimals, grams.lye_decimals, ounces.lye_decimals

    def cups_of(source: str) -> list[Cup]:
        return [cup for cup in planned.cups if cup.source == source]

    def less_cups(item: str, name: str, g: float, oz: float, note: str, *, lot: bool = True) -> Iterator[SheetRow]:
        """What goes into the pot or the jug, and the cups that are taken from it."""
        cups = cups_of(item)
        aside_oz = sum(round(from_grams(cup.weight_g, "oz"), do) for cup in cups)
        yield _row(
            name,
            f"{g - sum(cup.weight_g for cup in cups):,.{dg}f}",
            f"{oz - aside_oz:,.{do}f}",
            note,
            lot=lot,
            item=item,
        )
        for cup in cups:
            yield _row(f"{cup.name}, in a cup", f"{cup.weight_g:,.{dg}f}",
                       f"{round(from_grams(cup.weight_g, 'oz'), do):,.{do}f}", "set aside first", lot=False,
                       item=cup.item)  # fmt: skip

    oils = tuple(
        row
        for i, oil in enumerate(planned.result.oils)
        for row in less_cups(f"oil:{i}", oil.name, grams.oils[i], ounces.oils[i], f"{oil.share_percent:.1f} %")
    )
    oil_total = _row("Oils together", f"{grams.oils_total:,.{dg}f}", f"{ounces.oils_total:,.{do}f}", lot=False)
    yield SheetSection(title="Oils", rows=oils, total=oil_total)

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
        pure = f"{purity:g} % pure" if purity is not None else "purity?"
        if dry > 0 and solution is None:
            lye.append(_row(name, f"{dry:,.{lg}f}", f"{ounce_dry:,.{lo}f}", pure, caustic=True, item=item))
        elif solution is not None and solution > 0:
            lye.append(
                _row(f"{name} master lye, {asked.master_percent or 0.0:g} %", f"{solution:,.{lg}f}",
                     f"{ounce_solution or 0.0:,.{lo}f}", f"of {pure}", caustic=True, item=item)
            )  # fmt: skip
    if grams.water > 0:
        lye += less_cups("water", "Water, into the jug", grams.water, ounces.water, "takes the lye", lot=False)
    uses = {"dissolves_lye": "takes the lye", "into_oils": "into the oils", "at_trace": "at trace"}
    lye += [
        _row(
            liquid.name,
            f"{grams.liquids[i]:,.{dg}f}",
            f"{ounces.liquids[i]:,.{do}f}",
            uses[liquid.use],
            item=f"liquid:{i}",
        )
        for i, liquid in enumerate(planned.result.liquids)
    ]
    yield SheetSection(title="Lye and liquids", rows=tuple(lye), total=None)

    added = [
        _row(extra.name, f"{grams.additives[i]:,.{lg}f}", f"{ounces.additives[i]:,.{lo}f}",
             f"{extra.stage}{in_spoons(extra.weight_g / additives()[extra.additive].g_per_tsp)}", item=f"additive:{i}")
        for i, extra in enumerate(planned.result.additives)
    ]  # fmt: skip
    added += [
        _row(scent.name, f"{scent.weight_g:,.{lg}f}", f"{from_grams(scent.weight_g, 'oz'):,.{lo}f}",
             f"scent, {plan.choices.scent_at if plan.choices.scent_at == 'trace' else 'in the oils'}, {scent.ml:.0f} mL",
             item=f"scent:{i}")
        for i, scent in enumerate(planned.scents)
    ]  # fmt: skip
    if added:
        yield SheetSection(title="Additions", rows=tuple(added), total=None)
    colours = [
        _row(f"{portion.name}: {colour.name}", f"{colour.weight_g:,.2f}", f"{from_grams(colour.weight_g, 'oz'):,.3f}",
             ", ".join(words for words in (
                 in_spoons(colour.tsp).removeprefix(", "),
                 f"in {colour.disperse_g:.1f} g {colour.disperse_in}" if colour.disperse_g else "",
             ) if words), item=f"colour:{i}:{j}")
        for i, portion in enumerate(planned.portions)
        for j, colour in enumerate(portion.colours)
    ]  # fmt: skip
    colours += [
        _row(
            cup.name,
            f"{cup.weight_g:,.{lg}f}",
            f"{from_grams(cup.weight_g, 'oz'):,.{lo}f}",
            "set aside first",
            item=cup.item,
        )
        for cup in cups_of("glycerin")
    ]
    if colours:
        yield SheetSection(title="Colours", rows=tuple(colours), total=None)
    batter = _row(
        "All in the pot",
        f"{planned.size.batter_g:,.{dg}f}",
        f"{from_grams(planned.size.batter_g, 'oz'):,.{do}f}",
        lot=False,
    )
    yield SheetSection(title="", rows=(), total=batter)


def sheet_in(sheet: Sheet, unit: TemperatureUnitId) -> Sheet:
    """The sheet with its temperatures told in `unit`; notes stay as they were written."""

    def told(text: str) -> str:
        return temperatures_in(text, unit)

    return sheet.model_copy(update={
        "temperature_unit": unit,
        "facts": tuple(Fact(name=fact.name, value=told(fact.value)) for fact in sheet.facts),
        "happened": tuple(
            # A note stays as it was written.
            fact if fact.name == "Note" else Fact(name=fact.name, value=told(fact.value)) for fact in sheet.happened
        ),
        "steps": tuple(step.model_copy(update={"text": told(step.text)}) for step in sheet.steps),
        "findings": tuple(
            finding.model_copy(update={"headline": told(finding.headline), "remedy": told(finding.remedy)})
            for finding in sheet.findings
        ),
    })  # fmt: skip


def _facts(plan: BatchPlan, planned: PlannedBatch) -> tuple[Fact, ...]:
    result, window, peak = planned.result, planned.window, planned.lye_peak
    interval = result.lye.superfat_interval
    facts = [
        ("Superfat", f"{result.lye.superfat_total_percent:.1f} % of the whole; true {interval.low_percent:.1f} to "
         f"{interval.high_percent:.1f} %".replace("-", "−")),
        ("Lye concentration", f"{result.water.lye_concentration_percent:.1f} %, {result.water.water_to_lye:.2f} : 1"),
        ("Process", f"{plan.formula.process.method}, gel {plan.formula.process.gel}"),
        ("Temperatures", f"{window.low_c:.0f} to {window.high_c:.0f} °C, {apart_words(window.apart_c)} apart at most"),
        ("Lye peaks at", f"about {peak.low_c:.0f} to {peak.high_c:.0f} °C"),
        ("Volume", f"{planned.volume.total_ml:,.0f} mL (estimate, {planned.volume.low_ml:,.0f} to "
         f"{planned.volume.high_ml:,.0f})"),
    ]  # fmt: skip
    if result.bar is not None:
        facts.append(("Trace", f"{result.bar.trace} (estimate)"))
        facts.append(
            (
                "Unmould after",
                f"{result.bar.unmould_hours_low:.0f} to {result.bar.unmould_hours_high:.0f} h (estimate)",
            )
        )
        facts.append(("Cure", f"{result.bar.usable_weeks:.0f} weeks (estimate)"))
    return tuple(Fact(name=name, value=value) for name, value in facts)


def mould_words(planned: PlannedBatch) -> tuple[str, ...]:
    """How the batter stands in each mould, and how it is cut."""
    said = []
    for fill in planned.moulds:
        height = f", {fill.height_mm:.0f} mm high" if fill.height_mm is not None else ""
        words = f"{fill.name}: {fill.batter_g:,.0f} g, {fill.batter_ml:,.0f} mL{height}"
        if fill.cuts:
            cut = fill.cuts[0]
            words += f". {cut.label}, {cut.wet_g:.0f} g wet, about {cut.cured_g:.0f} g cured"
        said.append(words + ".")
    return tuple(said)
