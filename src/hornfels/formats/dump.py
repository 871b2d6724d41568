"""A dump of one domain as an estate (domain rules §1, §4): LDIF entries in any order, joined into
columns.
"""

from __future__ import annotations

import contextlib
import functools
import re
from array import array
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, BinaryIO, TypeVar
from uuid import NAMESPACE_X500, UUID, uuid5

import numpy as np

from hornfels.core.domain.estate import (
    LINK_DISABLED,
    LINK_ENFORCED,
    UNKNOWN_TIME,
    Accounts,
    Domain,
    Estate,
    GpoLink,
    Groups,
    Int32,
    Link,
    LinkedGroups,
    Memberships,
    joined_names,
)
from hornfels.core.policy.catalogue import CATALOGUE, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE, Setting
from hornfels.core.policy.model import DEFAULTS, Policy, Settings
from hornfels.core.values.collecting import no_collection
from hornfels.core.values.dn import DnError, dn_key, dns_name, first_value, likely_key, parent_of
from hornfels.core.values.sid import sid_text, split_sid
from hornfels.core.values.text import TextColumn
from hornfels.core.values.time import span_from_ldap
from hornfels.formats import gp_links
from hornfels.formats.descriptor import DescriptorError, denies_deletion
from hornfels.formats.ldif import LONGEST_FILE, LdifError, Record, read

_ACCOUNT = {b"user", b"inetorgperson"}
_NUMBERS = {
    "useraccountcontrol": 0,
    "primarygroupid": -1,
    "pwdlastset": UNKNOWN_TIME,
    "badpwdcount": 0,
    "badpasswordtime": 0,
    "lockouttime": 0,
}
_WANTED = {
    "objectclass",
    "objectsid",
    "objectguid",
    "samaccountname",
    "displayname",
    "cn",
    "grouptype",
    "member",
    "memberof",
    "isdeleted",
    "gplink",
    "flags",
    "msds-psoapplied",
    "gpcmachineextensionnames",
    "msds-behavior-version",
    PRECEDENCE_ATTRIBUTE.lower(),
    LINKS_ATTRIBUTE.lower(),
    *_NUMBERS,
    *(s.pso_attribute.lower() for s in CATALOGUE),
    *(s.domain_attribute.lower() for s in CATALOGUE),
}
_OTHER_NAMES = ("givenname", "sn", "userprincipalname", "mail")
_CONTACT = ("mail", "preferredlanguage")
_PLACES = ("department", "physicaldeliveryofficename", "l", "company")
_MOST_PLACES = 500
_NAMED = _WANTED - {"displayname", "member", "memberof", *_NUMBERS}
"""What tells policies, and accounts and groups by their names."""
_NOT_READ = (None,) * (5 + len(_NUMBERS))
"""For what is more of an account."""

_LISTS = {"member", "memberof", LINKS_ATTRIBUTE.lower(), "msds-psoapplied"}
"""What a server sends in parts where it is long."""

RULES = "ntsecuritydescriptor"

LONGEST_DN = 8192
"""Characters of a distinguished name."""

T = TypeVar("T")

_SID = re.compile(rb"S-1-[0-9]{1,15}(?:-[0-9]{1,10}){1,15}")
_SECURITY_EXTENSION = "{827D319E-6EAC-11D2-A4EA-00C04F79F83A}"
"""Names the part of a group policy object that carries a security template ([MS-GPSB] 1.9)."""
_COMPUTER_PART_DISABLED = 2


class DumpError(ValueError):
    """A dump that reads as LDIF but is no whole domain."""


@dataclass(frozen=True)
class Dump:
    """What a dump gave: the estate, and notices about what was missing or odd in it."""

    estate: Estate
    notices: tuple[str, ...]
    entries: int
    guards: Mapping[UUID, bool] = field(default_factory=dict)
    """Whether policies are guarded against deletion, where access rules were read."""


@dataclass
class _Names:
    """Object names as small numbers, so that memberships can be kept before their members
    are read.
    """

    number: dict[str, int] = field(default_factory=dict)
    malformed: int = 0

    def of(self, dn: str) -> int:
        known = self.number.get(likely_key(dn))
        if known is not None:
            return known
        key = dn_key(dn)
        known = self.number.get(key)
        if known is None:
            known = self.number[key] = len(self.number)
        return known


