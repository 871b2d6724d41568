"""Somebody who comes for their own password: found, shown to be who they say, and given another."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Literal

from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.values.sid import sid_text
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import DirectoryError, Reach, RefusedError
from hornfels.directory.told import why_refused

Standing = Literal["in", "must change", "wrong", "locked", "disabled", "ended", "not now"]
"""What came of a name and password: they are right; right, and another password has to be chosen
first; wrong; not looked at, since the account is locked; right, and the account is disabled, has
ended, or may not sign in at this hour or from here.
"""
_STANDINGS: dict[str, Standing] = {
    "530": "not now",
    "531": "not now",
    "532": "must change",
    "533": "disabled",
    "701": "ended",
    "773": "must change",
    "775": "locked",
}
"""By the number that a server gives as its reason."""

ChangeRefused = Literal[
    "present", "rules", "length", "complexity", "history", "minimum_age", "locked", "not allowed"
]
"""Why a change is refused: the present password is wrong; one of the rules, which the directory
does not say; the rule itself; the account is locked; it may not change its own.
"""
_WRONG, _RULES, _LOCKED = "00000056", "0000052D", "00000775"
_REASON = re.compile(r"[0-9A-F]{8}(?=:)")
_SAID: tuple[tuple[str, ChangeRefused], ...] = (
    ("too short", "length"),
    ("complexity", "complexity"),
    ("history", "history"),
    ("too young", "minimum_age"),
)
"""Words by which some servers say which rule it was; others say only that it was one."""
_NOT_PERMITTED = 50
_ATTRIBUTES = (
    "objectSid",
    "sAMAccountName",
    "displayName",
    "userAccountControl",
    "pwdLastSet",
    "lockoutTime",
)


@dataclass(frozen=True, slots=True)
class DirectoryAccount:
    """An account as the directory has it now; moments are ticks since 1601."""

    dn: str
    sid: str
    name: str
    display_name: str
    control: int
    password_set: int
    lockout_time: int


def named(link: Link, base: str, name: str) -> DirectoryAccount | None:
    """The account that somebody means who signs in to the domain below `base` by this name, which
    is what stands before the @, or all of it where the directory gave such a one; None for none.
    """
    dn = dn_of(link, base, name)
    return None if dn is None else looked_up(link, dn)


def looked_up(link: Link, place: str) -> DirectoryAccount | None:
    """An account by its DN, or its SID as ``<SID=…>`` ([MS-ADTS] 3.1.1.3.1.2.4); None if it is not
    there.
    """
    values = link.there(place, [*_ATTRIBUTES, "distinguishedName"])
    if values is None:
        return None

    def number(attribute: str, otherwise: int = 0) -> int:
        held = values.get(attribute)
        return int(held[0]) if held else otherwise

    def text(attribute: str) -> str:
        return values.get(attribute, [b""])[0].decode("utf-8", "replace")

    return DirectoryAccount(
        text("distinguishedname"),
        sid_text(values["objectsid"][0]),
        text("samaccountname"),
        text("displayname"),
        number("useraccountcontrol"),
        number("pwdlastset", UNKNOWN_TIME),
        number("lockouttime"),
    )


def dn_of(link: Link, base: str, name: str) -> str | None:
    """The DN of whoever signs in by this name, None for nobody."""
    import ldap.filter

    # Also as it was written before there were @: DOMAIN\\name.
    plain = name.rpartition("\\")[2]
    local = plain.rpartition("@")[0] or plain
    whole, local = (ldap.filter.escape_filter_chars(one) for one in (plain, local))
    # One that was given this very name comes before one that is only called so.
    for where in (f"(userPrincipalName={whole})", f"(sAMAccountName={local})"):
        found = [dn for dn, _ in link.search(base, "sub", f"(&(objectClass=user){where})", ["cn"])]
        if len(found) == 1:
            return found[0]
    return None


def stands(reader: Reach, dn: str, secret: str) -> Standing:
    """What the directory says to an account's password; a wrong one counts there as a bad try.
    Raises `DirectoryError` where it says nothing.
    """
    if not secret:
        # Without a password a server takes anybody for nobody in particular (RFC 4513, 5.1.2).
        return "wrong"
    try:
        linked(as_oneself(reader, dn, secret)).close()
    except RefusedError as error:
        return _STANDINGS.get(why_refused(error.info), "wrong")
    return "in"


def as_oneself(reader: Reach, dn: str, secret: str) -> Reach:
    """The way to the same servers for an account with its own password. Where the reader comes by a
    ticket, whose Kerberos encrypts without TLS, this takes TLS: the password must not go in clear.
    """
    own = replace(reader, bind="simple", name=dn, secret=secret)
    if reader.bind == "simple":
        return own
    servers = tuple(replace(server, port=None) for server in reader.servers)
    return replace(own, security="ldaps", servers=servers)


def changed(link: Link, dn: str, present: str, fresh: str) -> ChangeRefused | None:
    """Change an account's password as its person does ([MS-ADTS] 3.1.1.3.1.5.1): None if that is
    done. A wrong present one counts in the directory as a bad try. Whoever is bound needs the right
    to change passwords, which everybody has unless it was taken away; so also somebody can be
    helped whom the directory lets in no more before there is another one.
    """
    import ldap

    change = [
        (ldap.MOD_DELETE, "unicodePwd", [quoted(present)]),
        (ldap.MOD_ADD, "unicodePwd", [quoted(fresh)]),
    ]
    try:
        link.do("changing a password", lambda library: library.modify_s(dn, change))
    except DirectoryError as error:
        refused = change_refused(error)
        if refused is None:
            raise
        return refused
    return None


def change_refused(error: DirectoryError) -> ChangeRefused | None:
    """Why a change was refused, by what the server said; None if it was not the change that was."""
    if error.code == _NOT_PERMITTED:
        return "not allowed"
    found = _REASON.search(error.info.upper())
    reason = found[0] if found else ""
    if reason == _WRONG:
        return "present"
    if reason == _LOCKED:
        return "locked"
    if reason != _RULES:
        return None
    said = error.info.lower()
    return next((rule for words, rule in _SAID if words in said), "rules")


def quoted(secret: str) -> bytes:
    """A password as it is written ([MS-ADTS] 3.1.1.3.1.5.1)."""
    return f'"{secret}"'.encode("utf-16-le")
