"""Policies for a report: in words, with everybody who is under each and why."""

from __future__ import annotations

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.sentences import value_text
from hornfels.core.passwords.card import card
from hornfels.core.passwords.rules.rule import ANYBODY
from hornfels.core.policy.catalogue import CATALOGUE
from hornfels.core.reports.report import Mark, PolicyPart, Under
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution
from hornfels.core.resolution.reach import Reach, link_name, link_trouble
from hornfels.core.resolution.section import Population, Section

_EXEMPT = "exempt from fine-grained policies"
_REST = "no fine-grained policy reaches them"


def policy_parts(
    estate: Estate, resolution: Resolution, section: Section, mark: Mark
) -> tuple[PolicyPart, ...]:
    """Every policy in the order of evaluation, the domain policy last."""
    parts = [_part(estate, section, policy, how, mark) for policy, how in section.layers]
    governed = int(resolution.governed(DOMAIN_POLICY))
    return (*parts, _part(estate, section, DOMAIN_POLICY, None, mark, governed))


def _part(
    estate: Estate,
    section: Section,
    policy: int,
    how: Reach | None,
    mark: Mark,
    governed: int = 0,
) -> PolicyPart:
    settings = settings_of(estate, policy)
    values = settings.values()
    told = card(settings, ANYBODY, addition=addition_of(estate, policy))
    ways = (f"As a {way.path}: {line.text}" for way in told.ways for line in way.lines)
    links = [link for link in estate.links if link.policy == policy]
    named = ((link_name(estate, link), link_trouble(estate, link)) for link in links)
    return PolicyPart(
        name="Domain policy" if how is None else estate.policies[policy].name,
        precedence=None if how is None else estate.policies[policy].precedence,
        mark=mark(policy),
        accounts=governed if how is None else how.governed,
        settings=tuple((one.label, value_text(one, values[one.key])) for one in CATALOGUE),
        words=(*(line.text for line in told.must), *ways, *told.later),
        links=tuple(f"{name} ({why}: does not count)" if why else name for name, why in named),
        under=tuple(
            Under(one.who, one.count, _why(one))
            for one in sorted(section.populations, key=lambda one: -one.count)
            if one.winner == policy
        ),
        trouble=() if how is None else tuple(_troubles(estate, how)),
    )


def _why(one: Population) -> str:
    if one.winner == DOMAIN_POLICY:
        return _EXEMPT if one.source == "exempt" else _REST
    return next(cell.reason for cell in one.cells if cell.holds).partition(": ")[2].rstrip(".")


def _troubles(estate: Estate, how: Reach) -> list[str]:
    found = [how.idle] if how.idle else []
    for tie in how.ties:
        other = estate.policies[tie.other].name
        which = "this one" if tie.wins else other
        found.append(
            f"{other} has the same number; {which} comes first by the smaller object GUID"
            + (f", which decides for {tie.contested:,} accounts." if tie.contested else ".")
        )
    return found
