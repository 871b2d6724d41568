"""A point in history names its automatic task, and whether the directory holds it"""

import sqlalchemy as sa
from alembic import op

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


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
