"""Servers with templates of their own, in sets that should agree"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "server_sets",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("like_server", sa.String()),
        sa.Column("agreed", JSONB(none_as_null=True)),
        sa.Column("agreed_by", sa.String(), nullable=False),
        sa.Column("agreed_at", _MOMENT),
        sa.ForeignKeyConstraint(
            ["domain_id"],
            ["domains.id"],
            name=op.f("fk_server_sets_domain_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_server_sets")),
        sa.UniqueConstraint("domain_id", "key", name=op.f("uq_server_sets_domain_id")),
    )
    op.create_table(
        "servers",
        sa.Column("set_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("template", JSONB(none_as_null=True)),
        sa.Column("problem", sa.String(), nullable=False),
        sa.Column("file", sa.LargeBinary()),
        sa.Column("seen", sa.String(), nullable=False),
        sa.Column("read_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["set_id"], ["server_sets.id"], name=op.f("fk_servers_set_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("set_id", "key", name=op.f("pk_servers")),
    )
    op.create_table(
        "server_readings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("set_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("at", _MOMENT, server_default=sa.text("now()"), nullable=False),
        sa.Column("template", JSONB(none_as_null=True)),
        sa.Column("problem", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["set_id", "key"],
            ["servers.set_id", "servers.key"],
            name=op.f("fk_server_readings_set_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_server_readings")),
    )
    op.create_index(op.f("ix_server_readings_set_id"), "server_readings", ["set_id", "key"])


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
