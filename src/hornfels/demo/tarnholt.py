"""The Tarnholt Sky Survey: an invented mountain observatory's domain, written as the LDIF a real
directory would give.

Everything comes from a fixed seed; moments hang on `now`, so that the demo is as fresh as the day
it is made. Planted for the tool to find: a tie at precedence 30, a policy that reaches nobody,
kiosk accounts whose own weak policy beats a stricter one, history without a minimum age, a service
account outside its group, keyholders whose passwords never expire, two locked accounts, two
domain-root group policy objects that disagree, one on an OU, and a batch of passwords that would
expire in one night.
"""

from __future__ import annotations

import random
import struct
import uuid
from collections.abc import Iterator
from datetime import datetime

from hornfels.core.domain.estate import Control
from hornfels.core.policy.catalogue import CATALOGUE, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE
from hornfels.core.values.time import (
    DAY,
    HOUR,
    MINUTE,
    NEVER,
    Span,
    moment_from_datetime,
    span_to_ldap,
)
from hornfels.demo.people import Person, people
from hornfels.formats.template import write_template

SEED = 1184
ACCOUNTS = 1184
DNS_NAME = "sky.tarnholt.example"
MAIL_DOMAIN = "tarnholt.example"
_GERMAN = 5
"""One in so many prefers to be written to in German."""
ROOT = "DC=sky,DC=tarnholt,DC=example"
PSO_CONTAINER = f"CN=Password Settings Container,CN=System,{ROOT}"
DOMAIN_SID = (21, 1184227301, 2750913648, 3391047725)

Entry = tuple[str, list[tuple[str, str | bytes]]]

GLOBAL, DOMAIN_LOCAL, UNIVERSAL, SECURITY, SYSTEM = 0x2, 0x4, 0x8, 0x80000000, 0x1
NORMAL = 0x200

SITES = ("Summit", "Valley Campus", "Harbour Office")
DEPARTMENTS = (
    "Observing",
    "Instruments",
    "Computing",
    "Science",
    "Outreach",
    "Workshop",
    "Administration",
)

_OTHER_GROUPS = tuple(
    f"GS-{site.split()[0]}-{department}" for site in SITES for department in DEPARTMENTS
)

_BUILT_IN_GLOBAL = (
    ("Domain Admins", 512),
    ("Domain Users", 513),
    ("Domain Guests", 514),
    ("Domain Computers", 515),
    ("Domain Controllers", 516),
    ("Group Policy Creator Owners", 520),
    ("Cloneable Domain Controllers", 522),
    ("Protected Users", 525),
    ("Key Admins", 526),
)
_BUILT_IN_UNIVERSAL = (
    ("Schema Admins", 518),
    ("Enterprise Admins", 519),
    ("Enterprise Key Admins", 527),
    ("Enterprise Read-only Domain Controllers", 498),
)
_BUILT_IN_LOCAL = (
    ("Cert Publishers", 517),
    ("RAS and IAS Servers", 553),
    ("Allowed RODC Password Replication Group", 571),
    ("Denied RODC Password Replication Group", 572),
)
_BUILTIN = (
    ("Administrators", 544),
    ("Users", 545),
    ("Guests", 546),
    ("Account Operators", 548),
    ("Server Operators", 549),
    ("Print Operators", 550),
    ("Backup Operators", 551),
    ("Replicator", 552),
    ("Remote Desktop Users", 555),
    ("Network Configuration Operators", 556),
    ("Performance Monitor Users", 558),
    ("Performance Log Users", 559),
    ("Distributed COM Users", 562),
    ("IIS_IUSRS", 568),
    ("Cryptographic Operators", 569),
    ("Event Log Readers", 573),
    ("Remote Management Users", 580),
)


def _sid(rid: int) -> bytes:
    return struct.pack("<BB", 1, 5) + (5).to_bytes(6, "big") + struct.pack("<5I", *DOMAIN_SID, rid)


def _builtin_sid(rid: int) -> bytes:
    return struct.pack("<BB", 1, 2) + (5).to_bytes(6, "big") + struct.pack("<2I", 32, rid)


