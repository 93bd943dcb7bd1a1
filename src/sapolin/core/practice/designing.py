"""Exercises at the table: what a swap does, how much oil a mould takes, and which recipe is not safe."""

from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.qualities import qualities
from sapolin.core.batch.moulds import Mould, Slab, capacity_ml
from sapolin.core.batch.plan import BatchPlan, MouldUse
from sapolin.core.batch.planned import plan_batch
from sapolin.core.formula.document import Formula, OilLine
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.practice.exercise import BLENDS, Dice, Exercise, Made, Option, practice_formula
from sapolin.core.quantities.model import given
from sapolin.core.quantities.text import Text, number, percent, template, text, weight

__all__ = ["mould", "swap", "unsafe"]

SWAPS = (
    ("palm", "palm", "coconut"), ("palm", "palm", "shea"), ("palm", "palm", "olive-refined"), ("palm", "palm", "lard"),
    ("body", "cocoa", "olive-refined"), ("body", "shea", "coconut"), ("lard", "lard", "olive-refined"),
    ("sunflower", "tallow-beef", "coconut"), ("sunflower", "sunflower-high-oleic", "soybean"), ("palm", "coconut", "babassu"),
)  # fmt: skip
MOVED = 2.5
"""Points from which a quality is said to move."""
BARELY, CLEARLY = 1.0, 4.0
ASKED_QUALITIES = ("hardness", "cleansing", "conditioning", "open_lather", "dense_lather", "oxidation_load")


def _moves(points: float) -> str:
    return "up" if points > MOVED else "down" if points < -MOVED else "same"


def swap(seed: int) -> Made:
    """An oil of a bar in the place of another: which way does a quality go?"""
    dice = Dice("swap", seed)
    blend, out, into = SWAPS[dice.between(0, len(SWAPS) - 1)]
    before = practice_formula(blend)
    share = next(given(line.value) for line in before.blend.lines if line.oil == out)
    shares: dict[str, float] = {}
    for line in before.blend.lines:
        oil = into if line.oil == out else line.oil
        shares[oil] = shares.get(oil, 0.0) + given(line.value)
    lines = tuple(OilLine(oil=oil, by="percent_of_oils", value=value) for oil, value in shares.items())
    after = before.model_copy(update={"blend": before.blend.model_copy(update={"lines": lines})})
    was, now = ({one.quality: one.points for one in calculate(formula).qualities} for formula in (before, after))
    # Nobody is asked what only the second decimal decides.
    clear = [one for one in ASKED_QUALITIES if not BARELY < abs(now[one] - was[one]) < CLEARLY]
    quality = dice.one_of(clear)
    moved = now[quality] - was[quality]
    oils, name = catalogue(), qualities()[quality].name
    lye_was, lye_now = (calculate(formula).lye.naoh_g for formula in (before, after))
    return Made(
        exercise=Exercise(
            kind="swap", seed=seed, title=template("practice.swap.title"),
            question=text("practice.swap.question", quality=name.lower()),
            given=(
                ("; ".join(f"{oils[line.oil].name} {line.value:g} %" for line in before.blend.lines),),
                text("practice.swap.swapped", share=percent(share), out=oils[out].name.lower(), into=oils[into].name.lower()),
            ),
            answered_by="choice",
            options=tuple(Option(id=one, label=text(f"practice.swap.options.{one}")) for one in ("up", "same", "down")),
        ),
        option=_moves(moved), number=None, tolerance=0.0,
        answer=text(f"practice.swap.answers.{_moves(moved)}", quality=name, was=number(was[quality], 1),
                    now=number(now[quality], 1)),
        why=(
            (qualities()[quality].meaning,),
            text("practice.swap.lye", was=weight(lye_was), now=weight(lye_now)),
        ),
    )  # fmt: skip


def mould(seed: int) -> Made:
    """How much oil fills a loaf: its volume, less headroom, over what a gram of oil becomes as batter."""
    dice = Dice("mould", seed)
    length, width, height = dice.between(200, 400, 10), dice.between(60, 100, 5), dice.between(60, 90, 5)
    headroom = dice.one_of(("0", "5", "10", "15"))
    shape = Mould(name="Loaf", shape=Slab(kind="loaf", length_mm=length, width_mm=width, height_mm=height))
    use = MouldUse(mould=shape, headroom_mm=float(headroom))
    planned = plan_batch(BatchPlan(formula=practice_formula(dice.one_of(tuple(BLENDS))), moulds=(use,)))
    oils_g, ml = planned.size.oils_g, capacity_ml(shape, float(headroom))
    per_gram = planned.volume.total_ml / oils_g
    return Made(
        exercise=Exercise(
            kind="mould", seed=seed, title=template("practice.mould.title"), question=text("practice.mould.question"),
            given=(
                text("practice.mould.box", length=number(length), width=number(width), height=number(height, unit="mm"),
                     headroom=number(float(headroom), unit="mm")),
                text("practice.mould.lye", concentration=percent(planned.result.water.lye_concentration_percent, 0)),
            ),
            answered_by="number", unit="g",
        ),
        option=None, number=oils_g, tolerance=0.07 * oils_g, answer=text("practice.mould.answer", oils=weight(oils_g, 0)),
        why=(
            text("practice.mould.why_1", volume=number(ml, 0, "mL")),
            text("practice.mould.why_2", per_gram=number(per_gram, 2, "mL"), oils=weight(oils_g, 0)),
            text("practice.mould.why_3"),
        ),
    )  # fmt: skip


def unsafe(seed: int) -> Made:
    """Four recipes as they stand on paper: one holds more lye than its oils can take."""
    dice = Dice("unsafe", seed)
    names = ("a", "b", "c", "d")
    wrong = dice.one_of(names)
    blends = [*BLENDS]
    given, whys = [], []
    for i, name in enumerate(names):
        oils_g = float(dice.between(500, 1100, 50))
        formula = practice_formula(blends[i], oils_g, superfat_percent=float(dice.between(3, 8)))
        if name == wrong:
            formula = formula.model_copy(update={"superfat_percent": 0.0})
        result = calculate(formula)
        # A slip of the hand: a tenth to a quarter more lye than any of it can take.
        naoh_g = result.lye.naoh_g * (1 + dice.between(10, 25) / 100) if name == wrong else result.lye.naoh_g
        superfat = 100 * (1 - naoh_g * 0.99 / result.lye.naoh_full_g)
        given.append(_recipe(name, formula, oils_g, naoh_g, result.water.water_g))
        whys.append(text("practice.unsafe.superfat", name=name.upper(), superfat=percent(superfat, 1)))
    return Made(
        exercise=Exercise(
            kind="unsafe", seed=seed, title=template("practice.unsafe.title"), question=text("practice.unsafe.question"),
            given=tuple(given), answered_by="choice",
            options=tuple(Option(id=name, label=text("practice.unsafe.option", name=name.upper())) for name in names),
        ),
        option=wrong, number=None, tolerance=0.0, answer=text("practice.unsafe.option", name=wrong.upper()),
        why=(*whys, text("practice.unsafe.why")),
    )  # fmt: skip


def _recipe(name: str, formula: Formula, oils_g: float, naoh_g: float, water_g: float) -> Text:
    oils = catalogue()
    weights = ((oils[line.oil].name.lower(), oils_g * given(line.value) / 100) for line in formula.blend.lines)
    listed = "; ".join(f"{oil} {grams:.0f} g" for oil, grams in weights)
    return text("practice.unsafe.recipe", name=name.upper(), oils=listed, naoh=weight(naoh_g), water=weight(water_g, 0))
