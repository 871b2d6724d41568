"""Blocked terms, kept by what they hold: a list of a domain leads to some by their digest."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.policy.term_lists import TermList, list_of
from hornfels.store.models import TermsRow


def keep(session: Session, domain_id: int, terms: Sequence[str]) -> TermList:
    """Keep these tidied terms for a domain; what leads to them has to come in the same
    transaction. Those that are kept already are left as they are.
    """
    found = list_of(terms)
    row = {"domain_id": domain_id, "digest": found.digest, "terms": "\n".join(terms)}
    session.execute(insert(TermsRow).values(row).on_conflict_do_nothing())
    return found


def forget(session: Session, domain_id: int) -> None:
    """Forget the terms of a domain that nothing leads to any more."""
    session.execute(_FORGET, {"domain": domain_id})


_FORGET = text(
    """
    DELETE FROM terms t WHERE t.domain_id = :domain
    AND NOT EXISTS (
        SELECT FROM domains d WHERE d.id = t.domain_id
        AND strpos(d.term_lists::text, t.digest) > 0)
    AND NOT EXISTS (
        SELECT FROM drafts d
        WHERE d.domain_id = t.domain_id AND d.state IN ('open', 'publishing')
        AND strpos(concat(d.operations, d.past, d.future), t.digest) > 0)
    AND NOT EXISTS (
        SELECT FROM history h WHERE h.domain_id = t.domain_id
        AND strpos(h.operations::text, t.digest) > 0)
    """
)
"""What is live, what an open draft does, did or could do again, and what was published stays."""


def are_kept(session: Session, domain_id: int, terms: TermList) -> bool:
    """Whether a domain has kept these terms, now or once."""
    return session.get(TermsRow, (domain_id, terms.digest)) is not None


def of_digest(session: Session, domain_id: int, digest: str) -> tuple[str, ...]:
    """The terms of this digest. Raises `KeyError` where none are kept."""
    row = session.get(TermsRow, (domain_id, digest))
    if row is None:
        raise KeyError(digest)
    return tuple(row.terms.split("\n")) if row.terms else ()
