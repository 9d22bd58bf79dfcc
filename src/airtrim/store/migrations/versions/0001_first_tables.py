"""first tables"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "show",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "episode",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("show_id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("head_id", sa.Integer(), nullable=True),
        sa.Column("tip_id", sa.Integer(), nullable=True),
        sa.Column("frames", sa.Integer(), nullable=False),
        sa.Column("trimmed", sa.Integer(), nullable=False),
        sa.Column("season", sa.Integer(), nullable=True),
        sa.Column("number", sa.Integer(), nullable=True),
        sa.Column("artwork", sa.String(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("updated_at", sa.DateTime(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(
            ["show_id"],
            ["show.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("episode", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_episode_show_id"), ["show_id"], unique=False)

    op.create_table(
        "edit",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("episode_id", sa.Integer(), nullable=False),
        sa.Column("parent_id", sa.Integer(), nullable=True),
        sa.Column("depth", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("edit", sa.String(), nullable=False),
        sa.Column("snapshot", sa.String(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["episode_id"],
            ["episode.id"],
        ),
        sa.ForeignKeyConstraint(
            ["parent_id"],
            ["edit.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("edit", schema=None) as batch_op:
        batch_op.create_index("edit_parent", ["parent_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_edit_episode_id"), ["episode_id"], unique=False)

    op.create_table(
        "job",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("episode_id", sa.Integer(), nullable=False),
        sa.Column("params", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("progress", sa.Float(), nullable=False),
        sa.Column("doing", sa.String(), nullable=False),
        sa.Column("result", sa.String(), nullable=True),
        sa.Column("error", sa.String(), nullable=True),
        sa.Column("cancel", sa.Boolean(), nullable=False),
        sa.Column("attempts", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("updated_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["episode_id"],
            ["episode.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("job", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_job_episode_id"), ["episode_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_job_state"), ["state"], unique=False)
        batch_op.create_index(batch_op.f("ix_job_updated_at"), ["updated_at"], unique=False)

    op.create_table(
        "take",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("episode_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("frames", sa.Integer(), nullable=False),
        sa.Column("channels", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("notice", sa.String(), nullable=True),
        sa.Column("words", sa.String(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["episode_id"],
            ["episode.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("take", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_take_episode_id"), ["episode_id"], unique=False)

    op.create_table(
        "recording",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("episode_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("tracks", sa.String(), nullable=False),
        sa.Column("landing", sa.String(), nullable=False),
        sa.Column("flags", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["episode_id"],
            ["episode.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("recording", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_recording_episode_id"), ["episode_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_recording_state"), ["state"], unique=False)


def downgrade() -> None:
    op.drop_table("recording")
    with op.batch_alter_table("take", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_take_episode_id"))

    op.drop_table("take")
    with op.batch_alter_table("job", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_job_updated_at"))
        batch_op.drop_index(batch_op.f("ix_job_state"))
        batch_op.drop_index(batch_op.f("ix_job_episode_id"))

    op.drop_table("job")
    with op.batch_alter_table("edit", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_edit_episode_id"))
        batch_op.drop_index("edit_parent")

    op.drop_table("edit")
    with op.batch_alter_table("episode", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_episode_show_id"))

    op.drop_table("episode")
    op.drop_table("show")
