"""The policy file: what it says of a domain comes back as it went, and what is wrong with one is
told in its place.
"""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import replace
from itertools import count
from uuid import UUID

import jsonschema_rs
import pytest
import yaml
from hypothesis import assume, given
from hypothesis import strategies as st

from drafting import NAMES, drawn
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.operations import AddPolicy, LinkPolicy, RemovePolicy, RenamePolicy
from hornfels.core.policy.catalogue import CATALOGUE
from hornfels.core.policy.model import DEFAULTS, Settings, name_problem
from hornfels.core.trials.trial import Trial
from hornfels.core.values.dn import loose_key, name_key
from hornfels.core.values.spans import read_span
from hornfels.core.values.time import exact_span
from hornfels.formats.dump import Dump
from hornfels.formats.policy_file.model import schema
from hornfels.formats.policy_file.reading import read_policy_file
from hornfels.formats.policy_file.rewriting import rewrite
from hornfels.formats.policy_file.wanted import Wanted, wanted
from hornfels.formats.policy_file.writing import scalar, write_policy_file
from hornfels.formats.yaml_tree import MOST_BYTES, YamlError, read_tree
from worlds import World, read, worlds

HEAD = "hornfels: 1\ndomain: sky.tarnholt.example\n"


def text_of(estate: Estate, *trials: tuple[str, Trial]) -> str:
    return "".join(write_policy_file(estate, trials))


def planned(text: str, estate: Estate) -> Wanted:
    numbers = count(5000)
    return wanted(read_policy_file(text.encode()), estate, lambda: UUID(int=next(numbers)))


def wrong(text: str, estate: Estate) -> list[str]:
    with pytest.raises(YamlError) as caught:
        planned(text, estate)
    return [str(problem) for problem in caught.value.problems]


def shown(estate: Estate) -> object:
    """All that a file says of a domain, whatever GUIDs there are."""
    links: dict[int, set[str]] = {}
    for link in estate.links:
        links.setdefault(link.policy, set()).add(loose_key(link.dn))
    return estate.domain.settings, Counter(
        (p.name, p.precedence, p.settings, p.guarded, frozenset(links.get(n, ())))
        for n, p in enumerate(estate.policies)
    )


ticks = st.integers(-(2**63) + 1, 2**63 - 1)
odd_settings = st.builds(
    Settings,
    **{
        s.key: st.booleans()
        if s.kind == "switch"
        else st.one_of(st.none(), ticks)
        if s.endless
        else ticks
        for s in CATALOGUE
    },
)
names = st.one_of(
    st.sampled_from([*NAMES, "on", "null", "5", "~", "- a", "a: b", "#", "@", "'", "\u2028"]),
    st.text(st.characters(codec="utf-8", exclude_characters="\0"), min_size=1, max_size=8),
)


@given(worlds(), st.data())
def test_what_a_file_says_of_a_domain_leaves_it_as_it_is(world: World, data: st.DataObject) -> None:
    estate = read(world).estate
    # As a directory may hold them, whatever the specification says.
    policies = tuple(
        replace(
            policy,
            name=data.draw(names),
            precedence=data.draw(st.integers(-9, 9)),
            settings=data.draw(odd_settings),
        )
        for policy in estate.policies
    )
    order = sorted(range(len(policies)), key=lambda n: policies[n].rank)
    links = tuple(link._replace(policy=order.index(link.policy)) for link in estate.links)
    estate = estate.with_policies(tuple(policies[n] for n in order), links)
    domain = replace(estate.domain, settings=data.draw(odd_settings))
    estate = replace(estate, domain=domain)
    text = text_of(estate)
    found = planned(text, estate)
    assert found.operations == ()
    assert text_of(found.estate) == text
    # Whatever else reads YAML reads the same names.
    held = yaml.safe_load(text)["policies"]
    assert [one["name"] for one in held] == [policy.name for policy in estate.policies]


