"""Names, spans, moments, text columns and the rules between settings."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from hornfels.core.domain.account_state import effective_settings, expiry, flag_effects, lock_state
from hornfels.core.domain.estate import UNKNOWN_TIME, Control
from hornfels.core.policy.lockout import guess_budget, reuse_sentence
from hornfels.core.policy.model import DEFAULTS, problems
from hornfels.core.values.dn import (
    DnError,
    dn_key,
    first_value,
    fold,
    likely_key,
    parent_of,
    rdn_of,
)
from hornfels.core.values.sid import sid_text
from hornfels.core.values.text import TextColumn, hidden, meant, visible
from hornfels.core.values.time import (
    DAY,
    HOUR,
    MINUTE,
    NEVER,
    datetime_from_moment,
    describe_span,
    moment_from_datetime,
    seconds,
    span_from_ldap,
    span_from_seconds,
    span_to_ldap,
)

NOW = 134_000_000_000_000_000


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (r"CN=Doe\2C Jane,OU=x,DC=a", r"cn=DOE\, JANE , OU = X, dc=a"),
        (r"CN=a\3Bb,DC=x", r"CN=a\;b,DC=x"),
        ("CN=Zoë,DC=x", r"cn=zO\C3\AB,dc=X"),
        ("CN=a  b,DC=x", "CN=a b,DC=x"),
        ('CN="a,b",DC=x', r"CN=a\,b,DC=x"),
        ("CN=a+OU=b,DC=x", "OU=b+CN=a,DC=x"),
        ("CN=a;DC=x", "CN=a,DC=x"),
    ],
)
def test_spellings_of_one_name(one: str, other: str) -> None:
    assert dn_key(one) == dn_key(other)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("CN=straße,DC=x", "CN=strasse,DC=x"),
        (r"CN=a\,b,DC=x", "CN=a,CN=b,DC=x"),
        ("CN=a,DC=x", "OU=a,DC=x"),
    ],
)
def test_different_names(one: str, other: str) -> None:
    assert dn_key(one) != dn_key(other)


@pytest.mark.parametrize(
    "text", ["no name", "CN=a,", "=a,DC=x", "CN=a\\", 'CN="a,DC=x', "CN=\\C3,DC=x", 'CN="a"b,DC=x']
)
def test_what_is_no_name_is_refused(text: str) -> None:
    with pytest.raises(DnError, match="is not a distinguished name"):
        dn_key(text)


@given(st.lists(st.text(min_size=1, alphabet='aB,+\\" ;é#='), min_size=1, max_size=3))
def test_any_value_survives_escaping(values: list[str]) -> None:
    dn = ",".join(
        "CN=" + "".join(f"\\{c:02x}" if (c := b) >= 0 else "" for b in value.encode())
        for value in values
    )
    assert first_value(dn) == values[0]
    assert dn_key(dn) == dn_key(dn.upper().replace("\\X", "\\x"))


@given(st.lists(st.text(max_size=9, alphabet='aB2C,+=\\" ;é#xO'), min_size=2, max_size=4))
def test_a_guess_at_a_key_is_right_if_it_is_any_names_key(texts: list[str]) -> None:
    found = {}
    for text in texts:
        for dn in (f"CN={text}", f"cn= {text.lower()}", f"CN={text},OU=b", text):
            with contextlib.suppress(DnError):
                found[dn] = dn_key(dn)
    for dn in [*found, *found.values()]:
        if likely_key(dn) in set(found.values()) - {""}:
            assert dn_key(dn) == likely_key(dn)


@given(
    st.text(min_size=1, max_size=9, alphabet='aé+" 2C'),
    st.sampled_from(["OU=b,DC=x", "OU=B , DC=x", r"OU=b\2C,DC=x"]),
)
def test_a_name_is_its_first_part_and_its_container(value: str, container: str) -> None:
    try:
        first = dn_key("CN=" + value)
    except DnError:
        with pytest.raises(DnError):
            dn_key(f"CN={value},{container}")
        return
    assert dn_key(f"CN={value},{container}") == f"{first},{dn_key(container)}"


def test_the_parts_of_a_name() -> None:
    assert parent_of(r"CN=a\,b,OU=c,DC=x") == "OU=c,DC=x"
    assert rdn_of(r"CN=a\,b,OU=c,DC=x") == r"CN=a\,b"
    assert (parent_of("DC=x"), rdn_of("DC=x")) == ("", "DC=x")


@given(st.integers(-(2**63), 2**63 - 1), st.booleans())
def test_directory_spans_survive_exactly(value: int, endless: bool) -> None:
    assert span_to_ldap(span_from_ldap(value, endless=endless)) == value


@given(st.integers(0, 10**9))
def test_whole_seconds_survive(value: int) -> None:
    assert seconds(span_from_seconds(value)) == value


@given(
    st.datetimes(
        min_value=datetime(1601, 1, 2), max_value=datetime(9000, 1, 1), timezones=st.just(UTC)
    )
)
def test_moments_survive(at: datetime) -> None:
    assert datetime_from_moment(moment_from_datetime(at)) == at


@pytest.mark.parametrize(
    ("span", "text"),
    [
        (0, "0 min"),
        (NEVER, "never"),
        (42 * DAY, "42 d"),
        (9 * HOUR + 12 * MINUTE, "9 h 12 min"),
        (DAY - 1, "1 d"),
        (59 * MINUTE + 599_999_999, "1 h"),
        (5, "under 1 s"),
    ],
)
def test_spans_in_words(span: int | None, text: str) -> None:
    assert describe_span(span) == text


def test_elapsed_time_is_rounded_down() -> None:
    assert describe_span(31 * DAY + 23 * HOUR, parts=1, up=False) == "31 d"


@given(
    st.lists(st.text(alphabet=st.characters(exclude_characters="\0", exclude_categories=["Cs"])))
)
def test_text_columns_hold_what_they_were_given(values: list[str]) -> None:
    column = TextColumn.of(values)
    assert list(column) == values
    assert [column[i] for i in range(len(column))] == values
    assert [values[i].upper() for i in column.order] == sorted(v.upper() for v in values)


@given(
    st.lists(st.text(alphabet="abAB.", max_size=6), max_size=8),
    st.text(alphabet="abAB.", min_size=1, max_size=2),
)
def test_text_columns_find(values: list[str], needle: str) -> None:
    column = TextColumn.of(values)
    assert column.containing(needle).tolist() == [
        i for i, v in enumerate(values) if needle.lower() in v.lower()
    ]
    assert column.find(needle).tolist() == [
        i for i, v in enumerate(values) if needle.lower() == v.lower()
    ]
    ranked = sorted(
        (not v.lower().startswith(needle.lower()), len(v), i)
        for i, v in enumerate(values)
        if needle.lower() in v.lower()
    )
    for most in (1, 3, 20):
        assert column.best(needle, most).tolist() == [i for _, _, i in ranked[:most]]


@pytest.mark.parametrize(
    ("changes", "field", "severity"),
    [
        ({"min_length": 256}, "min_length", "error"),
        ({"history_length": 1025}, "history_length", "error"),
        ({"max_age": DAY, "min_age": DAY}, "max_age", "error"),
        ({"max_age": 0}, "max_age", "error"),
        ({"lockout_window": 31 * MINUTE}, "lockout_window", "error"),
        ({"lockout_threshold": 5, "lockout_window": 0}, "lockout_window", "error"),
        ({"lockout_threshold": 65536}, "lockout_threshold", "error"),
        ({"min_age": -1}, "min_age", "error"),
        ({"min_age": 0}, "min_age", "warning"),
        ({"lockout_threshold": 2}, "lockout_threshold", "warning"),
        ({"reversible_encryption": True}, "reversible_encryption", "warning"),
    ],
)
def test_what_is_wrong_with_settings(changes: dict[str, Any], field: str, severity: str) -> None:
    assert (field, severity) in {
        (p.field, p.severity) for p in problems(replace(DEFAULTS, **changes), 10)
    }


def test_sound_settings_have_no_problems() -> None:
    assert problems(DEFAULTS, 1) == []
    assert (
        problems(
            replace(DEFAULTS, max_age=NEVER, lockout_duration=NEVER, lockout_window=99 * DAY), 1
        )
        == []
    )
    assert [p.field for p in problems(DEFAULTS, 0)] == ["precedence"]


def test_expiry() -> None:
    assert expiry(0x200, NOW, 42 * DAY)[:2] == ("at", NOW + 42 * DAY)
    assert expiry(0x200, 0, 42 * DAY).kind == "now"
    assert expiry(Control.NEVER_EXPIRES, 0, 42 * DAY).kind == "never"
    assert expiry(Control.SMART_CARD_REQUIRED, NOW, 42 * DAY).kind == "never"
    assert expiry(Control.WORKSTATION_TRUST, NOW, 42 * DAY).kind == "never"
    assert expiry(0x200, NOW, NEVER).kind == expiry(0x200, NOW, 0).kind == "never"
    assert expiry(0x200, UNKNOWN_TIME, DAY).kind == "unknown"


def test_flags_bend_the_settings() -> None:
    bent = effective_settings(DEFAULTS, Control.REVERSIBLE_ENCRYPTION | Control.NEVER_EXPIRES)
    assert bent.reversible_encryption
    assert bent.max_age is NEVER
    assert effective_settings(DEFAULTS, 0x200) is DEFAULTS
    assert [f.flag for f in flag_effects(Control.DISABLED, 0)] == ["Disabled", "Must change now"]


def test_a_lock_ends_by_itself_or_stays() -> None:
    settings = replace(DEFAULTS, lockout_threshold=5)
    assert lock_state(settings, NOW, NOW + 29 * MINUTE).locked
    assert not lock_state(settings, NOW, NOW + 30 * MINUTE).locked
    for duration in (NEVER, 0):
        assert lock_state(replace(settings, lockout_duration=duration), NOW, NOW + 999 * DAY) == (
            True,
            NOW,
            None,
        )
    assert not lock_state(settings, 0, NOW).locked
    assert not lock_state(DEFAULTS, NOW, NOW).locked


def test_sentences_about_guessing_and_reuse() -> None:
    settings = replace(DEFAULTS, lockout_threshold=5, max_age=60 * DAY)
    assert "192 tries a day, 11,520 in 60 d" in guess_budget(settings)
    assert "never locks" in guess_budget(DEFAULTS)
    assert "25 d after it was set" in reuse_sentence(DEFAULTS)


def test_stored_sids_in_print() -> None:
    assert (
        sid_text(bytes.fromhex("010500000000000515000000010000000200000003000000f4010000"))
        == "S-1-5-21-1-2-3-500"
    )
    with pytest.raises(ValueError, match="not a security identifier"):
        sid_text(b"\x01\x05short")


@given(st.lists(st.text(max_size=6), max_size=30), st.lists(st.text(max_size=6), max_size=6))
def test_a_column_finds_the_same_by_its_index_as_by_looking_through(
    values: list[str], others: list[str]
) -> None:
    values = [v.replace("\0", "") for v in values if v.isprintable()]
    column = TextColumn.of(values)
    for _ in range(3):  # from the ninth question on there is an index
        for wanted in (*values, *(v.lower() for v in values), *others):
            expected = [row for row, value in enumerate(values) if fold(value) == fold(wanted)]
            if wanted.isprintable() and "\\" not in wanted:
                assert (
                    TextColumn.of(values).find(wanted).tolist()
                    == column.find(wanted).tolist()
                    == expected
                )
    asked = [*values, *(v.lower() for v in values), *others]
    firsts = [next(iter(column.find(value).tolist()), -1) for value in asked]
    assert column.first_rows(asked).tolist() == firsts
    # Few values are looked up one by one.
    assert TextColumn.of(values * 21).first_rows(asked[:1]).tolist() == firsts[:1]


@given(st.text())
def test_what_is_shown_can_be_seen_and_still_says_what_is_meant(text: str) -> None:
    assume("\\" not in text)
    shown = visible(text)
    assert not any(map(hidden, shown))
    assert meant(shown) == text


def test_a_column_takes_no_nul() -> None:
    """It would shift every row behind it."""
    with pytest.raises(ValueError, match="NUL"):
        TextColumn.of(["a", "b\0c"])
