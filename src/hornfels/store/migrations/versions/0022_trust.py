"""Approvals are for a text, what a lost policy had is kept, settings wait to be approved"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    op.add_column("drafts", sa.Column("approved_text", JSONB(), nullable=True))
    op.add_column(
        "drafts", sa.Column("approval_ended", sa.String(), nullable=False, server_default="")
    )
    op.execute(
        "UPDATE drafts SET approved_by = NULL, version = version + 1, approval_ended = "
        "'Hornfels was upgraded. The earlier version did not keep the text that was approved.' "
        "WHERE state = 'open' AND approved_by IS NOT NULL"
    )
    op.add_column(
        "history",
        sa.Column("confidential", sa.Boolean(), nullable=False, server_default=sa.false()),
    )
    op.add_column("history", sa.Column("effect", sa.String(), nullable=False, server_default=""))
    # No column said which entries came of compromised passwords, so all are hidden.
    op.execute(
        "UPDATE history SET confidential = true, title = 'Another password at the next sign-in "
        "for ' || jsonb_array_length(accounts) || ' accounts' WHERE kind = 'must change'"
    )
    op.drop_table("own_tries")
    op.create_table(
        "bind_attempts",
        sa.Column("key", sa.LargeBinary(), nullable=False),
        sa.Column("failed", sa.Integer(), nullable=False),
        sa.Column("last", sa.BigInteger(), nullable=False),
        sa.Column("until", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_bind_attempts")),
    )
    op.create_index("ix_bind_attempts_until", "bind_attempts", ["until"])
    op.add_column(
        "connections", sa.Column("dumps_until", sa.DateTime(timezone=True), nullable=True)
    )
    op.create_table(
        "lost_policies",
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("guid", sa.Uuid(), nullable=False),
        sa.Column("dn", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("mark", sa.Integer(), nullable=False),
        sa.Column("guarded", sa.Boolean(), nullable=False),
        sa.Column("addition", JSONB(), nullable=True),
        sa.Column(
            "lost_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("now()"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(
            ["domain_id"],
            ["domains.id"],
            name=op.f("fk_lost_policies_domain_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("domain_id", "guid", name=op.f("pk_lost_policies")),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
