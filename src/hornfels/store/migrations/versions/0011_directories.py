"""Connections to directories, and what was read of each object"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "connections",
        sa.Column("dns_name", sa.String(), nullable=False),
        sa.Column("settings", JSONB(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("changed_by", sa.String(), nullable=False),
        sa.Column("changed_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
        sa.PrimaryKeyConstraint("dns_name", name=op.f("pk_connections")),
    )
    op.create_table(
        "readings",
        sa.Column("dns_name", sa.String(), nullable=False),
        sa.Column("server", sa.String(), nullable=False),
        sa.Column("invocation", sa.Uuid()),
        sa.Column("usn", sa.BigInteger(), nullable=False),
        sa.Column("read_at", _MOMENT),
        sa.Column("whole_at", _MOMENT),
        sa.Column("tried_at", _MOMENT),
        sa.Column("told", JSONB(), nullable=False),
        sa.ForeignKeyConstraint(
            ["dns_name"],
            ["connections.dns_name"],
            name=op.f("fk_readings_dns_name"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("dns_name", name=op.f("pk_readings")),
    )
    op.create_table(
        "reading_entries",
        sa.Column("dns_name", sa.String(), nullable=False),
        sa.Column("guid", sa.LargeBinary(), nullable=False),
        sa.Column("entry", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["dns_name"],
            ["readings.dns_name"],
            name=op.f("fk_reading_entries_dns_name"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("dns_name", "guid", name=op.f("pk_reading_entries")),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
