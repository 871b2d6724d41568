"""The directory's own word on accounts: which policy holds, and when the password expires."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hornfels.core.resolution.agreement import Word
from hornfels.directory.link import Link
from hornfels.directory.reach import DirectoryError
from hornfels.directory.told import NO_SUCH_OBJECT

_POLICY, _EXPIRES = "msDS-ResultantPSO", "msDS-UserPasswordExpiryTimeComputed"


def words_of(link: Link, names: Mapping[int, str]) -> Iterator[tuple[int, Word]]:
    """The word on each account by its DN, one after another; those that are gone are left out."""
    for row, dn in names.items():
        try:
            values = link.entry(dn, [_POLICY, _EXPIRES])
        except DirectoryError as error:
            if error.code != NO_SUCH_OBJECT:
                raise
            continue
        policy = values.get(_POLICY.lower(), [b""])[0].decode("utf-8", "replace")
        expires = values.get(_EXPIRES.lower())
        yield row, Word(policy, int(expires[0]) if expires else None)
