"""Templates of servers as files: which server a file is of, the files of a folder that is kept for
them, and corrected ones to take back.
"""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterable, Iterator
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from hornfels.core.policy.catalogue import Template
from hornfels.formats.template import write_template

EXTENSION = ".inf"
MOST_NAME = 64
MOST_FILES = 5000
"""Entries of one folder that are looked at."""

IMPORT = (
    'secedit /export /cfg "%~dp0%COMPUTERNAME%-before.inf" /areas SECURITYPOLICY\r\n'
    'secedit /configure /db "%TEMP%\\%COMPUTERNAME%-%RANDOM%.sdb" '
    '/cfg "%~dp0%COMPUTERNAME%.inf" /areas SECURITYPOLICY\r\n'
)
"""Two lines for a server's own command line, in the folder of the corrected files: keep what is
there, then take the file that is called as the server is.
"""

_UNFIT = re.compile(r'[\x00-\x1f\x7f\ud800-\udfff<>:"/\\|?*]')


def server_of(path: str) -> str:
    """Which server a file is of, by its path below the folder of them all: the file itself bears
    the name, or the folder that it lies in. Raises ValueError for what can be no server's name.
    """
    parts = PurePosixPath(path.replace("\\", "/")).parts
    name = parts[0] if parts else ""
    if len(parts) == 1 and name.lower().endswith(EXTENSION):
        name = name[: -len(EXTENSION)]
    name = name.strip()
    if not _fits(name):
        raise ValueError(
            "a server's file is called as the server is, with .inf behind it, or lies in a folder "
            f'of its name: at most {MOST_NAME} characters, none of them < > : " / \\ | ? *'
        )
    return name


def _fits(name: str) -> bool:
    return 0 < len(name) <= MOST_NAME and name not in (".", "..") and not _UNFIT.search(name)


class ServerFile(NamedTuple):
    """A file of a server in a folder, or what is wrong there."""

    group: str
    server: str
    file: Path
    problem: str = ""


def server_files(folder: Path) -> Iterator[ServerFile]:
    """The files in a folder: a folder for each set of servers, in it a file for each server, or a
    folder with one file. What cannot be understood comes with its problem; raises nothing.
    """
    taken: dict[str, set[str]] = {}
    for group in _inside(folder):
        if isinstance(group, ServerFile):
            yield group
        elif not group.is_dir():
            if group.suffix.lower() == EXTENSION:
                yield ServerFile("", "", group, "It lies in no set: put it into a folder of one.")
        elif not _fits(group.name.strip()):
            yield ServerFile("", "", group, "No set can be called so. Give it a shorter name.")
        else:
            # Folders that differ in case alone are one set.
            named = taken.setdefault(group.name.strip().casefold(), set())
            for one in _of_set(group):
                if one.server and one.server.casefold() in named:
                    problem = f"There is another file for {one.server}. Take one of them away."
                    one = ServerFile(group.name, "", one.file, problem)
                named.add(one.server.casefold())
                yield one


def _of_set(group: Path) -> Iterator[ServerFile]:
    for entry in _inside(group):
        if isinstance(entry, ServerFile):
            yield entry
            continue
        files = (
            [entry] if not entry.is_dir() else [p for p in _inside(entry) if isinstance(p, Path)]
        )
        for file in files:
            if file.suffix.lower() != EXTENSION or not file.is_file():
                continue
            try:
                server = server_of(file.relative_to(group).as_posix())
            except ValueError as error:
                yield ServerFile(group.name, "", file, f"{error}.")
            else:
                yield ServerFile(group.name.strip(), server, file)


def _inside(folder: Path) -> Iterator[Path | ServerFile]:
    try:
        entries = sorted(folder.iterdir())
    except OSError as error:
        yield ServerFile("", "", folder, f"It cannot be read: {error.strerror}.")
        return
    if len(entries) > MOST_FILES:
        yield ServerFile(
            "", "", folder, f"It has more than {MOST_FILES:,} entries; the rest waits."
        )
    yield from (entry for entry in entries[:MOST_FILES] if not entry.name.startswith("."))


def corrected_files(differing: Iterable[tuple[str, bytes]], wanted: Template) -> bytes:
    """A zip archive of servers' files with the account settings that are wanted, all else in them
    as it is, and the two lines that take one in.
    """
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, file in differing:
            archive.writestr(f"{name}{EXTENSION}", write_template(wanted, file))
        archive.writestr("import.cmd", IMPORT)
    return made.getvalue()
