"""What the difference between two estates writes into a directory: one object after another, each
at once in all that it becomes, in an order that is safe after every step.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal
from uuid import UUID

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.comparison import differences, renames
from hornfels.core.drafts.edits import policy_dn, removal, without_additions
from hornfels.core.drafts.operations import (
    AddPolicy,
    EditSettings,
    EditSource,
    GuardPolicy,
    LinkPolicy,
    Operation,
    Operations,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    SetPrecedence,
    SwitchSource,
    UnlinkPolicy,
)
from hornfels.core.drafts.passage import passage
from hornfels.core.drafts.sentences import Sentence, sentences
from hornfels.core.policy.catalogue import BY_KEY, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE
from hornfels.core.policy.model import Settings
from hornfels.core.values.dn import loose_key, name_key
from hornfels.formats import gp_links
from hornfels.formats.attributes import property_bits, setting_text

POLICY_CLASS = "msDS-PasswordSettings"


@dataclass(frozen=True, slots=True)
class Edit:
    """Values of one attribute that go and come. Other values of a list stay."""

    attribute: str
    gone: tuple[str, ...]
    come: tuple[str, ...]

    @property
    def inverse(self) -> Edit:
        return Edit(self.attribute, self.come, self.gone)


@dataclass(frozen=True, slots=True)
class Add:
    """A policy's object, with all its values."""

    dn: str
    values: dict[str, tuple[str, ...]]
    kind: Literal["add"] = "add"

    @property
    def inverse(self) -> Delete:
        return Delete(self.dn, self.values)


@dataclass(frozen=True, slots=True)
class Delete:
    """A policy's object goes. ``values`` are those it has to have until then."""

    dn: str
    values: dict[str, tuple[str, ...]]
    guid: UUID | None = None
    kind: Literal["delete"] = "delete"

    @property
    def inverse(self) -> Add:
        return Add(self.dn, self.values)


@dataclass(frozen=True, slots=True)
class Modify:
    """Values of an object become others, all of them at once. ``guid`` tells it from another of its
    name, where that is known.
    """

    dn: str
    edits: tuple[Edit, ...]
    guid: UUID | None = None
    kind: Literal["modify"] = "modify"

    @property
    def inverse(self) -> Modify:
        return Modify(self.dn, tuple(edit.inverse for edit in self.edits), self.guid)


@dataclass(frozen=True, slots=True)
class Rename:
    """An object goes by another name in the same container."""

    dn: str
    fresh: str
    guid: UUID | None = None
    kind: Literal["rename"] = "rename"

    @property
    def inverse(self) -> Rename:
        return Rename(self.fresh, self.dn, self.guid)


@dataclass(frozen=True, slots=True)
class Guard:
    """The guard of a policy's object against deletion, set or lifted."""

    dn: str
    on: bool
    guid: UUID | None = None
    kind: Literal["guard"] = "guard"

    @property
    def inverse(self) -> Guard:
        return Guard(self.dn, not self.on, self.guid)


Write = Add | Delete | Modify | Rename | Guard


def with_successor(write: Write, successors: Mapping[UUID, UUID]) -> Write:
    """Return a write for the object that there is now: a roll-back that makes a deleted object anew
    gets another GUID from the directory. `successors` are new GUIDs by the earlier ones.
    """
    if isinstance(write, Add) or write.guid is None:
        return write
    return replace(write, guid=successors.get(write.guid, write.guid))


@dataclass(frozen=True, slots=True)
class Rules:
    """An object's access rules, as a guard makes them."""

    dn: str
    descriptor: bytes


Request = Add | Delete | Modify | Rename | Rules
"""What is sent to a directory in one piece, with the values that it has by then."""


@dataclass(frozen=True, slots=True)
class Said:
    """One thing that a write does, in words."""

    subject: str
    text: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class Step:
    """A write, and what it does in words."""

    write: Write
    said: tuple[Said, ...]