class _Rows:
    """Objects of one type: their name numbers, and their values by column. A second entry for an
    object adds to the first.
    """

    def __init__(self, *columns: str) -> None:
        self.row: dict[int, int] = {}
        self._place = {column: place for place, column in enumerate(columns)}
        self._cells: list[tuple[Any, ...]] = []

    def put(self, number: int, *values: Any) -> None:
        row = self.row.get(number)
        if row is None:
            self.row[number] = len(self._cells)
            self._cells.append(values)
        else:
            held = zip(self._cells[row], values, strict=True)
            self._cells[row] = tuple(old if new is None else new for old, new in held)

    def __len__(self) -> int:
        return len(self.row)

    def column(self, column: str) -> list[Any]:
        place = self._place[column]
        return [cells[place] for cells in self._cells]

    def cell(self, column: str, row: int) -> Any:
        return self._cells[row][self._place[column]]

    def rows_by_number(self, names: int) -> Int32:
        out = np.full(names, -1, dtype=np.int32)
        out[np.fromiter(self.row, dtype=np.int64, count=len(self.row))] = np.arange(
            len(self.row), dtype=np.int32
        )
        return out

    def text(self, column: str) -> TextColumn:
        return TextColumn.of(value or "" for value in self.column(column))

    def numbers(self, column: str, dtype: Any, default: int = 0) -> Any:
        return np.array([default if v is None else v for v in self.column(column)], dtype=dtype)


