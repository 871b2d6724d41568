"""Reports hold whatever names there are: nothing in them is markup, hides, or is lost."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from html import escape
from xml.etree import ElementTree

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.estate import Estate
from hornfels.core.findings.survey import findings
from hornfels.core.reports.policies import policy_parts
from hornfels.core.reports.report import DomainReport, FindingPart, Head
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.resolution.section import section
from hornfels.core.resolution.shared_groups import SharedGroups
from hornfels.core.values.text import printable
from hornfels.formats.reports.html import domain_html
from hornfels.formats.reports.section_svg import section_svg
from worlds import World, read, worlds

SVG = "{http://www.w3.org/2000/svg}"
NAMES = st.one_of(
    st.sampled_from(["<b>&\"'", "</svg><script>", "a\u202eb", "{{ 7 * 7 }}", "%s{0}", "W" * 200]),
    st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=40),
)


def mark(policy: int) -> int | None:
    return policy if policy >= 0 else None


def told(estate: Estate) -> tuple[DomainReport, str, str]:
    """The report of an estate: its parts, the page, and the drawing by itself."""
    resolution = resolve(estate)
    roster, shared = Roster(estate, resolution), SharedGroups(estate, resolution)
    nobody = np.empty(0, dtype=np.int64)
    drawn = section(estate, resolution, roster, shared, nobody, None)
    report = DomainReport(
        Head(estate.domain.dns_name, "a <dump>", None, datetime(2026, 11, 27, tzinfo=UTC)),
        estate,
        drawn,
        policy_parts(estate, resolution, drawn, mark),
        tuple(FindingPart(one) for one in findings(estate, resolution)),
        (),
    )
    return report, domain_html(report, mark), section_svg(estate, drawn, mark)


@given(worlds(), st.data())
def test_every_account_is_under_one_policy_and_every_name_is_text(
    world: World, data: st.DataObject
) -> None:
    estate = read(world).estate
    named = tuple(replace(p, name=data.draw(NAMES)) for p in estate.policies)
    estate = estate.with_policies(named, estate.links)
    report, page, drawing = told(estate)
    assert sum(part.accounts for part in report.policies) == len(estate.accounts)
    for part in report.policies:
        assert sum(group.count for group in part.under) == part.accounts
        assert escape(printable(part.name)) in page.replace("&#39;", "&#x27;").replace(
            "&#34;", "&quot;"
        )
    assert "<script" not in page
    assert "a &lt;dump&gt;" in page
    drawn = ElementTree.fromstring(drawing)  # noqa: S314 - our own
    texts = "".join(one.text or "" for one in drawn.iter(f"{SVG}text"))
    assert all(printable(policy.name)[:5] in texts for policy in estate.policies)


def test_a_drawing_has_room_for_the_largest_and_says_how_many_are_left() -> None:
    groups = [(2, True)] * 40
    accounts: list[tuple[int, int | None, int]] = [(0x200, None, 2000 + n) for n in range(40)]
    world = World(7, groups, accounts, {(f"a{n}", n) for n in range(40)})
    world.policies = [(n + 1, bytes([n] * 16), [f"g{n}"]) for n in range(40)]
    _, _, drawing = told(read(world).estate)
    drawn = ElementTree.fromstring(drawing)  # noqa: S314 - our own
    columns = drawn.findall(f"{SVG}g")
    assert "smaller populations are not drawn." in drawing
    assert len(columns) < 41
    # The row of a policy whose only account has no column is not empty.
    assert drawing.count("1 account in populations that are not drawn") == 40 - len(columns)
    width = float(drawn.get("width", 0))
    edges = [
        float(block.get("x", 0)) + float(block.get("width", 0))
        for column in columns
        for block in column.iter(f"{SVG}rect")
    ]
    assert max(edges) <= width