class _Survey:
    """Collects accounts, groups and links, then writes them as entries."""

    def __init__(self, now: datetime) -> None:
        self.rng = random.Random(SEED)
        self.now = moment_from_datetime(now)
        self.people = people(self.rng)
        self.rid = 1104
        self.account_dn: dict[str, str] = {}
        self.account_values: dict[str, list[tuple[str, str | bytes]]] = {}
        self.kiosks: list[str] = []
        self.everyday: list[str] = []
        self.groups: dict[str, tuple[str, list[tuple[str, str | bytes]]]] = {}
        self.members: dict[str, list[str]] = {}

    def guid(self) -> bytes:
        return uuid.UUID(int=self.rng.getrandbits(128), version=4).bytes_le

    def next_rid(self) -> int:
        self.rid += 1
        return self.rid

    # -- groups

    def group(
        self, name: str, kind: int, container: str, rid: int | None = None, sid: bytes | None = None
    ) -> str:
        dn = f"CN={name},{container}"
        signed = struct.unpack("<i", struct.pack("<I", kind))[0]
        self.groups[name] = (
            dn,
            [
                ("objectClass", "top"),
                ("objectClass", "group"),
                ("cn", name),
                ("name", name),
                ("objectGUID", self.guid()),
                ("objectSid", sid or _sid(rid or self.next_rid())),
                ("sAMAccountName", name),
                ("groupType", str(signed)),
            ],
        )
        self.members.setdefault(name, [])
        return dn

    def nest(self, child: str, parent: str) -> None:
        self.members[parent].append(self.groups[child][0])

    # -- accounts

    def set_days_ago(self, low: float, high: float) -> int:
        return self.now - int(self.rng.uniform(low, high) * DAY)

    def account(
        self,
        name: str,
        cn: str,
        container: str,
        *,
        display: str | None = None,
        groups: tuple[str, ...] = (),
        control: int = NORMAL,
        password_set: int | None = None,
        rid: int | None = None,
        primary: int = 513,
        computer: bool = False,
    ) -> str:
        dn = f"CN={cn},{container}"
        classes = ["top", "person", "organizationalPerson", "user"] + (
            ["computer"] if computer else []
        )
        values: list[tuple[str, str | bytes]] = [("objectClass", c) for c in classes]
        values += [("cn", cn.replace("\\", ""))]
        if display:
            values.append(("displayName", display))
            if not computer and name.isascii():
                values.append(("mail", f"{name.lower()}@{MAIL_DOMAIN}"))
                if sum(name.encode()) % _GERMAN == 0:
                    values.append(("preferredLanguage", "de"))
        moment = self.set_days_ago(1, 85) if password_set is None else password_set
        values += [
            ("distinguishedName", dn),
            ("objectGUID", self.guid()),
            ("objectSid", _sid(rid or self.next_rid())),
            ("sAMAccountName", name),
            ("userAccountControl", str(control)),
            ("primaryGroupID", str(primary)),
            ("pwdLastSet", str(moment)),
            ("badPwdCount", "0"),
            ("badPasswordTime", "0"),
            ("lockoutTime", "0"),
            ("codePage", "0"),
            ("countryCode", "0"),
            ("logonCount", str(self.rng.randrange(900))),
            ("accountExpires", "9223372036854775807"),
        ]
        self.account_dn[name] = dn
        self.account_values[name] = values
        for group in groups:
            self.members[group].append(dn)
        return name

    def person(
        self, site: str, department: str, *groups: str, password_set: int | None = None
    ) -> str:
        someone: Person = next(self.people)
        everyday = f"GS-{site.split()[0]}-{department}"
        container = f"OU={department},OU={site},OU=People,{ROOT}"
        # Half the departments file people as "Family, Given": the comma has to be escaped in the
        # name.
        by_family = department in ("Science", "Administration", "Outreach")
        cn = f"{someone.family}\\, {someone.given}" if by_family else someone.display_name
        return self.account(
            someone.account,
            cn,
            container,
            display=someone.display_name,
            groups=(everyday, *groups),
            password_set=password_set,
        )

    def edit(self, name: str, attribute: str, value: int) -> None:
        self.account_values[name] = [
            (a, str(value) if a == attribute else v) for a, v in self.account_values[name]
        ]


