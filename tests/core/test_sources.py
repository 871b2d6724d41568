"""The domain policy from its sources: the first that says something, enforced ones before the
others.
"""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.estate import Domain, Estate, GpoLink
from hornfels.core.domain.sources import answers, origins, rewritten
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.operations import EditSource, OrderSources, Said, SwitchSource, inverse
from hornfels.core.policy.catalogue import TemplateKey
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.dn import loose_key
from worlds import ROOT, World, read

PLAIN = read(World(7, [], [(0x200, None, 2000)])).estate


def gpo(number: int) -> str:
    return f"CN=gpo{number},CN=Policies,CN=System,{ROOT}"


@st.composite
def domains(draw: st.DrawFn) -> Domain:
    count = draw(st.integers(1, 4))
    links, templates = [], {}
    for number in range(count):
        links.append(
            GpoLink(
                ROOT if draw(st.integers(0, 5)) else f"OU=Place,{ROOT}",
                gpo(number),
                f"Source {number}",
                number + 1,
                draw(st.booleans()),
                draw(st.sampled_from([False, False, True])),
                draw(st.sampled_from([False, False, True])),
            )
        )
        values: dict[TemplateKey, st.SearchStrategy[int]] = {
            "min_length": st.integers(0, 14),
            "lockout_threshold": st.integers(0, 9),
            "audit_length": st.integers(1, 20),
        }
        templates[loose_key(gpo(number))] = {
            key: draw(value) for key, value in values.items() if draw(st.booleans())
        }
    return replace(PLAIN.domain, gpo_links=tuple(links), templates=templates)


def naive(domain: Domain, key: TemplateKey) -> tuple[str, object] | None:
    """Rank every link by hand and take the first that says something."""
    heard = []
    for link in domain.gpo_links:
        if link.container == ROOT and not link.disabled and not link.computer_part_disabled:
            said = domain.templates[loose_key(link.gpo)]
            if key in said:
                heard.append(((0 if link.enforced else 1, link.order), link.name, said[key]))
    return min(heard)[1:] if heard else None


@given(domains())
def test_the_first_source_that_says_something_wins_setting_by_setting(domain: Domain) -> None:
    for origin in origins(domain):
        expected = naive(domain, origin.key)
        assert (origin.link.name if origin.link else None) == (expected[0] if expected else None)
        assert not expected or origin.value == expected[1]
        talking = [
            ln
            for ln in domain.gpo_links
            if ln.container == ROOT and origin.key in domain.templates[loose_key(ln.gpo)]
        ]
        assert len(origin.ignored) == len(talking) - bool(expected)


@given(domains(), domains())
def test_only_what_changes_in_the_sources_is_written(before: Domain, other: Domain) -> None:
    after = rewritten(
        replace(before, gpo_links=other.gpo_links, templates=other.templates), answers(before)
    )
    for key in DEFAULTS.values():
        old, new = naive(before, key), naive(after, key)
        same = new is None or (old is not None and old[1] == new[1])
        assert getattr(after.settings, key) == (
            getattr(before.settings, key) if same else new and new[1]
        )


@given(domains(), st.data())
def test_source_operations_are_undone_and_found_by_comparison(
    domain: Domain, data: st.DataObject
) -> None:
    estate: Estate = replace(
        PLAIN, domain=rewritten(domain, answers(replace(domain, templates={})))
    )
    number = data.draw(st.integers(0, len(domain.gpo_links) - 1))
    template = domain.templates[loose_key(gpo(number))]
    was = (template["min_length"],) if "min_length" in template else ()
    ops: list[EditSource | OrderSources | SwitchSource] = [
        EditSource(
            gpo=gpo(number),
            changes={
                "min_length": Said(before=was, after=data.draw(st.sampled_from([(), (3,), (11,)])))
            },
        )
    ]
    at_root = tuple(link.gpo for link in domain.gpo_links if link.container == ROOT)
    if at_root:
        ops.append(OrderSources(before=at_root, after=tuple(data.draw(st.permutations(at_root)))))
        held = next(link.enforced for link in domain.gpo_links if link.gpo == at_root[0])
        ops.append(SwitchSource(gpo=at_root[0], what="enforced", before=held, after=not held))
    done = apply(estate, tuple(ops))
    assert not done.conflicts
    for origin in origins(done.estate.domain):
        if origin.link and origin.key == "min_length":
            assert done.estate.domain.settings.min_length == origin.value
    back = apply(done.estate, inverse(tuple(ops)))
    assert not back.conflicts
    assert {ln.gpo: ln for ln in back.estate.domain.gpo_links}.keys() == {
        ln.gpo: ln for ln in domain.gpo_links
    }.keys()
    assert [o.value for o in origins(back.estate.domain)] == [
        o.value for o in origins(estate.domain)
    ]
    found = differences(estate, done.estate)
    again = apply(estate, found)
    assert not again.conflicts
    assert again.estate.domain.settings == done.estate.domain.settings
    assert [o.value for o in origins(again.estate.domain)] == [
        o.value for o in origins(done.estate.domain)
    ]


def test_a_template_changed_meanwhile_is_a_conflict() -> None:
    domain = replace(
        PLAIN.domain,
        gpo_links=(GpoLink(ROOT, gpo(0), "Rules", 1, False, False, False),),
        templates={loose_key(gpo(0)): {"min_length": 9}},
    )
    late = EditSource(gpo=gpo(0), changes={"min_length": Said(before=(8,), after=(12,))})
    (conflict,) = apply(replace(PLAIN, domain=domain), (late,)).conflicts
    assert conflict.rebased == (
        EditSource(gpo=gpo(0), changes={"min_length": Said(before=(9,), after=(12,))}),
    )
    gone = EditSource(gpo=gpo(5), changes={"min_length": Said(before=(), after=(12,))})
    assert apply(PLAIN, (gone,)).conflicts[0].rebased is None
