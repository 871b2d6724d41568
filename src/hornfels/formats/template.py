"""Security templates: the account settings of a group policy object ([MS-GPSB] 2.2), read and written."""

from __future__ import annotations

import codecs
import re

from hornfels.core.settings import CATALOGUE
from hornfels.core.sources import Template, Value
from hornfels.core.time import DAY, HOUR, MINUTE, TICKS_PER_SECOND

_ACCESS, _KERBEROS, _REGISTRY = "system access", "kerberos policy", "registry values"
_SAM = "MACHINE\\System\\CurrentControlSet\\Control\\SAM\\"
_UNITS = {"days": DAY, "hours": HOUR, "minutes": MINUTE, "seconds": TICKS_PER_SECOND}

_KEYS: dict[tuple[str, str], tuple[str, str]] = {
    **{(_ACCESS, s.template_key.lower()): (s.key, s.unit if s.kind == "span" else s.kind) for s in CATALOGUE},
    (_KERBEROS, "maxticketage"): ("ticket_age", "hours"),
    (_KERBEROS, "maxrenewage"): ("renew_age", "days"),
    (_KERBEROS, "maxserviceage"): ("service_age", "minutes"),
    (_KERBEROS, "maxclockskew"): ("clock_skew", "minutes"),
    (_KERBEROS, "ticketvalidateclient"): ("validate_client", "switch"),
    (_REGISTRY, f"{_SAM}MinimumPasswordLengthAudit".lower()): ("audit_length", "count"),
    (_REGISTRY, f"{_SAM}RelaxMinimumPasswordLengthLimits".lower()): ("relaxed_limit", "switch"),
}
"""Section and name in a template to the setting and how its number counts."""

_ENDLESS = {"max_age", "lockout_duration"}
MOST_BYTES = 4_000_000


class TemplateError(ValueError):
    """Something in the file that cannot be read, with its line."""

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(f"line {line}: {reason}")
        self.line = line


def read_template(data: bytes) -> Template:
    """The account settings a template holds; all else in it is passed over.

    Raises `TemplateError` with the line for what is no template or no number.
    """
    found: dict[str, Value] = {}
    section = ""
    for number, raw in enumerate(_text(data).splitlines(), 1):
        line = raw.strip()
        if not line or line.startswith(";"):
            continue
        if line.startswith("["):
            if not line.endswith("]"):
                raise TemplateError(number, f"'{line[:60]}' opens a section and does not close it")
            section = line[1:-1].strip().lower()
            continue
        if not section:
            raise TemplateError(number, "text before the first [section]: this does not look like a security template")
        name, equals, written = line.partition("=")
        known = _KEYS.get((section, name.strip().lower()))
        if known is None:
            continue
        if not equals:
            raise TemplateError(number, f"{name.strip()} has no '='")
        key, kind = known
        if key in found:
            raise TemplateError(number, f"{name.strip()} stands here a second time")
        found[key] = _value(number, name.strip(), written.strip(), key, kind, registry=section == _REGISTRY)
    return found


_MARKS = ((codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"), (codecs.BOM_UTF8, "utf-8-sig"))


def _text(data: bytes) -> str:
    unmarked = "utf-16-le" if data[1:2] == b"\0" else "utf-8"
    encoding = next((name for mark, name in _MARKS if data.startswith(mark)), unmarked)
    try:
        return data.decode(encoding)
    except UnicodeDecodeError:
        raise TemplateError(1, f"the file is not {encoding.upper()} text") from None


def _value(line: int, name: str, written: str, key: str, kind: str, *, registry: bool) -> Value:
    if registry:
        # A registry value carries its type first: 4 is a 32-bit number.
        match = re.fullmatch(r"4\s*,\s*(\d+)", written)
        if not match:
            raise TemplateError(line, f"{name.rpartition(chr(92))[2]} is '{written[:40]}'; expected '4,' and a number")
        written = match[1]
    if not re.fullmatch(r"-?\d{1,10}", written):
        raise TemplateError(line, f"{name} is '{written[:40]}', not a whole number")
    count = int(written)
    if kind == "switch":
        if count not in (0, 1):
            raise TemplateError(line, f"{name} is {count}; expected 0 or 1")
        return bool(count)
    if kind == "count":
        return count
    if count == -1 and key in _ENDLESS:
        return None
    if count < 0:
        raise TemplateError(line, f"{name} is {count}; it cannot be negative")
    return count * _UNITS[kind]


def write_template(template: Template) -> bytes:
    """The settings as a template of their own, in UTF-16 with a byte order mark.

    Raises ValueError for a span that is no whole number of the template's unit.
    """
    sections: dict[str, list[str]] = {}
    names = {**{s.template_key.lower(): s.template_key for s in CATALOGUE}, **_SPELT}
    for (section, name), (key, kind) in _KEYS.items():
        if key in template:
            sections.setdefault(section, []).append(f"{names[name]} = {_number(key, template[key], kind)}" if section != _REGISTRY
                                                    else f"{names[name]}=4,{_number(key, template[key], kind)}")  # fmt: skip
    lines = ["[Unicode]", "Unicode=yes"]
    for section, title in ((_ACCESS, "System Access"), (_KERBEROS, "Kerberos Policy"), (_REGISTRY, "Registry Values")):
        if section in sections:
            lines += [f"[{title}]", *sections[section]]
    lines += ["[Version]", 'signature="$CHICAGO$"', "Revision=1", ""]
    return "\r\n".join(lines).encode("utf-16")


_SPELT = {
    name.lower(): name
    for name in (
        "MaxTicketAge", "MaxRenewAge", "MaxServiceAge", "MaxClockSkew", "TicketValidateClient",
        f"{_SAM}MinimumPasswordLengthAudit", f"{_SAM}RelaxMinimumPasswordLengthLimits",
    )
}  # fmt: skip


def _number(key: str, value: Value, kind: str) -> int:
    if value is None:
        return -1
    if kind in _UNITS:
        count, rest = divmod(int(value), _UNITS[kind])
        if rest:
            raise ValueError(f"{key} is no whole number of {kind}, and a template holds nothing finer")
        return count
    return int(value)
