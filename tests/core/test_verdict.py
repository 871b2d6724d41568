"""What each rule says to a candidate (domain rules §5), as tables and as laws."""

from __future__ import annotations

import sys
import unicodedata
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.passwords.characters import (
    GROUP_LABELS,
    SYMBOLS,
    Candidate,
    group_of,
    groups_in,
    length,
    more_lenient_elsewhere,
    strip,
)
from hornfels.core.passwords.judge import Judge, compile_policy, judge
from hornfels.core.passwords.rules.rule import Judgement, Occasion, Operation, Subject
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.time import DAY, HOUR, MINUTE

NOW = 134_000_000_000_000_000
SUBJECT = Subject("i.varga", "Quillon-Ash, Ilse #2")


def findings(
    candidate: str, moment: Occasion | None = None, subject: Subject = SUBJECT, **settings: Any
) -> dict[str, Judgement]:
    rules = compile_policy(replace(DEFAULTS, **settings))
    moment = moment or Occasion("change", NOW, NOW - 2 * DAY)
    return {f.rule: f for f in judge(rules, candidate, subject, moment).judgements}


@pytest.mark.parametrize(
    ("character", "group"),
    [
        ("a", "lower"),
        ("Z", "upper"),
        ("7", "digit"),
        ("$", "symbol"),
        ("~", "symbol"),
        (" ", None),
        ("\t", None),
        ("\x7f", None),
        ("é", "lower"),
        ("É", "upper"),
        ("İ", "upper"),
        ("ı", "lower"),
        ("ǅ", "caseless"),
        ("ᾼ", "caseless"),
        ("ŉ", "caseless"),
        ("Ж", "upper"),
        ("ж", "lower"),
        ("ß", "lower"),
        ("ẞ", "upper"),
        ("Ａ", "upper"),
        ("ａ", "lower"),
        ("中", "caseless"),
        ("あ", "caseless"),
        ("ª", "caseless"),
        ("א", "caseless"),
        ("€", None),
        ("£", None),
        ("²", None),
        ("½", None),
        ("٣", None),
        ("😀", None),
        ("\u0301", None),
        ("\u00a0", None),
        ("\u200b", None),
    ],
)
def test_the_group_of_a_character(character: str, group: str | None) -> None:
    assert group_of(character) == group


@pytest.mark.parametrize(
    ("text", "units"),
    [
        ("abc", 3),
        ("e\u0301", 2),
        ("é", 1),
        ("😀", 2),
        ("a b ", 4),
        ("\u200b", 1),
        ("\ud800", 1),
        ("", 0),
    ],
)
def test_length_counts_utf16_units(text: str, units: int) -> None:
    assert length(text) == units


@given(st.text())
def test_length_is_what_utf16_takes(text: str) -> None:
    assert length(text) == sum(2 if ord(c) > 0xFFFF else 1 for c in text)


@given(st.characters())
def test_ascii_groups_are_exactly_the_specification(character: str) -> None:
    if character.isascii():
        assert (group_of(character) == "symbol") == (character in SYMBOLS)
        assert (group_of(character) == "digit") == (character in "0123456789")
    assert group_of(character) in {*GROUP_LABELS, None}
    assert len(SYMBOLS) == 32


@given(st.text(min_size=1), st.text())
def test_more_characters_never_lose_a_group(text: str, more: str) -> None:
    assert groups_in(text) <= groups_in(text + more)


def test_too_short_says_by_how_much() -> None:
    found = findings("Ab1-", min_length=14)["length"]
    assert (found.status, found.detail, found.repair) == ("failed", "4 of 14", "10 more characters")
    assert findings("Ab1-567890123", min_length=14)["length"].repair == "1 more character"


@pytest.mark.parametrize(
    ("candidate", "passed", "repair"),
    [
        ("abc123", False, "add one of: uppercase letters, symbols"),
        ("abcdef", False, "add 2 of: uppercase letters, digits, symbols"),
        ("Abc123", True, ""),
        ("abc 123", False, "add one of: uppercase letters, symbols"),
        ("abc1中", True, ""),
        ("abc1€", False, "add one of: uppercase letters, symbols"),
    ],
)
def test_three_of_five_groups(candidate: str, passed: bool, repair: str) -> None:
    found = findings(candidate)["complexity"]
    assert (found.passed, found.repair) == (passed, repair)


def test_lenient_servers_are_mentioned_only_where_it_would_matter() -> None:
    assert "lenient" in findings("abc1€")["complexity"].detail
    assert "lenient" not in findings("abc€")["complexity"].detail
    assert more_lenient_elsewhere("abc1€½é") == ["½", "€"]


