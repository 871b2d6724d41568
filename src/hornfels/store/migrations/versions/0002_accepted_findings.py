"""Accepted findings"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "accepted_findings",
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("until", sa.Date(), nullable=False),
        sa.Column("user_name", sa.String(), nullable=False),
        sa.Column(
            "accepted_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("now()"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(
            ["domain_id"],
            ["domains.id"],
            name=op.f("fk_accepted_findings_domain_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("domain_id", "key", name=op.f("pk_accepted_findings")),
    )


def downgrade() -> None:
    op.drop_table("accepted_findings")