def entries(now: datetime) -> Iterator[Entry]:
    """All entries of the domain, in an order of no meaning (the domain object is not first)."""
    survey = _Survey(now)
    _make_groups(survey)
    _make_accounts(survey)
    _plant_states(survey)

    out: list[Entry] = []
    for ou in _organisational_units():
        out.append(
            (
                ou,
                [
                    ("objectClass", "top"),
                    ("objectClass", "organizationalUnit"),
                    ("objectGUID", survey.guid()),
                    *(
                        [("gPLink", f"[LDAP://{_gpo_dn(3)};0]")]
                        if ou.startswith("OU=Workshop,OU=Summit,")
                        else []
                    ),
                ],
            )
        )
    member_of: dict[str, list[str]] = {}
    for name, dns in survey.members.items():
        for dn in dns:
            member_of.setdefault(dn, []).append(survey.groups[name][0])
    for name, (dn, values) in survey.groups.items():
        links = [("member", m) for m in survey.members[name]] + [
            ("memberOf", g) for g in member_of.get(dn, ())
        ]
        out.append((dn, [*values, *links]))
    for name, dn in survey.account_dn.items():
        out.append(
            (dn, [*survey.account_values[name], *(("memberOf", g) for g in member_of.get(dn, ()))])
        )
    survey.rng.shuffle(out)
    yield from out[: len(out) // 2]
    yield _domain(survey)
    yield (
        PSO_CONTAINER,
        [
            ("objectClass", "top"),
            ("objectClass", "msDS-PasswordSettingsContainer"),
            ("objectGUID", survey.guid()),
        ],
    )
    yield from _policies(survey)
    yield from _gpos(survey)
    yield from out[len(out) // 2 :]


def _organisational_units() -> Iterator[str]:
    yield f"OU=People,{ROOT}"
    for site in SITES:
        yield f"OU={site},OU=People,{ROOT}"
        for department in DEPARTMENTS:
            yield f"OU={department},OU={site},OU=People,{ROOT}"
    for name in (
        "Visitors",
        "Service Accounts",
        "Kiosks",
        "Keyholders",
        "Groups",
        "Domain Controllers",
        "Workstations",
    ):
        yield f"OU={name},{ROOT}"


def _make_groups(survey: _Survey) -> None:
    users, builtin, own = f"CN=Users,{ROOT}", f"CN=Builtin,{ROOT}", f"OU=Groups,{ROOT}"
    for name, rid in _BUILT_IN_GLOBAL:
        survey.group(name, SECURITY | GLOBAL, users, rid)
    for name, rid in _BUILT_IN_UNIVERSAL:
        survey.group(name, SECURITY | UNIVERSAL, users, rid)
    for name, rid in _BUILT_IN_LOCAL:
        survey.group(name, SECURITY | DOMAIN_LOCAL, users, rid)
    for name, rid in _BUILTIN:
        survey.group(name, SECURITY | DOMAIN_LOCAL | SYSTEM, builtin, sid=_builtin_sid(rid))
    for name in (
        "GS-Keyholders",
        "GS-Systems-Stewards",
        "GS-Instrument-Services",
        "GS-Pipeline-Robots",
        "GS-Night-Operators",
        "GS-Dome-Rota",
        "GS-Grants-Office",
        "GS-Visiting-Astronomers",
        "GS-Outreach-Volunteers",
        "GS-Dome-Kiosks",
        "GS-Workshop",
        *_OTHER_GROUPS,
        "GS-Spectrograph-Crew",
        "GS-Mirror-Lab",
        "GS-Archive-Curators",
        "GS-Library",
        "GS-Transport",
        "GS-Fellowship-Committee",
        "GS-Safety-Wardens",
        "GS-Remote-Observing",
        "GS-Dome-Keys",
    ):
        survey.group(name, SECURITY | GLOBAL, own)
    survey.group("GU-Phrase-Pilot", SECURITY | UNIVERSAL, own)
    survey.group("GU-Partner-Projects", SECURITY | UNIVERSAL, own)
    survey.group("DL-Archive-Readers", SECURITY | DOMAIN_LOCAL, own)
    survey.group("DL-Telemetry-Writers", SECURITY | DOMAIN_LOCAL, own)
    survey.group("All Summit News", UNIVERSAL, own)
    survey.nest("Domain Admins", "Administrators")
    survey.nest("Enterprise Admins", "Administrators")
    survey.nest("Domain Users", "Users")
    survey.nest("Domain Guests", "Guests")
    survey.nest("GS-Keyholders", "GS-Systems-Stewards")
    survey.nest("GS-Keyholders", "Domain Admins")
    survey.nest("GS-Dome-Rota", "GS-Night-Operators")
    survey.nest("GS-Dome-Kiosks", "GS-Visiting-Astronomers")
    survey.nest("GS-Spectrograph-Crew", "GS-Mirror-Lab")
    survey.nest("GS-Mirror-Lab", "GS-Spectrograph-Crew")  # a circle, as real directories have them
    survey.nest("GS-Visiting-Astronomers", "DL-Archive-Readers")
    survey.nest("GS-Archive-Curators", "DL-Archive-Readers")
    survey.nest("GS-Pipeline-Robots", "DL-Telemetry-Writers")


def _make_accounts(survey: _Survey) -> None:
    rng = survey.rng
    users = f"CN=Users,{ROOT}"
    survey.account(
        "Administrator", "Administrator", users, rid=500, groups=("Domain Admins", "Administrators")
    )
    survey.account(
        "Guest",
        "Guest",
        users,
        rid=501,
        primary=514,
        control=NORMAL | Control.DISABLED | Control.NO_PASSWORD_REQUIRED,
        password_set=0,
        groups=("Guests",),
    )
    survey.account("krbtgt", "krbtgt", users, rid=502, control=NORMAL | Control.DISABLED)
    for name in ("DC1", "DC2"):
        survey.account(
            f"{name}$",
            name,
            f"OU=Domain Controllers,{ROOT}",
            control=Control.SERVER_TRUST | 0x80000,
            primary=516,
            computer=True,
        )
    for number in range(1, 10):
        name = f"DESK-{number:02}"
        survey.account(
            f"{name}$",
            name,
            f"OU=Workstations,{ROOT}",
            control=int(Control.WORKSTATION_TRUST),
            primary=515,
            computer=True,
        )

    # The person of the tour is a night operator; the second one is an everyday account.
    night = [
        survey.person(
            "Summit",
            "Observing",
            "GS-Night-Operators",
            password_set=survey.now - 31 * DAY - 2 * HOUR,
        )
    ]
    everyday = [
        survey.person(
            "Harbour Office", "Administration", password_set=survey.now - 14 * HOUR - 48 * MINUTE
        )
    ]
    night += [survey.person("Summit", "Observing", "GS-Night-Operators") for _ in range(45)]
    for _ in range(9):
        someone = next(survey.people)
        survey.account(
            f"k-{someone.account}"[:20],
            f"{someone.display_name} (keys)",
            f"OU=Keyholders,{ROOT}",
            display=f"{someone.display_name} (keys)",
            groups=("GS-Keyholders",),
        )
    for _ in range(24):
        survey.person(rng.choice(SITES), "Computing", "GS-Systems-Stewards")
    services = f"OU=Service Accounts,{ROOT}"
    kinds = (
        "spectro",
        "guide",
        "mirror",
        "weather",
        "dome",
        "focus",
        "flat",
        "cryo",
        "laser",
        "clock",
        "shutter",
    )
    for number in range(73):
        name = f"svc-{kinds[number % len(kinds)]}{number // len(kinds) + 1}"
        survey.account(
            name,
            name,
            services,
            display=f"Service {kinds[number % len(kinds)]} {number // len(kinds) + 1}",
            groups=("GS-Instrument-Services",),
            password_set=survey.set_days_ago(40, 900),
        )
    for number in range(38):
        name = f"bot-stack{number + 1:02}"
        survey.account(
            name,
            name,
            services,
            display=f"Pipeline robot {number + 1}",
            groups=("GS-Pipeline-Robots",),
            password_set=survey.set_days_ago(40, 700),
        )
    survey.account(
        "svc-allsky",
        "svc-allsky",
        services,
        display="Service all-sky camera",
        password_set=survey.set_days_ago(100, 110),
        control=NORMAL | Control.NEVER_EXPIRES,
    )
    for number in range(37):
        extra = ("GS-Night-Operators",) if number < 6 else ()
        survey.person(
            "Harbour Office",
            "Administration",
            "GS-Grants-Office",
            *extra,
            password_set=survey.set_days_ago(1, 44),
        )
    visitors = f"OU=Visitors,{ROOT}"
    for number in range(224):
        someone = next(survey.people)
        groups = (
            ("GS-Visiting-Astronomers", "GS-Dome-Rota")
            if number < 14
            else ("GS-Visiting-Astronomers",)
        )
        survey.account(
            someone.account,
            f"{someone.family}\\, {someone.given}",
            visitors,
            display=someone.display_name,
            groups=groups,
            password_set=survey.set_days_ago(0.2, 29),
        )
    kiosks = [
        survey.account(
            f"kiosk-{place}",
            f"kiosk-{place}",
            f"OU=Kiosks,{ROOT}",
            display=f"Dome kiosk {place}",
            groups=("GS-Dome-Kiosks",),
            password_set=survey.set_days_ago(300, 1200),
        )
        for place in (
            "north",
            "south",
            "east",
            "west",
            "lobby",
            "gallery",
            "summit",
            "foyer",
            "dome2",
            "dome3",
            "shop",
            "bridge",
        )
    ]
    survey.kiosks = kiosks
    everyday += [
        survey.person(rng.choice(SITES), "Outreach", "GS-Outreach-Volunteers") for _ in range(95)
    ]
    everyday += [survey.person(rng.choice(SITES[:2]), "Workshop", "GS-Workshop") for _ in range(54)]
    # One batch of new staff got their passwords on one day: a maximum age below 70 days would
    # expire them all in a night.
    batch = survey.now - 70 * DAY
    everyday += [
        survey.person(
            rng.choice(SITES),
            rng.choice(("Instruments", "Science")),
            password_set=batch + rng.randrange(6 * HOUR),
        )
        for _ in range(183)
    ]
    while len(survey.account_dn) < ACCOUNTS:
        everyday.append(
            survey.person(
                rng.choice(SITES),
                rng.choice(("Instruments", "Science", "Computing", "Administration")),
            )
        )
    for name in rng.sample(everyday[1:], 20):
        survey.members["GU-Phrase-Pilot"].append(survey.account_dn[name])
    for group, size in (
        ("GS-Spectrograph-Crew", 18),
        ("GS-Mirror-Lab", 11),
        ("GS-Archive-Curators", 9),
        ("GS-Library", 7),
        ("GS-Transport", 13),
        ("GS-Fellowship-Committee", 8),
        ("GS-Safety-Wardens", 21),
        ("GS-Remote-Observing", 33),
        ("GS-Dome-Keys", 16),
        ("GU-Partner-Projects", 25),
        ("DL-Telemetry-Writers", 4),
        ("All Summit News", 240),
    ):
        for name in rng.sample(everyday, size):
            survey.members[group].append(survey.account_dn[name])
    survey.everyday = everyday


def _plant_states(survey: _Survey) -> None:
    rng = survey.rng
    everyday = survey.everyday[2:]
    keyholders = [n for n in survey.account_dn if n.startswith("k-")]
    stewards = [
        n for n, dn in survey.account_dn.items() if dn in survey.members["GS-Systems-Stewards"]
    ]
    for name in keyholders[:2]:
        survey.edit(name, "userAccountControl", NORMAL | Control.NEVER_EXPIRES)
    for name, minutes, count in ((keyholders[4], 55, 4), (stewards[7], 190, 5)):
        at = survey.now - minutes * MINUTE
        survey.edit(name, "lockoutTime", at)
        survey.edit(name, "badPasswordTime", at)
        survey.edit(name, "badPwdCount", count)
    operators = [
        n for n, dn in survey.account_dn.items() if dn in survey.members["GS-Night-Operators"]
    ]
    for name, minutes, count in ((operators[11], 4, 4), (operators[23], 12, 3)):
        survey.edit(name, "badPasswordTime", survey.now - minutes * MINUTE)
        survey.edit(name, "badPwdCount", count)
    for name in rng.sample(everyday, 14):
        survey.edit(name, "userAccountControl", NORMAL | Control.DISABLED)
    for name in rng.sample(everyday, 6):
        survey.edit(name, "pwdLastSet", 0)
    for name in rng.sample(everyday, 5):
        survey.edit(name, "userAccountControl", NORMAL | Control.SMART_CARD_REQUIRED)
    survey.edit(everyday[40], "userAccountControl", NORMAL | Control.NO_PASSWORD_REQUIRED)
    for name in rng.sample(everyday, 9):
        survey.edit(name, "badPwdCount", rng.randint(1, 3))
        survey.edit(name, "badPasswordTime", survey.now - rng.randint(5, 900) * MINUTE)


def _settings(
    length: int,
    max_age: Span,
    threshold: int,
    *,
    history: int = 24,
    complexity: bool = True,
    min_age: int = DAY,
    window: int = 30 * MINUTE,
    duration: Span = 30 * MINUTE,
) -> dict[str, int | bool | None]:
    return {
        "min_length": length,
        "complexity": complexity,
        "history_length": history,
        "reversible_encryption": False,
        "min_age": min_age,
        "max_age": max_age,
        "lockout_threshold": threshold,
        "lockout_window": window,
        "lockout_duration": duration,
    }


BEDROCK = _settings(8, 90 * DAY, 10)


def _policies(survey: _Survey) -> Iterator[Entry]:
    group = {name: dn for name, (dn, _) in survey.groups.items()}
    kiosks = [survey.account_dn[name] for name in survey.kiosks]
    rows: list[tuple[str, int, dict[str, int | bool | None], list[str]]] = [
        ("Keyholders", 5, _settings(20, 90 * DAY, 4, duration=NEVER), [group["GS-Keyholders"]]),
        (
            "Instrument services",
            10,
            _settings(32, NEVER, 0, complexity=False),
            [group["GS-Instrument-Services"], group["GS-Pipeline-Robots"]],
        ),
        (
            "Systems stewards",
            20,
            _settings(16, 90 * DAY, 5, duration=NEVER),
            [group["GS-Systems-Stewards"]],
        ),
        ("Grants office", 30, _settings(14, 45 * DAY, 5), [group["GS-Grants-Office"]]),
        ("Night operators", 30, _settings(14, 60 * DAY, 5), [group["GS-Night-Operators"]]),
        (
            "Visiting astronomers",
            40,
            _settings(12, 30 * DAY, 8, history=12, min_age=0),
            [group["GS-Visiting-Astronomers"]],
        ),
        ("Kiosk floor", 60, _settings(5, NEVER, 0, history=0, complexity=False, min_age=0), kiosks),
        (
            "Phrase pilot",
            70,
            _settings(20, 365 * DAY, 10, complexity=False),
            [group["GU-Phrase-Pilot"]],
        ),
    ]
    # At the tie the stored bytes decide. Printed, the two GUIDs would stand the other way round.
    fixed = {
        "Grants office": uuid.UUID("9c04a1d2-5e7b-4c31-8f20-6ab1c3d5e701").bytes_le,
        "Night operators": uuid.UUID("1f3e62e8-0b9d-4a57-9c44-d2e8f0a1b302").bytes_le,
    }
    for name, precedence, settings, links in rows:
        values: list[tuple[str, str | bytes]] = [
            ("objectClass", "top"),
            ("objectClass", "msDS-PasswordSettings"),
            ("cn", name),
            ("name", name),
            ("objectGUID", fixed.get(name) or survey.guid()),
            (PRECEDENCE_ATTRIBUTE, str(precedence)),
        ]
        for s in CATALOGUE:
            value = settings[s.key]
            if s.kind == "switch":
                values.append((s.pso_attribute, "TRUE" if value else "FALSE"))
            else:
                values.append(
                    (s.pso_attribute, str(span_to_ldap(value) if s.kind == "span" else value))
                )
        values += [(LINKS_ATTRIBUTE, dn) for dn in links]
        yield f"CN={name},{PSO_CONTAINER}", values


def _domain(survey: _Survey) -> Entry:
    values: list[tuple[str, str | bytes]] = [
        ("objectClass", "top"),
        ("objectClass", "domain"),
        ("objectClass", "domainDNS"),
        ("dc", "sky"),
        ("name", "sky"),
        ("objectGUID", survey.guid()),
        (
            "objectSid",
            struct.pack("<BB", 1, 4) + (5).to_bytes(6, "big") + struct.pack("<4I", *DOMAIN_SID),
        ),
        ("msDS-Behavior-Version", "7"),
        ("gPLink", f"[LDAP://{_gpo_dn(1)};0][LDAP://{_gpo_dn(2)};0]"),
        ("pwdProperties", "1"),
    ]
    for s in CATALOGUE:
        if not s.domain_mask:
            value = BEDROCK[s.key]
            values.append(
                (s.domain_attribute, str(span_to_ldap(value) if s.kind == "span" else value))
            )
    return ROOT, values


_GPO_NAMES = {
    1: "Default Domain Policy",
    2: "Observatory account rules",
    3: "Workshop bench machines",
}


def _gpo_dn(number: int) -> str:
    guid = uuid.uuid5(uuid.NAMESPACE_DNS, f"gpo{number}.{DNS_NAME}")
    return f"CN={{{str(guid).upper()}}},CN=Policies,CN=System,{ROOT}"


def _gpos(survey: _Survey) -> Iterator[Entry]:
    for number, name in _GPO_NAMES.items():
        yield (
            _gpo_dn(number),
            [
                ("objectClass", "top"),
                ("objectClass", "container"),
                ("objectClass", "groupPolicyContainer"),
                ("displayName", name),
                ("objectGUID", survey.guid()),
                ("flags", "0"),
                ("versionNumber", "3"),
                (
                    "gPCMachineExtensionNames",
                    "[{827D319E-6EAC-11D2-A4EA-00C04F79F83A}{803E14A0-B4FB-11D0-A0D0-00A0C90F574B}]",
                ),
            ],
        )


def templates() -> dict[str, bytes]:
    """The security templates of the group policy objects, by the object's DN. The two at the root
    disagree about the length.
    """
    return {
        _gpo_dn(2): write_template(
            {
                "min_length": 8,
                "complexity": True,
                "max_age": 90 * DAY,
                "lockout_threshold": 10,
                "lockout_window": 30 * MINUTE,
                "lockout_duration": 30 * MINUTE,
                "audit_length": 14,
            }
        ),
        _gpo_dn(1): write_template(
            {
                "min_length": 7,
                "complexity": True,
                "history_length": 24,
                "reversible_encryption": False,
                "min_age": DAY,
                "max_age": 42 * DAY,
                "lockout_threshold": 0,
                "ticket_age": 10 * HOUR,
                "renew_age": 7 * DAY,
                "service_age": 600 * MINUTE,
                "clock_skew": 5 * MINUTE,
                "validate_client": True,
            }
        ),
        _gpo_dn(3): write_template({"min_length": 6, "complexity": False, "max_age": None}),
    }
