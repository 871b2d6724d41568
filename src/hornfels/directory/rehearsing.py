"""An account made for a moment, put under a policy, on which passwords are really set and sign-ins
really tried. It goes whatever happens; one that a crash has left behind is found by its mark.
"""

from __future__ import annotations

import contextlib
import secrets
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from hornfels.core.lockout.machine import EventKind, Outcome
from hornfels.core.policy.catalogue import LINKS_ATTRIBUTE
from hornfels.core.values.dn import loose_key
from hornfels.directory.asking import words_of
from hornfels.directory.link import Link, linked
from hornfels.directory.person import as_oneself, quoted
from hornfels.directory.reach import DirectoryError, Reach, RefusedError

PREFIX = "hornfels-"
_MARK = "Made by Hornfels to rehearse a policy; it goes by itself."
_ENABLED = b"512"
_REFUSED = (19, 53)
"""How a server refuses a password: a constraint is violated, or it is unwilling."""


def fresh_name() -> str:
    """A name that no account has yet."""
    return PREFIX + secrets.token_hex(5)


@dataclass(frozen=True, slots=True)
class StandIn:
    """The account: its link is the one of whoever writes, `reach` how others sign in."""

    link: Link
    reach: Reach
    dn: str

    def set_password(self, secret: str) -> str:
        """Set it as an administrator does; "" or why the directory refuses it."""
        import ldap

        change: list[Any] = [(ldap.MOD_REPLACE, "unicodePwd", [quoted(secret)])]
        try:
            self.link.do("setting a password", lambda library: library.modify_s(self.dn, change))
        except RefusedError:
            raise
        except DirectoryError as error:
            if error.code not in _REFUSED:
                raise
            return "The directory refuses it."
        return ""

    def begin(self, old: str, now: str) -> None:
        """Let it sign in by `now`, the password after `old`. Raises `DirectoryError`."""
        import ldap

        for secret in (old, now):
            if self.set_password(secret):
                raise DirectoryError(
                    "The directory refuses a password of 24 characters of every kind: no story can "
                    "be played under this policy."
                )
        enabled: list[Any] = [(ldap.MOD_REPLACE, "userAccountControl", [_ENABLED])]
        self.link.do("enabling the account", lambda library: library.modify_s(self.dn, enabled))

    def happen(self, event: EventKind, old: str, now: str) -> Outcome:
        """One event of a story, as the directory takes it."""
        import ldap

        if event == "unlock":
            unlock: list[Any] = [(ldap.MOD_REPLACE, "lockoutTime", [b"0"])]
            self.link.do("unlocking", lambda library: library.modify_s(self.dn, unlock))
            return "unlocked"
        secret = {"good": now, "old": old}.get(event) or secrets.token_urlsafe(24)
        here = replace(self.reach, servers=(self.link.server,))
        try:
            linked(as_oneself(here, self.dn, secret)).close()
        except RefusedError as error:
            return "locked" if "is locked" in str(error) else "refused"
        return "accepted"


@contextlib.contextmanager
def standing_in(link: Link, reach: Reach, place: str, name: str, policy: str) -> Iterator[StandIn]:
    """The account of this name in the container `place`, under the policy of that DN, or under the
    domain policy for "". Raises `DirectoryError`, also where another policy holds for it.
    """
    import ldap

    dn = f"CN={name},{place}"
    entry = [
        ("objectClass", [b"user"]),
        ("sAMAccountName", [name.encode()]),
        ("description", [_MARK.encode()]),
    ]
    link.do(f"adding an account in {place}", lambda library: library.add_s(dn, entry))
    try:
        if policy:
            linked: list[Any] = [(ldap.MOD_ADD, LINKS_ATTRIBUTE, [dn.encode()])]
            link.do("putting it under the policy", lambda library: library.modify_s(policy, linked))
        held = next((word.policy for _, word in words_of(link, {0: dn})), "")
        if loose_key(held) != loose_key(policy):
            raise DirectoryError(
                f"The directory gives the account {held or 'the domain policy'} instead: a group "
                "that every account is in, or the functional level, has it so."
            )
        yield StandIn(link, reach, dn)
    finally:
        try:
            link.do(f"deleting {dn}", lambda library: library.delete_s(dn))
        except DirectoryError as error:
            raise DirectoryError(
                f"{error} The account {name} is still in {place}; it goes with the next rehearsal "
                "or reading."
            ) from None


def left_behind(link: Link, place: str) -> list[tuple[str, str]]:
    """Names and DNs of the accounts that were made to rehearse and are still there."""
    where = f"(&(objectClass=user)(sAMAccountName={PREFIX}*)(description={_MARK}))"
    found = link.search(place, "one", where, ["sAMAccountName"])
    return [(v["samaccountname"][0].decode("utf-8", "replace"), dn) for dn, v in found]


def swept(link: Link, place: str, wanted: Callable[[str], bool]) -> list[str]:
    """Delete those that a crash has left behind; `wanted` says of a name whether somebody is at it.
    The names of those that are gone.
    """
    gone = []
    for name, dn in left_behind(link, place):
        if not wanted(name):
            link.do(f"deleting {dn}", lambda library, dn=dn: library.delete_s(dn))  # type: ignore[misc]
            gone.append(name)
    return gone