@dataclass(frozen=True, slots=True)
class Plan:
    """Steps one after another, security templates that have to be changed as files, and how many
    accounts are for a moment under a third policy meanwhile.
    """

    steps: tuple[Step, ...]
    templates: tuple[EditSource, ...] = ()
    astray: int = 0


def planned(before: Estate, after: Estate) -> Plan:
    """What leads from one estate's policies to another's in the directory that the first was read
    from. Both have the same accounts and groups.
    """
    return _Planner(before, after).plan()


@dataclass
class _Planner:
    before: Estate
    after: Estate
    said: dict[int, list[Said]] = field(init=False)
    of_policy: dict[UUID, list[tuple[int, Operation]]] = field(init=False)
    operations: Operations = field(init=False)
    dns: dict[UUID, str] = field(init=False)

    def __post_init__(self) -> None:
        # A directory holds nothing of what Hornfels judges besides.
        self.operations = differences(*map(without_additions, (self.before, self.after)))
        names = {p.guid: p.name for p in (*self.after.policies, *self.before.policies)}
        gpos = (*self.after.domain.gpo_links, *self.before.domain.gpo_links)
        sources = {loose_key(link.gpo): link.name for link in gpos}
        self.said = defaultdict(list)
        for one in sentences(self.operations, names, sources):
            self.said[one.index].append(_words(one))
        self.of_policy = defaultdict(list)
        for index, op in enumerate(self.operations):
            guid = getattr(op, "policy", None)
            if isinstance(guid, UUID) and not isinstance(op, RenamePolicy):
                self.of_policy[guid].append((index, op))
        self.dns = {p.guid: p.dn for p in self.before.policies}

    def plan(self) -> Plan:
        steps = [*self._lifted(), *self._renamed()]
        way = passage(self.before, self.after)
        for guid in way.order:
            steps += self._policy(guid)
        rest = (guid for guid in self.of_policy if guid not in way.order)
        for guid in rest:
            steps += self._policy(guid)
        steps += self._domain()
        templates = tuple(op for op in self.operations if isinstance(op, EditSource))
        return Plan(tuple(steps), templates, way.astray)

    def _lifted(self) -> Iterator[Step]:
        """Guards of what goes."""
        for guid, entries in self.of_policy.items():
            for _, op in entries:
                if isinstance(op, RemovePolicy) and op.guarded:
                    lifted = Said(op.name, "Guard against deletion", "guarded", "not guarded")
                    yield Step(Guard(self.dns[guid], on=False, guid=guid), (lifted,))

    def _renamed(self) -> Iterator[Step]:
        """Every name is free when it is needed: what goes steps aside where another takes its
        name.
        """
        wanted = {p.guid: p.name for p in self.after.policies}
        new = {name_key(p.name) for p in self.after.policies}
        leaving = [p for p in self.before.policies if p.guid not in wanted]
        taken = new | {name_key(p.name) for p in self.before.policies}
        aside = (f"~{n}" for n in range(len(taken) + len(leaving) + 1) if f"~{n}" not in taken)
        there = {p.guid: wanted.get(p.guid, p.name) for p in self.before.policies}
        there |= {p.guid: next(aside) for p in leaving if name_key(p.name) in new}
        for op in renames(self.before, there):
            fresh = policy_dn(op.after, self.before.domain.dn)
            said = Said(op.before, "Name", op.before, op.after)
            yield Step(Rename(self.dns[op.policy], fresh, op.policy), (said,))
            self.dns[op.policy] = fresh

    def _policy(self, guid: UUID) -> Iterator[Step]:
        edits: list[Edit] = []
        said: list[Said] = []
        guard: tuple[Guard, tuple[Said, ...]] | None = None
        for index, op in self.of_policy.get(guid, ()):
            words = tuple(self.said[index])
            match op:
                case AddPolicy():
                    dn = self.dns[guid] = policy_dn(op.name, self.before.domain.dn)
                    yield Step(Add(dn, _values(op)), words)
                    if op.guarded:
                        set_ = Said(op.name, "Guard against deletion", "", "guarded")
                        yield Step(Guard(dn, on=True), (set_,))
                case RemovePolicy():
                    whole = removal(self.before, guid)
                    yield Step(Delete(self.dns[guid], _values(whole), guid), words)
                case GuardPolicy():
                    guard = Guard(self.dns[guid], on=op.after, guid=guid), words
                case _:
                    edits += _edits(op)
                    said += words
        if edits:
            yield Step(Modify(self.dns[guid], _joined(edits), guid), tuple(said))
        if guard:
            yield Step(*guard)

    def _domain(self) -> Iterator[Step]:
        held, dn = self.before.domain, self.before.domain.dn
        found = [
            (op, self.said[index])
            for index, op in enumerate(self.operations)
            if isinstance(op, EditSettings) and op.policy == "domain"
        ]
        said = tuple(one for _, words in found for one in words)
        after = {key: change.after for op, _ in found for key, change in op.changes.items()}
        was, now = (
            domain_values(settings, held.other_properties)
            for settings in (held.settings, held.settings.changed(after))
        )
        edits = tuple(Edit(key, (was[key],), (now[key],)) for key in was if was[key] != now[key])
        if edits:
            yield Step(Modify(dn, edits), said)
        said = tuple(
            one
            for index, op in enumerate(self.operations)
            if isinstance(op, OrderSources | SwitchSource)
            for one in self.said[index]
        )
        if said:
            sides = (gp_links.written(domain) for domain in (held, self.after.domain))
            edit = Edit(gp_links.ATTRIBUTE, *((side,) for side in sides))
            yield Step(Modify(dn, (edit,)), said)


