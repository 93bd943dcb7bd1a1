"""An exercise on a record: which cause does it speak for?"""

from sapolin.core.faults import BatchRecordFacts, evidence_of, rank
from sapolin.core.practice.exercise import Dice, Exercise, Made, Option
from sapolin.core.quantities.text import template, text

__all__ = ["fault"]

SOUND = BatchRecordFacts(
    lye_concentration_percent=33, superfat_low_percent=2, superfat_percent=5, oxidation_load=8, hardness=42, cleansing=15,
    open_lather=22, oleic_percent=40, long_saturated_percent=25, hardly_dissolves=False, free_acid_percent=0, sugar_percent=0,
    salt_percent=0, has_titanium_dioxide=False, has_powders=False, has_humectant=False, has_milk=False, milk_chilled=False,
    has_scent=True, has_colour=True, gel="full", room_c=20, cover="insulate", alcohol_spray=True, mixing="stick_blender",
    combined_oils_c=40, melts_at_c=35, trace="medium", scent_hurries=False, scent_fades=False, oils_g=1000, wash_water="soft",
    age_days=60, unmould_hours=24, unmould_low_h=18,
)  # fmt: skip
"""A record in which nothing is unusual."""
CASES: tuple[tuple[str, dict[str, object], tuple[str, ...]], ...] = (
    ("ash", {"lye_concentration_percent": 27.0, "cover": "insulate"}, ("wet",)),
    ("ash", {"cover": "cover", "lye_concentration_percent": 36.0}, ("open_cover",)),
    ("pockets", {"combined_oils_c": 29.0}, ("cold_fat",)),
    ("separation", {"trace": "emulsion"}, ("thin",)),
    ("crumble", {"lye_concentration_percent": 40.0, "hardness": 44.0}, ("dry",)),
    ("crumble", {"hardness": 52.0, "unmould_hours": 70.0}, ("late_out", "hard")),
    ("rivers", {"has_titanium_dioxide": True, "lye_concentration_percent": 33.0}, ("titanium",)),
    ("spots", {"oxidation_load": 21.0}, ("turns_early",)),
    ("seized", {"scent_hurries": True}, ("scent_hurries",)),
    ("gel_ring", {"gel": "partial"}, ("partial_gel",)),
    ("sticky", {"hardness": 26.0, "unmould_hours": 30.0}, ("soft",)),
    ("little_lather", {"open_lather": 9.0}, ("low_lather",)),
    ("cracks", {"sugar_percent": 3.0, "cover": "insulate"}, ("much_sugar",)),
    ("zaps", {"superfat_low_percent": -2.0, "superfat_percent": 1.0}, ("lye_heavy",)),
)
"""A symptom, what is different in the record, and the evidence that shows it."""
OPTIONS = 4


def fault(seed: int) -> Made:
    """What the record of a made-up batch says of a fault in it."""
    dice = Dice("fault", seed)
    symptom, changed, shown = CASES[dice.between(0, len(CASES) - 1)]
    facts = SOUND.model_copy(update=changed)
    ranking, evidence = rank(symptom, facts), evidence_of(facts)
    neutral = [evidence[one].words for one in ("cool_room", "some_sugar", "lye_heavy", "unsprayed") if one not in shown]
    first = ranking.causes[0]
    options = [Option(id=one.cause, label=(one.name,)) for one in ranking.causes[:OPTIONS]]
    return Made(
        exercise=Exercise(
            kind="fault", seed=seed, title=template("practice.fault.title"),
            question=text("practice.fault.question", looks=ranking.symptom.looks),
            given=(*(evidence[one].words for one in shown), *neutral), answered_by="choice", options=dice.shuffled(options),
        ),
        option=first.cause, number=None, tolerance=0.0, answer=(first.name,),
        why=(*(reason.words for reason in first.reasons if reason.ratio > 1), first.next_time),
    )  # fmt: skip
