"""What was typed as being on hand becomes a lot, at the price that was typed: from now on the ledger tells what there is."""

import json
from uuid import uuid4

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    connection = op.get_bind()
    prices: dict[str, float] = dict(connection.execute(sa.text("SELECT oil, per_kg FROM prices")).all())
    kept = {row[0] for row in connection.execute(sa.text("SELECT DISTINCT material FROM lots"))}
    codes = {row[0].lower() for row in connection.execute(sa.text("SELECT code FROM lots"))}
    rows = connection.execute(sa.text("SELECT oil, content, updated_at FROM oil_notes ORDER BY oil")).all()
    count = 0
    for oil, content, updated_at in rows:
        note = json.loads(content)
        grams = note.get("on_hand_g")
        if grams is None:
            continue
        note["on_hand_g"] = None
        connection.execute(
            sa.text("UPDATE oil_notes SET content = :content WHERE oil = :oil"),
            {"content": json.dumps(note), "oil": oil},
        )
        if grams <= 0 or oil in kept:
            continue
        count += 1
        while f"start-{count}" in codes:
            count += 1
        price = None if oil not in prices else round(prices[oil] * grams / 1000, 4)
        lot = {
            "code": f"START-{count}", "material": oil, "kind": "oil", "amount_g": grams, "price": price, "freight": 0.0,
            "arrived": updated_at[:10],
        }  # fmt: skip
        lot_id = uuid4().hex
        connection.execute(
            sa.text(
                "INSERT INTO lots (id, code, material, content, created_at, archived_at) "
                "VALUES (:id, :code, :material, :content, :at, NULL)"
            ),
            {"id": lot_id, "code": lot["code"], "material": oil, "content": json.dumps(lot), "at": updated_at},
        )
        connection.execute(
            sa.text(
                "INSERT INTO ledger (lot_id, seq, key, at, change_g, batch_id, content) "
                "VALUES (:lot, 1, :key, :at, :grams, NULL, :content)"
            ),
            {"lot": lot_id, "key": f"typed-{oil}", "at": updated_at, "grams": grams,
             "content": json.dumps({"event": {"kind": "arrived"}})},
        )  # fmt: skip


def downgrade() -> None:
    """Lots stay: nothing that was counted is forgotten."""