def _words(one: Sentence) -> Said:
    return Said(one.subject, one.text, one.before, one.after)


def _values(op: AddPolicy | RemovePolicy) -> dict[str, tuple[str, ...]]:
    """All of a policy's object that is ours to say."""
    settings = op.settings.values()
    return {
        "objectClass": (POLICY_CLASS,),
        PRECEDENCE_ATTRIBUTE: (str(op.precedence),),
        **{
            BY_KEY[key].pso_attribute: (setting_text(BY_KEY[key], value),)
            for key, value in settings.items()
        },
        **({LINKS_ATTRIBUTE: tuple(target.dn for target in op.links)} if op.links else {}),
    }


def _edits(op: Operation) -> Iterator[Edit]:
    match op:
        case SetPrecedence():
            yield Edit(PRECEDENCE_ATTRIBUTE, (str(op.before),), (str(op.after),))
        case EditSettings():
            for key, change in op.changes.items():
                setting = BY_KEY[key]
                before, after = (setting_text(setting, v) for v in (change.before, change.after))
                yield Edit(setting.pso_attribute, (before,), (after,))
        case LinkPolicy():
            yield Edit(LINKS_ATTRIBUTE, (), (op.target.dn,))
        case UnlinkPolicy():
            yield Edit(LINKS_ATTRIBUTE, (op.target.dn,), ())


def _joined(edits: Iterable[Edit]) -> tuple[Edit, ...]:
    """One edit for each attribute."""
    found: dict[str, Edit] = {}
    for edit in edits:
        held = found.get(edit.attribute, Edit(edit.attribute, (), ()))
        found[edit.attribute] = Edit(edit.attribute, held.gone + edit.gone, held.come + edit.come)
    return tuple(found.values())


def domain_values(settings: Settings, others: int) -> dict[str, str]:
    """The domain policy as attributes of the domain object. ``pwdProperties`` holds complexity,
    reversible encryption and what Hornfels does not know (`others`) together.
    """
    found = {
        setting.domain_attribute: setting_text(setting, getattr(settings, setting.key))
        for setting in BY_KEY.values()
        if not setting.domain_mask
    }
    return {"pwdProperties": str(property_bits(settings.values(), others)), **found}
