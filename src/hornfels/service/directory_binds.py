"""Passwords that a person gives and a domain's directory checks. Whatever page asks, Hornfels
causes fewer failed attempts at an account than lock the account, and a stranger learns nothing from
the answer.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from secrets import token_hex, token_urlsafe

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.account_state import settings_of
from hornfels.core.lockout.bind_budget import LockoutRule, bind_budget
from hornfels.core.values.time import moment_from_datetime
from hornfels.directory.link import Link
from hornfels.directory.lockout_now import lockout_now
from hornfels.directory.person import DirectoryAccount, Standing, stands
from hornfels.directory.reach import Reach
from hornfels.refusals import TooManyTriesError
from hornfels.service.snapshots import Snapshot
from hornfels.store import bind_attempts

TURNED_AWAY = (
    "You are not signed in. The name or the password is wrong, the account may not sign in, or too "
    "many wrong passwords were given. Try again later, or ask the help desk. Hornfels checks no "
    "password of an account that locks after one or two failed attempts."
)
"""The one answer to every sign-in at a directory that fails: the directory, an unknown name and a
used-up budget sound alike.
"""


def sign_in_as(
    engine: Engine,
    current: Snapshot | None,
    domain: str,
    link: Link,
    reader: Reach,
    account: DirectoryAccount | None,
    name: str,
    secret: str,
) -> Standing:
    """Return what the directory says to a password. Without an account of this name, or where one
    more failed attempt could bring the account near its threshold, a name that nobody has is tried
    in its place: that takes as long. Raises `DirectoryError`.
    """
    try:
        with counted(engine, current, domain, link, account, name) as attempt:
            if account is not None:
                attempt.standing = stands(reader, account.dn, secret)
                return attempt.standing
    except TooManyTriesError:
        pass
    stands(reader, f"CN={token_hex(8)},{base_of(domain)}", token_urlsafe(16))
    return "wrong"


class Attempt:
    """A password that is shown to the directory. ``standing`` is what the directory said; until
    then the attempt counts as failed.
    """

    standing: Standing = "wrong"


@contextmanager
def counted(
    engine: Engine,
    current: Snapshot | None,
    domain: str,
    link: Link,
    account: DirectoryAccount | None,
    name: str,
) -> Iterator[Attempt]:
    """Count an attempt at an account as failed before the directory is asked, and as what it was
    afterwards. Raises `TooManyTriesError` where no attempt is left.
    """
    synced = synced_rule(current, account.sid) if account else None
    live = lockout_now(link, base_of(domain), account.dn) if account else None
    if live is not None and (wait := live.wait(moment_from_datetime(datetime.now(UTC)))):
        raise _too_many(wait)
    budget = bind_budget(live.rule if live else None, synced)
    key = bind_attempts.key_of(domain, account.sid if account else None, name)
    with Session(engine) as session, session.begin():
        seconds = bind_attempts.begin(session, key, budget)
    if seconds:
        raise _too_many(seconds)
    attempt = Attempt()
    yield attempt
    if attempt.standing != "wrong":
        with Session(engine) as session, session.begin():
            settle = bind_attempts.clear if attempt.standing == "in" else bind_attempts.give_back
            settle(session, key)


def synced_rule(current: Snapshot | None, sid: str) -> LockoutRule | None:
    """Return how the account locks by the last sync, None if the account was not synced."""
    row = current.live.estate.account_with_sid(sid) if current else None
    if current is None or row is None:
        return None
    policy = int(current.live.resolution.winner_of_account[row])
    settings = settings_of(current.live.estate, policy)
    return LockoutRule(settings.lockout_threshold, settings.lockout_window)


def base_of(domain: str) -> str:
    """Return the distinguished name of a domain by its DNS name."""
    return ",".join(f"DC={part}" for part in domain.split("."))


def _too_many(seconds: int) -> TooManyTriesError:
    minutes = -(-seconds // 60)
    words = (
        "Hornfels shows the directory no more passwords of this account for now, so that the "
        f"account does not lock. Try again in {minutes} minute{'s' * (minutes != 1)}."
    )
    return TooManyTriesError(words, seconds)
