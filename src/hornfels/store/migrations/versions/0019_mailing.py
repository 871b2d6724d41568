"""Letters to the people under the policies"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0019"
down_revision = "0018"

_WHEN = sa.DateTime(timezone=True)


def _of_domain(table: str) -> list[sa.schema.SchemaItem]:
    return [
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f(f"fk_{table}_domain_id"), ondelete="CASCADE"
        ),
    ]


def upgrade() -> None:
    for column in ("mail", "language"):
        op.add_column("accounts", sa.Column(column, sa.String(), server_default="", nullable=False))
    op.create_table(
        "mailings",
        *_of_domain("mailings"),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("settings", JSONB(), nullable=False),
        sa.Column("looked_at", _WHEN, nullable=True),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("rules", sa.LargeBinary(), nullable=True),
        sa.PrimaryKeyConstraint("domain_id", name=op.f("pk_mailings")),
    )
    op.create_table(
        "letters",
        sa.Column("id", sa.Uuid(), nullable=False),
        *_of_domain("letters"),
        sa.Column("rid", sa.BigInteger(), nullable=False),
        sa.Column("account", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("about", JSONB(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("made_at", _WHEN, nullable=False),
        sa.Column("changed_at", _WHEN, nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_letters")),
    )
    op.create_index("ix_letters_domain_id", "letters", ["domain_id", "made_at"])
    op.create_table(
        "letter_marks",
        *_of_domain("letter_marks"),
        sa.Column("rid", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("at", _WHEN, nullable=False),
        sa.PrimaryKeyConstraint("domain_id", "rid", "kind", "key", name=op.f("pk_letter_marks")),
    )
    # Addresses were not asked for so far: the next reading takes everything anew.
    op.execute("DELETE FROM reading_entries")
    op.execute("UPDATE readings SET invocation = NULL")


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
