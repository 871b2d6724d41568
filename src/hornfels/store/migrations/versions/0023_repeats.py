"""History names tasks and what the directory holds; writes that come twice are known"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    op.add_column("history", sa.Column("task", sa.String(), nullable=True))
    op.add_column("history", sa.Column("in_directory", sa.Boolean(), nullable=True))
    op.add_column("history", sa.Column("change_records", sa.String(), nullable=True))
    op.create_unique_constraint(op.f("uq_history_domain_id"), "history", ["domain_id", "task"])
    op.add_column("exposure_deeds", sa.Column("point", sa.Integer(), nullable=True))
    op.create_foreign_key(
        op.f("fk_exposure_deeds_point_history"),
        "exposure_deeds",
        "history",
        ["point"],
        ["id"],
        ondelete="SET NULL",
    )
    op.create_unique_constraint(
        op.f("uq_exposure_deeds_point"), "exposure_deeds", ["point", "account"]
    )

    op.create_table(
        "repeats",
        sa.Column("key", sa.LargeBinary(), nullable=False),
        sa.Column("asked", sa.LargeBinary(), nullable=False),
        sa.Column(
            "at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.Column("status", sa.Integer(), nullable=True),
        sa.Column("headers", JSONB(), server_default="{}", nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=True),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_repeats")),
    )
    op.create_index("ix_repeats_at", "repeats", ["at"])


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
