"""Security templates read and written; what cannot be read is named with its line."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.sources import template_problems
from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS, Template, TemplateKey, Value
from hornfels.core.values.time import DAY, HOUR, MINUTE
from hornfels.formats.template import TemplateError, read_template, write_template

TEXT = """[Unicode]
Unicode=yes
; a comment
[System Access]
MinimumPasswordAge = 1
MaximumPasswordAge = -1
MinimumPasswordLength = 12
PasswordComplexity = 1
LockoutBadCount = 0
LockoutDuration = -1
RequireLogonToChangePassword = 0
[Kerberos Policy]
MaxTicketAge = 10
[Registry Values]
MACHINE\\System\\CurrentControlSet\\Control\\SAM\\MinimumPasswordLengthAudit=4,16
MACHINE\\System\\CurrentControlSet\\Control\\SAM\\RelaxMinimumPasswordLengthLimits=4,1
MACHINE\\Software\\Other=1,"text"
[Version]
signature="$CHICAGO$"
"""
SAYS = {
    "min_age": DAY,
    "max_age": None,
    "min_length": 12,
    "complexity": True,
    "lockout_threshold": 0,
    "lockout_duration": None,
    "ticket_age": 10 * HOUR,
    "audit_length": 16,
    "relaxed_limit": True,
}


@pytest.mark.parametrize("encoding", ["utf-16", "utf-16-le", "utf-8", "utf-8-sig"])
@pytest.mark.parametrize("ends", ["\n", "\r\n"])
def test_a_template_says_what_stands_in_it_and_nothing_else(encoding: str, ends: str) -> None:
    assert read_template(TEXT.replace("\n", ends).encode(encoding)) == SAYS


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("nonsense", 1, "before the first"),
        ("[System Access", 1, "does not close"),
        ("[System Access]\nMinimumPasswordLength = many", 2, "not a whole number"),
        ("[System Access]\nMinimumPasswordLength", 2, "no '='"),
        ("[System Access]\nMinimumPasswordLength = 1\nminimumpasswordlength = 2", 3, "second time"),
        ("[System Access]\nPasswordComplexity = 2", 2, "expected 0 or 1"),
        ("[System Access]\nMinimumPasswordAge = -1", 2, "cannot be negative"),
        (
            (
                "[Registry "
                "Values]\nMACHINE\\System\\CurrentControlSet\\Control\\SAM\\MinimumPasswordLengthAudit=1,16"
            ),
            2,
            "expected '4,'",
        ),
    ],
)
def test_mistakes_are_named_with_their_line(text: str, line: int, words: str) -> None:
    with pytest.raises(TemplateError, match=words) as caught:
        read_template(text.encode())
    assert caught.value.line == line


def test_bytes_that_are_no_text_are_refused_with_their_line() -> None:
    with pytest.raises(TemplateError, match="neither UTF-8 nor ANSI") as caught:
        read_template(b"[System Access]\nMinimumPasswordLength = 9\n\x81\x8d")
    assert caught.value.line == 3
    with pytest.raises(TemplateError, match="not UTF-16 text"):
        read_template("[System Access]\n".encode("utf-16") + b"\0")


ODD = """[Unicode]
Unicode=yes
[system access] ; ours
  minimumpasswordlength="12" ; agreed in the spring
MaximumPasswordAge = -1; never
PasswordComplexity=1
RequireLogonToChangePassword = 0
NewAdministratorName = "Zoë\u2028Müller"
[Registry Values]
MACHINE\\System\\CurrentControlSet\\Control\\SAM\\MinimumPasswordLengthAudit = "4","16"
MACHINE\\Software\\Other=1,"text; more"
[Privilege Rights]
SeBackupPrivilege = *S-1-5-32-544
"""
"""As files are: comments behind values, quoted numbers, other spelling, a line separator of Unicode
inside a value.
"""


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
@pytest.mark.parametrize("ends", ["\n", "\r\n"])
def test_files_as_they_are_read_and_keep_all_else_byte_for_byte(encoding: str, ends: str) -> None:
    text = ODD.replace("\n", ends)
    if encoding == "cp1252":
        text = text.replace("\u2028", "\x85".encode("latin-1").decode("cp1252"))
    data = text.encode(encoding)
    says: Template = {"min_length": 12, "max_age": None, "complexity": True, "audit_length": 16}
    assert read_template(data) == says
    assert write_template(says, data) == data
    changed = write_template(
        {"min_length": 14, "complexity": True, "audit_length": 20, "ticket_age": 8 * HOUR}, data
    )
    rewritten = (
        text.replace('"12" ; agreed', "14 ; agreed")
        .replace(f"MaximumPasswordAge = -1; never{ends}", "")
        .replace('"4","16"', "4,20")
        + f"[Kerberos Policy]{ends}MaxTicketAge = 8{ends}"
    )
    assert changed == rewritten.encode(encoding)


counts = st.integers(0, 900)
_UNITS = {"days": DAY, "hours": HOUR, "minutes": MINUTE}


@st.composite
def templates(draw: st.DrawFn) -> Template:
    values: dict[TemplateKey, Value] = {}
    for setting in TEMPLATE_SETTINGS.values():
        if draw(st.booleans()):
            count = draw(counts)
            values[setting.key] = (
                bool(count % 2) if setting.kind == "switch" else count * _UNITS.get(setting.unit, 1)
            )
    return values


@given(templates(), templates(), st.sampled_from(["\n", "\r\n"]), st.booleans())
def test_a_template_comes_back_as_it_was_written(
    template: Template, before: Template, ends: str, cut: bool
) -> None:
    assert read_template(write_template(template)) == template
    other = (
        f"[Event Audit]{ends}; kept{ends}AuditSystemEvents = 3{ends}{ends}[Group "
        f"Membership]{ends}*S-1-5__Members = a{ends}"
    )
    file = write_template(before).decode("utf-16").replace("\r\n", ends) + other
    data = (file.removesuffix(ends) if cut else file).encode("utf-16")
    written = write_template(template, data)
    assert read_template(written) == template
    assert write_template(before, write_template(before, data)) == data
    assert other.removesuffix(ends) in written.decode("utf-16")
    assert written.decode("utf-16").replace(ends, "").isprintable()


def test_what_a_template_cannot_hold_is_refused() -> None:
    with pytest.raises(ValueError, match="no whole number of days"):
        write_template({"min_age": HOUR})
    assert "switch on" in template_problems({"min_length": 20})["min_length"]
    assert template_problems({"min_length": 20, "relaxed_limit": True}) == {}
    assert set(
        template_problems(
            {
                "min_age": 9 * DAY,
                "max_age": 5 * DAY,
                "lockout_window": 9 * MINUTE,
                "lockout_duration": MINUTE,
            }
        )
    ) == {"max_age", "lockout_window"}


@pytest.mark.parametrize(
    ("entry", "count"),
    [("MinimumPasswordLength = 12", -2), ("LockoutBadCount = 0", -1), ("MaxTicketAge = 10", -3)],
)
def test_a_negative_count_is_refused_with_its_line(entry: str, count: int) -> None:
    name = entry.partition(" ")[0]
    text = TEXT.replace(entry, f"{name} = {count}")
    with pytest.raises(TemplateError) as caught:
        read_template(text.encode())
    line = text.splitlines().index(f"{name} = {count}") + 1
    assert f"{name} is {count}; it cannot be negative" in str(caught.value)
    assert caught.value.line == line
