"""Since when values of an object are as they are, and at which server they were changed, by what
the directory keeps for its own copies ([MS-DRSR] 5.164, PROPERTY_META_DATA_VECTOR). It keeps
nowhere who it was.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import NamedTuple
from uuid import UUID

from hornfels.core.drafts.edits import SETTINGS_CONTAINER
from hornfels.core.policy.catalogue import LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE
from hornfels.core.values.dn import first_value, parent_of
from hornfels.directory.link import Link, Values
from hornfels.directory.reach import DirectoryError
from hornfels.formats import gp_links
from hornfels.formats.descriptor import RULES_ATTRIBUTE

ANY, MADE = "", "objectClass"
"""Whatever of the object was changed last, and when it was made."""

_MICROSOFT = 0x90000
"""Stands for 1.2.840.113556.1.4 in the number of an attribute ([MS-DRSR] 5.16.4)."""
_NUMBERS = {
    "maxPwdAge": 74,
    "minPwdAge": 78,
    "minPwdLength": 79,
    "pwdHistoryLength": 95,
    "pwdProperties": 93,
    "lockoutDuration": 60,
    "lockOutObservationWindow": 61,
    "lockoutThreshold": 73,
    gp_links.ATTRIBUTE: 891,
    "msDS-MaximumPasswordAge": 2011,
    "msDS-MinimumPasswordAge": 2012,
    "msDS-MinimumPasswordLength": 2013,
    "msDS-PasswordHistoryLength": 2014,
    "msDS-PasswordComplexityEnabled": 2015,
    "msDS-PasswordReversibleEncryptionEnabled": 2016,
    "msDS-LockoutObservationWindow": 2017,
    "msDS-LockoutDuration": 2018,
    "msDS-LockoutThreshold": 2019,
    LINKS_ATTRIBUTE: 2020,
    PRECEDENCE_ATTRIBUTE: 2023,
    "name": 1,
}
_NAMES = {_MICROSOFT | number: name for name, number in _NUMBERS.items()}
_NAMES |= {0x0: MADE, 0x20119: RULES_ATTRIBUTE}

_HEAD, _ENTRY = struct.Struct("<IIII"), struct.Struct("<IIQ16sQQ")
_BEGINNING = datetime(1601, 1, 1, tzinfo=UTC)


class Origin(NamedTuple):
    """When something was changed last, and at which server; "" where that is not known."""

    at: datetime
    server: str


Origins = dict[UUID, dict[str, Origin]]
"""By object and attribute."""


def origins(link: Link, base: str) -> Origins:
    """Of the domain object and its policies, as far as the account may see it."""
    asked = ["objectGUID", "whenChanged", "replPropertyMetaData"]
    where = "(objectClass=*)"
    found: Origins = {}
    servers: dict[bytes, str] = {}
    for scope, place in (("base", base), ("one", f"{SETTINGS_CONTAINER},{base}")):
        try:
            entries = list(link.search(place, scope, where, asked))  # type: ignore[arg-type]
        except DirectoryError:
            continue
        for _, values in entries:
            guid = values.get("objectguid", [b""])[0]
            if len(guid) == 16:
                found[UUID(bytes_le=guid)] = dict(_origins(link, values, servers))
    return found


def _origins(link: Link, values: Values, servers: dict[bytes, str]) -> Iterator[tuple[str, Origin]]:
    changed = values.get("whenchanged", [b""])[0].decode("ascii", "replace")
    try:
        at = datetime.strptime(changed, "%Y%m%d%H%M%S.%fZ").replace(tzinfo=UTC)
    except ValueError:
        pass
    else:
        yield ANY, Origin(at, "")
    try:
        yield from _kept(link, values.get("replpropertymetadata", [b""])[0], servers)
    except struct.error:
        return


def _kept(link: Link, kept: bytes, servers: dict[bytes, str]) -> Iterator[tuple[str, Origin]]:
    if not kept:
        return
    _, _, count, _ = _HEAD.unpack_from(kept)
    for place in range(min(count, len(kept) // _ENTRY.size)):
        number, _, seconds, copy, _, _ = _ENTRY.unpack_from(kept, _HEAD.size + place * _ENTRY.size)
        if number in _NAMES and seconds < 1 << 40:
            server = servers[copy] if copy in servers else _server(link, copy)
            servers[copy] = server
            yield _NAMES[number], Origin(_BEGINNING + timedelta(seconds=seconds), server)


def _server(link: Link, copy: bytes) -> str:
    """The name of the server that has this copy of the directory; "" if it is gone."""
    import ldap.filter

    try:
        base = link.root(["configurationNamingContext"])["configurationnamingcontext"][0].decode()
        escaped = ldap.filter.escape_filter_chars(copy.decode("latin-1"), 2)
        where = f"(invocationId={escaped})"
        for dn, _ in link.search(f"CN=Sites,{base}", "sub", where, ["cn"]):
            return first_value(parent_of(dn))
    except (DirectoryError, KeyError, IndexError, UnicodeDecodeError):
        pass
    return ""
