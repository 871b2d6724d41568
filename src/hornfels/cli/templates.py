"""`hornfels templates`: security templates compared with one another, and corrected."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from hornfels.cli.errors import bytes_of, fail, json_line, say
from hornfels.core.drafts.sentences import said_text
from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS, Template
from hornfels.core.servers.agreement import Answer, Row, agreement, compared
from hornfels.formats.server_files import corrected_files, server_of
from hornfels.formats.template import (
    MOST_BYTES,
    TemplateError,
    in_units,
    read_template,
    write_template,
)


def _bytes(file: Path) -> bytes:
    data = bytes_of(file, MOST_BYTES)
    if len(data) > MOST_BYTES:
        fail(f"{file}: larger than {MOST_BYTES:,} bytes; no security template is")
    return data


def _read(file: Path, data: bytes) -> Template:
    try:
        return read_template(data)
    except TemplateError as error:
        fail(f"{file}: {error}")


def compare(files: list[Path], reference: Path | None, *, as_json: bool) -> None:
    """What the templates say of each setting, and whether they agree; status 1 if not."""
    names = [str(file) for file in files]
    if len(set(names)) < len(names):
        fail("a file is named twice; name each once")
    templates = [_read(file, _bytes(file)) for file in files]
    like = _read(reference, _bytes(reference)) if reference else None
    rows = compared(templates, like)
    for row in rows:
        if as_json:
            print(json_line(_plain(row, names)))
        else:
            say(_line(row, names))
    raise SystemExit(0 if all(row.agree for row in rows) else 1)


def _plain(row: Row, names: list[str]) -> dict[str, Any]:
    setting = TEMPLATE_SETTINGS[row.key]
    answers = [in_units(row.key, said[0]) if said else None for said in row.answers]
    return {
        "section": setting.template_section,
        "key": setting.template_key,
        "values": dict(zip(names, answers, strict=True)),
        "agree": row.agree,
    }


def _line(row: Row, names: list[str]) -> str:
    def words(said: Answer) -> str:
        return said_text(row.key, said)

    label = TEMPLATE_SETTINGS[row.key].label
    if row.agree:
        return f"✓ {label}: {words(row.wanted)}"
    odd = [
        f"{name} {words(said)}"
        for name, said in zip(names, row.answers, strict=True)
        if said != row.wanted
    ]
    total = len(names)
    return f"✕ {label}: {words(row.wanted)} in {row.like} of {total}; {', '.join(odd)}"


def correct(file: Path, like: Path) -> None:
    """Write a template with the account settings of another one, all else as it is."""
    data, reference = _bytes(file), _read(like, _bytes(like))
    try:
        fresh = write_template(reference, data)
    except TemplateError as error:
        fail(f"{file}: {error}")
    sys.stdout.buffer.write(fresh)
    sys.stdout.buffer.flush()


def correct_all(files: list[Path], reference: Path | None, archive: Path) -> None:
    """Write a zip archive of the templates that differ from the reference, or from what most say,
    as they should be, with the lines that take one in; status 1 if none differs.
    """
    held: dict[str, bytes] = {}
    for file in files:
        try:
            name = server_of(file.name)
        except ValueError as error:
            fail(f"{file}: {error}")
        if name.casefold() in map(str.casefold, held):
            fail(f"{file}: there is another file for {name}; name each server once")
        held[name] = _bytes(file)
    like = _read(reference, _bytes(reference)) if reference else None
    read = {name: _read(file, held[name]) for file, name in zip(files, held, strict=True)}
    found = agreement(read, like)
    tied = [TEMPLATE_SETTINGS[row.key].label for row in found.rows if row.tied]
    if tied:
        fail(f"as many say one thing as another of: {', '.join(tied)}; name a --reference")
    differing = [(name, data) for name, data in held.items() if found.odd[name]]
    if not differing:
        say("All of them agree: nothing is written.")
        raise SystemExit(1)
    try:
        archive.write_bytes(corrected_files(differing, found.wanted))
    except OSError as error:
        fail(f"{archive}: {error.strerror}")
    say(f"{archive}: {len(differing)} of {len(held)} corrected")
