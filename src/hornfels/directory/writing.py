"""Writing into a directory, one object after another. Each is looked at just before, and written
only if it is still as the change was made on: what is read and what is sent name the same values,
so that nothing comes between (RFC 4511, section 4.6: a modification is done as a whole or not at
all).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, assert_never
from uuid import UUID

from hornfels.core.policy.catalogue import LINKS_ATTRIBUTE
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.dn import first_value, loose_key, parent_of, rdn_of
from hornfels.directory.link import RULES, Link, Values
from hornfels.directory.reach import DirectoryError, RefusedError
from hornfels.directory.told import ALREADY_THERE, NO_SUCH_ATTRIBUTE, NO_SUCH_OBJECT
from hornfels.formats import gp_links
from hornfels.formats.attributes import attribute_in_words, value_in_words
from hornfels.formats.descriptor import (
    RULES_ATTRIBUTE,
    DescriptorError,
    denies_deletion,
    with_guard,
    without_guard,
)
from hornfels.formats.writes import (
    Add,
    Delete,
    Edit,
    Guard,
    Modify,
    Rename,
    Request,
    Rules,
    Write,
    domain_values,
)

_CHANGED = (NO_SUCH_ATTRIBUTE, NO_SUCH_OBJECT, *ALREADY_THERE)
_OBJECT_CLASS = "objectClass"
_POLICY = "msDS-PasswordSettings"


class ChangedError(DirectoryError):
    """The object is neither as the change was made on nor as it makes it."""


@dataclass(frozen=True, slots=True)
class Found:
    """How an object stands to a write: ``before`` it, with what is to be sent, or ``after`` it.
    ``guid`` is the object's own, where it is there.
    """

    state: Literal["before", "after"]
    requests: tuple[Request, ...] = ()
    guid: UUID | None = None


def carry_out(link: Link, write: Write) -> UUID | None:
    """Do it unless it is done, and read it back. The object's GUID where it is there then. Raises
    `ChangedError`, `DirectoryError`.
    """
    found = look(link, write)
    if found.state == "after":
        return found.guid
    try:
        for request in found.requests:
            _send(link, request)
    except DirectoryError as error:
        if error.code not in _CHANGED or look(link, write).state == "before":
            raise
    found = look(link, write)
    if found.state == "before":
        raise DirectoryError(
            f"{link.server} took the change of {write.dn}, and does not show it. Look at the "
            "object there before going on."
        )
    return found.guid


def look(link: Link, write: Write) -> Found:
    """How the write's object stands to it. Raises `ChangedError`."""
    match write:
        case Add():
            return _add(link, write)
        case Delete():
            return _delete(link, write)
        case Modify():
            return _modify(link, write)
        case Rename():
            return _rename(link, write)
        case Guard():
            return _guard(link, write)
        case _:
            assert_never(write)


def dn_of(link: Link, guid: UUID, container: str) -> str | None:
    """Return the distinguished name that an object of a container has now, None if the object is
    not there. Raises `RefusedError` where the account cannot tell.
    """
    held = link.there(f"<GUID={guid}>", ["distinguishedName"])
    if held is None:
        _require_sight(link, container)
        return None
    if "distinguishedname" not in held:
        raise _hidden(link, f"the object {guid}")
    return _text(held["distinguishedname"][0])


@dataclass(frozen=True, slots=True)
class Ahead:
    """What would be done for one write: nothing if it is ``done`` already; or what is in its way.
    Without requests it is told when the object is there.
    """

    write: Write
    done: bool = False
    requests: tuple[Request, ...] = ()
    problem: str = ""


def look_ahead(link: Link, writes: Iterable[Write]) -> Iterator[Ahead]:
    """What writes one after another would do, without doing any: objects are looked at where they
    are now, whatever names they have by then.
    """
    now: dict[str, str] = {}
    left: set[str] = set()
    for write in writes:
        key = loose_key(write.dn)
        there = now.get(key, write.dn)
        if isinstance(write, Add):
            now[key] = ""
            yield _ahead(link, write, free=key in left)
            continue
        if not there:
            yield Ahead(write)
            continue
        free = isinstance(write, Rename) and loose_key(write.fresh) in left
        ahead = _ahead(link, replace(write, dn=there), free=free, named=write)
        yield ahead
        if isinstance(write, Rename):
            now[loose_key(write.fresh)] = write.fresh if ahead.done else there
        if isinstance(write, Rename | Delete):
            left.add(key)


def _ahead(link: Link, write: Write, *, free: bool, named: Write | None = None) -> Ahead:
    shown = named or write
    try:
        if free and isinstance(write, Add | Rename):
            return Ahead(shown, requests=(shown,) if isinstance(shown, Add | Rename) else ())
        found = look(link, write)
    except ChangedError as error:
        return Ahead(shown, problem=str(error))
    requests = tuple(
        replace(one, dn=shown.dn) if one.dn == write.dn else one for one in found.requests
    )
    return Ahead(shown, found.state == "after", requests)


