"""A batch that began under version 1 comes along: its plan, its record, and the rows that it began with."""

import json
import sqlite3
from contextlib import closing

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine
from sqlalchemy.exc import IntegrityError

import sapolin.store.migrations as migrations
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.coefficients import coefficient_values
from sapolin.services.batches import keep_missing_starts, work_of
from sapolin.store.stores import open_stores

PLAN = {
    "formula": {
        "name": "Old bar", "purpose": "everyday-body", "notes": "", "bands": None, "materials": [],
        "blend": {"by": "percent", "total_oils_g": 1000.0, "lines": [
            {"oil": "olive-refined", "share_percent": 70.0, "held": True}, {"oil": "coconut", "share_percent": 30.0},
        ]},
        "lye": {"naoh_purity_percent": 100.0},
        "superfat_percent": 0.0,
        "water": {"by": "water_to_lye", "value": 2.0},
    },
    "size": {"by": "oils_g", "value": 1000.0},
    "moulds": [{"mould": {"name": "Cups", "shape": {"kind": "cavities", "cavity_ml": 100, "count": 16}}, "headroom_mm": 0}],
    "choices": {"weigh_into": "one_pot"},
}  # fmt: skip
OLIVE_SAP_THEN = 194.0
"""mg KOH/g: not what the catalogue says today."""
EVENTS = (
    {"kind": "started", "targets_g": {"oil:0": 700.0, "oil:1": 300.0}},
    {"kind": "captured", "item": "oil:1", "weight_g": 306.0, "source": "typed", "tared": True},
    {"kind": "way_taken", "item": "oil:1", "way": "accept", "words": "Coconut is 6.0 g over."},
    {"kind": "corrected", "seq": 2, "reason": "Misread.", "in_pot": True, "weight_g": 305.0},
)


def start() -> dict:
    """What a batch began with, as version 1 wrote it."""
    rows = [catalogue()[oil].model_dump(mode="json") for oil in ("olive-refined", "coconut")]
    for row in rows:
        row["parts"] = row.pop("components")
    rows[0]["sap_koh_mg_per_g"] |= {"typical": OLIVE_SAP_THEN}
    values = dict(coefficient_values())
    values["firmness.young_part"] = values.pop("firmness.young_fraction")
    values["scale.part_for_the_load"] = values.pop("scale.load_fraction")
    return {
        "planned": {}, "findings": [], "steps": [], "coefficients": values, "oils": rows, "liquids": [], "additives": [],
        "lye_eaters": [], "scents": [], "colorants": [],
    }  # fmt: skip


@pytest.fixture
def stores(tmp_path):
    file = tmp_path / "sapolin.db"
    config = Config()
    config.set_main_option("script_location", str(next(iter(migrations.__path__))))
    engine = create_engine(f"sqlite:///{file}")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0006")
    engine.dispose()
    with closing(sqlite3.connect(file)) as connection, connection:
        connection.execute(
            "INSERT INTO batches (id, code, formula_id, content, revision, created_at, updated_at) "
            "VALUES ('old', 'B-101', '', ?, 2, '2029-01-01', '2029-01-02')",
            (json.dumps(PLAN),),
        )
        for seq, event in enumerate(EVENTS, start=1):
            connection.execute(
                "INSERT INTO batch_events (batch_id, seq, key, at, content) VALUES ('old', ?, ?, '2029-01-03T10:00:00Z', ?)",
                (seq, f"old-key-{seq}", json.dumps({"event": event})),
            )
        connection.execute("INSERT INTO batch_starts VALUES ('old', ?, '2029-01-03')", (json.dumps(start()),))
    return open_stores(file)


def test_its_plan_and_its_record_read_under_the_new_names(stores):
    record = stores.batches.get("old")
    assert [(line.by, line.value) for line in record.plan.formula.blend.lines] == [
        ("percent_of_oils", 70.0), ("percent_of_oils", 30.0),
    ]  # fmt: skip
    assert record.plan.formula.blend.lines[0].locked
    assert record.plan.choices.weigh_into == "one_bowl"
    started, captured, taken, amended = (one.event for one in stores.batches.events("old"))
    assert (started.kind, captured.weight_g) == ("started", 306.0)
    assert (taken.kind, taken.correction, taken.words) == ("correction_taken", "accept", ("Coconut is 6.0 g over.",))
    assert (amended.kind, amended.in_bowl, amended.weight_g) == ("amended", True, 305.0)


def test_it_is_calculated_with_the_rows_it_began_with(stores):
    assert stores.batches.start("old") is None
    keep_missing_starts(stores.batches)
    work = work_of(stores.batches.get("old"), stores.batches)
    # Superfat 0 at 100 % purity: every gram of oil takes SAP / 56.1056 / 1000 mol.
    needed_mol = (700 * OLIVE_SAP_THEN + 300 * catalogue()["coconut"].sap_koh_mg_per_g.typical) / 56.1056 / 1000
    assert work.planned.result.lye.naoh_g == pytest.approx(needed_mol * 39.997, rel=1e-5)
    assert {step.id for step in work.steps} >= {"protect", "make-lye", "pour"}


def test_what_was_completed_stays(stores):
    keep_missing_starts(stores.batches)
    kept = stores.batches.start("old")
    keep_missing_starts(stores.batches)
    assert stores.batches.start("old") == kept
    with pytest.raises(IntegrityError, match="stays"), stores.batches._engine.begin() as connection:
        connection.exec_driver_sql("UPDATE batch_starts SET content = 'other'")