@given(worlds(), st.data())
def test_a_file_leads_to_what_it_was_written_from(world: World, data: st.DataObject) -> None:
    before, after, _, _ = drawn(data, world)
    assume(not any(name_problem(policy.name) for policy in after.policies))
    found = planned(text_of(after), before)
    done = apply(before, found.operations)
    assert not done.conflicts
    assert shown(done.estate) == shown(after) == shown(found.estate)


@given(ticks)
def test_a_span_comes_back_as_it_went(span: int) -> None:
    assert read_span(exact_span(span)) == span


@given(st.text(st.characters(codec="utf-8", exclude_characters="\0")))
def test_any_text_comes_back_as_it_went(text: str) -> None:
    assert read_tree(f"- {scalar(text)}\n".encode()).value == [text]
    assert yaml.safe_load(scalar(text)) == text


def test_the_demo_as_a_file(demo: Dump) -> None:
    text = text_of(demo.estate)
    assert "  - name: Keyholders\n    precedence: 5\n    applies_to:\n" in text
    assert "      - GS-Keyholders\n    guarded: on\n" in text
    assert "lockout_duration: until unlocked\n" in text
    assert planned(text, demo.estate).operations == ()
    validator = jsonschema_rs.validator_for(schema())
    plain = yaml.safe_load(text)
    assert validator.is_valid(plain)
    for path, value in (("max_age", 42), ("complexity", "maybe"), ("min_length", "12"), ("x", 1)):
        assert not validator.is_valid(plain | {"domain_policy": {path: value}})
    # JSON is a part of YAML.
    assert planned(json.dumps(plain, indent="\t"), demo.estate).operations == ()


def test_what_is_left_out_stays_and_what_is_renamed_is_one_policy(demo: Dump) -> None:
    estate = demo.estate
    assert planned(HEAD, estate).operations == ()
    assert [type(op) for op in planned(f"{HEAD}policies: []", estate).operations] == [
        RemovePolicy
    ] * len(estate.policies)
    kept = "".join(
        f"  - {{name: {scalar(p.name)}, precedence: {p.precedence}}}\n" for p in estate.policies[1:]
    )
    first = estate.policies[0]
    renamed = f"  - {{name: Vault, was: {first.name}, precedence: {first.precedence}}}\n"
    found = planned(f"{HEAD}policies:\n{renamed}{kept}", estate).operations
    assert found == (RenamePolicy(policy=first.guid, before=first.name, after="Vault"),)
    # Once it is so, the old name does no harm.
    after = apply(estate, found).estate
    assert planned(f"{HEAD}policies:\n{renamed}{kept}", after).operations == ()
    fresh = "  - {name: Dusk, precedence: 33, min_length: 15, applies_to: [gs-workshop]}\n"
    same = f"  - {{name: {first.name}, precedence: {first.precedence}}}\n"
    (added,) = planned(f"{HEAD}policies:\n{fresh}{same}{kept}", estate).operations
    assert isinstance(added, AddPolicy)
    assert added.settings == replace(DEFAULTS, min_length=15)
    assert (added.guarded, [t.dn for t in added.links]) == (
        True,
        ["CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example"],
    )
    dn = "CN=GS-Workshop, OU=Groups, DC=sky, DC=tarnholt, DC=example"
    spaced = f"  - {{name: {first.name}, precedence: 5, applies_to: [GS-Keyholders, '{dn}']}}\n"
    (linked,) = planned(f"{HEAD}policies:\n{spaced}{kept}", estate).operations
    assert isinstance(linked, LinkPolicy)


