"""Locks that were seen, who was to be unlocked, and stories as trials"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "locks",
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("rid", sa.BigInteger(), nullable=False),
        sa.Column("at", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_locks_domain_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("domain_id", "rid", "at", name=op.f("pk_locks")),
    )
    op.add_column(
        "history",
        sa.Column("accounts", postgresql.JSONB(), server_default="[]", nullable=False),
    )
    op.add_column("trials", sa.Column("story", sa.String(), server_default="", nullable=False))


def downgrade() -> None:
    op.drop_column("trials", "story")
    op.drop_column("history", "accounts")
    op.drop_table("locks")
