"""The closed set of operations a draft is made of. Each names what it found (``before``), so that
it can be undone and checked.

Spans are ticks of 100 ns, ``None`` for never / until unlocked, as in
`hornfels.core.policy.model.Settings`.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from hornfels.core.drafts.written_additions import AdditionField
from hornfels.core.policy.catalogue import SettingKey, TemplateKey, Value
from hornfels.core.policy.model import PolicyRef, Settings
from hornfels.core.policy.term_lists import LONGEST_LIST_NAME, TermList


class _Operation(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Change(_Operation):
    """One setting from → to."""

    before: Value
    after: Value

    @property
    def inverse(self) -> Change:
        return Change(before=self.after, after=self.before)


class Target(_Operation):
    """What a policy is linked to. ``kind`` matters only for what is no account or group, which an
    estate knows by links alone.
    """

    dn: str
    kind: Literal["account", "group", "ou", "contact", "domain", "other", "outside"] = "outside"


class _WholePolicy(_Operation):
    policy: UUID
    name: str = Field(min_length=1, max_length=64)
    precedence: int
    settings: Settings
    guarded: bool = True
    links: tuple[Target, ...] = ()
    addition: AdditionField = None


def _held(whole: _WholePolicy) -> dict[str, Any]:
    return {name: getattr(whole, name) for name in _WholePolicy.model_fields}


class AddPolicy(_WholePolicy):
    """A new fine-grained policy with its links. The directory gives the object its GUID when it is
    published.
    """

    kind: Literal["add_policy"] = "add_policy"

    @property
    def inverse(self) -> RemovePolicy:
        return RemovePolicy(**_held(self))


class RemovePolicy(_WholePolicy):
    """A policy taken away; holds all that it was."""

    kind: Literal["remove_policy"] = "remove_policy"

    @property
    def inverse(self) -> AddPolicy:
        return AddPolicy(**_held(self))


class RenamePolicy(_Operation):
    kind: Literal["rename_policy"] = "rename_policy"
    policy: UUID
    before: str
    after: str = Field(min_length=1, max_length=64)

    @property
    def inverse(self) -> RenamePolicy:
        return RenamePolicy(policy=self.policy, before=self.after, after=self.before)


class SetPrecedence(_Operation):
    kind: Literal["set_precedence"] = "set_precedence"
    policy: UUID
    before: int
    after: int

    @property
    def inverse(self) -> SetPrecedence:
        return SetPrecedence(policy=self.policy, before=self.after, after=self.before)


class Number(_Operation):
    """One policy's number in a `Renumber`."""

    policy: UUID
    before: int
    after: int


class Renumber(_Operation):
    """New numbers for every policy in the same evaluation order: changes nobody's policy."""

    kind: Literal["renumber"] = "renumber"
    numbers: tuple[Number, ...]

    @property
    def inverse(self) -> Renumber:
        return Renumber(
            numbers=tuple(
                Number(policy=n.policy, before=n.after, after=n.before) for n in self.numbers
            )
        )


class EditSettings(_Operation):
    """Settings of one policy, or of the domain policy."""

    kind: Literal["edit_settings"] = "edit_settings"
    policy: PolicyRef
    changes: dict[SettingKey, Change]

    @property
    def inverse(self) -> EditSettings:
        return EditSettings(
            policy=self.policy,
            changes={key: change.inverse for key, change in self.changes.items()},
        )


class GuardPolicy(_Operation):
    """The guard against deletion, set or lifted."""

    kind: Literal["guard_policy"] = "guard_policy"
    policy: UUID
    before: bool
    after: bool

    @property
    def inverse(self) -> GuardPolicy:
        return GuardPolicy(policy=self.policy, before=self.after, after=self.before)


class SetAddition(_Operation):
    """What a policy, or the domain policy, asks beyond the directory's own rules."""

    kind: Literal["set_addition"] = "set_addition"
    policy: PolicyRef
    before: AdditionField
    after: AdditionField

    @property
    def inverse(self) -> SetAddition:
        return SetAddition(policy=self.policy, before=self.after, after=self.before)


class SetTerms(_Operation):
    """What a list of blocked terms holds; None where there is no such list."""

    kind: Literal["set_terms"] = "set_terms"
    list: str = Field(min_length=1, max_length=LONGEST_LIST_NAME)
    before: TermList | None
    after: TermList | None

    @property
    def inverse(self) -> SetTerms:
        return SetTerms(list=self.list, before=self.after, after=self.before)


class LinkPolicy(_Operation):
    """A policy linked to one more object."""

    kind: Literal["link_policy"] = "link_policy"
    policy: UUID
    target: Target

    @property
    def inverse(self) -> UnlinkPolicy:
        return UnlinkPolicy(policy=self.policy, target=self.target)


