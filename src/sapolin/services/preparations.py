"""Preparations: planned from the pastes there are, made step by step, and what is left of each paste."""

from functools import lru_cache

from sapolin.core.batch.readiness import forbidden
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.materials.own import with_materials
from sapolin.core.preparations.dilution import PasteOnHand, remaining
from sapolin.core.preparations.guard import preparation_refusal, soap_passes
from sapolin.core.preparations.mixing import PasteMixAnswer, best_mix, mix_purposes
from sapolin.core.preparations.plan import DilutionPlan, Preparation
from sapolin.core.preparations.prepared import PreparedPreparation, prepare_preparation
from sapolin.core.preparations.starting import noun_of, starting_share_percent
from sapolin.core.preparations.thickness import SaltTest, salt_test
from sapolin.core.production.events import (
    Captured,
    EntryAmended,
    Event,
    RecordedEvent,
    SaltStepped,
    SoapTested,
    Started,
    Tared,
)
from sapolin.core.production.guard import amendable
from sapolin.core.production.state import RunState, state_of
from sapolin.core.production.weighing import WeighingNow, tare_refusal, weighing_now
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.devices.protocol import UnpluggedError
from sapolin.devices.workbench import Workbench
from sapolin.services.batches import outcome_of, work_of
from sapolin.store.clock import utc_now
from sapolin.store.preparations import PreparationRecord
from sapolin.store.stores import Stores

__all__ = [
    "PreparationEntry",
    "PreparationReport",
    "PreparationRun",
    "add_event",
    "entries",
    "every_paste",
    "mix_of",
    "pastes_on_hand",
    "report",
    "run_of",
    "tare",
]

BOILED_OFF_AT_MOST = 0.25
"""No cook takes more than this fraction of a paste away as steam; what is missing beyond it stayed in the cooker."""


class PreparationEntry(Model):
    """A row of the list of preparations."""

    record: PreparationRecord
    noun: str
    """What is prepared, in a word or two."""
    status: str
    """planned, making, made or aborted."""


class PreparationReport(Model):
    """A plan with what follows from it, or with what stands in the way."""

    prepared: PreparedPreparation | None
    problems: tuple[Diagnostic, ...]
    pastes: tuple[PasteOnHand, ...]
    """That there are, what other preparations took or will take left out."""
    mixes_for: tuple[str, ...]
    """Ids of the purposes to whose target ranges they can be mixed."""
    next_share_percent: float | None
    """Share of the soap that the next paste of a dilution begins with, %; null is to be entered."""


class PreparationRun(Model):
    """A preparation being made, as every device shows it."""

    record: PreparationRecord
    prepared: PreparedPreparation
    phases: tuple[str, ...]
    """The stretches of the work, in order."""
    events: int
    state: RunState
    weighing: WeighingNow | None
    """The weighing it is at; null when the next step is none."""
    amendable: tuple[int, ...]
    salt_test: SaltTest
    now: str
    """The server's clock, UTC."""


def pastes_on_hand(stores: Stores, without: str | None = None) -> tuple[PasteOnHand, ...]:
    """Pastes that were packed, with what is left of each. What the preparation `without` takes is not counted."""
    return remaining(every_paste(stores), _taken_g(stores, without))


def every_paste(stores: Stores) -> list[PasteOnHand]:
    """Pastes that were packed, as if none had been taken."""
    found = []
    for batch_id in stores.batches.packed():
        work = work_of(stores.batches.get(batch_id), stores.batches)
        state = work.state(stores.batches.events(batch_id))
        result = outcome_of(work, state, stores.batches).actual.result
        formula = work.planned.formula
        if (
            state.packed is None
            or result is None
            or purposes()[formula.purpose].makes != "paste"
            or result.paste is None
        ):
            continue
        paste = result.paste
        # What a cook takes away is water: the soap is in what is left.
        held_g = paste.paste_g
        if formula.process.method == "hot":
            held_g = min(max(state.packed.weight_g, (1 - BOILED_OFF_AT_MOST) * paste.paste_g), paste.paste_g)
        shares = {share.acid: share.percent for share in result.acids}
        found.append(
            PasteOnHand(
                batch_id=batch_id, code=work.record.code, name=formula.name, made_at=state.packed.at,
                soap_percent=100 * paste.soap_g / held_g, left_g=state.packed.weight_g,
                acids_percent=tuple(shares.get(acid.id, 0.0) for acid in ACIDS),
                superfat_percent=result.lye.superfat_total_percent,
            )
        )  # fmt: skip
    return found


