"""Objects that were read are kept in a form that is quicker to read: they are read anew"""

from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.execute("DELETE FROM reading_entries")
    # Without the copy it was read from, the next reading takes everything.
    op.execute("UPDATE readings SET invocation = NULL")


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
