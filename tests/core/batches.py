"""Plans for the tests of batches: a loaf of a sound formula, with whatever is asked for on top."""

from typing import Any

from hypothesis import strategies as st

from core.strategies import laden_formulas, weight_formula
from sapolin.core.batch.moulds import Mould, Slab
from sapolin.core.batch.plan import BatchPlan, Cut, MouldUse
from sapolin.core.batch.planned import PlannedBatch, plan_batch
from sapolin.core.batch.procedure import Step, steps_of
from sapolin.core.formula.document import Process
from sapolin.core.materials.ingredients import colorants, scents
from sapolin.core.production.events import RecordedEvent, begin
from sapolin.core.production.lots import planned_purities
from sapolin.core.production.state import RunState, state_of
from sapolin.core.production.weighing import WeighingNow, weighing_now

GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}
MILK = {"liquid": "goat-milk", "use": "dissolves_lye", "by": "percent_of_water", "value": 60.0}


def loaf(headroom_mm: float | None = 5.0, bar_mm: float | None = 25.0, **cut: float | None) -> MouldUse:
    return MouldUse(
        mould=Mould(name="Loaf", shape=Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70)),
        headroom_mm=headroom_mm,
        cut=None if bar_mm is None else Cut(bar_mm=bar_mm, **cut),
    )


def plan(formula: dict[str, Any] | None = None, **changes: Any) -> BatchPlan:
    """A guest bar in one loaf, with `changes` to its plan and to its `formula`."""
    entries = {"formula": weight_formula(GUEST, **(formula or {})), "moulds": (loaf(),)} | changes
    return BatchPlan.model_validate({
        key: value.model_dump() if hasattr(value, "model_dump") else value for key, value in entries.items()
    } | {"moulds": [use.model_dump() for use in entries["moulds"]]})  # fmt: skip


class Making:
    """A batch being made, event by event, without a store."""

    def __init__(self, plan: BatchPlan) -> None:
        self.plan = plan
        self.planned: PlannedBatch = plan_batch(plan)
        self.steps: tuple[Step, ...] = steps_of(plan, self.planned)
        self.events: list[RecordedEvent] = []

    def add(self, **event: Any) -> RunState:
        seq = len(self.events) + 1
        at = f"2030-01-05T10:{seq // 60:02d}:{seq % 60:02d}+00:00"
        self.events.append(RecordedEvent.model_validate({"seq": seq, "at": at, "event": event}))
        return self.state

    @property
    def state(self) -> RunState:
        return state_of(self.events, self.steps, planned_purities(self.planned))

    def tare(self, item: str, tare: str, *, emptied: bool = False) -> RunState:
        """The scale is set to zero for an item."""
        return self.add(kind="tared", item=item, tare=tare, emptied=emptied)

    def take(self, item: str, grams: float) -> RunState:
        """A weight read from the scale, as the server records it."""
        tare = self.state.tare
        assert tare is not None
        return self.add(
            kind="captured", item=item, weight_g=grams, source="scale", tare=tare.tare, adds=not tare.emptied
        )  # fmt: skip

    def weighing(self, item: str) -> WeighingNow:
        weigh = next(step.weigh for step in self.steps if step.weigh and step.weigh.item == item)
        return weighing_now(weigh, self.state)

    def target(self, item: str) -> float:
        return self.state.targets_g[item]

    def weigh(self, item: str, grams: float | None = None) -> RunState:
        """Take a weight (the target when none is given) and go on."""
        self.add(kind="captured", item=item, weight_g=self.target(item) if grams is None else grams, source="typed")
        return self.add(kind="step_done", step=f"weigh-{item}")

    def up_to(self, step_id: str) -> RunState:
        """Do everything before a step as planned."""
        if not self.events:
            self.add(**begin(self.planned).model_dump())
        for step in self.steps:
            if step.id == step_id:
                break
            if step.weigh is not None:
                self.add(
                    kind="captured", item=step.weigh.item, weight_g=self.target(step.weigh.item), source="typed"
                )  # fmt: skip
            self.add(kind="step_done", step=step.id, confirmed=list(step.checks))
        return self.state


