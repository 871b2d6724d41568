"""Rules beyond the directory's own: truth tables, laws, and the same by plain and slow means
(domain rules §9).
"""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from dataclasses import replace
from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.passwords.additions import Lists, compile_addition, terms_in
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.folding import LOOK_ALIKES, folded
from hornfels.core.passwords.judge import Judge, Verdict, compile_policy, judge
from hornfels.core.passwords.layouts import LAYOUTS, keys_of
from hornfels.core.passwords.rules.closeness import distance, only_counted, shared
from hornfels.core.passwords.rules.exposed import Seen
from hornfels.core.passwords.rules.patterns import pattern_problem
from hornfels.core.passwords.rules.phrases import words
from hornfels.core.passwords.rules.rule import ANYBODY, Judgement, Occasion, Operation, Subject
from hornfels.core.passwords.rules.stretches import longest_repeat, longest_run, longest_walk
from hornfels.core.passwords.terms import Terms
from hornfels.core.policy.addition import (
    Addition,
    Asked,
    Band,
    Blocked,
    Closeness,
    Edge,
    Exposed,
    Forbid,
    GroupCount,
    KindCount,
    LengthRange,
    OwnNames,
    Pattern,
    Repeat,
    Run,
    Walk,
    Words,
    problems,
)
from hornfels.core.policy.model import DEFAULTS

LISTS = {"house": ["Orbit", "dome", "42", "Tarnholt"], "common": ["passwort", "sommer"]}
SEEN = {"known": {"Summer-2026": 12_431, "orbit": 1}, "old": {"Summer-2026": 2}}


def exposed(names: tuple[str, ...]) -> Callable[[str], Seen] | None:
    """What was seen in lists, of which “torn” cannot be read, and there are no others."""
    if not {*names} <= {*SEEN, "torn"}:
        return None
    held = [(name, SEEN.get(name, {})) for name in names]
    return lambda text: Seen(
        tuple((name, seen[text]) for name, seen in held if text in seen),
        tuple(name for name in names if name == "torn"),
    )


ILSE = Subject("ilse.varga", "Varga, Ilse", ("Ilse", "Varga", "i.varga", "stargazer"))
PRESENT = "Orbit-Keeper-19"


def one(
    asked: Asked,
    candidate: str,
    *,
    operation: Operation = "change",
    previous: tuple[str, ...] | None = None,
    subject: Subject = ANYBODY,
) -> Judgement:
    """What one rule says, alone on the password path."""
    lists = Lists(terms_in(LISTS), exposed)
    rules = compile_addition(Addition(password=(asked,)), lists)
    moment = Occasion(operation, 0, 0, previous)
    (judgement,) = judge(rules, candidate, subject, moment).judgements
    assert judgement.path == "password"
    return judgement


