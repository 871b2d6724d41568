"""Blocked terms, kept by what they hold: a list of a domain leads to some by their digest."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hornfels.core.policy.term_lists import TermList, list_of
from hornfels.store.models import TermsRow


def keep(session: Session, domain_id: int, terms: Sequence[str]) -> TermList:
    """Keep these tidied terms for a domain. Those that are kept already are left as they are."""
    found = list_of(terms)
    row = {"domain_id": domain_id, "digest": found.digest, "terms": "\n".join(terms)}
    session.execute(insert(TermsRow).values(row).on_conflict_do_nothing())
    return found


def are_kept(session: Session, domain_id: int, terms: TermList) -> bool:
    """Whether a domain has kept these terms, now or once."""
    return session.get(TermsRow, (domain_id, terms.digest)) is not None


def of_digest(session: Session, domain_id: int, digest: str) -> tuple[str, ...]:
    """The terms of this digest. Raises `KeyError` where none are kept."""
    row = session.get(TermsRow, (domain_id, digest))
    if row is None:
        raise KeyError(digest)
    return tuple(row.terms.split("\n")) if row.terms else ()
