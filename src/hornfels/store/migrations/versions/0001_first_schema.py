"""First schema"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "account_memberships",
        sa.Column("estate_id", sa.Integer(), nullable=False),
        sa.Column("member", sa.Integer(), nullable=False),
        sa.Column("container", sa.Integer(), nullable=False),
    )
    op.create_index(
        "ix_account_memberships_estate_id", "account_memberships", ["estate_id"], unique=False
    )
    op.create_table(
        "accounts",
        sa.Column("estate_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("dn", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("display_name", sa.String(), nullable=False),
        sa.Column("rid", sa.BigInteger(), nullable=False),
        sa.Column("control", sa.BigInteger(), nullable=False),
        sa.Column("password_set", sa.BigInteger(), nullable=False),
        sa.Column("bad_count", sa.Integer(), nullable=False),
        sa.Column("bad_time", sa.BigInteger(), nullable=False),
        sa.Column("lockout_time", sa.BigInteger(), nullable=False),
        sa.Column("primary_group", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("estate_id", "row", name=op.f("pk_accounts")),
    )
    op.create_table(
        "domains",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("dns_name", sa.String(), nullable=False),
        sa.Column("estate_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("dn", sa.String(), nullable=False),
        sa.Column("sid", sa.String(), nullable=False),
        sa.Column("functional_level", sa.Integer(), nullable=True),
        sa.Column("linked_groups", sa.String(), nullable=False),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("gpo_links", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("notices", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column(
            "loaded_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_domains")),
        sa.UniqueConstraint("dns_name", name=op.f("uq_domains_dns_name")),
    )
    op.create_table(
        "group_memberships",
        sa.Column("estate_id", sa.Integer(), nullable=False),
        sa.Column("member", sa.Integer(), nullable=False),
        sa.Column("container", sa.Integer(), nullable=False),
    )
    op.create_index(
        "ix_group_memberships_estate_id", "group_memberships", ["estate_id"], unique=False
    )
    op.create_table(
        "groups",
        sa.Column("estate_id", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("dn", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("rid", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("estate_id", "row", name=op.f("pk_groups")),
    )
    op.create_table(
        "jobs",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("progress", sa.String(), nullable=False),
        sa.Column("error", sa.String(), nullable=False),
        sa.Column("result", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("user_name", sa.String(), nullable=False),
        sa.Column(
            "created_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("now()"),
            nullable=False,
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_jobs")),
    )
    op.create_table(
        "users",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_users")),
    )
    op.create_table(
        "links",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("guid", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("target", sa.Integer(), nullable=False),
        sa.Column("dn", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_links_domain_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_links")),
    )
    op.create_index(op.f("ix_links_domain_id"), "links", ["domain_id"], unique=False)
    op.create_table(
        "policies",
        sa.Column("domain_id", sa.Integer(), nullable=False),
        sa.Column("guid", sa.Uuid(), nullable=False),
        sa.Column("dn", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("precedence", sa.Integer(), nullable=False),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("mark", sa.Integer(), nullable=False),
        sa.Column("guarded", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("changed_by", sa.String(), nullable=False),
        sa.Column(
            "changed_at",
            sa.DateTime(timezone=True),
            server_default=sa.text("now()"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(
            ["domain_id"], ["domains.id"], name=op.f("fk_policies_domain_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("domain_id", "guid", name=op.f("pk_policies")),
        sa.UniqueConstraint("domain_id", "name", name=op.f("uq_policies_domain_id")),
    )
    op.create_table(
        "sessions",
        sa.Column("token_digest", sa.LargeBinary(), nullable=False),
        sa.Column("user_name", sa.String(), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["user_name"], ["users.name"], name=op.f("fk_sessions_user_name"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("token_digest", name=op.f("pk_sessions")),
    )


def downgrade() -> None:
    op.drop_table("sessions")
    op.drop_table("policies")
    op.drop_index(op.f("ix_links_domain_id"), table_name="links")
    op.drop_table("links")
    op.drop_table("users")
    op.drop_table("jobs")
    op.drop_table("groups")
    op.drop_index("ix_group_memberships_estate_id", table_name="group_memberships")
    op.drop_table("group_memberships")
    op.drop_table("domains")
    op.drop_table("accounts")
    op.drop_index("ix_account_memberships_estate_id", table_name="account_memberships")
    op.drop_table("account_memberships")
