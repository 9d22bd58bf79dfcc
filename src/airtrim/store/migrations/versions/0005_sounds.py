"""sounds that a show keeps on its shelf"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sound",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("show_id", sa.Integer(), sa.ForeignKey("show.id"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("frames", sa.Integer(), nullable=False),
        sa.Column("channels", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.Column("lufs", sa.Float(), nullable=True),
        sa.Column("credit", sa.String(), nullable=False),
        sa.Column("licence", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(), nullable=True),
    )
    op.create_index("ix_sound_show_id", "sound", ["show_id"])


def downgrade() -> None:
    op.drop_table("sound")
