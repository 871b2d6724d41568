"""Policies, the domain and accounts as attributes: the values that a dump of them would hold."""

from __future__ import annotations

import io

import pytest

from hornfels.core.resolution.engine import resolve
from hornfels.formats.attributes import (
    Attribute,
    account_attributes,
    domain_attributes,
    policy_attributes,
)
from hornfels.formats.dump import Dump
from hornfels.formats.ldif import read
from hornfels.formats.table import write_table

BINARY = {"objectguid", "objectsid"}


@pytest.fixture(scope="module")
def entries(demo_ldif: bytes) -> dict[str, dict[str, list[bytes]]]:
    wanted = [
        "cn",
        "objectclass",
        "pwdproperties",
        "msds-behavior-version",
        "samaccountname",
        "displayname",
        "useraccountcontrol",
        "pwdlastset",
        "badpwdcount",
        "badpasswordtime",
        "lockouttime",
        "primarygroupid",
        "minpwdlength",
        "pwdhistorylength",
        "minpwdage",
        "maxpwdage",
        "lockoutthreshold",
        "lockoutobservationwindow",
        "lockoutduration",
        "msds-passwordsettingsprecedence",
        "msds-psoappliesto",
        "msds-minimumpasswordlength",
        "msds-passwordcomplexityenabled",
        "msds-passwordhistorylength",
        "msds-minimumpasswordage",
        "msds-passwordreversibleencryptionenabled",
        "msds-maximumpasswordage",
        "msds-lockoutthreshold",
        "msds-lockoutobservationwindow",
        "msds-lockoutduration",
    ]
    return {record.dn: record.values for record in read(io.BytesIO(demo_ldif), wanted)}


def check(found: list[Attribute], entry: dict[str, list[bytes]]) -> int:
    """Every attribute that both sides know has the same values, ticks included."""
    same = 0
    for name, values, _ in found:
        held = entry.get(name.lower())
        if held is not None and name != "objectClass":
            assert sorted(values) == sorted(value.decode() for value in held), name
            same += 1
    return same


def test_policies_are_shown_as_they_were_read(
    demo: Dump, entries: dict[str, dict[str, list[bytes]]]
) -> None:
    for number, policy in enumerate(demo.estate.policies):
        assert check(policy_attributes(demo.estate, number), entries[policy.dn]) == 12


def test_the_domain_is_shown_as_it_was_read(
    demo: Dump, entries: dict[str, dict[str, list[bytes]]]
) -> None:
    assert check(domain_attributes(demo.estate), entries[demo.estate.domain.dn]) == 9


def test_accounts_are_shown_as_they_were_read(
    demo: Dump, entries: dict[str, dict[str, list[bytes]]]
) -> None:
    resolution = resolve(demo.estate)
    for row, dn in enumerate(demo.estate.accounts.dn):
        assert check(account_attributes(demo.estate, resolution, row), entries[dn]) >= 5
    winner = {a.name: a.values for a in account_attributes(demo.estate, resolution, 0)}[
        "msDS-ResultantPSO"
    ]
    assert winner in {(p.dn,) for p in demo.estate.policies} | {()}


def test_a_table_runs_no_formulas_and_hides_nothing() -> None:
    text = write_table(
        ["A"],
        [["=1+1"], ["@x"], ["-2"], ["plain, with comma"], ['say "so"'], ["a\u202eb"], ["\t=1"]],
    )
    assert text.split("\r\n") == [
        "A",
        "'=1+1",
        "'@x",
        "'-2",
        '"plain, with comma"',
        '"say ""so"""',
        "a\\u202eb",
        "'\\x09=1",
        "",
    ]
