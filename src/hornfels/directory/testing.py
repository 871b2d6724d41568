"""What works of a connection, step by step, and what the accounts that bind may see and write."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal

from hornfels.core.domain.estate import GROUP_SECURITY
from hornfels.core.drafts.edits import SETTINGS_CONTAINER
from hornfels.core.policy.catalogue import LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE
from hornfels.directory import reading
from hornfels.directory.link import Link, Values, bind, linked, opened
from hornfels.directory.reach import DirectoryError, Reach, RefusedError

State = Literal["works", "fails", "note"]
SIGN_IN_TO_READ, SIGN_IN_TO_WRITE = "Sign in there", "Sign in to write"
_RULES_LIST = 4
"""The right to write the list of access rules, in ``sDRightsEffective`` ([MS-ADTS] 3.1.1.4.5.4)."""
_APART = 5.0
"""Seconds that two clocks may differ without a word."""
_ACCOUNT = ("userAccountControl", "pwdLastSet", "badPwdCount", "sAMAccountName", "objectSid")
_DOMAIN = ("minPwdLength", "pwdHistoryLength", "maxPwdAge", "lockoutThreshold", "gPLink")
_POLICY = (PRECEDENCE_ATTRIBUTE, LINKS_ATTRIBUTE)


@dataclass(frozen=True, slots=True)
class Step:
    """One thing that was tried, and what came of it."""

    title: str
    state: State
    told: str


def steps(
    reader: Reach,
    writer: Reach | None,
    dns_name: str,
    now: datetime,
    *,
    groups: Sequence[str] = (),
    stage: str = "",
) -> Iterator[Step]:
    """Everything that can be told of a connection without changing anything. The other servers are
    tried after the first one that works too: they are there for the day it does not. `groups` are
    those that sign in, `stage` is where accounts rehearse.
    """
    link: Link | None = None
    refused = False
    for server in reader.servers:
        try:
            found = opened(server, reader)
        except DirectoryError as error:
            yield Step(f"Reach {server}", "fails", str(error))
            continue
        yield Step(f"Reach {server}", "works", _reached(reader))
        if refused:
            # Every server would count one more failed attempt at the account.
            found.cut()
            continue
        try:
            bind(found, reader)
        except DirectoryError as error:
            yield Step(SIGN_IN_TO_READ, "fails", str(error))
            refused = isinstance(error, RefusedError)
            found.cut()
            continue
        yield Step(SIGN_IN_TO_READ, "works", f"as {reader.name or 'whom the ticket names'}")
        if link is None:
            link = found
        else:
            found.close()
    if link is None:
        return
    with link:
        try:
            place = reading.place(link)
        except DirectoryError as error:
            yield Step("Find the domain", "fails", str(error))
            return
        yield _domain(place, dns_name)
        yield from _clock(place.clock, now)
        yield from _seen(link, place.dn)
        for group in groups:
            yield _group(link, group)
    if writer is None:
        yield Step("Write", "note", "No account to write with is set: publishing gives files.")
        return
    try:
        with linked(writer) as other:
            yield from _written(other, place.dn)
            if stage:
                yield _stage(other, stage)
    except DirectoryError as error:
        yield Step(SIGN_IN_TO_WRITE, "fails", str(error))


def _reached(reach: Reach) -> str:
    match reach.security:
        case "none" if reach.bind == "gssapi":
            return "what follows the sign-in is encrypted by Kerberos"
        case "none":
            return "in clear: whoever is on the way reads passwords along"
        case "starttls":
            how = "StartTLS"
        case _:
            how = "TLS"
    return f"{how}, {'the pinned certificate' if reach.pinned else 'its certificate is trusted'}"


def _domain(place: reading.Place, dns_name: str) -> Step:
    if place.dns_name != dns_name:
        told = f"This server has {place.dns_name}, not {dns_name}."
        return Step("Find the domain", "fails", told)
    return Step("Find the domain", "works", place.dn)


def _clock(written: str, now: datetime) -> Iterator[Step]:
    try:
        there = datetime.strptime(written[:14], "%Y%m%d%H%M%S").replace(tzinfo=UTC)
    except ValueError:
        return
    apart = (there - now).total_seconds()
    if abs(apart) > _APART:
        way = "ahead of" if apart > 0 else "behind"
        yield Step(
            "Compare clocks",
            "note",
            f"The server's is {abs(apart):,.0f} s {way} ours: expiry and locks are told by it.",
        )


def _seen(link: Link, base: str) -> Iterator[Step]:
    """What the account may read of each kind of object."""
    try:
        yield _readable("Read the domain policy", link.entry(base, _DOMAIN), _DOMAIN[:-1])
        yield _sample(link, base, "Read accounts", "(objectClass=user)", _ACCOUNT)
        yield _sample(link, base, "Read groups", "(objectClass=group)", ("groupType", "objectSid"))
        yield _policies(link, base)
        yield _sample(
            link,
            base,
            "Read group policy objects",
            "(objectClass=groupPolicyContainer)",
            ("displayName", "gPCFileSysPath"),
        )
    except DirectoryError as error:
        yield Step("Read", "fails", str(error))
        return
    seen = reading.sees_deleted(link, base)
    yield Step(
        "See what was deleted",
        "works" if seen else "note",
        "Changes are read by themselves."
        if seen
        else "Not to be seen: every reading takes all of the domain.",
    )


def _policies(link: Link, base: str) -> Step:
    title, container = "Read fine-grained policies", f"{SETTINGS_CONTAINER},{base}"
    if not (link.there(container, ["objectClass"]) or {}).get("objectclass"):
        return Step(
            title,
            "fails",
            f"The account may not read {container}; without it nobody's policy is known. "
            "docs/directory.md has the rule that allows it.",
        )
    found = link.search(container, "one", "(objectClass=msDS-PasswordSettings)", _POLICY)
    held = [values for _, values in found]
    lacking = [values for values in held if PRECEDENCE_ATTRIBUTE.lower() not in values]
    if lacking:
        return Step(title, "fails", f"{len(lacking)} of {len(held)} do not show their settings.")
    return Step(title, "works", f"{len(held)} of them")


def _sample(link: Link, base: str, title: str, where: str, attributes: tuple[str, ...]) -> Step:
    for _, values in link.search(base, "sub", where, attributes):
        return _readable(title, values, attributes)
    return Step(title, "fails", "None is to be seen.")


def _readable(title: str, values: Values, wanted: tuple[str, ...]) -> Step:
    lacking = [name for name in wanted if name.lower() not in values]
    if lacking:
        return Step(title, "fails", f"Not to be seen: {', '.join(lacking)}.")
    return Step(title, "works", ", ".join(wanted))


def _written(link: Link, base: str) -> Iterator[Step]:
    """What the account could write, by the server's own word ([MS-ADTS] 3.1.1.4.5.19)."""
    container = f"{SETTINGS_CONTAINER},{base}"
    domain = _effective(link, base)
    yield _could("Write the domain policy", domain, ("minPwdLength", "maxPwdAge", "pwdProperties"))
    yield _could("Order group policy links", domain, ("gPLink",))
    children = link.entry(container, ["allowedChildClassesEffective", "sDRightsEffective"])
    made = {one.lower() for one in children.get("allowedchildclasseseffective", ())}
    yield Step(
        "Add fine-grained policies",
        "works" if b"msds-passwordsettings" in made else "fails",
        f"in {container}",
    )
    rules = int(children.get("sdrightseffective", [b"0"])[0])
    yield Step(
        "Guard policies against deletion",
        "works" if rules & _RULES_LIST else "fails",
        f"by the access rules in {container}",
    )
    for dn, _ in link.search(container, "one", "(objectClass=msDS-PasswordSettings)", ["cn"]):
        yield _could("Change fine-grained policies", _effective(link, dn), _POLICY)
        break
    # Those that a directory protects by itself ([MS-ADTS] 3.1.1.6.1) take other rights.
    where = "(&(objectCategory=person)(objectClass=user)(!(adminCount=1)))"
    for dn, _ in link.search(base, "sub", where, ["cn"]):
        held = _effective(link, dn)
        yield _could("Unlock accounts", held, ("lockoutTime",))
        yield _could("Have passwords changed", held, ("pwdLastSet",))
        break


