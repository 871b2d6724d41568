"""What is done to accounts one by one in the directory."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from operator import methodcaller

from hornfels.directory.link import Link
from hornfels.directory.reach import DirectoryError, UnreachableError
from hornfels.formats.changes import ZEROED, AccountDeed


def carried_out(link: Link, deed: AccountDeed, dns: Iterable[str]) -> Iterator[str]:
    """Do it to accounts by their DN; for each what went wrong, "" if nothing did. Raises
    `UnreachableError` where the server is gone: then the rest was not tried.
    """
    import ldap

    change = [(ldap.MOD_REPLACE, ZEROED[deed], [b"0"])]
    for dn in dns:
        try:
            link.do(f"changing {dn}", methodcaller("modify_s", dn, change))
        except UnreachableError:
            raise
        except DirectoryError as error:
            yield str(error)
        else:
            yield ""


def passwords_set(link: Link, dns: Iterable[str]) -> Iterator[int | None]:
    """When each account's password was set, in ticks since 1601, as the directory has it now; None
    where that is not to be seen.
    """
    for dn in dns:
        values = (link.there(dn, ["pwdLastSet"]) or {}).get("pwdlastset")
        yield int(values[0]) if values else None
