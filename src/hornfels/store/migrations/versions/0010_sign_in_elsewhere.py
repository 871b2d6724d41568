"""People who sign in at a provider and have no password here"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.alter_column("users", "password_hash", nullable=True)
    op.add_column("users", sa.Column("subject", sa.String()))
    op.create_unique_constraint(op.f("uq_users_subject"), "users", ["subject"])


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
