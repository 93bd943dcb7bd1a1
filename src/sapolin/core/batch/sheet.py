"""The sheet of a batch: what goes into the pot in grams and ounces, the order of work, and room for what really happens."""

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.readiness import Finding, readiness
from sapolin.core.batch.steps import FIRST_AID, Step, steps_of
from sapolin.core.batch.temperatures import apart_words
from sapolin.core.catalogue import Catalogue
from sapolin.core.ingredients import additives
from sapolin.core.model import Model
from sapolin.core.units import TemperatureUnitId, from_grams, in_spoons, temperatures_in

__all__ = ["Sheet", "SheetRow", "SheetSection", "sheet_in", "sheet_of"]


class SheetRow(Model):
    """One thing to weigh."""

    name: str
    g: str
    oz: str
    note: str
    caustic: bool = False
    lot: bool = True
    """It has a lot to write down."""


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
    formula: str
    """Name and version."""
    temperature_unit: TemperatureUnitId = "C"
    sections: tuple[SheetSection, ...]
    facts: tuple[Fact, ...]
    """Size, lye strength, temperatures, times."""
    moulds: tuple[str, ...]
    steps: tuple[Step, ...]
    findings: tuple[Finding, ...]
    safety: tuple[str, ...]
    first_aid: tuple[str, ...]
    notes: tuple[str, ...]
    """Of the formula and the plan, and for next time."""


def _row(name: str, g: str, oz: str, note: str = "", *, caustic: bool = False, lot: bool = True) -> SheetRow:
    return SheetRow(name=name, g=g, oz=oz, note=note, caustic=caustic, lot=lot)


def sheet_of(
    plan: BatchPlan, planned: PlannedBatch, code: str, next_time: tuple[str, ...] = (), base: Catalogue | None = None
) -> Sheet:
    """The sheet of a planned batch; `next_time` are the notes that earlier batches left for this formula."""
    grams, ounces = planned.figures.weighing, planned.ounces.weighing
    dg, do, lg, lo = grams.decimals, ounces.decimals, grams.lye_decimals, ounces.lye_decimals
    oils = tuple(
        _row(oil.name, f"{grams.oils[i]:,.{dg}f}", f"{ounces.oils[i]:,.{do}f}", f"{oil.share_percent:.1f} %")
        for i, oil in enumerate(planned.figures.oils)
    )
    oil_total = _row("Oils together", f"{grams.oils_total:,.{dg}f}", f"{ounces.oils_total:,.{do}f}", lot=False)
    lye = []
    for name, dry, ounce_dry, solution, ounce_solution in (
        ("NaOH", grams.naoh, ounces.naoh, grams.naoh_solution, ounces.naoh_solution),
        ("KOH", grams.koh, ounces.koh, grams.koh_solution, ounces.koh_solution),
    ):
        if dry > 0 and solution is None:
            lye.append(_row(name, f"{dry:,.{lg}f}", f"{ounce_dry:,.{lo}f}", "caustic", caustic=True))
        elif solution is not None and solution > 0:
            strength = planned.formula.lye.master_percent or 0.0
            lye.append(
                _row(f"{name} master lye, {strength:g} %", f"{solution:,.{lg}f}", f"{ounce_solution or 0.0:,.{lo}f}",
                     "caustic", caustic=True)
            )  # fmt: skip
    if grams.water > 0:
        lye.append(_row("Water", f"{grams.water:,.{dg}f}", f"{ounces.water:,.{do}f}", lot=False))
    uses = {"dissolves_lye": "takes the lye", "into_oils": "into the oils", "at_trace": "at trace"}
    lye += [
        _row(liquid.name, f"{grams.liquids[i]:,.{dg}f}", f"{ounces.liquids[i]:,.{do}f}", uses[liquid.use])
        for i, liquid in enumerate(planned.figures.liquids)
    ]
    added = [
        _row(extra.name, f"{grams.additives[i]:,.{lg}f}", f"{ounces.additives[i]:,.{lo}f}",
             f"{extra.stage}{in_spoons(extra.weight_g / additives()[extra.additive].g_per_tsp)}")
        for i, extra in enumerate(planned.figures.additives)
    ]  # fmt: skip
    added += [
        _row(scent.name, f"{scent.weight_g:,.{lg}f}", f"{from_grams(scent.weight_g, 'oz'):,.{lo}f}",
             f"scent, {plan.choices.scent_at if plan.choices.scent_at == 'trace' else 'in the oils'}, {scent.ml:.0f} mL")
        for scent in planned.scents
    ]  # fmt: skip
    colours = [
        _row(f"{portion.name}: {colour.name}", f"{colour.weight_g:,.2f}", f"{from_grams(colour.weight_g, 'oz'):,.3f}",
             ", ".join(words for words in (
                 in_spoons(colour.tsp).removeprefix(", "),
                 f"in {colour.disperse_g:.1f} g {colour.disperse_in}" if colour.disperse_g else "",
             ) if words))
        for portion in planned.portions
        for colour in portion.colours
    ]  # fmt: skip
    batter = _row(
        "All in the pot",
        f"{planned.size.batter_g:,.{dg}f}",
        f"{from_grams(planned.size.batter_g, 'oz'):,.{do}f}",
        lot=False,
    )
    sections = [
        SheetSection(title="Oils", rows=oils, total=oil_total),
        SheetSection(title="Lye and liquids", rows=tuple(lye), total=None),
    ]
    if added:
        sections.append(SheetSection(title="Additions", rows=tuple(added), total=None))
    if colours:
        sections.append(SheetSection(title="Colours", rows=tuple(colours), total=None))
    sections.append(SheetSection(title="", rows=(), total=batter))
    version = f"version {plan.version}" if plan.version else "draft"
    return Sheet(
        title=planned.formula.name,
        code=code,
        formula=f"{planned.formula.name}, {version}",
        sections=tuple(sections),
        facts=_facts(plan, planned),
        moulds=_moulds(planned),
        steps=steps_of(plan, planned),
        findings=readiness(plan, planned, base),
        safety=(
            "Goggles, gloves, long sleeves and closed shoes from the first touch of lye until all is washed up.",
            "Lye into the liquid, never the reverse. No aluminium. Nobody else in the room.",
        ),
        first_aid=FIRST_AID,
        notes=tuple(note for note in (planned.formula.notes, plan.notes) if note)
        + tuple(f"Next time: {note}" for note in next_time),
    )


