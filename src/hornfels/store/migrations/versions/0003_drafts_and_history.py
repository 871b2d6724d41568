"""Drafts and history"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"

JSONB = postgresql.JSONB(astext_type=sa.Text())
NOW = sa.text("now()")


def upgrade() -> None:
    op.create_table(
        "drafts",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("author", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("operations", JSONB, nullable=False),
        sa.Column("past", JSONB, nullable=False),
        sa.Column("future", JSONB, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("approved_by", sa.String(), nullable=True),
        sa.Column("changed_by", sa.String(), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_drafts_domain_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_drafts")),
    )
    op.create_index("ix_drafts_domain_id", "drafts", ["domain_id"])
    op.create_table(
        "history",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("author", sa.String(), nullable=False),
        sa.Column("approver", sa.String(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("operations", JSONB, nullable=False),
        sa.Column("policies", JSONB, nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_history_domain_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_history")),
    )
    op.create_index("ix_history_domain_id", "history", ["domain_id"])
    op.add_column(
        "domains",
        sa.Column("approval_required", sa.Boolean(), server_default=sa.false(), nullable=False),
    )
    op.add_column("domains", sa.Column("templates", JSONB, server_default="{}", nullable=False))
    op.drop_column("policies", "version")


def downgrade() -> None:
    op.add_column(
        "policies", sa.Column("version", sa.Integer(), server_default="1", nullable=False)
    )
    op.drop_column("domains", "templates")
    op.drop_column("domains", "approval_required")
    op.drop_table("history")
    op.drop_table("drafts")