def test_everything_wrong_is_told_at_once_with_its_place_and_its_repair(demo: Dump) -> None:
    text = f"""{HEAD}domain_policy:
  min_lenght: 5
  max_age: 42
  complexity: yes
  lockout_duration: until unloked
policies:
  - name: X
    min_length: "12"
    applies_to: GS-Workshop
  - name: 12
    precedence: 3
  - 5
trials:
  - candidate: 12345
    expect: never
  - candidate: s3cret-Word
    account: x
    expect: locks
"""
    assert wrong(text, demo.estate) == [
        "line 4, column 3: “min_lenght” is no key here; is “min_length” meant?",
        "line 5, column 12: max_age has to be a number with its unit, as in “42 d” or “30 min”, or "
        "never",
        "line 6, column 15: complexity has to be on or off",
        "line 7, column 21: lockout_duration is no span of time; write a number with its unit, "
        "s, min, h, d or w, as in “1 h 30 min”, or until unlocked",
        "line 9, column 5: “precedence” is missing; add it",
        "line 10, column 17: min_length has to be a whole number, without quotes or a unit",
        "line 11, column 17: applies_to has to be a list, each on a line of its own after “- ”",
        "line 12, column 11: name has to be text; put it in quotes",
        "line 14, column 5: this has to be keys with values, such as “min_length: 12”",
        "line 16, column 16: candidate has to be text; put it in quotes",
        "line 17, column 13: expect has to be accepted, refused, locks or stays open",
        "line 18, column 5: this expects what does not come of it: a candidate is accepted or "
        "refused, a story locks or stays open",
    ]


def test_what_does_not_fit_the_domain_is_told_too(demo: Dump) -> None:
    text = """hornfels: 1
domain: elsewhere.example
domain_policy: {lockout_window: 99 d}
policies:
  - {name: Vault, precedence: 0}
  - {name: vault, precedence: 7}
  - {name: Keyholders, precedence: 5, max_age: 1 h}
  - {name: KEYHOLDERS, precedence: 5}
  - {name: Kеyholders, precedence: 6}
  - {name: Dusk, was: Dawn, precedence: 8}
  - {name: "a\\nb", precedence: 9}
  - name: Night operators
    precedence: 30
    applies_to: [GS-Nobody, GS-Nіght-Operators, gs-workshop, GS-Workshop]
trials:
  - {candidate: Orbit-17-Lens, account: nobody, expect: accepted}
  - {story: 5 bad in ten min, group: GS-Workshop, expect: locks}
"""
    story = text.replace("5 bad in ten min", "5 bad in 10 min")
    assert [line.split(": ")[0] for line in wrong(text, demo.estate)] == ["line 17, column 13"]
    told = wrong(story, demo.estate)
    assert [line.partition(": ")[0] for line in told] == [
        "line 2, column 9",
        "line 3, column 33",
        "line 5, column 31",
        "line 6, column 12",
        "line 7, column 48",
        "line 8, column 5",
        "line 9, column 12",
        "line 10, column 23",
        "line 11, column 12",
        "line 14, column 18",
        "line 14, column 29",
        "line 14, column 62",
        "line 16, column 41",
    ]
    assert "cannot exceed the lockout duration" in told[1]
    assert "looks like the name in line 7 and is another one" in told[6]
    assert "GS-Night-Operators looks like it and is written otherwise" in told[10]


def test_two_of_one_name_are_told_apart_by_their_guid(demo: Dump) -> None:
    first, second, *rest = demo.estate.policies
    twins = (first, replace(second, name=first.name.upper()), *rest)
    estate = demo.estate.with_policies(twins, demo.estate.links)
    text = text_of(estate)
    assert text.count("guid: ") == 2
    assert planned(text, estate).operations == ()
    without = "".join(line for line in text.splitlines(keepends=True) if "guid: " not in line)
    assert "say which by “guid”" in wrong(without, estate)[0]


def test_a_name_that_may_be_several_things_is_not_guessed(demo: Dump) -> None:
    estate = demo.estate
    accounts = replace(estate.accounts, name=estate.groups.name.of(["GS-Workshop"] * 1184))
    text = "policies: [{name: Dusk, precedence: 3, applies_to: [GS-Workshop]}]"
    assert (
        "write the one that is meant" in wrong(HEAD + text, replace(estate, accounts=accounts))[0]
    )