@pytest.mark.parametrize(
    ("asked", "good", "bad"),
    [
        (LengthRange(3, 5), "abc", "ab"),
        (LengthRange(3, 5), "abcde", "abcdef"),
        (LengthRange(4, 4), "😀😀", "😀"),
        (GroupCount(3), "aB1", "aB"),
        (GroupCount(5), "aB1-中", "aB1-x"),
        (KindCount("digit", 1, 2), "a1", "a"),
        (KindCount("digit", 1, 2), "a12", "a123"),
        (KindCount("letter", 2), "ab1", "a12"),
        (KindCount("letter", 3), "aB中", "aB1"),
        (KindCount("other", 0, 1), "ab-", "a--"),
        (KindCount("other", 1), "ab ", "ab"),
        (Edge(first=("digit",)), "a1", "1a"),
        (Edge(last=("digit", "symbol")), "1a", "a-"),
        (Edge(first=("other",)), "ä1", " a"),
        (Forbid("äö"), "AO", "Zäh"),
        (Forbid("Ä"), "ä", "Ä"),
        (Repeat(2), "aabb", "aAa"),
        (Repeat(1), "abab", "abba"),
        (Run(2), "ab-ba", "abc"),
        (Run(2), "89a", "cbA"),
        (Run(3), "1230", "1234"),
        (Walk(3, ("us",)), "qwe-rty", "Qwer"),
        (Walk(3, ("us",)), "qaz2wsx", "trew"),
        (Walk(3, ("de",)), "qwety", 'a!"§$'),
        (Walk(3, ("us",)), "qwerz"[:3] + "z", "zxcv"),
        (Walk(3, ("de", "us")), "yxa", "asdf"),
        (Blocked(("house",)), "Keeper", "my0rb1t"),
        (Blocked(("house",)), "42-keys", "42"),
        (Blocked(("house",), whole=True), "orbits", "0RB!T"),
        (Blocked(("house", "common")), "winter", "S0mmerzeit"),
        (Pattern("^[a-z]+$"), "abc", "aBc"),
        (Pattern("[0-9]{4}", must=False), "a123", "a2026"),
        (Words(3, 4, distinct=True), "keep every dome closed", "keep every"),
        (Words(2, 3, distinct=True), "dome-gate", "dome D0me"[:4] + " DOME"),
        (Words(2, 3), "dome dome", "do-dome"),
        (Words(2, 2), "ab1cd", "a1bc"),
    ],
)
def test_each_rule_passes_and_refuses_and_says_how_to_mend(
    asked: Asked, good: str, bad: str
) -> None:
    assert one(asked, good).status == "passed", good
    refused = one(asked, bad)
    assert refused.status == "failed", bad
    assert refused.repair
    assert refused.plain.endswith(".")


@pytest.mark.parametrize(
    ("asked", "good", "bad"),
    [
        (Closeness(changed=3), "Orbit-Keeper-2031", "Orbit-Keeper-20"),
        (Closeness(changed=2), "Orbit-Keeper-20", "Orbit-Keeper-18"),
        (Closeness(shared=6), "Orbit-Xkeep-19", "my-KEEPER-x"),
        (Closeness(no_counting=True), "Orbit-Keeper-19a", "Orbit-Keeper-20"),
        (Closeness(no_counting=True), "1rbit-Keeper-20", "orbit-keeper-19"),
        (Closeness(no_counting=True), "0Orbit-Keeper-20", "Orbit-7Keeper-19"),
    ],
)
def test_closeness_to_the_present_password(asked: Asked, good: str, bad: str) -> None:
    assert one(asked, good, previous=(PRESENT,)).status == "passed", good
    assert one(asked, bad, previous=(PRESENT,)).status == "failed", bad


def test_closeness_cannot_be_checked_without_the_present_password() -> None:
    for operation, previous in (("reset", (PRESENT,)), ("change", None), ("change", ())):
        judgement = one(
            Closeness(changed=3),
            PRESENT,
            operation=operation,  # type: ignore[arg-type]
            previous=previous,
        )
        assert judgement.status == "not checkable"


@pytest.mark.parametrize(
    ("candidate", "refused"),
    [
        ("ILSE.VARGA-1", True),
        ("vargas keys", True),
        ("my-starg4zer", True),
        ("I.varga", True),
        ("agrav-1", True),
        ("sky-keys-7", False),
    ],
)
def test_own_names_are_looked_for_whatever_they_look_like(candidate: str, refused: bool) -> None:
    told = one(OwnNames(reversed=True), candidate, subject=ILSE)
    assert (told.status == "failed") == refused
    if candidate == "agrav-1":
        assert one(OwnNames(), candidate, subject=ILSE).status == "passed"
        assert "backwards" in told.repair
    assert one(OwnNames(), candidate).status == "passed", "nobody has no names"