class _Builder:
    def __init__(self, *, names_only: bool = False, other_names: bool = False) -> None:
        self.names_only, self.other_names = names_only, other_names
        self.names = _Names()
        self.places: Counter[str] = Counter()
        self.accounts = _Rows(
            "dn", "name", "display", "others", "mail", "language", "sid", *_NUMBERS
        )
        self.groups = _Rows("dn", "name", "sid", "kind")
        self.memberships = (array("i"), array("i"))
        # The same few combinations of classes come again and again.
        self.classes: dict[frozenset[bytes], frozenset[bytes]] = {}
        self.containers: dict[bytes, int] = {}
        self.policies: dict[int, list[Record]] = {}
        # Links from either side, as (policy, target): a server cuts long lists, and another entry
        # may hold the rest.
        self.links: list[tuple[int, str]] = []
        self.applied: list[tuple[int, str]] = []
        # Lists that came in parts, and whether their last part did.
        self.parts: dict[tuple[int, str], bool] = {}
        self.domains: list[Record] = []
        self.gpos: dict[int, tuple[str, int, bool]] = {}
        self.gp_links: list[tuple[str, str]] = []
        self.kinds: dict[int, str] = {}
        # Access rules by object, where they were read.
        self.rules: dict[int, bytes] = {}
        self.notices: list[str] = []
        self.entries = 0

    def add(self, record: Record) -> None:
        self.entries += 1
        number = self._number(record, "dn", record.dn)
        values = record.values
        members, groups = self.memberships
        if "member" in values:
            for member in record.texts("member"):
                members.append(self._number(record, "member", member))
                groups.append(number)
        if "memberof" in values:
            containers = values["memberof"]
            members.extend([number] * len(containers))
            groups.extend(
                [self.containers.get(c) or self._container(record, c) for c in containers]
            )
        for attribute, last in record.ranges():
            self.parts[number, attribute] = self.parts.get((number, attribute), False) or last
        deleted = "isdeleted" in values and record.flag("isdeleted")
        if LINKS_ATTRIBUTE.lower() in values and not deleted:
            self.links += [(number, target) for target in record.texts(LINKS_ATTRIBUTE.lower())]
        if "msds-psoapplied" in values and not deleted:
            policies = [
                self._number(record, "msds-psoapplied", policy)
                for policy in record.texts("msds-psoapplied")
            ]
            self.applied += [(policy, record.dn) for policy in policies]
        if RULES in values:
            self.rules[number] = values[RULES][0]
        classes = frozenset(values.get("objectclass", ()))
        known = self.classes.get(classes)
        if known is None:
            known = self.classes[classes] = frozenset(c.lower() for c in classes)
        classes = known
        if not classes or deleted:
            return
        if classes & _ACCOUNT:
            self._account(number, record)
        elif b"group" in classes:
            name = record.name("samaccountname") or record.name("cn") or first_value(record.dn)
            self.groups.put(number, record.dn, name, _sid(record), record.integer("grouptype"))
        elif b"msds-passwordsettings" in classes:
            self.policies.setdefault(number, []).append(record)
        elif b"domaindns" in classes and "objectsid" in values:
            self.domains.append(record)
            self.kinds[number] = "domain"
        elif b"grouppolicycontainer" in classes:
            extensions = record.text("gpcmachineextensionnames") or ""
            self.gpos[number] = (
                record.name("displayname") or first_value(record.dn),
                record.integer("flags") or 0,
                _SECURITY_EXTENSION in extensions.upper(),
            )
        elif b"organizationalunit" in classes:
            self.kinds[number] = "ou"
        elif b"contact" in classes:
            self.kinds[number] = "contact"
        else:
            self.kinds[number] = "other"
        if "gplink" in values:
            self.gp_links += [(record.dn, link) for link in record.texts("gplink")]

    def _number(self, record: Record, attribute: str, dn: str) -> int:
        if len(dn) > LONGEST_DN:
            raise record.error(
                attribute,
                f"a name of {len(dn):,} characters, where at most {LONGEST_DN:,} are taken",
            )
        try:
            return self.names.of(dn)
        except DnError as error:
            raise record.error(attribute, str(error)) from None

    def _container(self, record: Record, written: bytes) -> int:
        """The number of a group as spelt in `memberOf`. The same few come again and again."""
        number = self.containers[written] = self._number(
            record, "memberof", record.decode("memberof", written)
        )
        return number

    def _account(self, number: int, record: Record) -> None:
        name = record.name("samaccountname") or first_value(record.dn)
        if self.names_only:
            self.accounts.put(number, record.dn, name, *_NOT_READ)
            return
        values = record.values
        numbers = [
            record.integer(attribute) if attribute in values else None for attribute in _NUMBERS
        ]
        others = mail = language = None
        if self.other_names:
            others = _other_names(record)
            places = (record.name(one) for one in _PLACES if one in values)
            self.places.update(place for place in places if place)
            mail, language = (record.name(one) if one in values else None for one in _CONTACT)
        self.accounts.put(
            number,
            record.dn,
            name,
            record.name("displayname"),
            others,
            mail,
            language,
            _sid(record),
            *numbers,
        )

    def _policy(self, records: list[Record]) -> Policy:
        """A password settings object from its entry, or from the parts of it that stand in
        several.
        """
        precedence = _first(records, lambda r: r.integer(PRECEDENCE_ATTRIBUTE.lower(), 32))
        if precedence is None:
            raise _incomplete(records[0], PRECEDENCE_ATTRIBUTE)
        values: dict[str, Any] = {}
        for setting in CATALOGUE:
            value = _first(records, functools.partial(_pso_value, setting=setting))
            if value is None:
                raise _incomplete(records[0], setting.pso_attribute)
            values[setting.key] = (
                span_from_ldap(value, endless=bool(setting.endless))
                if setting.kind == "span"
                else value
            )
        dn = records[0].dn
        name = _first(records, lambda r: r.name("cn")) or first_value(dn)
        guid = _first(records, _guid)
        if guid is None:
            self.notices.append(
                f"{name} has no objectGUID in the dump, so a tie in precedence cannot be "
                "decided rightly."
            )
            guid = uuid5(NAMESPACE_X500, dn_key(dn))
        return Policy(
            guid=guid, dn=dn, name=name, precedence=precedence, settings=Settings(**values)
        )

    def _policies(self) -> list[tuple[int, Policy]]:
        """Every policy with the number of its name, best first."""
        found = [(number, self._policy(records)) for number, records in self.policies.items()]
        owner: dict[UUID, Policy] = {}
        for number, policy in found:
            other = owner.setdefault(policy.guid, policy)
            if other is not policy:
                raise self.policies[number][0].error(
                    "objectguid",
                    (
                        f"{other.name} has the same objectGUID, and a directory never gives one "
                        "twice; dump the domain anew"
                    ),
                )
        return sorted(found, key=lambda item: item[1].rank)

    def estate(self, linked_groups: LinkedGroups) -> Dump:
        domain = self._domain()
        accounts, groups = self._tables(domain)
        memberships = self._memberships(accounts, groups)
        account_row = self.accounts.rows_by_number(len(self.names.number))
        group_row = self.groups.rows_by_number(len(self.names.number))
        policies = self._policies()
        targets: dict[int, dict[int, str]] = {number: {} for number, _ in policies}
        unread = 0
        for policy, target in [*self.links, *self.applied]:
            if policy in targets:
                targets[policy].setdefault(self._link_number(target), target)
            else:
                unread += 1
        cut = sum(not last for (_, attribute), last in self.parts.items() if attribute in _LISTS)
        if cut:
            self.notices.append(
                f"The dump holds only a part of {cut:,} long list{'s' * (cut != 1)} of "
                "members or links (range=…). "
                "What the other side names completes it as far as it goes; fetch every range "
                "to have all of it."
            )
        if unread:
            self.notices.append(
                f"The dump holds {unread:,} link{'s' * (unread != 1)} of policies that are "
                "not in it; "
                "dump it with an account that may read the password settings objects."
            )
        links = [
            self._link(index, number, target, account_row, group_row)
            for index, (policy, _) in enumerate(policies)
            for number, target in targets[policy].items()
        ]
        estate = Estate(
            domain,
            accounts,
            groups,
            memberships,
            tuple(policy for _, policy in policies),
            tuple(links),
            linked_groups,
        )
        return Dump(estate, tuple(self.notices), self.entries, dict(self._guards(policies)))

    def _guards(self, policies: list[tuple[int, Policy]]) -> Iterator[tuple[UUID, bool]]:
        for number, policy in policies:
            container = self.names.number.get(dn_key(parent_of(policy.dn)), -1)
            rules, above = self.rules.get(number), self.rules.get(container)
            if rules and above:
                with contextlib.suppress(DescriptorError):
                    yield (
                        policy.guid,
                        denies_deletion(rules, "object") and denies_deletion(above, "container"),
                    )

    def _link(
        self, policy: int, number: int, target: str, account_row: Int32, group_row: Int32
    ) -> Link:
        """A link to an object by its number. An account or group goes by its own name, however the
        link spells it.
        """
        if 0 <= number < len(account_row) and account_row[number] >= 0:
            row = int(account_row[number])
            return Link(policy, "account", row, self.accounts.cell("dn", row))
        if 0 <= number < len(group_row) and group_row[number] >= 0:
            row = int(group_row[number])
            return Link(policy, "group", row, self.groups.cell("dn", row))
        return Link(policy, self.kinds.get(number, "outside"), -1, target)  # type: ignore[arg-type]

    def _link_number(self, dn: str) -> int:
        try:
            return self.names.of(dn)
        except DnError:
            return -1

    def _domain(self) -> Domain:
        if not self.domains:
            raise DumpError(
                "the dump has no domain object (objectClass domainDNS with an objectSid); "
                "dump the whole domain, from its root (ldapsearch -b 'DC=…' with scope sub)"
            )
        record = min(self.domains, key=lambda found: len(found.dn))
        values: dict[str, Any] = {}
        others = record.integer("pwdproperties") or 0
        missing = []
        for setting in CATALOGUE:
            value = record.integer(setting.domain_attribute.lower())
            if value is None:
                missing.append(setting.label.lower())
                values[setting.key] = getattr(DEFAULTS, setting.key)
            elif setting.domain_mask:
                values[setting.key] = bool(value & setting.domain_mask)
                others &= ~setting.domain_mask
            elif setting.kind == "span":
                values[setting.key] = span_from_ldap(value, endless=bool(setting.endless))
            else:
                values[setting.key] = value
        if missing:
            self.notices.append(
                f"The domain object does not say: {', '.join(missing)}. What a new domain "
                "starts with is taken instead."
            )
        level = record.integer("msds-behavior-version", 32)
        if level is None:
            self.notices.append(
                "The domain object does not say its functional level; fine-grained policies "
                "are taken to apply."
            )
        return Domain(
            dn=record.dn,
            dns_name=dns_name(record.dn),
            sid=_sid(record) or "",
            functional_level=level,
            settings=Settings(**values),
            other_properties=others,
            gpo_links=tuple(self._gpo_links()),
            places=tuple(name for name, _ in self.places.most_common(_MOST_PLACES)),
        )

    def _gpo_links(self) -> list[GpoLink]:
        links = []
        for container, text in self.gp_links:
            # The attribute lists links in the order they are applied: the last one is link order 1
            # ([MS-GPOL] 2.2.2).
            for order, (gpo, options) in enumerate(reversed(gp_links.linked(text)), 1):
                name, flags, security = self.gpos.get(
                    self._link_number(gpo), (first_value(gpo), 0, False)
                )
                links.append(
                    GpoLink(
                        container=container,
                        gpo=gpo,
                        name=name,
                        order=order,
                        enforced=bool(options & LINK_ENFORCED),
                        disabled=bool(options & LINK_DISABLED),
                        computer_part_disabled=bool(flags & _COMPUTER_PART_DISABLED),
                        security_settings=security,
                    )
                )
        return links

    def _tables(self, domain: Domain) -> tuple[Accounts, Groups]:
        group_sids = [sid or "" for sid in self.groups.column("sid")]
        group_by_sid = {sid: row for row, sid in enumerate(group_sids) if sid}
        primary = []
        unmatched = 0
        account_sids = [sid or "" for sid in self.accounts.column("sid")]
        for sid, rid in zip(account_sids, self.accounts.column("primarygroupid"), strict=True):
            home = sid.rpartition("-")[0] or domain.sid
            row = -1 if rid is None else group_by_sid.get(f"{home}-{rid}", -1)
            unmatched += row < 0
            primary.append(row)
        if unmatched and not self.names_only:
            self.notices.append(
                f"The primary group of {unmatched:,} account{'s' * (unmatched != 1)} is not "
                "in the dump; "
                "policies linked to it cannot be seen to reach them."
            )
        columns = self.accounts.numbers
        accounts = Accounts(
            dn=self.accounts.text("dn"),
            name=self.accounts.text("name"),
            display_name=self.accounts.text("display"),
            other_names=self.accounts.text("others"),
            mail=self.accounts.text("mail"),
            language=self.accounts.text("language"),
            rid=_rids(account_sids),
            control=(columns("useraccountcontrol", np.int64) & 0xFFFFFFFF).astype(np.uint32),
            password_set=columns("pwdlastset", np.int64, UNKNOWN_TIME),
            bad_count=np.clip(columns("badpwdcount", np.int64), 0, 2**31 - 1).astype(np.int32),
            bad_time=columns("badpasswordtime", np.int64),
            lockout_time=columns("lockouttime", np.int64),
            primary_group=np.array(primary, dtype=np.int32),
        )
        kinds = self.groups.numbers("kind", np.int64)
        groups = Groups(
            dn=self.groups.text("dn"),
            name=self.groups.text("name"),
            rid=_rids(group_sids),
            kind=(kinds & 0xFFFFFFFF).astype(np.uint32),
        )
        return accounts, groups

    def _memberships(self, accounts: Accounts, groups: Groups) -> Memberships:
        members = (
            np.frombuffer(self.memberships[0], dtype=np.int32)
            if self.memberships[0]
            else np.zeros(0, np.int32)
        )
        containers = (
            np.frombuffer(self.memberships[1], dtype=np.int32)
            if self.memberships[1]
            else np.zeros(0, np.int32)
        )
        account_row = self.accounts.rows_by_number(len(self.names.number))
        group_row = self.groups.rows_by_number(len(self.names.number))
        group = group_row[containers]
        account, child = account_row[members], group_row[members]
        outside = int(np.count_nonzero((group >= 0) & (account < 0) & (child < 0)))
        if outside:
            self.notices.append(
                f"{outside:,} membership{'s' * (outside != 1)} name objects that are not in "
                "the dump or are no accounts or groups."
            )
        a, ag = _distinct(account, group, len(groups))
        c, cg = _distinct(child, group, len(groups))
        return Memberships(a, ag, c, cg, accounts, groups)


