"""Reading a domain: all of it, or what has changed on one server since it was last asked
([MS-ADTS] 3.1.1.3.1.1, uSNChanged).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from uuid import UUID

from hornfels.core.drafts.edits import SETTINGS_CONTAINER
from hornfels.core.policy.catalogue import CATALOGUE, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE
from hornfels.core.values.collecting import no_collection
from hornfels.core.values.dn import dns_name
from hornfels.directory.link import RULES, SHOW_DELETED, Link, Values
from hornfels.directory.reach import DirectoryError
from hornfels.directory.told import NO_SUCH_OBJECT
from hornfels.formats.descriptor import RULES_ATTRIBUTE

ATTRIBUTES = (
    "objectClass",
    "objectGUID",
    "objectSid",
    "sAMAccountName",
    "displayName",
    "givenName",
    "sn",
    "userPrincipalName",
    "mail",
    "preferredLanguage",
    "department",
    "physicalDeliveryOfficeName",
    "l",
    "company",
    "cn",
    "userAccountControl",
    "primaryGroupID",
    "pwdLastSet",
    "badPwdCount",
    "badPasswordTime",
    "lockoutTime",
    "groupType",
    "member",
    "gPLink",
    "flags",
    "gPCMachineExtensionNames",
    "gPCFileSysPath",
    "msDS-Behavior-Version",
    PRECEDENCE_ATTRIBUTE,
    LINKS_ATTRIBUTE,
    *(s.pso_attribute for s in CATALOGUE),
    *dict.fromkeys(s.domain_attribute for s in CATALOGUE),
)
"""All that is used of a domain, and nothing else is asked for."""

_CLASSES = (
    "user",
    "group",
    "msDS-PasswordSettings",
    "msDS-PasswordSettingsContainer",
    "domainDNS",
    "groupPolicyContainer",
    "organizationalUnit",
    "container",
    "contact",
)
_WHERE = "(|" + "".join(f"(objectClass={name})" for name in _CLASSES) + ")"
DESCRIPTION = RULES_ATTRIBUTE.lower()
_COUNTED = ("badpwdcount", "badpasswordtime")
_NONE_COUNTED: Values = {"badpwdcount": [b"0"]}


@dataclass(frozen=True, slots=True)
class Mark:
    """How far a server was when it was read: its numbers mean nothing on another one, which another
    ``invocation`` shows.
    """

    invocation: UUID
    usn: int


@dataclass(frozen=True, slots=True)
class Place:
    """The domain that a server has: its DN, its DNS name, how far the server is, and its clock as
    it writes it.
    """

    dn: str
    dns_name: str
    mark: Mark
    clock: str


@dataclass(frozen=True, slots=True)
class Entry:
    """An object by its GUID. ``gone`` ones have been deleted; their DN is another one then."""

    guid: bytes
    dn: str
    values: Values
    gone: bool = False


def place(link: Link) -> Place:
    """What domain the server has and how far it is. Ask before reading: what changes meanwhile is
    read again the next time.
    """
    root = link.root(
        ["defaultNamingContext", "dsServiceName", "highestCommittedUSN", "currentTime"]
    )
    try:
        base = root["defaultnamingcontext"][0].decode()
        service = root["dsservicename"][0].decode()
        usn = int(root["highestcommittedusn"][0])
    except (KeyError, IndexError, ValueError, UnicodeDecodeError):
        raise DirectoryError(
            f"{link.server}: this is no server of a Windows domain: it does not name its domain, "
            "or not how far it is."
        ) from None
    invocation = link.entry(service, ["invocationId"]).get("invocationid", [b""])[0]
    if len(invocation) != 16:
        raise DirectoryError(
            f"{link.server}: it does not say which copy of the directory it has (invocationId). "
            "The account has to be allowed to read the configuration."
        )
    clock = root.get("currenttime", [b""])[0].decode("ascii", "replace")
    return Place(base, dns_name(base), Mark(UUID(bytes_le=invocation), usn), clock)


def whole(link: Link, base: str) -> Iterator[Entry]:
    """Every object that matters."""
    with no_collection():
        for dn, values in link.search(base, "sub", _WHERE, ATTRIBUTES):
            yield _entry(dn, values)


def since(link: Link, base: str, usn: int) -> Iterator[Entry]:
    """What has changed after the server's number `usn`, deleted objects too. What each server
    counts for itself, such as bad tries, is no change: see `counts`.
    """
    where = f"(&(uSNChanged>={usn + 1})(|(isDeleted=TRUE){_WHERE}))"
    wanted = [*ATTRIBUTES, "isDeleted"]
    for dn, values in link.search(base, "sub", where, wanted, controls=[SHOW_DELETED]):
        yield _entry(dn, values, gone=values.get("isdeleted", [b""])[0].upper() == b"TRUE")


def access_rules(link: Link, base: str) -> dict[bytes, bytes]:
    """The access rules of policies and of what they lie in, by GUID, as far as the account may see
    them: a guard against deletion is one of them.
    """
    wanted = ["objectGUID", RULES_ATTRIBUTE]
    container = f"{SETTINGS_CONTAINER},{base}"
    try:
        found = list(link.search(container, "sub", "(objectClass=*)", wanted, controls=[RULES]))
    except DirectoryError as error:
        if error.code != NO_SUCH_OBJECT:
            raise
        return {}
    return {
        values["objectguid"][0]: values[DESCRIPTION][0]
        for _, values in found
        if values.get(DESCRIPTION) and values.get("objectguid")
    }


def with_rules(entries: dict[bytes, Entry], rules: dict[bytes, bytes]) -> dict[bytes, Entry]:
    """The objects with their access rules, where they were told."""
    told = {
        guid: Entry(guid, entries[guid].dn, entries[guid].values | {DESCRIPTION: [held]})
        for guid, held in rules.items()
        if guid in entries
    }
    return entries | told


def counts(link: Link, base: str) -> dict[bytes, Values]:
    """The bad tries that the server has counted, by GUID, of all accounts that have any."""
    where = "(&(objectClass=user)(badPwdCount>=1))"
    found = link.search(base, "sub", where, ["objectGUID", *_COUNTED])
    return {values["objectguid"][0]: values for _, values in found if values.get("objectguid")}


def sees_deleted(link: Link, base: str) -> bool:
    """Whether deletions are shown to the account; else only reading everything shows them."""
    try:
        where = "(objectClass=*)"
        bin_of = f"CN=Deleted Objects,{base}"
        found = link.search(
            bin_of, "base", where, ["objectGUID"], controls=[SHOW_DELETED], paged=False
        )
        return any(True for _ in found)
    except DirectoryError:
        return False


def _entry(dn: str, values: Values, *, gone: bool = False) -> Entry:
    guid = values.get("objectguid", [b""])[0]
    if len(guid) != 16:
        raise DirectoryError(
            f"The directory does not show the objectGUID of {dn}. The account has to be allowed "
            "to read it of everything it sees."
        )
    return Entry(guid, dn, values, gone)


def merged(
    held: dict[bytes, Entry], changed: Iterable[Entry], counted: dict[bytes, Values] | None = None
) -> dict[bytes, Entry]:
    """What is there after the changes, by GUID. Directories do not tell of a group that one of its
    members has another name or is gone, nor of what lies in an object that was moved: their names
    are put right here. `counted` takes the place of all bad tries.
    """
    there = dict(held)
    renamed: dict[bytes, bytes] = {}
    lost: set[bytes] = set()
    fresh: set[bytes] = set()
    for entry in changed:
        before = there.get(entry.guid)
        if entry.gone:
            if before:
                del there[entry.guid]
                lost.add(before.dn.encode())
            continue
        if before and before.dn != entry.dn:
            renamed[before.dn.encode()] = entry.dn.encode()
        there[entry.guid] = entry
        fresh.add(entry.guid)
    if renamed:
        there = _below(there, renamed, fresh)
    if renamed or lost:
        # What was just read names its members as they are, unless one got another name after it.
        now = {entry.dn.encode() for entry in there.values()}
        stale = {old: new for old, new in renamed.items() if old not in now}
        there = {
            guid: _put_right(entry, stale, lost - now)
            if guid in fresh
            else _put_right(entry, renamed, lost)
            for guid, entry in there.items()
        }
    if counted is not None:
        there = {guid: _counted(entry, counted.get(guid, {})) for guid, entry in there.items()}
    return there


def _below(
    there: dict[bytes, Entry], renamed: dict[bytes, bytes], fresh: set[bytes]
) -> dict[bytes, Entry]:
    """The objects with those moved along that lie below a renamed one; their names are added."""
    ends = {f",{old.decode()}": f",{new.decode()}" for old, new in renamed.items()}
    moved = {}
    for guid, entry in there.items():
        if guid in fresh:
            continue
        end = max((end for end in ends if entry.dn.endswith(end)), key=len, default=None)
        if end is not None:
            dn = entry.dn.removesuffix(end) + ends[end]
            renamed[entry.dn.encode()] = dn.encode()
            moved[guid] = Entry(guid, dn, entry.values)
    return {guid: moved.get(guid, entry) for guid, entry in there.items()}


_NAMES = ("member", LINKS_ATTRIBUTE.lower())


def _put_right(entry: Entry, renamed: dict[bytes, bytes], lost: set[bytes]) -> Entry:
    """The entry with the names in its lists as they are now."""
    changed = {}
    for attribute in _NAMES:
        names = entry.values.get(attribute)
        if names and any(name in renamed or name in lost for name in names):
            changed[attribute] = [renamed.get(name, name) for name in names if name not in lost]
    return Entry(entry.guid, entry.dn, entry.values | changed) if changed else entry


def _counted(entry: Entry, counted: Values) -> Entry:
    now = {name: counted[name] for name in _COUNTED if name in counted} or _NONE_COUNTED
    if "badpwdcount" not in entry.values or now.items() <= entry.values.items():
        return entry
    return Entry(entry.guid, entry.dn, entry.values | now)
