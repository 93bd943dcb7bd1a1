# ruff: noqa: E501
"""What the rooms beyond formula, bar and batch say, for the texts that these tests hold them to."""

from collections.abc import Iterator, Mapping
from datetime import date
from itertools import product
from typing import Any

from pydantic import BaseModel

from core.batches import MILK, plan
from core.strategies import weight_formula
from core.test_faults import CASES, USUAL
from core.test_judging import sheets as judged
from core.test_labels import SHEETS, composition, scent
from core.test_preparations import KEEPS, ON_HAND
from core.test_verdict import setup, verdict
from sapolin.core.batch.additions import PortionWeights
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.cure.drying import BarWeight
from sapolin.core.cure.learning import Observed
from sapolin.core.cure.learning import learned as learned_of
from sapolin.core.cure.unmould import Firmness, Press, unmould_forecast, unmould_observed
from sapolin.core.faults import rank
from sapolin.core.labels.claims import check_claims, in_the_bar
from sapolin.core.labels.design import LANGUAGES, Language, NetRule, Region, Style
from sapolin.core.labels.ingredients import allergens_of, bar_on_day, ingredient_lines, ingredient_text
from sapolin.core.labels.net_weight import net_weight
from sapolin.core.materials.ingredients import scents
from sapolin.core.practice import KINDS, Answered, exercise, grade
from sapolin.core.preparations import (
    DilutionPlan,
    MasterBlendPlan,
    MasterLyePlan,
    Preparation,
    RebatchPlan,
    prepare_preparation,
)
from sapolin.core.preparations.dilution import dilute
from sapolin.core.quantities.text import Grams, Number, Temperature, TemperatureDifference, plain
from sapolin.core.stock.keeping import keeps_until
from sapolin.core.stock.needs import material_of, needs_of
from sapolin.core.trials.comparison import drawn
from sapolin.core.trials.judging import learned_quality

__all__ = [
    "bench_lines",
    "dilution_lines",
    "fault_lines",
    "label_lines",
    "lines_of",
    "practice_lines",
    "preparation_lines",
    "shelf_lines",
]


PARTS_OF_TEXTS = (str, Grams, Number, Temperature, TemperatureDifference)


def lines_of(value: Any, at: str = "") -> Iterator[str]:
    """Everything that stands in `value`, entry by entry, each line with its place; numbers to six digits."""
    if value is None or value is False or value in ("", (), {}):
        return
    if isinstance(value, BaseModel):
        value = {name: getattr(value, name) for name in type(value).model_fields}
    if isinstance(value, Mapping):
        for name, one in value.items():
            yield from lines_of(one, f"{at}.{name}" if at else str(name))
    elif isinstance(value, tuple | list) and all(isinstance(one, str) for one in value):
        yield f"{at}: {' | '.join(one for one in value if one != ' ')}"
    elif isinstance(value, tuple) and all(isinstance(one, PARTS_OF_TEXTS) for one in value):
        yield f"{at}: {plain(value)}"
    elif isinstance(value, tuple | list):
        for i, one in enumerate(value):
            yield from lines_of(one, f"{at}[{i}]")
    else:
        yield f"{at}: {value:.6g}" if isinstance(value, float) else f"{at}: {value}"


def fault_lines() -> Iterator[str]:
    for case in CASES:
        found = rank(case["symptom"], USUAL.model_copy(update=case["record"]), case["answers"])
        yield f"== {case['told']} {found.symptom.name}: {plain(found.now)} Something else {found.other_percent:.4f} %"
        for cause in found.causes[:3]:
            yield f"{cause.name} {cause.percent:.4f} % (before {cause.prior_percent:.4f}): {plain(cause.next_time)}"
            yield from (f"    {reason.ratio:.4g} {plain(reason.words)}" for reason in cause.reasons)


