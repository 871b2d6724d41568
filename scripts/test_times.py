"""Print where the time of the last test run went, from the file that `make test` writes."""

from __future__ import annotations

import sys
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree

REPORT = Path("test-results/tests.xml")
SLOWEST = 40


@dataclass(frozen=True)
class TestTime:
    """One test: its folder, its name, the seconds of its set-up and of all of it."""

    folder: str
    name: str
    set_up: float
    whole: float


def read_times(report: Path) -> list[TestTime]:
    """Return the tests of a JUnit file."""
    found = []
    for case in ElementTree.parse(report).iter("testcase"):  # noqa: S314 - our own file
        properties = {one.get("name"): one.get("value") for one in case.iter("property")}
        place = case.get("classname", "").removeprefix("tests.").split(".")
        folder = place[0] if len(place) > 1 else "(top)"
        name = f"{'.'.join(place)}::{case.get('name')}"
        set_up = float(properties.get("set-up") or 0)
        found.append(TestTime(folder, name, set_up, float(case.get("time") or 0)))
    return found


def main() -> int:
    if not REPORT.exists():
        print(f"{REPORT} is not there; run 'make test' or 'make test-all' first", file=sys.stderr)
        return 2
    times = read_times(REPORT)
    folders: dict[str, list[TestTime]] = defaultdict(list)
    for one in times:
        folders[one.folder].append(one)
    print(f"{'folder':<12}{'tests':>7}{'set-up s':>11}{'whole s':>10}")
    for folder, held in sorted(folders.items(), key=lambda pair: -sum(t.whole for t in pair[1])):
        _line(folder, held)
    _line("all", times)
    print(f"\nThe {SLOWEST} slowest, in seconds: set-up, whole, test")
    for one in sorted(times, key=lambda t: -t.whole)[:SLOWEST]:
        print(f"{one.set_up:>8.1f}{one.whole:>8.1f}  {one.name}")
    return 0


def _line(folder: str, held: list[TestTime]) -> None:
    set_up, whole = sum(t.set_up for t in held), sum(t.whole for t in held)
    print(f"{folder:<12}{len(held):>7}{set_up:>11.0f}{whole:>10.0f}")


if __name__ == "__main__":
    sys.exit(main())
