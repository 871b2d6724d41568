"""Somebody who shows a domain's directory who they are, and which of some groups they are in."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from hornfels.core.values.sid import sid_text
from hornfels.directory.link import Link, linked
from hornfels.directory.person import dn_of, stands
from hornfels.directory.reach import DirectoryError, Reach


@dataclass(frozen=True, slots=True)
class Shown:
    """Who it is: the SID, which nobody else ever gets, the account's name as it is spelt there, and
    those of the groups that were asked for in which they are, at any depth.
    """

    sid: str
    name: str
    groups: frozenset[str]


def shown(
    reader: Reach, base: str, name: str, secret: str, groups: Collection[str]
) -> Shown | None:
    """Who signs in to the domain below `base` by this name and password; None where that is not
    right. The name is what stands before the @, or all of it where the directory gave such a one.
    Raises `UnreachableError`, or `DirectoryError` where the reader may not look.
    """
    if not secret:
        return None
    with linked(reader) as link:
        dn = dn_of(link, base, name)
        if dn is None or stands(reader, dn, secret) != "in":
            return None
        found = link.entry(dn, ["objectSid", "sAMAccountName", "tokenGroups"])
        inside = set(found.get("tokengroups", ()))
        held = frozenset(group for group in groups if _sid(link, group) in inside)
        sid, spelt = found["objectsid"][0], found["samaccountname"][0]
        return Shown(sid_text(sid), spelt.decode("utf-8", "replace"), held)


def _sid(link: Link, group: str) -> bytes | None:
    try:
        held = link.there(group, ["objectSid"])
    except DirectoryError:
        return None
    return held["objectsid"][0] if held and held.get("objectsid") else None
