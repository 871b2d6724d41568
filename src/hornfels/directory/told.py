"""What a directory server or its client library says, in sentences with what to do."""

from __future__ import annotations

import re
from typing import Any

from hornfels.directory.reach import DirectoryError, RefusedError, UnreachableError

_BIND = {
    "525": "nobody of that name is known",
    "52e": "name or password is wrong",
    "530": "it may not sign in at this hour",
    "531": "it may not sign in from here",
    "532": "its password has expired; set another one",
    "533": "it is disabled",
    "701": "it has expired",
    "773": "it has to change its password first",
    "775": "it is locked; unlock it",
}
"""Why a bind is refused, by the number that a server gives it."""
_DATA = re.compile(r"data ([0-9a-f]{3,4})", re.IGNORECASE)

NO_SUCH_ATTRIBUTE = 16
"""What was to be deleted is not there: somebody has changed it meanwhile."""
NO_SUCH_OBJECT = 32
ALREADY_THERE = (20, 68)


def told(error: Any, server: str, what: str) -> DirectoryError:
    """`what` was to be done when the library raised `error`."""
    import ldap

    given = error.args[0] if error.args and isinstance(error.args[0], dict) else {}
    info = _plain(str(given.get("info", "")))
    code = given.get("result")
    match error:
        case ldap.SERVER_DOWN() | ldap.CONNECT_ERROR():
            return UnreachableError(f"{server}: the connection broke while {what}.")
        case ldap.TIMEOUT():
            return UnreachableError(f"{server}: it did not answer in time while {what}.")
        case ldap.BUSY() | ldap.UNAVAILABLE():
            return UnreachableError(f"{server}: it is too busy for {what}.", code)
        case ldap.INVALID_CREDENTIALS():
            why = _BIND.get(why_refused(info), "name or password is wrong")
            words = f"{server} does not take the account that is to bind: {why}."
            return RefusedError(words, code, info)
        case ldap.INSUFFICIENT_ACCESS():
            return RefusedError(
                f"{server}: the account may not do this ({what}). docs/directory.md has the rights "
                "that it needs.",
                code,
            )
        case ldap.STRONG_AUTH_REQUIRED() | ldap.CONFIDENTIALITY_REQUIRED():
            return RefusedError(
                f"{server} takes no password on a connection in clear. Use LDAPS or StartTLS.", code
            )
        case ldap.SIZELIMIT_EXCEEDED() | ldap.ADMINLIMIT_EXCEEDED():
            return DirectoryError(
                f"{server}: it stopped at a limit of its own while {what}. Raise the limit for "
                "this account, or read from another server.",
                code,
            )
        case ldap.TIMELIMIT_EXCEEDED():
            return DirectoryError(
                f"{server}: {what} took longer than it allows. Read at a quieter hour.", code
            )
        case ldap.NO_SUCH_OBJECT():
            return DirectoryError(f"{server}: there is no such object ({what}).", code)
        case ldap.REFERRAL():
            return DirectoryError(
                f"{server} sends us to another server for {what}. Name a server of this domain.",
                code,
            )
    return DirectoryError(f"{server}: {what} failed ({_short(error, info)}).", code, info)


def why_refused(info: str) -> str:
    """The hexadecimal number by which a server says why it refuses a bind; "" for none."""
    found = _DATA.search(info)
    return found[1].lower() if found else ""


def _short(error: Any, info: str) -> str:
    given = error.args[0] if error.args and isinstance(error.args[0], dict) else {}
    return f"{given.get('desc', type(error).__name__)}{': ' + info if info else ''}"[:300]


def _plain(words: str) -> str:
    return "".join(c if c.isprintable() else " " for c in words).strip()