@pytest.mark.parametrize(
    ("asked", "candidate", "status", "detail"),
    [
        (Exposed(("known",)), "Summer-2026", "failed", "seen 12,431 times in known"),
        (Exposed(("known",)), "orbit", "failed", "seen 1 time in known"),
        (Exposed(("known",), 1), "orbit", "passed", "seen 1 time in known, at most 1"),
        (Exposed(("known",)), "summer-2026", "passed", "not seen"),
        (
            Exposed(("known", "old"), 12_432),
            "Summer-2026",
            "failed",
            "seen 12,431 times in known and 2 times in old, at most 12,432",
        ),
        (Exposed(("known", "old"), 12_433), "Summer-2026", "passed", None),
        (Exposed(("known", "torn")), "orbit", "failed", "seen 1 time in known"),
        (Exposed(("known", "torn")), "dome", "not checkable", "torn cannot be read"),
        (Exposed(("known", "other")), "orbit", "not checkable", None),
    ],
)
def test_what_others_know_is_refused_from_so_many_times_on_in_all(
    asked: Exposed, candidate: str, status: str, detail: str | None
) -> None:
    told = one(asked, candidate)
    assert told.status == status
    assert detail in (None, told.detail)
    assert candidate not in f"{told.detail}{told.repair}{told.plain}"


def verdict(addition: Addition, candidate: str, moment: Occasion | None = None) -> Verdict:
    rules = (
        *compile_policy(replace(DEFAULTS, complexity=False)),
        *compile_addition(addition, Lists(terms_in(LISTS))),
    )
    return judge(rules, candidate, ANYBODY, moment or Occasion("reset", 0, 0))


def test_one_path_has_to_be_open_and_the_directorys_rules_are_kept_all_the_same() -> None:
    both = Addition(password=(LengthRange(12), GroupCount(3)), phrase=(Words(4, 3, distinct=True),))
    assert verdict(both, "Keyhole-2031-x").accepted
    assert verdict(both, "keep every dome shut").accepted
    assert not verdict(both, "a b c").accepted, "too short for the directory"
    refused = verdict(both, "keep every dome")
    assert refused.refused_by == ("groups", "words")
    assert "As a password:" in refused.told
    assert "Or as a phrase: It needs 1 more word" in refused.told
    alone = Addition(phrase=both.phrase)
    assert not verdict(alone, "Keyhole-2031-x").accepted
    assert verdict(Addition(), "keep every dome").accepted, "without a path nothing changes"
    assert {f.path for f in refused.judgements} == {"", "password", "phrase"}


def test_what_cannot_be_checked_is_no_certainty_unless_another_path_is_open() -> None:
    doubtful = Addition(password=(Closeness(changed=3),), phrase=(Words(2, 3),))
    change = Occasion("change", 10**18, 0, None)
    unsure = verdict(Addition(password=doubtful.password), "keep-dome")
    assert (unsure.accepted, unsure.certain) == (True, False)
    assert verdict(doubtful, "keep-dome").certain, "the phrase is sure"
    assert not verdict(doubtful, "keepdome", change).certain


def test_a_lifetime_by_length() -> None:
    bands = (Band(8, 60), Band(16, 365), Band(24, 730))
    addition = Addition(bands=bands)
    assert [addition.lifetime(n) for n in (3, 8, 15, 16, 24, 99)] == [60, 60, 60, 365, 730, 730]
    assert Addition().lifetime(9) is None


@pytest.mark.parametrize(
    ("addition", "place", "told"),
    [
        (Addition(password=()), "password", "lets everything pass"),
        (Addition(password=(LengthRange(9, 8),)), "password 1", "cannot both be"),
        (Addition(phrase=(Words(2), Run(0))), "phrase 2", "stretch of 1"),
        (Addition(password=(KindCount("digit", -1),)), "password 1", "negative"),
        (Addition(password=(GroupCount(6),)), "password 1", "five groups"),
        (Addition(password=(Edge(),)), "password 1", "Name a kind"),
        (Addition(password=(Edge(first=("letter", "other")),)), "password 1", "No character"),
        (Addition(password=(Blocked(()),)), "password 1", "Name a list"),
        (Addition(password=(Walk(3, ()),)), "password 1", "Name a layout"),
        (Addition(password=(Closeness(),)), "password 1", "Say how many"),
        (Addition(password=(Forbid(""),)), "password 1", "Name a character"),
        (Addition(phrase=(Words(0),)), "phrase 1", "counted from 1"),
        (Addition(bands=(Band(8, 9), Band(8, 10))), "lifetime", "order of their lengths"),
        (Addition(bands=(Band(8, 9), Band(9, 8))), "lifetime", "cannot live shorter"),
    ],
)
def test_what_contradicts_itself_is_told_with_its_place(
    addition: Addition, place: str, told: str
) -> None:
    assert any(p == place and told in text for p, text in problems(addition))