def sheet_in(sheet: Sheet, unit: TemperatureUnitId) -> Sheet:
    """The sheet with its temperatures told in `unit`; notes stay as they were written."""

    def told(text: str) -> str:
        return temperatures_in(text, unit)

    return sheet.model_copy(update={
        "temperature_unit": unit,
        "facts": tuple(Fact(name=fact.name, value=told(fact.value)) for fact in sheet.facts),
        "steps": tuple(step.model_copy(update={"text": told(step.text)}) for step in sheet.steps),
        "findings": tuple(
            finding.model_copy(update={"headline": told(finding.headline), "remedy": told(finding.remedy)})
            for finding in sheet.findings
        ),
    })  # fmt: skip


def _facts(plan: BatchPlan, planned: PlannedBatch) -> tuple[Fact, ...]:
    figures, window, peak = planned.figures, planned.window, planned.lye_peak
    interval = figures.lye.superfat_interval
    facts = [
        ("Superfat", f"{figures.lye.superfat_total_percent:.1f} % of the whole; true {interval.low_percent:.1f} to "
         f"{interval.high_percent:.1f} %".replace("-", "−")),
        ("Lye strength", f"{figures.water.lye_concentration_percent:.1f} %, {figures.water.water_to_lye:.2f} : 1"),
        ("Process", f"{plan.formula.process.method}, gel {plan.formula.process.gel}"),
        ("Temperatures", f"{window.low_c:.0f} to {window.high_c:.0f} °C, {apart_words(window.apart_c)} apart at most"),
        ("Lye peaks at", f"about {peak.low_c:.0f} to {peak.high_c:.0f} °C"),
        ("Volume", f"{planned.volume.total_ml:,.0f} mL (estimate, {planned.volume.low_ml:,.0f} to "
         f"{planned.volume.high_ml:,.0f})"),
    ]  # fmt: skip
    if figures.bar is not None:
        facts.append(("Trace", f"{figures.bar.trace} (estimate)"))
        facts.append(
            (
                "Unmould after",
                f"{figures.bar.unmould_hours_low:.0f} to {figures.bar.unmould_hours_high:.0f} h (estimate)",
            )
        )
        facts.append(("Cure", f"{figures.bar.usable_weeks:.0f} weeks (estimate)"))
    return tuple(Fact(name=name, value=value) for name, value in facts)


def _moulds(planned: PlannedBatch) -> tuple[str, ...]:
    said = []
    for fill in planned.moulds:
        height = f", {fill.height_mm:.0f} mm high" if fill.height_mm is not None else ""
        words = f"{fill.name}: {fill.batter_g:,.0f} g, {fill.batter_ml:,.0f} mL{height}"
        if fill.cuts:
            cut = fill.cuts[0]
            words += f". {cut.label}, {cut.wet_g:.0f} g wet, about {cut.cured_g:.0f} g cured"
        said.append(words + ".")
    return tuple(said)