def _group(link: Link, group: str) -> Step:
    held = link.there(group, ["groupType"])
    kind = int(held["grouptype"][0]) if held and held.get("grouptype") else None
    if kind is None:
        return Step("Let a group sign in", "fails", f"There is no group {group} to be seen.")
    if not kind & GROUP_SECURITY:
        return Step("Let a group sign in", "fails", f"{group} is a distribution group: nobody's.")
    return Step("Let a group sign in", "works", group)


def _stage(link: Link, stage: str) -> Step:
    held = link.there(stage, ["allowedChildClassesEffective"])
    made = {one.lower() for one in (held or {}).get("allowedchildclasseseffective", ())}
    if b"user" in made:
        return Step("Make accounts to rehearse with", "works", f"in {stage}")
    why = "There is no such container" if held is None else "The account may make none"
    return Step("Make accounts to rehearse with", "fails", f"{why}: {stage}")


def _effective(link: Link, dn: str) -> set[str]:
    found = link.entry(dn, ["allowedAttributesEffective"])
    return {one.decode().lower() for one in found.get("allowedattributeseffective", ())}


def _could(title: str, held: set[str], wanted: tuple[str, ...]) -> Step:
    lacking = [name for name in wanted if name.lower() not in held]
    if lacking:
        return Step(title, "fails", f"The account may not write {', '.join(lacking)}.")
    return Step(title, "works", ", ".join(wanted))
