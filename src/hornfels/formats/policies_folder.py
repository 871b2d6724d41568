"""Security templates in the folder of group policies that every domain shares ([MS-GPSB] 2.2,
[MS-GPOD]).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

from hornfels.core.policy.catalogue import Template
from hornfels.core.values.dn import first_value, loose_key
from hornfels.formats.template import MOST_BYTES, TemplateError, read_template

PLACE = ("Machine", "Microsoft", "Windows NT", "SecEdit", "GptTmpl.inf")
_GUID = re.compile(r"\{[0-9A-Fa-f-]{36}\}")


class TemplateFound(NamedTuple):
    """What came of one group policy object: its key, what it is called, its template, and what is
    wrong. Without a template and without anything wrong it says nothing of accounts.
    """

    key: str
    name: str
    template: Template | None
    problem: str

    def told(self) -> dict[str, Any]:
        return {"name": self.name, "read": self.template is not None, "problem": self.problem}


def templates_in(folder: Path, objects: Iterable[tuple[str, str]]) -> Iterator[TemplateFound]:
    """What the templates of these group policy objects say, given by DN and display name."""
    for dn, shown in objects:
        guid = first_value(dn)
        key, name = loose_key(dn), shown or guid
        if _GUID.fullmatch(guid) is None:
            yield TemplateFound(key, name, None, "Its name is no GUID, so it has no folder.")
            continue
        try:
            yield TemplateFound(key, name, *_template(folder, guid))
        except OSError as error:
            problem = f"{error.filename or folder}: {error.strerror or 'cannot be read'}."
            yield TemplateFound(key, name, None, problem)


def template_file(folder: Path, guid: str) -> bytes | None:
    """The template's file of one group policy object as it is, None where it has none. Raises
    `OSError`.
    """
    place = _place(folder, guid)
    return place.read_bytes() if isinstance(place, Path) else None


def _template(folder: Path, guid: str) -> tuple[Template | None, str]:
    place = _place(folder, guid)
    if not isinstance(place, Path):
        return None, place
    if place.stat().st_size > MOST_BYTES:
        return None, f"{place}: no template is that large."
    try:
        return read_template(place.read_bytes()), ""
    except TemplateError as error:
        return None, f"{place}: {error}"


def _place(folder: Path, guid: str) -> Path | str:
    """The template's file, or why it is not there: "" where the object has none."""
    if not folder.is_dir():
        return f"{folder} is not there: mount the domain share."
    place = _below(folder, guid)
    if place is None:
        return f"{folder / guid} is not there: the object has lost its files."
    for part in PLACE:
        found = _below(place, part)
        if found is None:
            return ""
        place = found
    return place


def _below(folder: Path, name: str) -> Path | None:
    """A file or folder by its name in whatever case: the share knows none."""
    exact = folder / name
    if exact.exists():
        return exact
    return next((one for one in folder.iterdir() if one.name.casefold() == name.casefold()), None)
