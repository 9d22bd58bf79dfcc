"""the language of a take, and what wrote its words down"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("language", "recogniser"):
        op.add_column("take", sa.Column(name, sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    for name in ("language", "recogniser"):
        op.drop_column("take", name)
