"""Taking old entries out of the trail by command. What is left is a stump: the last entry that
went, signed with a key that the database does not hold.
"""

from __future__ import annotations

import hashlib
import hmac
from collections.abc import Callable
from datetime import datetime

import psycopg
from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.store.models import StumpRow
from hornfels.store.trail import FIRST


def beginning(session: Session, key: Callable[[], bytes]) -> tuple[tuple[int, bytes], str]:
    """What the first entry is chained to, and what is wrong with the stump there, if anything."""
    stump = session.scalars(select(StumpRow).order_by(StumpRow.id.desc()).limit(1)).one_or_none()
    if stump is None:
        return (0, FIRST), ""
    start = stump.id, stump.digest
    signed = _signature(key(), stump.id, stump.digest, stump.until, stump.cut_by)
    if not hmac.compare_digest(signed, stump.signature):
        return start, f"The stump before entry {stump.id + 1} is not signed by this machine's key."
    return start, ""


def prune(
    connection: psycopg.Connection, before: datetime, person: str, reason: str, key: bytes
) -> int:
    """Take out the entries older than a moment, all or none; how many. The connection's role owns
    the trail.
    """
    with connection.transaction():
        connection.execute("SELECT pg_advisory_xact_lock(7184)")
        last = connection.execute(
            "SELECT id, digest, at FROM public.trail WHERE at < %s ORDER BY id DESC LIMIT 1",
            (before,),
        ).fetchone()
        if last is None:
            return 0
        number, digest, until = last
        gone = connection.execute("DELETE FROM public.trail WHERE id <= %s", (number,)).rowcount
        connection.execute(
            "INSERT INTO public.trail_stumps (id, digest, until, cut_at, cut_by, signature) "
            "VALUES (%s, %s, %s, now(), %s, %s)",
            (number, digest, until, person, _signature(key, number, digest, until, person)),
        )
        connection.execute(
            "INSERT INTO public.trail (person, address, request, domain, what, about, detail) "
            "VALUES (%s, '', '', '', 'trail pruned', %s, "
            "jsonb_build_object('reason', %s::text)::text)",
            (person, f"{gone} entries up to number {number}", reason),
        )
    return gone


def _signature(key: bytes, number: int, digest: bytes, until: datetime, person: str) -> bytes:
    told = f"{number} {digest.hex()} {int(until.timestamp())} {person}"
    return hmac.new(key, told.encode(), hashlib.sha256).digest()
