"""Reports that are mailed by themselves"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    op.create_table(
        "report_orders",
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"],
            ["domains.id"],
            name=op.f("fk_report_orders_domain_id"),
            ondelete="CASCADE",
        ),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("settings", JSONB(), nullable=False),
        sa.Column("due", sa.DateTime(timezone=True), nullable=False),
        sa.Column("copies", JSONB(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("domain_id", name=op.f("pk_report_orders")),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
