"""guests, recordings beside others, and when they were heard"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "guest",
        sa.Column("token", sa.String(), nullable=False),
        sa.Column("episode_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("revoked_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["episode_id"], ["episode.id"]),
        sa.PrimaryKeyConstraint("token"),
    )
    op.create_index("ix_guest_episode_id", "guest", ["episode_id"])
    op.add_column("recording", sa.Column("guest", sa.String(), nullable=True))
    op.add_column("recording", sa.Column("beside", sa.String(), nullable=True))
    op.add_column("recording", sa.Column("whole", sa.Integer(), nullable=True))
    op.add_column("recording", sa.Column("heard", sa.String(), nullable=True))
    op.create_index("ix_recording_beside", "recording", ["beside"])
