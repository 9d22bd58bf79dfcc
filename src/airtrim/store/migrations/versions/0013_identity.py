"""ids are never used twice; the database carries the identity of its folder"""

from uuid import uuid4

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

_NUMBERED = ("show", "episode", "edit", "chain", "setup", "destination")


def upgrade() -> None:
    for table in _NUMBERED:
        _rebuild(table, autoincrement=True)
    op.create_table(
        "identity",
        sa.Column("key", sa.Integer(), primary_key=True),
        sa.Column("folder", sa.String(), nullable=False),
        sa.Column("generation", sa.String(), nullable=False),
    )
    op.execute(
        sa.text("INSERT INTO identity VALUES (1, :folder, :generation)").bindparams(
            folder=uuid4().hex, generation=uuid4().hex[:12]
        )
    )
    op.add_column(
        "take", sa.Column("words_version", sa.Integer(), nullable=False, server_default="0")
    )
    op.add_column("recording", sa.Column("discarded_at", sa.DateTime(), nullable=True))
    op.add_column(
        "hand_over", sa.Column("attempts", sa.Integer(), nullable=False, server_default="0")
    )
    op.add_column("hand_over", sa.Column("retry_at", sa.DateTime(), nullable=True))
    # The time of the discard was not stored. Start the month of recovery at the migration.
    op.execute("UPDATE recording SET discarded_at = CURRENT_TIMESTAMP WHERE state = 'discarded'")


def downgrade() -> None:
    op.drop_column("hand_over", "retry_at")
    op.drop_column("hand_over", "attempts")
    op.drop_column("recording", "discarded_at")
    op.drop_column("take", "words_version")
    op.drop_table("identity")
    for table in _NUMBERED:
        _rebuild(table, autoincrement=False)


def _rebuild(table: str, *, autoincrement: bool) -> None:
    """Recreate a table with or without AUTOINCREMENT. Foreign keys are off during migrations."""
    with op.batch_alter_table(
        table, recreate="always", table_kwargs={"sqlite_autoincrement": autoincrement}
    ):
        pass
