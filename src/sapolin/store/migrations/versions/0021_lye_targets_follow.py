"""What is to be weighed of a lye follows from its lot, and is no longer part of the record."""

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

_NEVER_CHANGE = (
    "CREATE TRIGGER batch_events_never_change BEFORE UPDATE ON batch_events "
    "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
)


def upgrade() -> None:
    # The record of a batch only grows: its trigger rests while a field goes that nothing reads.
    op.execute("DROP TRIGGER batch_events_never_change")
    op.execute(
        "UPDATE batch_events SET content = json_remove(content, '$.event.target_g') "
        "WHERE CASE WHEN json_valid(content) THEN json_extract(content, '$.event.kind') = 'lot_chosen' END"
    )
    op.execute(_NEVER_CHANGE)
