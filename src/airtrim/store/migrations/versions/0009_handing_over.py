"""destinations of shows, and what was handed over"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "destination",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("show_id", sa.Integer(), sa.ForeignKey("show.id"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("way", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(), nullable=True),
    )
    op.create_index("ix_destination_show_id", "destination", ["show_id"])
    op.create_table(
        "hand_over",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("episode_id", sa.Integer(), sa.ForeignKey("episode.id"), nullable=False),
        sa.Column("destination_id", sa.Integer(), sa.ForeignKey("destination.id"), nullable=False),
        sa.Column("export_id", sa.String(), nullable=False),
        sa.Column("file", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("remote", sa.String(), nullable=False),
        sa.Column("page", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("publish_at", sa.DateTime(), nullable=True),
        sa.Column("error", sa.String(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("updated_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_hand_over_episode_id", "hand_over", ["episode_id"])


def downgrade() -> None:
    op.drop_table("hand_over")
    op.drop_table("destination")
