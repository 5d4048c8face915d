"""Tables named after what they hold: detections of cuts, the history of edits."""

from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    """Rename the tables and what belongs to them."""
    op.rename_table("cut_search", "cut_detection")
    op.execute(
        "ALTER TABLE cut_detection RENAME CONSTRAINT cut_search_state TO cut_detection_state"
    )
    op.rename_table("arranging_step", "edit_history_step")
    op.execute("ALTER INDEX ix_arranging_step_edit_id RENAME TO ix_edit_history_step_edit_id")
