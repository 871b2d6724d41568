"""Bits of pwdProperties that are kept as read, and policies that the directory gave another GUID"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column(
        "domains",
        sa.Column("other_properties", sa.BigInteger(), server_default="0", nullable=False),
    )
    op.add_column("domains", sa.Column("successors", JSONB(), server_default="{}", nullable=False))


def downgrade() -> None:
    op.drop_column("domains", "successors")
    op.drop_column("domains", "other_properties")
