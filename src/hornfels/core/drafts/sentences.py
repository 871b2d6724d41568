"""Operations in words: what a draft does, object by object, from what to what, and when it bites
(domain rules §7).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from uuid import UUID

from hornfels.core.drafts.operations import (
    AddPolicy,
    EditSettings,
    EditSource,
    GuardPolicy,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Operation,
    Operations,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    Renumber,
    SetAddition,
    SetFlag,
    SetPrecedence,
    SetTerms,
    SwitchSource,
    UnlinkPolicy,
)
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.addition_words import lines
from hornfels.core.policy.catalogue import (
    BY_KEY,
    TEMPLATE_SETTINGS,
    WHEN,
    Extended,
    TemplateKey,
    Value,
)
from hornfels.core.values.dn import first_value, loose_key
from hornfels.core.values.time import describe_span

AT_ONCE = "at once"
NEVER_PUBLISHED = "never: weighed only, not published"


@dataclass(frozen=True, slots=True)
class Sentence:
    """One thing a draft does. ``index`` is the operation's place; an operation may say several
    things.
    """

    index: int
    subject: str
    text: str
    before: str
    after: str
    bites: str
    here: bool = False
    """Whether it is about what only Hornfels keeps and judges by."""


_FLAGS = {
    "DISABLED": "disabled",
    "NO_PASSWORD_REQUIRED": "no password required",
    "REVERSIBLE_ENCRYPTION": "reversible encryption",
    "NEVER_EXPIRES": "password never expires",
    "SMART_CARD_REQUIRED": "smart card required",
}


def value_text(setting: Extended, value: Value) -> str:
    """A setting's value with its unit."""
    if setting.kind == "switch":
        return "on" if value else "off"
    if setting.kind == "span":
        return describe_span(value, never=setting.endless or "never")
    if setting.zero and value == 0:
        return setting.zero
    return f"{value:,} {setting.unit}"


def said_text(key: TemplateKey, said: tuple[Value, ...]) -> str:
    """What a source says of a setting, in words."""
    if not said:
        return "not set here"
    return value_text(TEMPLATE_SETTINGS[key], said[0])


def sentences(
    operations: Operations, names: dict[UUID, str], sources: dict[str, str] | None = None
) -> list[Sentence]:
    """All that these operations do. `names` are the policies' names before them, `sources` the
    group policy objects' by key.
    """
    known = dict(names)
    for op in operations:
        if isinstance(op, AddPolicy | RemovePolicy):
            known.setdefault(op.policy, op.name)
    return [
        sentence
        for index, op in enumerate(operations)
        for sentence in _said(index, op, known, sources or {})
    ]


