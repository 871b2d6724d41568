"""Roles, sessions that end, tokens, acts of two people, contributors, and the trail"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"

_NOW = sa.text("now()")
_MOMENT = sa.DateTime(timezone=True)


def _of_a_person(table: str) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint(
        ["user_name"], ["users.name"], name=op.f(f"fk_{table}_user_name"), ondelete="CASCADE"
    )


def upgrade() -> None:
    op.add_column(
        "users", sa.Column("password_set_at", _MOMENT, server_default=_NOW, nullable=False)
    )
    op.add_column("users", sa.Column("one_time_until", _MOMENT))
    op.add_column(
        "users", sa.Column("shut", sa.Boolean(), server_default=sa.false(), nullable=False)
    )
    op.add_column("users", sa.Column("added_at", _MOMENT, server_default=_NOW, nullable=False))
    op.create_table(
        "grants",
        sa.Column("user_name", sa.String(), nullable=False),
        sa.Column("domain", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        _of_a_person("grants"),
        sa.PrimaryKeyConstraint("user_name", "domain", "role", name=op.f("pk_grants")),
    )
    # Whoever could sign in could do everything.
    op.execute(
        "INSERT INTO grants (user_name, domain, role) SELECT name, '*', 'administrator' FROM users"
    )
    # Sessions of before have none of this: everybody signs in once more.
    op.execute("DELETE FROM sessions")
    op.add_column("sessions", sa.Column("id", sa.Uuid(), nullable=False))
    op.create_unique_constraint(op.f("uq_sessions_id"), "sessions", ["id"])
    op.create_index(op.f("ix_sessions_user_name"), "sessions", ["user_name"])
    for name in ("opened_at", "seen_at", "proved_at"):
        op.add_column("sessions", sa.Column(name, _MOMENT, server_default=_NOW, nullable=False))
    for name in ("address", "agent"):
        op.add_column("sessions", sa.Column(name, sa.String(), server_default="", nullable=False))
    op.create_table(
        "tokens",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("digest", sa.LargeBinary(), nullable=False),
        sa.Column("user_name", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("domain", sa.String(), nullable=False),
        sa.Column("rights", JSONB(), nullable=False),
        sa.Column("made_at", _MOMENT, server_default=_NOW, nullable=False),
        sa.Column("ends_at", _MOMENT, nullable=False),
        sa.Column("used_at", _MOMENT),
        _of_a_person("tokens"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tokens")),
        sa.UniqueConstraint("digest", name=op.f("uq_tokens_digest")),
    )
    op.create_index(op.f("ix_tokens_user_name"), "tokens", ["user_name"])
    op.create_table(
        "acts",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("domain", sa.String(), nullable=False),
        sa.Column("arguments", JSONB(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("asked_by", sa.String(), nullable=False),
        sa.Column("asked_at", _MOMENT, server_default=_NOW, nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_acts")),
    )
    op.add_column("drafts", sa.Column("contributors", JSONB(), server_default="[]", nullable=False))
    op.execute(
        "UPDATE drafts SET contributors = CASE WHEN author = changed_by "
        "THEN jsonb_build_array(author) ELSE jsonb_build_array(author, changed_by) END"
    )
    op.create_table(
        "trail",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("at", _MOMENT, nullable=False),
        *(
            sa.Column(name, sa.String(), nullable=False)
            for name in ("person", "address", "request", "domain", "what", "about", "detail")
        ),
        sa.Column("previous", sa.LargeBinary(), nullable=False),
        sa.Column("digest", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_trail")),
    )
    op.create_table(
        "trail_stumps",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("digest", sa.LargeBinary(), nullable=False),
        sa.Column("until", _MOMENT, nullable=False),
        sa.Column("cut_at", _MOMENT, nullable=False),
        sa.Column("cut_by", sa.String(), nullable=False),
        sa.Column("signature", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_trail_stumps")),
    )
    op.execute(_CHAINED)
    op.execute(
        "CREATE TRIGGER trail_chained BEFORE INSERT ON trail "
        "FOR EACH ROW EXECUTE FUNCTION trail_chained()"
    )


# What is digested is written out in `hornfels.store.trail`, which checks it.
_CHAINED = """
CREATE FUNCTION trail_chained() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER
SET search_path = pg_catalog AS $$
DECLARE
    last record;
    body bytea := '';
    part text;
BEGIN
    -- One after another: each entry needs the one before it.
    PERFORM pg_advisory_xact_lock(7184);
    SELECT id, digest INTO last FROM public.trail ORDER BY id DESC LIMIT 1;
    IF NOT FOUND THEN
        SELECT id, digest INTO last FROM public.trail_stumps ORDER BY id DESC LIMIT 1;
    END IF;
    NEW.id := coalesce(last.id, 0) + 1;
    NEW.previous := coalesce(last.digest, sha256(''));
    NEW.at := clock_timestamp();
    FOREACH part IN ARRAY ARRAY[
        NEW.id::text, (extract(epoch FROM NEW.at) * 1000000)::bigint::text, NEW.person, NEW.address,
        NEW.request, NEW.domain, NEW.what, NEW.about, NEW.detail
    ] LOOP
        body := body || convert_to(octet_length(convert_to(part, 'UTF8')) || ':' || part, 'UTF8');
    END LOOP;
    NEW.digest := sha256(NEW.previous || body);
    RETURN NEW;
END $$
"""


def downgrade() -> None:
    raise NotImplementedError("Restore a copy of the database instead.")
