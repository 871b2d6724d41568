"""Policies, the domain and accounts as the directory holds them: attribute names and raw values
(domain rules §1, §2).

Moments and spans are counts of ticks of 100 ns: moments since 1601, spans negative.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from hornfels.core.domain.estate import UNKNOWN_TIME, Control, Estate
from hornfels.core.drafts.sentences import value_text
from hornfels.core.policy.catalogue import (
    CATALOGUE,
    LINKS_ATTRIBUTE,
    PRECEDENCE_ATTRIBUTE,
    Setting,
    SettingKey,
    Value,
)
from hornfels.core.policy.model import Settings
from hornfels.core.resolution.engine import Resolution
from hornfels.core.values.time import (
    datetime_from_moment,
    describe_span,
    span_from_ldap,
    span_to_ldap,
)


class Attribute(NamedTuple):
    """One attribute with its values as written in LDIF; ``reads`` says what a value means where its
    digits do not.
    """

    name: str
    values: tuple[str, ...]
    reads: str = ""


def setting_text(setting: Setting, value: Value) -> str:
    """A setting's value as a password settings object holds it."""
    if setting.kind == "switch":
        return "TRUE" if value else "FALSE"
    return str(span_to_ldap(value) if setting.kind == "span" else value)


def property_bits(settings: Mapping[SettingKey, Value], others: int) -> int:
    """``pwdProperties`` for these settings; ``others`` are the bits that Hornfels does not know."""
    return others | sum(s.domain_mask for s in CATALOGUE if s.domain_mask and settings[s.key])


def policy_attributes(estate: Estate, policy: int) -> list[Attribute]:
    """A fine-grained policy as a password settings object."""
    mine = estate.policies[policy]
    return [
        Attribute("dn", (mine.dn,)),
        Attribute("objectClass", ("msDS-PasswordSettings",)),
        Attribute("cn", (mine.name,)),
        Attribute("objectGUID", (str(mine.guid),)),
        Attribute(PRECEDENCE_ATTRIBUTE, (str(mine.precedence),)),
        *(_setting(s.pso_attribute, s, mine.settings) for s in CATALOGUE),
        Attribute(
            LINKS_ATTRIBUTE, tuple(link.dn for link in estate.links if link.policy == policy)
        ),
    ]


def domain_attributes(estate: Estate) -> list[Attribute]:
    """The domain object, as far as passwords and lockouts go."""
    domain = estate.domain
    bits = property_bits(domain.settings.values(), domain.other_properties)
    on = [s.label.lower() for s in CATALOGUE if s.domain_mask and getattr(domain.settings, s.key)]
    found = [
        Attribute("dn", (domain.dn,)),
        Attribute("objectSid", (domain.sid,)),
        Attribute("pwdProperties", (str(bits),), ", ".join(on) or "nothing on"),
        *(_setting(s.domain_attribute, s, domain.settings) for s in CATALOGUE if not s.domain_mask),
    ]
    if domain.functional_level is not None:
        found.append(Attribute("msDS-Behavior-Version", (str(domain.functional_level),)))
    return found


def account_attributes(estate: Estate, resolution: Resolution, row: int) -> list[Attribute]:
    """An account, as far as passwords and lockouts go, with the policy that Hornfels works out for
    it.
    """
    accounts = estate.accounts
    control = int(accounts.control[row])
    bits = [bit.name.lower().replace("_", " ") for bit in Control if control & bit and bit.name]
    winner = int(resolution.winner_of_account[row])
    groups = [estate.groups.dn[g] for g in estate.memberships.groups_of_account.of(row).tolist()]
    return [
        Attribute("dn", (accounts.dn[row],)),
        Attribute("sAMAccountName", (accounts.name[row],)),
        Attribute(
            "displayName", (accounts.display_name[row],) if accounts.display_name[row] else ()
        ),
        Attribute("objectSid", (f"{estate.domain.sid}-{int(accounts.rid[row])}",)),
        Attribute("userAccountControl", (str(control),), ", ".join(bits)),
        _moment("pwdLastSet", int(accounts.password_set[row]), "must change at next sign-in"),
        Attribute("badPwdCount", (str(int(accounts.bad_count[row])),)),
        _moment("badPasswordTime", int(accounts.bad_time[row]), "never"),
        _moment("lockoutTime", int(accounts.lockout_time[row]), "not locked"),
        Attribute("primaryGroupID", *_primary_group(estate, int(accounts.primary_group[row]))),
        Attribute("memberOf", tuple(groups)),
        Attribute(
            "msDS-ResultantPSO",
            (estate.policies[winner].dn,) if winner >= 0 else (),
            "worked out by Hornfels"
            if winner >= 0
            else "worked out by Hornfels: the domain policy holds",
        ),
    ]


def _setting(name: str, setting: Setting, settings: Settings) -> Attribute:
    value = getattr(settings, setting.key)
    reads = (
        describe_span(value, never=setting.endless or "never", parts=4)
        if setting.kind == "span"
        else ""
    )
    return Attribute(name, (setting_text(setting, value),), reads)


def _primary_group(estate: Estate, group: int) -> tuple[tuple[str, ...], str]:
    return (
        ((str(int(estate.groups.rid[group])),), estate.groups.name[group])
        if group >= 0
        else ((), "not in what was read")
    )


def _moment(name: str, value: int, zero: str) -> Attribute:
    if value == UNKNOWN_TIME:
        return Attribute(name, (), "not read")
    at = datetime_from_moment(value) if value > 0 else None
    return Attribute(
        name,
        (str(value),),
        zero if value == 0 else f"{at:%Y-%m-%d %H:%M:%S} UTC" if at else "outside the calendar",
    )


_SETTINGS = {s.pso_attribute: s for s in CATALOGUE} | {
    s.domain_attribute: s for s in CATALOGUE if not s.domain_mask
}
_WORDS = {PRECEDENCE_ATTRIBUTE: "precedence", LINKS_ATTRIBUTE: "what it is linked to"}


def attribute_in_words(name: str) -> str:
    """What an attribute of a policy or of the domain holds; its own name where that is unknown."""
    setting = _SETTINGS.get(name)
    return setting.label.lower() if setting else _WORDS.get(name, name)


def value_in_words(name: str, written: str) -> str:
    """What a value of such an attribute means; the value itself where that is unknown."""
    setting = _SETTINGS.get(name)
    try:
        if setting is None:
            return written
        if setting.kind == "switch":
            return value_text(setting, {"TRUE": True, "FALSE": False}[written])
        number = int(written)
    except (KeyError, ValueError):
        return written
    span = span_from_ldap(number, endless=bool(setting.endless))
    return value_text(setting, span if setting.kind == "span" else number)