def test_trials_come_back_as_they_went(demo: Dump) -> None:
    group = "CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example"
    kept = (
        Trial("12345", "group", group, "refused", "closeness", present="12346"),
        Trial("", "population", demo.estate.accounts.name[3], "accepted"),
        Trial("", "account", demo.estate.accounts.name[3], "stays_open", "", "3 bad, good"),
    )
    text = text_of(demo.estate, *(("A title: with #", trial) for trial in kept))
    assert planned(text, demo.estate).trials == kept


def test_a_file_brought_up_to_date_keeps_its_comments_and_its_own_words(demo: Dump) -> None:
    estate = demo.estate
    _, services, *_ = estate.policies
    text = f"""# Agreed in September.
{HEAD}
domain_policy: # the bedrock
  min_length: 8
  max_age: 12 weeks  # was a year

policies:
  # Who may open everything
  - name: Keyholders
    precedence: 5 # the first
    applies_to: # by name
      - gs-keyholders # they
      - GS-Workshop
    lockout_duration: until unlocked
  - name: {services.name}
    precedence: {services.precedence}
    min_length: 0x20
  - {{name: Gone, precedence: 99}}

trials:
  - {{story: 9 bad, account: ilse.varga, expect: locks}} # by hand
"""
    found = rewrite(text.encode(), estate).decode()
    assert planned(found, estate).operations == ()
    for kept in (
        "# Agreed in September.\n",
        "domain_policy: # the bedrock\n",
        "  max_age: 90 d",
        "# was a year\n",
        "  # Who may open everything\n",
        "precedence: 5 # the first\n",
        "- gs-keyholders # they\n",
        "min_length: 0x20\n",
        "{story: 9 bad, account: ilse.varga, expect: locks} # by hand\n",
    ):
        assert kept in found, kept
    assert "Gone" not in found
    assert "GS-Workshop\n" not in found.partition(services.name)[0]
    assert found.count("- name: ") == len(estate.policies)
    assert rewrite(found.encode(), estate) == found.encode()
    # Nothing is touched where nothing is otherwise.
    odd = f"{HEAD}\n\ndomain_policy: {{  min_length:   8}}\n"
    assert rewrite(odd.encode(), estate) == odd.encode()


@given(worlds(), st.data())
def test_a_file_of_before_is_brought_to_what_is_there_now(
    world: World, data: st.DataObject
) -> None:
    before, after, _, _ = drawn(data, world)
    assume(len({name_key(policy.name) for policy in after.policies}) == len(after.policies))
    text = "# mine\n" + text_of(before)
    found = rewrite(text.encode(), after).decode()
    assert planned(found, after).operations == ()
    assert found.startswith("# mine\n")


HOSTILE: list[tuple[bytes, str]] = [
    (b"", "the file is empty"),
    (b"- 1", "it has to say “hornfels: 1”"),
    (b"hornfels: 2", "this form is another one"),
    (b"hornfels: 1\nhornfels: 1", "stands in line 1 already"),
    (b"a: &a [x]\nb: [*a, *a, *a]", "references (*name) are not taken"),
    (b"hornfels: !!python/object:os.system 1", "tags (!name) are not taken"),
    (b"hornfels: 1\n---\nhornfels: 1", "a second document begins here"),
    (b"? [a, b]\n: c", "a list cannot be a key"),
    (b"[" * 900 + b"]" * 900, "more than 20 lists in one another"),
    (b"[" * 100_000, "exceeded maximum nesting depth"),
    (b"hornfels: 1\ndomain: \xff", "this is not UTF-8 text"),
    (b"hornfels: 1\ndomain: \x01", "a character that no text holds"),
    (b"hornfels: 1\ndomain: a\npolicies: [{name: a, precedence: " + b"9" * 5000, "longer than any"),
    (b"a: b: c", "this cannot be read"),
    (b"#" * (MOST_BYTES + 1), "at most 4,000,000 are taken"),
]