class UnlinkPolicy(_Operation):
    kind: Literal["unlink_policy"] = "unlink_policy"
    policy: UUID
    target: Target

    @property
    def inverse(self) -> LinkPolicy:
        return LinkPolicy(policy=self.policy, target=self.target)


class Said(_Operation):
    """What a source says of one setting, before and after: nothing (empty), or one value."""

    before: tuple[Value, ...] = Field(max_length=1)
    after: tuple[Value, ...] = Field(max_length=1)

    @property
    def inverse(self) -> Said:
        return Said(before=self.after, after=self.before)


class EditSource(_Operation):
    """Settings in the security template of one group policy object."""

    kind: Literal["edit_source"] = "edit_source"
    gpo: str
    changes: dict[TemplateKey, Said]

    @property
    def inverse(self) -> EditSource:
        return EditSource(
            gpo=self.gpo, changes={key: said.inverse for key, said in self.changes.items()}
        )


class OrderSources(_Operation):
    """The group policy objects linked at the domain root, link order 1 first."""

    kind: Literal["order_sources"] = "order_sources"
    before: tuple[str, ...]
    after: tuple[str, ...]

    @property
    def inverse(self) -> OrderSources:
        return OrderSources(before=self.after, after=self.before)


class SwitchSource(_Operation):
    """A link at the domain root enforced or not, switched off or on."""

    kind: Literal["switch_source"] = "switch_source"
    gpo: str
    what: Literal["enforced", "disabled"]
    before: bool
    after: bool

    @property
    def inverse(self) -> SwitchSource:
        return SwitchSource(gpo=self.gpo, what=self.what, before=self.after, after=self.before)


class _Membership(_Operation):
    member: str
    group: str


class JoinGroup(_Membership):
    """What if this account or group were in that group? Weighed, never published."""

    kind: Literal["join_group"] = "join_group"

    @property
    def inverse(self) -> LeaveGroup:
        return LeaveGroup(member=self.member, group=self.group)


class LeaveGroup(_Membership):
    """What if this account or group were taken out of that group? Weighed, never published."""

    kind: Literal["leave_group"] = "leave_group"

    @property
    def inverse(self) -> JoinGroup:
        return JoinGroup(member=self.member, group=self.group)


Flag = Literal[
    "DISABLED",
    "NO_PASSWORD_REQUIRED",
    "REVERSIBLE_ENCRYPTION",
    "NEVER_EXPIRES",
    "SMART_CARD_REQUIRED",
]
"""The account flags that can be weighed: names of `hornfels.core.domain.estate.Control`."""


class SetFlag(_Operation):
    """What if this account had, or had not, this flag? Weighed, never published."""

    kind: Literal["set_flag"] = "set_flag"
    account: str
    flag: Flag
    before: bool
    after: bool

    @property
    def inverse(self) -> SetFlag:
        return SetFlag(account=self.account, flag=self.flag, before=self.after, after=self.before)


Operation = Annotated[
    AddPolicy
    | RemovePolicy
    | RenamePolicy
    | SetPrecedence
    | Renumber
    | EditSettings
    | GuardPolicy
    | SetAddition
    | SetTerms
    | LinkPolicy
    | UnlinkPolicy
    | EditSource
    | OrderSources
    | SwitchSource
    | JoinGroup
    | LeaveGroup
    | SetFlag,
    Field(discriminator="kind"),
]
Operations = tuple[Operation, ...]

WHAT_IF = (JoinGroup, LeaveGroup, SetFlag)
"""Operations that are only weighed: publishing leaves the directory's accounts and groups alone."""

KEPT_HERE = (GuardPolicy, SetAddition, SetTerms)
"""Operations on what Hornfels keeps of itself, whatever a directory tells."""

ADAPTER: TypeAdapter[Operations] = TypeAdapter(Operations)


def inverse(operations: Operations) -> Operations:
    """The operations that take these back, last first."""
    return tuple(op.inverse for op in reversed(operations))


def readdressed(operations: Operations, successors: Mapping[UUID, UUID]) -> Operations:
    """The operations with every policy that goes by another GUID now under that one."""

    def fresh(op: Operation) -> Operation:
        if isinstance(op, Renumber):
            numbers = (
                n.model_copy(update={"policy": successors.get(n.policy, n.policy)})
                for n in op.numbers
            )
            return Renumber(numbers=tuple(numbers))
        policy: PolicyRef | None = getattr(op, "policy", None)
        now = successors.get(policy) if isinstance(policy, UUID) else None
        return op.model_copy(update={"policy": now}) if now else op

    return tuple(fresh(op) for op in operations)


def published(operations: Operations) -> Operations:
    """Those that publishing writes; what-ifs are left out."""
    return tuple(op for op in operations if not isinstance(op, WHAT_IF))
