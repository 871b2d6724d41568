"""Unlocking accounts in the directory ([MS-SAMR] 3.1.1.8.1: a lockoutTime of 0)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from operator import methodcaller

from hornfels.directory.link import Link
from hornfels.directory.reach import DirectoryError, UnreachableError


def unlock(link: Link, dns: Iterable[str]) -> Iterator[str]:
    """Unlock accounts by their DN; for each what went wrong, "" if nothing did. Raises
    `UnreachableError` where the server is gone: then the rest was not tried.
    """
    import ldap

    change = [(ldap.MOD_REPLACE, "lockoutTime", [b"0"])]
    for dn in dns:
        try:
            link.do(f"unlocking {dn}", methodcaller("modify_s", dn, change))
        except UnreachableError:
            raise
        except DirectoryError as error:
            yield str(error)
        else:
            yield ""
