"""Security templates read and written; what cannot be read is named with its line."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.settings import CATALOGUE
from hornfels.core.sources import EXTENDED, Template, is_span, template_problems
from hornfels.core.time import DAY, HOUR, MINUTE
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
    "min_age": DAY, "max_age": None, "min_length": 12, "complexity": True, "lockout_threshold": 0, "lockout_duration": None,
    "ticket_age": 10 * HOUR, "audit_length": 16, "relaxed_limit": True,
}  # fmt: skip


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
            "[Registry Values]\nMACHINE\\System\\CurrentControlSet\\Control\\SAM\\MinimumPasswordLengthAudit=1,16",
            2,
            "expected '4,'",
        ),
    ],
)
def test_mistakes_are_named_with_their_line(text: str, line: int, words: str) -> None:
    with pytest.raises(TemplateError, match=words) as caught:
        read_template(text.encode())
    assert caught.value.line == line


def test_bytes_that_are_no_text_are_refused() -> None:
    with pytest.raises(TemplateError, match="not UTF-8 text"):
        read_template(b"[System Access]\n\xff\xfe\xfd")


counts = st.integers(0, 900)
_UNITS = {"days": DAY, "hours": HOUR, "minutes": MINUTE}


@st.composite
def templates(draw: st.DrawFn) -> Template:
    values = {}
    for setting in (*CATALOGUE, *EXTENDED):
        if draw(st.booleans()):
            count = draw(counts)
            values[setting.key] = bool(count % 2) if setting.kind == "switch" else count * _UNITS.get(setting.unit, 1)
    return values


@given(templates())
def test_a_template_comes_back_as_it_was_written(template: Template) -> None:
    assert read_template(write_template(template)) == template


def test_what_a_template_cannot_hold_is_refused() -> None:
    with pytest.raises(ValueError, match="no whole number of days"):
        write_template({"min_age": HOUR})
    assert is_span("ticket_age")
    assert "switch on" in template_problems({"min_length": 20})["min_length"]
    assert template_problems({"min_length": 20, "relaxed_limit": True}) == {}
    assert set(template_problems({"min_age": 9 * DAY, "max_age": 5 * DAY, "lockout_window": 9 * MINUTE, "lockout_duration": MINUTE})) == {
        "max_age", "lockout_window"
    }  # fmt: skip
