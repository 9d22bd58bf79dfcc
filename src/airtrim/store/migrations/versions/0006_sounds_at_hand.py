"""sounds played in by keys while recording"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sound", sa.Column("at_key", sa.Integer(), nullable=True))
    op.add_column(
        "recording", sa.Column("played", sa.String(), nullable=False, server_default="[]")
    )


def downgrade() -> None:
    op.drop_column("recording", "played")
    op.drop_column("sound", "at_key")
