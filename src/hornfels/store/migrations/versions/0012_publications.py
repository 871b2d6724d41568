"""What is being written into directories, step by step; people who sign in there"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0012"
down_revision = "0011"

_MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.add_column("users", sa.Column("directory", sa.String()))
    op.create_table(
        "publications",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("draft_id", sa.Integer(), nullable=False),
        sa.Column("author", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("back", sa.Boolean(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("job_id", sa.Uuid()),
        sa.Column("begun_at", _MOMENT, server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"],
            ["domains.id"],
            name=op.f("fk_publications_domain_id"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["draft_id"], ["drafts.id"], name=op.f("fk_publications_draft_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_publications")),
    )
    op.create_index(op.f("ix_publications_domain_id"), "publications", ["domain_id"])
    op.create_table(
        "publication_steps",
        sa.Column("publication_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("step", JSONB(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("guid", sa.Uuid()),
        sa.ForeignKeyConstraint(
            ["publication_id"],
            ["publications.id"],
            name=op.f("fk_publication_steps_publication_id"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("publication_id", "number", name=op.f("pk_publication_steps")),
    )


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