# Folding


@given(st.text(max_size=12))
def test_folding_twice_is_folding_once(text: str) -> None:
    assert folded(folded(text)) == folded(text)


@given(st.text(st.sampled_from("aàÅßﬁİıſK1!|l€0O@ ǆ̈"), max_size=8))
def test_folding_is_what_the_table_says(text: str) -> None:
    plain = unicodedata.normalize("NFKD", unicodedata.normalize("NFKC", text).casefold())
    letters = [c for c in plain if not unicodedata.category(c).startswith("M")]
    looks = [LOOK_ALIKES.get(c, c) for c in letters]
    assert folded(text) == "".join("l" if c == "i" else c for c in looks)


def test_what_looks_like_an_i_meets() -> None:
    assert len({folded(c) for c in "iIlL1!|£"}) == 1
    assert folded("P4$$w0rd") == folded("PASSWORD") == "password"


# Plain and slow forms

texts = st.text(st.sampled_from("abcxyzABC0123456789-é"), max_size=14)
keys = st.text(st.sampled_from('qwertzuiopasdfghQWERTZ1234!"§$%'), max_size=12)


def stretches(text: str) -> list[str]:
    return [text[a:b] for a in range(len(text)) for b in range(a + 1, len(text) + 1)]


@given(texts)
def test_the_longest_repeat_and_run_by_looking_at_every_stretch(text: str) -> None:
    def up(part: str) -> bool:
        low = part.casefold()
        return any(low in line for line in ("abcdefghijklmnopqrstuvwxyz", "0123456789"))

    every = stretches(text)
    assert longest_repeat(text) == max(
        (len(p) for p in every if len(set(p.casefold())) == 1), default=0
    )
    runs = [len(p) for p in every if len(p) == 1 or up(p) or up(p[::-1])]
    assert longest_run(text) == max(runs, default=0)


@given(keys, st.lists(st.sampled_from(sorted(LAYOUTS)), min_size=1, max_size=2, unique=True))
def test_the_longest_walk_by_looking_at_every_stretch(text: str, layouts: list[str]) -> None:
    rows = [row for name in layouts for row in LAYOUTS[name]]

    def walks(part: str) -> bool:
        return any(
            all(
                at + n < len(plain) and c in (plain[at + n], shifted[at + n])
                for n, c in enumerate(part)
            )
            for plain, shifted in rows
            for at in range(len(plain))
        )

    found = [len(p) for p in stretches(text) if len(p) == 1 or walks(p) or walks(p[::-1])]
    assert longest_walk(text, keys_of(tuple(layouts))) == max(found, default=0)


@pytest.mark.parametrize("name", sorted(LAYOUTS))
def test_both_lines_of_a_row_have_the_same_keys(name: str) -> None:
    for plain, shifted in LAYOUTS[name]:
        assert len(plain) == len(shifted)


@given(texts, texts)
def test_distance_is_the_plain_recursion(one_: str, other: str) -> None:
    @cache
    def plain(a: int, b: int) -> int:
        if not a or not b:
            return a + b
        same = plain(a - 1, b - 1) + (one_[a - 1] != other[b - 1])
        return min(plain(a - 1, b) + 1, plain(a, b - 1) + 1, same)

    assert distance(one_, other) == distance(other, one_) == plain(len(one_), len(other))