@st.composite
def mould_uses(draw: st.DrawFn) -> MouldUse:
    """Any mould that a workshop could have, filled and cut in any way that it allows."""
    sizes = st.floats(40, 400)
    kind = draw(st.sampled_from(["loaf", "slab", "cylinder", "half_spheres", "cavities", "measured"]))
    shapes: dict[str, dict[str, Any]] = {
        "loaf": {"length_mm": draw(sizes), "width_mm": draw(sizes), "height_mm": draw(sizes)},
        "slab": {"length_mm": draw(sizes), "width_mm": draw(sizes), "height_mm": draw(sizes)},
        "cylinder": {"diameter_mm": draw(sizes), "length_mm": draw(sizes)},
        "half_spheres": {"diameter_mm": draw(st.floats(40, 120)), "count": draw(st.integers(1, 24))},
        "cavities": {"cavity_ml": draw(st.floats(15, 300)), "count": draw(st.integers(1, 24))},
        "measured": {"volume_ml": draw(st.floats(60, 5000))},
    }
    walled = kind in ("loaf", "slab", "cylinder")
    cut = {
        "bar_mm": draw(st.floats(10, 120)),
        "bar_width_mm": draw(st.floats(10, 120)),
        "kerf_mm": draw(st.floats(0, 4)),
        "trim_mm": draw(st.floats(0, 15)),
        "halved": draw(st.booleans()),
    }
    return MouldUse.model_validate(
        {
            "mould": {
                "name": kind,
                "shape": {"kind": kind} | shapes[kind],
                "calibration_percent": draw(st.floats(85, 115)),
            },
            "headroom_mm": draw(st.floats(0, 20)) if walled else 0.0,
            "cut": cut if walled and draw(st.booleans()) else None,
        }
    )


@st.composite
def scent_lines(draw: st.DrawFn) -> list[dict[str, Any]]:
    """Scents within their limits, or without a limit entered yet."""
    chosen = draw(st.lists(st.sampled_from(tuple(scents())), max_size=3, unique=True))
    lines = []
    for scent in chosen:
        rate = draw(st.floats(0.1, 4))
        limit = draw(st.one_of(st.none(), st.floats(rate, 10)))
        lines.append({"scent": scent, "percent_of_oils": rate, "limit_percent": limit})
    return lines


@st.composite
def portion_plans(draw: st.DrawFn) -> list[dict[str, Any]]:
    """None, or some portions that make a whole, each with its colours."""
    count = draw(st.sampled_from([0, 1, 2, 3, 4]))
    if count == 0:
        return []
    components = [draw(st.floats(1, 10)) for _ in range(count)]
    return [
        {
            "name": f"part {i}",
            "share_percent": 100 * component / sum(components),
            "colours": [
                {"colorant": colorant, "by": "tsp_per_500_g", "value": colorants()[colorant].usual_tsp_per_500_g}
                for colorant in draw(st.lists(st.sampled_from(tuple(colorants())), max_size=2, unique=True))
            ],
        }
        for i, component in enumerate(components)
    ]


@st.composite
def plans(draw: st.DrawFn) -> BatchPlan:
    """Any batch that a maker might plan, of whatever may be combined."""
    formula = draw(laden_formulas()).model_copy(update={
        "process": Process(method=draw(st.sampled_from(["cold", "hot"])), gel=draw(st.sampled_from(["natural", "prevented"])))
    })  # fmt: skip
    choices = {
        "school": draw(st.sampled_from(["within_10_f", "within_5_f", "within_10_c", "room_temperature"])),
        "room_c": draw(st.floats(5, 32)),
        "milk": draw(st.sampled_from(["frozen", "chilled"])),
        "scent_at": draw(st.sampled_from(["trace", "oils"])),
        "extras_at": draw(st.sampled_from(["trace", "lye"])),
        "weigh_into": draw(st.sampled_from(["one_bowl", "separate"])),
        "top": draw(st.sampled_from(["level", "textured"])),
        "cover": draw(st.sampled_from(["insulate", "cover", "heat_pad", "fridge"])),
        "lye": draw(st.sampled_from(["as_formula", "dry"])),
    }
    return BatchPlan.model_validate(
        {
            "formula": formula.model_dump(),
            "size": {"by": "oils_g", "value": draw(st.floats(300, 6000))},
            "moulds": [use.model_dump() for use in draw(st.lists(mould_uses(), min_size=1, max_size=2))],
            "choices": choices,
            "scents": draw(scent_lines()),
            "portions": draw(portion_plans()),
        }
    )
