"""Shorter maximum ages that are brought in over weeks"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    op.create_table(
        "spreads",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_spreads_domain_id"), ondelete="CASCADE"
        ),
        sa.Column("draft_id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("begins", sa.Date(), nullable=False),
        sa.Column("waves", JSONB(), nullable=False),
        sa.Column("accounts", sa.LargeBinary(), nullable=False),
        sa.Column("by", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_spreads")),
    )
    op.create_index("ix_spreads_domain_id", "spreads", ["domain_id"])


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
