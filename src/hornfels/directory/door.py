"""The groups that open Hornfels to an account of a domain's directory."""

from __future__ import annotations

from collections.abc import Collection

from hornfels.directory.link import Link
from hornfels.directory.reach import DirectoryError


def groups_of(link: Link, dn: str, groups: Collection[str]) -> frozenset[str]:
    """Return those of `groups` that the account at `dn` is in, at any depth. Raises
    `DirectoryError` where the reader may not look.
    """
    inside = set(link.entry(dn, ["tokenGroups"]).get("tokengroups", ()))
    return frozenset(group for group in groups if _sid(link, group) in inside)


def _sid(link: Link, group: str) -> bytes | None:
    try:
        held = link.there(group, ["objectSid"])
    except DirectoryError:
        return None
    return held["objectsid"][0] if held and held.get("objectsid") else None
