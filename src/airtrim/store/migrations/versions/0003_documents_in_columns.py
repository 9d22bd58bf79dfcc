"""documents hold more than they did: their snapshots are made anew from the edits"""

from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE edit SET snapshot = NULL")


def downgrade() -> None:
    op.execute("UPDATE edit SET snapshot = NULL")
