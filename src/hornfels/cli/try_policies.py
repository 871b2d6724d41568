"""Policies as a file has them, for whoever tries candidates under them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from hornfels.cli.errors import note, opened
from hornfels.cli.policy_files import planned, read_file
from hornfels.core.domain.estate import Estate
from hornfels.core.passwords.additions import compile_addition
from hornfels.core.passwords.rules.rule import Rule, Subject
from hornfels.core.policy.model import PolicyRef
from hornfels.core.resolution.engine import winners
from hornfels.core.values.dn import loose_key
from hornfels.formats.ldif import read


def under_file(file: Path, estate: Estate, row: int) -> tuple[Estate, tuple[Rule, ...]]:
    """The estate as a policy file would have it, and the rules that the addition of an account's
    policy makes there. All that is wrong with the file ends the command.
    """
    given = read_file(file)
    found = planned(given, file, estate)
    policy = int(winners(found.estate)[row])
    ref: PolicyRef = found.estate.policies[policy].guid if policy >= 0 else "domain"
    addition = found.additions.get(ref)
    if addition is None:
        return found.estate, ()
    return found.estate, compile_addition(addition, given.content.blocked_terms)


_NAMES = {
    "given_name": "givenname",
    "surname": "sn",
    "sign_in_name": "userprincipalname",
    "mail": "mail",
}


def with_all_names(subject: Subject, file: Path, dn: str) -> Subject:
    """An account with the names that additions look at besides, from its entry in the dump."""
    if str(file) == "-":
        note("the dump cannot be read twice: of the account only its own names there are known")
        return subject
    key = loose_key(dn)
    with opened(file) as source:
        for record in read(source, _NAMES.values()):
            if loose_key(record.dn) == key:
                names = {ours: record.name(theirs) or "" for ours, theirs in _NAMES.items()}
                return replace(subject, **names)
    return subject
