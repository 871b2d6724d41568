"""What policies ask beyond the directory's own rules, blocked terms, and more names of accounts"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column("policies", sa.Column("addition", JSONB(none_as_null=True)))
    op.add_column("domains", sa.Column("addition", JSONB(none_as_null=True)))
    op.add_column("domains", sa.Column("term_lists", JSONB(), server_default="{}", nullable=False))
    op.add_column(
        "accounts", sa.Column("other_names", sa.String(), server_default="", nullable=False)
    )
    op.create_table(
        "terms",
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("terms", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_terms_domain_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("domain_id", "digest", name=op.f("pk_terms")),
    )
    # Names that were not asked for so far are in what the next reading takes anew.
    op.execute("DELETE FROM reading_entries")
    op.execute("UPDATE readings SET invocation = NULL")


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
