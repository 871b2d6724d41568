"""Each kind of operation against an estate that somebody else has changed: what is said, and what
is left to do.
"""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

import pytest

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import removal, renumber
from hornfels.core.drafts.operations import (
    AddPolicy,
    Change,
    EditSettings,
    GuardPolicy,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Operation,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    SetFlag,
    SetPrecedence,
    SwitchSource,
    Target,
    UnlinkPolicy,
)
from hornfels.core.drafts.sentences import sentences
from hornfels.core.policy.model import DEFAULTS, PolicyRef
from hornfels.formats.dump import Dump

ROOT = "DC=sky,DC=tarnholt,DC=example"
WORKSHOP = f"CN=GS-Workshop,OU=Groups,{ROOT}"
NIGHT_GROUP = f"CN=GS-Night-Operators,OU=Groups,{ROOT}"
GONE = UUID(int=99)


def night(estate: Estate) -> UUID:
    return next(p.guid for p in estate.policies if p.name == "Night operators")


def length(before: int, after: int, policy: PolicyRef) -> EditSettings:
    return EditSettings(policy=policy, changes={"min_length": Change(before=before, after=after)})


def only_conflict(estate: Estate, op: Operation) -> tuple[str, Operation | None]:
    applied = apply(estate, (op,))
    (conflict,) = applied.conflicts
    assert applied.estate.policies == estate.policies
    rebased = conflict.rebased or (None,)
    assert len(rebased) == 1
    return conflict.reason, rebased[0]


@pytest.mark.parametrize(
    "op",
    [
        RenamePolicy(policy=GONE, before="a", after="b"),
        SetPrecedence(policy=GONE, before=1, after=2),
        GuardPolicy(policy=GONE, before=True, after=False),
        length(1, 2, GONE),
        LinkPolicy(policy=GONE, target=Target(dn=WORKSHOP)),
        UnlinkPolicy(policy=GONE, target=Target(dn=WORKSHOP)),
        RemovePolicy(policy=GONE, name="a", precedence=1, settings=DEFAULTS),
    ],
    ids=lambda op: op.kind,
)
def test_a_policy_that_is_gone_can_only_be_dropped(demo: Dump, op: Operation) -> None:
    assert only_conflict(demo.estate, op) == ("The policy no longer exists.", None)


def test_what_reads_otherwise_by_now_is_told_and_can_be_kept(demo: Dump) -> None:
    guid = night(demo.estate)
    assert only_conflict(demo.estate, SetPrecedence(policy=guid, before=40, after=20)) == (
        "Night operators was changed meanwhile: now 30.",
        SetPrecedence(policy=guid, before=30, after=20),
    )
    assert only_conflict(demo.estate, RenamePolicy(policy=guid, before="Nights", after="Late")) == (
        "Night operators was changed meanwhile: now Night operators.",
        RenamePolicy(policy=guid, before="Night operators", after="Late"),
    )
    assert only_conflict(demo.estate, GuardPolicy(policy=guid, before=False, after=True)) == (
        "Night operators was changed meanwhile: now guarded.",
        None,
    )
    assert only_conflict(demo.estate, length(12, 16, guid)) == (
        "Night operators was changed meanwhile: now minimum length 14 characters.",
        length(14, 16, guid),
    )
    assert only_conflict(demo.estate, length(7, 8, "domain"))[1] is None, (
        "somebody else set the same value"
    )
    image = removal(demo.estate, guid)
    assert only_conflict(demo.estate, image.model_copy(update={"precedence": 31}))[1] == image