def practice_lines() -> Iterator[str]:
    for kind in KINDS:
        for seed in range(16):
            made = exercise(kind, seed)
            yield f"== {kind} {seed}: {plain(made.question)}"
            yield from (f"    {plain(line)}" for line in made.given)
            yield from (f"    {one.id}: {plain(one.label)}" for one in made.options)
            graded = grade(kind, seed, Answered())
            yield f"    answer: {plain(graded.answer)}"
            yield from (f"    because {plain(line)}" for line in graded.why)


PREPARATIONS: dict[str, Preparation] = {
    "hand wash of two pastes": DilutionPlan.model_validate({
        "name": "Hand wash", "pastes": [{"batch_id": "1", "share_percent": 70}, {"batch_id": "2", "share_percent": 30}],
        "soap_percent": 22, "bottles": 8, "bottle_ml": 250, "preservative": KEEPS, "brine_percent": 1.5,
        "scents": [{"scent": "lavender", "percent": 0.5, "limit_percent": 2.0}], "wash_water": "hard",
    }),
    "foamer from what there is": DilutionPlan.model_validate({
        "name": "Foam", "pastes": [{"batch_id": "2", "share_percent": 100}], "soap_percent": 12, "size_by": "paste_g",
        "paste_g": 700, "bottle_ml": 200, "style": "foamer",
    }),
    "ends melted with milk": RebatchPlan(name="Ends", soap_g=730, age_days=5, liquid="milk"),
    "zapping soap": RebatchPlan(name="Zap", soap_g=1250, liquid_percent=12, is_lye_heavy=True),
    "half lye": MasterLyePlan(name="Lye", lye_g=420, purity_percent=98.5),
    "potash": MasterLyePlan(name="Potash", lye="koh", lye_g=1400, purity_percent=90, concentration_percent=40, room_c=8),
    "base": MasterBlendPlan.model_validate({
        "name": "Base", "total_g": 7300, "parts": [
            {"oil": "olive-refined", "share_percent": 42.5}, {"oil": "coconut", "share_percent": 27.5},
            {"oil": "palm", "share_percent": 25}, {"oil": "beeswax", "share_percent": 5},
        ],
    }),
}  # fmt: skip


def preparation_lines() -> Iterator[str]:
    for name, asked in PREPARATIONS.items():
        yield f"== {name}"
        yield from lines_of(prepare_preparation(asked, ON_HAND))


DILUTED = {"olive": (("1", 100.0),), "coconut": (("2", 100.0),), "both": (("1", 65.0), ("2", 35.0))}
AROUND_IT: tuple[dict[str, Any], ...] = (
    {}, {"style": "thick"}, {"style": "foamer"}, {"style": "thick", "brine_percent": 2.0}, {"wash_water": "hard", "preservative": None},
    {"scents": [{"scent": "lavender", "percent": 1.5, "limit_percent": 3.0}], "preservative": {**KEEPS, "rate_percent": 0.3}},
    {"preservative": {"preservative": "phenoxyethanol-glycol", "rate_percent": 1.0, "ph_low": 3, "ph_high": 7}},
)  # fmt: skip


def dilution_lines() -> Iterator[str]:
    """Pastes thinned to every share of soap, in every style."""
    told: set[str] = set()
    for (name, shares), soap, around in product(DILUTED.items(), (8.0, 15.0, 22.0, 45.0), AROUND_IT):
        pastes = [{"batch_id": paste, "share_percent": share} for paste, share in shares]
        entries = {"preservative": KEEPS, "bottles": 6, "bottle_ml": 250} | around
        made = dilute(
            DilutionPlan.model_validate({"name": "Wash", "pastes": pastes, "soap_percent": soap} | entries), ON_HAND
        )
        water = ", ".join(f"{stage.weight_g:.2f} g" for stage in made.water)
        yield f"== {name} at {soap:g} %, {around}: {made.product_g:.2f} g, pastes {[round(one.weight_g, 2) for one in made.pastes]}, water {water}"
        yield f"{made.thickness.thickness} from {made.thickness.thick_from_percent:.2f} %, salt thickens {made.thickness.salt_thickens}, {made.preservative_g:.3f} g, {made.brine_g:.2f} g"
        for one in made.diagnostics:
            words = " | ".join(plain(said) for said in (one.message, one.reason, one.remedy) if said)
            yield f"{one.severity} {one.code}" if words in told else f"{one.severity} {one.code}: {words}"
            told.add(words)