def _taken_g(stores: Stores, without: str | None) -> dict[str, float]:
    """What dilutions that are begun took of each paste, or will: what was weighed, else what is to be."""
    taken: dict[str, float] = {}
    for record in stores.preparations.all():
        content = stores.preparations.begun(record.id)
        if record.id == without or content is None or not isinstance(record.plan, DilutionPlan):
            continue
        state = state_of(stores.preparations.events(record.id), _thawed(content).steps)
        for i, line in enumerate(record.plan.pastes):
            item = f"paste:{i}"
            # What was given up took what had been weighed by then.
            planned_g = 0.0 if state.status == "aborted" else state.targets_g.get(item, 0.0)
            taken[line.batch_id] = taken.get(line.batch_id, 0.0) + state.captured_g.get(item, planned_g)
    return taken


@lru_cache(maxsize=64)
def _thawed(content: str) -> PreparedPreparation:
    return PreparedPreparation.model_validate_json(content)


def _prepare(plan: Preparation, pastes: tuple[PasteOnHand, ...], stores: Stores) -> PreparedPreparation:
    own = tuple(record.material for record in stores.materials.find())
    return prepare_preparation(plan, {one.batch_id: one for one in pastes}, with_materials(catalogue(), own))


def report(plan: Preparation, stores: Stores, preparation_id: str | None = None) -> PreparationReport:
    """Everything that follows from a plan that is being edited."""
    pastes = pastes_on_hand(stores, preparation_id)
    mixes_for = tuple(one.id for one in mix_purposes(pastes))
    prepared: PreparedPreparation | None = None
    problems: tuple[Diagnostic, ...] = ()
    try:
        prepared = _prepare(plan, pastes, stores)
    except FormulaError as error:
        problems = tuple(error.problems)
    return PreparationReport(
        prepared=prepared, problems=problems, pastes=pastes, mixes_for=mixes_for,
        next_share_percent=starting_share_percent(plan.pastes if isinstance(plan, DilutionPlan) else ()),
    )  # fmt: skip


def mix_of(plan: DilutionPlan, purpose: str, stores: Stores, preparation_id: str | None = None) -> PasteMixAnswer:
    """Which pastes come nearest to the target ranges of a purpose, with enough of each for the plan where that is known. They
    are chosen from those of the plan, or from all there are while it has no two to choose from.

    Raises FormulaError when there is no paste, or not enough of it.
    """
    chosen = {line.batch_id for line in plan.pastes} if len(plan.pastes) > 1 else set()
    pastes = [one for one in pastes_on_hand(stores, preparation_id) if not chosen or one.batch_id in chosen]
    soap_g = None
    if plan.size_by == "bottles" and plan.bottles and plan.bottle_ml and plan.soap_percent:
        soap_g = plan.bottles * plan.bottle_ml * plan.soap_percent / 100
    return best_mix(pastes, purposes()[purpose].target_ranges, soap_g)


def entries(stores: Stores, *, archived: bool = False) -> list[PreparationEntry]:
    """All of them with how far they have come, the newest first."""
    found = []
    for record in stores.preparations.all(archived=archived):
        content = stores.preparations.begun(record.id)
        status = "planned"
        if content is not None:
            status = state_of(stores.preparations.events(record.id), _thawed(content).steps).status
        found.append(PreparationEntry(record=record, noun=noun_of(record.plan.kind), status=status))
    return found


def _ready(record: PreparationRecord, stores: Stores) -> PreparedPreparation:
    content = stores.preparations.begun(record.id)
    if content is not None:
        return _thawed(content)
    return _prepare(record.plan, pastes_on_hand(stores, record.id), stores)