def test_names_links_and_numbers_that_somebody_took(demo: Dump) -> None:
    estate, guid = demo.estate, night(demo.estate)
    added = AddPolicy(policy=GONE, name="keyholders", precedence=9, settings=DEFAULTS)
    assert only_conflict(estate, added)[0] == (
        "There is already a policy named Keyholders. The directory takes “keyholders” for "
        "the same name. Choose another name."
    )
    assert (
        only_conflict(estate, added.model_copy(update={"policy": guid}))[0]
        == "keyholders exists already."
    )
    linked = Target(dn=NIGHT_GROUP.lower())
    assert (
        only_conflict(estate, LinkPolicy(policy=guid, target=linked))[0]
        == "Night operators is linked to it already."
    )
    assert (
        "not linked to it any more"
        in only_conflict(estate, UnlinkPolicy(policy=guid, target=Target(dn=WORKSHOP)))[0]
    )
    fewer = estate.with_policies(
        estate.policies[:-1],
        tuple(ln for ln in estate.links if ln.policy < len(estate.policies) - 1),
    )
    reason, rebased = only_conflict(fewer, renumber(estate))
    assert reason.endswith("number them anew.")
    assert rebased == renumber(fewer)


def test_members_flags_and_source_links_that_moved(demo: Dump) -> None:
    estate = demo.estate
    account = estate.find_account("ilse.varga")
    assert account is not None
    dn = estate.accounts.dn[account]
    assert (
        only_conflict(estate, JoinGroup(member=dn, group=NIGHT_GROUP))[0]
        == "It is in the group already."
    )
    assert (
        only_conflict(estate, LeaveGroup(member=dn, group=WORKSHOP))[0]
        == "It is not in the group any more."
    )
    nobody = "There is no account or group “CN=nobody” in this domain. Choose one that is there."
    assert only_conflict(estate, JoinGroup(member="CN=nobody", group=WORKSHOP)) == (nobody, None)
    person = "“Ilse Varga” is an account, and only a group can hold somebody. Choose a group."
    assert only_conflict(estate, JoinGroup(member=WORKSHOP, group=dn)) == (person, None)
    flag = SetFlag(account="ilse.varga", flag="DISABLED", before=True, after=False)
    assert "changed meanwhile" in only_conflict(estate, flag)[0]
    assert (
        "no account “nobody” in this domain"
        in only_conflict(estate, flag.model_copy(update={"account": "nobody"}))[0]
    )
    at_root = tuple(
        link.gpo
        for link in sorted(estate.domain.gpo_links, key=lambda ln: ln.order)
        if link.container == ROOT
    )
    late = OrderSources(before=at_root[::-1], after=at_root[::-1])
    assert only_conflict(estate, late)[1] == OrderSources(before=at_root, after=at_root[::-1])
    assert only_conflict(estate, OrderSources(before=("CN=x",), after=("CN=x",)))[1] is None
    switched = SwitchSource(gpo=at_root[0], what="disabled", before=True, after=False)
    assert "changed meanwhile" in only_conflict(estate, switched)[0]


def test_operations_read_as_sentences(demo: Dump) -> None:
    guid = night(demo.estate)
    settings = replace(DEFAULTS, max_age=None, lockout_threshold=0)
    added = AddPolicy(
        policy=GONE, name="Late", precedence=9, settings=settings, links=(Target(dn=WORKSHOP),)
    )
    ops = (
        added,
        GuardPolicy(policy=GONE, before=True, after=False),
        LinkPolicy(policy=guid, target=Target(dn=WORKSHOP)),
        SetFlag(account="ilse.varga", flag="DISABLED", before=False, after=True),
        length(8, 12, "domain"),
    )
    said = sentences(ops, {guid: "Night operators"})
    assert [(s.index, s.subject, s.text) for s in said] == [
        (0, "Late", "New policy at precedence 9, linked to GS-Workshop"),
        (1, "Late", "Guard against deletion"),
        (2, "Night operators", "Linked to GS-Workshop"),
        (3, "ilse.varga", "What if the flag “disabled” were set?"),
        (4, "Domain policy", "Minimum length"),
    ]
    assert "maximum age never expires; lockout threshold never locks" in said[0].after
    assert [s.bites for s in said[3:]] == [
        "never: weighed only, not published",
        "when the password is next changed or reset",
    ]
    assert [s.before for s in sentences((added.inverse,), {})] == [said[0].after]