REDS = PortionWeights.model_validate({
    "name": "all", "share_percent": 100, "batter_g": 700, "batter_ml": 700, "hue_degrees": None,
    "colours": [{"colorant": "oxide-red", "name": "Red", "weight_g": 3, "tsp": 1, "disperse_in": "glycerin", "disperse_g": 5}],
})  # fmt: skip
BARS = {
    "guest": weight_formula({"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}),
    "milk, honey and two lyes": weight_formula(
        {"olive-virgin": 400.0, "lard": 300.0, "almond-sweet": 200.0, "beeswax": 20.0}, superfat=6.0,
        lye={"naoh_purity_percent": 98.0, "koh": {"by": "saponification_percent", "value": 10.0, "purity_percent": 90.0}},
        liquids=[{"liquid": "goat-milk", "use": "dissolves_lye", "by": "weight_g", "value": 120.0}],
        additives=[
            {"additive": "honey", "by": "percent_of_oils", "value": 2.0},
            {"additive": "citric-acid", "by": "percent_of_oils", "value": 1.0, "compensated": True},
            {"additive": "salt", "by": "percent_of_oils", "value": 3.0},
        ],
    ),
}  # fmt: skip
ON_SALE = {"left": 0.87, "bar_g": 96.0}
CLAIMS = {
    "en": "A vegan, palm-free, unscented, nut-free bar that heals dry skin, organic, with SPF 30.",
    "de": "Vegane Bio-Seife ohne Palmöl, heilt trockene Haut.", "fr": "Savon végane, sans huile de palme, soigne la peau.",
    "es": "Jabón vegano sin aceite de palma, cura la piel.",
}  # fmt: skip


def label_lines() -> Iterator[str]:
    declarable = {id_: (scents()[id_].name, scents()[id_].declarable) for id_ in ("lavender", "spruce-needle")}
    styles: tuple[Style, ...] = ("poured", "soap", "inci")
    regions: tuple[Region, ...] = ("europe", "north_america")
    for name, formula in BARS.items():
        made = composition(formula)
        bar = bar_on_day(made, (scent("lavender", 14.0), scent("spruce-needle", 0.4)), (REDS,), ON_SALE["left"])
        yield f"== {name}: {bar.total_g:.6g} g of {bar.poured_g:.6g} g poured, water {bar.water_g:.6g} g"
        allergens = allergens_of(bar, SHEETS, declarable)
        yield from (line for one in allergens for line in lines_of(one, one.name))
        for style in styles:
            lines = ingredient_lines(bar, style, "en", "europe", ON_SALE["bar_g"])
            for one in lines:
                share = f"{one.percent:.5g} % {one.grams:.5g} g"
                yield f"{style}: {one.name} {share} {one.is_colour} {one.is_constructed} {plain(one.why)}"
            for language in LANGUAGES:
                for region in regions:
                    written = ingredient_lines(bar, style, language, region, ON_SALE["bar_g"])
                    yield f"{style} {language} {region}: {ingredient_text(written, allergens, style)}"
        held = in_the_bar(made, ("lavender",), ("oxide-red",))
        for spoken, words in CLAIMS.items():
            language_: Language = spoken  # type: ignore[assignment]
            for flag in check_claims(words, [language_], held):
                yield f"{spoken} {flag.words}: {flag.verdict}. {plain(flag.reason)} {flag.instead}"
    rules: tuple[NetRule, ...] = ("minimum", "average")
    for rule in rules:
        for mean_g, spread, mean_spread in ((48.0, 0.0347, 0.013), (98.7, 0.0512, 0.021), (260.0, 0.0226, 0.0)):
            weighed = BarWeight(mean_g=mean_g, mean_spread=mean_spread, bar_spread=spread, left=0.9, weighings=4)
            yield from lines_of(net_weight(weighed, rule), f"{mean_g:g} g")


PRESSES: tuple[tuple[tuple[float, Firmness], ...], ...] = (
    ((10, "tacky"),), ((20, "soft"), (26, "firm")), ((40, "brittle"),), ((12, "soft"), (16, "soft"), (23, "firm")),
)  # fmt: skip
COMPARED = (
    (setup(2, 8), (0, 0, 1, 0, 0, None, 0, 0)), (setup(2, 6), (0, 1, 0, 1, None, 1)), (setup(2, 12), (1,) * 11 + (0,)),
    (setup(3, 9, 3), (0, 0, 1, 0, 2, 0, 0, 1, 0)), (setup(4, 12, 2), (None,) * 12),
)  # fmt: skip


def bench_lines() -> Iterator[str]:
    """What bars and batches that were made say: pressing a loaf, blind choices, sheets, and what they teach."""
    for presses in PRESSES:
        told = [Press(hours=hours, firmness=firmness) for hours, firmness in presses]
        yield f"== pressed {presses}"
        yield from lines_of(unmould_forecast(18, 30, told))
        yield from lines_of(unmould_observed(18, 30, told), "taught")
    for asked, choices in COMPARED:
        comparison = drawn(asked, 7)
        likely = [
            choice if choice is None or choice in comparison.rounds[i].bars else comparison.rounds[i].bars[0]
            for i, choice in enumerate(choices)
        ]
        yield f"== chosen {likely}"
        yield ", ".join(f"{one.tester} {one.bars} {one.codes}" for one in comparison.rounds)
        yield from lines_of(verdict(comparison, likely))
    batches = [
        [judged(6.0 + i, count=2), judged(-2.0 + 2 * i, tester="Ilmo", weeks=12.0), judged(4.0, predicted=28.0)]
        for i in range(5)
    ]
    for count in (1, 3, 5):
        learned = learned_quality("open_lather", batches[:count])
        yield f"== open lather, {count} batches"
        yield from lines_of(learned)
        yield f"expected of 20: {learned.expected(20.0)[0]:.6g} ± {learned.expected(20.0)[1]:.6g}"
    for count in (1, 2, 6):
        seen = [Observed(offset=0.2 + 0.1 * i, sd=0.1 + 0.05 * i) for i in range(count)]
        yield from lines_of(learned_of(seen, 0.35), f"time of {count}")


def shelf_lines() -> Iterator[str]:
    """What a batch takes from the shelf, and how long it keeps there."""
    for load in (3.0, 14.0, 40.0, 90.0):
        for opened in (None, date(2026, 6, 1)):
            for helped in (False, True):
                until = keeps_until(date(2026, 1, 1), load, opened, has_antioxidant=helped)
                yield f"load {load:g}, opened {opened}, antioxidant {helped}: until {until}"
    formula = {
        "lye": {"naoh_purity_percent": 99.0, "master_percent": 50.0}, "liquids": [MILK | {"use": "at_trace", "value": 30.0}],
        "additives": [{"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 2.0}],
    }  # fmt: skip
    colours = [{"colorant": "mica-blue", "value": 1.0, "disperse_in": "oil"}, {"colorant": "oxide-red", "value": 0.5}]
    planned = plan_batch(plan(
        formula, scents=[{"scent": "lavender", "percent_of_oils": 2.0, "limit_percent": 3.0}], brought=("castor",),
        portions=[{"name": "blue", "share_percent": 40.0, "colours": colours}, {"name": "plain", "share_percent": 60.0}],
    ))  # fmt: skip
    yield from lines_of(needs_of(planned), "needs")
    for target in weigh_targets(planned):
        taken = material_of(target.item, planned)
        yield f"{target.item} {target.name}: {target.target_g:.6g} g of {taken}"