def run_of(preparation_id: str, stores: Stores) -> PreparationRun:
    """How far a preparation has come. Raises UnknownPreparationError, FormulaError."""
    record = stores.preparations.get(preparation_id)
    return _run(record, _ready(record, stores), stores.preparations.events(preparation_id))


def _run(record: PreparationRecord, prepared: PreparedPreparation, events: list[RecordedEvent]) -> PreparationRun:
    state = state_of(events, prepared.steps)
    step = next((step for step in prepared.steps if step.id == state.current), None)
    void = {one.event.seq for one in events if isinstance(one.event, EntryAmended)}
    salt = [one.event for one in events if isinstance(one.event, SaltStepped) and one.seq not in void]
    return PreparationRun(
        record=record, prepared=prepared, phases=tuple(dict.fromkeys(step.phase for step in prepared.steps)),
        events=len(events), state=state,
        weighing=weighing_now(step.weigh, state) if step is not None and step.weigh is not None else None,
        amendable=amendable(events), salt_test=salt_test(salt, prepared.total_g), now=utc_now(),
    )  # fmt: skip


def _as_recorded(event: Event, plan: Preparation, prepared: PreparedPreparation, state: RunState) -> Event:
    """The event as the record keeps it: what the server knows better than the device is put in here."""
    if isinstance(event, Started):
        targets = {step.weigh.item: step.weigh.target_g for step in prepared.steps if step.weigh}
        return Started(kind="started", targets_g=targets)
    if isinstance(event, Captured) and event.source == "scale":
        return event.model_copy(update={"adds": not (state.tare is not None and state.tare.emptied)})
    if isinstance(event, Captured):
        return event.model_copy(update={"tare": ""})
    if isinstance(event, SoapTested):
        return event.model_copy(update={"passed": soap_passes(plan, event, prepared.steps)})
    return event


def add_event(preparation_id: str, key: str, event: Event, after_seq: int | None, stores: Stores) -> PreparationRun:
    """Add to the record, once for each `key`; with the first event it begins, and holds on to what it began with.

    Raises UnknownPreparationError, StaleRecordError, or FormulaError with why it cannot be.
    """
    if isinstance(event, Tared):
        raise FormulaError([stopping("not_by_itself", "kind")])
    record = stores.preparations.get(preparation_id)
    prepared = _ready(record, stores)
    forbids = forbidden(prepared.diagnostics)

    def decide(events: list[RecordedEvent]) -> Event:
        state = state_of(events, prepared.steps)
        problem = preparation_refusal(event, state, prepared.steps, prepared.total_g, events, forbids)
        if problem is not None:
            raise FormulaError([problem])
        return _as_recorded(event, record.plan, prepared, state)

    begins_with = prepared.model_dump_json()
    events = stores.preparations.add_event(preparation_id, key, decide, after_seq, begins_with)
    return _run(stores.preparations.get(preparation_id), prepared, events)


def tare(
    preparation_id: str,
    key: str,
    item: str,
    after_seq: int | None,
    *,
    emptied: bool,
    sure: bool,
    stores: Stores,
    devices: Workbench,
) -> PreparationRun:
    """Set the scale to zero for an item, and record it; asks as on make day.

    Raises UnpluggedError, UnknownPreparationError, StaleRecordError, or FormulaError with what has to be answered first.
    """
    scale = devices.scale
    if scale is None:
        raise UnpluggedError
    record = stores.preparations.get(preparation_id)
    prepared = _ready(record, stores)

    def decide(events: list[RecordedEvent]) -> Event:
        state = state_of(events, prepared.steps)
        reading = scale.read()
        asked = Tared(kind="tared", item=item, tare="asked", emptied=emptied)
        problem = preparation_refusal(asked, state, prepared.steps, prepared.total_g, events) or tare_refusal(
            item, state, reading.tare, reading.weight_g, emptied=emptied, sure=sure
        )
        if problem is not None:
            raise FormulaError([problem])
        return Tared(kind="tared", item=item, tare=scale.tare(), emptied=emptied)

    events = stores.preparations.add_event(preparation_id, key, decide, after_seq, prepared.model_dump_json())
    return _run(record, prepared, events)
