"""The tables of security requirements name tests that there are."""

from __future__ import annotations

import re
from pathlib import Path

ROOT = Path(__file__).parent.parent
REQUIREMENT = re.compile(r"\d+\.\d+(\.\d+)?")


def rows(page: str) -> list[list[str]]:
    """Return the cells of all table rows of a page, without headings."""
    lines = (ROOT / page).read_text().splitlines()
    found = [
        [cell.strip() for cell in line.strip("|").split("|")] for line in lines if line[:2] == "| "
    ]
    return [cells for cells in found if cells[0] not in ("no.", "law")]


def test_each_requirement_is_there_once_with_an_answer() -> None:
    found = rows("docs/asvs.md")
    assert len(found) > 150
    for number, _, met, how, test in found:
        assert met in ("yes", "in part", "no", "n/a"), number
        assert met == "yes" or how, f"{number} is not met for no reason"
        assert test == "–" or met != "n/a", number
    numbers = [cells[0] for cells in found]
    assert len(numbers) == len(set(numbers))


def test_tests_that_are_named_exist() -> None:
    for page in ("docs/asvs.md", "SECURITY.md"):
        for path in re.findall(r"`(tests/[^`]*)`", (ROOT / page).read_text()):
            assert (ROOT / path).exists(), f"{page} names {path}"


def test_laws_name_requirements_of_the_table() -> None:
    known = {cells[0] for cells in rows("docs/asvs.md")}
    for law, _, named in rows("SECURITY.md"):
        assert REQUIREMENT.search(named), law
        assert set(named.split(", ")) <= known, law
