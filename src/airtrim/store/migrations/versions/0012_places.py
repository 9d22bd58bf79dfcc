"""where the fault of a job is put right"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("job", sa.Column("place", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("job", "place")