@pytest.mark.parametrize(
    ("candidate", "passed"),
    [
        ("xI.VARGAx1", False),  # the account name, whatever the case
        ("Quillon-2031", False),
        ("my-qUiLLoN-1", False),  # parts of the display name
        ("Ash-Ilse", False),
        ("pash9-X", False),
        ("ILSE99aa", False),
        ("Va.rga-2031", True),
        ("#2-Perigee", True),  # "2" is too short to count
    ],
)
def test_own_names_inside(candidate: str, passed: bool) -> None:
    assert findings(candidate)["own_name"].passed is passed


def test_short_account_names_are_allowed_inside() -> None:
    assert findings("xx-ab-1A", subject=Subject("ab", ""))["own_name"].passed is True
    assert findings("xx-abc-1A", subject=Subject("abc", ""))["own_name"].passed is False


def test_without_complexity_groups_and_names_are_not_asked() -> None:
    found = findings("quillonquillon", complexity=False)
    assert (found["complexity"].passed, found["own_name"].passed) == (None, None)


@pytest.mark.parametrize(
    ("depth", "previous", "status"),
    [
        (3, None, "not checkable"),
        (3, [], "passed"),
        (3, ["a", "b", "c", "New-1"], "passed"),
        (4, ["a", "b", "c", "New-1"], "failed"),
        (1, ["New-1"], "failed"),
        (0, ["New-1"], "not asked"),
        (5, ["new-1", "New-1 "], "passed"),
    ],
)
def test_history(depth: int, previous: list[str] | None, status: str) -> None:
    moment = Occasion("change", NOW, NOW - 9 * DAY, previous)
    assert findings("New-1", moment, history_length=depth)["history"].status == status


@pytest.mark.parametrize(
    ("set_ago", "status", "repair"),
    [
        (DAY, "passed", ""),
        (DAY - 1, "failed", "wait under 1 s"),
        (14 * HOUR + 48 * MINUTE, "failed", "wait 9 h 12 min"),
        (-HOUR, "failed", "wait 1 d 1 h"),
    ],
)
def test_minimum_age(set_ago: int, status: str, repair: str) -> None:
    found = findings("New-1", Occasion("change", NOW, NOW - set_ago), min_age=DAY)["minimum_age"]
    assert (found.status, found.repair) == (status, repair)


def test_minimum_age_when_a_change_is_due_or_the_time_is_unknown() -> None:
    assert findings("New-1", Occasion("change", NOW, 0))["minimum_age"].passed is True
    assert findings("New-1", Occasion("change", NOW, UNKNOWN_TIME))["minimum_age"].passed is None


def test_a_reset_ignores_history_and_minimum_age_only() -> None:
    found = findings("x", Occasion("reset", NOW, NOW, ["x"]))
    assert {rule for rule, f in found.items() if f.status == "failed"} == {"length", "complexity"}


def test_an_audit_length_accepts_and_says_so() -> None:
    rules = compile_policy(DEFAULTS, audit_length=20)
    verdict = judge(rules, "Perigee-2031", SUBJECT, Occasion("reset", NOW, NOW))
    assert verdict.accepted
    assert verdict.judgements[-1].detail == "12 of 20, accepted but logged"


@given(st.text(min_size=3, alphabet=st.characters(min_codepoint=0x3041, max_codepoint=0x3096)))
def test_no_finding_repeats_the_candidate(candidate: str) -> None:
    """Hiragana stands in no label, so any of it in an answer would come from the candidate."""
    for f in findings(candidate, Occasion("change", NOW, NOW, [candidate])).values():
        assert not set(candidate) & set(f.detail + f.repair)


@given(st.integers(0, 60), st.booleans(), st.integers(0, 30))
def test_a_candidate_built_to_the_rules_is_accepted_and_one_short_is_not(
    wanted: int, complexity: bool, history: int
) -> None:
    built = "Zq7-" + "x" * max(0, wanted - 4)
    rules = compile_policy(
        replace(DEFAULTS, min_length=wanted, complexity=complexity, history_length=history)
    )
    moment = Occasion("change", NOW, NOW - 2 * DAY, [f"other-{n}" for n in range(history)])
    assert judge(rules, built, SUBJECT, moment).accepted
    if wanted > 4:
        refused = judge(rules, built[:-1], SUBJECT, moment)
        assert [f.rule for f in refused.judgements if f.status == "failed"] == ["length"]


@given(
    st.lists(
        st.text(max_size=12)
        | st.sampled_from(["Quillon-1", "New-1", "i.varga", "abc1€", "Ab1-567"])
    ),
    st.sampled_from(["change", "reset"]),
)
def test_answers_kept_by_measure_are_the_answers_each_candidate_gets(
    candidates: list[str], operation: Operation
) -> None:
    rules = compile_policy(replace(DEFAULTS, min_length=5), audit_length=9)
    moment = Occasion(operation, NOW, NOW - DAY, ["New-1", None, "Quillon-1"])
    kept = Judge(rules, SUBJECT, moment, lambda verdict: verdict)
    assert [kept(Candidate(c)) for c in candidates] == [
        judge(rules, c, SUBJECT, moment) for c in candidates
    ]


