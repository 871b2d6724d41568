"""The versions of PostgreSQL that are installed on this machine, and their programs."""

from __future__ import annotations

import re
import shutil
import subprocess
from dataclasses import dataclass
from pathlib import Path

LIBRARY = Path("/usr/lib/postgresql")
"""Debian's packages install each major version in a folder of its own here."""


class ClusterError(RuntimeError):
    """PostgreSQL could not be found, made or started; the message says what to do."""


@dataclass(frozen=True)
class Programs:
    """The programs of one major version of PostgreSQL, in `folder`."""

    version: int
    folder: Path

    def __str__(self) -> str:
        return f"PostgreSQL {self.version}"


def installed(library: Path = LIBRARY) -> list[Programs]:
    """Return the installed versions, the oldest first. Without Debian's folder the version on the
    search path of this process is the only version. Raises `ClusterError` where none is installed.
    """
    found = [
        Programs(int(folder.name), folder / "bin")
        for folder in library.glob("*")
        if folder.name.isdecimal() and (folder / "bin" / "initdb").exists()
    ]
    if not found and (on_path := shutil.which("initdb")):
        found = [_of_program(Path(on_path).resolve())]
    if not found:
        raise ClusterError(
            "PostgreSQL is not installed; 'make setup' installs it, or: apt-get install postgresql"
        )
    return sorted(found, key=lambda programs: programs.version)


def programs_of(version: int, library: Path = LIBRARY) -> Programs | None:
    """Return the programs of exactly this major version, None where it is not installed."""
    return next((p for p in installed(library) if p.version == version), None)


def programs_for(version: int, library: Path = LIBRARY) -> Programs:
    """Return the programs that read and fill a server of this major version: its own, else the
    next newer, else the newest. A file that newer programs wrote does not fill an older server.
    """
    found = installed(library)
    return next((p for p in found if p.version >= version), found[-1])


def data_version(folder: Path) -> int | None:
    """Return the major version that wrote a data folder, None where there is no data. Raises
    `ClusterError` where the folder does not say its version.
    """
    file = folder / "PG_VERSION"
    try:
        written = file.read_text().strip()
    except FileNotFoundError:
        return None
    except (OSError, ValueError) as error:
        raise ClusterError(f"{file} cannot be read ({error}); restore a backup") from None
    if not re.fullmatch(r"[1-9]\d{0,3}", written):
        raise ClusterError(
            f"{file} does not hold a major version of PostgreSQL such as 15; restore a backup of "
            "the folder"
        )
    return int(written)


def _of_program(initdb: Path) -> Programs:
    said = subprocess.run([str(initdb), "--version"], capture_output=True, text=True, check=False)
    match = re.search(r"\d+", said.stdout)
    if match is None:
        raise ClusterError(f"{initdb} does not say its version; install Debian's postgresql")
    return Programs(int(match[0]), initdb.parent)
