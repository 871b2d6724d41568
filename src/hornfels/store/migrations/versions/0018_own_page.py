"""People under the policies at a page of their own"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"

_WHEN = sa.DateTime(timezone=True)


def _of_domain(table: str) -> list[sa.schema.SchemaItem]:
    return [
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f(f"fk_{table}_domain_id"), ondelete="CASCADE"
        ),
        sa.Column("sid", sa.String(), nullable=False),
    ]


def upgrade() -> None:
    op.create_table(
        "own_sessions",
        sa.Column("token_digest", sa.LargeBinary(), nullable=False),
        *_of_domain("own_sessions"),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("must_change", sa.Boolean(), nullable=False),
        sa.Column("password_set", sa.BigInteger(), nullable=False),
        sa.Column("seen_at", _WHEN, nullable=False),
        sa.Column("expires_at", _WHEN, nullable=False),
        sa.PrimaryKeyConstraint("token_digest", name=op.f("pk_own_sessions")),
    )
    op.create_table(
        "own_tries",
        *_of_domain("own_tries"),
        sa.Column("tried_at", _WHEN, nullable=False),
        sa.PrimaryKeyConstraint("domain_id", "sid", name=op.f("pk_own_tries")),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