def _said(
    index: int, op: Operation, names: dict[UUID, str], sources: dict[str, str]
) -> Iterator[Sentence]:
    def say(
        subject: str,
        text: str,
        before: str = "",
        after: str = "",
        bites: str = AT_ONCE,
        here: bool = False,
    ) -> Sentence:
        return Sentence(index, subject, text, before, after, bites, here)

    def name(policy: UUID) -> str:
        return names.get(policy, "A policy that no longer exists")

    match op:
        case AddPolicy():
            to = ", ".join(first_value(t.dn) for t in op.links) or "nothing yet"
            yield say(
                op.name,
                f"New policy at precedence {op.precedence}, linked to {to}",
                "",
                _summary(op),
            )
            yield from _addition(say, op.name, None, op.addition)
        case RemovePolicy():
            to = ", ".join(first_value(t.dn) for t in op.links) or "nothing"
            yield say(
                op.name,
                f"Policy removed (precedence {op.precedence}, linked to {to})",
                _summary(op),
                "",
            )
            yield from _addition(say, op.name, op.addition, None)
        case RenamePolicy():
            yield say(name(op.policy), "Name", op.before, op.after)
        case SetPrecedence():
            yield say(name(op.policy), "Precedence", str(op.before), str(op.after))
        case GuardPolicy():
            words = {True: "guarded", False: "not guarded"}
            yield say(name(op.policy), "Guard against deletion", words[op.before], words[op.after])
        case SetAddition():
            subject = "Domain policy" if op.policy == "domain" else name(op.policy)
            yield from _addition(say, subject, op.before, op.after)
        case SetTerms():
            sides = (plural_terms(side.count) if side else "" for side in (op.before, op.after))
            done = _TERMS_DONE[bool(op.before), bool(op.after)]
            before, after = sides
            yield say(f"Blocked terms “{op.list}”", done, before, after, WHEN["next"], here=True)
        case Renumber():
            moved = [n for n in op.numbers if n.before != n.after]
            yield say(
                "All policies",
                "Numbered with gaps, in the same order: nobody's policy changes",
                ", ".join(str(n.before) for n in moved),
                ", ".join(str(n.after) for n in moved),
            )
        case EditSettings():
            subject = "Domain policy" if op.policy == "domain" else name(op.policy)
            for key, change in op.changes.items():
                setting = BY_KEY[key]
                yield say(
                    subject,
                    setting.label,
                    value_text(setting, change.before),
                    value_text(setting, change.after),
                    setting.takes_effect,
                )
        case LinkPolicy():
            yield say(name(op.policy), f"Linked to {first_value(op.target.dn)}", "", op.target.dn)
        case UnlinkPolicy():
            yield say(
                name(op.policy),
                f"No longer linked to {first_value(op.target.dn)}",
                op.target.dn,
                "",
            )
        case EditSource():
            for part, said in op.changes.items():
                yield say(
                    f"Template of {sources.get(loose_key(op.gpo), op.gpo)}",
                    TEMPLATE_SETTINGS[part].label,
                    said_text(part, said.before),
                    said_text(part, said.after),
                    TEMPLATE_SETTINGS[part].takes_effect,
                )
        case OrderSources():
            orders = (
                ", ".join(sources.get(loose_key(gpo), gpo) for gpo in side)
                for side in (op.before, op.after)
            )
            before, after = orders
            yield say("Domain policy", "Order of its sources", before, after)
        case SwitchSource():
            states = {"enforced": ("not enforced", "enforced"), "disabled": ("on", "switched off")}[
                op.what
            ]
            yield say(
                "Domain policy",
                f"Link of {sources.get(loose_key(op.gpo), op.gpo)}",
                states[op.before],
                states[op.after],
            )
        case JoinGroup():
            yield say(
                first_value(op.member),
                f"What if it were in {first_value(op.group)}?",
                "",
                "",
                NEVER_PUBLISHED,
            )
        case LeaveGroup():
            yield say(
                first_value(op.member),
                f"What if it were not in {first_value(op.group)}?",
                "",
                "",
                NEVER_PUBLISHED,
            )
        case SetFlag():
            words = {True: "set", False: "not set"}
            yield say(
                op.account,
                f"What if the flag “{_FLAGS[op.flag]}” were {words[op.after]}?",
                words[op.before],
                words[op.after],
                NEVER_PUBLISHED,
            )


_TERMS_DONE = {
    (False, True): "New list",
    (True, False): "List taken away",
    (True, True): "Its terms",
    (False, False): "Nothing",
}


def plural_terms(count: int) -> str:
    return f"{count:,} term{'' if count == 1 else 's'}"


def _addition(
    say: Callable[[str, str, str, str, str, bool], Sentence],
    subject: str,
    before: Addition | None,
    after: Addition | None,
) -> Iterator[Sentence]:
    """The rules that come and go, path by path. Hornfels judges by them from the next change on."""
    was, now = (list(lines(side)) for side in (before, after))
    for where in dict.fromkeys(place for place, _ in (*was, *now)):
        gone, come = (
            "; ".join(text for place, text in side if place == where and (place, text) not in other)
            for side, other in ((was, now), (now, was))
        )
        if gone or come:
            what = f"Besides, {where[0].lower()}{where[1:]}"
            yield say(subject, what, gone, come, WHEN["next"], True)


def _summary(policy: AddPolicy | RemovePolicy) -> str:
    return "; ".join(
        f"{BY_KEY[key].label.lower()} {value_text(BY_KEY[key], value)}"
        for key, value in policy.settings.values().items()
    )
