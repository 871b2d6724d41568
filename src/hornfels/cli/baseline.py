"""`hornfels baseline`: how far a dump follows recommendations, without a database."""

from __future__ import annotations

from pathlib import Path

from hornfels.cli.errors import bytes_of, fail, json_line, say
from hornfels.cli.policy_files import refuse
from hornfels.cli.resolve import read_estate
from hornfels.core.baselines.assessing import Assessment, assess
from hornfels.core.baselines.baseline import WHO, Baseline
from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.resolution.engine import resolve
from hornfels.formats.baselines.reading import SHIPPED, read_baseline, shipped
from hornfels.formats.yaml_tree import MOST_BYTES, YamlError

_MARKS = {"met": "✓", "not met": "✕", "cannot tell": "?", "not applicable": "·"}


def print_assessment(file: Path, name: str, linked_groups: LinkedGroups, *, as_json: bool) -> None:
    baseline = baseline_of(name)
    estate = read_estate(file, linked_groups)
    for one in assess(baseline, estate, resolve(estate)):
        if as_json:
            print(json_line(_plain(one)))
        else:
            say(_line(one))


def baseline_of(name: str) -> Baseline:
    """A shipped baseline by its name, or one from a file."""
    if name in SHIPPED:
        return shipped(name)
    path = Path(name)
    if name != "-" and not path.suffix:
        fail(f"there is no baseline {name}; known are {', '.join(SHIPPED)}, or give a file")
    try:
        return read_baseline(bytes_of(path, MOST_BYTES))
    except YamlError as error:
        refuse(path, error)


def _plain(one: Assessment) -> dict[str, object]:
    return {
        "recommendation": one.recommendation.key,
        "text": one.recommendation.text,
        "for": one.recommendation.who,
        "state": one.state,
        "accounts": {state.replace(" ", "_"): n for state, n in one.accounts.items()},
        "measured": one.measured,
        "wanted": one.recommendation.wants.text(),
    }


def _line(one: Assessment) -> str:
    count = one.accounts
    told = ", ".join(f"{n:,} {state}" for state, n in count.items() if n and state in _SAID)
    wanted = f"wanted {one.recommendation.wants.text()}"
    found = f"; found {one.measured}" if one.measured else ""
    who = WHO[one.recommendation.who]
    return (
        f"{_MARKS[one.state]} {one.recommendation.text} ({who}): {told or 'nobody is meant'}; "
        f"{wanted}{found}"
    )


_SAID = ("met", "not met", "cannot tell")