@pytest.mark.parametrize(("data", "reason"), HOSTILE, ids=range(len(HOSTILE)))
def test_hostile_files_are_refused_in_their_place(data: bytes, reason: str) -> None:
    with pytest.raises(YamlError) as caught:
        read_policy_file(data)
    assert reason in str(caught.value)
    assert all(p.line >= 1 and p.column >= 1 for p in caught.value.problems)


def test_no_candidate_is_told_again() -> None:
    with pytest.raises(YamlError) as caught:
        read_policy_file(f"{HEAD}trials: [{{candidate: s3cret-Word, expect: x}}]".encode())
    assert "s3cret" not in repr(caught.value)


@given(st.data())
def test_names_that_are_exchanged_or_passed_on_are_renames(demo: Dump, data: st.DataObject) -> None:
    """What ``was`` names is that policy, whoever has the name it takes; what is left out goes."""
    before = demo.estate
    kept = data.draw(st.lists(st.sampled_from(before.policies), unique_by=lambda p: p.guid))
    pool = [*(p.name for p in before.policies), "Dusk", "Dawn"]
    names = data.draw(st.permutations(pool))[: len(kept)]
    parts = "".join(
        f"  - {{name: {scalar(name)}, was: {scalar(p.name)}, precedence: {p.precedence}}}\n"
        for p, name in zip(kept, names, strict=True)
    )
    found = planned(f"{HEAD}policies:{' []' if not kept else ''}\n{parts}", before)
    renamed = {p.guid: name for p, name in zip(kept, names, strict=True) if p.name != name}
    kinds = {(type(op), op.policy) for op in found.operations}  # type: ignore[union-attr]
    left = {p.guid for p in before.policies} - {p.guid for p in kept}
    assert kinds == {(RenamePolicy, guid) for guid in renamed} | {
        (RemovePolicy, guid) for guid in left
    }
    applied = apply(before, found.operations)
    assert not applied.conflicts
    assert {p.guid: p.name for p in applied.estate.policies} == {
        p.guid: renamed.get(p.guid, p.name) for p in kept
    }


def test_a_name_that_another_policy_had_is_a_new_policy(demo: Dump) -> None:
    text = (
        f"{HEAD}policies:\n"
        "  - {name: Night watch, was: Night operators, precedence: 30}\n"
        "  - {name: Night operators, precedence: 31}\n"
    )
    found = planned(text, demo.estate)
    names = [op.name for op in found.operations if isinstance(op, AddPolicy)]
    assert names == ["Night operators"]


@pytest.mark.parametrize("version", ["true", "0x1", "1.0", "01", '"1"', "1_"])
def test_only_1_is_version_1(demo: Dump, version: str) -> None:
    text = f"hornfels: {version}\ndomain: sky.tarnholt.example\n"
    assert wrong(text, demo.estate) == [
        "line 1, column 11: this form is another one than 1, the one known"
    ]


@pytest.mark.parametrize("key", ["policies", "domain_policy", "trials", "blocked_terms"])
def test_a_key_with_nothing_behind_is_an_error(demo: Dump, key: str) -> None:
    (told,) = wrong(f"{HEAD}{key}:\n", demo.estate)
    assert told.endswith(f"{key} is empty; give its content, or leave the key out")


def test_at_most_5000_policies_are_taken_and_as_many_are_planned(demo: Dump) -> None:
    def policies(count: int) -> str:
        entries = (f"  - {{name: N{n}, precedence: {n + 1}}}\n" for n in range(count))
        return f"{HEAD}policies:\n{''.join(entries)}"

    found = planned(policies(5_000), demo.estate)
    assert sum(isinstance(op, AddPolicy) for op in found.operations) == 5_000
    (told,) = wrong(policies(5_001), demo.estate)
    assert told.endswith("the file has 5,001 policies; at most 5,000 are taken")
