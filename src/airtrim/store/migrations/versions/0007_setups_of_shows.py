"""setups of shows; what was kept of a track's sound is called a chain"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.rename_table("setup", "chain")
    op.create_table(
        "setup",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("show_id", sa.Integer(), sa.ForeignKey("show.id"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("setup", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("used_at", sa.DateTime(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(), nullable=True),
    )
    op.create_index("ix_setup_show_id", "setup", ["show_id"])
    op.create_table(
        "copy_link",
        sa.Column("token", sa.String(), primary_key=True),
        sa.Column("episode_id", sa.Integer(), sa.ForeignKey("episode.id"), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("revoked_at", sa.DateTime(), nullable=True),
    )
    op.create_index("ix_copy_link_episode_id", "copy_link", ["episode_id"])


def downgrade() -> None:
    op.drop_table("copy_link")
    op.drop_table("setup")
    op.rename_table("chain", "setup")