def _add(link: Link, write: Add) -> Found:
    held = _same_object(link, write.dn, None, [*write.values, LINKS_ATTRIBUTE])
    if held is None:
        return Found("before", (write,))
    other = _otherwise(write.values, held)
    if other:
        raise ChangedError(
            f"{first_value(write.dn)} is in the directory already, and is not this one: {other}. "
            "Read the directory, and choose another name."
        )
    return Found("after", guid=_guid(held))


def _delete(link: Link, write: Delete) -> Found:
    held = _same_object(link, write.dn, write.guid, [*write.values, LINKS_ATTRIBUTE])
    if held is None:
        return Found("after")
    other = _otherwise(write.values, held)
    if other:
        raise _changed(write.dn, other)
    # Said once more in the same words, the values have to be there still.
    checks = tuple(
        Edit(name, tuple(kept), tuple(kept))
        for name in write.values
        if name != _OBJECT_CLASS and (kept := [_text(one) for one in held.get(name.lower(), ())])
    )
    return Found("before", (Modify(write.dn, checks), Delete(write.dn, write.values)))


def _modify(link: Link, write: Modify) -> Found:
    names = [edit.attribute for edit in write.edits]
    held = _same_object(link, write.dn, write.guid, names)
    if held is None:
        raise ChangedError(_gone(write.dn))
    edits = [bound for edit in write.edits if (bound := _bound(write.dn, edit, held))]
    if not edits:
        return Found("after", guid=_guid(held))
    return Found("before", (Modify(write.dn, tuple(edits)),), _guid(held))


def _rename(link: Link, write: Rename) -> Found:
    old, new = (_same_object(link, dn, write.guid, ["cn"]) for dn in (write.dn, write.fresh))
    if new is not None and _text(new["cn"][0]) == first_value(write.fresh):
        return Found("after", guid=_guid(new))
    if old is None:
        raise ChangedError(_gone(write.dn))
    return Found("before", (Rename(write.dn, write.fresh),), _guid(old))


def _guard(link: Link, write: Guard) -> Found:
    container = parent_of(write.dn)
    held = _same_object(link, write.dn, write.guid, [RULES_ATTRIBUTE])
    if held is None:
        raise ChangedError(_gone(write.dn))
    own = _rules(write.dn, held)
    above = _rules(container, link.entry(container, [RULES_ATTRIBUTE], controls=[RULES]))
    try:
        if not write.on:
            if not denies_deletion(own, "object"):
                return Found("after", guid=_guid(held))
            return Found("before", (Rules(write.dn, without_guard(own)),), _guid(held))
        wanted: list[Request] = []
        if not denies_deletion(above, "container"):
            wanted.append(Rules(container, with_guard(above, "container")))
        if not denies_deletion(own, "object"):
            wanted.append(Rules(write.dn, with_guard(own, "object")))
    except DescriptorError as error:
        raise DirectoryError(f"The access rules of {write.dn} cannot be read: {error}") from None
    return Found("before" if wanted else "after", tuple(wanted), _guid(held))


def _rules(dn: str, held: Values) -> bytes:
    found = held.get(RULES_ATTRIBUTE.lower())
    if not found:
        raise DirectoryError(
            f"The access rules of {dn} are not to be seen. The account that writes has to be "
            "allowed to read and to change them (docs/directory.md)."
        )
    return found[0]


def _same_object(
    link: Link, dn: str, guid: UUID | None, attributes: Sequence[str]
) -> Values | None:
    """The object of this name, None if it is not there. Raises `ChangedError` if it is another one
    by now, `RefusedError` where the account cannot tell.
    """
    rules = [RULES] if RULES_ATTRIBUTE in attributes else []
    held = link.there(dn, [*attributes, "objectGUID"], controls=rules)
    if held is None:
        _require_sight(link, parent_of(dn))
    elif "objectguid" not in held:
        raise _hidden(link, first_value(dn))
    elif guid is not None and _guid(held) != guid:
        raise ChangedError(
            f"{first_value(dn)} is another object in the directory than the one that was read: "
            "somebody made it anew."
        )
    return held


def _require_sight(link: Link, container: str) -> None:
    """Raise `RefusedError` where an object of a container could be hidden rather than gone: a
    directory answers both alike, and hides policies from an account that lost its rights. An
    account that may create policies, or that sees a policy, would see the object.
    """
    held = link.there(container, ["objectClass", "objectGUID", "allowedChildClassesEffective"])
    classes, made = (
        {_text(one).lower() for one in (held or {}).get(name, ())}
        for name in ("objectclass", "allowedchildclasseseffective")
    )
    if not held or "objectguid" not in held:
        raise _hidden(link, first_value(container))
    if "msds-passwordsettingscontainer" not in classes or _POLICY.lower() in made:
        return
    policies = link.search(container, "one", f"(objectClass={_POLICY})", ["objectGUID"])
    if not any("objectguid" in values for _, values in policies):
        raise _hidden(link, f"the policies in {first_value(container)}")