@given(texts, texts)
def test_what_is_shared_is_the_longest_stretch_of_both(one_: str, other: str) -> None:
    low = other.casefold()
    expected = max((len(p) for p in stretches(one_.casefold()) if p in low), default=0)
    assert shared(one_, other) == shared(other, one_) == expected
    assert only_counted(one_, other) == only_counted(other, one_)


@given(st.lists(texts, min_size=1, max_size=6), texts)
def test_terms_are_found_as_a_plain_look_finds_them(listed: list[str], text: str) -> None:
    terms = Terms([("one", listed)])
    look = folded(text)
    forms = {folded(term.strip()) for term in listed} - {""}
    inside = {f for f in forms if (len(f) >= 3 and f in look) or f == look}
    found = {folded(terms.term(n).text) for n in terms.inside(look)}
    # Of those within a longer one only the longer is told.
    assert found <= inside
    assert bool(found) == bool(inside)
    assert all(any(f in kept for kept in found) for f in inside)
    assert len(terms.whole(look)) == (look in forms)


@given(st.text(max_size=30))
def test_words_are_stretches_of_letters(text: str) -> None:
    found = words(text)
    assert all(found)
    rest = text
    for word in found:
        at = rest.index(word)
        rest = rest[at + len(word) :]


@pytest.mark.parametrize("expression", ["(?=a)b", r"(a)\1", "(", "a{2000}", "x" * 1001, "\ud800"])
def test_what_cannot_run_in_linear_time_is_refused_with_a_reason(expression: str) -> None:
    assert len(pattern_problem(expression)) > 20


def test_patterns_as_they_hold_there() -> None:
    assert pattern_problem(r"^\w+$") == ""
    # \w and \d are ASCII; letters of any script are \pL.
    assert one(Pattern(r"^\w+$"), "Zähne").status == "failed"
    assert one(Pattern(r"^\pL+$"), "Zähne").status == "passed"
    # Half of a surrogate pair is no character.
    assert one(Pattern("a"), "a\ud800").status == "passed"
    assert one(Pattern("\ufffd", must=False), "\ud800").status == "passed"


EVERY: tuple[Asked, ...] = (
    LengthRange(8, 128),
    GroupCount(2),
    KindCount("digit", 1),
    Edge(last=("digit",)),
    Forbid(" "),
    Repeat(3),
    Run(4),
    Walk(4, ("us", "de", "fr", "uk")),
    Blocked(("house", "common")),
    OwnNames(reversed=True),
    Closeness(changed=4, shared=6, no_counting=True),
    Pattern("^(a+)+$", must=False),
    Exposed(("known", "old"), 3),
    Words(3, 3, distinct=True),
)


@given(st.text(max_size=20))
def test_any_candidate_gets_an_answer_and_the_same_one_from_a_judge_that_keeps_answers(
    text: str,
) -> None:
    rules = compile_addition(
        Addition(password=EVERY, phrase=EVERY), Lists(terms_in(LISTS), exposed)
    )
    moment = Occasion("change", 0, 0, (PRESENT,))
    keeping = Judge(rules, ILSE, moment, lambda found: found)
    keeping(Candidate("warm up"))
    found = keeping(Candidate(text))
    assert found == keeping(Candidate(text)) == judge(rules, text, ILSE, moment)
    assert [f.rule for f in found.judgements[: len(EVERY)]] == [asked.key for asked in EVERY]


def test_long_candidates_and_hostile_patterns_come_to_an_end() -> None:
    rules = compile_addition(Addition(password=EVERY), Lists(terms_in(LISTS)))
    moment = Occasion("change", 0, 0, ("a" * 10_000,))
    for text in ("a" * 9_999 + "b", "orbit" * 2_000, "1234567890" * 1_000, "é" * 10_000):
        assert not judge(rules, text, ILSE, moment).accepted
