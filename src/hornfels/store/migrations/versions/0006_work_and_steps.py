"""Work done by workers, files on their way to them, bad tries at signing in, and drafts' steps as
what each changed
"""

from importlib import resources

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from hornfels.store.steps import step_between

revision = "0006"
down_revision = "0005"

_NOW = sa.text("now()")


def upgrade() -> None:
    # Written for the version of the queue that the bounds of our dependencies name; another one
    # would need another migration.
    op.get_bind().exec_driver_sql(
        (resources.files("procrastinate.sql") / "schema.sql")
        .read_text(encoding="utf-8")
        .replace("%", "%%")
    )
    op.create_table(
        "sign_in_attempts",
        sa.Column("key", sa.LargeBinary(), nullable=False),
        sa.Column("bad_count", sa.Integer(), server_default="0", nullable=False),
        sa.Column("bad_time", sa.BigInteger(), server_default="0", nullable=False),
        sa.Column("lockout_time", sa.BigInteger(), server_default="0", nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_sign_in_attempts")),
    )
    op.create_index("ix_sign_in_attempts_bad_time", "sign_in_attempts", ["bad_time"])
    op.create_table(
        "uploads",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=_NOW, nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_uploads")),
    )
    op.create_table(
        "upload_parts",
        sa.Column("upload_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("packed", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["upload_id"],
            ["uploads.id"],
            name=op.f("fk_upload_parts_upload_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("upload_id", "number", name=op.f("pk_upload_parts")),
    )
    # What is packed already is not packed again.
    op.execute("ALTER TABLE upload_parts ALTER COLUMN packed SET STORAGE EXTERNAL")
    # Jobs of the version before ended with its process.
    op.drop_table("jobs")
    op.create_table(
        "jobs",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("domain", sa.String(), server_default="", nullable=False),
        sa.Column("key", sa.String(), server_default="", nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("step", sa.String(), server_default="", nullable=False),
        sa.Column("done", sa.BigInteger(), server_default="0", nullable=False),
        sa.Column("of", sa.BigInteger(), server_default="0", nullable=False),
        sa.Column("error", sa.String(), nullable=False),
        sa.Column("arguments", JSONB(), server_default="{}", nullable=False),
        sa.Column("result", JSONB(), nullable=False),
        sa.Column("upload_id", sa.Uuid(), nullable=True),
        sa.Column("stopping", sa.Boolean(), server_default=sa.false(), nullable=False),
        sa.Column("taken", sa.Integer(), server_default="0", nullable=False),
        sa.Column("user_name", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=_NOW, nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=_NOW, nullable=False),
        sa.ForeignKeyConstraint(
            ["upload_id"], ["uploads.id"], name=op.f("fk_jobs_upload_id"), ondelete="SET NULL"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_jobs")),
    )
    op.create_index("ix_jobs_state", "jobs", ["state"])
    _shorten_steps()


def _shorten_steps() -> None:
    """Undo and redo kept whole lists of operations; from now on they keep what to change in the
    present one.
    """
    drafts = sa.table(
        "drafts",
        *(sa.column(name, JSONB()) for name in ("operations", "past", "future")),
        sa.column("id", sa.Integer()),
    )
    connection = op.get_bind()
    for draft, now, past, future in connection.execute(
        sa.select(drafts.c.id, drafts.c.operations, drafts.c.past, drafts.c.future)
    ).all():
        back = [
            step_between(after, before)
            for before, after in zip(past, [*past[1:], now], strict=True)
        ]
        forth = [
            step_between(before, after)
            for after, before in zip(future, [*future[1:], now], strict=True)
        ]
        connection.execute(
            sa.update(drafts).where(drafts.c.id == draft).values(past=back, future=forth)
        )


def downgrade() -> None:
    raise NotImplementedError(
        "What undo would go back to is kept as changes by now; restore a copy of the "
        "database instead."
    )
