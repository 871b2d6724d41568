"""The review of an import finds every loss and nothing else."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.drafts.import_review import Loss, losses, shows_no_policies, successors
from worlds import World, read, worlds


@given(worlds())
def test_a_domain_loses_nothing_by_itself(world: World) -> None:
    estate = read(world).estate
    assert losses(estate, estate) == ()
    assert not shows_no_policies(estate, estate)


@given(worlds(), st.data())
def test_every_policy_that_is_gone_is_a_loss(world: World, data: st.DataObject) -> None:
    estate = read(world).estate
    count = len(estate.policies)
    gone = data.draw(st.sets(st.integers(0, count - 1)) if count else st.just(set()))
    left = [number for number in range(count) if number not in gone]
    place = {old: new for new, old in enumerate(left)}
    after = replace(
        estate,
        policies=tuple(estate.policies[number] for number in left),
        links=tuple(
            link._replace(policy=place[link.policy])
            for link in estate.links
            if link.policy in place
        ),
    )
    removed = [one for one in losses(estate, after) if "Policy removed" in one.text]
    assert len(removed) == len(gone)
    assert losses(after, estate) == () or all(
        one.kind.startswith("weaker") for one in losses(after, estate)
    ), "what comes takes nothing away but by what it does to accounts"
    assert shows_no_policies(estate, after) is bool(count and not left)


@given(
    st.dictionaries(st.uuids(), st.sampled_from(["CN=A", "CN=B", "cn=a"]), max_size=4),
    st.dictionaries(st.uuids(), st.sampled_from(["CN=A", "CN=B", "CN=C"]), max_size=4),
    st.data(),
)
def test_a_policy_is_never_succeeded_by_one_that_was_there(
    before: dict[UUID, str], after: dict[UUID, str], data: st.DataObject
) -> None:
    known = data.draw(st.sets(st.sampled_from(sorted(after))) if after else st.just(set()))
    for old, new in successors(before, after, known).items():
        assert new not in before
        assert new not in known
        assert old not in after
        assert before[old].lower() == after[new].lower()


def test_a_count_is_covered_by_a_larger_loss_and_a_sentence_by_itself() -> None:
    lost = Loss("accounts", "Accounts", "…", 900)
    assert lost.is_covered_by([Loss("accounts", "Accounts", "…", 800)])
    assert not lost.is_covered_by([Loss("accounts", "Accounts", "…", 950)])
    assert not lost.is_covered_by([Loss("groups", "Groups", "…", 10)])
    shorter = Loss("policy", "Night", "Minimum length: 14 → 12")
    assert shorter.is_covered_by([shorter])
    assert not shorter.is_covered_by([shorter._replace(text="Minimum length: 14 → 13")])