def test_a_judge_keeps_so_many_answers_and_no_more(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hornfels.core.passwords.judge.MOST_KEPT", 8)
    kept = Judge(
        compile_policy(DEFAULTS), SUBJECT, Occasion("reset", NOW, NOW), lambda verdict: verdict
    )
    verdicts = [kept(Candidate("x" * n)) for n in range(100)]
    assert len(kept._kept) <= 8
    assert [v.judgements[0].detail for v in verdicts[:2]] == ["0 of 7", "1 of 7"]


@pytest.mark.thorough
def test_every_character_of_unicode_falls_into_one_group_and_counts_once_or_twice() -> None:
    text = "".join(map(chr, range(sys.maxunicode + 1)))
    places = strip(text)
    assert [p.units for p in places] == [1] * 0x10000 + [2] * (sys.maxunicode - 0xFFFF)
    assert sum(p.units for p in places) == length(text)
    for character, place in zip(text, places, strict=True):
        if place.group in ("upper", "lower"):
            assert character.lower() != character or character.upper() != character, character
            assert unicodedata.category(character) != "Lt", character
        if place.group == "caseless":
            assert unicodedata.category(character) in ("Lo", "Lm", "Lu", "Ll", "Lt"), character
        elif place.group is None:
            assert not unicodedata.category(character).startswith("L"), character


def test_nothing_of_a_candidate_is_in_its_representation() -> None:
    assert repr(Candidate("Perigee-2031")) == "<candidate of 12 units>"


@pytest.mark.parametrize(
    ("previous", "status", "detail"),
    [
        ([None, "New-1"], "failed", "2nd of 3 remembered"),
        ([None, None, None, "New-1"], "passed", "4th back, beyond the 3 remembered"),
        (["x", None, "y", "z"], "passed", "not among the 2 given of 3"),
        ([""], "passed", "not among the 1 given of 3"),
        ([None, None], "not checkable", "only the directory knows"),
    ],
)
def test_history_says_how_far_back(previous: list[str | None], status: str, detail: str) -> None:
    found = findings("New-1", Occasion("change", NOW, NOW - 9 * DAY, previous), history_length=3)[
        "history"
    ]
    assert (found.status, found.detail) == (status, detail)


def test_what_the_person_is_told() -> None:
    def told(candidate: str, *, moment: Occasion | None = None, **settings: Any) -> str:
        rules = compile_policy(replace(DEFAULTS, **settings), audit_length=20)
        return judge(rules, candidate, SUBJECT, moment or Occasion("reset", NOW, NOW)).told

    assert told("Quillon") == (
        "Refused. It mixes too few kinds of characters. Add one of these: digits, signs such "
        "as ! or -. "
        "It contains “Quillon”, from your own name. Leave that out."
    )
    assert (
        told("Perigee-2031")
        == "Accepted. It is let through but noted, because it is shorter than 20 characters."
    )
    again = Occasion("change", NOW, NOW - HOUR, ["Perigee-Transit-2031"])
    assert told("Perigee-Transit-2031", moment=again, history_length=1) == (
        "Refused. It is the password you have now. Choose one that is not your present one. "
        "Your present password is too new: it was set 1 h ago. You can change it in 23 h."
    )
    unknown = Occasion("change", NOW, UNKNOWN_TIME)
    assert told("Perigee-Transit-2031", moment=unknown, history_length=2) == (
        "Accepted as far as can be seen here. It must not be any of your last 2 passwords, "
        "the present one included; "
        "only the directory can check that. It can be changed 1 d after the last change; "
        "when that was is not known here."
    )


def test_a_verdict_is_certain_only_where_every_rule_could_look() -> None:
    rules = compile_policy(DEFAULTS)
    known = judge(
        rules, "Perigee-2031", SUBJECT, Occasion("change", NOW, NOW - 2 * DAY, ["Other-1"])
    )
    unknown = judge(rules, "Perigee-2031", SUBJECT, Occasion("change", NOW, NOW - 2 * DAY))
    refused = judge(rules, "short", SUBJECT, Occasion("change", NOW, NOW - 2 * DAY))
    assert [(v.accepted, v.certain) for v in (known, unknown, refused)] == [
        (True, True),
        (True, False),
        (False, True),
    ]


@given(st.text(max_size=30), st.text(max_size=30))
def test_the_own_name_rule_ignores_case(candidate: str, name: str) -> None:
    assert (
        findings(candidate.upper(), subject=Subject(name, ""))["own_name"].status
        == findings(
            candidate.upper(), subject=Subject(name.swapcase() if name.isascii() else name, "")
        )["own_name"].status
    )