def _hidden(link: Link, name: str) -> RefusedError:
    return RefusedError(
        f"{link.server} hides {name} from the account that Hornfels signs in with, or the account "
        "has lost the right to read. docs/directory.md lists the rights that the account needs."
    )


def _bound(dn: str, edit: Edit, held: Values) -> Edit | None:
    """What is left of an edit, in the values that the directory holds; None if nothing is."""
    there = [_text(one) for one in held.get(edit.attribute.lower(), ())]
    same = _SAME.get(edit.attribute, str)
    if edit.attribute == LINKS_ATTRIBUTE:
        keys = {same(one): one for one in there}
        gone = tuple(keys[same(one)] for one in edit.gone if same(one) in keys)
        come = tuple(one for one in edit.come if same(one) not in keys)
        return Edit(edit.attribute, gone, come) if gone or come else None
    if [same(one) for one in there] == [same(one) for one in edit.come]:
        return None
    if not there and edit.gone == (_DEFAULTS.get(edit.attribute),):
        # What the domain object does not say is what a new domain starts with.
        return Edit(edit.attribute, (), edit.come)
    if [same(one) for one in there] != [same(one) for one in edit.gone]:
        raise _changed(dn, _differs(edit.attribute, there, edit.gone))
    return Edit(edit.attribute, tuple(there), edit.come)


_DEFAULTS = domain_values(DEFAULTS, 0)


def _linked(text: str) -> object:
    return [(loose_key(gpo), options) for gpo, options in gp_links.linked(text)]


_SAME: dict[str, Any] = {LINKS_ATTRIBUTE: loose_key, gp_links.ATTRIBUTE: _linked}
"""By what values that are spelt otherwise are the same."""


def _otherwise(wanted: dict[str, tuple[str, ...]], held: Values) -> str:
    """What of an object is otherwise, in words; "" if nothing is."""
    for name, values in wanted.items():
        there = [_text(one) for one in held.get(name.lower(), ())]
        if name == _OBJECT_CLASS:
            if not {one.lower() for one in values} <= {one.lower() for one in there}:
                return _differs(name, there, values)
            continue
        same = _SAME.get(name, str)
        if sorted(map(same, there)) != sorted(map(same, values)):
            return _differs(name, there, values)
    if LINKS_ATTRIBUTE not in wanted and held.get(LINKS_ATTRIBUTE.lower()):
        return "it is linked by now"
    return ""


def _differs(name: str, there: Sequence[str], wanted: Sequence[str]) -> str:
    sides = (
        ", ".join(value_in_words(name, one) for one in values)[:300] or "nothing"
        for values in (there, wanted)
    )
    return "{} is {}, and not {}".format(attribute_in_words(name), *sides)


def _changed(dn: str, other: str) -> ChangedError:
    return ChangedError(f"{first_value(dn)} was changed in the directory meanwhile: {other}.")


def _gone(dn: str) -> str:
    return f"{first_value(dn)} is not in the directory any more."


def _guid(held: Values) -> UUID | None:
    found = held.get("objectguid", [b""])[0]
    return UUID(bytes_le=found) if len(found) == 16 else None


def _text(value: bytes) -> str:
    return value.decode("utf-8", "replace")


def _send(link: Link, request: Request) -> None:
    import ldap
    from ldap.controls import RequestControl

    dn = request.dn

    def listed(values: Iterable[str]) -> list[bytes]:
        return [one.encode() for one in values]

    match request:
        case Add():
            entry = [(name, listed(values)) for name, values in request.values.items()]
            link.do(f"adding {dn}", lambda library: library.add_s(dn, entry))
        case Delete():
            link.do(f"deleting {dn}", lambda library: library.delete_s(dn))
        case Rename():
            link.do(f"renaming {dn}", lambda library: library.rename_s(dn, rdn_of(request.fresh)))
        case Modify():
            parts = [
                (how, edit.attribute, listed(values))
                for edit in request.edits
                for how, values in ((ldap.MOD_DELETE, edit.gone), (ldap.MOD_ADD, edit.come))
                if values
            ]
            link.do(f"changing {dn}", lambda library: library.modify_s(dn, parts))
        case Rules():
            rules = [(ldap.MOD_REPLACE, RULES_ATTRIBUTE, [request.descriptor])]
            control = RequestControl(RULES[0], True, RULES[1])
            link.do(
                f"changing the access rules of {dn}",
                lambda library: library.modify_ext_s(dn, rules, serverctrls=[control]),
            )
        case _:
            assert_never(request)