def _distinct(left: Int32, right: Int32, breadth: int) -> tuple[Int32, Int32]:
    """Pairs with both sides known, each once, in order."""
    known = (left >= 0) & (right >= 0)
    pairs = np.sort(left[known].astype(np.int64) * max(breadth, 1) + right[known])
    # By sorting, since hashing them is several times slower.
    pairs = pairs[np.diff(pairs, prepend=-1) > 0]
    return (pairs // max(breadth, 1)).astype(np.int32), (pairs % max(breadth, 1)).astype(np.int32)


def _rids(sids: list[str]) -> Any:
    return np.array([split_sid(sid)[1] if sid else 0 for sid in sids], dtype=np.int64)


def _sid(record: Record) -> str | None:
    values = record.values.get("objectsid")
    if not values:
        return None
    if values[0].startswith(b"S-1-"):
        if not _SID.fullmatch(values[0]) or any(
            int(part) >= 2**32 for part in values[0].split(b"-")[3:]
        ):
            raise record.error("objectsid", "this is not a security identifier")
        return values[0].decode()
    try:
        return sid_text(values[0])
    except ValueError as error:
        raise record.error("objectsid", f"this is {error}") from None


def _guid(record: Record) -> UUID | None:
    values = record.values.get("objectguid")
    if not values:
        return None
    if len(values[0]) == 16:
        return UUID(bytes_le=values[0])
    try:
        return UUID(values[0].decode("ascii"))
    except ValueError:
        raise record.error("objectguid", "this is not a GUID of 16 bytes") from None


def _first(records: list[Record], read: Callable[[Record], T | None]) -> T | None:
    """What the first of several entries of one object says."""
    return next((value for record in records if (value := read(record)) is not None), None)


def _incomplete(record: Record, attribute: str) -> LdifError:
    return record.error(
        "dn",
        (
            f"the password settings object has no {attribute}; dump it with an account that may "
            "read it"
        ),
    )


def _pso_value(record: Record, setting: Setting) -> Any:
    attribute = setting.pso_attribute.lower()
    return record.flag(attribute) if setting.kind == "switch" else record.integer(attribute)


def _other_names(record: Record) -> str | None:
    """The names of an account besides its own two; of addresses what stands before the @."""
    found = [(one, record.name(one)) for one in _OTHER_NAMES if one in record.values]
    return (
        joined_names(
            name if one in ("givenname", "sn") else name.partition("@")[0]
            for one, name in found
            if name
        )
        or None
    )


def load_dump(
    source: BinaryIO,
    *,
    linked_groups: LinkedGroups = "global",
    names_only: bool = False,
    other_names: bool = False,
    progress: Callable[[int], None] | None = None,
    most_bytes: int = LONGEST_FILE,
    watch: Callable[[int], None] = lambda _bytes: None,
) -> Dump:
    """Read a dump of one domain.

    With `names_only`, twice as fast, nothing is known of accounts and groups but their names:
    enough for what policies are and what they are linked to, not for whom they reach. With
    `other_names`, those of accounts that only additions look at, where they are, and how to write
    to them.
    `progress` is told the number of entries read so far, every few thousand, and `watch` the bytes,
    unpacked, of which there may be `most_bytes`. Raises `LdifError` with a line number for what
    cannot be read, `DumpError` for a dump that is no whole domain.
    """
    builder = _Builder(names_only=names_only, other_names=other_names)
    wanted = (
        _NAMED
        if names_only
        else _WANTED | {*((*_OTHER_NAMES, *_CONTACT, *_PLACES) if other_names else ())}
    )
    records = read(source, wanted, most_bytes=most_bytes, watch=watch)
    return _built(builder, records, linked_groups, progress)


def dump_of(
    records: Iterable[Record],
    *,
    linked_groups: LinkedGroups = "global",
    progress: Callable[[int], None] | None = None,
) -> Dump:
    """`load_dump` of entries, wherever they were read. Those of a directory stand on no line."""
    return _built(_Builder(other_names=True), records, linked_groups, progress)


def _built(
    builder: _Builder,
    records: Iterable[Record],
    linked_groups: LinkedGroups,
    progress: Callable[[int], None] | None,
) -> Dump:
    with no_collection():
        for record in records:
            builder.add(record)
            if progress and builder.entries % 5_000 == 0:
                progress(builder.entries)
    return builder.estate(linked_groups)


__all__ = ["Dump", "DumpError", "LdifError", "dump_of", "load_dump"]
