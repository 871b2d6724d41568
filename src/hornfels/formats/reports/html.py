"""Reports as HTML: one file with its styles, that fetches nothing and runs nothing; and the letter
that one comes with.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, date, datetime
from functools import lru_cache
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape
from markupsafe import Markup

from hornfels.core.baselines.baseline import WHO
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.reports.report import ChangeReport, DomainReport, FindingPart, Mark
from hornfels.core.reports.schedule import Every
from hornfels.core.values.text import printable
from hornfels.formats.reports.looks import look_of
from hornfels.formats.reports.section_svg import section_svg

_MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]


def _day(at: date) -> str:
    return f"{at.day} {_MONTHS[at.month - 1]} {at.year}"


def _moment(at: datetime) -> str:
    at = at.astimezone(UTC)
    return f"{_day(at)}, {at:%H:%M} UTC"


def _swatch(mark: int | None) -> Markup:
    tile = look_of(mark).solid
    svg = (
        '<svg class="swatch" viewBox="0 0 14 14" aria-hidden="true"><defs>{}</defs>'
        '<rect width="14" height="14" rx="3" fill="url(#{})"/></svg>'
    )
    # The drawing above has the same patterns; a name of its own keeps them apart.
    return Markup(svg.format(tile.replace(f'id="s{mark}"', f'id="w{mark}"'), f"w{mark}"))  # noqa: S704


def _shown(value: Any) -> Any:
    """Text as it can be seen: what hides or turns it round stands there as an escape."""
    if not isinstance(value, str) or isinstance(value, Markup):
        return value
    return "\n".join(map(printable, value.split("\n")))


@lru_cache(maxsize=1)
def _environment() -> Environment:
    made = Environment(
        loader=PackageLoader("hornfels.formats", "reports"),
        # The letter is plain text.
        autoescape=select_autoescape(enabled_extensions=("html.j2",)),
        undefined=StrictUndefined,
        finalize=_shown,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters.update(day=_day, moment=_moment, number="{:,}".format, swatch=_swatch)
    return made


def domain_html(report: DomainReport, mark: Mark) -> str:
    """The report of a domain. `mark` numbers each policy's look."""
    drawing = section_svg(report.estate, report.section, mark)
    return (
        _environment()
        .get_template("domain.html.j2")
        .render(
            head=report.head,
            report=report,
            open_findings=_open(report),
            drawing=Markup(drawing),  # noqa: S704 - every text in it is escaped where it is made
            who=WHO,
        )
    )


def _open(report: DomainReport) -> list[FindingPart]:
    return [one for one in report.findings if one.accepted is None]


def cover(report: DomainReport, every: Every, gone: Sequence[str] = ()) -> str:
    """The letter that a report comes with, as plain text: what is most worth knowing of it, and
    which baselines that were asked for are `gone`.
    """
    made = _environment().get_template("cover.txt.j2")
    return made.render(report=report, open_findings=_open(report), every=every, gone=gone)


def change_html(report: ChangeReport) -> str:
    """The report of a publish."""
    labels = {key: one.label for key, one in BY_KEY.items()}
    return (
        _environment()
        .get_template("change.html.j2")
        .render(head=report.head, report=report, labels=labels)
    )
