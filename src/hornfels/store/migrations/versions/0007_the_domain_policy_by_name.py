"""In operations the domain policy goes by its name, no longer by nothing.

Revision ID: 0007
Revises: 0006
"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    connection = op.get_bind()
    kept = {"drafts": ("operations", "past", "future"), "history": ("operations",)}
    for table, columns in kept.items():
        rows = sa.table(table, sa.column("id"), *(sa.column(name, JSONB()) for name in columns))
        for row in connection.execute(sa.select(rows)).mappings().all():
            named = {name: with_name(row[name]) for name in columns}
            connection.execute(sa.update(rows).where(rows.c.id == row["id"]).values(**named))


def with_name(kept: Any) -> Any:
    """Operations, or steps between them, with the domain policy's name."""
    if isinstance(kept, list):
        return [with_name(part) for part in kept]
    if "put" in kept:
        return {**kept, "put": with_name(kept["put"])}
    if kept["kind"] == "edit_settings" and kept["policy"] is None:
        return {**kept, "policy": "domain"}
    return kept


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
