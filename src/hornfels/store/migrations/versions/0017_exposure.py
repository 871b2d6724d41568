"""Accounts whose passwords others know, what becomes of them, and what was done"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"

_WHEN = sa.DateTime(timezone=True)


def _of_domain(table: str) -> list[sa.schema.SchemaItem]:
    return [
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f(f"fk_{table}_domain_id"), ondelete="CASCADE"
        ),
    ]


def upgrade() -> None:
    op.add_column(
        "domains", sa.Column("exposure_told", sa.String(), server_default="", nullable=False)
    )
    op.create_table(
        "exposure_runs",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        *_of_domain("exposure_runs"),
        sa.Column("at", _WHEN, nullable=False),
        sa.Column("whole", sa.Boolean(), nullable=False),
        sa.Column("compared", sa.Integer(), nullable=False),
        sa.Column("unknown", sa.Integer(), nullable=False),
        sa.Column("found", JSONB(), nullable=False),
        sa.Column("stamp", JSONB(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exposure_runs")),
    )
    op.create_index("ix_exposure_runs_domain_id", "exposure_runs", ["domain_id", "at"])
    op.create_table(
        "exposures",
        *_of_domain("exposures"),
        sa.Column("rid", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("list", sa.String(), nullable=False),
        sa.Column("group", sa.Integer(), nullable=False),
        sa.Column("since", _WHEN, nullable=False),
        sa.Column("set_at", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("domain_id", "rid", "kind", "list", name=op.f("pk_exposures")),
    )
    op.create_table(
        "exposure_orders",
        *_of_domain("exposure_orders"),
        sa.Column("policy", sa.String(), nullable=False),
        sa.Column("consequence", sa.String(), nullable=False),
        sa.Column("days", sa.Integer(), nullable=False),
        sa.Column("standing", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("domain_id", "policy", name=op.f("pk_exposure_orders")),
    )
    op.create_table(
        "exposure_deeds",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        *_of_domain("exposure_deeds"),
        sa.Column("at", _WHEN, nullable=False),
        sa.Column("by", sa.String(), nullable=False),
        sa.Column("account", sa.String(), nullable=False),
        sa.Column("policy", sa.String(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exposure_deeds")),
    )
    op.create_index("ix_exposure_deeds_domain_id", "exposure_deeds", ["domain_id", "at"])


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
